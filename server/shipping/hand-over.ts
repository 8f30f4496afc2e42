import {
  addQty,
  ONE,
  ZERO,
  sumQty,
  type DocumentId,
  type ItemId,
  type LotId,
  type PersonId,
  type Qty,
  type SerialId,
  type SiteId,
} from '#core/base';
import { chooseStock, type LyingStock } from '#core/moves';
import { decideFree, decideHandOver } from '#core/shipping';
import { OUTSIDE, poolOf, type Movement } from '#core/stock';
import { qtyText } from '#contract/base';
import { announce, makeDocument, refuse, valueOf, type Trx } from '#server/kernel';
import { findItemByScan, type FoundItem } from '#server/items';
import { findCustomer, insertLines, insertOrder } from '#server/orders';
import { findBin, selectToday, type FoundBin } from '#server/places';
import { selectLying } from '#server/moves';
import { lockStock, post, readFree } from '#server/stock';
import { addShipped } from '#server/picking';
import { insertPickedAtOnce, insertShipment, updateOrderShipped } from './store.ts';

type Taken = { bin: FoundBin; item: FoundItem; goods: LyingStock; serialOut: string | null; qty: Qty };

/** Hands goods over the counter (F3): an order, its shipment and the ledger's entries in one act, with bin, lot and serials on record.
 *  Shape:  each line is what was scanned: bin and item, lot and serial where a label or a person said them.
 *  Errors: goods that do not lie there, are not sound, expired or held, lack a serial; more than is free, unless `anyway` says that orders
 *          give way; an unknown customer. Then nothing leaves.
 *  Locks:  the items at the site, then what `post` locks. */
export async function handOver(
  trx: Trx,
  command: {
    site: number;
    person: number;
    customer: number | null;
    note: string;
    lines: readonly { bin: string; code: string; qty: Qty; lot?: string | undefined; serial?: string | undefined }[];
    anyway: boolean;
  },
): Promise<{ order: number; number: string; shipment: string; pieces: string }> {
  if (command.customer !== null && !(await findCustomer(trx, command.customer)))
    refuse({ code: 'orders.unknownCustomer', id: command.customer });
  const meant: { bin: FoundBin; item: FoundItem; lot: string | null; serial: string | null; qty: Qty }[] = [];
  for (const line of command.lines) {
    const item = await findItemByScan(trx, line.code);
    meant.push({
      bin: await findBin(trx, command.site, line.bin),
      item,
      lot: line.lot || item.lot,
      serial: line.serial || item.serialCode,
      qty: line.qty,
    });
  }
  const pairs = [...new Set(meant.map((m) => m.item.id))].map((item) => ({ item, site: command.site }));
  await lockStock(trx, pairs);
  const taken: Taken[] = [];
  for (const m of meant) taken.push(await choose(trx, m));
  if (!command.anyway) await refusePromised(trx, taken, pairs);
  return write(trx, command, taken);
}

async function choose(
  trx: Trx,
  m: { bin: FoundBin; item: FoundItem; lot: string | null; serial: string | null; qty: Qty },
): Promise<Taken> {
  const { bin, item, lot } = m;
  // A serial that is noted only when goods leave is on no record of the bin.
  const serialOut = item.tracking === 'serialOut' ? m.serial : null;
  const there = await selectLying(trx, { bin: bin.id, item: item.id, condition: null });
  const goods = valueOf(
    chooseStock(there, { bin: bin.address, item: item.code, tracking: item.tracking, lot, serial: serialOut === null ? m.serial : null }),
  );
  const qty = goods.serial !== null ? ONE : m.qty;
  valueOf(
    decideHandOver({
      item: item.code,
      bin: bin.address,
      tracking: item.tracking,
      decimals: item.decimals,
      condition: goods.condition,
      expired: goods.isExpired ? goods.expires : null,
      serial: goods.serialCode ?? serialOut,
      qty,
    }),
  );
  return { bin, item, goods, serialOut, qty };
}

async function refusePromised(trx: Trx, taken: readonly Taken[], pairs: readonly { item: number; site: number }[]): Promise<void> {
  const asks = taken.map(({ item, bin, goods, qty }) => ({
    item,
    qty,
    pool: poolOf(item.id, pairs[0]?.site as SiteId),
    // These and no others: what somebody named is not free, however much there is of the rest.
    asking: {
      lot: goods.lot as LotId | null,
      bin: bin.id,
      serials: goods.serial === null ? null : [goods.serial as SerialId],
      goodOn: null,
    },
  }));
  const free = await readFree(trx, pairs, asks);
  const asked = new Map<ItemId, { item: string; asked: Qty; free: Qty }>();
  for (const { item, qty, pool, asking } of asks) {
    const was = asked.get(item.id) ?? { asked: ZERO, free: ZERO };
    asked.set(item.id, {
      item: item.code,
      asked: addQty(was.asked, qty),
      free: addQty(was.free, free.get(pool)?.give(asking, qty) ?? ZERO),
    });
  }
  valueOf(decideFree([...asked.values()]));
}

async function write(
  trx: Trx,
  command: { site: number; person: number; customer: number | null; note: string },
  taken: readonly Taken[],
): Promise<{ order: number; number: string; shipment: string; pieces: string }> {
  const order = await insertOrder(trx, {
    site: command.site,
    kind: 'counter',
    customer: command.customer,
    job: null,
    toSite: null,
    due: await selectToday(trx, command.site),
    priority: 5,
    note: command.note,
    reference: '',
    carrier: '',
    leastLife: null,
    source: 'desk',
  });
  const items = [...new Set(taken.map((t) => t.item.id))];
  const totals = items.map((item) => ({ item, qty: sumQty(taken.filter((t) => t.item.id === item).map((t) => t.qty)) }));
  const lines = await insertLines(trx, order.id, totals);
  const document = await makeDocument(trx, 'shipment', { site: command.site, person: command.person, subject: order.id });
  await addShipped(trx, [lines, totals.map((t) => qtyText(t.qty))]);
  await insertPickedAtOnce(
    trx,
    { document: document.id, person: command.person },
    taken.map((t) => ({
      line: lines[items.indexOf(t.item.id)] ?? 0,
      item: t.item.id,
      lot: t.goods.lot,
      serial: t.goods.serial,
      serialOut: t.serialOut,
      qty: t.qty,
      bin: t.bin.id,
    })),
  );
  await post(trx, {
    document: document.id as DocumentId,
    person: command.person as PersonId,
    movements: taken.map((t): Movement => ({
      item: t.item.id,
      lot: t.goods.lot,
      serial: t.goods.serial,
      qty: t.qty,
      from: { bin: t.bin.id, unit: null, condition: 'sound' },
      to: { bin: OUTSIDE.customers, unit: null, condition: 'sound' },
      reason: `Handed over on ${order.number}`,
    })),
  });
  await insertShipment(trx, { number: document.number, order: order.id, document: document.id });
  await updateOrderShipped(trx, order.id, 'shipped');
  announce(trx, 'orders', { order: order.id });
  announce(trx, 'shipping', { order: order.id });
  return { order: order.id, number: order.number, shipment: document.number, pieces: qtyText(sumQty(taken.map((t) => t.qty))) };
}
