import type { BinId, ItemId, LotId, Qty, SerialId, UnitId } from '#core/base';
import type { OpenPurchaseLine, SettledLine } from '#core/receiving';
import type { Condition } from '#core/stock';
import { asQty, dbQty, lockRows, query, queryOne, refuse, type Db, type Trx } from '#server/kernel';

type Reads = Pick<Db, 'raw'>;
export type DeliveryRow = {
  id: number;
  number: string;
  state: 'scanning' | 'review' | 'posted' | 'thrown';
  site_id: number;
  site: string;
  supplier_id: number | null;
  supplier: string | null;
  /** What is agreed with that supplier, in hundredths of a percent. */
  over: number;
  short: number;
  /** Goods that a customer brings back; of a shipment, where one is known. */
  back: { customer: string | null; shipment: { id: number; number: string } | null } | null;
  /** The purchase orders that it is of. */
  orders: { id: number; number: string }[];
  supplier_doc: string;
  supplier_doc_date: string | null;
  by: string;
  at: Date;
  touched: Date;
  entries: number;
  receipt_id: number | null;
};
const DELIVERY = `SELECT d.id, d.number, d.state, d.site_id, w.name AS site, d.supplier_id, s.name AS supplier,
    (coalesce(s.over_percent, 0) * 100)::int AS over, (coalesce(s.short_percent, 0) * 100)::int AS short,
    CASE WHEN d.is_return THEN json_build_object(
      'customer', (SELECT c.name FROM customer c WHERE c.id = d.customer_id),
      'shipment', (SELECT json_build_object('id', h.id, 'number', h.number) FROM shipment h WHERE h.id = d.shipment_id)) END AS back,
    (
      SELECT coalesce(json_agg(json_build_object('id', o.id, 'number', o.number) ORDER BY o.id), '[]')
      FROM delivery_order x
      JOIN purchase_order o ON o.id = x.purchase_order_id
      WHERE x.delivery_id = d.id
    ) AS orders,
    d.supplier_doc, d.supplier_doc_date, p.name AS by, d.at, d.touched, d.receipt_id,
  (SELECT count(*) FROM delivery_entry e WHERE e.delivery_id = d.id AND e.taken_out_at IS NULL) AS entries
  FROM delivery d
  JOIN site w ON w.id = d.site_id
  LEFT JOIN supplier s ON s.id = d.supplier_id
  JOIN person p ON p.id = d.started_by`;

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

/** Locks the delivery, so that scans into it and its posting take turns, and reads it as it is then.
 *  Errors: `receiving.unknownDelivery`; `people.otherSite` where it came to another site than `site`. */
export async function lockDelivery(trx: Trx, id: number, site: number): Promise<DeliveryRow> {
  await lockRows(trx, 'delivery', [id]);
  const delivery = await findDelivery(trx, id);
  if (delivery.site_id !== site) refuse({ code: 'people.otherSite', what: `Delivery ${delivery.number}`, site: delivery.site });
  return delivery;
}

export type DeliveryHead = Pick<DeliveryRow, 'id' | 'number' | 'state' | 'site_id' | 'site'> & {
  /** Whether it is of any order, or comes back of a shipment; else everything in it is as good as ordered. */
  of_paper: boolean;
  is_return: boolean;
  /** What is agreed with its supplier, in hundredths of a percent. */
  over: number;
  short: number;
  /** Today at its site, `YYYY-MM-DD`. */
  today: string;
};

/** The same for whoever scans: reads nothing that grows with the delivery. */
export async function lockDeliveryHead(trx: Trx, id: number, site: number): Promise<DeliveryHead> {
  await lockRows(trx, 'delivery', [id]);
  const [delivery] = await query<DeliveryHead>(
    trx,
    `SELECT d.id, d.number, d.state, d.site_id, w.name AS site, today_in(w.time_zone) AS today,
       d.shipment_id IS NOT NULL OR EXISTS (SELECT 1 FROM delivery_order x WHERE x.delivery_id = d.id) AS of_paper, d.is_return,
       (coalesce(s.over_percent, 0) * 100)::int AS over, (coalesce(s.short_percent, 0) * 100)::int AS short
     FROM delivery d JOIN site w ON w.id = d.site_id LEFT JOIN supplier s ON s.id = d.supplier_id WHERE d.id = ?`,
    [id],
  );
  if (!delivery) return refuse({ code: 'receiving.unknownDelivery', id });
  if (delivery.site_id !== site) refuse({ code: 'people.otherSite', what: `Delivery ${delivery.number}`, site: delivery.site });
  return delivery;
}

