import { randomUUID } from 'node:crypto';
import { ONE, type ItemId, type Qty } from '#core/base';
import { packToBase } from '#core/items';
import { mayReadCosts } from '#core/people';
import { compareDelivery, compareReturn } from '#core/receiving';
import { qtyText } from '#contract/base';
import type { Delivery, EntryOut } from '#contract/receiving';
import type { Me } from '#contract/people';
import { announce, asQty, lockRows, query, refuse, startImport, type Db, type RoomHandlers, type Trx } from '#server/kernel';
import { findItem, findItemByScan, refuseUnreadLots, selectLot } from '#server/items';
import { beginDelivery, beginReturn } from './begin.ts';
import { inspectionHandlers } from './inspect-routes.ts';
import { noticeHandlers } from './notice-routes.ts';
import { keyInvoice, readInvoice } from './invoice.ts';
import { selectFindings, selectPhotos, type FoundOut } from './store-inspect.ts';
import {
  changeEntry,
  enterGoods,
  finishDelivery,
  knownCustomer,
  nameCustomer,
  namePaper,
  nameSupplier,
  stateWord,
  takeOutEntry,
  type Floor,
} from './enter.ts';
import { postDelivery } from './post-delivery.ts';
import { reverseEntry } from './reverse-entry.ts';
import { placeEntry } from './where-to.ts';
import {
  findDelivery,
  lockDelivery,
  selectDeliveries,
  selectKeys,
  selectOpenDeliveriesOf,
  updateDeliveryState,
  updateThrownBy,
  type DeliveryRow,
} from './store.ts';
import { selectEntries, updateEntry, type EntryRow } from './store-entries.ts';
import { selectExpected, selectMet, selectReceivableOrders } from './store-expected.ts';
import { selectLeftWith, selectOtherReturn, selectShipments } from './store-returns.ts';
import { lockSheets, selectOtherOfSheets } from './store-sheet.ts';

