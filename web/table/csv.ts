import Papa from 'papaparse';
import type { Column } from './column.ts';

// What begins like a formula, and is no number, is written with an apostrophe before it: spreadsheets must show it, not run it.
const FORMULA = /^(?!-?\d+(\.\d+)?$)[=+\-@\t\r]/;

/** Rows as CSV (RFC 4180), their columns as they are seen. */
export const csvOf = <Row>(columns: readonly Pick<Column<Row>, 'title' | 'value'>[], rows: readonly Row[]): string =>
  Papa.unparse(
    { fields: columns.map((c) => c.title), data: rows.map((row) => columns.map((c) => c.value(row))) },
    { escapeFormulae: FORMULA },
  );
