import type { Qty } from '#core/base';
import {
  asQty,
  dbQty,
  lockRows,
  query,
  queryOne,
  refuse,
  type Db,
  type Trx,
  selectSorted,
  type SortBy,
  type SortKey,
} from '#server/kernel';
import { blockingLine, reckonReady, reckonStep } from '#core/orders';
import { qtyText } from '#contract/base';
import type { ORDER_SORTS, OrderRow } from '#contract/orders';

type Reads = Pick<Db, 'raw'>;
export type OrderListRow = {
  id: number;
  number: string;
  site_id: number;
  site: string;
  customer_id: number | null;
  kind: OrderRow['kind'];
  customer: string;
  reference: string;
  carrier: string;
  least_life: number | null;
  whole_only: boolean;
  due: string;
  late: boolean;
  priority: number;
  state: 'open' | 'shipped' | 'cancelled';
  held_for: string | null;
  note: string;
  cancelled_for: string | null;
  at: Date;
  packed_at: Date | null;
  lines: number;
  pieces: string;
  line_states: { code: string; open: string; promised: string; notFound: string }[];
  picked: string;
  put_down: string;
  round: string | null;
};

const LISTED = `SELECT o.id, o.number, o.site_id, o.customer_id, s.name AS site, o.kind, c.name AS customer, o.reference, o.carrier,
  o.least_life, coalesce((SELECT w.whole_only FROM customer w WHERE w.id = o.customer_id), false) AS whole_only,
  o.due, o.state = 'open' AND o.due < today_at(o.site_id) AS late, o.priority, o.state, o.held_for, o.note, o.cancelled_for,
  o.at, o.packed_at,
  (SELECT count(*) FROM order_line l WHERE l.order_id = o.id AND l.qty > 0) AS lines,
    (SELECT coalesce(sum(l.qty), 0) FROM order_line l WHERE l.order_id = o.id) AS pieces,
  coalesce((SELECT json_agg(json_build_object('code', i.code, 'open', (l.qty - l.shipped)::text, 'promised', coalesce(p.qty, 0)::text,
    'notFound', coalesce(
      (SELECT sum(t.missing) FROM trouble t WHERE t.line_id = l.id AND t.settled_at IS NULL), 0
    )::text) ORDER BY l.id)
    FROM order_line l JOIN item i ON i.id = l.item_id LEFT JOIN promise p ON p.line_id = l.id
    WHERE l.order_id = o.id), '[]') AS line_states,
  (SELECT coalesce(sum(k.qty), 0) FROM in_hand k JOIN order_line l ON l.id = k.line_id WHERE l.order_id = o.id) AS picked,
  (SELECT coalesce(sum(k.qty), 0) FROM in_hand k JOIN order_line l ON l.id = k.line_id WHERE l.order_id = o.id AND k.put_down) AS put_down,
  (
    SELECT r.number
    FROM round_pick rp
    JOIN round r ON r.id = rp.round_id
    JOIN order_line l ON l.id = rp.line_id
    WHERE l.order_id = o.id AND r.state = 'open' AND rp.qty > 0
    LIMIT 1
  ) AS round
  FROM customer_order o JOIN order_party c ON c.order_id = o.id JOIN site s ON s.id = o.site_id`;

/** Which orders of a site somebody wants to see. */
export type OrdersWanted = {
  readonly site: number;
  readonly states: readonly string[];
  readonly q?: string | undefined;
  readonly kind?: string | undefined;
  readonly due?: 'today' | 'late' | undefined;
  readonly ids?: readonly number[];
};

const WANTED = `o.site_id = ? AND o.state = ANY(?::text[]) AND (o.number ILIKE ? OR c.name ILIKE ? OR o.reference ILIKE ?)
  AND (?::text IS NULL OR o.kind = ?) AND (?::int IS NULL OR o.due <= today_at(o.site_id) - ?::int)
  AND (?::int[] IS NULL OR o.id = ANY(?::int[]))`;

function wantedValues(where: OrdersWanted): unknown[] {
  const like = `%${(where.q ?? '').replace(/[\\%_]/g, (c) => `\\${c}`)}%`;
  const [kind, due, ids] = [where.kind ?? null, where.due === undefined ? null : where.due === 'late' ? 1 : 0, where.ids ?? null];
  return [where.site, where.states, like, like, like, kind, kind, due, due, ids, ids];
}

/** Orders of a site, most urgent first, after a (due, id) place. */
export async function selectOrderRows(
  db: Reads,
  where: OrdersWanted & { after?: (string | number)[] | null; limit: number },
): Promise<OrderListRow[]> {
  return query<OrderListRow>(db, `${LISTED} WHERE ${WANTED} AND (o.due, o.id) > (?::date, ?) ORDER BY o.due, o.id LIMIT ?`, [
    ...wantedValues(where),
    where.after?.[0] ?? '0001-01-01',
    where.after?.[1] ?? 0,
    where.limit,
  ]);
}

