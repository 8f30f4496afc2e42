import type { Response } from 'express';
import { formatAmount, parseAmount, roundAmount, worthOf } from '#core/base';
import type { PurchaseState } from '#core/purchasing';
import { qtyText } from '#contract/base';
import type { Purchase, PurchaseRow } from '#contract/purchasing';
import { announce, asQty, query, refuse, startImport, type Db, type House, type RoomHandlers } from '#server/kernel';
import { selectHouse } from '#server/people';
import { draftPurchases, readReorder, setLevel } from './reorder.ts';
import { approvePurchase, changePurchase, endPurchase, makePurchase, sendPurchase, takeUpPurchase } from './save.ts';
import {
  findPurchase,
  selectDeliveriesOf,
  selectPurchaseLines,
  selectPurchases,
  selectSuppliers,
  updateAgreed,
  type PurchaseListRow,
} from './store.ts';
import { writeUblOrder } from './ubl-order.ts';

const ALL: readonly PurchaseState[] = ['draft', 'open', 'closed', 'cancelled'];

export const purchasingHandlers: RoomHandlers<'purchasing'> = {
  'purchasing.list': async (db, { me, query: asked }) => {
    const { state, sort: by, ...rest } = asked;
    const { q, supplier, from, to, after, limit } = rest;
    const states = state === 'all' ? ALL : [state];
    const { rows, next } = await selectPurchases(db, { site: me.site.id, states, by, q, supplier, from, to, after, limit });
    return { orders: rows.map(rowOut), next };
  },
  'purchasing.order': (db, { params }) => readPurchase(db, params.id),
  'purchasing.make': (trx, { me, body }) => makePurchase(trx, { ...body, site: me.site.id, person: me.id }),
  'purchasing.change': (trx, { me, params, body }) => changePurchase(trx, { ...body, order: params.id, site: me.site.id, person: me.id }),
  'purchasing.approve': async (trx, { me, params, body }) => {
    await approvePurchase(trx, { ...body, order: params.id, site: me.site.id, person: me.id });
    return { ok: true };
  },
  'purchasing.sent': async (trx, { me, params, body }) => {
    await sendPurchase(trx, { ...body, order: params.id, site: me.site.id, person: me.id });
    return { ok: true };
  },
  'purchasing.cancel': async (trx, { me, params, body }) => {
    await endPurchase(trx, { ...body, act: 'cancel', order: params.id, site: me.site.id, person: me.id });
    return { ok: true };
  },
  'purchasing.close': async (trx, { me, params, body }) => {
    await endPurchase(trx, { ...body, act: 'close', order: params.id, site: me.site.id, person: me.id });
    return { ok: true };
  },
  'purchasing.takeUp': async (trx, { me, params }) => {
    await takeUpPurchase(trx, { order: params.id, site: me.site.id, person: me.id });
    return { ok: true };
  },
  'purchasing.import': (trx, { me, body }) => startImport(trx, 'purchasing.import', 'Purchase orders', me, body),
  'purchasing.suppliers': async (db, { me }) => ({ suppliers: await selectSuppliers(db, me.site.id) }),
  'purchasing.agree': async (trx, { params, body }) => {
    if (!(await updateAgreed(trx, params.id, body))) refuse({ code: 'items.unknownSupplier', text: String(params.id) });
    announce(trx, 'purchasing');
    announce(trx, 'receiving');
    return { ok: true };
  },
  'purchasing.reorder': (db, { me, query: asked }) => readReorder(db, { site: me.site.id, ...asked }),
  'purchasing.setLevel': async (trx, { me, body }) => {
    await setLevel(trx, { ...body, site: me.site.id });
    return { ok: true };
  },
  'purchasing.draft': async (trx, { me, body }) => ({
    orders: await draftPurchases(trx, { ...body, site: me.site.id, person: me.id }),
  }),
};

function rowOut(o: PurchaseListRow): PurchaseRow {
  return {
    id: o.id,
    number: o.number,
    supplier: o.supplier,
    supplierId: o.supplier_id,
    state: o.state,
    due: o.due,
    late: o.late,
    lines: o.lines,
    openLines: o.open_lines,
    partly: o.partly,
    total: roundAmount(o.total),
    made: o.at.toISOString(),
    sent: o.sent_at !== null,
  };
}

async function readPurchase(db: Db, id: number): Promise<Purchase> {
  const order = await findPurchase(db, id);
  const lines = await selectPurchaseLines(db, id);
  const deliveries = await selectDeliveriesOf(db, id);
  const stamp = (at: Date | null, by: string | null) => (at === null ? null : { at: at.toISOString(), by: by ?? '' });
  const ended = stamp(order.ended_at, order.ended_by);
  return {
    ...rowOut(order),
    site: order.site,
    reference: order.reference,
    note: order.note,
    version: order.version,
    madeBy: order.made_by,
    approved: stamp(order.approved_at, order.approved_by),
    sentAs: order.sent_as,
    sentStamp: stamp(order.sent_at, order.sent_by),
    ended: ended && { ...ended, why: order.ended_for },
    lineList: lines.map((l) => ({
      id: l.id,
      item: l.item,
      code: l.code,
      description: l.description,
      unit: l.unit,
      partNo: l.part_no,
      qty: qtyText(asQty(l.qty)),
      received: qtyText(asQty(l.received)),
      closed: l.closed,
      cost: roundAmount(l.cost, 4).replace(/0{1,2}$/, ''),
      total: formatAmount(worthOf(parseAmount(l.cost), asQty(l.qty))),
      packs: l.packs,
    })),
    deliveries: deliveries.map((d) => ({ ...d, touched: d.touched.toISOString() })),
  };
}

/** A purchase order as UBL 2.1, to be saved. */
export async function givePurchaseUbl(house: House, asked: { id: number }, res: Response): Promise<void> {
  const order = await findPurchase(house.db, asked.id);
  const lines = await selectPurchaseLines(house.db, order.id);
  const { company, currency } = await selectHouse(house.db);
  const [places] = await query<{ code: string; name: string; address: string; site: string; site_address: string; site_code: string }>(
    house.db,
    `SELECT s.code, s.name, s.address, w.name AS site, w.address AS site_address, w.code AS site_code
     FROM supplier s, site w
     WHERE s.id = ? AND w.id = ?`,
    [order.supplier_id, order.site_id],
  );
  const site = { name: places?.site ?? '', address: places?.site_address ?? '' };
  const seller = { name: places?.name ?? '', code: places?.code ?? '', address: places?.address ?? '' };
  const buyer = { name: company, code: places?.site_code ?? '', address: site.address };
  res
    .type('application/xml; charset=utf-8')
    .set('Content-Disposition', `attachment; filename="order-${order.number}.xml"`)
    .send(writeUblOrder({ order, lines, buyer, seller, site, currency }));
}
