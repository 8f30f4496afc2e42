export { purchaseStateWord, purchasingSentence, type PurchaseState, type PurchasingError } from './errors.ts';
export {
  canNow,
  decideLines,
  decidePurchaseState,
  type LineChange,
  type PurchaseAct,
  type PurchasedItem,
  type PurchaseLine,
  type WantedLine,
} from './purchase-order.ts';
export { reckonReorder, type Reorder, type ReorderFacts, type ReorderReason } from './reorder.ts';
export { isUnitCode, unitCodeOf } from './unit-code.ts';
export { judgePurchaseSheet, PURCHASE_COLUMNS, type KnownForPurchases, type SheetItem, type SheetOrder } from './order-sheet.ts';
