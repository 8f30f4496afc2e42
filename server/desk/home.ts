import { query, type Db } from '#server/kernel';
import { clashesOut, selectClashes } from '#server/hands';
import { readLowDisk } from './disk.ts';
import type { ReplyOf, Routes } from '#contract';

type Home = ReplyOf<Routes['desk.home']>;
type Wrongs = Home['short'];
type WrongRow = Wrongs['rows'][number] & { total: number };

const COUNT_DUE_DAYS = 90;
const EXPIRY_WARNING_DAYS = 30;
const SHOWN = 12;

/** What is wrong or will be soon, each with what mends it, counted exactly; and who is on what. */
export async function readHome(db: Db, site: number): Promise<Home> {
  // Each statement names key, name, detail, path and mend; the total is over all that it finds, the rows are the first.
  const wrong = async (sql: string, values: readonly unknown[]): Promise<Wrongs> => {
    const rows = await query<WrongRow>(db, `SELECT w.*, count(*) OVER () AS total FROM (${sql}) w LIMIT ${SHOWN}`, values);
    return { total: rows[0]?.total ?? 0, rows: rows.map(({ total: _, ...row }) => row) };
  };
  return {
    lowDisk: await readLowDisk(process.env['DOCKROW_HOME']),
    clashes: await readClashes(db, site),
    short: await wrong(SHORT, [site]),
    held: await wrong(HELD, [site]),
    late: await wrong(LATE, [site]),
    overdue: await wrong(OVERDUE, [site]),
    trouble: await wrong(TROUBLE, [site]),
    expiring: await wrong(EXPIRING, [site]),
    expired: await wrong(EXPIRED, [site]),
    counts: await wrong(DUE_COUNTS, [site]),
    people: await readPeople(db, site),
  };
}

/** What hands told and nobody has settled yet, the oldest first. */
async function readClashes(db: Db, site: number): Promise<Wrongs> {
  const rows = await selectClashes(db, { site, open: true, job: null });
  const shown = await clashesOut(db, rows.slice(0, SHOWN));
  return {
    total: rows.length,
    rows: shown.map((c) => ({
      key: c.key,
      name: c.what,
      detail: `${c.by}: ${c.against}`,
      path: '/floor',
      mend: { kind: 'open' as const },
    })),
  };
}

const ORDER = `'order' || o.id AS key, o.number || ' ' || c.name AS name, '/orders/' || o.id AS path`;
const OPEN = `json_build_object('kind', 'open') AS mend`;

const SHORT = `
  SELECT ${ORDER}, x.lines || CASE WHEN x.lines = 1 THEN ' line' ELSE ' lines' END || ' not promised, due ' || o.due AS detail,
    CASE WHEN x.free THEN json_build_object('kind', 'promise', 'order', o.id) ELSE json_build_object('kind', 'open') END AS mend
  FROM order_at a JOIN customer_order o ON o.id = a.order_id JOIN customer c ON c.id = o.customer_id
  CROSS JOIN LATERAL (
    SELECT count(*) AS lines, bool_or(coalesce(s.usable, 0) > coalesce(s.promised, 0)) AS free
    FROM order_line l LEFT JOIN promise p ON p.line_id = l.id
    LEFT JOIN LATERAL (
      SELECT (SELECT sum(f.qty) FROM stock_fact f WHERE f.item_id = l.item_id AND f.site_id = o.site_id AND f.condition = 'sound' AND f.promisable AND NOT f.expired) AS usable,
        (SELECT sum(r.qty) FROM promise r WHERE r.item_id = l.item_id AND r.site_id = o.site_id) AS promised) s ON true
    WHERE l.order_id = o.id AND l.qty > l.shipped + coalesce(p.qty, 0)) x
  WHERE a.site_id = ? AND o.held_for IS NULL AND x.lines > 0 ORDER BY x.free DESC, o.due, o.id`;

const HELD = `
  SELECT ${ORDER}, o.held_for AS detail, json_build_object('kind', 'release', 'order', o.id) AS mend
  FROM customer_order o JOIN customer c ON c.id = o.customer_id WHERE o.site_id = ? AND o.state = 'open' AND o.held_for IS NOT NULL ORDER BY o.due, o.id`;

const LATE = `
  SELECT ${ORDER}, 'due ' || o.due || CASE a.station WHEN 'bench' THEN ', at the bench' WHEN 'rounds' THEN ', being picked' ELSE ', not begun' END AS detail, ${OPEN}
  FROM order_at a JOIN customer_order o ON o.id = a.order_id JOIN customer c ON c.id = o.customer_id WHERE a.site_id = ? AND a.late ORDER BY o.due, o.id`;

const OVERDUE = `
  SELECT 'purchase' || o.id AS key, o.number || ' ' || s.name AS name, 'due ' || o.due || ', ' || (today_at(o.site_id) - o.due) || CASE WHEN today_at(o.site_id) - o.due = 1 THEN ' day ago' ELSE ' days ago' END AS detail, '/expected\\?q=' || o.number AS path, ${OPEN}
  FROM purchase_order o JOIN supplier s ON s.id = o.supplier_id WHERE o.site_id = ? AND o.state = 'open' AND o.due < today_at(o.site_id) ORDER BY o.due, o.id`;

