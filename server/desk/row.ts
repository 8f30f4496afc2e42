import { query, type Db } from '#server/kernel';
import { STATIONS, type Station } from '#contract/desk';

// One statement per station, all in one round trip: what waits there, what of it is late, and since when the oldest waits.
const ROW = `
  WITH here AS (SELECT id, today_at(id) AS today, today_at(id)::timestamp AT TIME ZONE time_zone AS midnight FROM site WHERE id = ?)
  SELECT 'expected' AS station, count(*) AS waiting, count(*) FILTER (WHERE o.due < here.today) AS late,
    min(o.due)::timestamptz AS oldest
  FROM here, purchase_order o
  WHERE o.site_id = here.id AND o.state = 'open'
  UNION ALL SELECT 'dock', count(*), 0, min(d.touched) FROM here, delivery d WHERE d.site_id = here.id AND d.state = 'scanning'
  UNION ALL SELECT 'review', count(*), 0, min(d.touched) FROM here, delivery d WHERE d.site_id = here.id AND d.state = 'review'
  UNION ALL SELECT 'putAway', count(*), 0,
    min((SELECT m.at FROM movement m WHERE m.item_id = f.item_id AND m.to_bin = f.bin_id ORDER BY m.id DESC LIMIT 1))
  FROM here, stock_fact f
  WHERE f.site_id = here.id AND f.use = 'arrivals' AND f.qty > 0
  UNION ALL SELECT 'shelf', count(DISTINCT b.bin_id), 0, NULL
  FROM here, bin, balance b
  WHERE bin.site_id = here.id AND bin.use = 'shelf' AND b.bin_id = bin.id
  UNION ALL SELECT 'orders', count(*), count(*) FILTER (WHERE a.late), min(o.at)
  FROM here, order_at a
  JOIN customer_order o ON o.id = a.order_id
  WHERE a.site_id = here.id AND a.station = 'orders'
  UNION ALL SELECT 'rounds', count(*),
    (SELECT count(*) FROM order_at a WHERE a.site_id = min(here.id) AND a.station = 'rounds' AND a.late), min(r.at)
  FROM here
  LEFT JOIN round r ON r.site_id = here.id AND r.state = 'open'
  WHERE r.id IS NOT NULL
  UNION ALL SELECT 'bench', count(*), count(*) FILTER (WHERE a.late), min(
    (
      SELECT min(r.put_down_at)
      FROM order_line l
      JOIN in_hand k ON k.line_id = l.id AND k.put_down
      JOIN round_pick p ON p.id = k.pick_id
      JOIN round r ON r.id = p.round_id
      WHERE l.order_id = a.order_id
    )
  )
    FROM here, order_at a WHERE a.site_id = here.id AND a.station = 'bench'
  UNION ALL SELECT 'gone', count(*), 0, NULL
  FROM here, shipment s
  JOIN customer_order o ON o.id = s.order_id
  WHERE o.site_id = here.id AND s.at >= here.midnight
  UNION ALL SELECT 'counts', count(*), 0, min(c.at) FROM here, stock_count c WHERE c.site_id = here.id AND c.state = 'open'`;

const UNITS: Record<Station['station'], readonly [one: string, many: string]> = {
  expected: ['order', 'orders'],
  dock: ['delivery', 'deliveries'],
  review: ['delivery', 'deliveries'],
  putAway: ['goods', 'goods'],
  shelf: ['bin', 'bins'],
  orders: ['order', 'orders'],
  rounds: ['round', 'rounds'],
  bench: ['order', 'orders'],
  gone: ['shipment', 'shipments'],
  counts: ['count', 'counts'],
};

/** The row: what waits at each station of a site, in the order in which goods flow. */
export async function readRow(db: Db, site: number): Promise<Station[]> {
  const rows = await query<{ station: Station['station']; waiting: number; late: number; oldest: Date | null }>(db, ROW, [site]);
  return STATIONS.map((station) => {
    const row = rows.find((r) => r.station === station);
    const waiting = row?.waiting ?? 0;
    return {
      station,
      waiting,
      late: row?.late ?? 0,
      oldest: row?.oldest?.toISOString() ?? null,
      unit: UNITS[station][waiting === 1 ? 0 : 1],
    };
  });
}
