export { OUTSIDE, isOutside, FIRST_REAL_BIN } from './outside.ts';
export {
  CONDITIONS,
  reverseMovement,
  applyMovements,
  movementKeys,
  type Condition,
  type Movement,
  type Place,
  type StockKey,
} from './movement.ts';
export { compareKeys, keyText } from './key.ts';
export { planPosting, decidePosting, type KeyDelta, type PostingPlan, type PlanFault } from './posting.ts';
export { reckonEquation, type Equation, type StockFact } from './equation.ts';
export { decidePromise, decideCuts, type PromiseMode, type PromiseWish, type PromiseGrant, type HeldPromise } from './promise.ts';
export { stockSentence, type StockError } from './errors.ts';
