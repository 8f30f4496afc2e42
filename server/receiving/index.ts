export { receivingHandlers } from './routes.ts';
export { beginDelivery, beginReturn } from './begin.ts';
export { inspectEntry, photographEntry } from './inspect.ts';
export { placeEntry } from './where-to.ts';
export { receiptPaper } from './invoice.ts';
export { importReceipt } from './import-receipt.ts';
export { changeEntry, enterGoods, finishDelivery, namePaper, takeOutEntry, type Floor } from './enter.ts';
export { findDeliveryId, findFollowUp, selectDeliveryOfEntry, updateDateOfLot } from './store.ts';
