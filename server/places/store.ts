import { LOCK_CLASS, noteLocks, query, queryOne, refuse, type Db, type Trx, selectSorted, type SortBy, type SortKey } from '#server/kernel';
import { formatQty, type BinId } from '#core/base';
import type { BodyOf, Routes } from '#contract';
import type { BIN_SORTS } from '#contract/places';
import type { ZonePurpose } from '#core/places';

type Reads = Pick<Db, 'raw'>;

export type FoundBin = {
  id: BinId;
  site_id: number;
  site: string;
  zone_id: number;
  zone: string;
  address: string;
  walk: number;
  use: string;
  purpose: ZonePurpose;
  pickable: boolean;
  promisable: boolean;
  one_item: boolean;
  one_lot: boolean;
  capacity: string | null;
  storage_class: string | null;
  volume_ml: number | null;
  weight_g: number | null;
  arrow: 'up' | 'down' | null;
  retired: boolean;
  version: number;
};

const FOUND = `SELECT bin.id, bin.site_id, s.name AS site, z.id AS zone_id, z.name AS zone, bin.address, bin.walk, bin.use, z.purpose,
    z.pickable, z.promisable,
  bin.one_item, bin.one_lot, bin.capacity, bin.storage_class, bin.volume_ml, bin.weight_g, bin.arrow,
    bin.retired_at IS NOT NULL AS retired, bin.version
  FROM bin
  JOIN zone z ON z.id = bin.zone_id
  JOIN site s ON s.id = bin.site_id`;

/** The bin of this name at the site, be it its address or an old name, or undefined. Case does not matter: labels were printed in both. */
export async function selectBinByText(db: Reads, site: number, text: string): Promise<FoundBin | undefined> {
  const rows = await query<FoundBin>(
    db,
    `${FOUND} WHERE bin.id = (SELECT bin_id FROM bin_name WHERE site_id = ? AND name = fold_name(?))`,
    [site, text],
  );
  return rows[0];
}

/** The same, refusing `places.unknownBin` where no site has one and `places.binElsewhere` where another site does. */
export async function findBin(db: Reads, site: number, text: string): Promise<FoundBin> {
  const bin = await selectBinByText(db, site, text);
  if (bin) return bin;
  const elsewhere = await selectSitesOfName(db, text);
  if (elsewhere.length > 0) refuse({ code: 'places.binElsewhere', text: text.trim().toUpperCase(), sites: elsewhere });
  return refuse({ code: 'places.unknownBin', text });
}

/** The bins of several names at once, in their order, each as `findBin` finds it. OFFSET 0: name by name, instead of all bins against some
 *  names. */
export async function findBins<const T extends readonly string[]>(
  db: Reads,
  site: number,
  texts: T,
): Promise<{ [K in keyof T]: FoundBin }> {
  const rows = await query<FoundBin & { place: number }>(
    db,
    `SELECT found.*, a.place FROM unnest(?::text[]) WITH ORDINALITY AS a(name, place)
     JOIN LATERAL (${FOUND} WHERE bin.id = (SELECT bin_id FROM bin_name WHERE site_id = ? AND name = fold_name(a.name)) OFFSET 0) found
       ON true`,
    [texts, site],
  );
  const byPlace = new Map(rows.map(({ place, ...bin }) => [place, bin]));
  const found: FoundBin[] = [];
  for (const [n, text] of texts.entries()) found.push(byPlace.get(n + 1) ?? (await findBin(db, site, text)));
  return found as { [K in keyof T]: FoundBin };
}

/** The names of the sites that have a bin of this name. */
export async function selectSitesOfName(db: Reads, text: string): Promise<string[]> {
  const rows = await query<{ name: string }>(
    db,
    `SELECT s.name FROM bin_name n JOIN site s ON s.id = n.site_id WHERE n.name = fold_name(?) ORDER BY s.id`,
    [text],
  );
  return rows.map((r) => r.name);
}

/** Makes those who give names to bins of a site take turns, so that what was looked up is still true when it is written. */
export async function lockNames(trx: Trx, site: number): Promise<void> {
  noteLocks(trx, 'names', [[site, 0]]);
  await query(trx, `SELECT pg_advisory_xact_lock(lock_number(${LOCK_CLASS.names}, ?, 0))`, [site]);
}

