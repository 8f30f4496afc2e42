import { query, type Db } from '#server/kernel';
import type { ReplyOf, Routes } from '#contract';

type Home = ReplyOf<Routes['desk.home']>;
type Wrong = Home['short'][number];
type WrongRow = Omit<Wrong, 'at'> & { at: Date | null };

const COUNT_DUE_DAYS = 90;
const EXPIRY_WARNING_DAYS = 30;

/** What is wrong or will be soon, each a step away from mending it, and who is on what. */
export async function readHome(db: Db, site: number): Promise<Home> {
  const wrong = async (sql: string, values: readonly unknown[]): Promise<Wrong[]> =>
    (await query<WrongRow>(db, sql, values)).map((r) => ({ ...r, at: r.at?.toISOString() ?? null }));
  const order = (condition: string, detail: string): Promise<Wrong[]> =>
    wrong(
      `SELECT 'order' AS what, o.number || ' ' || c.name AS name, ${detail} AS detail, '/orders/' || o.id AS path, o.at FROM customer_order o JOIN customer c ON c.id = o.customer_id JOIN site s ON s.id = o.site_id
       WHERE o.site_id = ? AND o.state = 'open' AND ${condition} ORDER BY o.due, o.id LIMIT 12`,
      [site],
    );
  const shortLines = `(SELECT count(*) FROM order_line l LEFT JOIN promise p ON p.line_id = l.id WHERE l.order_id = o.id AND l.qty > l.shipped + coalesce(p.qty, 0))`;
  const lot = (condition: string, detail: string): Promise<Wrong[]> =>
    wrong(
      `SELECT 'lot' AS what, i.code || ' lot ' || f.lot AS name, ${detail} AS detail, '/items/' || i.id AS path, NULL::timestamptz AS at
       FROM (SELECT item_id, lot, expires, expired, site_id, sum(qty) AS qty, min(address) AS address FROM stock_fact WHERE expires IS NOT NULL AND qty > 0 AND use <> 'scrap' GROUP BY 1, 2, 3, 4, 5) f JOIN item i ON i.id = f.item_id JOIN site s ON s.id = f.site_id
       WHERE f.site_id = ? AND ${condition} ORDER BY f.expires LIMIT 12`,
      [site],
    );
  const people = await query<{ name: string; doing: string; at: Date }>(
    db,
    `SELECT DISTINCT ON (name) name, doing, at FROM (
       SELECT p.name, 'picking ' || r.number AS doing, coalesce((SELECT max(m.at) FROM movement m WHERE m.document_id = r.document_id), r.at) AS at FROM round r JOIN person p ON p.id = r.person_id WHERE r.state = 'open' AND r.site_id = ?
       UNION ALL SELECT p.name, 'scanning ' || d.number, e.at FROM delivery d JOIN LATERAL (SELECT person_id, at FROM delivery_entry WHERE delivery_id = d.id ORDER BY id DESC LIMIT 1) e ON true JOIN person p ON p.id = e.person_id WHERE d.state = 'scanning' AND d.site_id = ?
       UNION ALL SELECT p.name, 'counting ' || c.number, t.at FROM stock_count c JOIN LATERAL (SELECT person_id, at FROM tally WHERE count_id = c.id ORDER BY id DESC LIMIT 1) t ON true JOIN person p ON p.id = t.person_id WHERE c.state = 'open' AND c.site_id = ?
     ) x ORDER BY name, at DESC`,
    [site, site, site],
  );
  return {
    short: await order(
      `o.held_for IS NULL AND ${shortLines} > 0`,
      `${shortLines} || CASE WHEN ${shortLines} = 1 THEN ' line' ELSE ' lines' END || ' not promised, due ' || o.due`,
    ),
    held: await order(`o.held_for IS NOT NULL`, `o.held_for`),
    late: await order(`o.due < (now() AT TIME ZONE s.time_zone)::date`, `'due ' || o.due`),
    trouble: await wrong(
      `SELECT 'bin' AS what, b.address AS name, CASE t.kind WHEN 'notFound' THEN 'not found' ELSE t.kind END || ': ' || i.code || ', said by ' || p.name AS detail, '/bins/' || b.id AS path, t.at
       FROM trouble t JOIN bin b ON b.id = t.bin_id JOIN item i ON i.id = t.item_id JOIN person p ON p.id = t.person_id WHERE b.site_id = ? AND t.settled_at IS NULL ORDER BY t.id DESC LIMIT 12`,
      [site],
    ),
    expiring: await lot(
      `NOT f.expired AND f.expires <= (now() AT TIME ZONE s.time_zone)::date + ${EXPIRY_WARNING_DAYS}`,
      `trim_scale(f.qty) || ' ' || i.base_unit || ' until ' || f.expires || ' in ' || f.address`,
    ),
    expired: await lot(`f.expired`, `trim_scale(f.qty) || ' ' || i.base_unit || ' expired ' || f.expires || ' in ' || f.address`),
    counts: await wrong(
      `SELECT 'zone' AS what, z.name, CASE WHEN max(c.posted_at) IS NULL THEN 'never counted' ELSE 'last counted ' || max(c.posted_at)::date END AS detail, '/counts\\?zone=' || z.id AS path, max(c.posted_at) AS at
       FROM zone z LEFT JOIN stock_count c ON c.zone_id = z.id AND c.state = 'posted' WHERE z.site_id = ? AND z.pickable AND NOT EXISTS (SELECT 1 FROM stock_count o WHERE o.zone_id = z.id AND o.state = 'open')
       GROUP BY z.id HAVING coalesce(max(c.posted_at), 'epoch') < now() - interval '${COUNT_DUE_DAYS} days' ORDER BY max(c.posted_at) NULLS FIRST LIMIT 12`,
      [site],
    ),
    people: people.map((p) => ({ ...p, at: p.at.toISOString() })),
  };
}
