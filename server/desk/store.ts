import { asQty, query, type Db } from '#server/kernel';
import { qtyText } from '#contract/base';
import type { Act } from '#core/desk';
import type { Home } from '#contract/desk';

type Reads = Pick<Db, 'raw'>;
type Part<Name extends keyof Home> = Home[Name] extends { rows: (infer Row)[] } ? Row : never;
/** All that there are, and the first of them by name. */
export type All<Row> = { total: number; rows: Row[] };

/** How many of each kind home names. */
export const NAMED = 12;
const COUNT_DUE_DAYS = 90;

// The rows of a statement, counted exactly, the first of them read.
async function firstOf<Row>(db: Reads, sql: string, values: readonly unknown[]): Promise<All<Row>> {
  const rows = await query<Row & { total: number }>(db, `SELECT w.*, count(*) OVER () AS total FROM (${sql}) w LIMIT ${NAMED}`, values);
  return { total: rows[0]?.total ?? 0, rows: rows.map(({ total: _, ...row }) => row as Row) };
}

const withQty = <Row extends { qty: string }>(all: All<Row>): All<Row> => ({
  ...all,
  rows: all.rows.map((row) => ({ ...row, qty: qtyText(asQty(row.qty)) })),
});

const ORDER = `o.id AS order, o.number, c.name AS customer, o.due::text AS due`;

/** Orders of which less is promised than ordered; first those of which more can be. */
export async function selectShort(db: Reads, site: number): Promise<Home['short']> {
  const { total, rows } = await firstOf<Part<'short'> & { free: number }>(
    db,
    `SELECT ${ORDER}, x.lines, a.late AS "isLate", coalesce(x.free, false) AS "isFree", count(*) FILTER (WHERE x.free) OVER () AS free
     FROM order_at a
     JOIN customer_order o ON o.id = a.order_id
     JOIN order_party c ON c.order_id = o.id
     CROSS JOIN LATERAL (
       SELECT count(*) AS lines, bool_or(coalesce(s.usable, 0) > coalesce(s.promised, 0)) AS free
       FROM order_line l
       LEFT JOIN promise p ON p.line_id = l.id
       LEFT JOIN LATERAL (
         SELECT
           (SELECT sum(f.qty) FROM stock_fact f
            WHERE f.item_id = l.item_id AND f.site_id = o.site_id AND f.usable) AS usable,
           (SELECT sum(r.qty) FROM promise r WHERE r.item_id = l.item_id AND r.site_id = o.site_id) AS promised
       ) s ON true
       WHERE l.order_id = o.id AND l.qty > l.shipped + coalesce(p.qty, 0)
     ) x
     WHERE a.site_id = ? AND o.held_for IS NULL AND x.lines > 0
     ORDER BY coalesce(x.free, false) DESC, o.due, o.id`,
    [site],
  );
  return { total, free: rows[0]?.free ?? 0, rows: rows.map(({ free: _, ...row }) => row) };
}

/** Orders that wait because somebody said so. */
export const selectHeldOrders = (db: Reads, site: number): Promise<All<Part<'held'>>> =>
  firstOf(
    db,
    `SELECT ${ORDER}, o.held_for AS reason
     FROM customer_order o
     JOIN order_party c ON c.order_id = o.id
     WHERE o.site_id = ? AND o.state = 'open' AND o.held_for IS NOT NULL
     ORDER BY o.due, o.id`,
    [site],
  );

/** Orders past their day, with the station at which they wait and who has them in hand. */
export const selectLate = (db: Reads, site: number): Promise<All<Part<'late'>>> =>
  firstOf(
    db,
    `SELECT ${ORDER}, a.station,
       (SELECT min(p.name)
        FROM order_line l
        JOIN round_pick k ON k.line_id = l.id
        JOIN round r ON r.id = k.round_id AND r.state = 'open'
        JOIN person p ON p.id = r.person_id
        WHERE l.order_id = o.id) AS who
     FROM order_at a
     JOIN customer_order o ON o.id = a.order_id
     JOIN order_party c ON c.order_id = o.id
     WHERE a.site_id = ? AND a.late
     ORDER BY o.due, o.id`,
    [site],
  );

