import { query, refuse, type Db } from '#server/kernel';

type Reads = Pick<Db, 'raw'>;
export type DeliveryRow = {
  id: number;
  number: string;
  state: 'scanning' | 'review' | 'posted' | 'thrown';
  site_id: number;
  supplier: string;
  purchase_order_id: number | null;
  purchase_order: string | null;
  supplier_doc: string;
  by: string;
  at: Date;
  touched: Date;
  entries: number;
  receipt_id: number | null;
};
const DELIVERY = `SELECT d.id, d.number, d.state, d.site_id, s.name AS supplier, d.purchase_order_id, o.number AS purchase_order, d.supplier_doc, p.name AS by, d.at, d.touched, d.receipt_id,
  (SELECT count(*) FROM delivery_entry e WHERE e.delivery_id = d.id AND e.taken_out_at IS NULL) AS entries
  FROM delivery d JOIN supplier s ON s.id = d.supplier_id JOIN person p ON p.id = d.started_by LEFT JOIN purchase_order o ON o.id = d.purchase_order_id`;

/** Deliveries of a site in these states, newest first. */
export async function selectDeliveries(db: Reads, site: number, states: readonly string[]): Promise<DeliveryRow[]> {
  return query<DeliveryRow>(db, `${DELIVERY} WHERE d.site_id = ? AND d.state = ANY(?::text[]) ORDER BY d.id DESC LIMIT 100`, [
    site,
    states,
  ]);
}

/** The delivery, refusing `receiving.unknownDelivery`. */
export async function findDelivery(db: Reads, id: number): Promise<DeliveryRow> {
  return (await query<DeliveryRow>(db, `${DELIVERY} WHERE d.id = ?`, [id]))[0] ?? refuse({ code: 'receiving.unknownDelivery', id });
}

/** Locks the delivery, so that scans into it and its posting take turns. */
export async function lockDelivery(trx: Reads, id: number): Promise<DeliveryRow> {
  await query(trx, `SELECT 1 FROM delivery WHERE id = ? FOR UPDATE`, [id]);
  return findDelivery(trx, id);
}

/** What is still expected of a purchase order, per line. */
export async function selectExpected(db: Reads, purchaseOrder: number | null): Promise<{ item: number; qty: string }[]> {
  if (purchaseOrder === null) return [];
  return query(
    db,
    `SELECT item_id AS item, qty - received AS qty FROM purchase_line WHERE purchase_order_id = ? AND NOT closed AND received < qty ORDER BY id`,
    [purchaseOrder],
  );
}

export type EntryRow = {
  id: number;
  item: number;
  code: string;
  description: string;
  unit: string;
  tracking: string;
  pack: string;
  pack_units: string;
  qty: string;
  lot: string | null;
  expires: string | null;
  serial: string | null;
  expired: boolean;
  by: string;
  at: Date;
};

/** The entries that stand in a delivery, newest first. */
export async function selectEntries(db: Reads, delivery: number, entry: number | null = null): Promise<EntryRow[]> {
  return query<EntryRow>(
    db,
    `SELECT e.id, e.item_id AS item, i.code, i.description, i.base_unit AS unit, i.tracking, k.name AS pack, k.units AS pack_units, e.qty, e.lot, e.expires, e.serial,
       coalesce(e.expires < (now() AT TIME ZONE s.time_zone)::date, false) AS expired, p.name AS by, e.at
     FROM delivery_entry e JOIN item i ON i.id = e.item_id JOIN pack k ON k.id = e.pack_id JOIN person p ON p.id = e.person_id JOIN delivery d ON d.id = e.delivery_id JOIN site s ON s.id = d.site_id
     WHERE e.delivery_id = ? AND e.taken_out_at IS NULL AND (?::int IS NULL OR e.id = ?) ORDER BY e.id DESC`,
    [delivery, entry, entry],
  );
}

/** Where a serial is that must not arrive twice: in stock, or scanned in an open delivery; null where nowhere. */
export async function selectSerialPlace(db: Reads, item: number, serial: string): Promise<string | null> {
  const [row] = await query<{ place: string }>(
    db,
    `SELECT 'bin ' || bin.address AS place FROM serial s JOIN balance b ON b.serial_id = s.id AND b.qty > 0 JOIN bin ON bin.id = b.bin_id WHERE s.item_id = ? AND s.code = ?
     UNION ALL SELECT 'scanned in delivery ' || d.number FROM delivery_entry e JOIN delivery d ON d.id = e.delivery_id
       WHERE e.item_id = ? AND e.serial = ? AND e.taken_out_at IS NULL AND d.state IN ('scanning', 'review') LIMIT 1`,
    [item, serial, item, serial],
  );
  return row?.place ?? null;
}
