import type { LotId, ItemId, BinId } from '#core/base';
import type { ExpiredStock } from '#core/lots';
import { OUTSIDE, type Condition } from '#core/stock';
import type { LOT_SORTS } from '#contract/lots';
import { query, selectSorted, type Db, type SortBy, type SortKey, type Trx } from '#server/kernel';

type Reads = Pick<Db, 'raw'>;
export type LotListRow = {
  id: number;
  item: number;
  code: string;
  description: string;
  unit: string;
  lot: string;
  made: string | null;
  expires: string | null;
  days_left: number | null;
  bin: number;
  address: string;
  site: string;
  qty: string;
  condition: Condition;
  /** Its first receipt, and from whom that was. */
  origin: { id: number; number: string; supplier: string | null } | null;
};

const SORTS: Readonly<Record<(typeof LOT_SORTS)[number], SortKey>> = {
  code: { sql: 'code', kind: 'text' },
  lot: { sql: 'lot', kind: 'text' },
  expires: { sql: `coalesce(expires::text, '9999')`, kind: 'text' },
  address: { sql: 'address', kind: 'text' },
  qty: { sql: 'qty', kind: 'decimal' },
  supplier: { sql: `lower(coalesce(origin ->> 'supplier', ''))`, kind: 'text' },
  site: { sql: 'site', kind: 'text' },
};

// From whom a lot came is what its first receipt says; asked for the rows of a page only, and not joined to all of them.
const LISTED = `SELECT f.balance_id AS id, f.item_id AS item, i.code, i.description, i.base_unit AS unit, f.lot, l.made, f.expires,
    f.expires - today_at(f.site_id) AS days_left, f.bin_id AS bin, f.address, f.site_name AS site, f.qty, f.condition,
    (
      SELECT json_build_object('id', d.id, 'number', d.number, 'supplier', s.name)
      FROM movement m
      JOIN document d ON d.id = m.document_id
      LEFT JOIN delivery v ON v.receipt_id = d.id
      LEFT JOIN supplier s ON s.id = v.supplier_id
      WHERE m.lot_id = f.lot_id AND m.from_bin = ${OUTSIDE.suppliers}
      ORDER BY m.id
      LIMIT 1
    ) AS origin
  FROM stock_fact f
  JOIN item i ON i.id = f.item_id
  JOIN lot l ON l.id = f.lot_id`;

/** Lots that lie anywhere, a row for each bin; what expires first stands first where nobody chose an order. */
export function selectLots(
  db: Reads,
  where: {
    sites: readonly number[];
    q: string | undefined;
    /** Days until the last one, inclusive: from these on. Null: any, also without a date. */
    from: number | null;
    to: number | null;
    by: SortBy<(typeof LOT_SORTS)[number]> | undefined;
    after: string | undefined;
    limit: number;
  },
): Promise<{ rows: LotListRow[]; next: string | null }> {
  const words = (where.q ?? '')
    .split(/\s+/)
    .filter(Boolean)
    .map((w) => `%${w.replace(/[\\%_]/g, (c) => `\\${c}`)}%`);
  return selectSorted<LotListRow, (typeof LOT_SORTS)[number]>(db, {
    ...where,
    by: where.by ?? 'expires',
    keys: SORTS,
    rows: `${LISTED} WHERE f.site_id = ANY(?::int[]) AND f.lot || ' ' || i.code || ' ' || i.description ILIKE ALL (?::text[])
       AND (?::int IS NULL OR f.expires >= today_at(f.site_id) + ?::int) AND (?::int IS NULL OR f.expires <= today_at(f.site_id) + ?::int)`,
    values: [where.sites, words, where.from, where.from, where.to, where.to],
  });
}

export type WeekRow = { week: number; from: string; lots: number; sound: string; apart: string };

/** What expires in each of the weeks from today on, seven days each; week −1 is all that has expired already. Weeks in which nothing does
 *  are left out. */
export function selectWeeks(db: Reads, of: { sites: readonly number[]; weeks: number }): Promise<WeekRow[]> {
  return query<WeekRow>(
    db,
    `SELECT week, min(first)::text AS from, count(DISTINCT lot_id) AS lots,
       coalesce(sum(qty) FILTER (WHERE usable), 0) AS sound, coalesce(sum(qty) FILTER (WHERE NOT usable), 0) AS apart
     FROM (
       SELECT f.lot_id, f.qty, f.condition = 'sound' AND f.use <> 'quarantine' AS usable,
         greatest(floor((f.expires - today_at(f.site_id)) / 7.0), -1)::int AS week,
         today_at(f.site_id) + 7 * greatest(floor((f.expires - today_at(f.site_id)) / 7.0), -1)::int AS first
       FROM stock_fact f
       WHERE f.site_id = ANY(?::int[]) AND f.expires IS NOT NULL AND f.qty > 0 AND f.expires < today_at(f.site_id) + 7 * ?::int) each
     GROUP BY week
     ORDER BY week`,
    [of.sites, of.weeks],
  );
}

export type WorkedOff = ExpiredStock & {
  readonly balance: number;
  readonly item_id: ItemId;
  readonly lot_id: LotId;
  readonly bin_id: BinId;
  readonly unit_id: number | null;
  readonly condition: Condition;
  readonly qty: string;
};