/** How one item stands in a delivery: how much its paper still expects, and how much was scanned. Null where it expects none, and where
 *  none was. */
export async function selectStandingOf(
  db: Reads,
  delivery: { id: number },
  item: number,
): Promise<{ expected: string | null; scanned: string | null }> {
  const [row] = await query<{ expected: string | null; scanned: string | null }>(
    db,
    `SELECT (SELECT sum(x.qty) FROM (${EXPECTED}) x WHERE x.item = ?) AS expected,
       (SELECT sum(qty) FROM delivery_entry WHERE delivery_id = ? AND item_id = ? AND taken_out_at IS NULL) AS scanned`,
    [delivery.id, delivery.id, item, delivery.id, item],
  );
  return row ?? { expected: null, scanned: null };
}

/** The lines of a delivery's orders that still expect goods, those that are due first before the others. */
export async function selectOpenLines(db: Reads, delivery: number): Promise<OpenPurchaseLine[]> {
  const rows = await query<{ line: number; item: ItemId; open: string }>(
    db,
    `SELECT l.id AS line, l.item_id AS item, greatest(l.qty - l.received, 0) AS open
     FROM delivery_order x
     JOIN purchase_order o ON o.id = x.purchase_order_id
     JOIN purchase_line l ON l.purchase_order_id = o.id
     WHERE x.delivery_id = ? AND NOT l.closed AND o.state IN ('open', 'closed')
     ORDER BY o.due, l.id`,
    [delivery],
  );
  return rows.map((r) => ({ ...r, open: asQty(r.open) }));
}

/** Writes what a receipt means for the lines of its order, and keeps what they expected. */
export async function settlePurchaseLines(trx: Trx, delivery: number, lines: readonly SettledLine[]): Promise<void> {
  const args = [lines.map((l) => l.line), lines.map((l) => dbQty(l.received))];
  await query(
    trx,
    `INSERT INTO delivery_expected (delivery_id, purchase_line_id, item_id, expected, received)
     SELECT ?, *
     FROM unnest(?::int[], ?::int[], ?::numeric[], ?::numeric[])`,
    [
      delivery,
      lines.map((l) => l.line),
      lines.map((l) => l.item),
      lines.map((l) => dbQty(l.expected)),
      lines.map((l) => dbQty(l.received)),
    ],
  );
  await query(
    trx,
    `UPDATE purchase_line l SET received = l.received + x.qty FROM unnest(?::int[], ?::numeric[]) AS x(id, qty) WHERE l.id = x.id
      AND x.qty > 0`,
    args,
  );
}

/** Closes these lines, of which what is missing is within what is agreed, and opens those again that a receipt closed so and that are not
 *  within it any more. */
export async function closeAgreedShort(trx: Trx, delivery: number, lines: readonly number[]): Promise<void> {
  await query(
    trx,
    `WITH now AS (
       UPDATE delivery_expected e SET agreed_short = (e.purchase_line_id = ANY(?::int[]))
       WHERE e.delivery_id = ? AND e.agreed_short <> (e.purchase_line_id = ANY(?::int[]))
       RETURNING e.purchase_line_id AS line, e.agreed_short)
     UPDATE purchase_line l SET closed = now.agreed_short FROM now WHERE l.id = now.line`,
    [lines, delivery, lines],
  );
}

/** Closes those purchase orders of which nothing is expected any more; where asked, what is still missing is no longer expected. */
export async function closePurchaseOrders(trx: Trx, orders: readonly number[], closeShort: boolean): Promise<void> {
  if (closeShort)
    await query(trx, `UPDATE purchase_line SET closed = true WHERE purchase_order_id = ANY(?::int[]) AND received < qty`, [orders]);
  await query(
    trx,
    `UPDATE purchase_order o SET state = 'closed', version = version + 1, ended_at = now_here()
     WHERE o.id = ANY(?::int[]) AND o.state = 'open'
       AND NOT EXISTS (SELECT 1 FROM purchase_line l WHERE l.purchase_order_id = o.id AND NOT l.closed AND l.received < l.qty)`,
    [orders],
  );
}

