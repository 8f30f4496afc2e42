import type { ItemId, Qty } from '#core/base';
import { carriedBy, keysOf, readScan, type ScanReading, type Tracking } from '#core/items';
import { asQty, LOCK_CLASS, lockRows, noteLocks, query, queryOne, refuse, valueOf, type Db, type Trx } from '#server/kernel';

type Reads = Pick<Db, 'raw'>;

export type FoundItem = {
  id: ItemId;
  code: string;
  description: string;
  unit: string;
  decimals: number;
  tracking: Tracking;
  shelfLifeMonths: number | null;
  version: number;
};

/** An item as a scan named it: with the pack that the code stands for, and what the code carried besides. */
export type ScannedItem = FoundItem & {
  readonly pack: { id: number; name: string; units: Qty };
  readonly lot: string | null;
  readonly expires: string | null;
  readonly made: string | null;
  readonly serialCode: string | null;
  /** The logistic unit in which it is. */
  readonly sscc: string | null;
  /** How much of the base unit the code itself says there is, (02) with (37) or (30): proposed where nobody keys a quantity. */
  readonly labelled: Qty | null;
};

type ItemRow = FoundItem & { pack_id: number; pack_name: string; pack_units: string };
const FOUND = `SELECT i.id, i.code, i.description, i.base_unit AS unit, i.decimals, i.tracking, i.shelf_life_months AS "shelfLifeMonths",
    i.version, p.id AS pack_id, p.name AS pack_name, p.units AS pack_units
  FROM item i`;

/** Reads a scan, in the year in which its two-digit years are read.
 *  Errors: refuses a code that is malformed by its own standard, saying how. */
export function readScanHere(raw: string): ScanReading {
  return valueOf(readScan(raw, new Date().getUTCFullYear()));
}

/** Every item that a reading may mean, each by the largest pack that its code stands for. */
export async function selectItemsByReading(db: Reads, reading: ScanReading): Promise<ScannedItem[]> {
  // Whatever a code may mean is looked up at once: a barcode and another item's code of the same letters are two answers, not a first and
  // a second.
  const { text, gtins } = keysOf(reading);
  const rows = await query<ItemRow>(
    db,
    `WITH known AS (
       SELECT item_id, pack_id FROM barcode WHERE code = ? OR gtin = ANY(?::text[])
       UNION ALL SELECT id, (SELECT p.id FROM pack p WHERE p.item_id = item.id ORDER BY p.units, p.id LIMIT 1)
       FROM item
       WHERE code = upper(?))
     ${FOUND} JOIN known k ON k.item_id = i.id JOIN pack p ON p.id = k.pack_id ORDER BY i.id, p.units DESC`,
    [text, gtins, text],
  );
  return rows.map(({ pack_id, pack_name, pack_units, ...item }) => {
    const units = asQty(pack_units);
    const { serial, ...carried } = carriedBy(reading, units);
    return { ...item, pack: { id: pack_id, name: pack_name, units }, ...carried, serialCode: serial };
  });
}

/** Reads a scan as an item, or undefined where no item has the code.
 *  Errors: refuses a code that is malformed by its own standard, saying how, and one that means two items. */
export async function selectItemByScan(db: Reads, raw: string): Promise<ScannedItem | undefined> {
  const reading = readScanHere(raw);
  const items = await selectItemsByReading(db, reading);
  const [one] = items;
  const other = items.find((i) => i.id !== one?.id);
  if (one && other) refuse({ code: 'items.ambiguousCode', text: reading.text, first: one.code, second: other.code });
  return one;
}

/** The same, refusing `items.unknownCode`. */
export async function findItemByScan(db: Reads, raw: string): Promise<ScannedItem> {
  return (await selectItemByScan(db, raw)) ?? refuse({ code: 'items.unknownCode', text: raw.slice(0, 60) });
}

/** The item of this id, refusing `items.unknownItem`. */
export async function findItem(db: Reads, id: number): Promise<FoundItem> {
  const [row] = await query<FoundItem>(
    db,
    `SELECT i.id, i.code, i.description, i.base_unit AS unit, i.decimals, i.tracking, i.shelf_life_months AS "shelfLifeMonths",
       i.version
     FROM item i
     WHERE i.id = ?`,
    [id],
  );
  return row ?? refuse({ code: 'items.unknownItem', id });
}

/** The same, locked: its record and what hangs on it is changed by one person at a time. */
export async function lockItem(trx: Trx, id: number): Promise<FoundItem> {
  await lockRows(trx, 'item', [id]);
  return findItem(trx, id);
}

