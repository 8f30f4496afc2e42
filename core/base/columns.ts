import { fail, ok, type Result } from './result.ts';

/** A column that a sheet may or must have. `names` are other titles under which people send it. */
export type WantedColumn = { readonly key: string; readonly title: string; readonly required: boolean; readonly names?: readonly string[] };
export type ColumnsFault = { code: 'sheet.columns'; missing: readonly string[]; unknown: readonly string[]; wanted: readonly string[] };

const plain = (title: string): string => title.toLowerCase().replace(/[^\p{L}\p{N}]+/gu, '');

/** Whether a title would be read as one of these columns. */
export function isColumnTitle(title: string, columns: readonly WantedColumn[]): boolean {
  return columns.some((w) => [w.title, ...(w.names ?? [])].some((name) => plain(name) === plain(title)));
}

/** Finds the columns of a sheet by their titles, in any order, whatever the case and punctuation.
 *  Shape:  key → index of the column.
 *  Errors: names the required ones that are missing, and the titles that mean nothing here: a column that would be passed over silently is
 *          a column that somebody filled in for nothing. */
export function findColumns(header: readonly string[], wanted: readonly WantedColumn[]): Result<ReadonlyMap<string, number>, ColumnsFault> {
  const found = new Map<string, number>();
  const unknown: string[] = [];
  for (const [i, title] of header.entries()) {
    const column = wanted.find((w) => isColumnTitle(title, [w]));
    if (column && !found.has(column.key)) found.set(column.key, i);
    else if (title !== '') unknown.push(title);
  }
  const missing = wanted.filter((w) => w.required && !found.has(w.key)).map((w) => w.title);
  if (missing.length > 0 || unknown.length > 0)
    return fail({ code: 'sheet.columns', missing, unknown, wanted: wanted.map((w) => w.title) });
  return ok(found);
}

/** The sentence for a sheet whose columns do not fit. */
export function columnsSentence(e: ColumnsFault): string {
  const missing = e.missing.length > 0 ? `The sheet lacks ${e.missing.map((m) => `“${m}”`).join(', ')}. ` : '';
  const unknown = e.unknown.length > 0 ? `Nothing here is called ${e.unknown.map((u) => `“${u}”`).join(', ')}. ` : '';
  return `${missing}${unknown}The columns are: ${e.wanted.join(', ')}.`;
}

/** Reads yes and no as people write them in sheets; null for anything else. Empty is no. */
export function readYesNo(text: string): boolean | null {
  if (/^(|no|n|0|false|-)$/i.test(text)) return false;
  if (/^(yes|y|1|true|x)$/i.test(text)) return true;
  return null;
}