export const receivingHandlers: RoomHandlers<'receiving'> = {
  ...inspectionHandlers,
  ...noticeHandlers,
  'receiving.invoice': (db, { params }) => readInvoice(db, params.id),
  'receiving.keyInvoice': async (trx, { me, params, body }) => {
    await keyInvoice(trx, { delivery: params.id, site: me.site.id, person: me.id, lines: body.lines });
    return { ok: true };
  },
  'receiving.expected': async (db, { me }) => ({
    orders: await query(
      db,
      `SELECT o.id, o.number, s.id AS "supplierId", s.name AS supplier, o.due, o.due < today_at(o.site_id) AS late, count(l.id) AS lines,
         count(l.id) FILTER (WHERE NOT l.closed AND l.received < l.qty) AS "openLines", bool_or(l.received > 0) AS partly,
         d.id AS delivery, d.state AS "deliveryState"
       FROM purchase_order o
       JOIN supplier s ON s.id = o.supplier_id
       JOIN purchase_line l ON l.purchase_order_id = o.id
       LEFT JOIN delivery_order x ON x.purchase_order_id = o.id AND x.open
       LEFT JOIN delivery d ON d.id = x.delivery_id
       WHERE o.state = 'open' AND o.site_id = ?
       GROUP BY o.id, s.id, d.id
       HAVING count(l.id) FILTER (WHERE NOT l.closed AND l.received < l.qty) > 0 ORDER BY o.due, o.id LIMIT 500`,
      [me.site.id],
    ),
  }),
  'receiving.deliveries': async (db, { me, query: asked }) => ({
    deliveries: (await selectDeliveries(db, me.site.id, asked.state === 'open' ? ['scanning', 'review'] : [asked.state])).map(deliveryOut),
  }),
  'receiving.start': async (trx, { me, body }) => {
    const { orders = [], supplier = null, purchaseOrder } = body;
    const named = purchaseOrder === undefined ? [] : [await findReceivable(trx, me.site.id, purchaseOrder)];
    const { id, number } = await beginDelivery(trx, {
      site: me.site.id,
      person: me.id,
      key: null,
      supplier,
      orders: [...named, ...orders],
    });
    return { id, number };
  },
  'receiving.takeBack': async (trx, { me, body }) => {
    const [shipment] = body.shipment ? await selectShipments(trx, me.site.id, body.shipment) : [];
    if (body.shipment && !shipment) return refuse({ code: 'receiving.unknownShipment', text: body.shipment });
    if (body.customer !== null) await knownCustomer(trx, body.customer);
    return beginReturn(trx, { site: me.site.id, person: me.id, key: null, shipment: shipment?.id ?? null, customer: body.customer });
  },
  'receiving.customer': async (trx, { me, params, body }) => {
    await nameCustomer(trx, { delivery: params.id, site: me.site.id, ...body });
    return { ok: true };
  },
  'receiving.import': (trx, { me, body }) => startImport(trx, 'receiving.import', 'Received goods', me, body),
  'receiving.paper': async (trx, { me, params, body }) => {
    await namePaper(trx, { delivery: params.id, site: me.site.id, doc: body.doc ?? '', date: body.date });
    return { ok: true };
  },
  'receiving.supplier': async (trx, { me, params, body }) => {
    await nameSupplier(trx, { delivery: params.id, site: me.site.id, ...body });
    return { ok: true };
  },
  'receiving.delivery': async (db, { me, params }) => readDelivery(db, await findDelivery(db, params.id), mayReadCosts(me.role)),
  'receiving.scan': async (trx, { me, params, body }) => {
    const scanned = await findItemByScan(trx, body.code);
    await refuseUnreadLots(trx, [{ item: scanned.id, lot: body.lot }]);
    const quantity =
      (body.packs === undefined ? scanned.labelled : null) ??
      packToBase(body.packs ?? ONE, scanned.pack) ??
      refuse({ code: 'receiving.tooFine', item: scanned.code, decimals: scanned.decimals });
    const { id, line } = await enterGoods(
      trx,
      {
        ...floorOf(me, body.device),
        key: randomUUID(),
        delivery: params.id,
        item: scanned,
        pack: scanned.pack.id,
        qty: quantity,
        lot: body.lot || scanned.lot,
        expires: body.expires ?? scanned.expires,
        made: body.made ?? scanned.made,
        serial: body.serial || scanned.serialCode,
        sscc: scanned.sscc,
        takeAnyway: body.takeAnyway,
      },
      'refuse',
    );
    const [own] = await selectEntries(trx, params.id, id);
    return {
      entry: entryOut(own as EntryRow),
      line: { expected: qtyText(line.expected), arrived: qtyText(line.arrived), standing: line.standing },
    };
  },
  'receiving.change': async (trx, { me, params, body }) => {
    const own = { delivery: params.id, entry: { id: params.entry }, lead: me.role === 'lead', told: false };
    await changeEntry(trx, { ...floorOf(me), ...own, qty: body.qty });
    return { ok: true };
  },
  'receiving.place': async (trx, { me, params, body }) => {
    const own = { delivery: params.id, entry: { id: params.entry }, lead: me.role === 'lead', told: false };
    await placeEntry(trx, { ...floorOf(me), ...own, ...body, key: randomUUID() });
    return { ok: true };
  },
  'receiving.takeOut': async (trx, { me, params }) => {
    const own = { delivery: params.id, entry: { id: params.entry }, lead: me.role === 'lead', told: false };
    await takeOutEntry(trx, { ...floorOf(me), ...own });
    return { ok: true };
  },
  'receiving.lotDate': (trx, { me, body }) => settleLotDate(trx, { ...body, site: me.site.id, person: me.id }),
  'receiving.finish': async (trx, { me, params }) => {
    await finishDelivery(trx, { delivery: params.id, site: me.site.id });
    return { ok: true };
  },
  'receiving.reopen': async (trx, { me, params }) => {
    await lockInState(trx, params.id, me.site.id, 'review');
    return setState(trx, params.id, 'scanning');
  },
  'receiving.throwAway': async (trx, { me, params }) => {
    const delivery = await lockDelivery(trx, params.id, me.site.id);
    if (delivery.state === 'posted' || delivery.state === 'thrown')
      refuse({ code: 'receiving.notOpen', number: delivery.number, state: stateWord(delivery.state) });
    // A hand takes back what was begun by mistake; what was scanned is the lead's to throw away.
    if (me.role !== 'lead' && delivery.entries > 0)
      refuse({ code: 'people.noRight', role: me.role, act: 'Throwing a delivery with entries away' });
    await updateThrownBy(trx, params.id, me.id);
    return setState(trx, params.id, 'thrown');
  },
  'receiving.takeUp': async (trx, { me, params }) => {
    await lockSheets(trx);
    const delivery = await lockDelivery(trx, params.id, me.site.id);
    if (delivery.state !== 'thrown') refuse({ code: 'receiving.notThrown', number: delivery.number });
    const [begun] = await selectOpenDeliveriesOf(
      trx,
      delivery.orders.map((o) => o.id),
    );
    const other = begun?.number ?? (await selectOtherReturn(trx, delivery.id)) ?? (await selectOtherOfSheets(trx, delivery.id));
    if (other) refuse({ code: 'receiving.begunAgain', number: delivery.number, other });
    return setState(trx, params.id, 'scanning');
  },
  'receiving.reverse': async (trx, { me, params, body }) => {
    const done = await reverseEntry(trx, { ...body, delivery: params.id, entry: params.entry, site: me.site.id, person: me.id });
    return { ...done, broughtBack: done.broughtBack.map((b) => ({ bin: b.bin, qty: qtyText(b.qty) })) };
  },
  'receiving.post': (trx, { me, params, body }) => postDelivery(trx, { delivery: params.id, site: me.site.id, person: me.id, ...body }),
};

