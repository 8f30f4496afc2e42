import { isWholeStep, type Qty } from '#core/base';
import { takenByKits } from '#core/items';
import { qtyText } from '#contract/base';
import type { Missing } from '#contract/orders';
import { announce, asQty, refuse, type Trx } from '#server/kernel';
import { findItem } from '#server/items';
import { selectToday } from '#server/places';
import { checkLines } from './make-order.ts';
import { givePromises } from './promising.ts';
import { insertKitOrder, selectKitLine, selectParts, type KitLineRow } from './store-kits.ts';
import { insertLines, lockOpenOrder, lockOrders } from './store.ts';

/** Has kits made (G9): an order whose goods are their parts, promised at once what is free of them. It is picked like any other; when the
 *  parts are in hand, somebody says that the kits are made (`assembleKits`).
 *  Shape:  `line`: the line of another order for which they are, which gives its due day and priority; else they go to stock.
 *  Errors: an item that has no parts, half a kit, a line that wants others or fewer, an order that is not open or of another site.
 *  Locks:  the order of that line, then the parts at the site. */
export async function makeKitOrder(
  trx: Trx,
  command: { item: number; qty: Qty; line: number | undefined; due: string | undefined; site: number },
): Promise<{ id: number; number: string; missing: Missing[] }> {
  const kit = await findItem(trx, command.item);
  if (command.qty <= 0) refuse({ code: 'orders.nothing', item: kit.code });
  if (!isWholeStep(command.qty, 0)) refuse({ code: 'stock.finerThanItem', item: kit.code, asked: qtyText(command.qty), decimals: 0 });
  const wanting = command.line === undefined ? null : await lockWanting(trx, { ...command, line: command.line, code: kit.code });
  const parts = await selectParts(trx, kit.id);
  if (parts.length === 0) refuse({ code: 'orders.noParts', item: kit.code });
  const lines = parts.map((p) => ({ item: p.item, qty: takenByKits(asQty(p.each), command.qty) }));
  await checkLines(trx, lines);
  const made = await insertKitOrder(trx, {
    site: command.site,
    kit: kit.id,
    qty: command.qty,
    line: command.line ?? null,
    due: wanting?.due ?? command.due ?? (await selectToday(trx, command.site)),
    priority: wanting?.priority ?? 5,
  });
  await insertLines(trx, made.id, lines);
  await lockOrders(trx, [made.id], command.site);
  const { missing } = await givePromises(trx, { orders: [made.id], site: command.site, mode: 'free' });
  announce(trx, 'orders', { order: made.id });
  if (wanting) announce(trx, 'orders', { order: wanting.order_id });
  return { ...made, missing };
}

async function lockWanting(trx: Trx, command: { line: number; item: number; qty: Qty; site: number; code: string }): Promise<KitLineRow> {
  const before = (await selectKitLine(trx, command.line)) ?? refuse({ code: 'orders.unknownLine', id: command.line, number: 'any order' });
  const order = await lockOpenOrder(trx, before.order_id, command.site);
  const line = (await selectKitLine(trx, command.line)) ?? before;
  if (line.item !== command.item) refuse({ code: 'orders.notThatLine', item: command.code, order: order.number });
  if (line.named) refuse({ code: 'orders.kitNamed', item: command.code, order: order.number });
  const open = asQty(line.open);
  if (command.qty > open) refuse({ code: 'orders.kitTooMany', item: command.code, order: order.number, open: qtyText(open) });
  return line;
}
