import type { Amount, ItemId, Qty } from '#core/base';
import { formatAmount, parseAmount } from '#core/base';
import type { LineChange, PurchaseLine, PurchaseState } from '#core/purchasing';
import type { PURCHASE_SORTS } from '#contract/purchasing';
import {
  asQty,
  dbQty,
  lockRows,
  query,
  queryOne,
  refuse,
  selectSorted,
  type Db,
  type SortBy,
  type SortKey,
  type Trx,
} from '#server/kernel';

type Reads = Pick<Db, 'raw'>;
export type PurchaseListRow = {
  id: number;
  number: string;
  supplier: string;
  supplier_id: number;
  site_id: number;
  state: PurchaseState;
  due: string;
  late: boolean;
  lines: number;
  open_lines: number;
  partly: boolean;
  total: string;
  at: Date;
  sent_at: Date | null;
};
const LISTED = `SELECT o.id, o.number, s.name AS supplier, o.supplier_id, o.site_id, o.state, o.due, o.at, o.sent_at,
    o.state = 'open' AND o.due < today_at(o.site_id) AS late, l.lines, l.open_lines, l.partly, l.total
  FROM purchase_order o
  JOIN supplier s ON s.id = o.supplier_id
  CROSS JOIN LATERAL (
    SELECT count(*) AS lines, count(*) FILTER (WHERE NOT closed AND received < qty) AS open_lines,
      coalesce(bool_or(received > 0), false) AS partly, coalesce(sum(round(qty * cost, 2)), 0) AS total
    FROM purchase_line
    WHERE purchase_order_id = o.id
  ) l`;

const SORTS: Readonly<Record<(typeof PURCHASE_SORTS)[number], SortKey>> = {
  number: { sql: 'number', kind: 'text' },
  supplier: { sql: 'lower(supplier)', kind: 'text' },
  due: { sql: 'due::text', kind: 'text' },
  state: { sql: 'state', kind: 'text' },
  lines: { sql: 'lines', kind: 'decimal' },
  openLines: { sql: 'open_lines', kind: 'decimal' },
  total: { sql: 'total', kind: 'decimal' },
};

/** Purchase orders of a site, in the order that somebody chose; the newest first where nobody did. */
export function selectPurchases(
  db: Reads,
  where: {
    site: number;
    states: readonly PurchaseState[];
    q: string | undefined;
    supplier: number | undefined;
    from: string | undefined;
    to: string | undefined;
    by: SortBy<(typeof PURCHASE_SORTS)[number]> | undefined;
    after: string | undefined;
    limit: number;
  },
): Promise<{ rows: PurchaseListRow[]; next: string | null }> {
  const like = `%${(where.q ?? '').replace(/[\\%_]/g, (c) => `\\${c}`)}%`;
  return selectSorted<PurchaseListRow, (typeof PURCHASE_SORTS)[number]>(db, {
    ...where,
    by: where.by ?? '-number',
    keys: SORTS,
    rows: `${LISTED} WHERE o.site_id = ? AND o.state = ANY(?::text[]) AND (o.number ILIKE ? OR s.name ILIKE ? OR o.reference ILIKE ?)
       AND (?::int IS NULL OR o.supplier_id = ?) AND o.due >= coalesce(?::date, o.due) AND o.due <= coalesce(?::date, o.due)`,
    values: [
      where.site,
      where.states,
      like,
      like,
      like,
      where.supplier ?? null,
      where.supplier ?? null,
      where.from ?? null,
      where.to ?? null,
    ],
  });
}

export type PurchaseHead = PurchaseListRow & {
  site: string;
  reference: string;
  note: string;
  version: number;
  made_by: string | null;
  approved_at: Date | null;
  approved_by: string | null;
  sent_by: string | null;
  sent_as: 'pdf' | 'ubl' | 'other' | null;
  ended_at: Date | null;
  ended_by: string | null;
  ended_for: string;
  /** Its delivery that is scanned or waits for review. */
  delivery: string | null;
};

/** A purchase order by its number in the database, refusing `purchasing.unknownOrder`. */
export async function findPurchase(db: Reads, id: number): Promise<PurchaseHead> {
  const [row] = await query<PurchaseHead>(
    db,
    `SELECT p.*, w.name AS site, o.reference, o.note, o.version, m.name AS made_by, o.approved_at, a.name AS approved_by,
       x.name AS sent_by, o.sent_as, o.ended_at, e.name AS ended_by, o.ended_for,
       (SELECT d.number FROM delivery_order y JOIN delivery d ON d.id = y.delivery_id WHERE y.purchase_order_id = o.id AND y.open)
         AS delivery
     FROM (${LISTED}) p
     JOIN purchase_order o ON o.id = p.id
     JOIN site w ON w.id = o.site_id
     LEFT JOIN person m ON m.id = o.made_by
     LEFT JOIN person a ON a.id = o.approved_by
     LEFT JOIN person x ON x.id = o.sent_by
     LEFT JOIN person e ON e.id = o.ended_by
     WHERE p.id = ?`,
    [id],
  );
  return row ?? refuse({ code: 'purchasing.unknownOrder', id });
}

