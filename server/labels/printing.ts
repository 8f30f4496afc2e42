import type { LabelFace } from '#core/labels';
import { announce, query, runInternal, type Db, type Outbox } from '#server/kernel';
import { drawLabel } from './draw.ts';

const LOOK_MS = 300;
const LONGEST_WAIT_S = 60;

/** Draws the labels that wait, and carries them to the printer, one after the other; without a printer it only draws. A job that fails
 *  stays in the queue and is tried again, later each time. `SKIP LOCKED` lets several server processes share one queue without printing
 *  anything twice. Belongs into the thread of jobs: two thousand labels take seconds to draw. */
export function startPrinting(db: Db, outbox: Outbox, printerUrl: string | null): () => Promise<void> {
  let busy: Promise<void> | null = null;
  const timer = setInterval(() => {
    busy ??= drawWaiting(db, outbox)
      .then(() => (printerUrl === null ? undefined : printNext(db, outbox, printerUrl)))
      .catch(() => undefined)
      .finally(() => {
        busy = null;
      });
  }, LOOK_MS);
  return async () => {
    clearInterval(timer);
    await busy;
  };
}

const DRAWN_AT_ONCE = 50;

async function drawWaiting(db: Db, outbox: Outbox): Promise<void> {
  for (;;) {
    const jobs = await query<{ id: number; face: LabelFace }>(
      db,
      `SELECT id, face FROM print_job WHERE svg IS NULL ORDER BY id LIMIT ${DRAWN_AT_ONCE}`,
    );
    if (jobs.length === 0) return;
    await runInternal(db, async (trx) => {
      await query(
        trx,
        `UPDATE print_job SET svg = x.svg FROM unnest(?::int[], ?::text[]) AS x(id, svg) WHERE print_job.id = x.id AND print_job.svg IS NULL`,
        [jobs.map((j) => j.id), jobs.map((j) => drawLabel(j.face))],
      );
      announce(trx, 'labels');
    });
    outbox.nudge();
  }
}

async function printNext(db: Db, outbox: Outbox, printerUrl: string): Promise<void> {
  for (let more = true; more;) {
    more = await runInternal(db, async (trx) => {
      const [job] = await query<{ id: number; svg: string; copies: number; title: string; tries: number }>(
        trx,
        `SELECT id, svg, copies, title, tries
         FROM print_job
         WHERE state <> 'printed' AND svg IS NOT NULL AND next_try <= now()
         ORDER BY id
         LIMIT 1
         FOR UPDATE SKIP LOCKED`,
      );
      if (!job) return false;
      const failure = await send(printerUrl, job);
      const wait = Math.min(LONGEST_WAIT_S, 2 ** job.tries);
      if (failure === null) await query(trx, `UPDATE print_job SET state = 'printed', said = NULL WHERE id = ?`, [job.id]);
      else
        await query(
          trx,
          `UPDATE print_job SET state = 'failed', said = ?, tries = tries + 1, next_try = now() + make_interval(secs => ?) WHERE id = ?`,
          [failure, wait, job.id],
        );
      announce(trx, 'labels');
      return true;
    });
    if (more) outbox.nudge();
  }
}

async function send(printerUrl: string, job: { svg: string; copies: number; title: string }): Promise<string | null> {
  try {
    const answer = await fetch(`${printerUrl}/print`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify({ title: job.title, copies: job.copies, svg: job.svg }),
      signal: AbortSignal.timeout(5000),
    });
    return answer.ok ? null : `The printer said: ${(await answer.text()).slice(0, 200)}`;
  } catch {
    return 'The printer does not answer.';
  }
}
