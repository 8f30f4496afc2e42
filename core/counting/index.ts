export {
  reckonDifferences,
  type CountedKey,
  type Tally,
  type ExpectedStock,
  type SinceStart,
  type CountDifference,
  type DifferenceState,
  type BinVerdict,
} from './differences.ts';
export { countingSentence, type CountingError } from './errors.ts';
export {
  COUNT_BEGINS,
  countingSaid,
  foldCount,
  isCounted,
  ownTallies,
  stepCount,
  totalIn,
  type CountAsks,
  type CountAt,
  type CountChoice,
  type CountDoes,
  type CountingSaid,
  type CountJob,
  type HandTally,
} from './hands.ts';
