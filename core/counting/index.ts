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