/** Which of these names mean a bin of the site already, in their order, and which bin. */
export function selectTakenNames(
  db: Reads,
  site: number,
  names: readonly string[],
): Promise<{ name: string; bin: number; address: string }[]> {
  return query(
    db,
    `SELECT a.name, n.bin_id AS bin, bin.address FROM unnest(?::text[]) WITH ORDINALITY AS a(name, n)
     JOIN bin_name n ON n.site_id = ? AND n.name = fold_name(a.name) JOIN bin ON bin.id = n.bin_id ORDER BY a.n`,
    [names, site],
  );
}

/** Gives bins these old names, which scan beside their addresses. The caller holds the names and has looked that they are free. */
export async function insertOldNames(trx: Trx, site: number, names: readonly { bin: number; name: string }[]): Promise<void> {
  await query(
    trx,
    `INSERT INTO bin_name (site_id, name, bin_id) SELECT ?, fold_name(n.name), n.bin FROM unnest(?::int[], ?::text[]) AS n(bin, name)
     ON CONFLICT (site_id, name) DO NOTHING`,
    [site, names.map((n) => n.bin), names.map((n) => n.name)],
  );
}

/** Takes old names away that are not among those to keep; an address is never taken. */
export async function deleteOldNames(trx: Trx, bins: readonly number[], keep: readonly { bin: number; name: string }[]): Promise<void> {
  await query(
    trx,
    `DELETE FROM bin_name n USING bin WHERE bin.id = n.bin_id AND n.bin_id = ANY(?::int[]) AND n.name <> fold_name(bin.address)
     AND NOT EXISTS (SELECT 1 FROM unnest(?::int[], ?::text[]) AS k(bin, name) WHERE k.bin = n.bin_id AND fold_name(k.name) = n.name)`,
    [bins, keep.map((k) => k.bin), keep.map((k) => k.name)],
  );
}

/** The bin of this id. */
export async function selectBin(db: Reads, id: number): Promise<FoundBin | undefined> {
  return (await query<FoundBin>(db, `${FOUND} WHERE bin.id = ?`, [id]))[0];
}

type DefaultUse = 'arrivals' | 'packing' | 'quarantine' | 'scrap' | 'transit';

/** The site's default bin for a use. Refuses `places.noDefaultBin` where none is set. */
export async function findDefaultBin(db: Reads, site: number, use: DefaultUse): Promise<FoundBin> {
  const rows = await query<FoundBin>(db, `${FOUND} WHERE bin.id = (SELECT ${use}_bin FROM site WHERE id = ?)`, [site]);
  if (rows[0]) return rows[0];
  const [named] = await query<{ name: string }>(db, `SELECT name FROM site WHERE id = ?`, [site]);
  return refuse({ code: 'places.noDefaultBin', site: named?.name ?? String(site), purpose: use });
}

/** Today at the site, as `YYYY-MM-DD`. */
export async function selectToday(db: Reads, site: number): Promise<string> {
  const [row] = await query<{ today: string }>(db, `SELECT today_in(time_zone) AS today FROM site WHERE id = ?`, [site]);
  return row?.today ?? refuse({ code: 'places.unknownSite', id: site });
}

export type BinListRow = {
  id: number;
  address: string;
  old_names: string[];
  zone: string;
  zone_name: string;
  purpose: ZonePurpose;
  use: string;
  walk: number;
  items: number;
  fill: string | null;
  labelled: Date | null;
  last_count: Date | null;
  retired: Date | null;
};
/** The old names of a bin, in SQL, in the order in which they were given. */
export const OLD_NAMES = `ARRAY(SELECT n.name FROM bin_name n WHERE n.bin_id = bin.id AND n.name <> fold_name(bin.address)
  ORDER BY n.at, n.name)`;
const LISTED = `SELECT bin.id, bin.address, ${OLD_NAMES} AS old_names, z.code AS zone, z.name AS zone_name, z.purpose, bin.use, bin.walk,
    f.items, f.fill, bin.labelled_at AS labelled, bin.retired_at AS retired,
  (SELECT max(cb.counted_at) FROM count_bin cb WHERE cb.bin_id = bin.id) AS last_count
  FROM bin JOIN zone z ON z.id = bin.zone_id JOIN bin_fact f ON f.bin_id = bin.id`;
