import type { ItemId, LineId } from '#core/base';
import type { ToJoin } from '#contract/picking';
import { asQty, query, queryOne, type Db } from '#server/kernel';
import { ASKING, askingOf } from '#server/stock';
import { chooseForLines } from './choose.ts';

type Reads = Pick<Db, 'raw'>;
type WantRow = Parameters<typeof askingOf>[0] & {
  line: LineId;
  item: ItemId;
  order: number;
  number: string;
  customer: string;
  due: string;
  day: number;
  qty: string;
  grams: number | null;
  ml: string | null;
};
const MOST_ORDERS = 2000;

/** What can be joined into rounds at a site: of each order that may be picked and that nobody is at, where one would stop for it and what
 *  that weighs (G1). The bins are chosen over all of them together, as a round chooses its own again when it is made.
 *  Shape:  the most urgent two thousand orders. What has no weight or no size counts as nothing and is named by how many lines have none.
 *  Units:  grams and millilitres. */
export async function readToJoin(db: Reads, site: number): Promise<ToJoin> {
  const rows = await query<WantRow>(
    db,
    `WITH ready AS (
       SELECT o.id, o.number, o.due, c.name AS customer, o.priority
       FROM order_at a
       JOIN customer_order o ON o.id = a.order_id
       JOIN order_party c ON c.order_id = o.id
       WHERE a.site_id = ? AND a.station = 'orders' AND o.held_for IS NULL
         AND EXISTS (SELECT 1 FROM order_line l JOIN promise p ON p.line_id = l.id WHERE l.order_id = o.id)
       ORDER BY o.priority, o.due, o.id
       LIMIT ${MOST_ORDERS}),
     -- The parts of kits are fetched with the order that waits for them, as a round does it.
     fetched AS (
       SELECT r.id, coalesce(
         (SELECT l.order_id FROM order_line l WHERE l.id = o.kit_line AND l.order_id IN (SELECT id FROM ready)), r.id
       ) AS with_order
       FROM ready r
       JOIN customer_order o ON o.id = r.id)
     SELECT l.id AS line, l.item_id AS item, ${ASKING}, r.id AS order, r.number, r.customer, r.due, r.due - today_at(?) AS day, 
       nullif(i.weight_g, 0) AS grams, nullif(i.volume_ml, 0) AS ml,
       p.qty - coalesce((SELECT sum(k.qty) FROM in_hand k WHERE k.line_id = l.id), 0) AS qty
     FROM ready r
     JOIN fetched f ON f.with_order = r.id
     JOIN order_line l ON l.order_id = f.id
     JOIN promise p ON p.line_id = l.id
     JOIN line_asking a ON a.line_id = l.id
     JOIN item i ON i.id = l.item_id
     ORDER BY r.priority, r.due, r.id, l.id`,
    [site, site],
  );
  const open = rows.filter((r) => asQty(r.qty) > 0);
  const { picks, missing } = await chooseForLines(
    db,
    site,
    open.map((r) => ({ line: r.line, item: r.item, qty: asQty(r.qty), asking: askingOf(r) })),
  );
  const [lineOf, short] = [new Map(open.map((r) => [r.line, r])), new Set(missing.map((m) => m.line))];
  const orders = new Map<number, ToJoin['orders'][number]>();
  for (const r of open) {
    const known = orders.get(r.order);
    const units = asQty(r.qty) / 1000;
    const was = known ?? {
      ...{ id: r.order, number: r.number, customer: r.customer, due: r.due, day: r.day },
      ...{ lines: 0, bins: [], grams: 0, millilitres: 0, unsized: 0, missing: 0 },
    };
    orders.set(r.order, {
      ...was,
      lines: was.lines + 1,
      grams: was.grams + (r.grams ?? 0) * units,
      millilitres: was.millilitres + Number(r.ml ?? 0) * units,
      unsized: was.unsized + (r.grams === null || r.ml === null ? 1 : 0),
      missing: was.missing + (short.has(r.line) ? 1 : 0),
    });
  }
  for (const p of picks) {
    const own = orders.get(lineOf.get(p.line)?.order ?? 0);
    if (own && !own.bins.includes(p.bin)) own.bins.push(p.bin);
  }
  const bins = await query<ToJoin['bins'][number]>(
    db,
    `SELECT id, zone_id AS zone, address, walk::float8 AS walk FROM bin WHERE id = ANY(?::int[]) ORDER BY walk, id`,
    [[...new Set(picks.map((p) => p.bin))]],
  );
  return { orders: [...orders.values()].filter((o) => o.bins.length > 0), bins, ...(await selectCarts(db, site)) };
}

async function selectCarts(db: Reads, site: number): Promise<Omit<ToJoin, 'orders' | 'bins'>> {
  return queryOne(
    db,
    `SELECT s.cart_slots AS slots,
       (SELECT json_build_object('zone', b.zone_id, 'address', b.address) FROM bin b WHERE b.id = s.packing_bin) AS bench,
       (SELECT json_build_object('zone', b.zone_id, 'address', b.address)
        FROM bin b WHERE b.site_id = s.id AND b.use = 'cart' AND b.retired_at IS NULL ORDER BY b.walk, b.id LIMIT 1) AS cart,
       (SELECT min(b.weight_g)::float8 FROM bin b WHERE b.site_id = s.id AND b.use = 'cart' AND b.retired_at IS NULL) AS grams,
       (SELECT min(b.volume_ml)::float8 FROM bin b WHERE b.site_id = s.id AND b.use = 'cart' AND b.retired_at IS NULL) AS millilitres,
       (SELECT count(*)::int FROM bin b WHERE b.site_id = s.id AND b.use = 'cart' AND b.retired_at IS NULL
        AND b.id NOT IN (SELECT w.bin_id FROM cart_at_work w)) AS "freeCarts"
     FROM site s
     WHERE s.id = ?`,
    [site],
  );
}
