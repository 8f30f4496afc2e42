import { isWholeStep, type ItemId, type Qty } from '#core/base';
import { packToBase } from '#core/items';
import { compareDelivery, decideEntry } from '#core/receiving';
import { qtyText } from '#contract/base';
import type { Delivery, EntryOut } from '#contract/receiving';
import { announce, asQty, dbQty, query, refuse, valueOf, type Db, type RoomHandlers, type Trx } from '#server/kernel';
import { findItem, findItemByScan, selectLot } from '#server/items';
import { selectToday } from '#server/places';
import { postDelivery } from './post-delivery.ts';
import {
  findDelivery,
  lockDelivery,
  selectDeliveries,
  selectEntries,
  selectExpected,
  selectSerialPlace,
  type DeliveryRow,
  type EntryRow,
} from './store.ts';

export const receivingHandlers: RoomHandlers<'receiving'> = {
  'receiving.expected': async (db, { me }) => ({
    orders: await query(
      db,
      `SELECT o.id, o.number, s.name AS supplier, o.due, count(l.id) AS lines, count(l.id) FILTER (WHERE NOT l.closed AND l.received < l.qty) AS "openLines", bool_or(l.received > 0) AS partly,
         (SELECT d.id FROM delivery d WHERE d.purchase_order_id = o.id AND d.state IN ('scanning', 'review')) AS delivery
       FROM purchase_order o JOIN supplier s ON s.id = o.supplier_id JOIN purchase_line l ON l.purchase_order_id = o.id WHERE o.state = 'open' AND o.site_id = ?
       GROUP BY o.id, s.name HAVING count(l.id) FILTER (WHERE NOT l.closed AND l.received < l.qty) > 0 ORDER BY o.due, o.id LIMIT 500`,
      [me.site.id],
    ),
  }),
  'receiving.deliveries': async (db, { me, query: asked }) => ({
    deliveries: (await selectDeliveries(db, me.site.id, asked.state === 'open' ? ['scanning', 'review'] : ['posted'])).map(deliveryOut),
  }),
  'receiving.start': async (trx, { me, body }) => {
    const text = body.purchaseOrder.trim().toUpperCase();
    const [order] = await query<{ id: number; supplier_id: number; site_id: number }>(
      trx,
      `SELECT o.id, o.supplier_id, o.site_id FROM purchase_order o WHERE o.number = ? AND o.state = 'open' AND o.site_id = ?
         AND EXISTS (SELECT 1 FROM purchase_line l WHERE l.purchase_order_id = o.id AND NOT l.closed AND l.received < l.qty) FOR UPDATE`,
      [text, me.site.id],
    );
    if (!order) return refuse({ code: 'receiving.unknownOrder', text: body.purchaseOrder.slice(0, 60) });
    // Somebody may have begun already: join them, and go on from the last scan.
    const [open] = await query<{ id: number; number: string; state: string }>(
      trx,
      `SELECT id, number, state FROM delivery WHERE purchase_order_id = ? AND state IN ('scanning', 'review')`,
      [order.id],
    );
    if (open) return { id: open.id, number: open.number };
    const [made] = await query<{ id: number; number: string }>(
      trx,
      `INSERT INTO delivery (number, site_id, supplier_id, purchase_order_id, started_by) VALUES ('DL-' || nextval('number_dl'), ?, ?, ?, ?) RETURNING id, number`,
      [order.site_id, order.supplier_id, order.id, me.id],
    );
    announce(trx, 'receiving');
    return made as { id: number; number: string };
  },
  'receiving.delivery': async (db, { params }) => readDelivery(db, await findDelivery(db, params.id)),
  'receiving.scan': async (trx, { me, params, body }) => {
    const delivery = await lockDelivery(trx, params.id);
    if (delivery.state !== 'scanning') refuse({ code: 'receiving.notOpen', number: delivery.number, state: stateWord(delivery.state) });
    const scanned = await findItemByScan(trx, body.code);
    const lotCode = body.lot || scanned.lot;
    const serialCode = body.serial || scanned.serialCode;
    const packs = body.packs ?? (1000 as Qty);
    const quantity =
      packToBase(packs, scanned.pack) ?? refuse({ code: 'receiving.tooFine', item: scanned.code, decimals: scanned.decimals });
    const expected = await selectExpected(trx, delivery.purchase_order_id);
    const knownLot = lotCode ? await knownLotDate(trx, params.id, scanned.id, lotCode) : null;
    const entry = valueOf(
      decideEntry(
        {
          qty: quantity,
          lot: lotCode || null,
          expires: body.expires ?? scanned.expires,
          serial: serialCode || null,
          takeAnyway: body.takeAnyway,
        },
        {
          itemCode: scanned.code,
          decimals: scanned.decimals,
          tracking: scanned.tracking,
          today: await selectToday(trx, delivery.site_id),
          knownLotExpires: knownLot,
          // An item that was taken anyway once need not be argued about again.
          ordered:
            delivery.purchase_order_id === null ||
            expected.some((e) => e.item === scanned.id) ||
            (await isAlreadyTaken(trx, params.id, scanned.id)),
          serialPlace: serialCode ? await selectSerialPlace(trx, scanned.id, serialCode) : null,
        },
      ),
    );
    const [made] = await query<{ id: number }>(
      trx,
      `WITH touched AS (UPDATE delivery SET touched = now() WHERE id = ?)
       INSERT INTO delivery_entry (delivery_id, item_id, pack_id, qty, lot, expires, serial, person_id, device) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?) RETURNING id`,
      [
        params.id,
        params.id,
        scanned.id,
        scanned.pack.id,
        dbQty(entry.qty),
        entry.lot,
        entry.expires,
        entry.serial,
        me.id,
        body.device ?? null,
      ],
    );
    announce(trx, 'receiving', { delivery: params.id });
    const entries = await selectEntries(trx, params.id);
    const comparison = compareDelivery(
      expected.filter((e) => e.item === scanned.id).map(asLine),
      entries.filter((e) => e.item === scanned.id).map(asLine),
    );
    const line = comparison[0] ?? refuse({ code: 'receiving.unknownEntry', id: made?.id ?? 0 });
    const own = entries.find((e) => e.id === made?.id) as EntryRow;
    return { entry: entryOut(own), line: { expected: qtyText(line.expected), arrived: qtyText(line.arrived), standing: line.standing } };
  },
  'receiving.change': async (trx, { params, body }) => {
    const entry = await lockEntry(trx, params);
    const item = await findItem(trx, entry.item);
    if (body.qty <= 0) refuse({ code: 'receiving.nothing', item: item.code });
    if (!isWholeStep(body.qty, item.decimals)) refuse({ code: 'receiving.tooFine', item: item.code, decimals: item.decimals });
    if (entry.serial) refuse({ code: 'receiving.serialIsOne', item: item.code, serial: entry.serial });
    await query(trx, `UPDATE delivery_entry SET qty = ? WHERE id = ?`, [dbQty(body.qty), params.entry]);
    announce(trx, 'receiving', { delivery: params.id });
    return { ok: true };
  },
  'receiving.takeOut': async (trx, { params }) => {
    await lockEntry(trx, params);
    await query(trx, `UPDATE delivery_entry SET taken_out_at = now() WHERE id = ?`, [params.entry]);
    announce(trx, 'receiving', { delivery: params.id });
    return { ok: true };
  },
  'receiving.finish': (trx, { params }) => changeState(trx, params.id, 'scanning', 'review'),
  'receiving.reopen': (trx, { params }) => changeState(trx, params.id, 'review', 'scanning'),
  'receiving.post': (trx, { me, params, body }) => postDelivery(trx, { delivery: params.id, person: me.id, ...body }),
};

