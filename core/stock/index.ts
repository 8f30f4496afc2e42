export { decideAdjustment, type AdjustCommand, type AdjustError, type AdjustFacts, type Adjusting } from './adjust.ts';
export { OUTSIDE, isOutside, FIRST_REAL_BIN } from './outside.ts';
export { reverseMovement, applyMovements, movementKeys, type Movement, type Place } from './movement.ts';
export { compareKeys, CONDITIONS, keyText, type Condition, type StockKey } from './key.ts';
export {
  planPosting,
  decidePosting,
  checkMovements,
  type KeyDelta,
  type PostingPlan,
  type PlanFault,
  type PostingFacts,
} from './posting.ts';
export {
  applyStandingHolds,
  coveringHold,
  decideHold,
  decideRelease,
  type CatchingPlace,
  type Caught,
  type HeldGoods,
  type HeldPieces,
  type Release,
  type StandingHold,
} from './holds.ts';
export { isOpening, missingLoose, takeOutOfUnits, unitsFilled, type InUnit } from './units.ts';
export { reckonEquation, type Equation, type StockFact } from './equation.ts';
export {
  decidePromise,
  decideCuts,
  FreeGoods,
  poolOf,
  type Pool,
  type PromiseMode,
  type PromiseWish,
  type PromiseGrant,
  type HeldPromise,
  type StandingPromise,
} from './promise.ts';
export { stockSentence, type StockError } from './errors.ts';
export { Allotment, ASKS_NOTHING, asksNothing, isAskedFor, keyOf as askingKey, type Asking, type Claim, type Lying } from './allot.ts';
