export { ordersHandlers } from './routes.ts';
export { importOrders } from './import-orders.ts';
export { trimAllPromises, promiseOrders } from './promising.ts';
export {
  findOrder,
  insertLines,
  insertOrder,
  lockOpenOrder,
  lockOrders,
  reopenPacking,
  selectExtras,
  selectOrderRows,
  updateCancelled,
  type OrderListRow,
} from './store.ts';
export { checkLines } from './make-order.ts';
export { findCustomer } from './store-customers.ts';
