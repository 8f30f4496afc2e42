import { isColumnTitle, type WantedColumn } from '#core/base';
import { judgeAmounts, readAmount, type DecimalMark } from './amounts.ts';
import { itemsSentence } from './errors.ts';
import { ownFault, type OwnField } from './own-field.ts';
import { TRACKINGS, type Tracking } from './tracking.ts';

/** An item as a sheet tells it: whole, with the amounts that hold today at the site. Amounts as decimals in the house's currency. */
export type ItemRecord = {
  code: string;
  description: string;
  group: string;
  unit: string;
  decimals: number;
  tracking: Tracking;
  storageClass: string;
  price: string;
  cost: string;
  weightG: number;
  volumeMl: number;
  countClass: string;
  note: string;
  own: Record<string, string>;
};

/** The columns of a sheet of items, beside those of the company's own fields. */
export const ITEM_COLUMNS: readonly (WantedColumn & { key: keyof Omit<ItemRecord, 'own'> })[] = [
  { key: 'code', title: 'Code', required: true, names: ['Item'] },
  { key: 'description', title: 'Description', required: true },
  { key: 'group', title: 'Group', required: false },
  { key: 'unit', title: 'Base unit', required: false, names: ['Unit'] },
  { key: 'decimals', title: 'Decimals', required: false },
  { key: 'tracking', title: 'Tracked', required: false },
  { key: 'storageClass', title: 'Storage class', required: false },
  { key: 'price', title: 'Sell price', required: false, names: ['Price'] },
  { key: 'cost', title: 'Cost', required: false },
  { key: 'weightG', title: 'Weight g', required: false },
  { key: 'volumeMl', title: 'Volume ml', required: false },
  { key: 'countClass', title: 'Count class', required: false },
  { key: 'note', title: 'Note', required: false },
];

/** Whether a title means a column of the item sheet: an own field called so would make the sheet unreadable. */
export const isItemColumn = (title: string): boolean => isColumnTitle(title, ITEM_COLUMNS);

/** What is there before a sheet of items is judged: items by their codes, codes of retired ones, and the items that barcodes are of
 *  (barcodes in upper case, retail codes also with 14 digits). */
export type KnownItems = {
  readonly records: ReadonlyMap<string, ItemRecord>;
  readonly retired: ReadonlySet<string>;
  readonly barcodes: ReadonlyMap<string, string>;
  readonly own: readonly OwnField[];
};
export type JudgedItem = {
  readonly row: number;
  readonly verdict: 'new' | 'changed' | 'same' | 'fault';
  readonly name: string;
  readonly says: string;
  /** The item as it would be; none where something is wrong with it. */
  readonly record: ItemRecord | null;
};
type Rows = readonly { readonly row: number; readonly cells: readonly string[] }[];

/** Judges a sheet of items row by row, in their order (B1): what each would make or change, and all that is wrong with it.
 *  Shape:  a column that the sheet does not have, and an empty cell of most, leaves what the item has.
 *  Errors: per row; how an item is tracked and its base unit do not change this way, for stock hangs on them, nor do its decimals
 *  shrink. */
export function judgeItemSheet(columns: ReadonlyMap<string, number>, rows: Rows, known: KnownItems): (row: Rows[number]) => JudgedItem {
  const decimalOf = (key: string): DecimalMark | null => judgeAmounts(rows.map((r) => r.cells[columns.get(key) ?? -1] ?? '')).decimal;
  const marks = { price: decimalOf('price'), cost: decimalOf('cost') };
  const seen = new Map<string, number>();
  return ({ row, cells }) => {
    const cell = (key: string): string | null => (columns.has(key) ? (cells[columns.get(key) as number] ?? '') : null);
    const code = (cell('code') ?? '').toUpperCase();
    const before = known.records.get(code);
    const { record, faults } = readRecord(cell, code, before, known.own, marks);
    if (seen.has(code)) faults.push(`${code} stands in row ${seen.get(code)} too.`);
    if (known.retired.has(code)) faults.push(`${code} is retired. Bring it back on its page first.`);
    const owner = before
      ? undefined
      : (known.barcodes.get(code) ?? (/^\d{8}$|^\d{12,14}$/.test(code) ? known.barcodes.get(code.padStart(14, '0')) : undefined));
    if (owner !== undefined) faults.push(itemsSentence({ code: 'items.codeIsBarcode', text: code, item: owner }));
    seen.set(code, seen.get(code) ?? row);
    if (faults.length > 0) return { row, verdict: 'fault', name: code || '(no code)', says: faults.join(' '), record: null };
    if (!before) return { row, verdict: 'new', name: code, says: 'A new item.', record };
    const changed = differences(before, record);
    return changed.length > 0
      ? { row, verdict: 'changed', name: code, says: `${changed.join(', ')}.`, record }
      : { row, verdict: 'same', name: code, says: 'As it is.', record };
  };
}

