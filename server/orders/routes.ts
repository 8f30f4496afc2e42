import { qtyText } from '#contract/base';
import type { Order, OrderRow } from '#contract/orders';
import { announce, asQty, keysetOf, keysetText, query, refuse, startImport, type Db, type RoomHandlers } from '#server/kernel';
import type { Qty } from '#core/base';
import { sayAsking } from '#core/orders';
import { changeHead } from './change-head.ts';
import { addLines, checkLines, makeOrder, refuseKnownReference } from './make-order.ts';
import { makeKitOrder } from './make-kit.ts';
import { nameLine } from './name-goods.ts';
import { readKit } from './read-kit.ts';
import { promiseOrders } from './promising.ts';
import { explainLines } from './short.ts';
import { selectMaking } from './store-kits.ts';
import { findCustomer, findCustomerByCode, insertCustomer, selectCustomers, updateCustomer } from './store-customers.ts';
import {
  findOrder,
  lockOpenOrder,
  NAMED,
  orderRow,
  reopenPacking,
  replaceExtras,
  selectExtras,
  selectOrderRows,
  selectOrdersSorted,
  updateHeldFor,
  type NamedRow,
  type OrderHead,
  type OrderListRow,
} from './store.ts';

export const ordersHandlers: RoomHandlers<'orders'> = {
  'orders.list': async (db, { me, query: asked }) => {
    const states = asked.state === 'all' ? ['open', 'shipped', 'cancelled'] : [asked.state];
    const { q, sort: by, limit } = asked;
    const where = { site: me.site.id, states, q, kind: asked.kind, due: asked.due };
    const readPage = async (after: string | undefined): Promise<{ rows: OrderListRow[]; next: string | null }> => {
      if (by !== undefined) return selectOrdersSorted(db, { ...where, by, after, limit });
      const rows = await selectOrderRows(db, { ...where, after: keysetOf(after, 'day', 'number'), limit });
      const last = rows.at(-1);
      return { rows, next: last && rows.length === limit ? keysetText([last.due, last.id]) : null };
    };
    const isWanted = (o: OrderRow): boolean => isReadyFor(asked.ready, o) && (asked.step === undefined || o.step === asked.step);
    // Whether an order can be picked is judged after it was read: an empty page before the last would look like the end.
    for (let after = asked.after; ;) {
      const { rows, next } = await readPage(after);
      const orders = rows.map(orderRow).filter(isWanted);
      if (orders.length > 0 || next === null) return { orders, next };
      after = next;
    }
  },
  'orders.order': (db, { params }) => readOrder(db, params.id),
  'orders.make': (trx, { me, body }) =>
    makeOrder(trx, {
      ...headOf(body),
      kind: body.kind,
      customer: body.customer,
      job: body.job,
      toSite: body.toSite,
      lines: body.lines,
      extras: body.extras,
      site: me.site.id,
      source: 'desk',
    }),
  'orders.change': async (trx, { me, params, body }) => {
    const order = await lockOpenOrder(trx, params.id, me.site.id);
    if (order.customer_id !== null)
      await refuseKnownReference(trx, { customer: order.customer_id, reference: body.reference ?? '', but: order.id });
    await changeHead(trx, order, headOf(body));
    await replaceExtras(trx, order.id, body.extras);
    announce(trx, 'orders', { order: order.id });
    announce(trx, 'shipping', { order: order.id });
    return { ok: true };
  },
  'orders.makeKit': (trx, { me, body }) =>
    makeKitOrder(trx, { item: body.item, qty: body.qty, line: body.line, due: body.due, site: me.site.id }),
  'orders.import': (trx, { me, body }) => startImport(trx, 'orders.import', 'Orders', me, body),
  'orders.customers': async (db, { query: asked }) => ({ customers: await selectCustomers(db, asked.q ?? '') }),
  'orders.saveCustomer': async (trx, { body }) => {
    const customer = { ...body, address: body.address ?? '' };
    const taken = await findCustomerByCode(trx, body.code, body.id ?? 0);
    if (taken) refuse({ code: 'orders.customerCodeTaken', customer: body.code, name: taken.name });
    announce(trx, 'orders');
    if (body.id === undefined) return { id: await insertCustomer(trx, customer) };
    if (!(await findCustomer(trx, body.id))) refuse({ code: 'orders.unknownCustomer', id: body.id });
    if (!(await updateCustomer(trx, body.id, body.version ?? 0, customer))) refuse({ code: 'orders.customerChanged', customer: body.name });
    return { id: body.id };
  },
  'orders.addLine': async (trx, { me, params, body }) => {
    const order = await lockOpenOrder(trx, params.id, me.site.id);
    if (order.kind === 'kit') refuse({ code: 'orders.kitLines', number: order.number });
    await checkLines(trx, [body]);
    await reopenPacking(trx, [order.id]);
    const [line = 0] = await addLines(trx, { id: order.id, site: me.site.id }, [body]);
    announce(trx, 'orders', { order: params.id });
    return { line };
  },
  'orders.nameLine': (trx, { me, params, body }) => nameLine(trx, { order: params.id, line: body.line, site: me.site.id, named: body }),
  'orders.promise': (trx, { me, body }) => promiseOrders(trx, { ...body, site: me.site.id }),
  'orders.hold': async (trx, { me, params, body }) => {
    await lockOpenOrder(trx, params.id, me.site.id);
    await updateHeldFor(trx, params.id, body.reason);
    announce(trx, 'orders', { order: params.id });
    return { ok: true };
  },
  'orders.release': async (trx, { me, params }) => {
    const order = await lockOpenOrder(trx, params.id, me.site.id);
    if (order.held_for === null) refuse({ code: 'orders.notHeld', number: order.number });
    await updateHeldFor(trx, params.id, null);
    announce(trx, 'orders', { order: params.id });
    return { ok: true };
  },
};

