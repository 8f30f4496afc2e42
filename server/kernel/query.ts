import { createHash } from 'node:crypto';
import type { Db } from './database.ts';

/** How many texts are prepared: each connection keeps its plans of them. The house has some hundreds of texts; what a search puts together
 *  beyond that is planned each time. */
const MOST_PREPARED = 1000;
const prepared = new Map<string, string>();

/** The name under which a connection keeps the plan of a text, or null where the text is planned each time. Without values the text may be
 *  several statements, or change the very shape that a kept plan answers with. */
function nameOf(text: string, values: readonly unknown[]): string | null {
  if (values.length === 0) return null;
  const known = prepared.get(text);
  if (known !== undefined || prepared.size >= MOST_PREPARED) return known ?? null;
  const name = createHash('sha1').update(text).digest('hex');
  prepared.set(text, name);
  return name;
}

/** Runs one statement with bound values and returns its rows. The caller names the shape of a row: it is the store that knows its SQL.
 *  The statement is prepared: planning costs more than running where one command judges many facts at once.
 *  Shape:  `?` stands for each value in order; an array is bound as a PostgreSQL array. */
export async function query<Row>(db: Pick<Db, 'raw'>, text: string, values: readonly unknown[] = []): Promise<Row[]> {
  const asked = db.raw(text, values as never);
  const name = nameOf(text, values);
  const result = (await (name === null ? asked : asked.options({ name }))) as { rows: Row[] };
  return result.rows;
}
