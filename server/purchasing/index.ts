export { purchasingHandlers, givePurchaseUbl } from './routes.ts';
export { purchasePaper } from './order-paper.ts';
export { importPurchases } from './import-purchases.ts';
