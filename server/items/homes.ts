import { columnsSentence, findColumns, formatQty, parseQty, type Qty, type WantedColumn } from '#core/base';
import {
  announce,
  asQty,
  loadFile,
  query,
  readSheet,
  refuse,
  SheetFault,
  type Db,
  type JobContext,
  type RowVerdict,
  type SheetColumn,
  type Trx,
} from '#server/kernel';
import { findBin } from '#server/places';
import { findItemByScan } from './store.ts';

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

/** Gives items home bins (A6), by whatever was scanned for each. Assigning again changes role and limits; the other homes stay. All or none. */
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
    const item = await findItemByScan(trx, pair.item);
    const limits = readLimits(bin.address, command.min, command.max);
    const known = await query(trx, `SELECT 1 FROM home_bin WHERE item_id = ? AND bin_id = ?`, [item.id, bin.id]);
    await writeHome(trx, { item: item.id, bin: bin.id, role: command.role, ...limits });
    says.push(known.length > 0 ? `${item.code} already lived in ${bin.address}.` : `${item.code} lives in ${bin.address}.`);
  }
  announce(trx, 'items');
  announce(trx, 'places');
  return { assigned: command.pairs.length, says };
}

async function writeHome(trx: Trx, home: { item: number; bin: number; role: string } & Limits): Promise<void> {
  await query(
    trx,
    `INSERT INTO home_bin (item_id, bin_id, role, min_qty, max_qty) VALUES (?, ?, ?, ?, ?) ON CONFLICT (item_id, bin_id) DO UPDATE SET role = excluded.role, min_qty = excluded.min_qty, max_qty = excluded.max_qty`,
    [home.item, home.bin, home.role, home.min === null ? null : formatQty(home.min), home.max === null ? null : formatQty(home.max)],
  );
}

/** Takes homes away again. What lies in a bin stays there: a home is a wish, not stock. */
export async function unassignHomes(trx: Trx, pairs: readonly { bin: number; item: number }[]): Promise<number> {
  const rows = await query(
    trx,
    `DELETE FROM home_bin h USING unnest(?::int[], ?::int[]) AS p(bin, item) WHERE h.bin_id = p.bin AND h.item_id = p.item RETURNING 1`,
    [pairs.map((p) => p.bin), pairs.map((p) => p.item)],
  );
  announce(trx, 'items');
  announce(trx, 'places');
  return rows.length;
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
    `SELECT b.address AS bin, i.code AS item, h.role, h.min_qty AS min, h.max_qty AS max FROM home_bin h JOIN bin b ON b.id = h.bin_id JOIN item i ON i.id = h.item_id WHERE b.site_id = ? ORDER BY b.walk, b.id, i.code`,
    [site],
  );
}

/** Reads a sheet of homes: a dry run with a verdict per row, then all or nothing. */
export async function importHomes(
  context: JobContext<{ file: number; apply?: boolean }>,
): Promise<{ state: 'checked' | 'done'; result: unknown }> {
  const { db, job } = context;
  const file = await loadFile(db, job.input.file);
  if (!file) return refuse({ code: 'file.unknown', id: job.input.file });
  const sheet = await readSheet(file.bytes, file.name);
  const found = findColumns(sheet.header, COLUMNS);
  if (!found.ok) throw new SheetFault(columnsSentence(found.error));
  const cell = (cells: readonly string[], key: string): string => cells[found.value.get(key) ?? -1] ?? '';
  const judge = async (
    reads: Reads,
  ): Promise<{ verdicts: RowVerdict[]; homes: ({ item: number; bin: number; role: string } & Limits)[] }> => {
    const bins = new Map(
      (
        await query<{ id: number; address: string }>(reads, `SELECT id, address FROM bin WHERE site_id = ? AND retired_at IS NULL`, [
          job.site,
        ])
      ).map((b) => [b.address, b.id]),
    );
    const items = new Map(
      (await query<{ id: number; code: string }>(reads, `SELECT id, code FROM item WHERE retired_at IS NULL`)).map((i) => [i.code, i.id]),
    );
    const known = new Map((await selectHomes(reads, job.site)).map((h) => [`${h.bin}|${h.item}`, h]));
    const verdicts: RowVerdict[] = [];
    const homes: ({ item: number; bin: number; role: string } & Limits)[] = [];
    const seen = new Map<string, number>();
    for (const { row, cells } of sheet.rows) {
      const [bin, item] = [cell(cells, 'bin').toUpperCase(), cell(cells, 'item').toUpperCase()];
      const name = `${item} in ${bin}`;
      const role = cell(cells, 'role').toLowerCase() || 'face';
      const limits = ['min', 'max'].map((key) => (cell(cells, key) === '' ? null : parseQty(cell(cells, key))));
      const [min, max] = limits.map((l) => (l?.ok ? l.value : null)) as [Qty | null, Qty | null];
      const fault = !bins.has(bin)
        ? `There is no bin “${bin}” at this site.`
        : !items.has(item)
          ? `There is no item “${item}”.`
          : !['face', 'reserve'].includes(role)
            ? `“${role}” under Role is neither face nor reserve.`
            : limits.some((l) => l !== null && (!l.ok || l.value < 0))
              ? 'Minimum or maximum is no number.'
              : min !== null && max !== null && min > max
                ? `The minimum ${formatQty(min)} is more than the maximum ${formatQty(max)}.`
                : seen.has(name)
                  ? `${name} stands in row ${seen.get(name)} too.`
                  : null;
      seen.set(name, seen.get(name) ?? row);
      if (fault !== null) {
        verdicts.push({ row, verdict: 'fault', name, says: fault });
        continue;
      }
      const before = known.get(`${bin}|${item}`);
      const same = before && before.role === role && asLimit(before.min) === min && asLimit(before.max) === max;
      verdicts.push({
        row,
        verdict: !before ? 'new' : same ? 'same' : 'changed',
        name,
        says: !before ? 'A new home.' : same ? 'As it is.' : 'Role or limits change.',
      });
      if (!same) homes.push({ item: items.get(item) as number, bin: bins.get(bin) as number, role, min, max });
    }
    return { verdicts, homes };
  };
  const tally = (verdicts: readonly RowVerdict[]): unknown => {
    const count = (v: string): number => verdicts.filter((x) => x.verdict === v).length;
    return {
      file: file.name,
      rows: verdicts.length,
      new: count('new'),
      changed: count('changed'),
      same: count('same'),
      faults: count('fault'),
    };
  };
  if (!job.input.apply) {
    const { verdicts } = await judge(db);
    await context.keepVerdicts(verdicts);
    return { state: 'checked', result: tally(verdicts) };
  }
  const result = await context.apply(async (trx) => {
    const { verdicts, homes } = await judge(trx);
    const fault = verdicts.find((v) => v.verdict === 'fault');
    if (fault) throw new SheetFault(`Row ${fault.row}: ${fault.says} Nothing was imported.`);
    for (const [i, home] of homes.entries()) {
      await writeHome(trx, home);
      if (i % 500 === 0) await context.progress(i, homes.length);
    }
    announce(trx, 'items');
    announce(trx, 'places');
    return tally(verdicts);
  });
  return { state: 'done', result };
}

const asLimit = (text: string | null): Qty | null => (text === null ? null : asQty(text));
