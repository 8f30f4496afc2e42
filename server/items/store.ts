import type { ItemId, Qty } from '#core/base';
import { readScan, type ScanReading, type Tracking } from '#core/items';
import { asQty, query, refuse, valueOf, type Db } from '#server/kernel';

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
  const gtin = reading.kind === 'text' ? null : reading.gtin;
  if (gtin) {
    const [byGtin] = await query<ItemRow>(
      db,
      `${FOUND} JOIN barcode c ON c.item_id = i.id JOIN pack p ON p.id = c.pack_id WHERE c.gtin = ?`,
      [gtin],
    );
    if (byGtin) return byGtin;
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

/** The lots of an item by their codes, making those that are not there. */
export async function ensureLots(
  db: Reads,
  wanted: readonly { item: number; code: string; expires: string | null }[],
): Promise<ReadonlyMap<string, number>> {
  if (wanted.length === 0) return new Map();
  const unique = [...new Map(wanted.map((w) => [`${w.item}|${w.code}`, w])).values()].sort(
    (a, b) => a.item - b.item || (a.code < b.code ? -1 : 1),
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

export type ItemListRow = {
  id: number;
  code: string;
  description: string;
  group: string;
  unit: string;
  tracking: Tracking;
  on_hand: string;
  free: string;
  price: string;
  rank: number;
};

/** Items that match every word, best first, with what is on hand and free at a site. */
export async function selectItems(
  db: Reads,
  where: {
    site: number;
    words: readonly string[];
    exact: string;
    group: string | undefined;
    onlyFree: boolean;
    after: (string | number)[] | null;
    limit: number;
  },
): Promise<ItemListRow[]> {
  const conditions = where.words.map(() => `i.search LIKE ?`);
  const likes = where.words.map((w) => `%${w.toLowerCase().replace(/[\\%_]/g, (c) => `\\${c}`)}%`);
  return query<ItemListRow>(
    db,
    `SELECT * FROM (
       SELECT i.id, i.code, i.description, i.item_group AS "group", i.base_unit AS unit, i.tracking, i.price,
         CASE WHEN i.code = upper(?) THEN 0 WHEN i.id = (SELECT item_id FROM barcode WHERE code = ? OR gtin = lpad(?, 14, '0') LIMIT 1) THEN 0 WHEN i.code LIKE upper(?) || '%' THEN 1 ELSE 2 END AS rank,
         coalesce(s.on_hand, 0) AS on_hand, coalesce(s.usable, 0) - coalesce(p.qty, 0) AS free
       FROM item i
       LEFT JOIN LATERAL (SELECT sum(f.qty) AS on_hand, sum(f.qty) FILTER (WHERE f.condition = 'sound' AND f.promisable AND NOT f.expired) AS usable FROM stock_fact f WHERE f.item_id = i.id AND f.site_id = ?) s ON true
       LEFT JOIN LATERAL (SELECT sum(r.qty) AS qty FROM promise r WHERE r.item_id = i.id AND r.site_id = ?) p ON true
       WHERE (?::text IS NULL OR i.item_group = ?) AND ((${conditions.length > 0 ? conditions.join(' AND ') : 'true'}) OR i.id = (SELECT item_id FROM barcode WHERE code = ? OR gtin = lpad(?, 14, '0') LIMIT 1))
     ) rows WHERE (NOT ? OR free > 0) AND (rank, code) > (?, ?) ORDER BY rank, code LIMIT ?`,
    [
      where.exact,
      where.exact,
      where.exact,
      where.exact,
      where.site,
      where.site,
      where.group ?? null,
      where.group ?? null,
      ...likes,
      where.exact,
      where.exact,
      where.onlyFree,
      where.after?.[0] ?? -1,
      where.after?.[1] ?? '',
      where.limit,
    ],
  );
}

/** Writes again the text that search looks in: code, words, supplier's part numbers and barcodes. */
export async function refreshSearch(db: Reads, item: number | null): Promise<void> {
  await query(
    db,
    `UPDATE item i SET search = lower(concat_ws(' ', i.code, i.description, i.item_group,
       (SELECT string_agg(part_no, ' ') FROM item_supplier s WHERE s.item_id = i.id), (SELECT string_agg(code, ' ') FROM barcode c WHERE c.item_id = i.id)))
     WHERE ?::int IS NULL OR i.id = ?`,
    [item, item],
  );
}
