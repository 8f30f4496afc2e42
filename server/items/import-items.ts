import { isColumnTitle, type WantedColumn } from '#core/base';
import { judgeAmounts, readAmount, TRACKINGS, type DecimalMark, type Tracking } from '#core/items';
import {
  announce,
  byTitles,
  importSheet,
  query,
  sentenceOf,
  type Db,
  type JobContext,
  type RowVerdict,
  type SheetColumn,
  type SheetRows,
} from '#server/kernel';
import { ownFault, selectOwnFields } from './record.ts';
import { lockItemNames } from './store.ts';
import { lockItems, upsertItems, type ItemRecord } from './store-import.ts';

type Reads = Pick<Db, 'raw'>;

const COLUMNS: readonly (WantedColumn & { key: keyof Omit<ItemRecord, 'own'> })[] = [
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
export const isItemColumn = (title: string): boolean => isColumnTitle(title, COLUMNS);

/** The columns of the export, own fields included: exactly what import reads. */
export async function itemSheet(db: Reads): Promise<SheetColumn<ItemRecord>[]> {
  const own = (await selectOwnFields(db)).filter((f) => !f.retired);
  return [
    ...COLUMNS.map((c): SheetColumn<ItemRecord> => ({ title: c.title, width: c.key === 'description' ? 40 : 14, of: (r) => r[c.key] })),
    ...own.map((f): SheetColumn<ItemRecord> => ({ title: f.label, of: (r) => r.own[f.label] ?? '' })),
  ];
}

/** Items as export writes them, with the amounts that hold today at the site: those of these ids, or all that are not retired. */
export function selectItemRecords(db: Reads, site: number, ids: readonly number[] | null = null): Promise<ItemRecord[]> {
  return query<ItemRecord>(
    db,
    `SELECT code, description, item_group AS "group", base_unit AS unit, decimals, tracking, storage_class AS "storageClass",
       trim_scale(amount_on(id, 'price', d.day))::text AS price,
       trim_scale(amount_on(id, 'cost', d.day))::text AS cost, weight_g AS "weightG", volume_ml AS "volumeMl",
         count_class AS "countClass", note, own
     FROM item
     CROSS JOIN (SELECT today_at(?) AS day) d
     WHERE CASE WHEN ?::int[] IS NULL THEN retired_at IS NULL ELSE id = ANY(?::int[]) END
     ORDER BY code`,
    [site, ids, ids],
  );
}

/** Imports items (B1, B5). Tracking and base unit of an item that exists do not change this way: stock hangs on them. */
export async function importItems(
  context: JobContext<{ file: number; apply?: boolean }>,
): Promise<{ state: 'checked' | 'done'; result: unknown }> {
  const own = (await selectOwnFields(context.db)).filter((f) => !f.retired);
  return importSheet(context, {
    locate: byTitles([...COLUMNS, ...own.map((f) => ({ key: `own:${f.label}`, title: f.label, required: false }))]),
    lock: async (trx) => {
      await lockItemNames(trx);
      await lockItems(trx);
    },
    judge: (db, columns, rows, progress) => judgeItems(db, context.job.site, own, columns, rows, progress),
    write: async (trx, { make, change }, file) => {
      await upsertItems(trx, [...make, ...change], { ...context.job, source: file });
      announce(trx, 'items');
    },
  });
}

async function judgeItems(
  db: Reads,
  site: number,
  own: Awaited<ReturnType<typeof selectOwnFields>>,
  columns: ReadonlyMap<string, number>,
  rows: SheetRows,
  progress: (done: number) => Promise<void>,
): Promise<{ verdicts: RowVerdict[]; make: ItemRecord[]; change: ItemRecord[] }> {
  const known = new Map((await selectItemRecords(db, site)).map((r) => [r.code, r]));
  const retired = new Set((await query<{ code: string }>(db, `SELECT code FROM item WHERE retired_at IS NOT NULL`)).map((r) => r.code));
  const barcodes = new Map(
    (
      await query<{ code: string; item: string }>(
        db,
        `SELECT upper(c.code) AS code, i.code AS item
         FROM barcode c
         JOIN item i ON i.id = c.item_id
         UNION ALL SELECT c.gtin, i.code
         FROM barcode c
         JOIN item i ON i.id = c.item_id
         WHERE c.gtin IS NOT NULL`,
      )
    ).map((r) => [r.code, r.item]),
  );
  const [verdicts, make, change]: [RowVerdict[], ItemRecord[], ItemRecord[]] = [[], [], []];
  const decimalOf = (key: string): DecimalMark | null => judgeAmounts(rows.map((r) => r.cells[columns.get(key) ?? -1] ?? '')).decimal;
  const marks = { price: decimalOf('price'), cost: decimalOf('cost') };
  const seen = new Map<string, number>();
  for (const [n, { row, cells }] of rows.entries()) {
    if (n % 1000 === 0) await progress(n);
    const cell = (key: string): string | null => (columns.has(key) ? (cells[columns.get(key) as number] ?? '') : null);
    const code = (cell('code') ?? '').toUpperCase();
    const before = known.get(code);
    const { record, faults } = readRecord(cell, code, before, own, marks);
    if (seen.has(code)) faults.push(`${code} stands in row ${seen.get(code)} too.`);
    if (retired.has(code)) faults.push(`${code} is retired. Bring it back on its page first.`);
    const owner = before
      ? undefined
      : (barcodes.get(code) ?? (/^\d{8}$|^\d{12,14}$/.test(code) ? barcodes.get(code.padStart(14, '0')) : undefined));
    if (owner !== undefined) faults.push(sentenceOf({ code: 'items.codeIsBarcode', text: code, item: owner }));
    seen.set(code, seen.get(code) ?? row);
    if (faults.length > 0) {
      verdicts.push({ row, verdict: 'fault', name: code || '(no code)', says: faults.join(' ') });
      continue;
    }
    const changed = before ? differences(before, record) : [];
    if (!before) verdicts.push({ row, name: code, verdict: 'new', says: 'A new item.' });
    else if (changed.length > 0) verdicts.push({ row, name: code, verdict: 'changed', says: `${changed.join(', ')}.` });
    else verdicts.push({ row, name: code, verdict: 'same', says: 'As it is.' });
    if (!before) make.push(record);
    else if (changed.length > 0) change.push(record);
  }
  return { verdicts, make, change };
}

// The row as an item, with everything that is wrong with it: whoever mends a sheet wants to mend it once.
function readRecord(
  cell: (key: string) => string | null,
  code: string,
  before: ItemRecord | undefined,
  own: Awaited<ReturnType<typeof selectOwnFields>>,
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
    if (fault) faults.push(sentenceOf(fault));
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
  const plain = COLUMNS.filter((c) => !same(before[c.key], after[c.key], c.key)).map(
    (c) => `${c.title.toLowerCase()} ${String(before[c.key]) || 'none'} → ${String(after[c.key]) || 'none'}`,
  );
  const labels = [...new Set([...Object.keys(before.own), ...Object.keys(after.own)])].filter((l) => before.own[l] !== after.own[l]);
  return [...plain, ...labels.map((l) => `${l} ${before.own[l] ?? 'none'} → ${after.own[l] ?? 'none'}`)];
}
