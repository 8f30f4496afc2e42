import { lessPlanned, type PickSource, type Planned } from '#core/picking';
import { asQty, query, type Db } from '#server/kernel';

type Reads = Pick<Db, 'raw'>;
/** Stock that rounds may still fetch of these items at a site, with what other open rounds plan to take subtracted.
 *  Locks:  nothing; the caller holds the items' promise locks, and every plan is made under those. */
export async function selectSources(
  db: Reads,
  site: number,
  items: readonly number[],
  use: 'shelf' | 'arrivals' = 'shelf',
): Promise<PickSource[]> {
  const rows = await query<{
    bin: number;
    item: number;
    lot: number | null;
    serial: number | null;
    expires: string | null;
    arrived: Date | null;
    walk: number;
    face: boolean;
    qty: string;
    packs: string[];
  }>(
    db,
    // Serials are told apart where an order names one of them.
    `SELECT f.bin_id AS bin, f.item_id AS item, f.lot_id AS lot, n.serial_id AS serial, max(f.expires) AS expires, max(f.arrived)
      AS arrived, f.walk, f.purpose IN ('pickFace', 'counter') AS face, sum(f.qty) AS qty,
       ARRAY(SELECT p.units::text FROM pack p WHERE p.item_id = f.item_id AND p.units > 1) AS packs
     FROM stock_fact f
     LEFT JOIN (SELECT DISTINCT serial_id FROM order_line_serial) n ON n.serial_id = f.serial_id
     WHERE f.site_id = ? AND f.item_id = ANY(?::int[]) AND f.usable AND f.use = ?
       AND (f.pickable OR f.use = 'arrivals')
       -- Where somebody looked in vain nobody is sent again before the bin was counted.
       AND NOT EXISTS (SELECT 1 FROM trouble t WHERE t.bin_id = f.bin_id AND t.item_id = f.item_id AND t.settled_at IS NULL)
     GROUP BY f.bin_id, f.item_id, f.lot_id, n.serial_id, f.walk, f.purpose`,
    [site, items, use],
  );
  const plans = await query<{ item: number; bin: number; lot: number | null; serials: number[] | null; qty: string }>(
    db,
    `SELECT k.item_id AS item, k.bin_id AS bin, k.lot_id AS lot, a.serial_ids AS serials, k.qty - k.picked AS qty
     FROM round_pick k
     JOIN round r ON r.id = k.round_id AND r.state = 'open'
     JOIN line_asking a ON a.line_id = k.line_id
     WHERE r.site_id = ? AND k.item_id = ANY(?::int[]) AND k.picked < k.qty
     UNION ALL SELECT t.item_id, t.from_bin, t.lot_id, CASE WHEN t.serial_id IS NOT NULL THEN ARRAY[t.serial_id] END, t.to_fetch
     FROM carry_open_task t
     WHERE t.site_id = ? AND t.item_id = ANY(?::int[]) AND t.to_fetch > 0`,
    [site, items, site, items],
  );
  return lessPlanned(
    rows.map(
      ({ face, ...r }) =>
        ({
          ...r,
          arrived: r.arrived?.toISOString() ?? null,
          isPickFace: face,
          qty: asQty(r.qty),
          packs: r.packs.map(asQty),
        }) as unknown as PickSource,
    ),
    plans.map((p) => ({ ...p, qty: asQty(p.qty) })) as unknown as Planned[],
  );
}

/** Orders of a site that still want goods of these items and are not held, the most urgent first. */
export function selectWaitingOrders(db: Reads, site: number, items: readonly number[]): Promise<{ id: number; number: string }[]> {
  return query(
    db,
    `SELECT o.id, o.number
     FROM customer_order o
     WHERE o.site_id = ? AND o.state = 'open' AND o.held_for IS NULL AND EXISTS (
       SELECT 1
       FROM order_line l
       LEFT JOIN promise p ON p.line_id = l.id
       WHERE l.order_id = o.id AND l.item_id = ANY(?::int[]) AND l.qty > l.shipped + coalesce(p.qty, 0))
     ORDER BY o.priority, o.due, o.id
     LIMIT 20`,
    [site, items],
  );
}

/** A delivery, with those of its items of which something usable lies at arrivals. */
export async function selectArrived(
  db: Reads,
  delivery: number,
): Promise<{ number: string; state: string; site_id: number; site: string; items: number[] } | undefined> {
  const rows = await query<{ number: string; state: string; site_id: number; site: string; items: number[] }>(
    db,
    `SELECT d.number, d.state, d.site_id, w.name AS site, (
       SELECT coalesce(json_agg(DISTINCT e.item_id), '[]')
       FROM delivery_entry e
       JOIN stock_fact f ON f.item_id = e.item_id AND f.site_id = d.site_id AND f.use = 'arrivals' AND f.usable
       WHERE e.delivery_id = d.id AND e.taken_out_at IS NULL AND e.reversal_id IS NULL) AS items
     FROM delivery d
     JOIN site w ON w.id = d.site_id
     WHERE d.id = ?`,
    [delivery],
  );
  return rows[0];
}

/** Those of these items of which somebody at the site was promised goods that they asked for. */
export async function selectAskedItems(db: Reads, site: number, items: readonly number[]): Promise<number[]> {
  const rows = await query<{ item: number }>(
    db,
    `SELECT DISTINCT p.item_id AS item
     FROM promise p
     JOIN line_asking a ON a.line_id = p.line_id AND a.asks
     WHERE p.site_id = ? AND p.item_id = ANY(?::int[])`,
    [site, items],
  );
  return rows.map((r) => r.item);
}
