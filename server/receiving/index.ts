export { receivingHandlers } from './routes.ts';
export { changeEntry, enterGoods, finishDelivery, takeOutEntry, type Floor } from './enter.ts';
export { findFollowUp, updateDateOfLot } from './store.ts';