/** What suppliers should have brought by now. */
export const selectOverdue = (db: Reads, site: number): Promise<All<Part<'overdue'>>> =>
  firstOf(
    db,
    `SELECT o.id AS "purchaseOrder", o.number, s.name AS supplier, o.due::text AS due, today_at(o.site_id) - o.due AS days
     FROM purchase_order o
     JOIN supplier s ON s.id = o.supplier_id
     WHERE o.site_id = ? AND o.state = 'open' AND o.due < today_at(o.site_id)
     ORDER BY o.due, o.id`,
    [site],
  );

/** What hands met on the floor and nobody has settled. */
export async function selectTrouble(db: Reads, site: number): Promise<All<Part<'trouble'>>> {
  const all = await firstOf<Omit<Part<'trouble'>, 'at'> & { at: Date }>(
    db,
    `SELECT t.id AS trouble, t.kind AS what, b.id AS bin, b.address, i.code, p.name AS by, t.at
     FROM trouble t
     JOIN bin b ON b.id = t.bin_id
     JOIN item i ON i.id = t.item_id
     JOIN person p ON p.id = t.person_id
     WHERE b.site_id = ? AND t.settled_at IS NULL
     ORDER BY t.id DESC`,
    [site],
  );
  return { ...all, rows: all.rows.map((row) => ({ ...row, at: row.at.toISOString() })) };
}

/** Holds whose day has passed. */
export const selectPastHolds = (db: Reads, site: number): Promise<All<Part<'pastHolds'>>> =>
  firstOf(
    db,
    `SELECT h.id AS hold, d.number, concat_ws(' ', i.code, l.code, s.code, bin.address) AS what, h.until::text AS until, h.reason,
       p.name AS by
     FROM hold h
     JOIN document d ON d.id = h.document_id
     JOIN person p ON p.id = h.person_id
     LEFT JOIN item i ON i.id = h.item_id
     LEFT JOIN lot l ON l.id = h.lot_id
     LEFT JOIN serial s ON s.id = h.serial_id
     LEFT JOIN bin ON bin.id = h.bin_id
     WHERE h.site_id = ? AND h.released_at IS NULL AND h.until < today_at(h.site_id)
     ORDER BY h.until, h.id`,
    [site],
  );

const LOTS = `
  FROM stock_fact f
  JOIN item i ON i.id = f.item_id
  JOIN site s ON s.id = f.site_id
  LEFT JOIN bin q ON q.id = s.quarantine_bin
  WHERE f.site_id = ? AND f.lot IS NOT NULL AND f.expires IS NOT NULL AND f.purpose NOT IN ('quarantine', 'scrap')`;

/** Lots that will expire soon, and how many within each distance at which the site wants to know (E2). */
export async function selectExpiring(db: Reads, site: number): Promise<Home['expiring']> {
  const within = await query<{ days: number; lots: number }>(
    db,
    `SELECT w.days, (SELECT count(DISTINCT f.lot_id) ${LOTS} AND NOT f.expired AND f.expires <= today_at(f.site_id) + w.days) AS lots
     FROM site own
     CROSS JOIN LATERAL unnest(own.expiry_days) AS w(days)
     WHERE own.id = ?
     ORDER BY w.days`,
    [site, site],
  );
  const expiring = withQty(
    await firstOf<Part<'expiring'>>(
      db,
      `SELECT f.lot_id AS "lotId", i.id AS item, i.code, f.lot, sum(f.qty) AS qty, i.base_unit AS unit,
         f.expires::text AS expires, min(f.address) AS address
       ${LOTS} AND NOT f.expired AND f.expires <= today_at(f.site_id) + (SELECT max(d) FROM unnest(s.expiry_days) d)
       GROUP BY f.lot_id, f.lot, f.expires, i.id
       ORDER BY f.expires, f.lot_id`,
      [site],
    ),
  );
  return { ...expiring, within };
}

/** Expired goods that nobody has set apart. What has expired in somebody's hands is its order's: it is put back there, not carried away
 *  from here. */
