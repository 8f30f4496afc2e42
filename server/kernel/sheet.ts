import type { Writable } from 'node:stream';
import ExcelJS from 'exceljs';
import Papa from 'papaparse';

/** A table as people send it: texts by row, the header apart. */
export type Sheet = {
  readonly header: readonly string[];
  readonly rows: readonly { readonly row: number; readonly cells: readonly string[] }[];
};
export type SheetColumn<Row> = { readonly title: string; readonly width?: number; readonly of: (row: Row) => string | number | null };

/** Why a file cannot be read as a table; the message is a sentence for the person who sent it. */
export class SheetFault extends Error {}

export const MOST_ROWS = 200_000;

/** Reads a CSV or XLSX file as texts.
 *  Shape:  the first row that is not empty is the header; empty rows are passed over but counted, so that row numbers are those on screen.
 *  Errors: `SheetFault` for an empty file, one that is neither, or one with too many rows.
 *  A text that was written with a guard against formulas (see `guarded`) comes back without it. */
export async function readSheet(bytes: Buffer, name: string): Promise<Sheet> {
  if (bytes.length === 0) throw new SheetFault(`${name} is empty.`);
  const isZip = bytes.subarray(0, 2).toString('latin1') === 'PK';
  if (!isZip && bytes.subarray(0, 4096).includes(0)) throw new SheetFault(`${name} is neither CSV nor XLSX.`);
  const table = isZip ? await readXlsx(bytes, name) : readCsv(bytes, name);
  const at = table.findIndex((cells) => cells.some((c) => c !== ''));
  if (at === -1) throw new SheetFault(`${name} is empty.`);
  const rows = table
    .map((cells, i) => ({ row: i + 1, cells: cells.map(unguarded) }))
    .filter((r, i) => i > at && r.cells.some((c) => c !== ''));
  if (rows.length === 0) throw new SheetFault(`${name} has a header but no rows below it.`);
  if (rows.length > MOST_ROWS) throw new SheetFault(`${name} has ${rows.length} rows; at most ${MOST_ROWS} are read at once.`);
  return { header: (table[at] ?? []).map((c) => c.trim()), rows };
}

function readCsv(bytes: Buffer, name: string): string[][] {
  // Sheets from older programs come in the Western code page: not valid UTF-8 then.
  let text: string;
  try {
    text = new TextDecoder('utf-8', { fatal: true }).decode(bytes);
  } catch {
    text = new TextDecoder('windows-1252').decode(bytes);
  }
  const parsed = Papa.parse<string[]>(text.replace(/^\uFEFF/, ''), { skipEmptyLines: false, delimitersToGuess: [',', ';', '\t', '|'] });
  const broken = parsed.errors.find((e) => e.type === 'Quotes');
  if (broken) throw new SheetFault(`${name}, row ${(broken.row ?? 0) + 1}: a quotation mark is opened and never closed.`);
  return parsed.data.map((cells) => cells.map((c) => c.trim()));
}

async function readXlsx(bytes: Buffer, name: string): Promise<string[][]> {
  const book = new ExcelJS.Workbook();
  try {
    await book.xlsx.load(bytes as never, { ignoreNodes: ['dataValidations', 'conditionalFormatting', 'drawing', 'picture', 'hyperlinks'] });
  } catch {
    throw new SheetFault(`${name} looks like XLSX but cannot be opened; it may be damaged or protected.`);
  }
  const page = book.worksheets[0];
  if (!page) throw new SheetFault(`${name} has no page.`);
  const table: string[][] = [];
  page.eachRow({ includeEmpty: true }, (row) => {
    const cells: string[] = [];
    for (let c = 1; c <= row.cellCount; c += 1) cells.push(cellText(row.getCell(c).value).trim());
    table.push(cells);
  });
  return table;
}

// Of a formula the value that was last reckoned is read, never the formula.
function cellText(value: ExcelJS.CellValue | undefined): string {
  if (value === null || value === undefined) return '';
  if (value instanceof Date) return value.toISOString().slice(0, 10);
  // Fifteen digits are what a number holds for certain; what stands behind them is noise (3.3000000000000003).
  if (typeof value === 'number') return String(Number(value.toPrecision(15)));
  if (typeof value !== 'object') return String(value);
  if ('richText' in value) return value.richText.map((t) => t.text).join('');
  if ('result' in value) return cellText(value.result as ExcelJS.CellValue);
  if ('text' in value) return String(value.text);
  return '';
}

// A cell that begins like this is run by spreadsheet programs when the file is opened. Source: OWASP, "CSV Injection".
const RISKY = /^[=+\-@\t\r]/;
const guarded = (value: string | number | null): string | number =>
  typeof value === 'string' && RISKY.test(value) ? `'${value}` : (value ?? '');
const unguarded = (text: string): string => (text.startsWith("'") && RISKY.test(text.slice(1)) ? text.slice(1) : text);

/** Writes rows as CSV (RFC 4180, UTF-8 with its mark), texts that a spreadsheet would run made harmless. */
export function writeCsv<Row>(columns: readonly SheetColumn<Row>[], rows: readonly Row[]): Buffer {
  const table = [columns.map((c) => c.title), ...rows.map((row) => columns.map((c) => guarded(c.of(row))))];
  return Buffer.from(`\uFEFF${Papa.unparse(table, { newline: '\r\n' })}\r\n`, 'utf8');
}

const ROWS_AT_A_TIME = 500;

/** Writes rows as XLSX: one page, the header fixed in sight. Row by row, with room for scans in between: zipping 20,000 rows takes a second. */
export async function writeXlsx<Row>(columns: readonly SheetColumn<Row>[], rows: readonly Row[], to: Writable): Promise<void> {
  const book = new ExcelJS.stream.xlsx.WorkbookWriter({ stream: to, useStyles: true });
  const page = book.addWorksheet('Dock Row', { views: [{ state: 'frozen', ySplit: 1 }] });
  page.columns = columns.map((c) => ({ header: c.title, width: c.width ?? 14 }));
  page.getRow(1).font = { bold: true };
  for (const [i, row] of rows.entries()) {
    page.addRow(columns.map((c) => guarded(c.of(row)))).commit();
    if (i % ROWS_AT_A_TIME === 0) await new Promise((resolve) => setImmediate(resolve));
  }
  page.commit();
  await book.commit();
}