const SORTS: Readonly<Record<(typeof ORDER_SORTS)[number], SortKey>> = {
  number: { sql: 'number', kind: 'text' },
  customer: { sql: 'lower(customer)', kind: 'text' },
  due: { sql: 'due::text', kind: 'text' },
  priority: { sql: 'priority', kind: 'decimal' },
  lines: { sql: 'lines', kind: 'decimal' },
  pieces: { sql: 'pieces', kind: 'decimal' },
};

/** Orders of a site in an order that somebody chose. */
export function selectOrdersSorted(
  db: Reads,
  where: OrdersWanted & { by: SortBy<(typeof ORDER_SORTS)[number]>; after: string | undefined; limit: number },
): Promise<{ rows: OrderListRow[]; next: string | null }> {
  return selectSorted<OrderListRow, (typeof ORDER_SORTS)[number]>(db, {
    ...where,
    rows: `${LISTED} WHERE ${WANTED}`,
    values: wantedValues(where),
    keys: SORTS,
  });
}

/** The order by id or number, refusing `orders.unknownOrder`. */
export async function findOrder(db: Reads, idOrNumber: number | string): Promise<OrderListRow> {
  const byId = typeof idOrNumber === 'number';
  const value = byId ? idOrNumber : idOrNumber.trim();
  return (
    (await query<OrderListRow>(db, `${LISTED} WHERE ${byId ? 'o.id = ?' : 'o.number = upper(?)'}`, [value]))[0] ??
    refuse({ code: 'orders.unknownOrder', text: String(idOrNumber).slice(0, 60) })
  );
}

/** What a line `l`, of which `a` says what it asks, names of its goods, as it stands on labels. */
export const NAMED = `json_build_object('lot', (SELECT v.code FROM lot v WHERE v.id = l.lot_id),
  'bin', (SELECT b.address FROM bin b WHERE b.id = l.bin_id),
  'serials', (SELECT coalesce(json_agg(s.code ORDER BY s.code), '[]') FROM serial s WHERE s.id = ANY(a.serial_ids)))`;
export type NamedRow = { named: { lot: string | null; serials: string[]; bin: string | null }; good_on: string | null };

/** An order as whoever locks it needs it: what it is, and whether it may be worked on. What all its lines come to takes longer to read than
 *  a hand may wait. */
export type LockedOrder = Pick<
  OrderListRow,
  'id' | 'number' | 'site_id' | 'site' | 'kind' | 'customer_id' | 'state' | 'held_for' | 'due' | 'least_life' | 'packed_at'
>;

/** Locks orders and reads them as they are then, in order of id. Whatever happens to an order happens under this lock.
 *  Errors: `orders.unknownOrder`; `people.otherSite` for the first that belongs to another site than `site`. */
export async function lockOrders(trx: Trx, ids: readonly number[], site: number): Promise<LockedOrder[]> {
  const found = await lockRows(trx, 'order', ids);
  const unknown = ids.find((id) => !found.includes(id));
  if (unknown !== undefined) refuse({ code: 'orders.unknownOrder', text: String(unknown) });
  const orders = await query<LockedOrder>(
    trx,
    `SELECT o.id, o.number, o.site_id, s.name AS site, o.kind, o.customer_id, o.state, o.held_for, o.due, o.least_life, o.packed_at
     FROM customer_order o
     JOIN site s ON s.id = o.site_id
     WHERE o.id = ANY(?::int[])
     ORDER BY o.id`,
    [found],
  );
  const foreign = orders.find((o) => o.site_id !== site);
  if (foreign) refuse({ code: 'people.otherSite', what: `Order ${foreign.number}`, site: foreign.site });
  return orders;
}

/** The same for one that must be open still. */
export async function lockOpenOrder(trx: Trx, id: number, site: number): Promise<LockedOrder> {
  const [order] = await lockOrders(trx, [id], site);
  if (!order) return refuse({ code: 'orders.unknownOrder', text: String(id) });
  if (order.state !== 'open') refuse({ code: 'orders.notOpen', number: order.number, state: order.state });
  return order;
}

/** What was packed is to be looked at again, because goods or lines came to the order since. */
export async function reopenPacking(trx: Trx, orders: readonly number[]): Promise<void> {
  await query(trx, `UPDATE customer_order SET packed_at = NULL, changed = now_here() WHERE id = ANY(?::int[]) AND packed_at IS NOT NULL`, [
    orders,
  ]);
}

