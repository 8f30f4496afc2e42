import { minQty, subQty, ZERO, type Qty } from '#core/base';
import { asQty, type Trx } from '#server/kernel';
import { selectInHandOfLine, splitInHand, type InHandRow } from './store-in-hand.ts';

/** So much of what is in hand of a line: whole pieces of it first, in the order of `selectInHandOfLine`, and the last one parted.
 *  Shape:  fewer than were wanted where fewer are in hand. Units: thousandths. */
export async function partGoods(trx: Trx, line: number, wanted: Qty): Promise<InHandRow[]> {
  const parted: InHandRow[] = [];
  let open = wanted;
  for (const goods of wanted > ZERO ? await selectInHandOfLine(trx, line) : []) {
    if (open <= 0) break;
    const there = asQty(goods.qty);
    const taken = minQty(there, open);
    parted.push(taken === there ? goods : await splitInHand(trx, goods, taken));
    open = subQty(open, taken);
  }
  return parted;
}
