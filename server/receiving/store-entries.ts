import type { BinId, ItemId, LotId, Qty, SerialId, UnitId } from '#core/base';
import type { Condition } from '#core/stock';
import { dbQty, query, queryOne, type Db, type Trx } from '#server/kernel';

type Reads = Pick<Db, 'raw'>;
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