const asLine = (row: { item: number; qty: string }): { item: ItemId; qty: Qty } => ({ item: row.item as ItemId, qty: asQty(row.qty) });

const floorOf = (me: Me, device?: string): Floor => ({ site: me.site.id, person: me.id, device: device ?? null, at: null });

/** Says which date a lot has, where two were keyed: every entry of it in a delivery that is open gets this one, each with its history.
 *  Errors: a date other than that of a lot that is in stock.
 *  Locks:  every open delivery that holds the lot. */
async function settleLotDate(
  trx: Trx,
  command: { item: number; lot: string; expires: string; site: number; person: number },
): Promise<{ entries: number }> {
  const item = await findItem(trx, command.item);
  const holding = await query<{ id: number }>(
    trx,
    `SELECT DISTINCT d.id FROM delivery d JOIN delivery_entry e ON e.delivery_id = d.id
     WHERE e.item_id = ? AND e.lot = ? AND e.taken_out_at IS NULL AND d.state IN ('scanning', 'review')`,
    [item.id, command.lot],
  );
  await lockRows(
    trx,
    'delivery',
    holding.map((d) => d.id),
  );
  const known = await selectLot(trx, item.id, command.lot);
  if (known?.expires && known.expires !== command.expires)
    refuse({ code: 'receiving.dateDiffers', item: item.code, lot: command.lot, known: known.expires, given: command.expires });
  const entries = await query<{ id: number }>(
    trx,
    `SELECT e.id
     FROM delivery_entry e
     JOIN delivery d ON d.id = e.delivery_id
     WHERE d.id = ANY(?::int[]) AND d.state IN ('scanning', 'review')
     AND e.item_id = ? AND e.lot = ? AND e.taken_out_at IS NULL AND e.expires IS DISTINCT FROM ? ORDER BY e.id`,
    [holding.map((d) => d.id), item.id, command.lot, command.expires],
  );
  for (const { id } of entries) await updateEntry(trx, { entry: id, person: command.person, expires: command.expires });
  announce(trx, 'receiving');
  return { entries: entries.length };
}

