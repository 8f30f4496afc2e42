export { ordersHandlers } from './routes.ts';
export { trimAllPromises, promiseOrders } from './promising.ts';
export { findOrder, selectOrderRows, type OrderListRow } from './store.ts';
