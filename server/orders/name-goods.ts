import type { Qty } from '#core/base';
import type { Tracking } from '#core/items';
import { decideNames, type NamedGoods } from '#core/orders';
import { qtyText } from '#contract/base';
import { announce, asQty, queryOne, refuse, valueOf, type Trx } from '#server/kernel';
import { selectLot, selectSerial } from '#server/items';
import { findBin } from '#server/places';
import { lockStock } from '#server/stock';
import { givePromises } from './promising.ts';
import { deletePromise, findLine, lockOpenOrder, selectNamingLine, updateNames } from './store.ts';

/** Goods as somebody names them, in what stands on labels. */
export type Named = {
  readonly lot?: string | undefined;
  readonly serials?: readonly string[] | undefined;
  readonly bin?: string | undefined;
};

/** Names the goods of a line beforehand, or nothing any more (F3): its lot, its serials, its bin. What was promised of it is promised anew,
 *  from what is named now.
 *  Shape:  how much of it is promised afterwards.
 *  Errors: an order that is not open or of another site, a line of another order, one of which something is planned or in hand; a lot, a
 *          serial or a bin that is none, serials that are not as many as pieces, a serial that another open order names.
 *  Locks:  the order, then the item at the site. */
export async function nameLine(
  trx: Trx,
  command: { order: number; line: number; site: number; named: Named },
): Promise<{ promised: string; was: string }> {
  const order = await lockOpenOrder(trx, command.order, command.site);
  const line = await findLine(trx, order.id, command.line);
  if (!line) return refuse({ code: 'orders.unknownLine', id: command.line, number: order.number });
  await lockStock(trx, [{ item: line.item, site: command.site }]);
  // Read anew: a round may have come before the lock.
  const { promised, onItsWay } = (await findLine(trx, order.id, command.line)) ?? line;
  if (onItsWay) refuse({ code: 'orders.lineOnItsWay', item: line.code, number: order.number });
  await writeNames(trx, { ...line, order: order.id, line: command.line, site: command.site, qty: asQty(line.qty) }, command.named);
  announce(trx, 'orders', { order: order.id });
  const was = asQty(promised);
  if (was > 0) {
    await deletePromise(trx, command.line);
    await givePromises(trx, { orders: [order.id], site: command.site, mode: 'free', lines: [command.line] });
  }
  const after = await queryOne<{ qty: string }>(trx, `SELECT coalesce((SELECT qty FROM promise WHERE line_id = ?), 0) AS qty`, [
    command.line,
  ]);
  return { promised: qtyText(asQty(after.qty)), was: qtyText(was) };
}

/** Writes what a line names, in place of what it named before. Errors as `nameLine`. */
export async function writeNames(
  trx: Trx,
  line: { order: number; line: number; site: number; item: number; code: string; tracking: string; qty: Qty },
  named: Named,
): Promise<void> {
  const goods: NamedGoods = { lot: named.lot || null, serials: named.serials ?? [], bin: named.bin || null };
  valueOf(decideNames(goods, { item: line.code, tracking: line.tracking as Tracking, qty: line.qty }));
  const lot = goods.lot === null ? null : await selectLot(trx, line.item, goods.lot);
  if (goods.lot !== null && !lot) refuse({ code: 'moves.unknownLot', item: line.code, lot: goods.lot });
  const serials: number[] = [];
  for (const code of goods.serials) {
    const serial = await selectSerial(trx, line.item, code);
    if (!serial) return refuse({ code: 'orders.unknownSerial', item: line.code, serial: code });
    const other = await selectNamingLine(trx, { serial: serial.id, but: line.line });
    if (other) refuse({ code: 'orders.serialNamed', item: line.code, serial: code, number: other.number });
    serials.push(serial.id);
  }
  const bin = goods.bin === null ? null : await findBin(trx, line.site, goods.bin);
  await updateNames(trx, line.line, { lot: lot?.id ?? null, serials, bin: bin?.id ?? null });
}
