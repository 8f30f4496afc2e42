export { SentOrders } from './sent-orders.tsx';
