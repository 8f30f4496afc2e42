export { ordersHandlers } from './routes.ts';
export { importOrders } from './import-orders.ts';
export { trimAllPromises, promiseOrders } from './promising.ts';
export {
  addPromises,
  findOrder,
  insertLines,
  insertOrder,
  lockOpenOrder,
  lockOrders,
  reopenPacking,
  selectExtras,
  selectOnItsWay,
  selectOrderRows,
  updateCancelled,
  updateHeldFor,
  type LockedOrder,
  type OrderListRow,
} from './store.ts';
export { selectKitOrder, selectKitParts, selectMaking, type KitOrderRow } from './store-kits.ts';
export { changeHead } from './change-head.ts';
export { addLines, checkLines, makeOrder } from './make-order.ts';
export { selectKnownForOrders } from './import-orders.ts';
export { LARGEST_PAPER, readUblPaper } from './ubl-paper.ts';
export { findCustomer } from './store-customers.ts';
