import { parseQty, readYesNo, type Qty, type WantedColumn } from '#core/base';
import { isAddress } from './address.ts';

/** A bin as a sheet describes it: everything that import reads and export writes (A4).
 *  Units:  `units` in thousandths, volume in millilitres, weight in grams; on the sheet units, litres and kilograms. */
export type BinRecord = {
  readonly zone: string;
  readonly address: string;
  /** Folded to upper case, in alphabetical order. */
  readonly oldNames: readonly string[];
  readonly walk: number | null;
  readonly oneItem: boolean;
  readonly oneLot: boolean;
  readonly storageClass: string | null;
  readonly units: Qty | null;
  readonly volumeMl: number | null;
  readonly weightG: number | null;
  readonly arrow: 'up' | 'down' | null;
};
export type KnownBin = BinRecord & { readonly id: number; readonly isEmpty: boolean; readonly isRetired: boolean };

export const BIN_COLUMNS: readonly WantedColumn[] = [
  { key: 'zone', title: 'Zone', required: true },
  { key: 'address', title: 'Address', required: true, names: ['Bin'] },
  { key: 'oldNames', title: 'Old names', required: false, names: ['Old name', 'Alias'] },
  { key: 'walk', title: 'Walk', required: false, names: ['Walking order'] },
  { key: 'oneItem', title: 'One item', required: false },
  { key: 'oneLot', title: 'One lot', required: false },
  { key: 'storageClass', title: 'Storage class', required: false },
  { key: 'units', title: 'Room in units', required: false },
  { key: 'litres', title: 'Room in litres', required: false },
  { key: 'kilograms', title: 'Room in kg', required: false },
  { key: 'arrow', title: 'Arrow', required: false },
];

export type BinVerdict = {
  readonly row: number;
  readonly verdict: 'new' | 'changed' | 'same' | 'fault';
  readonly name: string;
  readonly says: string;
};
export type BinImport = {
  readonly verdicts: readonly BinVerdict[];
  readonly make: readonly BinRecord[];
  readonly change: readonly (BinRecord & { id: number })[];
};

/** Judges every row of a sheet of bins: what it would make, what it would change, and what is wrong with it.
 *  Shape:  one verdict per row; nothing of the sheet may be applied while any row is a fault. A column that the sheet does not have leaves
 *          what the bin has; an empty cell of a column that it has takes it away.
 *  Errors: per row, all that is wrong with it: an unknown zone, an address that is none, a row twice in the file, a name that means another
 *          bin, a limit that is no number, a bin with stock that would change its zone (with it the powers over its stock). */
export function judgeBinSheet(
  columns: ReadonlyMap<string, number>,
  rows: readonly { row: number; cells: readonly string[] }[],
  known: { zones: ReadonlySet<string>; bins: ReadonlyMap<string, KnownBin> },
): BinImport {
  const verdicts: BinVerdict[] = [];
  const make: BinRecord[] = [];
  const change: (BinRecord & { id: number })[] = [];
  const seen = new Map<string, number>();
  const names = new Map<string, string>(); // every address and old name, with the address of the bin that has it
  for (const bin of known.bins.values()) {
    names.set(bin.address, bin.address);
    for (const name of bin.oldNames) names.set(name, bin.address);
  }
  for (const { row, cells } of rows) {
    const cell = (key: string): string | null => {
      const at = columns.get(key);
      return at === undefined ? null : (cells[at] ?? '');
    };
    const address = (cell('address') ?? '').trim().toUpperCase();
    const before = known.bins.get(address);
    const { record, faults } = readBin(cell, address, before);
    const first = seen.get(address);
    if (address !== '' && first === undefined) seen.set(address, row);
    else if (first !== undefined) faults.push(`${address} stands in row ${first} too.`);
    if (!known.zones.has(record.zone)) faults.push(`There is no zone ${record.zone || '(empty)'} at this site.`);
    for (const name of record.oldNames)
      if ((names.get(name) ?? address) !== address) faults.push(`The old name ${name} already means bin ${names.get(name)}.`);
    if ((names.get(address) ?? address) !== address) faults.push(`${address} is an old name of bin ${names.get(address)}.`);
    if (before?.isRetired) faults.push(`Bin ${address} is retired. Bring it back on its page first.`);
    else if (before && before.zone !== record.zone && !before.isEmpty)
      faults.push(`Bin ${address} holds stock; it cannot go from zone ${before.zone} to ${record.zone}. Empty it first.`);
    const say = (verdict: BinVerdict['verdict'], says: string): void =>
      void verdicts.push({ row, verdict, name: address || '(no address)', says });
    if (faults.length > 0) {
      say('fault', faults.join(' '));
      continue;
    }
    for (const name of [address, ...record.oldNames]) names.set(name, address);
    const changes = before ? differences(before, record) : [];
    if (!before) {
      make.push(record);
      say('new', `A new bin in zone ${record.zone}.`);
    } else if (changes.length > 0) {
      change.push({ ...record, id: before.id });
      say('changed', `${changes.join(', ')}.`);
    } else say('same', 'As it is.');
  }
  return { verdicts, make, change };
}

