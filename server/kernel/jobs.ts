import { run, type Runner } from 'graphile-worker';
import { addressOf, SILENT, type Db, type Trx } from './database.ts';
import { announce, type Outbox } from './outbox.ts';
import { runInternal } from './command.ts';
import { LOCK_CLASS } from './locks.ts';
import { query, queryOne } from './query.ts';
import { Refusal, sentenceOf } from './refusal.ts';
import { SheetFault } from './sheet-fault.ts';

/** What a job found of one row of a sheet. `row` is counted as the person sees it: the header is row 1. */
export type RowVerdict = {
  readonly row: number;
  readonly verdict: 'new' | 'changed' | 'same' | 'gone' | 'fault';
  readonly name: string;
  readonly says: string;
};

export type JobContext<Input = unknown> = {
  readonly db: Db;
  readonly job: { id: number; person: number; site: number; input: Input };
  /** Aborted within a second after somebody cancelled: what takes long without saying how far it is listens to it. */
  readonly signal: AbortSignal;
  /** Says how far the work is, and ends it with `Cancelled` where somebody asked for that. Cheap to call often. */
  progress(done: number, total: number): Promise<void>;
  /** Writes the verdicts of a dry run. */
  keepVerdicts(rows: readonly RowVerdict[]): Promise<void>;
  /** Runs the one transaction that changes anything; the job is marked done in it, so that a crash does it either wholly or not at all. */
  apply<T>(work: (trx: Trx) => Promise<T>): Promise<T>;
};

/** The work of one kind of job. Returns how it ended and a result for the screen. */
export type JobWork = (context: JobContext<never>) => Promise<{ state: 'checked' | 'done'; result: unknown }>;

class Cancelled extends Error {}
const LOOK_MS = 500;
const TASK = 'dock_row_job';
const TELL_MS = 250;
const TRIES = 3;

/** Puts a job into the queue, in the caller's transaction: it exists exactly when the command that asked for it does. */
export async function startJob(
  trx: Trx,
  job: { kind: string; title: string; person: number; site: number; input: unknown },
): Promise<{ id: number }> {
  const made = await queryOne<{ id: number }>(
    trx,
    `INSERT INTO job (kind, title, person_id, site_id, input) VALUES (?, ?, ?, ?, ?) RETURNING id`,
    [job.kind, job.title, job.person, job.site, JSON.stringify(job.input)],
  );
  await requeueJob(trx, made.id, job.site);
  return made;
}

/** Puts a job that was checked into the queue again, to be done. */
export async function requeueJob(trx: Trx, id: number, site: number): Promise<void> {
  await query(trx, `SELECT graphile_worker.add_job('${TASK}', json_build_object('job', ?::int), max_attempts => ${TRIES})`, [id]);
  announce(trx, 'jobs', { job: id, site });
}

// Who does a job holds this advisory lock in an open transaction; it goes with the connection, however the process ends.
const SWEEP_MS = 10_000;

/** Works the queue until stopped. Several processes may; each job is taken by one. What a process that died was doing is begun anew within
 *  seconds: the queue itself would wait for hours before it took a worker for dead. */
export async function runJobs(db: Db, outbox: Outbox, kinds: Readonly<Record<string, JobWork>>): Promise<() => Promise<void>> {
  const sweep = (): Promise<void> => takeUpOrphans(db).catch(() => undefined);
  await sweep();
  const sweeping = setInterval(() => void sweep(), SWEEP_MS);
  sweeping.unref();
  const runner: Runner = await run({
    connectionString: addressOf(db),
    concurrency: 2,
    maxPoolSize: 3,
    noHandleSignals: true,
    pollInterval: 1000,
    logger: SILENT,
    taskList: { [TASK]: (payload) => doJob(db, outbox, kinds, (payload as { job: number }).job) },
  });
  return async () => {
    clearInterval(sweeping);
    await runner.stop();
  };
}

// A job that is marked as running and whose lock nobody holds has lost its worker.
async function takeUpOrphans(db: Db): Promise<void> {
  for (const { id } of await query<{ id: number }>(db, `SELECT id FROM job WHERE state = 'running'`)) {
    await runInternal(db, async (trx) => {
      const [free] = await query<{ got: boolean }>(trx, `SELECT pg_try_advisory_xact_lock(lock_number(${LOCK_CLASS.job}, ?, 0)) AS got`, [
        id,
      ]);
      if (!free?.got) return;
      const [lost] = await query<{ site_id: number }>(
        trx,
        `UPDATE job SET state = 'waiting' WHERE id = ? AND state = 'running' RETURNING site_id`,
        [id],
      );
      if (lost) await requeueJob(trx, id, lost.site_id);
    });
  }
}

type JobRow = {
  id: number;
  kind: string;
  title: string;
  person_id: number;
  site_id: number;
  input: unknown;
  cancel: boolean;
  tries: number;
  broke: string | null;
};

async function doJob(db: Db, outbox: Outbox, kinds: Readonly<Record<string, JobWork>>, id: number): Promise<void> {
  await db.transaction(async (lock) => {
    const [mine] = await query<{ got: boolean }>(lock, `SELECT pg_try_advisory_xact_lock(lock_number(${LOCK_CLASS.job}, ?, 0)) AS got`, [
      id,
    ]);
    if (mine?.got) await doLockedJob(db, outbox, kinds, id);
  });
}

