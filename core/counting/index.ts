export {
  reckonDifferences,
  type CountedKey,
  type Tally,
  type ExpectedStock,
  type SinceStart,
  type CountDifference,
  type BinVerdict,
} from './differences.ts';
export { countingSentence, type CountingError } from './errors.ts';