/** What a posted delivery met when it was posted. */
export function selectMet(db: Reads, delivery: number): Promise<{ item: number; qty: string }[]> {
  return query(db, `SELECT item_id AS item, expected AS qty FROM delivery_expected WHERE delivery_id = ? ORDER BY purchase_line_id`, [
    delivery,
  ]);
}

// What the orders of a delivery still expect, line by line; or what left with the shipment of which it comes back, less what other returns
// brought back of it. Both values are the delivery.
const EXPECTED = `SELECT l.item_id AS item, l.open AS qty, l.id AS line
  FROM delivery_order x
  JOIN expected_line l ON l.purchase_order_id = x.purchase_order_id
  WHERE x.delivery_id = ?
  UNION ALL SELECT l.item_id, l.qty - coalesce((SELECT sum(r.qty) FROM returned_line r
    WHERE r.shipment_id = l.shipment_id AND r.item_id = l.item_id AND r.delivery_id <> d.id), 0), l.item_id
  FROM delivery d
  JOIN shipped_line l ON l.shipment_id = d.shipment_id
  WHERE d.id = ?`;

/** What is still expected of a delivery's paper, per line. */
export function selectExpected(db: Reads, delivery: number): Promise<{ item: number; qty: string }[]> {
  return query(db, `SELECT item, qty FROM (${EXPECTED}) x ORDER BY line`, [delivery, delivery]);
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
  made: string | null;
  serial: string | null;
  /** The logistic unit in which it came. */
  sscc: string | null;
  expired: boolean;
  /** The bin into which it goes at once. */
  to_bin: number | null;
  to_address: string | null;
  /** What one base unit of it cost by the sheet with which it came. */
  cost: string | null;
  by: string;
  by_id: number;
  at: Date;
  handed_in: boolean;
  /** The document that reversed it, and why; null where it stands. */
  reversal: { id: number; number: string; by: string; at: string; why: string } | null;
  changes: { by: string; at: string; was: string; now: string; expiresWas: string | null; expiresNow: string | null }[];
};

/** The entries that stand in a delivery, newest first. */
export async function selectEntries(db: Reads, delivery: number, entry: number | null = null): Promise<EntryRow[]> {
  return query<EntryRow>(
    db,
    `SELECT e.id, e.item_id AS item, i.code, i.description, i.base_unit AS unit, i.tracking, k.name AS pack,
       k.units AS pack_units, e.qty, e.lot, e.expires, e.made, e.serial, e.sscc,
       coalesce(e.expires < today_in(s.time_zone), false) AS expired, p.name AS by, p.id AS by_id, e.at,
         e.handed_in_at IS NOT NULL AS handed_in,
       trim_scale(e.cost)::text AS cost, e.to_bin, (SELECT b.address FROM bin b WHERE b.id = e.to_bin) AS to_address,
       (
         SELECT json_build_object('id', v.id, 'number', v.number, 'by', w.name, 'at', v.at, 'why', e.reversed_for)
         FROM document v
         JOIN person w ON w.id = v.person_id
         WHERE v.id = e.reversal_id
       ) AS reversal,
       coalesce((SELECT json_agg(json_build_object('by', w.name, 'at', c.at, 'was', trim_scale(c.qty_was)::text, 'now',
       trim_scale(c.qty_now)::text,
         'expiresWas', c.expires_was, 'expiresNow',
           c.expires_now) ORDER BY c.id) FROM entry_change c JOIN person w ON w.id = c.person_id WHERE c.entry_id = e.id), '[]') AS changes
     FROM delivery_entry e
     JOIN item i ON i.id = e.item_id
     JOIN pack k ON k.id = e.pack_id
     JOIN person p ON p.id = e.person_id
     JOIN delivery d ON d.id = e.delivery_id
     JOIN site s ON s.id = d.site_id
     WHERE e.delivery_id = ? AND e.taken_out_at IS NULL AND (?::int IS NULL OR e.id = ?) ORDER BY e.id DESC`,
    [delivery, entry, entry],
  );
}

