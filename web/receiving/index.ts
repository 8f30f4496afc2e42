export { ExpectedOrders } from './expected.tsx';
export { Deliveries } from './deliveries.tsx';
export { Review } from './review.tsx';
