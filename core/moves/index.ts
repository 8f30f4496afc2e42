export { chooseStock, type LyingStock, type SaidOfGoods } from './choose-stock.ts';
export { suggestPutAway, type PutAwayCandidate, type PutAwaySuggestion, type PutAwayWhy } from './put-away.ts';
export { movesSentence, type MovesError } from './errors.ts';
export {
  moveDeltasOf,
  movesSaid,
  ownMoves,
  stepMove,
  suggestFor,
  type MoveAt,
  type MoveChoice,
  type MoveDoes,
  type MoveDoubt,
  type MoveSource,
  type MovesSaid,
  type OwnMove,
} from './hands.ts';