/** Where a serial is that must not arrive twice: in stock, or scanned in an open delivery; null where nowhere. */
export async function selectSerialPlace(db: Reads, item: number, serial: string): Promise<string | null> {
  const [row] = await query<{ place: string }>(
    db,
    `SELECT 'bin ' || bin.address AS place
     FROM serial s
     JOIN balance b ON b.serial_id = s.id AND b.qty > 0
     JOIN bin ON bin.id = b.bin_id
     WHERE s.item_id = ? AND s.code = ?
     UNION ALL SELECT 'scanned in delivery ' || d.number FROM delivery_entry e JOIN delivery d ON d.id = e.delivery_id
       WHERE e.item_id = ? AND e.serial = ? AND e.taken_out_at IS NULL AND d.state IN ('scanning', 'review') LIMIT 1`,
    [item, serial, item, serial],
  );
  return row?.place ?? null;
}

/** Where a logistic unit is that must not arrive twice: in stock, or scanned in an open delivery other than this one; null where
 *  nowhere. */
export async function selectUnitArrived(db: Reads, sscc: string, but: number | null): Promise<string | null> {
  const [row] = await query<{ place: string }>(
    db,
    `SELECT 'bin ' || bin.address AS place
     FROM logistic_unit u
     JOIN balance b ON b.unit_id = u.id
     JOIN bin ON bin.id = b.bin_id
     WHERE u.sscc = ?
     UNION ALL SELECT 'scanned in delivery ' || d.number FROM delivery_entry e JOIN delivery d ON d.id = e.delivery_id
       WHERE e.sscc = ? AND e.taken_out_at IS NULL AND d.state IN ('scanning', 'review') AND d.id IS DISTINCT FROM ? LIMIT 1`,
    [sscc, sscc, but],
  );
  return row?.place ?? null;
}

/** The date that a lot of an item is known to expire on: from stock, or from the first time that it was keyed in any delivery that is
 *  open. */
export async function selectLotDate(db: Reads, item: number, lot: string): Promise<string | null> {
  const [row] = await query<{ expires: string }>(
    db,
    `SELECT expires FROM (
       SELECT 0 AS n, expires FROM lot WHERE item_id = ? AND code = ? AND expires IS NOT NULL
       UNION ALL SELECT e.id, e.expires FROM delivery_entry e JOIN delivery d ON d.id = e.delivery_id
         WHERE e.item_id = ? AND e.lot = ? AND e.taken_out_at IS NULL AND e.expires IS NOT NULL
           AND d.state IN ('scanning', 'review')) known ORDER BY n LIMIT 1`,
    [item, lot, item, lot],
  );
  return row?.expires ?? null;
}

/** The first entry of a delivery whose date is not that of its lot. Read after the lots were made, so that two deliveries that are posted
 *  at once cannot both be first. */
export async function selectOtherDate(
  db: Reads,
  delivery: number,
): Promise<{ code: string; lot: string; known: string; given: string } | undefined> {
  return (
    await query<{ code: string; lot: string; known: string; given: string }>(
      db,
      `SELECT i.code, e.lot, l.expires AS known, e.expires AS given
       FROM delivery_entry e
       JOIN item i ON i.id = e.item_id
       JOIN lot l ON l.item_id = e.item_id AND l.code = e.lot
       WHERE e.delivery_id = ? AND e.taken_out_at IS NULL AND e.expires IS NOT NULL AND l.expires IS DISTINCT FROM e.expires
       ORDER BY e.id
       LIMIT 1`,
      [delivery],
    )
  )[0];
}

/** Changes an entry and keeps what it was and who changed it. */
export async function updateEntry(
  trx: Trx,
  change: { entry: number; person: number; qty?: string; expires?: string | null; takenOut?: boolean },
): Promise<void> {
  await query(
    trx,
    `WITH was AS (SELECT id, qty, expires FROM delivery_entry WHERE id = ?),
     changed AS (UPDATE delivery_entry e SET qty = coalesce(?::numeric, e.qty), expires = coalesce(?::date, e.expires),
       taken_out_at = CASE WHEN ? THEN now_here() ELSE e.taken_out_at END FROM was WHERE e.id = was.id RETURNING e.id, e.qty, e.expires)
     INSERT INTO entry_change (entry_id, person_id, qty_was, qty_now, expires_was, expires_now, taken_out)
     SELECT was.id, ?, was.qty, CASE WHEN ? THEN 0 ELSE changed.qty END, was.expires, changed.expires, ?
     FROM was
     JOIN changed ON changed.id = was.id`,
    [
      change.entry,
      change.qty ?? null,
      change.expires ?? null,
      change.takenOut ?? false,
      change.person,
      change.takenOut ?? false,
      change.takenOut ?? false,
    ],
  );
}