// The row as a bin, with everything that is wrong with it: whoever mends a sheet wants to mend it once.
function readBin(
  cell: (key: string) => string | null,
  address: string,
  before: KnownBin | undefined,
): { record: BinRecord; faults: string[] } {
  const faults: string[] = [];
  const yesNo = (key: string, title: string, was: boolean | undefined): boolean => {
    const read = readYesNo(cell(key) ?? (was ? 'yes' : ''));
    if (read === null) faults.push(`“${cell(key)}” under ${title} is neither yes nor no.`);
    return read ?? false;
  };
  const limit = (key: string, title: string, was: number | null): number | null => {
    const read = readLimit(cell(key), title, was);
    if (typeof read !== 'string') return read;
    faults.push(read);
    return null;
  };
  if (address === '') faults.push('The address is empty.');
  else if (!isAddress(address)) faults.push(`“${address}” is no address: 1 to 5 levels of letters or digits, such as A-04-2.`);
  const walk = cell('walk');
  if (walk !== null && walk !== '' && !/^\d{1,7}$/.test(walk)) faults.push(`“${walk}” under Walk is no whole number.`);
  const arrow = (cell('arrow') ?? before?.arrow ?? '').toLowerCase();
  if (!['', 'up', 'down'].includes(arrow)) faults.push(`“${arrow}” under Arrow is neither up nor down.`);
  const oldNames = cell('oldNames') === null ? (before?.oldNames ?? []) : readOldNames(cell('oldNames') ?? '', address);
  const tooLong = oldNames.find((name) => name.length > 40);
  if (tooLong !== undefined) faults.push(`The old name ${tooLong.slice(0, 20)}… has more than 40 characters.`);
  const record: BinRecord = {
    zone: (cell('zone') ?? '').trim().toUpperCase(),
    address,
    oldNames,
    walk: walk === null || walk === '' ? (before?.walk ?? null) : Number(walk),
    oneItem: yesNo('oneItem', 'One item', before?.oneItem),
    oneLot: yesNo('oneLot', 'One lot', before?.oneLot),
    storageClass: cell('storageClass') === null ? (before?.storageClass ?? null) : cell('storageClass') || null,
    units: limit('units', 'Room in units', before?.units ?? null) as Qty | null,
    volumeMl: limit('litres', 'Room in litres', before?.volumeMl ?? null),
    weightG: limit('kilograms', 'Room in kg', before?.weightG ?? null),
    arrow: arrow === 'up' || arrow === 'down' ? arrow : null,
  };
  return { record, faults };
}

// Several old names in one cell stand apart by semicolons. A bin's own address is no old name.
function readOldNames(text: string, address: string): string[] {
  const names = text.split(';').map((name) => name.trim().toUpperCase().normalize('NFKC'));
  return [...new Set(names)].filter((name) => name !== '' && name !== address).sort();
}

// Litres to millilitres and kilograms to grams are thousandths, like units: one reader does for all three.
function readLimit(text: string | null, title: string, before: number | null): Qty | number | null | string {
  if (text === null) return before;
  if (text === '') return null;
  const read = parseQty(text.replace(',', '.'));
  return read.ok && read.value > 0 ? read.value : `“${text}” under ${title} is no number above 0.`;
}

const WORDS: readonly [keyof BinRecord, string][] = [
  ['zone', 'zone'],
  ['oldNames', 'old names'],
  ['walk', 'walk'],
  ['oneItem', 'one item'],
  ['oneLot', 'one lot'],
  ['storageClass', 'storage class'],
  ['units', 'room in units'],
  ['volumeMl', 'room in litres'],
  ['weightG', 'room in kg'],
  ['arrow', 'arrow'],
];
function differences(before: BinRecord, after: BinRecord): string[] {
  return WORDS.map(([key, word]) => [word, shown(key, before[key]), shown(key, after[key])] as const)
    .filter(([, was, is]) => was !== is)
    .map(([word, was, is]) => `${word} ${was} → ${is}`);
}

function shown(key: keyof BinRecord, value: BinRecord[keyof BinRecord]): string {
  if (Array.isArray(value)) return value.length > 0 ? value.join('; ') : 'none';
  if (value === null) return 'none';
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  return typeof value === 'number' && key !== 'walk' ? String(value / 1000) : String(value);
}