/** Goods of lots at a site, by their balances. */
export function selectLotStock(db: Reads, site: number, balances: readonly number[]): Promise<WorkedOff[]> {
  return query<WorkedOff>(
    db,
    `SELECT f.balance_id AS balance, i.code AS item, f.item_id, f.lot, f.lot_id, f.expires, f.expired AS "isExpired", f.bin_id,
       f.bin_id AS bin, f.address, f.unit_id, f.condition, f.qty
     FROM stock_fact f
     JOIN item i ON i.id = f.item_id
     WHERE f.site_id = ? AND f.balance_id = ANY(?::bigint[]) AND f.lot_id IS NOT NULL
     ORDER BY f.balance_id`,
    [site, balances],
  );
}

export type SerialEventRow = {
  movement: number;
  at: Date;
  kind: string;
  from_bin: number;
  to_bin: number;
  from: string;
  to: string;
  to_condition: string;
  from_condition: string;
  reason: string;
  by: string;
  document: number;
  number: string;
  supplier: string | null;
  customer: string | null;
  undone: boolean;
  reverses: number | null;
};

/** What happened to a serial, oldest first. */
export function selectSerialEvents(db: Reads, serial: number): Promise<SerialEventRow[]> {
  return query<SerialEventRow>(
    db,
    `SELECT m.id AS movement, m.at, d.kind, m.from_bin, m.to_bin, a.address AS from, b.address AS to, m.to_condition, m.from_condition,
       m.reason, p.name AS by, d.id AS document, d.number, s.name AS supplier, c.name AS customer, m.reverses,
       EXISTS (SELECT 1 FROM movement r WHERE r.reverses = m.id) AS undone
     FROM movement m
     JOIN document d ON d.id = m.document_id
     JOIN bin a ON a.id = m.from_bin
     JOIN bin b ON b.id = m.to_bin
     JOIN person p ON p.id = m.person_id
     LEFT JOIN delivery v ON v.receipt_id = d.id
     LEFT JOIN supplier s ON s.id = v.supplier_id
     LEFT JOIN shipment h ON h.document_id = d.id
     LEFT JOIN customer_order o ON o.id = h.order_id
     LEFT JOIN order_party c ON c.order_id = o.id
     WHERE m.serial_id = ?
     ORDER BY m.id`,
    [serial],
  );
}

/** Where a serial lies, and what it is held for. */
export async function selectSerialWhere(
  db: Reads,
  serial: number,
): Promise<{ bin: number; address: string; site: string; condition: Condition; heldFor: string | null } | null> {
  const [row] = await query<{ bin: number; address: string; site: string; condition: Condition; heldFor: string | null }>(
    db,
    `SELECT f.bin_id AS bin, f.address, f.site_name AS site, f.condition,
       (SELECT h.reason FROM hold h JOIN hold_line x ON x.hold_id = h.id WHERE x.serial_id = f.serial_id AND h.released_at IS NULL LIMIT 1)
         AS "heldFor"
     FROM stock_fact f
     WHERE f.serial_id = ?`,
    [serial],
  );
  return row ?? null;
}

/** At which distances a site is warned before lots expire, in days. */
export async function selectWarnings(db: Reads, site: number): Promise<number[]> {
  return (await query<{ days: number[] }>(db, `SELECT expiry_days AS days FROM site WHERE id = ?`, [site]))[0]?.days ?? [];
}

/** Says at which distances a site is warned; the nearest first. */
export async function updateWarnings(trx: Trx, site: number, days: readonly number[]): Promise<void> {
  await query(trx, `UPDATE site SET expiry_days = ?::int[] WHERE id = ?`, [days, site]);
}

/** Keeps that goods of a lot became another lot. */
export async function insertTie(trx: Trx, tie: { document: number; from: number; to: number; qty: string }): Promise<void> {
  await query(trx, `INSERT INTO lot_tie (document_id, from_lot, to_lot, qty) VALUES (?, ?, ?, ?)`, [
    tie.document,
    tie.from,
    tie.to,
    tie.qty,
  ]);
}

export type TieRow = {
  lot: string;
  of: string;
  steps: number;
  qty: string;
  at: Date;
  by: string;
  reason: string;
  document: { id: number; number: string };
};

/** The lots from which a lot came, or which it became, near and far, the next first. */
export function selectTies(db: Reads, item: number, lot: string, way: 'from' | 'to'): Promise<TieRow[]> {
  const [near, far] = way === 'from' ? ['to_lot', 'from_lot'] : ['from_lot', 'to_lot'];
  return query<TieRow>(
    db,
    `WITH RECURSIVE walk AS (
       SELECT t.document_id, t.${near} AS near, t.${far} AS far, t.qty, 1 AS steps, ARRAY[t.document_id] AS seen
       FROM lot_tied t
       JOIN lot l ON l.id = t.${near}
       WHERE l.item_id = ? AND l.code = ?
       UNION ALL SELECT t.document_id, t.${near}, t.${far}, t.qty, w.steps + 1, w.seen || t.document_id
       FROM walk w
       JOIN lot_tied t ON t.${near} = w.far AND t.document_id <> ALL (w.seen)
       WHERE w.steps < 50
     )
     SELECT far.code AS lot, near.code AS of, min(w.steps) AS steps, w.qty, d.at, p.name AS by,
       (SELECT m.reason FROM movement m WHERE m.document_id = d.id ORDER BY m.id LIMIT 1) AS reason,
       json_build_object('id', d.id, 'number', d.number) AS document
     FROM walk w
     JOIN lot far ON far.id = w.far
     JOIN lot near ON near.id = w.near
     JOIN document d ON d.id = w.document_id
     JOIN person p ON p.id = d.person_id
     GROUP BY far.code, near.code, w.qty, d.id, p.name
     ORDER BY min(w.steps), d.id
     LIMIT 200`,
    [item, lot],
  );
}
