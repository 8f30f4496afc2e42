import { query, refuse, type Db } from '#server/kernel';
import type { BinId } from '#core/base';
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
};

const FOUND = `SELECT bin.id, bin.site_id, s.name AS site, z.id AS zone_id, z.name AS zone, bin.address, bin.walk, bin.use, z.purpose, z.pickable, z.promisable,
  bin.one_item, bin.one_lot, bin.capacity, bin.storage_class, bin.volume_ml, bin.weight_g, bin.arrow, bin.retired_at IS NOT NULL AS retired FROM bin JOIN zone z ON z.id = bin.zone_id JOIN site s ON s.id = bin.site_id`;

/** The bin of this address or alias at the site, or undefined. Case does not matter: labels were printed in both. */
export async function selectBinByText(db: Reads, site: number, text: string): Promise<FoundBin | undefined> {
  const trimmed = text.trim();
  const rows = await query<FoundBin>(
    db,
    `${FOUND} WHERE bin.site_id = ? AND (bin.address = upper(?) OR bin.address = ? OR bin.alias = ?) ORDER BY bin.id LIMIT 1`,
    [site, trimmed, trimmed, trimmed],
  );
  return rows[0];
}

/** The same, refusing `places.unknownBin` where there is none. */
export async function findBin(db: Reads, site: number, text: string): Promise<FoundBin> {
  return (await selectBinByText(db, site, text)) ?? refuse({ code: 'places.unknownBin', text });
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
  const [row] = await query<{ today: string }>(db, `SELECT (now() AT TIME ZONE time_zone)::date AS today FROM site WHERE id = ?`, [site]);
  return row?.today ?? refuse({ code: 'places.unknownSite', id: site });
}

export type BinListRow = {
  id: number;
  address: string;
  alias: string | null;
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
const LISTED = `SELECT bin.id, bin.address, bin.alias, z.code AS zone, z.name AS zone_name, z.purpose, bin.use, bin.walk, f.items, f.fill, bin.labelled_at AS labelled, bin.retired_at AS retired,
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
const WHERE = `bin.site_id = ? AND (?::int IS NULL OR z.id = ?) AND (bin.address ILIKE ? OR coalesce(bin.alias, '') ILIKE ?)`;
const filterValues = (where: BinFilter): unknown[] => {
  const like = `%${(where.q ?? '').replace(/[\\%_]/g, (c) => `\\${c}`)}%`;
  return [where.site, where.zone ?? null, where.zone ?? null, like, like];
};

/** Bins of a site in walking order, a page after a walking place and id. */
export function selectBins(db: Reads, where: BinFilter & { after: (string | number)[] | null; limit: number }): Promise<BinListRow[]> {
  return query<BinListRow>(
    db,
    `SELECT * FROM (${LISTED} WHERE ${WHERE} AND (bin.walk, bin.id) > (?, ?)) rows WHERE ${SHOW[where.show]} ORDER BY walk, id LIMIT ?`,
    [...filterValues(where), where.after?.[0] ?? -1, where.after?.[1] ?? 0, where.limit],
  );
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

/** Makes a bin after the last one of its zone on the walk. Returns its id, or null where the address is taken. */
export async function insertBin(db: Reads, bin: { zone: number; address: string; alias: string | null }): Promise<number | null> {
  const [row] = await query<{ id: number }>(
    db,
    `INSERT INTO bin (site_id, zone_id, address, alias, walk) SELECT z.site_id, z.id, ?, ?, coalesce((SELECT max(walk) + 1 FROM bin WHERE zone_id = z.id), 1)
     FROM zone z WHERE z.id = ? ON CONFLICT (site_id, address) DO NOTHING RETURNING id`,
    [bin.address, bin.alias, bin.zone],
  );
  return row?.id ?? null;
}
