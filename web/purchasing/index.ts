export { PurchasingFrame } from './frame.tsx';
export { Purchases } from './purchases.tsx';
export { NewPurchase } from './new-purchase.tsx';
export { PurchasePage } from './purchase-page.tsx';
export { PurchaseImport } from './import-purchases.tsx';
export { Reorder } from './reorder.tsx';
export { Suppliers } from './suppliers.tsx';
