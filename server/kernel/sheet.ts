import type { Writable } from 'node:stream';
import ExcelJS from 'exceljs';
import Papa from 'papaparse';
import yauzl from 'yauzl';
import { SheetFault } from './sheet-fault.ts';

/** A table as people send it: texts by row, the header apart. */
export type Sheet = {
  readonly header: readonly string[];
  readonly rows: readonly { readonly row: number; readonly cells: readonly string[] }[];
};
export type SheetColumn<Row> = { readonly title: string; readonly width?: number; readonly of: (row: Row) => string | number | null };

export const MOST_ROWS = 200_000;
/** No list of goods or bins has more columns than this; a sheet that has is no list. */
export const MOST_COLUMNS = 300;
export const MOST_CELLS = 5_000_000;
/** What a packed sheet may come to when it is unpacked, in bytes. */
export const MOST_UNPACKED = 300_000_000;
const MOST_PARTS = 2000;

/** Reads a CSV or XLSX file as texts. In a helper, never in the server itself: see `readSheetOf`.
 *  Shape:  the first row that is not empty is the header; empty rows are passed over but counted, so that row numbers are those on screen.
 *  Errors: `SheetFault` for an empty file, one that is neither, or one with too many rows, columns or cells, or too large when unpacked.
 *  A text that was written with a guard against formulas (see `guarded`) comes back without it. */
export async function parseSheet(bytes: Buffer, name: string): Promise<Sheet> {
  if (bytes.length === 0) throw new SheetFault(`${name} is empty.`);
  const isZip = bytes.subarray(0, 2).toString('latin1') === 'PK';
  if (!isZip && bytes.subarray(0, 4096).includes(0)) throw new SheetFault(`${name} is neither CSV nor XLSX.`);
  const [head, ...rows] = isZip ? await readXlsx(bytes, name) : readCsv(bytes, name);
  if (!head) throw new SheetFault(`${name} is empty.`);
  if (rows.length === 0) throw new SheetFault(`${name} has a header but no rows below it.`);
  return { header: head.cells, rows: rows.map(({ row, cells }) => ({ row, cells: cells.map(unguarded) })) };
}

type Row = { row: number; cells: string[] };

/** Takes the rows of a table that are not empty, and says where it is too large before it is held. */
class RowTaker {
  readonly rows: Row[] = [];
  private cells = 0;
  private readonly name: string;
  constructor(name: string) {
    this.name = name;
  }
  take(row: number, cells: string[]): void {
    while (cells.length > 0 && cells.at(-1) === '') cells.pop();
    if (cells.length === 0) return;
    this.cells += cells.length;
    if (cells.length > MOST_COLUMNS)
      throw new SheetFault(`${this.name}, row ${row}: it has ${cells.length} columns; at most ${MOST_COLUMNS} are read.`);
    if (this.rows.length > MOST_ROWS) throw new SheetFault(`${this.name} has more than ${MOST_ROWS} rows; that many are read at once.`);
    if (this.cells > MOST_CELLS) throw new SheetFault(`${this.name} has more than ${MOST_CELLS} cells; that many are read at once.`);
    this.rows.push({ row, cells });
  }
}

function readCsv(bytes: Buffer, name: string): Row[] {
  // Sheets from older programs come in the Western code page: not valid UTF-8 then.
  let text: string;
  try {
    text = new TextDecoder('utf-8', { fatal: true }).decode(bytes);
  } catch {
    text = new TextDecoder('windows-1252').decode(bytes);
  }
  const taker = new RowTaker(name);
  let row = 0;
  Papa.parse<string[]>(text.replace(/^\uFEFF/, ''), {
    skipEmptyLines: false,
    delimitersToGuess: [',', ';', '\t', '|'],
    step: ({ data, errors }) => {
      row += 1;
      if (errors.some((e) => e.type === 'Quotes'))
        throw new SheetFault(`${name}, row ${row}: a quotation mark is opened and never closed.`);
      taker.take(
        row,
        data.map((c) => c.trim()),
      );
    },
  });
  return taker.rows;
}

async function readXlsx(bytes: Buffer, name: string): Promise<Row[]> {
  await refuseBombs(bytes, name);
  const book = new ExcelJS.Workbook();
  try {
    await book.xlsx.load(bytes as never, {
      // Merged cells would be made one by one: 16 thousand million of them take a line of the file.
      ignoreNodes: ['dataValidations', 'conditionalFormatting', 'drawing', 'picture', 'hyperlinks', 'mergeCells', 'tableParts'],
    });
  } catch {
    throw new SheetFault(`${name} looks like XLSX but cannot be opened; it may be damaged or protected.`);
  }
  const page = book.worksheets[0];
  if (!page) throw new SheetFault(`${name} has no page.`);
  const taker = new RowTaker(name);
  page.eachRow({ includeEmpty: false }, (row, number) => {
    if (row.actualCellCount > MOST_COLUMNS)
      throw new SheetFault(`${name}, row ${number}: it has ${row.actualCellCount} columns; at most ${MOST_COLUMNS} are read.`);
    const cells: string[] = [];
    row.eachCell({ includeEmpty: false }, (cell, column) => {
      const text = cellText(cell.value).trim();
      if (text === '') return;
      if (column > MOST_COLUMNS)
        throw new SheetFault(`${name}, row ${number}: it uses column ${column}; at most ${MOST_COLUMNS} are read.`);
      while (cells.length < column - 1) cells.push('');
      cells.push(text);
    });
    taker.take(number, cells);
  });
  return taker.rows;
}

// Unpacks every part once without keeping it: what a file says of its own size is not believed.
async function refuseBombs(bytes: Buffer, name: string): Promise<void> {
  const damaged = new SheetFault(`${name} looks like XLSX but cannot be opened; it may be damaged or protected.`);
  const tooLarge = new SheetFault(
    `${name} comes to more than ${Math.round(MOST_UNPACKED / 1_000_000)} MB when it is unpacked; it is not read.`,
  );
  const zip = await yauzl.fromBufferPromise(bytes).catch(() => Promise.reject(damaged));
  if (zip.entryCount > MOST_PARTS) throw tooLarge;
  let unpacked = 0;
  for await (const entry of zip.eachEntry()) {
    if (entry.uncompressedSize > MOST_UNPACKED) throw tooLarge;
    const stream = await zip.openReadStreamPromise(entry).catch(() => Promise.reject(damaged));
    try {
      for await (const part of stream) {
        unpacked += (part as Buffer).length;
        if (unpacked > MOST_UNPACKED) throw tooLarge;
      }
    } catch (error) {
      throw error === tooLarge ? tooLarge : damaged;
    }
  }
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

/** Writes rows as XLSX: one page, the header fixed in sight. Row by row, with room for scans in between: zipping 20,000 rows takes a
 *  second. */
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
