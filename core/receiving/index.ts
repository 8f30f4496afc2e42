export { compareDelivery, type Expected, type Entry, type Comparison, type ComparisonLine, type LineStanding } from './compare.ts';
export { decideEntry, type EntryCommand, type EntryFacts, type AcceptedEntry } from './entry.ts';
export { receivingSentence, type ReceivingError } from './errors.ts';
export { settleLines, type OpenPurchaseLine, type SettledLine } from './settle.ts';
