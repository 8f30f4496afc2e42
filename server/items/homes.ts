import { formatQty, parseQty, type Qty, type WantedColumn } from '#core/base';
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
    if (!isHome(bin)) refuse({ code: 'places.notAHome', bin: bin.address, use: bin.use === 'shelf' ? bin.purpose : bin.use });
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

const COLUMNS: readonly WantedColumn[] = [
  { key: 'bin', title: 'Bin', required: true, names: ['Address'] },
  { key: 'item', title: 'Item', required: true, names: ['Code'] },
  { key: 'role', title: 'Role', required: false },
  { key: 'min', title: 'Minimum', required: false, names: ['Min'] },
  { key: 'max', title: 'Maximum', required: false, names: ['Max'] },
];
type HomeRow = { bin: string; item: string; role: string; min: string | null; max: string | null };
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
    `SELECT b.address AS bin, i.code AS item, h.role, h.min_qty AS min, h.max_qty AS max
     FROM home_bin h
     JOIN bin b ON b.id = h.bin_id
     JOIN item i ON i.id = h.item_id
     WHERE b.site_id = ?
     ORDER BY b.walk, b.id, i.code`,
    [site],
  );
}

/** Goods live on shelves of zones for storing; everywhere else they pass through. */
const PASSING = ['dock', 'packing', 'quarantine', 'scrap'];
const isHome = (bin: { use: string; purpose: string }): boolean => bin.use === 'shelf' && !PASSING.includes(bin.purpose);

type Home = { item: number; bin: number; role: string } & Limits;

/** Imports home bins (A6). */
export function importHomes(
  context: JobContext<{ file: number; apply?: boolean }>,
): Promise<{ state: 'checked' | 'done'; result: unknown }> {
  const { site } = context.job;
  return importSheet(context, {
    locate: byTitles(COLUMNS),
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
): Promise<{ verdicts: RowVerdict[]; homes: Home[] }> {
  const bins = new Map(
    (
      await query<{ id: number; name: string; use: string; purpose: string }>(
        db,
        `SELECT bin.id, n.name, bin.use, z.purpose FROM bin_name n JOIN bin ON bin.id = n.bin_id JOIN zone z ON z.id = bin.zone_id
         WHERE n.site_id = ? AND bin.retired_at IS NULL`,
        [site],
      )
    ).map((r) => [r.name, r]),
  );
  const items = new Map(
    (await query<{ id: number; name: string }>(db, `SELECT id, code AS name FROM item WHERE retired_at IS NULL`)).map((r) => [
      r.name,
      r.id,
    ]),
  );
  const known = new Map((await selectHomes(db, site)).map((h) => [`${h.bin}|${h.item}`, h]));
  const [verdicts, homes]: [RowVerdict[], Home[]] = [[], []];
  const seen = new Map<string, number>();
  for (const { row, cells } of rows) {
    const cell = (key: string): string => cells[columns.get(key) ?? -1] ?? '';
    const [address, code] = [cell('bin').trim().toUpperCase(), cell('item').trim().toUpperCase()];
    const [bin, item] = [bins.get(address), items.get(code)];
    const name = `${code} in ${address}`;
    const role = cell('role').toLowerCase() || 'face';
    const limits = readSheetLimits(cell('min'), cell('max'));
    const faults = [
      !bin && `There is no bin “${address}” at this site.`,
      bin && !isHome(bin) && `${address} is no home: goods pass through there.`,
      item === undefined && `There is no item “${code}”.`,
      !['face', 'reserve'].includes(role) && `“${role}” under Role is neither face nor reserve.`,
      typeof limits === 'string' && limits,
      seen.has(name) && `${name} stands in row ${seen.get(name)} too.`,
    ].filter((f) => typeof f === 'string');
    seen.set(name, seen.get(name) ?? row);
    if (faults.length > 0 || typeof limits === 'string' || !bin || item === undefined) {
      verdicts.push({ row, verdict: 'fault', name, says: faults.join(' ') });
      continue;
    }
    const before = known.get(`${address}|${code}`);
    const same = before && before.role === role && asLimit(before.min) === limits.min && asLimit(before.max) === limits.max;
    verdicts.push({
      row,
      name,
      verdict: !before ? 'new' : same ? 'same' : 'changed',
      says: !before ? 'A new home.' : same ? 'As it is.' : 'Role or limits change.',
    });
    if (!same) homes.push({ item, bin: bin.id, role, ...limits });
  }
  return { verdicts, homes };
}

function readSheetLimits(min: string, max: string): Limits | string {
  const [low, high] = [min, max].map((text) => (text === '' ? null : parseQty(text)));
  if ([low, high].some((l) => l && (!l.ok || l.value < 0))) return 'Minimum or maximum is no number.';
  const limits: Limits = { min: low?.ok ? low.value : null, max: high?.ok ? high.value : null };
  if (limits.min !== null && limits.max !== null && limits.min > limits.max)
    return `The minimum ${formatQty(limits.min)} is more than the maximum ${formatQty(limits.max)}.`;
  return limits;
}

const asLimit = (text: string | null): Qty | null => (text === null ? null : asQty(text));