// The purchase order of this number, as somebody scanned it.
async function findReceivable(trx: Trx, site: number, text: string): Promise<number> {
  const [named] = await query<{ id: number }>(trx, `SELECT id FROM purchase_order WHERE number = ?`, [text.trim().toUpperCase()]);
  const [order] = named ? await selectReceivableOrders(trx, site, [named.id]) : [];
  return order?.id ?? refuse({ code: 'receiving.unknownOrder', text: text.slice(0, 60) });
}

async function lockInState(trx: Trx, id: number, site: number, state: DeliveryRow['state']): Promise<DeliveryRow> {
  const delivery = await lockDelivery(trx, id, site);
  if (delivery.state !== state) refuse({ code: 'receiving.notOpen', number: delivery.number, state: stateWord(delivery.state) });
  return delivery;
}

async function setState(trx: Trx, id: number, state: DeliveryRow['state']): Promise<{ ok: true }> {
  await updateDeliveryState(trx, id, state);
  announce(trx, 'receiving', { delivery: id });
  return { ok: true };
}

function deliveryOut(d: DeliveryRow) {
  return {
    id: d.id,
    number: d.number,
    state: d.state,
    supplier: d.supplier,
    back: d.back,
    orders: d.orders,
    site: d.site,
    by: d.by,
    at: d.at.toISOString(),
    touched: d.touched.toISOString(),
    entries: d.entries,
  };
}

const findingOut = (f: FoundOut): EntryOut['finding'] => ({
  ...f,
  at: f.at.toISOString(),
  checked: qtyText(f.checked),
  failed: f.failed.map((x) => ({ reason: x.reason, qty: qtyText(x.qty) })),
});

function entryOut(
  e: EntryRow,
  {
    finding,
    photos = [],
    leftWith = null,
    withCosts = false,
  }: { finding?: FoundOut | undefined; photos?: readonly number[] | undefined; leftWith?: string | null; withCosts?: boolean } = {},
): EntryOut {
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
    made: e.made,
    serial: e.serial,
    sscc: e.sscc,
    cost: withCosts ? e.cost : null,
    expired: e.expired,
    by: e.by,
    byId: e.by_id,
    at: e.at.toISOString(),
    finding: finding ? findingOut(finding) : null,
    photos: [...photos],
    leftWith,
    goesTo: e.to_bin === null ? null : { bin: e.to_bin, address: e.to_address ?? '' },
    handedIn: e.handed_in,
    reversed: e.reversal,
    changes: e.changes,
  };
}

async function readDelivery(db: Db, delivery: DeliveryRow, withCosts: boolean): Promise<Delivery> {
  const entries = await selectEntries(db, delivery.id);
  const findings = await selectFindings(
    db,
    entries.map((e) => e.id),
  );
  const photos = await selectPhotos(db, delivery.id);
  const leftWith = await selectLeftWith(db, delivery.id);
  // Once posted, what was expected is what the receipt met: the order's lines go on to change, the receipt does not.
  const expected = delivery.state === 'posted' && !delivery.back ? await selectMet(db, delivery.id) : await selectExpected(db, delivery.id);
  const [due, arrived] = [expected.map(asLine), entries.filter((e) => e.reversal === null).map(asLine)];
  const comparison = delivery.back ? compareReturn(due, arrived) : compareDelivery(due, arrived, delivery);
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
    supplierDocDate: delivery.supplier_doc_date,
    supplierId: delivery.supplier_id,
    refs: await selectKeys(db, delivery.id),
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
    entryList: entries.map((e) =>
      entryOut(e, { finding: findings.get(e.id), photos: photos.get(e.id), leftWith: leftWith.get(e.id) ?? null, withCosts }),
    ),
  };
}
