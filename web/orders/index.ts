export { Orders } from './orders.tsx';
export { OrderPage } from './order-page.tsx';
export { NewOrder } from './new-order.tsx';