export const selectExpired = async (db: Reads, site: number): Promise<All<Part<'expired'>>> =>
  withQty(
    await firstOf<Part<'expired'>>(
      db,
      `SELECT f.balance_id AS balance, f.bin_id AS bin, f.address, i.id AS item, i.code, f.lot, f.qty, i.base_unit AS unit,
         f.expires::text AS expires,
         CASE WHEN f.use NOT IN ('cart', 'packing') THEN q.address END AS to
       ${LOTS} AND f.expired
       ORDER BY f.expires, f.balance_id`,
      [site],
    ),
  );

/** Goods that were brought in by a sheet and have no place yet. */
export const selectUnplaced = async (db: Reads, site: number): Promise<All<Part<'unplaced'>>> =>
  withQty(
    await firstOf<Part<'unplaced'>>(
      db,
      `SELECT i.id AS item, i.code, i.description, sum(f.qty) AS qty, i.base_unit AS unit
       FROM bin
       JOIN balance f ON f.bin_id = bin.id
       JOIN item i ON i.id = f.item_id
       WHERE bin.site_id = ? AND bin.use = 'unplaced'
       GROUP BY i.id
       ORDER BY i.code`,
      [site],
    ),
  );

/** Zones in which a count is due and none is open. */
export const selectDueCounts = (db: Reads, site: number): Promise<All<Part<'counts'>>> =>
  firstOf(
    db,
    `SELECT z.id AS zone, z.name, x.never, x.bins, x.oldest::date::text AS oldest
     FROM zone z
     CROSS JOIN LATERAL (
       SELECT count(*) AS bins,
         count(*) FILTER (WHERE b.last IS NULL) AS never,
         min(b.last) AS oldest,
         count(*) FILTER (WHERE coalesce(b.last, 'epoch') < now_here() - interval '${COUNT_DUE_DAYS} days') AS due
       FROM (
         SELECT bin.id, (SELECT max(c.counted_at) FROM count_bin c WHERE c.bin_id = bin.id) AS last
         FROM bin
         WHERE bin.zone_id = z.id AND bin.retired_at IS NULL
       ) b
     ) x
     WHERE z.site_id = ? AND z.pickable AND x.due > 0
       AND NOT EXISTS (SELECT 1 FROM stock_count o WHERE o.zone_id = z.id AND o.state = 'open')
     ORDER BY x.oldest NULLS FIRST, z.id`,
    [site],
  );

type WaitingRow = { act: Act; id: number; name: string; late: boolean; since: Date | null };

/** What waits for an act of somebody at the desk: which thing, by name, whether it is late, since when. In the order in which it would be
 *  done. To pick: orders due by today that are promised whole, not held and in nobody's hands. */
export const selectWaiting = (db: Reads, site: number): Promise<WaitingRow[]> =>
  query<WaitingRow>(
    db,
    `WITH here AS (SELECT id, today_at(id) AS today FROM site WHERE id = ?),
     stood AS MATERIALIZED (
       SELECT a.order_id, a.station, a.late
       FROM here
       JOIN order_at a ON a.site_id = here.id),
     waiting AS (
       SELECT CASE a.station WHEN 'bench' THEN 'pack' ELSE 'pick' END AS act, o.id, o.number || ' ' || c.name AS name, a.late,
         o.due::timestamptz AS since,
         row_number() OVER (ORDER BY o.due, o.priority, o.id) AS turn
       FROM here
       CROSS JOIN stood a
       JOIN customer_order o ON o.id = a.order_id
       JOIN order_party c ON c.order_id = o.id
       WHERE a.station = 'bench' OR (
         a.station = 'orders' AND o.held_for IS NULL AND o.due <= here.today
         AND EXISTS (SELECT 1 FROM order_line l WHERE l.order_id = o.id AND l.qty > l.shipped)
         AND NOT EXISTS (
           SELECT 1 FROM order_line l
           LEFT JOIN promise p ON p.line_id = l.id
           WHERE l.order_id = o.id AND l.qty > l.shipped + coalesce(p.qty, 0)))
       UNION ALL
       SELECT 'post', d.id, d.number || ' ' || coalesce(s.name, ''), false, d.touched, row_number() OVER (ORDER BY d.touched)
       FROM here
       JOIN delivery d ON d.site_id = here.id AND d.state = 'review'
       LEFT JOIN supplier s ON s.id = d.supplier_id
       UNION ALL
       SELECT 'putAway', f.item_id, i.code, false,
         (SELECT m.at FROM movement m WHERE m.item_id = f.item_id AND m.to_bin = f.bin_id ORDER BY m.id DESC LIMIT 1),
         row_number() OVER (ORDER BY i.code)
       FROM here
       JOIN stock_fact f ON f.site_id = here.id AND f.use = 'arrivals'
       JOIN item i ON i.id = f.item_id
     )
     SELECT act, id, name, late, since FROM waiting ORDER BY act, turn`,
    [site],
  );

