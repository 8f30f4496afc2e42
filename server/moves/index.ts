export { movesHandlers } from './routes.ts';
export { moveGoods, type Moving } from './move-goods.ts';
export { moveUnit, type MovingUnit } from './move-unit.ts';
