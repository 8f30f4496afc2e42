import { parseQty, readYesNo, type Qty, type WantedColumn } from '#core/base';
import { isAddress } from './address.ts';

/** A bin as a sheet describes it: everything that import reads and export writes (A4).
 *  Units:  `units` in thousandths, volume in millilitres, weight in grams; on the sheet units, litres and kilograms. */
export type BinRecord = {
  readonly zone: string;
  readonly address: string;
  readonly alias: string | null;
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
  { key: 'alias', title: 'Alias', required: false },
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
 *  Errors: per row: an unknown zone, an address that is none, a row twice in the file, an alias that is another bin's name, a limit that is no
 *          number, a bin with stock that would change its zone (with it the powers over its stock). */
export function judgeBinSheet(
  columns: ReadonlyMap<string, number>,
  rows: readonly { row: number; cells: readonly string[] }[],
  known: { zones: ReadonlySet<string>; bins: ReadonlyMap<string, KnownBin> },
): BinImport {
  const verdicts: BinVerdict[] = [];
  const make: BinRecord[] = [];
  const change: (BinRecord & { id: number })[] = [];
  const seen = new Map<string, number>();
  const names = new Map<string, string>(); // every address and alias, with the address of the bin that has it
  for (const bin of known.bins.values()) {
    names.set(bin.address, bin.address);
    if (bin.alias) names.set(bin.alias, bin.address);
  }
  for (const { row, cells } of rows) {
    const cell = (key: string): string | null => {
      const at = columns.get(key);
      return at === undefined ? null : (cells[at] ?? '');
    };
    const address = (cell('address') ?? '').toUpperCase();
    const say = (verdict: BinVerdict['verdict'], says: string): void =>
      void verdicts.push({ row, verdict, name: address || '(no address)', says });
    const before = known.bins.get(address);
    const read = readBin(cell, address, before);
    const first = seen.get(address);
    if (typeof read === 'string') say('fault', read);
    else if (first !== undefined) say('fault', `${address} stands in row ${first} too.`);
    else if (!known.zones.has(read.zone)) say('fault', `There is no zone ${read.zone || '(empty)'} at this site.`);
    else if (read.alias !== null && (names.get(read.alias) ?? address) !== address)
      say('fault', `The alias ${read.alias} already means bin ${names.get(read.alias)}.`);
    else if ((names.get(address) ?? address) !== address) say('fault', `${address} is the alias of bin ${names.get(address)}.`);
    else if (before?.isRetired) say('fault', `Bin ${address} is retired. Bring it back on its page first.`);
    else if (before && before.zone !== read.zone && !before.isEmpty)
      say('fault', `Bin ${address} holds stock; it cannot go from zone ${before.zone} to ${read.zone}. Empty it first.`);
    else {
      names.set(address, address);
      if (read.alias !== null) names.set(read.alias, address);
      const changes = before ? differences(before, read) : [];
      if (!before) {
        make.push(read);
        say('new', `A new bin in zone ${read.zone}.`);
      } else if (changes.length > 0) {
        change.push({ ...read, id: before.id });
        say('changed', `${changes.join(', ')}.`);
      } else say('same', 'As it is.');
    }
    if (address !== '' && first === undefined) seen.set(address, row);
  }
  return { verdicts, make, change };
}

function readBin(cell: (key: string) => string | null, address: string, before: KnownBin | undefined): BinRecord | string {
  if (address === '') return 'The address is empty.';
  if (!isAddress(address)) return `“${address}” is no address: 1 to 5 levels of letters or digits, such as A-04-2.`;
  const oneItem = readYesNo(cell('oneItem') ?? (before?.oneItem ? 'yes' : ''));
  const oneLot = readYesNo(cell('oneLot') ?? (before?.oneLot ? 'yes' : ''));
  if (oneItem === null) return `“${cell('oneItem')}” under One item is neither yes nor no.`;
  if (oneLot === null) return `“${cell('oneLot')}” under One lot is neither yes nor no.`;
  const walk = cell('walk');
  if (walk !== null && walk !== '' && !/^\d{1,7}$/.test(walk)) return `“${walk}” under Walk is no whole number.`;
  const units = readLimit(cell('units'), 'Room in units', before?.units ?? null);
  const litres = readLimit(cell('litres'), 'Room in litres', before?.volumeMl ?? null);
  const kilograms = readLimit(cell('kilograms'), 'Room in kg', before?.weightG ?? null);
  for (const limit of [units, litres, kilograms]) if (typeof limit === 'string') return limit;
  const arrow = (cell('arrow') ?? before?.arrow ?? '').toLowerCase();
  if (!['', 'up', 'down'].includes(arrow)) return `“${arrow}” under Arrow is neither up nor down.`;
  return {
    zone: (cell('zone') ?? '').toUpperCase(),
    address,
    alias: cell('alias') === null ? (before?.alias ?? null) : cell('alias') || null,
    walk: walk === null || walk === '' ? (before?.walk ?? null) : Number(walk),
    oneItem,
    oneLot,
    storageClass: cell('storageClass') === null ? (before?.storageClass ?? null) : cell('storageClass') || null,
    units: units as Qty | null,
    volumeMl: litres as number | null,
    weightG: kilograms as number | null,
    arrow: arrow === '' ? null : (arrow as 'up' | 'down'),
  };
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
  ['alias', 'alias'],
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
  const shown = (key: keyof BinRecord, value: BinRecord[keyof BinRecord]): string =>
    value === null
      ? 'none'
      : typeof value === 'boolean'
        ? value
          ? 'yes'
          : 'no'
        : typeof value === 'number' && key !== 'walk'
          ? String(value / 1000)
          : String(value);
  return WORDS.filter(([key]) => before[key] !== after[key]).map(
    ([key, word]) => `${word} ${shown(key, before[key])} → ${shown(key, after[key])}`,
  );
}
