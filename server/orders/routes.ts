import { isWholeStep } from '#core/base';
import { qtyText } from '#contract/base';
import type { Order, OrderRow } from '#contract/orders';
import { announce, asQty, keysetOf, keysetText, query, refuse, type Db, type RoomHandlers, type Trx } from '#server/kernel';
import { findItem } from '#server/items';
import type { Qty } from '#core/base';
import { promiseOrders } from './promising.ts';
import {
  findOrder,
  insertLine,
  insertOrder,
  lockOpenOrder,
  orderRow,
  reopenPacking,
  selectOrderRows,
  selectOrdersSorted,
  updateHeldFor,
  type OrderListRow,
} from './store.ts';

export const ordersHandlers: RoomHandlers<'orders'> = {
  'orders.list': async (db, { me, query: asked }) => {
    const states = asked.state === 'all' ? ['open', 'shipped', 'cancelled'] : [asked.state];
    const { q, sort: by, limit } = asked;
    const readPage = async (after: string | undefined): Promise<{ rows: OrderListRow[]; next: string | null }> => {
      if (by !== undefined) return selectOrdersSorted(db, { site: me.site.id, states, q, by, after, limit });
      const rows = await selectOrderRows(db, { site: me.site.id, states, q, after: keysetOf(after, 'day', 'number'), limit });
      const last = rows.at(-1);
      return { rows, next: last && rows.length === limit ? keysetText([last.due, last.id]) : null };
    };
    const isWanted = (o: OrderRow): boolean => asked.ready !== 'yes' || (o.ready === 'all' && o.heldFor === null && o.round === null);
    // Whether an order can be picked is judged after it was read: an empty page before the last would look like the end.
    for (let after = asked.after; ;) {
      const { rows, next } = await readPage(after);
      const orders = rows.map(orderRow).filter(isWanted);
      if (orders.length > 0 || next === null) return { orders, next };
      after = next;
    }
  },
  'orders.order': (db, { params }) => readOrder(db, params.id),
  'orders.make': async (trx, { me, body }) => {
    const [customer] = await query(trx, `SELECT 1 FROM customer WHERE id = ?`, [body.customer]);
    if (!customer) refuse({ code: 'orders.unknownCustomer', id: body.customer });
    const made = await insertOrder(trx, { ...body, site: me.site.id, note: body.note ?? '' });
    for (const line of body.lines) await addLine(trx, made.id, line);
    announce(trx, 'orders');
    return made;
  },
  'orders.addLine': async (trx, { me, params, body }) => {
    const order = await lockOpenOrder(trx, params.id, me.site.id);
    await reopenPacking(trx, [order.id]);
    const line = await addLine(trx, params.id, body);
    announce(trx, 'orders', { order: params.id });
    return { line };
  },
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

async function addLine(trx: Trx, order: number, line: { item: number; qty: Qty }): Promise<number> {
  const item = await findItem(trx, line.item);
  if (line.qty <= 0) refuse({ code: 'orders.nothing', item: item.code });
  if (!isWholeStep(line.qty, item.decimals))
    refuse({ code: 'stock.finerThanItem', item: item.code, asked: qtyText(line.qty), decimals: item.decimals });
  return insertLine(trx, order, line);
}

type LineRow = {
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
       ) AS on_order
     FROM order_line l JOIN item i ON i.id = l.item_id LEFT JOIN promise p ON p.line_id = l.id WHERE l.order_id = ? ORDER BY l.id`,
    [order.site_id, order.site_id, order.site_id, id],
  );
  const shipments = await query<{ number: string; at: Date; document: number; parcels: number }>(
    db,
    `SELECT number, at, document_id AS document, parcels FROM shipment WHERE order_id = ? ORDER BY id`,
    [id],
  );
  return {
    ...orderRow(order),
    note: order.note,
    site: order.site,
    cancelledFor: order.cancelled_for,
    at: order.at.toISOString(),
    shipments: shipments.map((s) => ({ ...s, at: s.at.toISOString() })),
    lineList: lines.map((l) => ({
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
    })),
  };
}
