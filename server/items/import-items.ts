import { ITEM_COLUMNS, judgeItemSheet, type ItemRecord, type OwnField } from '#core/items';
import {
  announce,
  byTitles,
  importSheet,
  query,
  type Db,
  type JobContext,
  type RowVerdict,
  type SheetColumn,
  type SheetRows,
} from '#server/kernel';
import { selectOwnFields } from './record.ts';
import { lockItemNames } from './store.ts';
import { lockItems, upsertItems } from './store-import.ts';

type Reads = Pick<Db, 'raw'>;

/** The columns of the export, own fields included: exactly what import reads. */
export async function itemSheet(db: Reads): Promise<SheetColumn<ItemRecord>[]> {
  const own = (await selectOwnFields(db)).filter((f) => !f.retired);
  return [
    ...ITEM_COLUMNS.map((c): SheetColumn<ItemRecord> => ({
      title: c.title,
      width: c.key === 'description' ? 40 : 14,
      of: (r) => r[c.key],
    })),
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
    locate: byTitles([...ITEM_COLUMNS, ...own.map((f) => ({ key: `own:${f.label}`, title: f.label, required: false }))]),
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
  own: readonly OwnField[],
  columns: ReadonlyMap<string, number>,
  rows: SheetRows,
  progress: (done: number) => Promise<void>,
): Promise<{ verdicts: RowVerdict[]; make: ItemRecord[]; change: ItemRecord[] }> {
  const judge = judgeItemSheet(columns, rows, {
    records: new Map((await selectItemRecords(db, site)).map((r) => [r.code, r])),
    retired: await selectRetiredCodes(db),
    barcodes: await selectBarcodes(db),
    own,
  });
  const [verdicts, make, change]: [RowVerdict[], ItemRecord[], ItemRecord[]] = [[], [], []];
  for (const [n, row] of rows.entries()) {
    if (n % 1000 === 0) await progress(n);
    const { record, ...verdict } = judge(row);
    verdicts.push(verdict);
    if (record && verdict.verdict === 'new') make.push(record);
    if (record && verdict.verdict === 'changed') change.push(record);
  }
  return { verdicts, make, change };
}

async function selectRetiredCodes(db: Reads): Promise<ReadonlySet<string>> {
  const rows = await query<{ code: string }>(db, `SELECT code FROM item WHERE retired_at IS NOT NULL`);
  return new Set(rows.map((r) => r.code));
}

// Every barcode with the item that it is of, as it stands there and as a retail code of 14 digits.
async function selectBarcodes(db: Reads): Promise<ReadonlyMap<string, string>> {
  const rows = await query<{ code: string; item: string }>(
    db,
    `SELECT upper(c.code) AS code, i.code AS item
     FROM barcode c
     JOIN item i ON i.id = c.item_id
     UNION ALL
     SELECT c.gtin, i.code
     FROM barcode c
     JOIN item i ON i.id = c.item_id
     WHERE c.gtin IS NOT NULL`,
  );
  return new Map(rows.map((r) => [r.code, r.item]));
}
