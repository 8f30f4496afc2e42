import type { PickSource } from '#core/picking';
import type { Tracking } from '#core/items';
import { asQty, query, refuse, type Db } from '#server/kernel';

type Reads = Pick<Db, 'raw'>;
export type RoundListRow = {
  id: number;
  number: string;
  state: 'open' | 'putDown' | 'thrown';
  site_id: number;
  person_id: number | null;
  person: string | null;
  cart_bin: number;
  cart: string;
  at: Date;
  document_id: number;
  orders: string[];
  picks: number;
  done: number;
  stops: number;
  trouble: number;
};
const LISTED = `SELECT r.id, r.number, r.state, r.site_id, r.person_id, p.name AS person, r.cart_bin, b.address AS cart, r.at, r.document_id, x.* FROM round r JOIN bin b ON b.id = r.cart_bin LEFT JOIN person p ON p.id = r.person_id
  CROSS JOIN LATERAL (SELECT coalesce(json_agg(DISTINCT o.number), '[]') AS orders, count(*) FILTER (WHERE k.qty > 0) AS picks, count(*) FILTER (WHERE k.qty > 0 AND k.picked = k.qty) AS done, count(DISTINCT k.bin_id) FILTER (WHERE k.qty > 0) AS stops, count(k.trouble) AS trouble
    FROM round_pick k JOIN order_line l ON l.id = k.line_id JOIN customer_order o ON o.id = l.order_id WHERE k.round_id = r.id) x`;

/** Rounds of a site, oldest first. */
export async function selectRounds(db: Reads, site: number, state: string): Promise<RoundListRow[]> {
  return query<RoundListRow>(db, `${LISTED} WHERE r.site_id = ? AND r.state = ? ORDER BY r.id LIMIT 100`, [site, state]);
}

/** The round, refusing `picking.unknownRound`. Locks it where asked. */
export async function findRound(db: Reads, id: number, { lock = false } = {}): Promise<RoundListRow> {
  if (lock) await query(db, `SELECT 1 FROM round WHERE id = ? FOR UPDATE`, [id]);
  return (await query<RoundListRow>(db, `${LISTED} WHERE r.id = ?`, [id]))[0] ?? refuse({ code: 'picking.unknownRound', text: String(id) });
}

export type PickRow = {
  id: number;
  order: string;
  line_id: number;
  slot: number;
  item: number;
  code: string;
  description: string;
  unit: string;
  decimals: number;
  tracking: Tracking;
  barcode: string | null;
  lot_id: number | null;
  lot: string | null;
  expires: string | null;
  qty: string;
  picked: string;
  trouble: string | null;
  bin: number;
  address: string;
  zone: string;
  walk: number;
};

/** The picks of a round, or one of them. */
export async function selectPicks(db: Reads, round: number, pick: number | null = null): Promise<PickRow[]> {
  return query<PickRow>(
    db,
    `SELECT k.id, o.number AS order, k.line_id, k.slot, i.id AS item, i.code, i.description, i.base_unit AS unit, i.decimals, i.tracking, k.lot_id, l.code AS lot, l.expires, k.qty, k.picked, k.trouble,
       b.id AS bin, b.address, z.name AS zone, b.walk, (SELECT c.code FROM barcode c JOIN pack p ON p.id = c.pack_id WHERE c.item_id = i.id ORDER BY p.units, c.code LIMIT 1) AS barcode
     FROM round_pick k JOIN order_line ol ON ol.id = k.line_id JOIN customer_order o ON o.id = ol.order_id JOIN item i ON i.id = k.item_id JOIN bin b ON b.id = k.bin_id JOIN zone z ON z.id = b.zone_id LEFT JOIN lot l ON l.id = k.lot_id
     WHERE k.round_id = ? AND (?::int IS NULL OR k.id = ?) ORDER BY b.walk, b.id, k.slot, k.id`,
    [round, pick, pick],
  );
}

/** Stock that rounds may still fetch of these items at a site, with what other open rounds plan to take subtracted.
 *  Locks:  nothing; the caller holds the items' promise locks, and every plan is made under those. */
export async function selectSources(db: Reads, site: number, items: readonly number[]): Promise<PickSource[]> {
  const rows = await query<{
    bin: number;
    item: number;
    lot: number | null;
    expires: string | null;
    arrived: Date | null;
    walk: number;
    face: boolean;
    qty: string;
  }>(
    db,
    `SELECT f.bin_id AS bin, f.item_id AS item, f.lot_id AS lot, max(f.expires) AS expires, max(f.arrived) AS arrived, f.walk, f.purpose IN ('pickFace', 'counter') AS face,
       sum(f.qty) - coalesce((SELECT sum(k.qty - k.picked) FROM round_pick k JOIN round r ON r.id = k.round_id AND r.state = 'open' WHERE k.item_id = f.item_id AND k.bin_id = f.bin_id AND k.lot_id IS NOT DISTINCT FROM f.lot_id), 0) AS qty
     FROM stock_fact f WHERE f.site_id = ? AND f.item_id = ANY(?::int[]) AND f.condition = 'sound' AND f.pickable AND f.promisable AND NOT f.expired AND f.use = 'shelf' GROUP BY f.bin_id, f.item_id, f.lot_id, f.walk, f.purpose`,
    [site, items],
  );
  return rows
    .map(
      (r) =>
        ({
          bin: r.bin,
          item: r.item,
          lot: r.lot,
          expires: r.expires,
          arrived: r.arrived?.toISOString() ?? null,
          walk: r.walk,
          isPickFace: r.face,
          qty: asQty(r.qty),
        }) as PickSource,
    )
    .filter((s) => s.qty > 0);
}