// The row as an item, with everything that is wrong with it: whoever mends a sheet wants to mend it once.
function readRecord(
  cell: (key: string) => string | null,
  code: string,
  before: ItemRecord | undefined,
  own: readonly OwnField[],
  marks: Readonly<Record<'price' | 'cost', DecimalMark | null>>,
): { record: ItemRecord; faults: string[] } {
  const faults: string[] = [];
  const name = code || 'The item';
  const number = (key: string, was: number, most: number): number => {
    const text = cell(key);
    if (text === null || text === '') return was;
    if (/^\d{1,10}$/.test(text) && Number(text) <= most) return Number(text);
    faults.push(`“${text}” is no whole number up to ${most}.`);
    return was;
  };
  const money = (key: 'price' | 'cost', was: string): string => {
    const text = cell(key);
    if (text === null || text === '') return was;
    const amount = readAmount(text, marks[key]);
    if (amount === null) faults.push(`“${text}” is no ${key}, or can be read in two ways: write 1234 or 1.2340.`);
    return amount ?? was;
  };
  if (code === '') faults.push('The code is empty.');
  else if (code.length > 40) faults.push(`The code has ${code.length} characters; at most 40 are kept.`);
  const description = cell('description') ?? '';
  if (description === '') faults.push(`${name} has no description.`);
  const tracking = (cell('tracking') || before?.tracking || 'none') as Tracking;
  if (!TRACKINGS.includes(tracking)) faults.push(`“${tracking}” under Tracked is none of ${TRACKINGS.join(', ')}.`);
  else if (before && tracking !== before.tracking)
    faults.push(`${code} is tracked ${before.tracking}; how an item is tracked changes on its own page.`);
  const unit = cell('unit') || before?.unit || 'each';
  if (before && unit !== before.unit) faults.push(`${code} is kept in ${before.unit}; the base unit does not change.`);
  const decimals = number('decimals', before?.decimals ?? 0, 3);
  if (before && decimals < before.decimals)
    faults.push(`${code} is counted to ${before.decimals} decimals; fewer are set on its own page.`);
  const fields: Record<string, string> = { ...before?.own };
  for (const field of own) {
    const text = cell(`own:${field.label}`);
    if (text === null) continue;
    const fault = ownFault(field, text);
    if (fault) faults.push(itemsSentence(fault));
    if (text === '') delete fields[field.label];
    else fields[field.label] = text;
  }
  const countClass = (cell('countClass') || before?.countClass || 'C').toUpperCase();
  if (countClass.length !== 1) faults.push(`“${countClass}” under Count class is not one character.`);
  const record: ItemRecord = {
    code,
    description: description.slice(0, 200),
    group: cell('group') ?? before?.group ?? '',
    unit,
    decimals,
    tracking,
    storageClass: cell('storageClass') || before?.storageClass || 'dry',
    price: money('price', before?.price ?? '0'),
    cost: money('cost', before?.cost ?? '0'),
    weightG: number('weightG', before?.weightG ?? 0, 1e8),
    volumeMl: number('volumeMl', before?.volumeMl ?? 0, 1e9),
    countClass,
    note: cell('note') ?? before?.note ?? '',
    own: fields,
  };
  return { record, faults };
}

function differences(before: ItemRecord, after: ItemRecord): string[] {
  const same = (a: unknown, b: unknown, key: string): boolean => (key === 'price' || key === 'cost' ? Number(a) === Number(b) : a === b);
  const plain = ITEM_COLUMNS.filter((c) => !same(before[c.key], after[c.key], c.key)).map(
    (c) => `${c.title.toLowerCase()} ${String(before[c.key]) || 'none'} → ${String(after[c.key]) || 'none'}`,
  );
  const labels = [...new Set([...Object.keys(before.own), ...Object.keys(after.own)])].filter((l) => before.own[l] !== after.own[l]);
  return [...plain, ...labels.map((l) => `${l} ${before.own[l] ?? 'none'} → ${after.own[l] ?? 'none'}`)];
}
