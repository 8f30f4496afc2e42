import type { ItemId, Qty } from '#core/base';
import { readScan, type ScanReading, type Tracking } from '#core/items';
import { asQty, lockRows, noteLocks, query, refuse, valueOf, type Db, type Trx } from '#server/kernel';

type Reads = Pick<Db, 'raw'>;

export type FoundItem = {
  id: ItemId;
  code: string;
  description: string;
  unit: string;
  decimals: number;
  tracking: Tracking;
  shelfLifeMonths: number | null;
};

/** An item as a scan named it: with the pack that the code stands for, and what the code carried besides. */
export type ScannedItem = FoundItem & {
  readonly pack: { id: number; name: string; units: Qty };
  readonly lot: string | null;
  readonly expires: string | null;
  readonly made: string | null;
  readonly serialCode: string | null;
};

type ItemRow = FoundItem & { pack_id: number; pack_name: string; pack_units: string };
const FOUND = `SELECT i.id, i.code, i.description, i.base_unit AS unit, i.decimals, i.tracking, i.shelf_life_months AS "shelfLifeMonths", p.id AS pack_id, p.name AS pack_name, p.units AS pack_units FROM item i`;

/** The year in which a two-digit year of a scanned code is read. */
const thisYear = (): number => new Date().getUTCFullYear();

/** Reads a scan as an item, or undefined where no item has the code.
 *  Errors: refuses a code that is malformed by its own standard, saying how. */
export async function selectItemByScan(db: Reads, raw: string): Promise<ScannedItem | undefined> {
  const reading = valueOf(readScan(raw, thisYear()));
  const carried = reading.kind === 'elements' ? reading : null;
  const row = await selectRow(db, reading);
  if (!row) return undefined;
  const { pack_id, pack_name, pack_units, ...item } = row;
  return {
    ...item,
    pack: { id: pack_id, name: pack_name, units: asQty(pack_units) },
    lot: carried?.lot ?? null,
    expires: carried?.expires ?? null,
    made: carried?.made ?? null,
    serialCode: carried?.serial ?? null,
  };
}

async function selectRow(db: Reads, reading: ScanReading): Promise<ItemRow | undefined> {
  const gtins = reading.kind === 'text' ? [] : [reading.gtin, reading.kind === 'gtin' ? reading.orGtin : null].filter((g) => g !== null);
  if (gtins.length > 0) {
    const [one, other] = await query<ItemRow>(
      db,
      `${FOUND} JOIN barcode c ON c.item_id = i.id JOIN pack p ON p.id = c.pack_id WHERE c.gtin = ANY(?::text[])`,
      [gtins],
    );
    // Eight digits may be an EAN-8 and a UPC-E: where both are somebody's, nothing here can tell which was scanned.
    if (one && other && one.id !== other.id)
      refuse({ code: 'items.ambiguousCode', text: reading.text, first: one.code, second: other.code });
    if (one) return one;
  }
  const [byCode] = await query<ItemRow>(
    db,
    `${FOUND} LEFT JOIN barcode c ON c.code = ? AND c.item_id = i.id JOIN pack p ON p.id = coalesce(c.pack_id, (SELECT id FROM pack WHERE item_id = i.id ORDER BY units, id LIMIT 1))
     WHERE i.id = coalesce((SELECT item_id FROM barcode WHERE code = ?), (SELECT id FROM item WHERE code = upper(?)))`,
    [reading.text, reading.text, reading.text],
  );
  return byCode;
}

/** The same, refusing `items.unknownCode`. */
export async function findItemByScan(db: Reads, raw: string): Promise<ScannedItem> {
  return (await selectItemByScan(db, raw)) ?? refuse({ code: 'items.unknownCode', text: raw.slice(0, 60) });
}

/** The item of this id, refusing `items.unknownItem`. */
export async function findItem(db: Reads, id: number): Promise<FoundItem> {
  const [row] = await query<FoundItem>(
    db,
    `SELECT i.id, i.code, i.description, i.base_unit AS unit, i.decimals, i.tracking, i.shelf_life_months AS "shelfLifeMonths" FROM item i WHERE i.id = ?`,
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
  wanted: readonly { item: number; code: string; expires: string | null }[],
): Promise<ReadonlyMap<string, number>> {
  if (wanted.length === 0) return new Map();
  const unique = [...new Map(wanted.map((w) => [`${w.item}|${w.code}`, w])).values()].sort(
    (a, b) => a.item - b.item || (a.code < b.code ? -1 : 1),
  );
  noteLocks(
    db,
    'lot',
    unique.map((w) => [w.item, 0]),
  );
  const args = [unique.map((w) => w.item), unique.map((w) => w.code), unique.map((w) => w.expires)];
  await query(
    db,
    `INSERT INTO lot (item_id, code, expires) SELECT * FROM unnest(?::int[], ?::text[], ?::date[]) ON CONFLICT (item_id, code) DO NOTHING`,
    args,
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
    `SELECT s.id, s.item_id, s.code FROM serial s JOIN unnest(?::int[], ?::text[]) AS w(item, code) ON s.item_id = w.item AND s.code = w.code`,
    args,
  );
  return new Map(rows.map((r) => [`${r.item_id}|${r.code}`, r.id]));
}