const SHOW = {
  all: 'retired IS NULL',
  empty: `items = 0 AND retired IS NULL AND use = 'shelf'`,
  overfull: 'fill > 1',
  mixed: `items > 1 AND use = 'shelf'`,
  unlabelled: 'labelled IS NULL AND retired IS NULL',
  neverCounted: 'last_count IS NULL AND retired IS NULL',
  retired: 'retired IS NOT NULL',
} as const;
type BinFilter = { site: number; zone: number | undefined; q: string | undefined; show: keyof typeof SHOW };
const WHERE = `bin.site_id = ? AND (?::int IS NULL OR z.id = ?) AND EXISTS (SELECT 1 FROM bin_name n WHERE n.bin_id = bin.id
  AND n.name ILIKE ?)`;
const filterValues = (where: BinFilter): unknown[] => {
  const like = `%${(where.q ?? '').replace(/[\\%_]/g, (c) => `\\${c}`)}%`;
  return [where.site, where.zone ?? null, where.zone ?? null, like];
};

/** Bins of a site in walking order, a page after a walking place and id. */
export function selectBins(db: Reads, where: BinFilter & { after: (string | number)[] | null; limit: number }): Promise<BinListRow[]> {
  return query<BinListRow>(
    db,
    `SELECT * FROM (${LISTED} WHERE ${WHERE} AND (bin.walk, bin.id) > (?, ?)) rows WHERE ${SHOW[where.show]} ORDER BY walk, id LIMIT ?`,
    [...filterValues(where), where.after?.[0] ?? -1, where.after?.[1] ?? 0, where.limit],
  );
}

const SORTS: Readonly<Record<(typeof BIN_SORTS)[number], SortKey>> = {
  address: { sql: 'address', kind: 'text' },
  zone: { sql: 'lower(zone_name)', kind: 'text' },
  items: { sql: 'items', kind: 'decimal' },
  fill: { sql: 'coalesce(fill, -1)', kind: 'decimal' },
  count: { sql: `coalesce(last_count, '-infinity')`, kind: 'moment' },
  label: { sql: `coalesce(labelled, '-infinity')`, kind: 'moment' },
  oldNames: { sql: `array_to_string(old_names, ', ')`, kind: 'text' },
};

/** The same in an order that somebody chose. */
export function selectBinsSorted(
  db: Reads,
  where: BinFilter & { by: SortBy<(typeof BIN_SORTS)[number]>; after: string | undefined; limit: number },
): Promise<{ rows: BinListRow[]; next: string | null }> {
  const rows = `SELECT * FROM (${LISTED} WHERE ${WHERE}) found WHERE ${SHOW[where.show]}`;
  return selectSorted<BinListRow, (typeof BIN_SORTS)[number]>(db, { ...where, rows, values: filterValues(where), keys: SORTS });
}

/** How many bins a filter finds. */
export async function countBins(db: Reads, where: BinFilter): Promise<number> {
  const [row] = await query<{ n: number }>(
    db,
    `SELECT count(*) AS n FROM (${LISTED} WHERE ${WHERE}) rows WHERE ${SHOW[where.show]}`,
    filterValues(where),
  );
  return row?.n ?? 0;
}

/** One bin as the lists show it. */
export async function selectBinRow(db: Reads, id: number): Promise<BinListRow | undefined> {
  return (await query<BinListRow>(db, `${LISTED} WHERE bin.id = ?`, [id]))[0];
}

/** Makes a bin after the last one of its zone on the walk, and returns its id. The caller holds the names and has looked that they are
 *  free. */
export async function insertBin(trx: Trx, bin: { zone: number; address: string }): Promise<number> {
  const row = await queryOne<{ id: number }>(
    trx,
    `INSERT INTO bin (site_id, zone_id, address, walk)
     SELECT z.site_id, z.id, ?, coalesce((SELECT max(walk) + 1 FROM bin WHERE zone_id = z.id), 1)
     FROM zone z WHERE z.id = ? RETURNING id`,
    [bin.address, bin.zone],
  );
  return row.id;
}

