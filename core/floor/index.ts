export type { BinFact, BinUse, ContentFact, Facts, ItemFact, LotFact, PackFact } from './facts.ts';
export { foldName, numberedKind, type NumberedKind } from './name.ts';
export { goodsOfSerial, isDoubtful, keyedLabel, labelFor, meaningBy, type Meaning } from './meaning.ts';
export { FactBook, moveDeltas, type ContentDelta } from './fact-book.ts';
export { isUnlikely, type HandEvent, type Stamp, type Stepped, type Tone } from './step.ts';
export { meaningWords } from './words.ts';