const asLine = (row: { item: number; qty: string }): { item: ItemId; qty: Qty } => ({ item: row.item as ItemId, qty: asQty(row.qty) });

function stateWord(state: DeliveryRow['state']): string {
  return { scanning: 'being scanned', review: 'handed in for review', posted: 'posted', thrown: 'thrown away' }[state];
}

async function isAlreadyTaken(trx: Trx, delivery: number, item: number): Promise<boolean> {
  return (
    (
      await query(trx, `SELECT 1 FROM delivery_entry WHERE delivery_id = ? AND item_id = ? AND taken_out_at IS NULL LIMIT 1`, [
        delivery,
        item,
      ])
    ).length > 0
  );
}

// A lot's date is known from stock, or from the first time it was keyed in this very delivery.
async function knownLotDate(trx: Trx, delivery: number, item: number, lot: string): Promise<string | null> {
  const known = await selectLot(trx, item, lot);
  if (known?.expires) return known.expires;
  const [row] = await query<{ expires: string | null }>(
    trx,
    `SELECT expires FROM delivery_entry WHERE delivery_id = ? AND item_id = ? AND lot = ? AND taken_out_at IS NULL AND expires IS NOT NULL ORDER BY id LIMIT 1`,
    [delivery, item, lot],
  );
  return row?.expires ?? null;
}

