import { fail, formatQty, minQty, ok, subQty, sumQty, type BinId, type Qty, type Result } from '#core/base';
import type { ReceivingError } from './errors.ts';

/** Goods of a received line, where they lie now. Thousandths of the base unit. */
export type ReceivedStock = { readonly bin: BinId; readonly address: string; readonly qty: Qty };

/** Decides from where the goods of a receipt's line are brought back, so that the line can be reversed where it was posted (C13).
 *  Shape:  the moves to the bin where it was posted, from the other bins, the fullest first: the fewest walks. None where enough lies there
 *          still.
 *  Errors: `receiving.notAllHere` where not as much of it is left as is reversed. */
export function decideBringBack(
  of: { readonly item: string; readonly qty: Qty; readonly into: BinId },
  lying: readonly ReceivedStock[],
): Result<readonly ReceivedStock[], ReceivingError> {
  const there = sumQty(lying.map((l) => l.qty));
  if (there < of.qty) return fail({ code: 'receiving.notAllHere', item: of.item, there: formatQty(there), asked: formatQty(of.qty) });
  let missing = subQty(of.qty, sumQty(lying.filter((l) => l.bin === of.into).map((l) => l.qty)));
  const moves: ReceivedStock[] = [];
  for (const place of lying.filter((l) => l.bin !== of.into).toSorted((a, b) => b.qty - a.qty || a.bin - b.bin)) {
    if (missing <= 0) break;
    const qty = minQty(place.qty, missing);
    moves.push({ ...place, qty });
    missing = subQty(missing, qty);
  }
  return ok(moves);
}
