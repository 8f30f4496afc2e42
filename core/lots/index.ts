export { isExpired, daysLeft, compareFirstExpired, addMonths, type Dated } from './expiry.ts';
