export { ordersHandlers } from './routes.ts';
export { trimAllPromises, promiseOrders } from './promising.ts';
export { findOrder, lockOpenOrder, lockOrders, reopenPacking, selectOrderRows, type OrderListRow } from './store.ts';
