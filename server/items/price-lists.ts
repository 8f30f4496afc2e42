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
  dbQty,
  importSheet,
  query,
  refuse,
  SheetFault,
  type Db,
  type JobContext,
  type Sheet,
  type SheetRows,
  type Trx,
} from '#server/kernel';

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
      await query(trx, `INSERT INTO price_list (supplier_id) VALUES (?) ON CONFLICT DO NOTHING`, [input.supplier]);
      await query(trx, `SELECT 1 FROM price_list WHERE supplier_id = ? FOR UPDATE`, [input.supplier]);
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
          `“${marks.unclear}” can be read as ${readAmount(marks.unclear, '.')} or as ${readAmount(marks.unclear, ',')}, and nothing in the list shows which. Say how it writes decimals and send it again.`,
        );
      const before = new Map(known.map((k) => [k.partNo, { ...k, packUnits: asQty(k.packUnits) }]));
      return judgeList(rows, at, marks, before, owners, progress);
    },
    write: async (trx, judged, file, progress) => {
      await writeRows(trx, input, judged, progress);
      const stocked = await carryToItems(trx, input, person, file);
      await query(trx, `UPDATE price_list SET columns = ?, imported_at = now_here(), file_name = ?, rows = ? WHERE supplier_id = ?`, [
        JSON.stringify(input.mapping),
        file,
        judged.rows.length,
        input.supplier,
      ]);
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

const BATCH = 5000;

async function writeRows(trx: Trx, input: PriceInput, judged: Judged, progress: (done: number) => Promise<void>): Promise<void> {
  for (let i = 0; i < judged.rows.length; i += BATCH) {
    const part = judged.rows.slice(i, i + BATCH);
    await query(
      trx,
      // Rows that say what they said before are not written again; of 50,000 that is most of them.
      `INSERT INTO price_row AS r (supplier_id, part_no, description, barcode, gtin, pack_units, cost, price, holds_from, words)
       SELECT ?, p, d, b, g, u, c, s, ?, search_words(concat_ws(' ', p, bare_code(p), d, b))
       FROM unnest(?::text[], ?::text[], ?::text[], ?::text[], ?::numeric[], ?::numeric[], ?::numeric[]) AS x(p, d, b, g, u, c, s)
       ON CONFLICT (supplier_id, part_no) DO UPDATE SET description = excluded.description, barcode = excluded.barcode,
         gtin = excluded.gtin, pack_units = excluded.pack_units, cost = excluded.cost, price = excluded.price,
         holds_from = excluded.holds_from, words = excluded.words, gone_at = NULL
       WHERE (r.description, r.barcode, r.pack_units, r.cost, r.price) IS DISTINCT FROM (excluded.description, excluded.barcode, excluded.pack_units, excluded.cost, excluded.price)
         OR r.gone_at IS NOT NULL`,
      [
        input.supplier,
        input.holdsFrom,
        part.map((r) => r.partNo),
        part.map((r) => r.description),
        part.map((r) => r.barcode),
        part.map((r) => r.gtin),
        part.map((r) => dbQty(r.packUnits)),
        part.map((r) => r.cost),
        part.map((r) => r.price),
      ],
    );
    await progress(Math.min(judged.rows.length, i + BATCH));
  }
  await query(trx, `UPDATE price_row SET gone_at = now_here() WHERE supplier_id = ? AND part_no = ANY(?::text[])`, [
    input.supplier,
    judged.gone,
  ]);
  await query(trx, `SELECT settle_index('price_row_by_words')`);
  await query(trx, `INSERT INTO search_word SELECT DISTINCT w FROM unnest(?::text[]) d, spelled_words(d) w ON CONFLICT DO NOTHING`, [
    judged.rows.map((r) => r.description),
  ]);
}

// What is on the list and stocked: by this supplier's part number, else by barcode. Costs are listed per pack, kept per base unit.
async function carryToItems(
  trx: Trx,
  input: PriceInput,
  person: number,
  file: string,
): Promise<{ stocked: number; costs: number; prices: number }> {
  // Only rows that found their item are written: writing the others again would cost as much as the whole import.
  await query(
    trx,
    `UPDATE price_row r SET item_id = found.item_id FROM (
       SELECT p.id, coalesce(x.item_id, c.item_id) AS item_id
       FROM price_row p
       LEFT JOIN item_supplier x ON x.supplier_id = p.supplier_id AND upper(x.part_no) = upper(p.part_no)
       LEFT JOIN barcode c ON c.gtin = p.gtin
       WHERE p.supplier_id = ? AND p.gone_at IS NULL AND p.item_id IS NULL
         AND coalesce(x.item_id, c.item_id) IS NOT NULL) found WHERE found.id = r.id`,
    [input.supplier],
  );
  const amounts = (kind: 'cost' | 'price', amount: string): Promise<unknown[]> =>
    query(
      trx,
      `INSERT INTO item_amount (item_id, kind, amount, holds_from, person_id, source)
       SELECT r.item_id, '${kind}', max(${amount}), ?, ?, ?
       FROM price_row r
       WHERE r.supplier_id = ? AND r.item_id IS NOT NULL AND r.gone_at IS NULL AND ${amount} IS NOT NULL
       GROUP BY r.item_id HAVING max(${amount}) <> amount_on(r.item_id, '${kind}', ?::date) RETURNING 1`,
      [input.holdsFrom, person, file, input.supplier, input.holdsFrom],
    );
  const costs = await amounts('cost', 'round(r.cost / r.pack_units, 4)');
  const prices = await amounts('price', 'r.price');
  await query(
    trx,
    `UPDATE item_supplier x SET cost = round(r.cost / r.pack_units, 4) FROM price_row r WHERE r.supplier_id = ? AND x.supplier_id = r.supplier_id AND x.item_id = r.item_id AND r.gone_at IS NULL`,
    [input.supplier],
  );
  const [row] = await query<{ n: number }>(
    trx,
    `SELECT count(*) AS n FROM price_row WHERE supplier_id = ? AND item_id IS NOT NULL AND gone_at IS NULL`,
    [input.supplier],
  );
  return { stocked: row?.n ?? 0, costs: costs.length, prices: prices.length };
}
