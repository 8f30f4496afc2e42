import { formatQty, parseQty, type Qty } from '#core/base';
import { canBeHome, HOME_COLUMNS, judgeHomeSheet, type HomeWish } from '#core/items';
import type { ZonePurpose } from '#core/places';
import {
  announce,
  asQty,
  byTitles,
  importSheet,
  query,
  refuse,
  type Db,
  type JobContext,
  type RowVerdict,
  type SheetColumn,
  type SheetRows,
  type Trx,
} from '#server/kernel';
import { findBin } from '#server/places';
import { findItemByScan } from './store.ts';
import { deleteHomes, lockHomes, selectBinElsewhere, upsertHome } from './store-homes.ts';

type Reads = Pick<Db, 'raw'>;
type Limits = { min: Qty | null; max: Qty | null };

function readLimits(bin: string, min: string | undefined, max: string | undefined): Limits {
  const read = (text: string | undefined): Qty | null => {
    if (!text) return null;
    const qty = parseQty(text);
    return qty.ok && qty.value >= 0 ? qty.value : refuse({ code: 'stock.notANumber', text });
  };
  const limits = { min: read(min), max: read(max) };
  if (limits.min !== null && limits.max !== null && limits.min > limits.max)
    refuse({ code: 'places.minOverMax', bin, min: formatQty(limits.min), max: formatQty(limits.max) });
  return limits;
}

/** Gives items home bins (A6), by whatever was scanned for each. Assigning again changes role and limits; the other homes stay. All or
 *  none. */
export async function assignHomes(
  trx: Trx,
  command: {
    site: number;
    pairs: readonly { bin: string; item: string }[];
    role: 'face' | 'reserve';
    min?: string | undefined;
    max?: string | undefined;
  },
): Promise<{ assigned: number; says: string[] }> {
  const says: string[] = [];
  for (const pair of command.pairs) {
    const bin = await findBin(trx, command.site, pair.bin);
    if (bin.retired) refuse({ code: 'places.binRetired', bin: bin.address });
    if (!canBeHome(bin)) refuse({ code: 'places.notAHome', bin: bin.address, use: bin.use === 'shelf' ? bin.purpose : bin.use });
    const item = await findItemByScan(trx, pair.item);
    const limits = readLimits(bin.address, command.min, command.max);
    const known = await query(trx, `SELECT 1 FROM home_bin WHERE item_id = ? AND bin_id = ?`, [item.id, bin.id]);
    await upsertHome(trx, { item: item.id, bin: bin.id, role: command.role, ...limits });
    says.push(known.length > 0 ? `${item.code} already lived in ${bin.address}.` : `${item.code} lives in ${bin.address}.`);
  }
  announce(trx, 'items');
  announce(trx, 'places');
  return { assigned: command.pairs.length, says };
}

/** Takes homes away again. What lies in a bin stays there: a home is a wish, not stock.
 *  Errors: a bin of another site. */
export async function unassignHomes(trx: Trx, site: number, pairs: readonly { bin: number; item: number }[]): Promise<number> {
  const far = await selectBinElsewhere(
    trx,
    site,
    pairs.map((p) => p.bin),
  );
  if (far) refuse({ code: 'people.otherSite', what: `Bin ${far.address}`, site: far.site });
  const removed = await deleteHomes(trx, pairs);
  announce(trx, 'items');
  announce(trx, 'places');
  return removed;
}

type HomeRow = { binId: number; itemId: number; bin: string; item: string; role: string; min: string | null; max: string | null };
export const HOME_SHEET: readonly SheetColumn<HomeRow>[] = [
  { title: 'Bin', of: (h) => h.bin },
  { title: 'Item', of: (h) => h.item },
  { title: 'Role', of: (h) => h.role },
  { title: 'Minimum', of: (h) => (h.min === null ? '' : formatQty(asQty(h.min))) },
  { title: 'Maximum', of: (h) => (h.max === null ? '' : formatQty(asQty(h.max))) },
];

/** Every home of a site, as export writes and import reads it. */
export function selectHomes(db: Reads, site: number): Promise<HomeRow[]> {
  return query<HomeRow>(
    db,
    `SELECT b.id AS "binId", i.id AS "itemId", b.address AS bin, i.code AS item, h.role, h.min_qty AS min, h.max_qty AS max
     FROM home_bin h
     JOIN bin b ON b.id = h.bin_id
     JOIN item i ON i.id = h.item_id
     WHERE b.site_id = ?
     ORDER BY b.walk, b.id, i.code`,
    [site],
  );
}

/** Imports home bins (A6). */
export function importHomes(
  context: JobContext<{ file: number; apply?: boolean }>,
): Promise<{ state: 'checked' | 'done'; result: unknown }> {
  const { site } = context.job;
  return importSheet(context, {
    locate: byTitles(HOME_COLUMNS),
    lock: lockHomes,
    judge: (db, columns, rows) => judgeHomes(db, site, columns, rows),
    write: async (trx, { homes }, _file, progress) => {
      for (const [i, home] of homes.entries()) {
        await upsertHome(trx, home);
        if (i % 500 === 0) await progress(i);
      }
      announce(trx, 'items');
      announce(trx, 'places');
    },
  });
}

async function judgeHomes(
  db: Reads,
  site: number,
  columns: ReadonlyMap<string, number>,
  rows: SheetRows,
): Promise<{ verdicts: RowVerdict[]; homes: readonly HomeWish[] }> {
  const bins = await query<{ id: number; name: string; use: string; purpose: ZonePurpose }>(
    db,
    `SELECT bin.id, n.name, bin.use, z.purpose
     FROM bin_name n
     JOIN bin ON bin.id = n.bin_id
     JOIN zone z ON z.id = bin.zone_id
     WHERE n.site_id = ? AND bin.retired_at IS NULL`,
    [site],
  );
  const items = await query<{ id: number; code: string }>(db, `SELECT id, code FROM item WHERE retired_at IS NULL`);
  const homes = await selectHomes(db, site);
  const { verdicts, wishes } = judgeHomeSheet(columns, rows, {
    bins: new Map(bins.map((b) => [b.name, b])),
    items: new Map(items.map((i) => [i.code, i.id])),
    homes: new Map(homes.map((h) => [`${h.binId}|${h.itemId}`, { role: h.role, min: asLimit(h.min), max: asLimit(h.max) }])),
  });
  return { verdicts: [...verdicts], homes: wishes };
}

const asLimit = (text: string | null): Qty | null => (text === null ? null : asQty(text));
