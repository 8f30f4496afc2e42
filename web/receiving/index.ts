export { ExpectedOrders } from './expected.tsx';
export { Deliveries } from './deliveries.tsx';
export { ReceiptImport } from './import-receipt.tsx';
export { Review } from './review.tsx';
export { Failures } from './failures.tsx';
export { TakeBack } from './take-back.tsx';
export { NoticePage, Notices } from './notices.tsx';