const TROUBLE = `
  SELECT 'trouble' || t.id AS key, b.address || ' ' || i.code AS name,
    CASE t.kind WHEN 'notFound' THEN 'not found' WHEN 'count' THEN 'to be counted' ELSE t.kind END || ', said by ' || p.name AS detail, '/bins/' || b.id AS path,
    json_build_object('kind', 'settle', 'trouble', t.id) AS mend
  FROM trouble t JOIN bin b ON b.id = t.bin_id JOIN item i ON i.id = t.item_id JOIN person p ON p.id = t.person_id
  WHERE b.site_id = ? AND t.settled_at IS NULL ORDER BY t.id DESC`;

const LOTS = `
  FROM stock_fact f JOIN item i ON i.id = f.item_id JOIN site s ON s.id = f.site_id
  LEFT JOIN bin q ON q.id = s.quarantine_bin WHERE f.site_id = ? AND f.lot IS NOT NULL AND f.expires IS NOT NULL AND f.purpose NOT IN ('quarantine', 'scrap')`;

const EXPIRING = `
  SELECT 'lot' || f.lot_id AS key, i.code || ' lot ' || f.lot AS name, trim_scale(sum(f.qty)) || ' ' || i.base_unit || ' until ' || f.expires || ', first in ' || min(f.address) AS detail,
    '/items/' || i.id AS path, ${OPEN}
  ${LOTS} AND NOT f.expired AND f.expires <= today_at(f.site_id) + ${EXPIRY_WARNING_DAYS} GROUP BY f.lot_id, f.lot, f.expires, i.id ORDER BY f.expires, f.lot_id`;

// What has expired in somebody's hands is its order's: it is put back there, not carried away from here.
const EXPIRED = `
  SELECT 'balance' || f.balance_id AS key, i.code || ' lot ' || f.lot AS name, trim_scale(f.qty) || ' ' || i.base_unit || ' expired ' || f.expires || ' in ' || f.address AS detail,
    '/bins/' || f.bin_id AS path,
    CASE WHEN q.id IS NULL OR f.use IN ('cart', 'packing') THEN json_build_object('kind', 'open')
      ELSE json_build_object('kind', 'quarantine', 'from', f.address, 'to', q.address, 'code', i.code, 'lot', f.lot, 'qty', trim_scale(f.qty)::text) END AS mend
  ${LOTS} AND f.expired ORDER BY f.expires, f.balance_id`;

const DUE_COUNTS = `
  SELECT 'zone' || z.id AS key, z.name, CASE WHEN x.never > 0 THEN x.never || ' of ' || x.bins || ' bins never counted' ELSE 'longest ago ' || x.oldest::date END AS detail,
    '/counts' AS path, json_build_object('kind', 'count', 'zone', z.id) AS mend
  FROM zone z CROSS JOIN LATERAL (
    SELECT count(*) AS bins, count(*) FILTER (WHERE b.last IS NULL) AS never, min(b.last) AS oldest,
      count(*) FILTER (WHERE coalesce(b.last, 'epoch') < now_here() - interval '${COUNT_DUE_DAYS} days') AS due
    FROM (SELECT bin.id, (SELECT max(c.counted_at) FROM count_bin c WHERE c.bin_id = bin.id) AS last FROM bin WHERE bin.zone_id = z.id AND bin.retired_at IS NULL) b) x
  WHERE z.site_id = ? AND z.pickable AND x.due > 0 AND NOT EXISTS (SELECT 1 FROM stock_count o WHERE o.zone_id = z.id AND o.state = 'open') ORDER BY x.oldest NULLS FIRST, z.id`;

async function readPeople(db: Db, site: number): Promise<Home['people']> {
  const people = await query<{ name: string; doing: string; at: Date }>(
    db,
    `SELECT DISTINCT ON (name) name, doing, at FROM (
       SELECT p.name, 'picking ' || r.number AS doing, coalesce((SELECT max(m.at) FROM movement m WHERE m.document_id = r.document_id), r.at) AS at
         FROM round r JOIN person p ON p.id = r.person_id WHERE r.state = 'open' AND r.site_id = ?
       UNION ALL SELECT p.name, 'scanning ' || d.number, e.at FROM delivery d JOIN LATERAL (
           SELECT person_id, max(at) AS at FROM delivery_entry WHERE delivery_id = d.id GROUP BY 1) e ON true JOIN person p ON p.id = e.person_id
         WHERE d.state = 'scanning' AND d.site_id = ?
       UNION ALL SELECT p.name, 'counting ' || c.number, t.at FROM stock_count c JOIN LATERAL (
           SELECT person_id, max(at) AS at FROM tally WHERE count_id = c.id GROUP BY 1) t ON true JOIN person p ON p.id = t.person_id
         WHERE c.state = 'open' AND c.site_id = ?
     ) x ORDER BY name, at DESC`,
    [site, site, site],
  );
  return people.map((p) => ({ ...p, at: p.at.toISOString() }));
}
