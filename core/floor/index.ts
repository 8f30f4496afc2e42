export type { AnnouncedGoods, AnnouncedUnit, BinFact, BinUse, ContentFact, Facts, ItemFact, LotFact, PackFact, UnitFact } from './facts.ts';
export { foldName, numberedKind, type NumberedKind } from './name.ts';
export { goodsOfSerial, isDoubtful, keyedLabel, labelFor, lotUnread, lotUnreadSentence, meaningBy, type Meaning } from './meaning.ts';
export { FactBook, moveDeltas, type BalanceFact, type ContentDelta } from './fact-book.ts';
export { isUnlikely, type HandEvent, type Stamp, type Stepped, type Tone } from './step.ts';
export { meaningWords, shortSscc } from './words.ts';