/** The lot of an item by its code. */
export async function selectLot(db: Reads, item: number, code: string): Promise<{ id: number; expires: string | null } | undefined> {
  return (
    await query<{ id: number; expires: string | null }>(db, `SELECT id, expires FROM lot WHERE item_id = ? AND code = ?`, [item, code])
  )[0];
}

/** The serial of an item by its code. */
export async function selectSerial(db: Reads, item: number, code: string): Promise<{ id: number } | undefined> {
  return (await query<{ id: number }>(db, `SELECT id FROM serial WHERE item_id = ? AND code = ?`, [item, code]))[0];
}

/** The lots of an item by their codes, making those that are not there.
 *  Locks:  the lots that it makes: before any stock, because who makes the same lot waits here. */
export async function ensureLots(
  db: Trx,
  wanted: readonly { item: number; code: string; expires: string | null; made?: string | null }[],
): Promise<ReadonlyMap<string, number>> {
  if (wanted.length === 0) return new Map();
  // What one label of a lot says of it holds for all of it.
  const byLot = new Map<string, (typeof wanted)[number]>();
  for (const w of wanted) {
    const before = byLot.get(`${w.item}|${w.code}`);
    byLot.set(`${w.item}|${w.code}`, { ...w, expires: w.expires ?? before?.expires ?? null, made: w.made ?? before?.made ?? null });
  }
  const unique = [...byLot.values()].sort((a, b) => a.item - b.item || (a.code < b.code ? -1 : 1));
  noteLocks(
    db,
    'lot',
    unique.map((w) => [w.item, 0]),
  );
  const args = [unique.map((w) => w.item), unique.map((w) => w.code), unique.map((w) => w.expires)];
  await query(
    db,
    `INSERT INTO lot (item_id, code, expires, made)
     SELECT * FROM unnest(?::int[], ?::text[], ?::date[], ?::date[])
     ON CONFLICT (item_id, code) DO NOTHING`,
    [...args, unique.map((w) => w.made ?? null)],
  );
  const rows = await query<{ id: number; item_id: number; code: string }>(
    db,
    `SELECT l.id, l.item_id, l.code FROM lot l JOIN unnest(?::int[], ?::text[]) AS w(item, code) ON l.item_id = w.item AND l.code = w.code`,
    args.slice(0, 2),
  );
  return new Map(rows.map((r) => [`${r.item_id}|${r.code}`, r.id]));
}

/** The serials of items by their codes, making those that are not there. */
export async function ensureSerials(db: Reads, wanted: readonly { item: number; code: string }[]): Promise<ReadonlyMap<string, number>> {
  if (wanted.length === 0) return new Map();
  const unique = [...new Map(wanted.map((w) => [`${w.item}|${w.code}`, w])).values()].sort(
    (a, b) => a.item - b.item || (a.code < b.code ? -1 : 1),
  );
  const args = [unique.map((w) => w.item), unique.map((w) => w.code)];
  await query(
    db,
    `INSERT INTO serial (item_id, code) SELECT * FROM unnest(?::int[], ?::text[]) ON CONFLICT (item_id, code) DO NOTHING`,
    args,
  );
  const rows = await query<{ id: number; item_id: number; code: string }>(
    db,
    `SELECT s.id, s.item_id, s.code
     FROM serial s
     JOIN unnest(?::int[], ?::text[]) AS w(item, code) ON s.item_id = w.item AND s.code = w.code`,
    args,
  );
  return new Map(rows.map((r) => [`${r.item_id}|${r.code}`, r.id]));
}

/** Makes those who give items codes and barcodes take turns: the two are one name space, and no index sees both. */
export async function lockItemNames(trx: Trx): Promise<void> {
  noteLocks(trx, 'names', [[0, 0]]);
  await query(trx, `SELECT pg_advisory_xact_lock(lock_number(${LOCK_CLASS.names}, 0, 0))`);
}

/** The item that one of these texts is a barcode of, or undefined. */
export async function selectBarcodeOwner(
  db: Reads,
  code: string,
  gtin: string | null,
): Promise<{ item: number; code: string } | undefined> {
  return (
    await query<{ item: number; code: string }>(
      db,
      `SELECT i.id AS item, i.code
       FROM barcode c
       JOIN item i ON i.id = c.item_id
       WHERE upper(c.code) = upper(?) OR c.gtin = ?
       ORDER BY i.id
       LIMIT 1`,
      [code, gtin],
    )
  )[0];
}

/** The barcode that stands for an item on a label: that of its smallest pack; null where it has none. */
export async function selectFirstBarcode(db: Reads, item: number): Promise<string | null> {
  return (await queryOne<{ code: string | null }>(db, `SELECT first_barcode(?) AS code`, [item])).code;
}