/** An order as the lists show it, with the step that it has come to. */
export function orderRow(o: OrderListRow): OrderRow {
  const lines = o.line_states.map((l) => ({ ...l, open: asQty(l.open), promised: asQty(l.promised), notFound: asQty(l.notFound) }));
  const ready = reckonReady(lines);
  const blocking = o.state === 'open' ? blockingLine(lines) : null;
  return {
    id: o.id,
    number: o.number,
    kind: o.kind,
    customer: o.customer,
    reference: o.reference,
    blocked: blocking && { code: blocking.line.code, qty: qtyText(blocking.qty) },
    due: o.due,
    late: o.late,
    priority: o.priority,
    state: o.state,
    heldFor: o.held_for,
    lines: o.lines,
    pieces: qtyText(asQty(o.pieces)),
    ready,
    round: o.round,
    step: stepOf(o),
  };
}

const stepOf = (o: OrderListRow): OrderRow['step'] =>
  reckonStep({
    state: o.state,
    isHeld: o.held_for !== null,
    isOnRound: o.round !== null,
    putDown: asQty(o.put_down),
    isPacked: o.packed_at !== null,
    promised: o.line_states.map((l) => asQty(l.promised)),
  });

export type OrderHead = {
  readonly due: string;
  readonly priority: number;
  readonly note: string;
  readonly reference: string;
  readonly carrier: string;
  readonly leastLife: number | null;
};
export type NewOrder = OrderHead & {
  readonly site: number;
  readonly kind: OrderRow['kind'];
  readonly customer: number | null;
  readonly job: string | null;
  readonly toSite: number | null;
  readonly source: 'desk' | 'sheet' | 'file' | 'channel';
};

/** Writes an order without lines, under the next number. */
export function insertOrder(trx: Trx, order: NewOrder): Promise<{ id: number; number: string }> {
  return queryOne<{ id: number; number: string }>(
    trx,
    `INSERT INTO customer_order (number, site_id, kind, customer_id, job, to_site, due, priority, note, reference, carrier, least_life,
       source)
     VALUES ('CO-' || nextval('number_co'), ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)
     RETURNING id, number`,
    [
      order.site,
      order.kind,
      order.customer,
      order.job,
      order.toSite,
      order.due,
      order.priority,
      order.note,
      order.reference,
      order.carrier,
      order.leastLife,
      order.source,
    ],
  );
}

/** Writes lines of an order, in their order; returns their numbers. */
export async function insertLines(trx: Trx, order: number, lines: readonly { item: number; qty: Qty }[]): Promise<number[]> {
  if (lines.length === 0) return [];
  const made = await query<{ id: number }>(
    trx,
    `INSERT INTO order_line (order_id, item_id, qty)
     SELECT ?, x.item, x.qty
     FROM unnest(?::int[], ?::numeric[]) WITH ORDINALITY AS x(item, qty, turn)
     ORDER BY x.turn
     RETURNING id`,
    [order, lines.map((l) => l.item), lines.map((l) => dbQty(l.qty))],
  );
  return made.map((l) => l.id);
}

/** Says what of an order stands beside its goods, in place of what stood there. */
export async function replaceExtras(trx: Trx, order: number, extras: readonly { text: string; qty: Qty }[]): Promise<void> {
  await query(trx, `DELETE FROM order_extra WHERE order_id = ?`, [order]);
  if (extras.length > 0)
    await query(trx, `INSERT INTO order_extra (order_id, text, qty) SELECT ?, t, q FROM unnest(?::text[], ?::numeric[]) AS x(t, q)`, [
      order,
      extras.map((e) => e.text),
      extras.map((e) => dbQty(e.qty)),
    ]);
}

/** What of an order is no stock and stands on its papers. */
export function selectExtras(db: Reads, order: number): Promise<{ id: number; text: string; qty: string }[]> {
  return query(db, `SELECT id, text, qty FROM order_extra WHERE order_id = ? ORDER BY id`, [order]);
}

/** Changes what stands at the head of an order. */
export async function updateHead(trx: Trx, order: number, head: OrderHead): Promise<void> {
  await query(
    trx,
    `UPDATE customer_order
     SET due = ?, priority = ?, note = ?, reference = ?, carrier = ?, least_life = ?, changed = now_here()
     WHERE id = ?`,
    [head.due, head.priority, head.note, head.reference, head.carrier, head.leastLife, order],
  );
}

/** The order of a customer that bears their reference and is not cancelled, other than `but`. */
export async function findByReference(
  db: Reads,
  of: { customer: number; reference: string; but?: number },
): Promise<{ id: number; number: string } | undefined> {
  const [there] = await query<{ id: number; number: string }>(
    db,
    `SELECT id, number
     FROM customer_order
     WHERE customer_id = ? AND fold_name(reference) = fold_name(?) AND reference <> '' AND state <> 'cancelled' AND id <> ?`,
    [of.customer, of.reference, of.but ?? 0],
  );
  return there;
}

