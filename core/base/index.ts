export { assertNever } from './never.ts';
export { addDays, readDay, writeDay } from './day.ts';
export { ok, fail, type Result } from './result.ts';
export type { Branded } from './brand.ts';
export type { SiteId, ZoneId, BinId, ItemId, LotId, SerialId, UnitId, OrderId, LineId, PersonId, DocumentId } from './ids.ts';
export {
  parseQty,
  formatQty,
  qty,
  addQty,
  subQty,
  maxQty,
  minQty,
  sumQty,
  isWholeStep,
  ZERO,
  ONE,
  type Qty,
  type QtyError,
} from './quantity.ts';
export { findColumns, isColumnTitle, columnsSentence, readYesNo, type WantedColumn, type ColumnsFault } from './columns.ts';
export { formatAmount, moneyText, NO_AMOUNT, parseAmount, roundAmount, shareOf, sumAmounts, worthOf, type Amount } from './money.ts';
export { seeded, type Random } from './random.ts';