/** Begins a delivery, under the next number; of a supplier, or of nobody yet. */
export function insertDelivery(
  trx: Trx,
  begun: { site: number; supplier: number | null; person: number },
): Promise<{ id: number; number: string }> {
  return queryOne<{ id: number; number: string }>(
    trx,
    `INSERT INTO delivery (number, site_id, supplier_id, started_by)
     VALUES ('DL-' || nextval('number_dl'), ?, ?, ?)
     RETURNING id, number`,
    [begun.site, begun.supplier, begun.person],
  );
}

/** Says that a delivery is of these purchase orders too. */
export async function addDeliveryOrders(trx: Trx, delivery: number, orders: readonly number[]): Promise<void> {
  if (orders.length === 0) return;
  await query(trx, `INSERT INTO delivery_order (delivery_id, purchase_order_id) SELECT ?, * FROM unnest(?::int[]) ON CONFLICT DO NOTHING`, [
    delivery,
    orders,
  ]);
}

/** Says by which key a device knows a delivery. */
export async function addDeliveryKey(trx: Trx, delivery: number, key: string): Promise<void> {
  await query(trx, `INSERT INTO delivery_key (key, delivery_id) VALUES (?, ?) ON CONFLICT DO NOTHING`, [key, delivery]);
}

/** The delivery that a device means: by its number in the database, or by the key under which it was begun.
 *  Errors: `receiving.unknownDelivery`. */
export async function findDeliveryId(db: Reads, ref: number | string): Promise<number> {
  if (typeof ref === 'number') return ref;
  const [row] = await query<{ id: number }>(db, `SELECT delivery_id AS id FROM delivery_key WHERE key = ?`, [ref]);
  return row?.id ?? refuse({ code: 'receiving.unknownDelivery', id: 0 });
}

/** The delivery in which an entry stands; undefined where nobody knows it. */
export async function selectDeliveryOfEntry(db: Reads, key: string): Promise<number | undefined> {
  return (await query<{ id: number }>(db, `SELECT delivery_id AS id FROM delivery_entry WHERE key = ?`, [key]))[0]?.id;
}

/** The entry of these goods in a unit that is being received. */
export async function selectUnitEntry(
  db: Reads,
  of: { sscc: string; item: number; lot: string | null; serial: string | null },
): Promise<{ key: string; delivery: number } | undefined> {
  const rows = await query<{ key: string; delivery: number }>(
    db,
    `SELECT e.key, e.delivery_id AS delivery
     FROM delivery_entry e
     JOIN delivery d ON d.id = e.delivery_id AND d.state IN ('scanning', 'review')
     WHERE e.sscc = ? AND e.item_id = ? AND e.lot IS NOT DISTINCT FROM ? AND e.serial IS NOT DISTINCT FROM ? AND e.taken_out_at IS NULL
     ORDER BY e.id
     LIMIT 1`,
    [of.sscc, of.item, of.lot, of.serial],
  );
  return rows[0];
}

/** The open deliveries of purchase orders, each with the orders that it is of. */
export function selectOpenDeliveriesOf(
  db: Reads,
  orders: readonly number[],
): Promise<{ id: number; number: string; site: number; supplier: number | null; orders: number[] }[]> {
  return query(
    db,
    `SELECT d.id, d.number, d.site_id AS site, d.supplier_id AS supplier,
       (SELECT json_agg(x.purchase_order_id) FROM delivery_order x WHERE x.delivery_id = d.id) AS orders
     FROM delivery d
     WHERE d.id IN (SELECT delivery_id FROM delivery_order WHERE purchase_order_id = ANY(?::int[]) AND open)
     ORDER BY d.id`,
    [orders],
  );
}

