import { createHash } from 'node:crypto';
import type { Writable } from 'node:stream';
import type pg from 'pg';
import type { Db, Trx } from './database.ts';

/** How many texts are prepared: each connection keeps its plans of them. The house has some hundreds of texts; what a search puts together
 *  beyond that is planned each time. */
const MOST_PREPARED = 1000;
type Statement = { readonly text: string; readonly places: number; readonly name: string | undefined };
const prepared = new Map<string, Statement>();

/** A text as PostgreSQL takes it, and the name under which a connection keeps its plan. Without values it may be several statements, or change
 *  the very shape that a kept plan answers with: then it is planned each time. */
function statementOf(text: string): Statement {
  const known = prepared.get(text);
  if (known) return known;
  let places = 0;
  const numbered = text.replace(/\\\?|\?/g, (mark) => (mark === '?' ? `$${(places += 1)}` : '?'));
  const isKept = places > 0 && prepared.size < MOST_PREPARED;
  const statement = { text: numbered, places, name: isKept ? createHash('sha1').update(text).digest('hex') : undefined };
  if (isKept) prepared.set(text, statement);
  return statement;
}

/** A connection of the driver, and the line to the database below it. */
type Sender = pg.Client & { readonly connection: { readonly stream: Writable } };
const senders = new WeakMap<object, Sender>();

/** The connection that a transaction holds. */
async function senderOf(trx: Trx): Promise<Sender> {
  const sender = await (trx.client as { acquireConnection(): Promise<Sender> }).acquireConnection();
  senders.set(trx, sender);
  return sender;
}

/** Runs one statement with bound values and returns its rows. The caller names the shape of a row: it is the store that knows its SQL.
 *  The statement is prepared: planning costs more than running where one command judges many facts at once.
 *  In a transaction, statements that are asked for together (`Promise.all`) go to the database in one packet and are done in that order, each
 *  seeing what those before it did and waited for: a command's time is mostly the ways there and back.
 *  Shape:  `?` stands for each value in order, `\?` for a question mark; an array is bound as a PostgreSQL array.
 *  Errors: throws where there are more or fewer values than places, and where the transaction has ended. */
export async function query<Row>(db: Pick<Db, 'raw'>, text: string, values: readonly unknown[] = []): Promise<Row[]> {
  const statement = statementOf(text);
  if (statement.places !== values.length) throw new Error(`${statement.places} places and ${values.length} values: ${text}`);
  const trx = db as Trx;
  if (!trx.isTransaction) {
    const asked = db.raw(text, values as never);
    return ((await (statement.name ? asked.options({ name: statement.name }) : asked)) as { rows: Row[] }).rows;
  }
  const sender = senders.get(trx) ?? (await senderOf(trx));
  if (trx.isCompleted()) {
    // Where it ended of itself, because its connection is gone, that is what is said.
    await trx.executionPromise;
    throw new Error(`The transaction has ended: ${text}`);
  }
  // What is asked for before the program waits for anything goes in one packet.
  const { stream } = sender.connection;
  stream.cork();
  process.nextTick(() => stream.uncork());
  return (await sender.query({ text: statement.text, values: values as unknown[], ...(statement.name ? { name: statement.name } : {}) }))
    .rows as Row[];
}
