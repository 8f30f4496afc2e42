export { shippingHandlers } from './routes.ts';
export { deliveryNote, orderSlip } from './slip.ts';
export { packOrder, shipOrder, unpackOrder } from './ship-order.ts';