/** Holds an order for a reason, or with null lets it go again. */
export async function updateHeldFor(trx: Trx, order: number, reason: string | null): Promise<void> {
  await query(trx, `UPDATE customer_order SET held_for = ?, changed = now_here() WHERE id = ?`, [reason, order]);
}

/** Adds to what lines are promised. */
export async function addPromises(trx: Trx, given: readonly { line: number; site: number; item: number; qty: Qty }[]): Promise<void> {
  await query(
    trx,
    `INSERT INTO promise (line_id, site_id, item_id, qty)
     SELECT *
     FROM unnest(?::int[], ?::int[], ?::int[], ?::numeric[])
     ON CONFLICT (line_id) DO UPDATE SET qty = promise.qty + excluded.qty`,
    [given.map((g) => g.line), given.map((g) => g.site), given.map((g) => g.item), given.map((g) => dbQty(g.qty))],
  );
}

/** Cancels an order for a reason. */
export async function updateCancelled(trx: Trx, order: number, by: { person: number | null; reason: string }): Promise<void> {
  await query(
    trx,
    `UPDATE customer_order
     SET state = 'cancelled', cancelled_at = now_here(), cancelled_by = ?, cancelled_for = ?, held_for = NULL, changed = now_here()
     WHERE id = ?`,
    [by.person, by.reason, order],
  );
}

/** A line of an order: what is promised of it, and whether something of it is planned by an open round or in somebody's hands. */
export async function findLine(
  db: Reads,
  order: number,
  line: number,
): Promise<{ item: number; code: string; tracking: string; qty: string; promised: string; onItsWay: boolean } | undefined> {
  const [found] = await query<{ item: number; code: string; tracking: string; qty: string; promised: string; onItsWay: boolean }>(
    db,
    `SELECT l.item_id AS item, i.code, i.tracking, l.qty, coalesce((SELECT p.qty FROM promise p WHERE p.line_id = l.id), 0) AS promised,
       EXISTS (SELECT 1 FROM in_hand k WHERE k.line_id = l.id) OR EXISTS (
         SELECT 1
         FROM round_pick k
         JOIN round r ON r.id = k.round_id AND r.state = 'open'
         WHERE k.line_id = l.id AND k.picked < k.qty) AS "onItsWay"
     FROM order_line l
     JOIN item i ON i.id = l.item_id
     WHERE l.order_id = ? AND l.id = ?`,
    [order, line],
  );
  return found;
}

/** The open order other than this line's that names a serial. */
export async function selectNamingLine(db: Reads, of: { serial: number; but: number }): Promise<{ number: string } | undefined> {
  const [named] = await query<{ number: string }>(
    db,
    `SELECT o.number
     FROM order_line_serial x
     JOIN order_line l ON l.id = x.line_id AND l.qty > l.shipped
     JOIN customer_order o ON o.id = l.order_id AND o.state = 'open'
     WHERE x.serial_id = ? AND x.line_id <> ?
     LIMIT 1`,
    [of.serial, of.but],
  );
  return named;
}

/** Says what a line names of its goods, in place of what it named. */
export async function updateNames(
  trx: Trx,
  line: number,
  named: { lot: number | null; serials: readonly number[]; bin: number | null },
): Promise<void> {
  await query(trx, `UPDATE order_line SET lot_id = ?, bin_id = ? WHERE id = ?`, [named.lot, named.bin, line]);
  await query(trx, `DELETE FROM order_line_serial WHERE line_id = ?`, [line]);
  await query(trx, `INSERT INTO order_line_serial (line_id, serial_id) SELECT ?, unnest(?::int[])`, [line, named.serials]);
}

/** Ends the promise of a line. */
export async function deletePromise(trx: Trx, line: number): Promise<void> {
  await query(trx, `DELETE FROM promise WHERE line_id = ?`, [line]);
}

/** Whether something of an order is planned by an open round or in somebody's hands. */
export async function selectOnItsWay(db: Reads, order: number): Promise<boolean> {
  const { way } = await queryOne<{ way: boolean }>(
    db,
    `SELECT EXISTS (
       SELECT 1
       FROM order_line l
       WHERE l.order_id = ? AND (EXISTS (SELECT 1 FROM in_hand k WHERE k.line_id = l.id) OR EXISTS (
         SELECT 1
         FROM round_pick k
         JOIN round r ON r.id = k.round_id AND r.state = 'open'
         WHERE k.line_id = l.id AND k.picked < k.qty))) AS way`,
    [order],
  );
  return way;
}