/** What of an order can be picked, as a list is asked for. “Yes” is what somebody may begin: all of it, and nobody is at it. */
function isReadyFor(asked: 'yes' | OrderRow['ready'] | undefined, o: OrderRow): boolean {
  if (asked === undefined) return true;
  return asked === 'yes' ? o.ready === 'all' && o.heldFor === null && o.round === null : o.ready === asked;
}

type HeadIn = { due: string; priority: number; note?: string | undefined; reference?: string | undefined; carrier?: string | undefined };
const headOf = (body: HeadIn & { leastLife: number | null }): OrderHead => ({
  due: body.due,
  priority: body.priority,
  note: body.note ?? '',
  reference: body.reference ?? '',
  carrier: body.carrier ?? '',
  leastLife: body.leastLife,
});

type LineRow = NamedRow & {
  id: number;
  item: number;
  code: string;
  description: string;
  unit: string;
  tracking: string;
  qty: string;
  promised: string;
  picked: string;
  not_found: string;
  shipped: string;
  usable: string;
  all_promised: string;
  on_order: string;
  kits: number | null;
};

async function readOrder(db: Db, id: number): Promise<Order> {
  const order = await findOrder(db, id);
  const lines = await query<LineRow>(
    db,
    `SELECT l.id, i.id AS item, i.code, i.description, i.base_unit AS unit, i.tracking, l.qty, l.shipped, coalesce(p.qty, 0) AS promised,
       coalesce((SELECT sum(k.qty) FROM in_hand k WHERE k.line_id = l.id), 0) AS picked,
       coalesce((SELECT sum(t.missing) FROM trouble t WHERE t.line_id = l.id AND t.settled_at IS NULL), 0) AS not_found,
       coalesce(
         (
           SELECT sum(f.qty)
           FROM stock_fact f
           WHERE f.item_id = i.id AND f.site_id = ? AND f.usable
         ), 0
       ) AS usable,
       coalesce((SELECT sum(r.qty) FROM promise r WHERE r.item_id = i.id AND r.site_id = ?), 0) AS all_promised,
       coalesce(
         (
           SELECT sum(x.open)
           FROM expected_line x
           WHERE x.item_id = i.id AND x.site_id = ?
         ), 0
       ) AS on_order, a.good_on,
       (
         SELECT floor(min(greatest(0, coalesce(u.usable, 0) - coalesce(v.promised, 0)) / k.qty))
         FROM kit_part k
         LEFT JOIN LATERAL (
           SELECT sum(f.qty) AS usable FROM stock_fact f WHERE f.item_id = k.part_id AND f.site_id = o.site_id AND f.usable
         ) u ON true
         LEFT JOIN LATERAL (SELECT sum(r.qty) AS promised FROM promise r WHERE r.item_id = k.part_id AND r.site_id = o.site_id) v ON true
         WHERE k.kit_id = i.id
       )::int AS kits,
       ${NAMED} AS named
     FROM order_line l
     JOIN customer_order o ON o.id = l.order_id
     JOIN line_asking a ON a.line_id = l.id
     JOIN item i ON i.id = l.item_id
     LEFT JOIN promise p ON p.line_id = l.id
     WHERE l.order_id = ? AND l.qty > 0
     ORDER BY l.id`,
    [order.site_id, order.site_id, order.site_id, id],
  );
  const open = order.state === 'open';
  const explained = await explainLines(
    db,
    order.site_id,
    lines.map((l) => ({
      item: l.item,
      order: order.number,
      asks: sayAsking({ ...l.named, goodOn: l.good_on }),
      qty: (open ? asQty(l.qty) - asQty(l.shipped) - asQty(l.promised) : 0) as Qty,
    })),
  );
  const extras = await selectExtras(db, id);
  const making = await selectMaking(db, id);
  const shipments = await query<{ number: string; at: Date; document: number; parcels: number }>(
    db,
    `SELECT number, at, document_id AS document, parcels FROM shipment WHERE order_id = ? ORDER BY id`,
    [id],
  );
  return {
    ...orderRow(order),
    note: order.note,
    carrier: order.carrier,
    leastLife: order.least_life,
    wholeOnly: order.whole_only,
    extras: extras.map((e) => ({ ...e, qty: qtyText(asQty(e.qty)) })),
    site: order.site,
    cancelledFor: order.cancelled_for,
    at: order.at.toISOString(),
    kit: order.kind === 'kit' ? await readKit(db, id) : null,
    shipments: shipments.map((s) => ({ ...s, at: s.at.toISOString() })),
    lineList: lines.map((l, n) => ({
      id: l.id,
      item: l.item,
      code: l.code,
      description: l.description,
      unit: l.unit,
      tracking: l.tracking,
      qty: qtyText(asQty(l.qty)),
      promised: qtyText(asQty(l.promised)),
      picked: qtyText(asQty(l.picked)),
      notFound: qtyText(asQty(l.not_found)),
      shipped: qtyText(asQty(l.shipped)),
      free: qtyText((asQty(l.usable) - asQty(l.all_promised)) as Qty),
      onOrder: qtyText(asQty(l.on_order)),
      kits: l.kits,
      making: making.filter((m) => m.line === l.id).map((m) => ({ id: m.id, number: m.number, left: qtyText(asQty(m.left)) })),
      named: l.named,
      asks: sayAsking({ ...l.named, goodOn: l.good_on }),
      why: explained[n]?.why ?? [],
    })),
  };
}
