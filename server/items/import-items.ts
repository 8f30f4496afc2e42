import type { WantedColumn } from '#core/base';
import { readAmount, TRACKINGS, type Tracking } from '#core/items';
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
  type Trx,
} from '#server/kernel';
import { ownFault, selectOwnFields } from './record.ts';
import { refreshSearch } from './search.ts';

type Reads = Pick<Db, 'raw'>;
type ItemRecord = {
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

/** The columns of the export, own fields included: exactly what import reads. */
export async function itemSheet(db: Reads): Promise<SheetColumn<ItemRecord>[]> {
  const own = (await selectOwnFields(db)).filter((f) => !f.retired);
  return [
    ...COLUMNS.map((c): SheetColumn<ItemRecord> => ({ title: c.title, width: c.key === 'description' ? 40 : 14, of: (r) => r[c.key] })),
    ...own.map((f): SheetColumn<ItemRecord> => ({ title: f.label, of: (r) => r.own[f.label] ?? '' })),
  ];
}

/** Every item that is not retired, as export writes it. */
export function selectItemRecords(db: Reads): Promise<ItemRecord[]> {
  return query<ItemRecord>(
    db,
    `SELECT code, description, item_group AS "group", base_unit AS unit, decimals, tracking, storage_class AS "storageClass", trim_scale(amount_on(id, 'price', current_date))::text AS price,
       trim_scale(amount_on(id, 'cost', current_date))::text AS cost, weight_g AS "weightG", volume_ml AS "volumeMl", count_class AS "countClass", note, own FROM item WHERE retired_at IS NULL ORDER BY code`,
  );
}

/** Imports items (B1, B5). Tracking and base unit of an item that exists do not change this way: stock hangs on them. */
export async function importItems(
  context: JobContext<{ file: number; apply?: boolean }>,
): Promise<{ state: 'checked' | 'done'; result: unknown }> {
  const own = (await selectOwnFields(context.db)).filter((f) => !f.retired);
  return importSheet(context, {
    locate: byTitles([...COLUMNS, ...own.map((f) => ({ key: `own:${f.label}`, title: f.label, required: false }))]),
    lock: (trx) => query(trx, `LOCK TABLE item IN SHARE ROW EXCLUSIVE MODE`),
    judge: (db, columns, rows, progress) => judgeItems(db, own, columns, rows, progress),
    write: async (trx, { make, change }, file) => {
      await writeItems(trx, [...make, ...change], context.job.person, file);
      announce(trx, 'items');
    },
  });
}

async function judgeItems(
  db: Reads,
  own: Awaited<ReturnType<typeof selectOwnFields>>,
  columns: ReadonlyMap<string, number>,
  rows: SheetRows,
  progress: (done: number) => Promise<void>,
): Promise<{ verdicts: RowVerdict[]; make: ItemRecord[]; change: ItemRecord[] }> {
  const known = new Map((await selectItemRecords(db)).map((r) => [r.code, r]));
  const retired = new Set((await query<{ code: string }>(db, `SELECT code FROM item WHERE retired_at IS NOT NULL`)).map((r) => r.code));
  const [verdicts, make, change]: [RowVerdict[], ItemRecord[], ItemRecord[]] = [[], [], []];
  const seen = new Map<string, number>();
  for (const [n, { row, cells }] of rows.entries()) {
    if (n % 1000 === 0) await progress(n);
    const cell = (key: string): string | null => (columns.has(key) ? (cells[columns.get(key) as number] ?? '') : null);
    const code = (cell('code') ?? '').toUpperCase();
    const before = known.get(code);
    const read = readRecord(cell, code, before, own);
    const fault =
      typeof read === 'string'
        ? read
        : seen.has(code)
          ? `${code} stands in row ${seen.get(code)} too.`
          : retired.has(code)
            ? `${code} is retired. Bring it back on its page first.`
            : null;
    seen.set(code, seen.get(code) ?? row);
    if (fault !== null || typeof read === 'string') {
      verdicts.push({ row, verdict: 'fault', name: code || '(no code)', says: fault ?? '' });
      continue;
    }
    const changed = before ? differences(before, read) : [];
    if (!before) verdicts.push({ row, name: code, verdict: 'new', says: 'A new item.' });
    else if (changed.length > 0) verdicts.push({ row, name: code, verdict: 'changed', says: `${changed.join(', ')}.` });
    else verdicts.push({ row, name: code, verdict: 'same', says: 'As it is.' });
    if (!before) make.push(read);
    else if (changed.length > 0) change.push(read);
  }
  return { verdicts, make, change };
}

function readRecord(
  cell: (key: string) => string | null,
  code: string,
  before: ItemRecord | undefined,
  own: Awaited<ReturnType<typeof selectOwnFields>>,
): ItemRecord | string {
  if (code === '' || code.length > 40)
    return code === '' ? 'The code is empty.' : `The code has ${code.length} characters; at most 40 are kept.`;
  const description = cell('description') ?? '';
  if (description === '') return `${code} has no description.`;
  const number = (key: string, was: number, most: number): number | string => {
    const text = cell(key);
    if (text === null || text === '') return was;
    return /^\d{1,10}$/.test(text) && Number(text) <= most ? Number(text) : `“${text}” is no whole number up to ${most}.`;
  };
  const money = (key: string, was: string): string | null => {
    const text = cell(key);
    return text === null || text === '' ? was : readAmount(text);
  };
  const [decimals, weightG, volumeMl] = [
    number('decimals', before?.decimals ?? 0, 3),
    number('weightG', before?.weightG ?? 0, 1e8),
    number('volumeMl', before?.volumeMl ?? 0, 1e9),
  ];
  for (const n of [decimals, weightG, volumeMl]) if (typeof n === 'string') return n;
  const [price, cost] = [money('price', before?.price ?? '0'), money('cost', before?.cost ?? '0')];
  if (price === null) return `“${cell('price')}” is no price.`;
  if (cost === null) return `“${cell('cost')}” is no cost.`;
  const tracking = (cell('tracking') || before?.tracking || 'none') as Tracking;
  if (!TRACKINGS.includes(tracking)) return `“${tracking}” under Tracked is none of ${TRACKINGS.join(', ')}.`;
  if (before && tracking !== before.tracking)
    return `${code} is tracked ${before.tracking}; how an item is tracked changes on its own page.`;
  const unit = cell('unit') || before?.unit || 'each';
  if (before && unit !== before.unit) return `${code} is kept in ${before.unit}; the base unit does not change.`;
  if (before && (decimals as number) < before.decimals)
    return `${code} is counted to ${before.decimals} decimals; fewer are set on its own page.`;
  const fields: Record<string, string> = { ...before?.own };
  for (const field of own) {
    const text = cell(`own:${field.label}`);
    if (text === null) continue;
    const fault = ownFault(field, text);
    if (fault) return sentenceOf(fault);
    if (text === '') delete fields[field.label];
    else fields[field.label] = text;
  }
  const countClass = (cell('countClass') || before?.countClass || 'C').toUpperCase();
  if (countClass.length !== 1) return `“${countClass}” under Count class is not one character.`;
  return {
    code,
    description: description.slice(0, 200),
    group: cell('group') ?? before?.group ?? '',
    unit,
    decimals: decimals as number,
    tracking,
    storageClass: cell('storageClass') || before?.storageClass || 'dry',
    price,
    cost,
    weightG: weightG as number,
    volumeMl: volumeMl as number,
    countClass,
    note: cell('note') ?? before?.note ?? '',
    own: fields,
  };
}

function differences(before: ItemRecord, after: ItemRecord): string[] {
  const same = (a: unknown, b: unknown, key: string): boolean => (key === 'price' || key === 'cost' ? Number(a) === Number(b) : a === b);
  const plain = COLUMNS.filter((c) => !same(before[c.key], after[c.key], c.key)).map(
    (c) => `${c.title.toLowerCase()} ${String(before[c.key]) || 'none'} → ${String(after[c.key]) || 'none'}`,
  );
  const labels = [...new Set([...Object.keys(before.own), ...Object.keys(after.own)])].filter((l) => before.own[l] !== after.own[l]);
  return [...plain, ...labels.map((l) => `${l} ${before.own[l] ?? 'none'} → ${after.own[l] ?? 'none'}`)];
}

async function writeItems(trx: Trx, records: readonly ItemRecord[], person: number, source: string): Promise<void> {
  for (let i = 0; i < records.length; i += 2000) {
    const part = records.slice(i, i + 2000);
    const rows = await query<{ id: number; code: string }>(
      trx,
      `INSERT INTO item (code, description, item_group, base_unit, decimals, tracking, storage_class, weight_g, volume_ml, count_class, note, own)
       SELECT * FROM unnest(?::text[], ?::text[], ?::text[], ?::text[], ?::int[], ?::text[], ?::text[], ?::int[], ?::bigint[], ?::text[], ?::text[], ?::jsonb[])
       ON CONFLICT (code) DO UPDATE SET description = excluded.description, item_group = excluded.item_group, decimals = excluded.decimals, storage_class = excluded.storage_class, weight_g = excluded.weight_g, volume_ml = excluded.volume_ml, count_class = excluded.count_class, note = excluded.note, own = excluded.own RETURNING id, code`,
      [
        part.map((r) => r.code),
        part.map((r) => r.description),
        part.map((r) => r.group),
        part.map((r) => r.unit),
        part.map((r) => r.decimals),
        part.map((r) => r.tracking),
        part.map((r) => r.storageClass),
        part.map((r) => r.weightG),
        part.map((r) => r.volumeMl),
        part.map((r) => r.countClass),
        part.map((r) => r.note),
        part.map((r) => JSON.stringify(r.own)),
      ],
    );
    const ids = new Map(rows.map((r) => [r.code, r.id]));
    const at = part.map((r) => ids.get(r.code) as number);
    await query(
      trx,
      `INSERT INTO pack (item_id, name, units) SELECT i, u, 1 FROM unnest(?::int[], ?::text[]) AS x(i, u) WHERE NOT EXISTS (SELECT 1 FROM pack WHERE item_id = i)`,
      [at, part.map((r) => r.unit)],
    );
    for (const kind of ['price', 'cost'] as const)
      await query(
        trx,
        `INSERT INTO item_amount (item_id, kind, amount, holds_from, person_id, source) SELECT i, '${kind}', a, current_date, ?, ? FROM unnest(?::int[], ?::numeric[]) AS x(i, a) WHERE a <> amount_on(i, '${kind}', current_date)`,
        [person, source, at, part.map((r) => r[kind])],
      );
    await refreshSearch(trx, at);
  }
}
