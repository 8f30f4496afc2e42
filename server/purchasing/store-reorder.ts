import { OUTSIDE } from '#core/stock';
import { query, type Db, type Trx } from '#server/kernel';

type Reads = Pick<Db, 'raw'>;
export type PackRow = { id: number; name: string; units: string };
export type ReorderFactRow = {
  item: number;
  code: string;
  description: string;
  unit: string;
  decimals: number;
  here: string;
  coming: string;
  drafted: string;
  promised: string;
  waiting: string;
  used: string;
  least: string | null;
  most: string | null;
  pack_id: number | null;
  packs: PackRow[];
  supplier_id: number | null;
  supplier: string | null;
  part_no: string | null;
  cost: string | null;
  lead_days: number | null;
};

/** What is known of items that somebody may have to buy for a site: those with a level, those that left lately, and those that orders wait
 *  for. `days`: how far back "lately" goes. The supplier of an item is the cheapest of those that name a cost, else the first. */
export function selectReorderFacts(
  db: Reads,
  of: { site: number; days: number; supplier: number | null; item: number | null },
): Promise<ReorderFactRow[]> {
  return query<ReorderFactRow>(
    db,
    `WITH left_lately AS (
       SELECT m.item_id, sum(m.qty) AS qty
       FROM movement m
       JOIN bin b ON b.id = m.from_bin
       LEFT JOIN movement r ON r.reverses = m.id
       WHERE m.at > now_here() - make_interval(days => ?) AND m.to_bin = ANY(?::int[]) AND b.site_id = ? AND r.id IS NULL
       GROUP BY m.item_id),
     wanted AS (
       SELECT l.item_id, sum(l.qty - l.shipped - coalesce(p.qty, 0)) AS waiting
       FROM order_line l
       JOIN customer_order o ON o.id = l.order_id
       LEFT JOIN promise p ON p.line_id = l.id
       WHERE o.state = 'open' AND o.site_id = ? AND l.qty > l.shipped + coalesce(p.qty, 0)
       GROUP BY l.item_id),
     promised AS (SELECT item_id, sum(qty) AS qty FROM promise WHERE site_id = ? GROUP BY item_id),
     here AS (
       SELECT item_id, sum(qty) AS qty
       FROM stock_fact
       WHERE site_id = ? AND (usable OR (condition = 'inspect' AND NOT expired))
       GROUP BY item_id),
     coming AS (SELECT item_id, sum(open) AS qty FROM expected_line WHERE site_id = ? GROUP BY item_id),
     drafted AS (
       SELECT l.item_id, sum(l.qty) AS qty
       FROM purchase_line l
       JOIN purchase_order o ON o.id = l.purchase_order_id
       WHERE o.state = 'draft' AND o.site_id = ?
       GROUP BY l.item_id),
     asked AS (
       SELECT item_id FROM reorder_level WHERE site_id = ?
       UNION SELECT item_id FROM left_lately
       UNION SELECT item_id FROM wanted)
     SELECT i.id AS item, i.code, i.description, i.base_unit AS unit, i.decimals,
       coalesce(h.qty, 0) AS here, coalesce(c.qty, 0) AS coming, coalesce(d.qty, 0) AS drafted, coalesce(pr.qty, 0) AS promised,
       coalesce(w.waiting, 0) AS waiting, coalesce(u.qty, 0) AS used, v.least, v.most, v.pack_id,
       (
         SELECT coalesce(json_agg(json_build_object('id', p.id, 'name', p.name, 'units', trim_scale(p.units)::text) ORDER BY p.units), '[]')
         FROM pack p
         WHERE p.item_id = i.id
       ) AS packs,
       s.supplier_id, s.supplier, s.part_no, s.cost, s.lead_days
     FROM asked a
     JOIN item i ON i.id = a.item_id AND i.retired_at IS NULL
     LEFT JOIN reorder_level v ON v.item_id = i.id AND v.site_id = ?
     LEFT JOIN here h ON h.item_id = i.id
     LEFT JOIN coming c ON c.item_id = i.id
     LEFT JOIN drafted d ON d.item_id = i.id
     LEFT JOIN promised pr ON pr.item_id = i.id
     LEFT JOIN wanted w ON w.item_id = i.id
     LEFT JOIN left_lately u ON u.item_id = i.id
     LEFT JOIN LATERAL (
       SELECT x.supplier_id, y.name AS supplier, x.part_no, x.cost, x.lead_days
       FROM item_supplier x
       JOIN supplier y ON y.id = x.supplier_id
       WHERE x.item_id = i.id AND (?::int IS NULL OR x.supplier_id = ?)
       ORDER BY x.cost = 0, x.cost, x.supplier_id
       LIMIT 1) s ON true
     WHERE (?::int IS NULL OR s.supplier_id IS NOT NULL) AND (?::int IS NULL OR i.id = ?)
     ORDER BY i.code`,
    [
      of.days,
      [OUTSIDE.customers, OUTSIDE.jobs, OUTSIDE.assembly],
      of.site,
      of.site,
      of.site,
      of.site,
      of.site,
      of.site,
      of.site,
      of.site,
      of.supplier,
      of.supplier,
      of.supplier,
      of.item,
      of.item,
    ],
  );
}

/** How many items of a site have a level. */
export async function countLevels(db: Reads, site: number): Promise<number> {
  return (await query<{ n: number }>(db, `SELECT count(*) AS n FROM reorder_level WHERE site_id = ?`, [site]))[0]?.n ?? 0;
}

/** Writes how much of an item a site wants, as decimal texts; nothing of all three is no level. */
export async function upsertLevel(
  trx: Trx,
  of: { item: number; site: number; least: string | null; most: string | null; pack: number | null },
): Promise<void> {
  if (of.least === null && of.most === null && of.pack === null) {
    await query(trx, `DELETE FROM reorder_level WHERE item_id = ? AND site_id = ?`, [of.item, of.site]);
    return;
  }
  await query(
    trx,
    `INSERT INTO reorder_level (item_id, site_id, least, most, pack_id)
     VALUES (?, ?, ?, ?, ?)
     ON CONFLICT (item_id, site_id) DO UPDATE SET least = excluded.least, most = excluded.most, pack_id = excluded.pack_id`,
    [of.item, of.site, of.least, of.most, of.pack],
  );
}

/** How long a supplier needs at the longest for what is ordered, in days. */
export async function selectLeadDays(db: Reads, supplier: number, items: readonly number[]): Promise<number> {
  const rows = await query<{ days: number | null }>(
    db,
    `SELECT max(lead_days) AS days FROM item_supplier WHERE supplier_id = ? AND item_id = ANY(?::int[])`,
    [supplier, items],
  );
  return rows[0]?.days ?? 7;
}

/** The day that is so many days from today at a site. */
export async function selectDayIn(db: Reads, site: number, days: number): Promise<string> {
  return (await query<{ day: string }>(db, `SELECT today_at(?) + ?::int AS day`, [site, days]))[0]?.day ?? '';
}