type Person = Home['people'][number];

/** Who is on what: the job, how far it has come, and when it was last heard of. */
export async function selectPeople(db: Reads, site: number): Promise<Person[]> {
  const people = await query<Omit<Person, 'at'> & { at: Date }>(
    db,
    `SELECT DISTINCT ON (name) name, job, id, number, done, of, at
     FROM (
       SELECT p.name, 'round' AS job, r.id, r.number, k.done, k.of,
         coalesce((SELECT max(m.at) FROM movement m WHERE m.document_id = r.document_id), r.at) AS at
       FROM round r
       JOIN person p ON p.id = r.person_id
       CROSS JOIN LATERAL (SELECT count(*) FILTER (WHERE picked >= qty) AS done, count(*) AS of FROM round_pick WHERE round_id = r.id) k
       WHERE r.state = 'open' AND r.site_id = ?
       UNION ALL
       SELECT p.name, 'delivery', d.id, d.number, e.done, NULL, e.at
       FROM delivery d
       CROSS JOIN LATERAL (
         SELECT person_id, max(at) AS at, count(*) AS done FROM delivery_entry WHERE delivery_id = d.id GROUP BY 1) e
       JOIN person p ON p.id = e.person_id
       WHERE d.state = 'scanning' AND d.site_id = ?
       UNION ALL
       SELECT p.name, 'count', c.id, c.number, b.done, b.of, t.at
       FROM stock_count c
       CROSS JOIN LATERAL (SELECT person_id, max(at) AS at FROM tally WHERE count_id = c.id GROUP BY 1) t
       JOIN person p ON p.id = t.person_id
       CROSS JOIN LATERAL (
         SELECT count(*) FILTER (WHERE counted_at IS NOT NULL) AS done, count(*) AS of FROM count_bin WHERE count_id = c.id) b
       WHERE c.state = 'open' AND c.site_id = ?
     ) x
     ORDER BY name, at DESC`,
    [site, site, site],
  );
  return people.map((p) => ({ ...p, at: p.at.toISOString() }));
}

/** Pieces that moved at a site, by the hour of its day, between two midnights so many days before today's (0: from today's on). */
export const selectMovedByHour = (
  db: Reads,
  site: number,
  days: { from: number; to: number },
): Promise<{ day: string; hour: number; kind: 'in' | 'putAway' | 'picked' | 'gone'; pieces: number }[]> =>
  query(
    db,
    `WITH here AS (SELECT id, time_zone, today_at(id)::timestamp AS today FROM site WHERE id = ?)
     SELECT (m.at AT TIME ZONE here.time_zone)::date::text AS day,
       extract(hour FROM m.at AT TIME ZONE here.time_zone)::int AS hour,
       CASE d.kind WHEN 'receipt' THEN 'in' WHEN 'round' THEN 'picked' WHEN 'shipment' THEN 'gone' ELSE 'putAway' END AS kind,
       sum(m.qty)::float AS pieces
     FROM here
     JOIN movement m ON m.at >= (here.today - make_interval(days => ?)) AT TIME ZONE here.time_zone
       AND m.at < (here.today + interval '1 day' - make_interval(days => ?)) AT TIME ZONE here.time_zone
     JOIN document d ON d.id = m.document_id AND d.site_id = here.id AND d.kind IN ('receipt', 'round', 'shipment', 'putAway')
     WHERE m.reverses IS NULL
     GROUP BY 1, 2, 3`,
    [site, days.from, days.to],
  );
