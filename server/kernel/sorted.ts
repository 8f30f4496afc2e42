import type { Db } from './database.ts';
import { keysetOf, keysetText } from './keyset.ts';
import { query } from './query.ts';

/** By what a list can be ordered: SQL over its rows that is never null, and of what kind that is. */
export type SortKey = { readonly sql: string; readonly kind: 'text' | 'decimal' | 'moment' };
/** A column by its name, with a minus for the other way round. */
export type SortBy<Id extends string> = Id | `-${Id}`;

const TYPES: Readonly<Record<SortKey['kind'], string>> = { text: 'text', decimal: 'numeric', moment: 'timestamptz' };

/** Reads a page of a list in an order that somebody chose, over the whole list and not only what is loaded of it. Rows that are equal in
 *  that order stand in the order of `id`, so that none is left out or comes twice between two pages.
 *  Shape:  `rows` is a SELECT, bound with `values`, that has the columns of `keys` and one named `id` that is of one row alone; `next` is
 *          where the next page begins, null at the end.
 *  Errors: `request.fields` for an `after` that is no place in a list of that order.
 *  Source: keyset pagination by row comparison, PostgreSQL's documentation, "Row and Array Comparisons". */
export async function selectSorted<Row extends { id: number | string }, Id extends string>(
  db: Pick<Db, 'raw'>,
  of: {
    rows: string;
    values: readonly unknown[];
    keys: Readonly<Record<Id, SortKey>>;
    by: SortBy<Id>;
    idKind?: 'number' | 'text';
    after: string | undefined;
    limit: number;
  },
): Promise<{ rows: Row[]; next: string | null }> {
  const isDown = of.by.startsWith('-');
  const { sql, kind } = of.keys[(isDown ? of.by.slice(1) : of.by) as Id];
  const idKind = of.idKind ?? 'number';
  const after = keysetOf(of.after, kind, idKind);
  const way = isDown ? 'DESC' : 'ASC';
  const found = await query<Row & { sort_key: string }>(
    db,
    `SELECT rows.*, (${sql})::text AS sort_key
     FROM (${of.rows}) rows
     ${after ? `WHERE (${sql}, id) ${isDown ? '<' : '>'} (?::${TYPES[kind]}, ?::${idKind === 'text' ? 'text' : 'bigint'})` : ''}
     ORDER BY ${sql} ${way}, id ${way}
     LIMIT ?`,
    [...of.values, ...(after ?? []), of.limit],
  );
  const last = found.at(-1);
  return {
    rows: found.map(({ sort_key: _, ...row }) => row as unknown as Row),
    next: last && found.length === of.limit ? keysetText([last.sort_key, last.id]) : null,
  };
}