/** Those of these purchase orders that are approved and expect something at a site. */
export function selectReceivableOrders(db: Reads, site: number, orders: readonly number[]): Promise<{ id: number; supplier: number }[]> {
  return query(
    db,
    `SELECT DISTINCT purchase_order_id AS id, supplier_id AS supplier
     FROM expected_line
     WHERE site_id = ? AND purchase_order_id = ANY(?::int[])
     ORDER BY purchase_order_id`,
    [site, orders],
  );
}

/** Names the supplier's paper with which a delivery came, and its date. */
export async function updatePaper(trx: Trx, delivery: number, paper: { doc: string; date: string | null }): Promise<void> {
  await query(trx, `UPDATE delivery SET supplier_doc = ?, supplier_doc_date = ?, touched = now_here() WHERE id = ?`, [
    paper.doc,
    paper.date,
    delivery,
  ]);
}

/** Says which supplier a delivery is of. */
export async function updateSupplier(trx: Trx, delivery: number, supplier: number): Promise<void> {
  await query(trx, `UPDATE delivery SET supplier_id = ?, touched = now_here() WHERE id = ?`, [supplier, delivery]);
}

/** Notes who threw a delivery away, and when. */
export async function updateThrownBy(trx: Trx, delivery: number, person: number): Promise<void> {
  await query(trx, `UPDATE delivery SET thrown_at = now_here(), thrown_by = ? WHERE id = ?`, [person, delivery]);
}

/** Says where a delivery stands now. */
export async function updateDeliveryState(trx: Trx, delivery: number, state: DeliveryRow['state']): Promise<void> {
  await query(trx, `UPDATE delivery SET state = ?, touched = now_here() WHERE id = ?`, [state, delivery]);
}

/** Says that a delivery is posted, by which receipt, and on what paper of the supplier it came. */
export async function updatePosted(trx: Trx, delivery: number, by: { receipt: number; supplierDoc: string | null }): Promise<void> {
  await query(
    trx,
    `UPDATE delivery SET state = 'posted', receipt_id = ?, supplier_doc = coalesce(?, supplier_doc), touched = now_here() WHERE id = ?`,
    [by.receipt, by.supplierDoc, delivery],
  );
}

/** Writes an entry of a delivery, told by a device under a key of its own. Returns its number. */
export async function insertEntry(
  trx: Trx,
  entry: {
    key: string;
    delivery: number;
    item: number;
    pack: number | null;
    qty: Qty;
    lot: string | null;
    expires: string | null;
    made: string | null;
    serial: string | null;
    sscc: string | null;
    person: number;
    device: string | null;
    at: Date | null;
  },
): Promise<number> {
  const made = await queryOne<{ id: number }>(
    trx,
    `WITH touched AS (UPDATE delivery SET touched = now_here() WHERE id = ?)
     INSERT INTO delivery_entry (key, delivery_id, item_id, pack_id, qty, lot, expires, made, serial, sscc, person_id, device, at)
     VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, coalesce(?::timestamptz, now_here()))
     RETURNING id`,
    [
      entry.delivery,
      entry.key,
      entry.delivery,
      entry.item,
      entry.pack,
      dbQty(entry.qty),
      entry.lot,
      entry.expires,
      entry.made,
      entry.serial,
      entry.sscc,
      entry.person,
      entry.device,
      entry.at,
    ],
  );
  return made.id;
}

/** Says of the entries of a delivery that they are handed in: they are the lead's from now on. */
export async function updateHandedIn(trx: Trx, delivery: number): Promise<void> {
  await query(
    trx,
    `UPDATE delivery_entry SET handed_in_at = now_here() WHERE delivery_id = ? AND taken_out_at IS NULL AND handed_in_at IS NULL`,
    [delivery],
  );
}

/** The delivery that takes up what came after another was posted: of the same supplier, in review; begun where none is open.
 *  Errors: `receiving.unknownDelivery`. */
