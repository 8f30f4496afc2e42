import type { Db } from './database.ts';

/** Runs one statement with bound values and returns its rows. The caller names the shape of a row: it is the store that knows its SQL.
 *  Shape:  `?` stands for each value in order; an array is bound as a PostgreSQL array. */
export async function query<Row>(db: Pick<Db, 'raw'>, text: string, values: readonly unknown[] = []): Promise<Row[]> {
  const result = (await db.raw(text, values as never)) as { rows: Row[] };
  return result.rows;
}