/** The same, locked: it is changed by one person at a time, and by no receipt meanwhile.
 *  Errors: `purchasing.unknownOrder`; `people.otherSite`. */
export async function lockPurchase(trx: Trx, id: number, site: number): Promise<PurchaseHead> {
  await lockRows(trx, 'purchaseOrder', [id]);
  const order = await findPurchase(trx, id);
  if (order.site_id !== site) refuse({ code: 'people.otherSite', what: `Purchase order ${order.number}`, site: order.site });
  return order;
}

export type PurchaseLineRow = {
  id: number;
  item: ItemId;
  code: string;
  description: string;
  unit: string;
  decimals: number;
  retired: boolean;
  part_no: string;
  barcode: string | null;
  qty: string;
  received: string;
  closed: boolean;
  cost: string;
  packs: { name: string; units: string }[];
};

/** The lines of a purchase order, in the order in which they were made. */
export function selectPurchaseLines(db: Reads, order: number): Promise<PurchaseLineRow[]> {
  return query<PurchaseLineRow>(
    db,
    `SELECT l.id, i.id AS item, i.code, i.description, i.base_unit AS unit, i.decimals, i.retired_at IS NOT NULL AS retired, l.part_no,
       first_barcode(i.id) AS barcode, l.qty, l.received, l.closed, l.cost,
       (
         SELECT coalesce(json_agg(json_build_object('name', p.name, 'units', trim_scale(p.units)::text) ORDER BY p.units DESC), '[]')
         FROM pack p
         WHERE p.item_id = i.id
       ) AS packs
     FROM purchase_line l
     JOIN item i ON i.id = l.item_id
     WHERE l.purchase_order_id = ?
     ORDER BY l.id`,
    [order],
  );
}

export const lineOfRow = (l: PurchaseLineRow): PurchaseLine => ({
  line: l.id,
  item: l.item,
  code: l.code,
  qty: asQty(l.qty),
  received: asQty(l.received),
  cost: parseAmount(l.cost),
});

/** The deliveries that belong to a purchase order, newest first. */
export function selectDeliveriesOf(
  db: Reads,
  order: number,
): Promise<{ id: number; number: string; state: 'scanning' | 'review' | 'posted' | 'thrown'; touched: Date }[]> {
  return query(
    db,
    `SELECT d.id, d.number, d.state, d.touched
     FROM delivery_order x
     JOIN delivery d ON d.id = x.delivery_id
     WHERE x.purchase_order_id = ?
     ORDER BY d.id DESC`,
    [order],
  );
}

/** Writes a purchase order without lines, under the next number. */
export function insertPurchase(
  trx: Trx,
  order: { site: number; supplier: number; due: string; note: string; reference: string; person: number },
): Promise<{ id: number; number: string }> {
  return queryOne<{ id: number; number: string }>(
    trx,
    `INSERT INTO purchase_order (number, site_id, supplier_id, due, note, reference, state, made_by, at)
     VALUES ('PO-' || nextval('number_po'), ?, ?, ?, ?, ?, 'draft', ?, now_here())
     RETURNING id, number`,
    [order.site, order.supplier, order.due, order.note, order.reference, order.person],
  );
}

/** The order of a supplier that has this reference. */
export async function selectByReference(db: Reads, supplier: number, reference: string): Promise<string | undefined> {
  const rows = await query<{ number: string }>(
    db,
    `SELECT number FROM purchase_order WHERE supplier_id = ? AND lower(reference) = lower(?) AND reference <> ''`,
    [supplier, reference],
  );
  return rows[0]?.number;
}

/** Writes lines; each takes the part number that the supplier has for its item. */
export async function insertPurchaseLines(
  trx: Trx,
  order: { id: number; supplier: number },
  lines: readonly { item: ItemId; qty: Qty; cost: Amount }[],
): Promise<void> {
  await query(
    trx,
    `INSERT INTO purchase_line (purchase_order_id, item_id, qty, cost, part_no)
     SELECT ?, x.item, x.qty, x.cost, coalesce(s.part_no, '')
     FROM unnest(?::int[], ?::numeric[], ?::numeric[]) WITH ORDINALITY AS x(item, qty, cost, turn)
     LEFT JOIN item_supplier s ON s.item_id = x.item AND s.supplier_id = ?
     ORDER BY x.turn`,
    [order.id, lines.map((l) => l.item), lines.map((l) => dbQty(l.qty)), lines.map((l) => formatAmount(l.cost, 4)), order.supplier],
  );
}

