export { OrdersFrame } from './frame.tsx';
export { Orders } from './orders.tsx';
export { OrderPage } from './order-page.tsx';
export { NewOrder } from './new-order.tsx';
export { Customers } from './customers.tsx';
export { OrderImport } from './import-orders.tsx';
