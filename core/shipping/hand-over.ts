import { fail, formatQty, isWholeStep, ok, ONE, type Qty, type Result } from '#core/base';
import { needsSerialToShip, type Tracking } from '#core/items';
import type { Condition } from '#core/stock';
import type { ShippingError } from './errors.ts';

/** Goods that somebody hands over, as they lie in a bin. Quantities in thousandths of the base unit. */
export type HandedOver = {
  readonly item: string;
  readonly bin: string;
  readonly tracking: Tracking;
  readonly decimals: number;
  readonly condition: Condition;
  /** The day on which they expired; null where they have not. */
  readonly expired: string | null;
  readonly serial: string | null;
  readonly qty: Qty;
};

/** Decides whether goods may leave over the counter (F3), as at the bench: sound, not expired, with their serial.
 *  Errors: not sound, expired, a serial missing, a quantity that the item does not come in. */
export function decideHandOver(
  goods: HandedOver,
): Result<HandedOver, ShippingError | { code: 'stock.finerThanItem'; item: string; asked: string; decimals: number }> {
  const { item, bin, condition } = goods;
  if (condition !== 'sound') return fail({ code: 'shipping.notSound', item, bin, condition });
  if (goods.expired !== null) return fail({ code: 'shipping.expired', item, expired: goods.expired });
  if (needsSerialToShip(goods.tracking) && (goods.serial === null || goods.qty !== ONE))
    return fail({ code: 'shipping.serialMissing', item });
  if (goods.qty <= 0 || !isWholeStep(goods.qty, goods.decimals))
    return fail({ code: 'stock.finerThanItem', item, asked: formatQty(goods.qty), decimals: goods.decimals });
  return ok(goods);
}

/** Goods of one item that are handed over, and what of it is free at the site. */
export type AskedOfFree = { readonly item: string; readonly asked: Qty; readonly free: Qty };

/** Refuses goods that orders were promised: nobody takes them from a shelf in passing. */
export function decideFree(all: readonly AskedOfFree[]): Result<true, ShippingError> {
  const over = all.find((a) => a.asked > a.free);
  return over
    ? fail({
        code: 'shipping.promisedToOthers',
        item: over.item,
        asked: formatQty(over.asked),
        free: formatQty((over.free > 0 ? over.free : 0) as Qty),
      })
    : ok(true);
}
