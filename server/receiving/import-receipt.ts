import { createHash } from 'node:crypto';
import type { ItemId } from '#core/base';
import type { Tracking } from '#core/items';
import { judgeReceiptSheet, RECEIPT_COLUMNS, serialsOfCell, type ReceivedItem, type SheetEntry } from '#core/receiving';
import {
  announce,
  asQty,
  byTitles,
  importSheet,
  query,
  SheetFault,
  type Db,
  type JobContext,
  type RowVerdict,
  type SheetRows,
} from '#server/kernel';
import { beginDelivery } from './begin.ts';
import { selectReasons } from './store-inspect.ts';
import { findDelivery, updateDeliveryState } from './store.ts';
import { updateHandedIn } from './store-entries.ts';
import { insertSheetEntries, lockSheets, selectBinsNamed, selectDeliveryOfSheet, selectLabelsKnown } from './store-sheet.ts';

type Reads = Pick<Db, 'raw'>;
export type ReceiptSheet = {
  readonly file: number;
  readonly apply?: boolean;
  readonly supplier: number | null;
  readonly orders: readonly number[];
};

/** Reads a sheet of received goods into a delivery (C12): one of its own that is handed in for review, or the one in which somebody
 *  receives its orders already. No stock comes of it before a lead has posted that.
 *  Errors: per row what `judgeReceiptSheet` says; a sheet that was received before. */
export function importReceipt(context: JobContext<ReceiptSheet>): Promise<{ state: 'checked' | 'done'; result: unknown }> {
  const { site, person, input } = context.job;
  return importSheet(context, {
    locate: byTitles(RECEIPT_COLUMNS),
    lock: lockSheets,
    judge: (db, columns, rows) => judge(db, site, input, columns, rows),
    write: async (trx, { entries, contents }) => {
      const begun = await beginDelivery(trx, { site, person, key: null, supplier: input.supplier, orders: input.orders });
      if (!begun.held)
        throw new SheetFault(`Delivery ${begun.number} was begun on these orders just now. Nothing was imported; try again.`);
      await insertSheetEntries(trx, { delivery: begun.id, contents, person }, entries);
      // What a hand is still scanning stays theirs.
      if (!begun.joined || (await findDelivery(trx, begun.id)).state === 'review') {
        await updateHandedIn(trx, begun.id);
        await updateDeliveryState(trx, begun.id, 'review');
      }
      announce(trx, 'receiving', { delivery: begun.id });
      return { entries: entries.length, delivery: begun.id };
    },
  });
}

async function judge(
  db: Reads,
  site: number,
  input: ReceiptSheet,
  columns: ReadonlyMap<string, number>,
  rows: SheetRows,
): Promise<{ verdicts: RowVerdict[]; entries: readonly SheetEntry[]; contents: string }> {
  const cell = (cells: readonly string[], key: string): string => (cells[columns.get(key) ?? -1] ?? '').trim();
  const known = await selectLabelsKnown(db, {
    lots: [...new Set(rows.map((r) => cell(r.cells, 'lot')))],
    serials: [...new Set(rows.flatMap((r) => serialsOfCell(cell(r.cells, 'serials'))))],
  });
  const bins = await selectBinsNamed(db, site);
  const reasons = new Map((await selectReasons(db)).filter((r) => !r.retired).map((r) => [r.name.toUpperCase(), r.id]));
  const [now] = await query<{ today: string }>(db, `SELECT today_at(?) AS today`, [site]);
  const items = await selectReceivedItems(db, input.supplier);
  const { verdicts, entries } = judgeReceiptSheet(columns, rows, { ...known, items, bins, reasons, today: now?.today ?? '' });
  const contents = createHash('sha256')
    .update(JSON.stringify(rows.map((r) => r.cells)))
    .digest('hex');
  const received = await selectDeliveryOfSheet(db, contents);
  if (received === null) return { verdicts: [...verdicts], entries, contents };
  const says = `This sheet was received before, as ${received}.`;
  return { verdicts: verdicts.map((v) => ({ ...v, verdict: 'fault', says })), entries, contents };
}

// By what a sheet may name an item: its code, a barcode, or the number that the supplier of the sheet has for it.
async function selectReceivedItems(db: Reads, supplier: number | null): Promise<Map<string, ReceivedItem>> {
  const items = await query<{
    item: ItemId;
    code: string;
    decimals: number;
    tracking: Tracking;
    retired: boolean;
    packs: { id: number; name: string; units: string }[];
    names: string[];
  }>(
    db,
    `SELECT i.id AS item, i.code, i.decimals, i.tracking, i.retired_at IS NOT NULL AS retired,
       (
         SELECT coalesce(json_agg(json_build_object('id', p.id, 'name', p.name, 'units', p.units::text) ORDER BY p.units, p.id), '[]')
         FROM pack p
         WHERE p.item_id = i.id
       ) AS packs,
       (
         SELECT coalesce(json_agg(x.name), '[]')
         FROM (
           SELECT part_no AS name FROM item_supplier WHERE item_id = i.id AND supplier_id = ? AND part_no <> ''
           UNION ALL SELECT c.code FROM barcode c JOIN pack p ON p.id = c.pack_id AND p.units = 1 WHERE c.item_id = i.id
         ) x
       ) AS names
     FROM item i`,
    [supplier],
  );
  const known = new Map<string, ReceivedItem>();
  const of = (i: (typeof items)[number]): ReceivedItem => ({
    item: i.item,
    code: i.code,
    decimals: i.decimals,
    tracking: i.tracking,
    isRetired: i.retired,
    packs: i.packs.map((p) => ({ ...p, units: asQty(p.units) })),
  });
  for (const i of items) for (const name of i.names) known.set(name.toUpperCase(), of(i));
  // A code of ours is that item, whatever else is called so.
  for (const i of items) known.set(i.code.toUpperCase(), of(i));
  return known;
}
