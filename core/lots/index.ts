export { isExpired, daysLeft, compareFirstExpired, addMonths, hasLittleLife, LEAST_LIFE_SHARE, type Dated } from './expiry.ts';
export { lotsSentence, type LotsError } from './errors.ts';
export { decideRelabel, type RelabelCommand, type RelabelFacts } from './relabel.ts';
export { decideWorkOff, type ExpiredStock } from './work-off.ts';
