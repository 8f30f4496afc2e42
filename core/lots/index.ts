export { isExpired, daysLeft, compareFirstExpired, addMonths, hasLittleLife, LEAST_LIFE_SHARE, type Dated } from './expiry.ts';
