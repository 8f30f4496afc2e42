import {
  judgeAmounts,
  judgePriceRow,
  PRICE_FIELDS,
  proposeMapping,
  readAmount,
  readPriceRow,
  type AmountColumn,
  type DecimalMark,
  type KnownPriceRow,
  type PriceAmounts,
  type PriceMapping,
  type PriceRow,
  type PriceVerdict,
} from '#core/items';
import {
  addressOf,
  announce,
  asQty,
  askHelper,
  importSheet,
  query,
  refuse,
  SheetFault,
  type Db,
  type JobContext,
  type Sheet,
  type SheetRows,
} from '#server/kernel';

import { carryToItems, lockPriceList, updatePriceList, upsertPriceRows } from './store-prices.ts';

type Reads = Pick<Db, 'raw'>;

export async function findSupplier(db: Reads, id: number): Promise<{ id: number; name: string }> {
  const [row] = await query<{ id: number; name: string }>(db, `SELECT id, name FROM supplier WHERE id = ?`, [id]);
  return row ?? refuse({ code: 'items.unknownSupplier', text: String(id) });
}

type Look = { header: string[]; sample: string[][]; rows: number; mapping: PriceMapping; remembered: boolean; unclear: string | null };

/** What stands in a file, and which column is which: as this supplier's last list had it where its titles are there again, else
 *  proposed. */
export async function readColumns(db: Db, supplier: number, file: number): Promise<Look> {
  await findSupplier(db, supplier);
  const [upload] = await query<{ name: string }>(db, `SELECT name FROM file WHERE id = ?`, [file]);
  if (!upload) return refuse({ code: 'file.unknown', id: file });
  const [kept] = await query<{ columns: PriceMapping }>(db, `SELECT columns FROM price_list WHERE supplier_id = ?`, [supplier]);
  return askHelper<Look>(
    'priceList',
    { database: addressOf(db), file, remembered: kept?.columns ?? {} },
    { what: `Reading ${upload.name}` },
  );
}

/** Looks at a sheet as at a price list; the helper's part of `readColumns`. */
export function lookAtPriceList(sheet: Sheet, kept: PriceMapping): Look {
  const titles = Object.values(kept).filter((title) => title !== undefined);
  const remembered = titles.length > 0 && titles.every((title) => sheet.header.includes(title));
  const mapping = remembered ? kept : proposeMapping(sheet.header);
  return {
    header: [...sheet.header],
    sample: sheet.rows.slice(0, 5).map((r) => [...r.cells]),
    rows: sheet.rows.length,
    mapping,
    remembered,
    unclear: unclearIn(sheet, mapping),
  };
}

export type PriceInput = {
  supplier: number;
  file: number;
  mapping: PriceMapping;
  holdsFrom: string;
  /** How amounts are written, where the sheet does not show it and a person said. */
  decimal?: DecimalMark;
  apply?: boolean;
};
// How the columns of amounts are written. What one of them shows holds for the other too: a list is written by one hand.
function marksOf(
  rows: SheetRows,
  at: (field: 'cost' | 'price') => number,
  said: DecimalMark | null,
): PriceAmounts & { unclear: string | null } {
  const judge = (field: 'cost' | 'price'): AmountColumn => judgeAmounts(rows.map((r) => r.cells[at(field)] ?? ''));
  const [cost, price] = [judge('cost'), judge('price')];
  const shown = cost.decimal ?? price.decimal ?? said;
  return {
    cost: cost.decimal ?? shown,
    price: price.decimal ?? shown,
    unclear: shown === null ? (cost.unclear ?? price.unclear) : null,
  };
}

function unclearIn(sheet: Sheet, mapping: PriceMapping): string | null {
  const at = (field: 'cost' | 'price'): number => sheet.header.indexOf(mapping[field] ?? '\u0000');
  return marksOf(sheet.rows, at, null).unclear;
}

type Known = Omit<KnownPriceRow, 'packUnits'> & { packUnits: string; partNo: string };
type Judged = { verdicts: PriceVerdict[]; rows: PriceRow[]; gone: string[] };

/** Imports a supplier's price list (B7): what is new, changed and gone. Costs and prices of stocked items get a new amount that holds from
 *  the list's day. */
