export { countingHandlers } from './routes.ts';
export { makeCount, postCount } from './count.ts';
export { changeTally, enterTally, lockCountBin, sayOfBin } from './tally.ts';
export { lockOpenCount, selectMovedSince, takeOutOthersTallies, takeOutTally } from './store.ts';
