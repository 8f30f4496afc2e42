export { chooseStock, type LyingStock, type SaidOfGoods } from './choose-stock.ts';
export { PUT_AWAY_WHY, suggestPutAway, type PutAwayCandidate, type PutAwaySuggestion, type PutAwayWhy } from './put-away.ts';
export { movesSentence, type MovesError } from './errors.ts';
export { moveDeltasOf, movesSaid, ownMoves, stepMove, type OwnMove } from './hands.ts';
export type { MoveAt, MoveChoice, MoveDoes, MoveSource, MovesSaid } from './move-at.ts';
export { doubtOf, doubtWords, type MoveDoubt, type Putting } from './doubt.ts';
export { suggestFor } from './suggest.ts';
export { suggestForUnit } from './step-unit.ts';
export {
  ADJUST_BEGINS,
  adjustDeltasOf,
  adjustSaid,
  lyingOf,
  NO_NOTE,
  ownAdjustments,
  stepAdjust,
  type AdjustAt,
  type AdjustChoice,
  type AdjustDoes,
  type AdjustNote,
  type AdjustSaid,
  type OwnAdjustment,
} from './adjusting.ts';
