import type { Qty } from '#core/base';
import { dbQty, query, type Db, type Trx } from '#server/kernel';

type Reads = Pick<Db, 'raw'>;
export type PickedRow = {
  id: number;
  key: string;
  line: number;
  item: number;
  code: string;
  description: string;
  unit: string;
  tracking: string;
  ordered: string;
  shipped: string;
  qty: string;
  lot_id: number | null;
  lot: string | null;
  expires: string | null;
  expired: boolean;
  serial_id: number | null;
  serial: string | null;
  bin_id: number;
  bin: string;
  put_down: boolean;
  packed: boolean;
};

/** What was picked for an order and has not left, piece by piece. */
export async function selectPicked(db: Reads, order: number): Promise<PickedRow[]> {
  return query<PickedRow>(
    db,
    `SELECT k.id, k.key, l.id AS line, i.id AS item, i.code, i.description, i.base_unit AS unit, i.tracking, l.qty AS ordered,
       l.shipped, k.qty, k.lot_id, t.code AS lot, t.expires,
       coalesce(t.expires < today_in(s.time_zone), false) AS expired, k.serial_id,
         coalesce(sr.code, k.serial_out) AS serial, k.bin_id, b.address AS bin, k.put_down, k.packed
     FROM in_hand k
     JOIN order_line l ON l.id = k.line_id
     JOIN customer_order o ON o.id = l.order_id
     JOIN site s ON s.id = o.site_id
     JOIN item i ON i.id = k.item_id
     JOIN bin b ON b.id = k.bin_id
     LEFT JOIN lot t ON t.id = k.lot_id LEFT JOIN serial sr ON sr.id = k.serial_id WHERE l.order_id = ? ORDER BY l.id, k.id`,
    [order],
  );
}

/** Lines of an order that are open and of which nothing is in hand. */
export async function selectUnpicked(
  db: Reads,
  order: number,
): Promise<{ line: number; code: string; description: string; unit: string; ordered: string; shipped: string }[]> {
  return query(
    db,
    `SELECT l.id AS line, i.code, i.description, i.base_unit AS unit, l.qty AS ordered, l.shipped
     FROM order_line l
     JOIN item i ON i.id = l.item_id
     WHERE l.order_id = ? AND l.qty > l.shipped AND NOT EXISTS (SELECT 1 FROM in_hand k WHERE k.line_id = l.id) ORDER BY l.id`,
    [order],
  );
}

/** Notes of pieces that somebody looked at them in their parcels, or that this is no longer so. */
export async function updatePacked(trx: Trx, pieces: readonly number[], packed: boolean): Promise<void> {
  await query(trx, `UPDATE picked SET packed = ? WHERE id = ANY(?::int[])`, [packed, pieces]);
}

export type BenchListRow = {
  id: number;
  number: string;
  customer: string;
  kind: string;
  due: string;
  held_for: string | null;
  packed_at: Date | null;
  bins: string[];
  pieces: string;
  since: Date;
  open: string;
};

/** Orders whose goods are put down at a bench, the longest waiting first. */
export async function selectBench(db: Reads, site: number, order: number | null): Promise<BenchListRow[]> {
  return query<BenchListRow>(
    db,
    `SELECT o.id, o.number, c.name AS customer, o.kind, o.due, o.held_for, o.packed_at, json_agg(DISTINCT b.address) AS bins,
       sum(k.qty) AS pieces, min(r.put_down_at) AS since,
       (SELECT sum(x.qty - x.shipped) FROM order_line x WHERE x.order_id = o.id) AS open
     FROM in_hand k
     JOIN order_line l ON l.id = k.line_id
     JOIN customer_order o ON o.id = l.order_id
     JOIN order_party c ON c.order_id = o.id
     JOIN bin b ON b.id = k.bin_id
     JOIN round_pick p ON p.id = k.pick_id JOIN round r ON r.id = p.round_id
     WHERE k.put_down AND o.state = 'open' AND o.site_id = ? AND (?::int IS NULL OR o.id = ?)
     GROUP BY o.id, c.name
     ORDER BY since, o.id
     LIMIT 200`,
    [site, order, order],
  );
}

/** Says that an order is packed, by whom and into how many parcels. */
export async function updateOrderPacked(trx: Trx, packed: { order: number; person: number; parcels: number }): Promise<void> {
  await query(trx, `UPDATE customer_order SET packed_at = now_here(), packed_by = ?, parcels = ?, changed = now_here() WHERE id = ?`, [
    packed.person,
    packed.parcels,
    packed.order,
  ]);
}

/** Writes a shipment, with as many parcels as the order was packed into. */
export async function insertShipment(trx: Trx, shipment: { number: string; order: number; document: number }): Promise<void> {
  await query(
    trx,
    `INSERT INTO shipment (number, order_id, document_id, parcels)
     SELECT ?, o.id, ?, coalesce(o.parcels, 1)
     FROM customer_order o
     WHERE o.id = ?`,
    [shipment.number, shipment.document, shipment.order],
  );
}

/** Says where an order stands when something of it has left; what stays is to be packed anew. */
export async function updateOrderShipped(trx: Trx, order: number, state: 'shipped' | 'open'): Promise<void> {
  await query(trx, `UPDATE customer_order SET state = ?, packed_at = NULL, changed = now_here() WHERE id = ?`, [state, order]);
}

/** Writes that goods were taken off their shelves and left at once, on no round. */
export async function insertPickedAtOnce(
  trx: Trx,
  left: { document: number; person: number },
  goods: readonly {
    line: number;
    item: number;
    lot: number | null;
    serial: number | null;
    serialOut: string | null;
    qty: Qty;
    bin: number;
  }[],
): Promise<void> {
  await query(
    trx,
    `INSERT INTO picked (line_id, item_id, lot_id, serial_id, serial_out, qty, bin_id, put_down, packed, shipped, shipment_document,
       person_id)
     SELECT x.line, x.item, x.lot, x.serial, x.out, x.qty, x.bin, true, true, true, ?, ?
     FROM unnest(?::int[], ?::int[], ?::int[], ?::int[], ?::text[], ?::numeric[], ?::int[]) AS x(line, item, lot, serial, out, qty, bin)`,
    [
      left.document,
      left.person,
      goods.map((g) => g.line),
      goods.map((g) => g.item),
      goods.map((g) => g.lot),
      goods.map((g) => g.serial),
      goods.map((g) => g.serialOut),
      goods.map((g) => dbQty(g.qty)),
      goods.map((g) => g.bin),
    ],
  );
}
