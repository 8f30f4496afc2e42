import { fail, ok, type Qty, type Result } from '#core/base';
import type { ShippingError } from './errors.ts';

/** A picked quantity of an order: where it is now decides whether it may leave. Thousandths of the base unit. */
export type ShipLine = {
  readonly item: string;
  readonly picked: Qty;
  readonly putDown: Qty;
  readonly expired: string | null;
  /** The hold that stands on these very goods, if any. */
  readonly hold: number | null;
  readonly serialMissing: boolean;
};

/** Decides whether what was picked for an order may leave (H2, H6).
 *  Shape:  all of it, or the first reason why not: the order held, nothing there, still on a cart, the goods held, expired, serial
 *          missing. */
export function decideShipment(order: { number: string; heldFor: string | null }, lines: readonly ShipLine[]): Result<true, ShippingError> {
  if (order.heldFor !== null) return fail({ code: 'shipping.held', number: order.number, reason: order.heldFor });
  if (lines.length === 0 || lines.every((l) => l.picked === 0)) return fail({ code: 'shipping.nothingPicked', number: order.number });
  for (const line of lines) {
    if (line.putDown < line.picked) return fail({ code: 'shipping.onCart', number: order.number, item: line.item });
    if (line.hold !== null) return fail({ code: 'shipping.goodsHeld', number: order.number, item: line.item, hold: line.hold });
    if (line.expired) return fail({ code: 'shipping.expired', item: line.item, expired: line.expired });
    if (line.serialMissing) return fail({ code: 'shipping.serialMissing', item: line.item });
  }
  return ok(true);
}
