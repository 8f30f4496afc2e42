import { query, type House } from '#server/kernel';

const LOOK_MS = 300;
const LONGEST_WAIT_S = 60;

/** Carries waiting print jobs to the printer, one after the other. A job that fails stays in the queue and is tried again, later each time.
 *  `SKIP LOCKED` lets several server processes share one queue without printing anything twice. */
export function startPrinting(house: House, printerUrl: string | null): () => void {
  if (!printerUrl) return () => undefined;
  let busy = false;
  const timer = setInterval(() => {
    if (busy) return;
    busy = true;
    void printNext(house, printerUrl)
      .catch(() => undefined)
      .finally(() => {
        busy = false;
      });
  }, LOOK_MS);
  return () => clearInterval(timer);
}

async function printNext(house: House, printerUrl: string): Promise<void> {
  for (let more = true; more;) {
    more = await house.db.transaction(async (trx) => {
      const [job] = await query<{ id: number; svg: string; copies: number; title: string; tries: number }>(
        trx,
        `SELECT id, svg, copies, title, tries FROM print_job WHERE state <> 'printed' AND next_try <= now() ORDER BY id LIMIT 1 FOR UPDATE SKIP LOCKED`,
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
      await query(trx, `INSERT INTO outbox (topic) VALUES ('labels')`);
      return true;
    });
    if (more) house.outbox.nudge();
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
