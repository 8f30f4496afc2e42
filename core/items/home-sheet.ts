import { formatQty, parseQty, type Qty, type WantedColumn } from '#core/base';

/** The columns of a sheet of homes. */
export const HOME_COLUMNS: readonly WantedColumn[] = [
  { key: 'bin', title: 'Bin', required: true, names: ['Address'] },
  { key: 'item', title: 'Item', required: true, names: ['Code'] },
  { key: 'role', title: 'Role', required: false },
  { key: 'min', title: 'Minimum', required: false, names: ['Min'] },
  { key: 'max', title: 'Maximum', required: false, names: ['Max'] },
];

// Goods pass through these; they live on shelves of zones for storing.
const PASSING = ['dock', 'packing', 'quarantine', 'scrap'];
/** Whether goods can live in a bin (A6). */
export const canBeHome = (bin: { use: string; purpose: string }): boolean => bin.use === 'shelf' && !PASSING.includes(bin.purpose);

/** What is said of an item in its home; limits in thousandths of the base unit, null where there is none. */
export type HomeRecord = { readonly role: string; readonly min: Qty | null; readonly max: Qty | null };
export type HomeWish = HomeRecord & { readonly item: number; readonly bin: number };
/** What is there before a sheet of homes is judged: bins by every name of theirs, items by code, homes by “bin|item” of
 *  their numbers. */
export type KnownHomes = {
  readonly bins: ReadonlyMap<string, { readonly id: number; readonly use: string; readonly purpose: string }>;
  readonly items: ReadonlyMap<string, number>;
  readonly homes: ReadonlyMap<string, HomeRecord>;
};
type Verdict = {
  readonly row: number;
  readonly verdict: 'new' | 'changed' | 'same' | 'fault';
  readonly name: string;
  readonly says: string;
};

/** Judges every row of a sheet of homes (A6): what it would make or change, and all that is wrong with it.
 *  Shape:  one verdict per row; `wishes` are those that are not as they are already.
 *  Errors: per row: no such bin or item, a bin through which goods pass, a role or limits that are none, a row twice. */
export function judgeHomeSheet(
  columns: ReadonlyMap<string, number>,
  rows: readonly { readonly row: number; readonly cells: readonly string[] }[],
  known: KnownHomes,
): { verdicts: readonly Verdict[]; wishes: readonly HomeWish[] } {
  const [verdicts, wishes]: [Verdict[], HomeWish[]] = [[], []];
  const seen = new Map<string, number>();
  for (const { row, cells } of rows) {
    const cell = (key: string): string => cells[columns.get(key) ?? -1] ?? '';
    const [address, code] = [cell('bin').trim().toUpperCase(), cell('item').trim().toUpperCase()];
    const [bin, item] = [known.bins.get(address), known.items.get(code)];
    const name = `${code} in ${address}`;
    // A bin has several names, and is one home by all of them.
    const home = bin && item !== undefined ? `${bin.id}|${item}` : name;
    const role = cell('role').toLowerCase() || 'face';
    const limits = readLimits(cell('min'), cell('max'));
    const faults = [
      !bin && `There is no bin “${address}” at this site.`,
      bin && !canBeHome(bin) && `${address} is no home: goods pass through there.`,
      item === undefined && `There is no item “${code}”.`,
      !['face', 'reserve'].includes(role) && `“${role}” under Role is neither face nor reserve.`,
      typeof limits === 'string' && limits,
      seen.has(home) && `${name} stands in row ${seen.get(home)} too.`,
    ].filter((f) => typeof f === 'string');
    seen.set(home, seen.get(home) ?? row);
    if (faults.length > 0 || typeof limits === 'string' || !bin || item === undefined) {
      verdicts.push({ row, verdict: 'fault', name, says: faults.join(' ') });
      continue;
    }
    const before = known.homes.get(home);
    const same = before && before.role === role && before.min === limits.min && before.max === limits.max;
    verdicts.push({
      row,
      name,
      verdict: !before ? 'new' : same ? 'same' : 'changed',
      says: !before ? 'A new home.' : same ? 'As it is.' : 'Role or limits change.',
    });
    if (!same) wishes.push({ item, bin: bin.id, role, ...limits });
  }
  return { verdicts, wishes };
}

function readLimits(min: string, max: string): Pick<HomeRecord, 'min' | 'max'> | string {
  const [low, high] = [min, max].map((text) => (text === '' ? null : parseQty(text)));
  if ([low, high].some((l) => l && (!l.ok || l.value < 0))) return 'Minimum or maximum is no number.';
  const limits = { min: low?.ok ? low.value : null, max: high?.ok ? high.value : null };
  if (limits.min !== null && limits.max !== null && limits.min > limits.max)
    return `The minimum ${formatQty(limits.min)} is more than the maximum ${formatQty(limits.max)}.`;
  return limits;
}
