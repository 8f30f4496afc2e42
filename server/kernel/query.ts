import { createHash } from 'node:crypto';
import pg from 'pg';
import { packed, type Db, type Sender, type Trx } from './database.ts';

/** How many texts are prepared: each connection keeps its plans of them. The house has some hundreds of texts; what a search puts together
 *  beyond that is planned each time. */
const MOST_PREPARED = 1000;
type Statement = { readonly text: string; readonly places: number; readonly name: string | undefined };
const prepared = new Map<string, Statement>();

/** A text as PostgreSQL takes it, and the name under which a connection keeps its plan. Without values it may be several statements, or
 *  change the very shape that a kept plan answers with: then it is planned each time. */
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

const senders = new WeakMap<object, Sender>();

type Pool = { acquireConnection(): Promise<Sender>; releaseConnection(sender: Sender): Promise<void> };

/** The connection that a transaction holds. */
async function senderOf(trx: Trx): Promise<Sender> {
  const sender = await (trx.client as Pool).acquireConnection();
  senders.set(trx, sender);
  return sender;
}

// What is used of the driver's bare connection, of which it tells no types.
type Canceller = {
  on(event: 'connect' | 'end' | 'error', listener: () => void): void;
  connect(portOrPath: number | string, host?: string): void;
  cancel(processID: number, secretKey: number): void;
};
/** What one request reads: the connections on which its statements are under way. */
type Reading = { readonly pool: Db; readonly senders: Set<Sender>; isLeft: boolean; broken: Promise<unknown> };
const readings = new WeakMap<object, Reading>();

/** Nobody waits any more for what is read. */
export class NobodyWaits extends Error {}

/** The pool, as one request reads by it. `leave`: nobody waits for the answer any more; what is under way is broken off, and nothing more
 *  is begun (`NobodyWaits`). For reads alone: what a command does is done to its end. */
export function readingOf(pool: Db): { readonly db: Db; leave(): void } {
  const db = Object.create(pool) as Db;
  const reading: Reading = { pool, senders: new Set(), isLeft: false, broken: Promise.resolve() };
  readings.set(db, reading);
  return {
    db,
    leave: () => {
      reading.isLeft = true;
      reading.broken = Promise.all([...reading.senders].map(breakOff));
    },
  };
}

// By a connection of its own: where reads hold all of the pool's, none of those would be free to break one off.
// Source: PostgreSQL's documentation, "Frontend/Backend Protocol", Canceling Requests in Progress.
function breakOff(sender: Sender): Promise<void> {
  return new Promise((resolve) => {
    const line = new pg.Connection() as unknown as Canceller;
    line.on('connect', () => line.cancel(sender.processID, sender.secretKey));
    // The server closes it when it has done so.
    line.on('end', resolve);
    line.on('error', resolve);
    if (sender.host.startsWith('/')) line.connect(`${sender.host}/.s.PGSQL.${sender.port}`);
    else line.connect(sender.port, sender.host);
  });
}

/** The pool behind what a request reads by: what is reckoned for all belongs to no request. */
export const poolOf = (db: Db): Db => readings.get(db)?.pool ?? db;

/** Runs one statement with bound values and returns its rows. The caller names the shape of a row: it is the store that knows its SQL.
 *  The statement is prepared: planning costs more than running where one command judges many facts at once.
 *  In a transaction, statements that are asked for `together` go to the database in one packet and are done in that order, each
 *  seeing what those before it did and waited for: a command's time is mostly the ways there and back.
 *  Shape:  `?` stands for each value in order, `\?` for a question mark; an array is bound as a PostgreSQL array.
 *  Errors: throws where there are more or fewer values than places, and where the transaction has ended. */
export async function query<Row>(db: Pick<Db, 'raw'>, text: string, values: readonly unknown[] = []): Promise<Row[]> {
  const statement = statementOf(text);
  if (statement.places !== values.length) throw new Error(`${statement.places} places and ${values.length} values: ${text}`);
  const trx = db as Trx;
  if (!trx.isTransaction) {
    const pool = trx.client as Pool;
    const reading = readings.get(db);
    const sender = await pool.acquireConnection();
    try {
      if (reading?.isLeft) throw new NobodyWaits();
      reading?.senders.add(sender);
      return await send<Row>(sender, statement, values);
    } finally {
      reading?.senders.delete(sender);
      // Whoever has the connection next is not to be broken off in the place of this.
      await reading?.broken;
      await pool.releaseConnection(sender);
    }
  }
  const sender = senders.get(trx) ?? (await senderOf(trx));
  if (trx.isCompleted()) {
    // Where it ended of itself, because its connection is gone, that is what is said.
    await trx.executionPromise;
    throw new Error(`The transaction has ended: ${text}`);
  }
  return packed(sender, () => send<Row>(sender, statement, values));
}

/** The same for a statement that answers with one row whatever it finds, like an insert that returns what it made.
 *  Errors: throws where no row comes: then the statement is not of that kind. */
export async function queryOne<Row>(db: Pick<Db, 'raw'>, text: string, values: readonly unknown[] = []): Promise<Row> {
  const [row] = await query<Row>(db, text, values);
  if (row === undefined) throw new Error(`No row came where one always does: ${text}`);
  return row;
}

// What the driver's query has, of which it tells no types.
type Asked = pg.Query & { name: string | undefined; callback: (error: Error | null, result: pg.QueryResult) => void };

// Asked in the driver's own terms: what it is given as an object it copies property by property, for each statement anew.
async function send<Row>(sender: Sender, { text, name }: Statement, values: readonly unknown[]): Promise<Row[]> {
  try {
    return await new Promise<Row[]>((resolve, reject) => {
      const asked = new pg.Query(text, values as unknown[]) as Asked;
      asked.name = name;
      asked.callback = (error, result) => (error ? reject(error) : resolve(result.rows as Row[]));
      sender.query(asked);
    });
  } catch (error) {
    // Who asked, and not where the driver read the answer.
    Error.captureStackTrace(error as Error);
    throw error;
  }
}

const ABORTED = '25P02';
type Settled<T extends readonly unknown[]> = { -readonly [K in keyof T]: Awaited<T[K]> };

/** Waits for statements of one transaction that were asked for at once, so that they go there in one packet, in their order.
 *  Errors: what the first of them in that order throws, and only when all have ended: nothing of a transaction goes on behind its end, and
 *          what stood before is said before. */
export async function together<const T extends readonly unknown[]>(asked: T): Promise<Settled<T>> {
  const settled = await Promise.allSettled(asked);
  const faults = settled.filter((s) => s.status === 'rejected').map((s) => s.reason as { code?: string });
  // What only failed because another had failed before says nothing.
  if (faults.length > 0) throw (faults.find((f) => f.code !== ABORTED) ?? faults[0]) as unknown as Error;
  return settled.map((s) => (s as PromiseFulfilledResult<unknown>).value) as Settled<T>;
}
