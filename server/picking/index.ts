export { pickingHandlers } from './routes.ts';
export { makeRound } from './make-round.ts';
export { pickAtStop } from './pick.ts';
export { putDownRound } from './put-down.ts';
