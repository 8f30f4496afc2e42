export { movesHandlers } from './routes.ts';
export { moveGoods, type Moving, selectLying } from './move-goods.ts';
export { suggestBins, type Homeless } from './suggest-bins.ts';
export { moveUnit, type MovingUnit } from './move-unit.ts';
