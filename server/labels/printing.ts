import { labelsSentence, type LabelFace } from '#core/labels';
import { announce, runInternal, type Db, type Outbox } from '#server/kernel';
import { drawLabel } from './draw.ts';
import { lockNextPrintJob, selectUndrawn, updateDrawn, updateNotPrinted, updatePrinted } from './store.ts';

const LOOK_MS = 300;
const LONGEST_WAIT_S = 60;

/** Draws the labels that wait, and carries them to the printer, one after the other; without a printer it only draws. A job that fails
 *  stays in the queue and is tried again, later each time. Belongs into the thread of jobs: two thousand labels take seconds to draw. */
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
    const jobs = await selectUndrawn(db, DRAWN_AT_ONCE);
    if (jobs.length === 0) return;
    const drawn = jobs.map(({ id, face }) => ({ id, ...drawnOrWhy(face) }));
    await runInternal(db, async (trx) => {
      await updateDrawn(trx, drawn);
      announce(trx, 'labels');
    });
    outbox.nudge();
  }
}

// One label that cannot be must not keep the others waiting.
function drawnOrWhy(face: LabelFace): { svg: string | null; why: string | null } {
  try {
    const made = drawLabel(face);
    return 'svg' in made ? { svg: made.svg, why: null } : { svg: null, why: labelsSentence(made.fault) };
  } catch {
    return { svg: null, why: 'This label was asked for by an older program: ask for it again.' };
  }
}

async function printNext(db: Db, outbox: Outbox, printerUrl: string): Promise<void> {
  for (let more = true; more;) {
    more = await runInternal(db, async (trx) => {
      const job = await lockNextPrintJob(trx);
      if (!job) return false;
      const failure = await send(printerUrl, job);
      if (failure === null) await updatePrinted(trx, job.id);
      else await updateNotPrinted(trx, job.id, { said: failure, waitSeconds: Math.min(LONGEST_WAIT_S, 2 ** job.tries) });
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
