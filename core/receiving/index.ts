export { compareDelivery, type Expected, type Entry, type Comparison, type ComparisonLine, type LineStanding } from './compare.ts';
export { decideEntry, type EntryCommand, type EntryFacts, type AcceptedEntry } from './entry.ts';
export { receivingSentence, type ReceivingError } from './errors.ts';
export { settleLines, type OpenPurchaseLine, type SettledLine } from './settle.ts';
export {
  foldDelivery,
  lineOf,
  linesOf,
  ownEntries,
  RECEIVE_BEGINS,
  receivingSaid,
  stepReceive,
  type DeliveryJob,
  type HandEntry,
  type ReceiveAsks,
  type ReceiveAt,
  type ReceiveChoice,
  type ReceiveDoes,
  type ReceivingSaid,
} from './hands.ts';
