export { ordersHandlers } from './routes.ts';
export { trimAllPromises, promiseOrders } from './promising.ts';
export { findOrder, lockOpenOrder, lockOrders, reopenPacking, selectOrderRows, updateCancelled, type OrderListRow } from './store.ts';
