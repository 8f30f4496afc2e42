import { createHash } from 'node:crypto';
import { refuse } from './refusal.ts';
import { takeChanges, type Change } from './outbox.ts';
import { query, together } from './query.ts';
import { TOGETHER, type Db, type Trx } from './database.ts';

export type CommandStamp = {
  readonly key: string;
  readonly person: number | null;
  readonly route: string;
  readonly request: unknown;
  readonly site: number | null;
};

const TRIES = 4;
const isRetryable = (error: unknown): boolean => ['40P01', '40001'].includes((error as { code?: string }).code ?? '');

/** Does a command once, however often it is sent.
 *  The key, a hash of the request and the reply are written in the transaction of the work itself. A second sending waits for the first
 *  and gets its reply; a refusal rolls the key back with everything else, so that the same key may be tried again.
 *  What a second sending began is rolled back, whatever it came to (`underClaim`).
 *  Errors: `request.keyReused` where the key came with another request. A deadlock or serialisation failure is tried again. */
export async function runCommand<T>(db: Db, stamp: CommandStamp, work: (trx: Trx) => Promise<T>): Promise<{ reply: T; repeated: boolean }> {
  const hash = createHash('sha256')
    .update(JSON.stringify([stamp.route, stamp.person, stamp.request]))
    .digest('base64');
  return retrying(async () => {
    const done = await underClaim(db, {
      claim: async (trx) => (await query(trx, CLAIM, [stamp.key, stamp.person, stamp.route, hash])).length > 0,
      work,
      last: (trx, reply) => writeReply(trx, stamp, reply),
    });
    return done ? { reply: done.value, repeated: false } : { reply: await earlierReply<T>(db, stamp.key, hash), repeated: true };
  });
}

/** Does work once, in a transaction of its own, if it can be claimed: null, and nothing done, where the claim is another's.
 *  The claim goes in one packet with the transaction's beginning and the work's first statements, the last statement with its end: the ways
 *  there and back are most of what a scan waits for. The work is begun before it is known whose the claim is, so that it may touch nothing
 *  but its transaction.
 *  Errors: what the claim throws, then what the work throws; nothing is done then. */
export async function underClaim<T>(
  db: Db,
  of: { claim(trx: Trx): Promise<boolean>; work(trx: Trx): Promise<T>; last(trx: Trx, value: T): Promise<unknown> },
): Promise<{ value: T } | null> {
  const trx = await db.transaction(undefined, TOGETHER as never);
  try {
    const [claimed, worked] = await Promise.allSettled([of.claim(trx).then((isOurs) => orBack(trx, isOurs)), begun(trx, of.work)]);
    if (claimed.status === 'rejected') throw claimed.reason;
    if (!claimed.value) return null;
    if (worked.status === 'rejected') throw worked.reason;
    // Where the last statement fails, PostgreSQL rolls back instead of committing. What knex answers to a commit says only that it has
    // been asked for: whether it was done, the transaction itself knows.
    await together([of.last(trx, worked.value), trx.commit().then(() => trx.executionPromise)]);
    return { value: worked.value };
  } catch (error) {
    // Where the connection is gone there is nothing left to roll back.
    if (!trx.isCompleted()) await trx.rollback().catch(() => undefined);
    throw error;
  }
}

// What it throws before it asks for anything is said when it is known whose the claim is, like all that it throws.
const begun = async <T>(trx: Trx, work: (trx: Trx) => Promise<T>): Promise<T> => work(trx);

// A claim that is another's: what the work has begun goes back at once, and what it asks for from now on is refused.
async function orBack(trx: Trx, isOurs: boolean): Promise<boolean> {
  if (!isOurs) await trx.rollback();
  return isOurs;
}

async function earlierReply<T>(db: Db, key: string, hash: string): Promise<T> {
  const [earlier] = await query<{ request_hash: string; reply: T }>(db, `SELECT request_hash, reply FROM command WHERE key = ?`, [key]);
  if (!earlier || earlier.request_hash !== hash) return refuse({ code: 'request.keyReused' });
  return earlier.reply;
}

function writeReply(trx: Trx, stamp: CommandStamp, reply: unknown): Promise<unknown> {
  const changes = takeChanges(trx, stamp.site);
  return query(
    trx,
    `WITH told AS (INSERT INTO outbox (topic, facts) SELECT t, f::jsonb FROM unnest(?::text[], ?::text[]) AS x(t, f))
     UPDATE command SET reply = ? WHERE key = ?`,
    [changes.map((c) => c.topic), changes.map((c) => JSON.stringify(c.facts)), JSON.stringify(reply ?? null), stamp.key],
  );
}

/** Tells a transaction, when it is returned by its claim, to keep to plans once made: what a command asks is found by key, one plan is as
 *  good as another, and making one takes longer than the asking. */
export const KEEP_PLANS = `set_config('plan_cache_mode', 'force_generic_plan', true)`;

// A key without a reply is nobody's: its transaction never began.
const CLAIM = `INSERT INTO command (key, person_id, route, request_hash) VALUES (?, ?, ?, ?)
  ON CONFLICT (key) DO UPDATE SET key = command.key
  WHERE command.reply IS NULL
  RETURNING ${KEEP_PLANS}`;

/** Tries work again that PostgreSQL broke off for a deadlock or a serialisation failure: nothing of it was done. */
export async function retrying<T>(work: () => Promise<T>): Promise<T> {
  for (let attempt = 1; ; attempt += 1) {
    try {
      return await work();
    } catch (error) {
      if (attempt >= TRIES || !isRetryable(error)) throw error;
    }
  }
}

/** A transaction for work that no person sent (demo data, background work); its changes are told like any other.
 *  `site` is where it is done, if it belongs to one. */
export async function runInternal<T>(db: Db, work: (trx: Trx) => Promise<T>, site: number | null = null): Promise<T> {
  return db.transaction(async (trx) => {
    const result = await work(trx);
    await writeChanges(trx, takeChanges(trx, site));
    return result;
  });
}

/** Writes changes so that they are told when the transaction is committed. */
export async function writeChanges(trx: Trx, changes: readonly Change[]): Promise<void> {
  if (changes.length === 0) return;
  await query(trx, `INSERT INTO outbox (topic, facts) SELECT t, f::jsonb FROM unnest(?::text[], ?::text[]) AS x(t, f)`, [
    changes.map((c) => c.topic),
    changes.map((c) => JSON.stringify(c.facts)),
  ]);
}
