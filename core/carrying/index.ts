export { carryingSentence, type CarryingError } from './errors.ts';
export { decideRefill, REFILL_WHY, type Face, type RefillWant, type RefillWhy } from './refill.ts';
export {
  carryDeltasOf,
  carryStops,
  foldCarry,
  isCarried,
  ownCarried,
  putOf,
  serialsOnCart,
  takenOf,
  toPut,
  toTake,
  type Carried,
  type CarryDoes,
  type CarryJob,
  type CarryKind,
  type CarryStop,
  type CarryTask,
  type CarryTrouble,
  type Leg,
} from './job.ts';
export { CARRY_BEGINS, carryStop, carryWay, stepCarry, type CarryAsks, type CarryAt, type CarryChoice } from './hands.ts';
export { carrySaid, type CarrySaid } from './said.ts';
