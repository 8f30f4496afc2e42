export { pickingHandlers } from './routes.ts';
export { makeRound } from './make-round.ts';
export { lockPick, pickAtStop, takeAtStop } from './pick.ts';
export { putDownRound } from './put-down.ts';
export { putOrderBack } from './put-back.ts';
export { reportTrouble } from './trouble.ts';
export { undoPick } from './undo-pick.ts';
export { askForCount, KEPT_SERIALS, NAMED_SERIALS } from './store.ts';
export { pickSheet } from './pick-sheet.ts';