async function doLockedJob(db: Db, outbox: Outbox, kinds: Readonly<Record<string, JobWork>>, id: number): Promise<void> {
  // Counted before anything is done: a job that takes its worker down with it comes back, and is given up like one that says how it broke.
  const [row] = await query<JobRow>(
    db,
    `UPDATE job SET state = 'running', progress = 0, tries = tries + 1, changed = now() WHERE id = ?
      AND state IN ('waiting', 'running') RETURNING *`,
    [id],
  );
  if (!row) return;
  const settle = (state: string, said: string | null, result: unknown): Promise<void> =>
    runInternal(db, async (trx) => {
      await query(trx, `UPDATE job SET state = ?, said = ?, result = ?, changed = now() WHERE id = ? AND state = 'running'`, [
        state,
        said,
        JSON.stringify(result),
        id,
      ]);
      announce(trx, 'jobs', { job: id, site: row.site_id });
    });
  const cancelling = new AbortController();
  const looking = setInterval(() => void lookForCancel(db, id, cancelling), LOOK_MS);
  try {
    if (row.cancel) throw new Cancelled();
    if (row.tries > TRIES) throw new GaveUp(row.broke ?? 'the program that worked on it fell over');
    const work = kinds[row.kind];
    if (!work) throw new Error(`there is no work of the kind ${row.kind}`);
    const { state, result } = await work(contextOf(db, outbox, row, cancelling.signal) as JobContext<never>);
    await settle(state, null, result);
  } catch (error) {
    if (error instanceof Cancelled) await settle('cancelled', 'Cancelled; nothing was changed.', null);
    else if (error instanceof Refusal) await settle('failed', sentenceOf(error.error), null);
    else if (error instanceof SheetFault) await settle('failed', error.message, null);
    else if (error instanceof GaveUp || row.tries >= TRIES)
      await settle(
        'failed',
        `It broke ${TRIES} times and was given up; nothing was changed. What it said last: ${plainReason(error)}.`,
        null,
      );
    else {
      await query(db, `UPDATE job SET broke = ? WHERE id = ?`, [plainReason(error), id]);
      throw error;
    }
  } finally {
    clearInterval(looking);
    outbox.nudge();
  }
}

class GaveUp extends Error {}
const plainReason = (error: unknown): string =>
  (error instanceof Error ? error.message : String(error)).split('\n')[0]?.slice(0, 300) ?? '';

async function lookForCancel(db: Db, id: number, cancelling: AbortController): Promise<void> {
  const [row] = await query<{ cancel: boolean }>(db, `SELECT cancel FROM job WHERE id = ?`, [id]).catch(() => []);
  if (row?.cancel) cancelling.abort(new Cancelled());
}

function contextOf(db: Db, outbox: Outbox, row: JobRow, signal: AbortSignal): JobContext {
  let told = 0;
  return {
    db,
    job: { id: row.id, person: row.person_id, site: row.site_id, input: row.input },
    signal,
    progress: async (done, total) => {
      signal.throwIfAborted();
      if (Date.now() - told < TELL_MS) return;
      told = Date.now();
      const [now] = await runInternal(db, async (trx) => {
        announce(trx, 'jobs', { job: row.id, site: row.site_id });
        return query<{ cancel: boolean }>(trx, `UPDATE job SET progress = ?, total = ?, changed = now() WHERE id = ? RETURNING cancel`, [
          done,
          total,
          row.id,
        ]);
      });
      outbox.nudge();
      if (now?.cancel) throw new Cancelled();
    },
    keepVerdicts: async (rows) => {
      await query(db, `DELETE FROM job_row WHERE job_id = ?`, [row.id]);
      for (let i = 0; i < rows.length; i += 5000) {
        const part = rows.slice(i, i + 5000);
        await query(
          db,
          `INSERT INTO job_row (job_id, row_no, verdict, name, says) SELECT ?, * FROM unnest(?::int[], ?::text[], ?::text[], ?::text[])`,
          [row.id, part.map((r) => r.row), part.map((r) => r.verdict), part.map((r) => r.name), part.map((r) => r.says)],
        );
      }
    },
    apply: (work) =>
      runInternal(db, async (trx) => {
        const result = await work(trx);
        // Asked last: up to the commit a cancel is heard, and rolls everything back; after it, it finds the work done.
        const ended = await query(
          trx,
          `UPDATE job SET state = 'done', progress = total, result = ?, changed = now() WHERE id = ? AND state = 'running'
            AND NOT cancel RETURNING 1`,
          [JSON.stringify(result), row.id],
        );
        if (ended.length === 0) throw new Cancelled();
        announce(trx, 'jobs', { job: row.id, site: row.site_id });
        return result;
      }),
  };
}

/** Lets a job that was checked without faults do what it said it would; returns its site, or null where it stands otherwise. */
export async function approveJob(trx: Trx, id: number): Promise<number | null> {
  const [going] = await query<{ site_id: number }>(
    trx,
    `UPDATE job
     SET state = 'waiting', tries = 0, broke = NULL, input = input || '{"apply": true}', changed = now()
     WHERE id = ? AND state = 'checked' AND coalesce((result->>'faults')::int, 0) = 0
     RETURNING site_id`,
    [id],
  );
  return going?.site_id ?? null;
}

/** Cancels a job: at once where nobody works on it, else by a word to whoever does; up to its commit that word is heard.
 *  Returns false where it has ended. */
export async function cancelJob(trx: Trx, id: number): Promise<boolean> {
  const [row] = await query<{ site_id: number; state: string }>(
    trx,
    `UPDATE job SET cancel = true, changed = now() WHERE id = ? AND state IN ('waiting', 'running', 'checked') RETURNING site_id, state`,
    [id],
  );
  if (!row) return false;
  const [free] = await query<{ got: boolean }>(trx, `SELECT pg_try_advisory_xact_lock(lock_number(${LOCK_CLASS.job}, ?, 0)) AS got`, [id]);
  if (free?.got) await query(trx, `UPDATE job SET state = 'cancelled', said = 'Cancelled; nothing was changed.' WHERE id = ?`, [id]);
  announce(trx, 'jobs', { job: id, site: row.site_id });
  return true;
}