async function lockEntry(trx: Trx, params: { id: number; entry: number }): Promise<EntryRow> {
  const delivery = await lockDelivery(trx, params.id);
  if (delivery.state === 'posted' || delivery.state === 'thrown')
    refuse({ code: 'receiving.notOpen', number: delivery.number, state: stateWord(delivery.state) });
  const [entry] = await selectEntries(trx, params.id, params.entry);
  return entry ?? refuse({ code: 'receiving.unknownEntry', id: params.entry });
}

async function changeState(trx: Trx, id: number, from: DeliveryRow['state'], to: DeliveryRow['state']): Promise<{ ok: true }> {
  const delivery = await lockDelivery(trx, id);
  if (delivery.state !== from) refuse({ code: 'receiving.notOpen', number: delivery.number, state: stateWord(delivery.state) });
  if (to === 'review' && delivery.entries === 0) refuse({ code: 'receiving.empty', number: delivery.number });
  await query(trx, `UPDATE delivery SET state = ?, touched = now() WHERE id = ?`, [to, id]);
  announce(trx, 'receiving', { delivery: id });
  return { ok: true };
}

function deliveryOut(d: DeliveryRow) {
  return {
    id: d.id,
    number: d.number,
    state: d.state,
    supplier: d.supplier,
    purchaseOrder: d.purchase_order,
    by: d.by,
    at: d.at.toISOString(),
    touched: d.touched.toISOString(),
    entries: d.entries,
  };
}

function entryOut(e: EntryRow): EntryOut {
  return {
    id: e.id,
    item: e.item,
    code: e.code,
    description: e.description,
    unit: e.unit,
    pack: e.pack,
    qty: qtyText(asQty(e.qty)),
    lot: e.lot,
    expires: e.expires,
    serial: e.serial,
    expired: e.expired,
    by: e.by,
    at: e.at.toISOString(),
  };
}

async function readDelivery(db: Db, delivery: DeliveryRow): Promise<Delivery> {
  const entries = await selectEntries(db, delivery.id);
  // Once posted, what was expected is what the receipt met: the order's lines have moved on, so the figures are those of the review.
  const expected = await selectExpected(db, delivery.purchase_order_id);
  const met = delivery.state === 'posted' ? entries.filter((e) => expected.every((x) => x.item !== e.item)).map(asLine) : [];
  const comparison = compareDelivery([...expected.map(asLine), ...met], entries.map(asLine));
  const items = await query<{ id: number; code: string; description: string; unit: string; tracking: string; waiting: number }>(
    db,
    `SELECT i.id, i.code, i.description, i.base_unit AS unit, i.tracking,
       (SELECT count(DISTINCT o.id) FROM order_line l JOIN customer_order o ON o.id = l.order_id LEFT JOIN promise p ON p.line_id = l.id
        WHERE l.item_id = i.id AND o.state = 'open' AND o.site_id = ? AND l.qty > l.shipped + coalesce(p.qty, 0)) AS waiting
     FROM item i WHERE i.id = ANY(?::int[])`,
    [delivery.site_id, comparison.map((c) => c.item)],
  );
  return {
    ...deliveryOut(delivery),
    supplierDoc: delivery.supplier_doc,
    receipt: delivery.receipt_id,
    lines: comparison.map((c) => {
      const item = items.find((i) => i.id === c.item);
      return {
        item: c.item,
        code: item?.code ?? '',
        description: item?.description ?? '',
        unit: item?.unit ?? '',
        tracking: item?.tracking ?? 'none',
        expected: qtyText(c.expected),
        arrived: qtyText(c.arrived),
        difference: qtyText(c.difference),
        standing: c.standing,
        waitingOrders: item?.waiting ?? 0,
      };
    }),
    entryList: entries.map(entryOut),
  };
}
