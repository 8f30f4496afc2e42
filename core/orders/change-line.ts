import { fail, formatQty, maxQty, minQty, ok, subQty, ZERO, type Qty, type Result } from '#core/base';
import type { OrdersError } from './errors.ts';

/** What is known of a line that somebody changes. Thousandths of the base unit. */
export type LineAtWork = {
  readonly item: string;
  readonly qty: Qty;
  readonly shipped: Qty;
  /** Promised, the part in hand among it. */
  readonly promised: Qty;
  /** On carts and at benches, in parcels too. */
  readonly inHand: Qty;
  /** What open rounds still plan to take for it. */
  readonly planned: Qty;
};
/** What becomes of the line: so much is cut from its promise, left out of rounds, and put back from carts and benches. */
export type LineChange = { readonly qty: Qty; readonly cut: Qty; readonly unplan: Qty; readonly putBack: Qty };

/** Decides what a change of a line's quantity does (F): what has left stays, what is in hand is kept as long as it is wanted, then what is
 *  planned, then what is promised.
 *  Shape:  after it shipped + in hand + planned ≤ the new quantity, and the promise is no larger than what is still open.
 *  Errors: fewer than have left. */
export function decideLineChange(qty: Qty, line: LineAtWork): Result<LineChange, OrdersError> {
  if (qty < line.shipped)
    return fail({ code: 'orders.fewerThanShipped', item: line.item, asked: formatQty(qty), shipped: formatQty(line.shipped) });
  const open = subQty(qty, line.shipped);
  const putBack = maxQty(ZERO, subQty(line.inHand, open));
  const kept = minQty(line.inHand, open);
  const unplan = maxQty(ZERO, subQty(line.planned, subQty(open, kept)));
  const cut = maxQty(ZERO, subQty(line.promised, open));
  return ok({ qty, cut, unplan, putBack });
}

/** Says what a change did, beside the new quantity: nothing where it did nothing else. `to` is where goods went. */
export function sayLineChange(change: LineChange, to: string | null): string[] {
  return [
    ...(change.putBack > 0 && to !== null ? [`${formatQty(change.putBack)} went from cart or bench back to ${to}, to be put away.`] : []),
    ...(change.unplan > 0 ? [`${formatQty(change.unplan)} fewer are taken on the round.`] : []),
    ...(change.cut > 0 ? [`${formatQty(change.cut)} are free again.`] : []),
  ];
}