export async function findFollowUp(trx: Trx, of: { delivery: number; person: number }): Promise<{ id: number; number: string }> {
  const [open] = await query<{ id: number; number: string }>(
    trx,
    `SELECT id, number FROM delivery WHERE follows = ? AND state IN ('scanning', 'review') ORDER BY id LIMIT 1`,
    [of.delivery],
  );
  if (open) return open;
  const [made] = await query<{ id: number; number: string }>(
    trx,
    `INSERT INTO delivery (number, site_id, supplier_id, started_by, state, follows, is_return, customer_id, shipment_id)
     SELECT CASE WHEN is_return THEN 'RT-' || nextval('number_rt') ELSE 'DL-' || nextval('number_dl') END, site_id, supplier_id, ?,
       'review', id, is_return, customer_id, CASE WHEN EXISTS (
         SELECT 1 FROM delivery other WHERE other.shipment_id = delivery.shipment_id AND other.state IN ('scanning', 'review')
       ) THEN NULL ELSE shipment_id END
     FROM delivery
     WHERE id = ?
     RETURNING id, number`,
    [of.person, of.delivery],
  );
  return made ?? refuse({ code: 'receiving.unknownDelivery', id: of.delivery });
}

/** Writes the date of a lot into every entry of it in open deliveries: one lot has one date. */
export async function updateDateOfLot(trx: Trx, to: { item: number; lot: string; expires: string }): Promise<void> {
  await query(
    trx,
    `UPDATE delivery_entry e
     SET expires = ?
     FROM delivery d
     WHERE d.id = e.delivery_id AND d.state IN ('scanning', 'review')
       AND e.item_id = ? AND e.lot = ? AND e.taken_out_at IS NULL`,
    [to.expires, to.item, to.lot],
  );
}

/** By which keys devices know a delivery. */
export async function selectKeys(db: Reads, delivery: number): Promise<string[]> {
  return (await query<{ key: string }>(db, `SELECT key FROM delivery_key WHERE delivery_id = ? ORDER BY key`, [delivery])).map(
    (r) => r.key,
  );
}

/** Says which movement each entry of a delivery became. */
export async function updateMovements(trx: Trx, entries: readonly number[], movements: readonly number[]): Promise<void> {
  await query(
    trx,
    `UPDATE delivery_entry e SET movement_id = x.movement FROM unnest(?::int[], ?::bigint[]) AS x(entry, movement) WHERE e.id = x.entry`,
    [entries, movements],
  );
}

export type ReversibleRow = {
  id: number;
  code: string;
  movement: number;
  item: ItemId;
  lot: LotId | null;
  serial: SerialId | null;
  qty: string;
  from_bin: BinId;
  from_condition: Condition;
  to_bin: BinId;
  to_condition: Condition;
  /** The logistic unit in which it came. */
  to_unit: UnitId | null;
  sscc: string | null;
  /** The document that reversed it already. */
  reversed: string | null;
};

/** An entry of a posted delivery with the movement that it became; undefined where it is none of the delivery. */
export async function selectReversible(db: Reads, delivery: number, entry: number): Promise<ReversibleRow | undefined> {
  const rows = await query<ReversibleRow>(
    db,
    `SELECT e.id, i.code, m.id AS movement, m.item_id AS item, m.lot_id AS lot, m.serial_id AS serial, m.qty, m.from_bin, m.from_condition,
       m.to_bin, m.to_condition, m.to_unit, e.sscc,
       (SELECT d.number FROM movement r JOIN document d ON d.id = r.document_id WHERE r.reverses = m.id) AS reversed
     FROM delivery_entry e
     JOIN item i ON i.id = e.item_id
     JOIN movement m ON m.id = e.movement_id
     WHERE e.id = ? AND e.delivery_id = ? AND e.taken_out_at IS NULL`,
    [entry, delivery],
  );
  return rows[0];
}

/** Where goods of a received line lie now at its site, in the condition in which they were received; what is in hand for orders is not
 *  among it. Of a line that came in a logistic unit, what lies beside that is `apart`. */
export function selectReceivedStock(
  db: Reads,
  site: number,
  of: { item: ItemId; lot: LotId | null; serial: SerialId | null; to: { condition: Condition; unit: UnitId | null } },
): Promise<{ bin: BinId; address: string; qty: string; apart: boolean }[]> {
  return query(
    db,
    `SELECT bin_id AS bin, address, sum(qty) AS qty, coalesce(unit_id <> ?::int OR (unit_id IS NULL AND ?::int IS NOT NULL), false) AS apart
     FROM stock_fact
     WHERE site_id = ? AND item_id = ? AND lot_id IS NOT DISTINCT FROM ?::int AND serial_id IS NOT DISTINCT FROM ?::int
       AND condition = ? AND use NOT IN ('cart', 'packing', 'transit')
     GROUP BY bin_id, address, 4
     ORDER BY bin_id, 4`,
    [of.to.unit, of.to.unit, site, of.item, of.lot, of.serial, of.to.condition],
  );
}