/** Writes what was decided of the lines of an order. */
export async function changePurchaseLines(
  trx: Trx,
  order: { id: number; supplier: number },
  changes: readonly LineChange[],
): Promise<void> {
  const removed = changes.filter((c) => c.kind === 'remove').map((c) => c.line);
  const changed = changes.filter((c) => c.kind === 'change');
  const added = changes.filter((c) => c.kind === 'add');
  if (removed.length > 0)
    await query(trx, `DELETE FROM purchase_line WHERE id = ANY(?::int[]) AND purchase_order_id = ?`, [removed, order.id]);
  // More of a line that was closed short is wanted again.
  if (changed.length > 0)
    await query(
      trx,
      `UPDATE purchase_line l SET qty = x.qty, cost = x.cost, closed = l.closed AND x.qty <= l.qty
       FROM unnest(?::int[], ?::numeric[], ?::numeric[]) AS x(id, qty, cost)
       WHERE l.id = x.id AND l.purchase_order_id = ?`,
      [changed.map((c) => c.line), changed.map((c) => dbQty(c.qty)), changed.map((c) => formatAmount(c.cost, 4)), order.id],
    );
  if (added.length > 0) await insertPurchaseLines(trx, order, added);
}

/** Writes when a purchase order is due and what is noted on it, under the next version. */
export async function updatePurchase(trx: Trx, id: number, to: { due: string; note: string }): Promise<number> {
  const row = await queryOne<{ version: number }>(
    trx,
    `UPDATE purchase_order SET due = ?, note = ?, version = version + 1 WHERE id = ? RETURNING version`,
    [to.due, to.note, id],
  );
  return row.version;
}

/** Says where a purchase order stands now. An end has a person, a moment and a reason; what goes on has none. */
export async function updatePurchaseState(
  trx: Trx,
  id: number,
  to: { state: PurchaseState; person: number; reason?: string | undefined },
): Promise<void> {
  const isEnd = to.state === 'closed' || to.state === 'cancelled';
  await query(
    trx,
    `UPDATE purchase_order SET state = ?, version = version + 1, ended_at = CASE WHEN ? THEN now_here() END,
       ended_by = CASE WHEN ? THEN ?::int END, ended_for = ?
     WHERE id = ?`,
    [to.state, isEnd, isEnd, to.person, isEnd ? (to.reason ?? '') : '', id],
  );
}

/** Notes who approved a purchase order. */
export async function updateApproved(trx: Trx, id: number, person: number): Promise<void> {
  await query(trx, `UPDATE purchase_order SET approved_at = now_here(), approved_by = ? WHERE id = ?`, [person, id]);
}

/** Notes how a purchase order was sent, and by whom. */
export async function updateSent(trx: Trx, id: number, sent: { person: number; as: string }): Promise<void> {
  await query(trx, `UPDATE purchase_order SET sent_at = now_here(), sent_by = ?, sent_as = ? WHERE id = ?`, [sent.person, sent.as, id]);
}

/** Says of the lines of which something is missing that it is expected no longer, or again. */
export async function updateLinesClosed(trx: Trx, order: number, closed: boolean): Promise<void> {
  await query(trx, `UPDATE purchase_line SET closed = ? WHERE purchase_order_id = ? AND received < qty`, [closed, order]);
}

export type PurchasedItemRow = { id: ItemId; code: string; decimals: number; retired: boolean; cost: string | null };

/** Items that are ordered of a supplier, with what one of each costs there: as agreed with the supplier, else as it cost last. */
export function selectPurchasedItems(
  db: Reads,
  of: { site: number; supplier: number; items: readonly number[] },
): Promise<PurchasedItemRow[]> {
  return query<PurchasedItemRow>(
    db,
    `SELECT i.id, i.code, i.decimals, i.retired_at IS NOT NULL AS retired,
       coalesce(nullif(x.cost, 0), amount_on(i.id, 'cost', today_at(?))) AS cost
     FROM item i
     LEFT JOIN item_supplier x ON x.item_id = i.id AND x.supplier_id = ?
     WHERE i.id = ANY(?::int[])`,
    [of.site, of.supplier, of.items],
  );
}

/** Holds an import of purchase orders until another one has ended: the same sheet sent twice at once is seen. */
export async function lockPurchaseImport(trx: Trx): Promise<void> {
  await query(trx, `LOCK TABLE purchase_order IN SHARE ROW EXCLUSIVE MODE`);
}

/** The suppliers by name, with what is agreed with each and how many orders of theirs are to come to a site. */
export function selectSuppliers(
  db: Reads,
  site: number,
): Promise<{ id: number; code: string; name: string; open: number; over: string; short: string }[]> {
  return query(
    db,
    `SELECT s.id, s.code, s.name, trim_scale(s.over_percent)::text AS over, trim_scale(s.short_percent)::text AS short,
       (SELECT count(*) FROM purchase_order o WHERE o.supplier_id = s.id AND o.state = 'open' AND o.site_id = ?) AS open
     FROM supplier s
     ORDER BY s.name, s.id`,
    [site],
  );
}

/** Says how many percent over and short are agreed with a supplier. Returns whether there is one of this number. */
export async function updateAgreed(trx: Trx, supplier: number, agreed: { over: string; short: string }): Promise<boolean> {
  const rows = await query(trx, `UPDATE supplier SET over_percent = ?::numeric, short_percent = ?::numeric WHERE id = ? RETURNING id`, [
    agreed.over,
    agreed.short,
    supplier,
  ]);
  return rows.length > 0;
}
