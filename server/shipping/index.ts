export { shippingHandlers } from './routes.ts';
export { orderSlip } from './slip.ts';
export { packOrder, shipOrder } from './ship-order.ts';