/** Says that an entry was reversed, by which document and why. */
export async function updateReversed(trx: Trx, entry: number, by: { document: number; reason: string }): Promise<void> {
  await query(trx, `UPDATE delivery_entry SET reversal_id = ?, reversed_for = ? WHERE id = ?`, [by.document, by.reason, entry]);
}

/** What a posted delivery handed to each line that it met, in the order in which it did. */
export function selectSettled(db: Reads, delivery: number): Promise<{ line: number; item: ItemId; expected: string; received: string }[]> {
  return query(
    db,
    `SELECT x.purchase_line_id AS line, x.item_id AS item, x.expected, x.received
     FROM delivery_expected x
     JOIN purchase_line l ON l.id = x.purchase_line_id
     JOIN purchase_order o ON o.id = l.purchase_order_id
     WHERE x.delivery_id = ?
     ORDER BY o.due, l.id`,
    [delivery],
  );
}

/** Changes what a posted delivery handed to its lines, and the lines with it. */
export async function changeSettled(trx: Trx, delivery: number, lines: readonly SettledLine[]): Promise<void> {
  const args = [lines.map((l) => l.line), lines.map((l) => dbQty(l.received))];
  await query(
    trx,
    `WITH now AS (SELECT * FROM unnest(?::int[], ?::numeric[]) AS x(line, received)),
     was AS (SELECT purchase_line_id AS line, received FROM delivery_expected WHERE delivery_id = ?),
     told AS (
       UPDATE delivery_expected e SET received = now.received FROM now WHERE e.delivery_id = ? AND e.purchase_line_id = now.line)
     UPDATE purchase_line l SET received = l.received + now.received - was.received
     FROM now
     JOIN was USING (line)
     WHERE l.id = now.line AND now.received <> was.received`,
    [...args, delivery, delivery],
  );
}

/** Opens those purchase orders again that were closed because all had come, and of which something is missing again. */
export async function reopenPurchaseOrders(trx: Trx, orders: readonly number[]): Promise<void> {
  await query(
    trx,
    `UPDATE purchase_order o SET state = 'open', version = version + 1, ended_at = NULL, ended_by = NULL, ended_for = ''
     WHERE o.id = ANY(?::int[]) AND o.state = 'closed'
       AND EXISTS (SELECT 1 FROM purchase_line l WHERE l.purchase_order_id = o.id AND NOT l.closed AND l.received < l.qty)`,
    [orders],
  );
}

/** Says into which bin an entry goes; null leaves it at arrivals. */
export async function updateToBin(trx: Trx, entry: number, bin: number | null): Promise<void> {
  await query(trx, `UPDATE delivery_entry SET to_bin = ? WHERE id = ?`, [bin, entry]);
}

/** Says into which bin everything of a logistic unit in a delivery goes; what expired goes to quarantine whatever is said. */
export async function updateUnitToBin(trx: Trx, unit: { delivery: number; sscc: string; bin: number | null }): Promise<void> {
  await query(trx, `UPDATE delivery_entry SET to_bin = ? WHERE delivery_id = ? AND sscc = ? AND taken_out_at IS NULL`, [
    unit.bin,
    unit.delivery,
    unit.sscc,
  ]);
}

/** Makes a part of an entry an entry of its own, with everything that is known of it, for a bin. */
export async function splitEntry(trx: Trx, part: { entry: number; key: string; qty: Qty; bin: number | null }): Promise<void> {
  await query(
    trx,
    `INSERT INTO delivery_entry
       (key, delivery_id, item_id, pack_id, qty, lot, expires, made, serial, sscc, cost, person_id, device, at, handed_in_at, to_bin)
     SELECT ?::uuid, delivery_id, item_id, pack_id, ?::numeric, lot, expires, made, serial, sscc, cost, person_id, device, at,
       handed_in_at, ?::int
     FROM delivery_entry
     WHERE id = ?`,
    [part.key, dbQty(part.qty), part.bin, part.entry],
  );
}
