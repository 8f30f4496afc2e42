import { fail, formatQty, isWholeStep, ok, qty, sumQty, type ItemId, type Qty, type Result } from '#core/base';
import { takenByKits } from '#core/items';
import type { PickingError } from './errors.ts';

/** A part of the kits that an order makes: how much of it one kit takes, and how much is in hand. Thousandths of its base unit. */
export type KitPartInHand = { readonly item: ItemId; readonly code: string; readonly each: Qty; readonly inHand: Qty };

/** Decides whether so many kits are made of the parts that are in hand for their order (G9).
 *  Shape:  how much of each part they take, in the order of `parts`. Kits are made whole.
 *  Units:  thousandths.
 *  Errors: none, half a kit, more than are still to be made, or a part of which too little is in hand. */
export function decideAssembly(
  made: Qty,
  facts: { readonly kit: string; readonly order: string; readonly left: Qty; readonly parts: readonly KitPartInHand[] },
): Result<{ takes: readonly Qty[] }, PickingError> {
  const { kit, order, left, parts } = facts;
  if (made <= 0) return fail({ code: 'picking.nothing', item: kit });
  if (!isWholeStep(made, 0)) return fail({ code: 'picking.tooFine', item: kit, asked: formatQty(made), decimals: 0 });
  if (made > left) return fail({ code: 'picking.kitsMade', kit, order, left });
  const short = parts.find((p) => takenByKits(p.each, made) > p.inHand);
  if (short) {
    const needs = takenByKits(short.each, made);
    return fail({ code: 'picking.partsShort', kit, part: short.code, has: short.inHand, needs });
  }
  return ok({ takes: parts.map((p) => takenByKits(p.each, made)) });
}

/** What of a part is in hand: what was taken for it, less what earlier kits took. Units: thousandths. */
export function partInHand(taken: readonly Qty[], each: Qty, made: Qty): Qty {
  return qty(Math.max(0, sumQty(taken) - takenByKits(each, made)));
}
