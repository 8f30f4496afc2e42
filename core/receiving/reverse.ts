import { addQty, fail, formatQty, minQty, ok, subQty, sumQty, ZERO, type BinId, type Qty, type Result } from '#core/base';
import type { ReceivingError } from './errors.ts';

/** Goods of a received line, where they lie now; `failed`: set apart since, as failed; `apart`: no longer in the logistic unit in
 *  which they
 *  came. Thousandths of the base unit. */
export type ReceivedStock = {
  readonly bin: BinId;
  readonly address: string;
  readonly qty: Qty;
  readonly failed?: boolean;
  readonly apart?: boolean;
};

/** Decides from where the goods of a receipt's line are brought back, so that the line can be reversed where it was posted (C13).
 *  Shape:  the moves to the bin where it was posted: what failed of it, always; then, as far as not enough lies there, from the other bins,
 *          the fullest first: the fewest walks.
 *  Errors: `receiving.notAllHere` where not as much of it is left as is reversed. */
export function decideBringBack(
  of: { readonly item: string; readonly qty: Qty; readonly into: BinId; readonly failed?: Qty },
  lying: readonly ReceivedStock[],
): Result<readonly ReceivedStock[], ReceivingError> {
  const { failed = ZERO } = of;
  const bad = take(
    failed,
    lying.filter((l) => l.failed === true),
  );
  const sound = lying.filter((l) => l.failed !== true);
  const wanted = subQty(of.qty, failed);
  const [there, thereBad] = [sumQty(sound.map((l) => l.qty)), sumQty(bad.map((b) => b.qty))];
  if (there < wanted || thereBad < failed)
    return fail({
      code: 'receiving.notAllHere',
      item: of.item,
      there: formatQty(addQty(minQty(there, wanted), thereBad)),
      asked: formatQty(of.qty),
    });
  const isInPlace = (l: ReceivedStock): boolean => l.bin === of.into && l.apart !== true;
  const inPlace = sumQty(sound.filter(isInPlace).map((l) => l.qty));
  const elsewhere = sound.filter((l) => !isInPlace(l)).toSorted((a, b) => b.qty - a.qty || a.bin - b.bin);
  return ok([...bad, ...take(subQty(wanted, inPlace), elsewhere)]);
}

/** So many of what lies in places, in their order. */
function take(wanted: Qty, places: readonly ReceivedStock[]): ReceivedStock[] {
  const taken: ReceivedStock[] = [];
  let missing = wanted;
  for (const place of places) {
    if (missing <= 0) break;
    const qty = minQty(place.qty, missing);
    taken.push({ ...place, qty });
    missing = subQty(missing, qty);
  }
  return taken;
}
