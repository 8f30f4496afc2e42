import { isWholeStep, ONE, ZERO, type Qty } from '#core/base';
import { decideLineChange, sayLineChange } from '#core/orders';
import { qtyText } from '#contract/base';
import { announce, asQty, refuse, valueOf, type Trx } from '#server/kernel';
import { lockOpenOrder, reopenPacking } from '#server/orders';
import { lockStock } from '#server/stock';
import { partGoods } from './part-goods.ts';
import { putGoodsBack } from './put-back.ts';
import { endOrderIfDone, selectLineAtWork, updateLineQty } from './store-lines.ts';
import { unplanLine } from './store-picks.ts';

/** Changes how many of a line are ordered, wherever the order is on its way (F).
 *  Shape:  what is fewer is taken out of the promise, then off open rounds, then off carts and benches, from where it goes to arrivals; a
 *          packed order is looked at again. More is ordered and not yet promised. 0 takes the line out. Returns what it did, in words.
 *  Errors: an order that is not open or of another site, a line of another order, fewer than have left, too fine for the item.
 *  Locks:  the order, the item at the site, then what `post` locks. */
export async function changeLine(
  trx: Trx,
  command: { order: number; line: number; qty: Qty; site: number; person: number | null },
): Promise<{ qty: string; did: string[] }> {
  const order = await lockOpenOrder(trx, command.order, command.site);
  if (order.kind === 'kit') refuse({ code: 'orders.kitLines', number: order.number });
  const known = await selectLineAtWork(trx, order.id, command.line);
  if (!known) return refuse({ code: 'orders.unknownLine', id: command.line, number: order.number });
  if (!isWholeStep(command.qty, known.decimals))
    refuse({ code: 'stock.finerThanItem', item: known.code, asked: qtyText(command.qty), decimals: known.decimals });
  // Which of its pieces would be the one too many, its order must say itself.
  if (known.serials > 0 && command.qty > ZERO && command.qty !== known.serials * ONE)
    refuse({ code: 'orders.serialsForPieces', item: known.code, serials: known.serials, pieces: qtyText(command.qty) });
  await lockStock(trx, [{ item: known.item, site: command.site }]);
  // Read anew: a pick or a promise may have come before the lock.
  const line = (await selectLineAtWork(trx, order.id, command.line)) ?? known;
  const change = valueOf(
    decideLineChange(command.qty, {
      item: line.code,
      qty: asQty(line.qty),
      shipped: asQty(line.shipped),
      promised: asQty(line.promised),
      inHand: asQty(line.in_hand),
      planned: asQty(line.planned),
    }),
  );
  await unplanLine(trx, command.line, change.unplan);
  const goods = await partGoods(trx, command.line, change.putBack);
  const { bin } = await putGoodsBack(trx, { ...command, reason: `Put back: fewer are ordered on ${order.number}` }, goods);
  await updateLineQty(trx, command.line, change.qty, change.cut);
  if (change.qty > asQty(line.qty)) await reopenPacking(trx, [order.id]);
  await endOrderIfDone(trx, order.id);
  announce(trx, 'orders', { order: order.id });
  announce(trx, 'stock');
  return { qty: qtyText(change.qty), did: sayLineChange(change, bin) };
}