/** Names a zone anew. */
export async function updateZoneName(trx: Trx, zone: number, name: string): Promise<void> {
  await query(trx, `UPDATE zone SET name = ? WHERE id = ?`, [name, zone]);
}

export type ZoneRow = { site_id: number; site: string; name: string; promisable: boolean; pickable: boolean };

/** The zone, refusing `places.unknownZone`. */
export async function findZone(db: Reads, id: number): Promise<ZoneRow> {
  const [zone] = await query<ZoneRow>(
    db,
    `SELECT z.site_id, s.name AS site, z.name, z.promisable, z.pickable FROM zone z JOIN site s ON s.id = z.site_id WHERE z.id = ?`,
    [id],
  );
  return zone ?? refuse({ code: 'places.unknownZone', id });
}

/** Makes bins of these addresses in a zone, at the end of its walk, in their order. */
export async function insertBins(trx: Trx, made: { site: number; zone: number; addresses: readonly string[] }): Promise<void> {
  await query(
    trx,
    `INSERT INTO bin (site_id, zone_id, address, walk)
     SELECT ?, ?, b.address, start.walk + b.n
     FROM unnest(?::text[]) WITH ORDINALITY AS b(address, n),
       (SELECT coalesce(max(walk), 0) AS walk FROM bin WHERE zone_id = ?) start`,
    [made.site, made.zone, made.addresses, made.zone],
  );
}

/** Locks a site: one plan of it is saved at a time. */
export async function lockSite(trx: Trx, site: number): Promise<void> {
  await query(trx, `SELECT 1 FROM site WHERE id = ? FOR UPDATE`, [site]);
}

/** Writes the plan of a site; returns its revision. */
export async function upsertPlan(trx: Trx, plan: { site: number; person: number; layout: unknown }): Promise<number> {
  const row = await queryOne<{ revision: number }>(
    trx,
    `INSERT INTO floor_plan (site_id, layout, revision, changed_by)
     VALUES (?, ?, 1, ?)
     ON CONFLICT (site_id) DO UPDATE SET layout = excluded.layout, revision = floor_plan.revision + 1,
       changed_by = excluded.changed_by, changed_at = now_here()
     RETURNING revision`,
    [plan.site, JSON.stringify(plan.layout), plan.person],
  );
  return row.revision;
}

/** Locks a bin. FOR UPDATE waits for every posting that is on its way into it: they hold it FOR KEY SHARE. */
export async function lockBinRow(trx: Trx, bin: number): Promise<void> {
  await query(trx, `SELECT 1 FROM bin WHERE id = ? AND id >= 100 FOR UPDATE`, [bin]);
}

/** Writes the record of a bin, one version on. `isLabelWrong`: what hangs there no longer says what it should. */
export async function updateBin(trx: Trx, bin: number, change: BodyOf<Routes['places.changeBin']>, isLabelWrong: boolean): Promise<void> {
  await query(
    trx,
    `UPDATE bin
     SET address = ?, zone_id = ?, walk = ?, one_item = ?, one_lot = ?, storage_class = ?, capacity = ?, volume_ml = ?, weight_g = ?,
       arrow = ?, labelled_at = CASE WHEN ? THEN NULL ELSE labelled_at END, version = version + 1
     WHERE id = ?`,
    [
      change.address,
      change.zone,
      change.walk,
      change.oneItem,
      change.oneLot,
      change.storageClass || null,
      change.units === null ? null : formatQty(change.units),
      change.litres, // thousandths of a litre are millilitres
      change.kilograms,
      change.arrow,
      isLabelWrong,
      bin,
    ],
  );
}

/** Says that a retired bin is one again. */
export async function updateBinRestored(trx: Trx, bin: number): Promise<void> {
  await query(trx, `UPDATE bin SET retired_at = NULL, version = version + 1 WHERE id = ?`, [bin]);
}

/** Says that bins are retired since now; returns of how many that was new. */
export async function updateBinsRetired(trx: Trx, bins: readonly number[]): Promise<number> {
  const rows = await query(
    trx,
    `UPDATE bin SET retired_at = now_here(), version = version + 1 WHERE id = ANY(?::int[]) AND retired_at IS NULL RETURNING 1`,
    [bins],
  );
  return rows.length;
}