export function importPrices(context: JobContext<PriceInput>): Promise<{ state: 'checked' | 'done'; result: unknown }> {
  const { input, person } = context.job;
  return importSheet<Judged>(context, {
    locate: (sheet) => locate(sheet, input.mapping),
    lock: async (trx) => {
      await lockPriceList(trx, input.supplier);
    },
    judge: async (db, at, rows, progress) => {
      const known = await query<Known>(
        db,
        `SELECT part_no AS "partNo", description, barcode, cost::text, price::text, pack_units AS "packUnits",
           gone_at IS NOT NULL AS gone
         FROM price_row
         WHERE supplier_id = ?`,
        [input.supplier],
      );
      const owners = await selectBarcodeOwners(db, input.supplier);
      const marks = marksOf(rows, (field) => at.get(field) ?? -1, input.decimal ?? null);
      if (marks.unclear !== null)
        throw new SheetFault(
          `“${marks.unclear}” can be read as ${readAmount(marks.unclear, '.')} or as ${readAmount(marks.unclear, ',')}, and nothing ` +
            `in the list shows which. Say how it writes decimals and send it again.`,
        );
      const before = new Map(known.map((k) => [k.partNo, { ...k, packUnits: asQty(k.packUnits) }]));
      return judgeList(rows, at, marks, before, owners, progress);
    },
    write: async (trx, judged, file, progress) => {
      await upsertPriceRows(trx, input, judged, progress);
      const stocked = await carryToItems(trx, { ...input, person, source: file });
      await updatePriceList(trx, input.supplier, { mapping: input.mapping, file, rows: judged.rows.length });
      announce(trx, 'items');
      return stocked;
    },
    // What is as it was needs no line of its own: of 50,000 rows a person wants to see the few that are not.
    keep: (v) => v.verdict !== 'same',
  });
}

function locate(sheet: Sheet, mapping: PriceMapping): ReadonlyMap<string, number> {
  const at = new Map<string, number>();
  for (const field of PRICE_FIELDS) {
    const title = mapping[field.key];
    const index = title === undefined ? -1 : sheet.header.indexOf(title);
    if (index >= 0) at.set(field.key, index);
    else if (field.required)
      throw new SheetFault(
        `The list has no column for ${field.title.toLowerCase()}. Its columns are: ${sheet.header.filter(Boolean).join(', ')}.`,
      );
  }
  return at;
}

// Barcodes that items have, with the item's code and this supplier's part number for it.
async function selectBarcodeOwners(db: Reads, supplier: number): Promise<ReadonlyMap<string, { item: string; partNo: string | null }>> {
  const rows = await query<{ gtin: string; item: string; partNo: string | null }>(
    db,
    `SELECT c.gtin, i.code AS item, x.part_no AS "partNo"
     FROM barcode c
     JOIN item i ON i.id = c.item_id
     LEFT JOIN item_supplier x ON x.item_id = i.id AND x.supplier_id = ?
     WHERE c.gtin IS NOT NULL`,
    [supplier],
  );
  return new Map(rows.map((r) => [r.gtin, r]));
}

async function judgeList(
  sheetRows: SheetRows,
  at: ReadonlyMap<string, number>,
  marks: PriceAmounts,
  known: ReadonlyMap<string, KnownPriceRow & { partNo: string }>,
  owners: ReadonlyMap<string, { item: string; partNo: string | null }>,
  progress: (done: number) => Promise<void>,
): Promise<Judged> {
  const verdicts: PriceVerdict[] = [];
  const rows: PriceRow[] = [];
  const seen = new Map<string, number>();
  const barcodes = new Map<string, number>();
  for (const [n, { row, cells }] of sheetRows.entries()) {
    if (n % 2000 === 0) await progress(n);
    const read = readPriceRow((field) => cells[at.get(field) ?? -1] ?? '', marks);
    const fault = (says: string, name: string): void => void verdicts.push({ row, verdict: 'fault', name, says });
    if (typeof read === 'string') {
      fault(read, cells[at.get('partNo') ?? -1] ?? '');
      continue;
    }
    const owner = read.gtin === null ? undefined : owners.get(read.gtin);
    if (seen.has(read.partNo)) fault(`Part number ${read.partNo} stands in row ${seen.get(read.partNo)} too.`, read.partNo);
    else if (read.gtin !== null && barcodes.has(read.gtin))
      fault(`Barcode ${read.barcode} stands in row ${barcodes.get(read.gtin)} too.`, read.partNo);
    else if (owner && owner.partNo !== null && owner.partNo !== '' && owner.partNo !== read.partNo)
      fault(
        `Barcode ${read.barcode} already belongs to ${owner.item}, which is part number ${owner.partNo} of this supplier.`,
        read.partNo,
      );
    else {
      rows.push(read);
      verdicts.push(judgePriceRow(row, read, known.get(read.partNo)));
    }
    if (!seen.has(read.partNo)) seen.set(read.partNo, row);
    if (read.gtin !== null && !barcodes.has(read.gtin)) barcodes.set(read.gtin, row);
  }
  const gone = [...known.values()].filter((k) => !k.gone && !seen.has(k.partNo)).map((k) => k.partNo);
  const last = sheetRows.at(-1)?.row ?? 1;
  gone.forEach((partNo, i) => verdicts.push({ row: last + 1 + i, verdict: 'gone', name: partNo, says: 'No longer on the list.' }));
  return { verdicts, rows, gone };
}
