import { randomUUID } from 'node:crypto';
import { labelsSentence, type Dpi, type LabelFace } from '#core/labels';
import { cameOut, lengthOf, nextRun, printingSentence, writeRaster, type Bitmap, type PrintingError, type RunState } from '#core/printing';
import { announce, runInternal, type Db, type Outbox } from '#server/kernel';
import { loadLogos } from './contents.ts';
import type { Logos } from './logo.ts';
import { drawBitmap, drawLabel } from './draw.ts';
import { USUAL_DPI } from './drawing.ts';
import { ensurePrinters } from './store-printers.ts';
import {
  endRun,
  insertRun,
  lockPrinter,
  selectBusyPrinters,
  selectOpenRun,
  selectUndrawn,
  selectWaiting,
  updateDrawn,
  updatePrinterSaid,
  updateRun,
  updateUnprintable,
  type QueuePrinter,
  type Run,
} from './store-queue.ts';
import { askPrinter, askRun, cancelRun, findRun, sendRun } from './talk.ts';

const LOOK_MS = 300;
const LONGEST_WAIT_S = 60;
/** Labels of one run: so many may come out after somebody paused, and so many are asked about where a printer was switched off. */
const MOST_IN_RUN = 50;
/** Longer than anybody waits for a printer to take a run. */
const SENDING_S = 15;

export type Printing = {
  readonly db: Db;
  readonly outbox: Outbox;
  /** So long a run may still be on its way: a printer that does not know it before then may hear of it yet. */
  readonly sendingSeconds: number;
};

/** Draws the labels that wait, and has them printed, at all printers at once and at each in order. Belongs into the thread of jobs: two
 *  thousand labels take seconds to draw.
 *  Shape:  `first`: the address of the printer of a site that has none yet; null where the house starts without. */
export function startPrinting(db: Db, outbox: Outbox, first: string | null): () => Promise<void> {
  const printing: Printing = { db, outbox, sendingSeconds: SENDING_S };
  const busy = new Map<number, Promise<void>>();
  let looking: Promise<void> | null = null;
  const look = async (): Promise<void> => {
    if (first !== null) await ensurePrinters(db, first);
    await drawWaiting(db, outbox);
    for (const printer of await selectBusyPrinters(db)) {
      if (busy.has(printer.id)) continue;
      const tending = tendPrinter(printing, printer)
        .catch(() => undefined)
        .finally(() => busy.delete(printer.id));
      busy.set(printer.id, tending);
    }
  };
  const timer = setInterval(() => {
    looking ??= look()
      .catch(() => undefined)
      .finally(() => {
        looking = null;
      });
  }, LOOK_MS);
  return async () => {
    clearInterval(timer);
    await looking;
    await Promise.all(busy.values());
  };
}

const DRAWN_AT_ONCE = 50;
const UNREADABLE = 'This label was asked for by an older program: ask for it again.';

/** Draws every label that waits to be drawn, each for its head. */
export async function drawWaiting(db: Db, outbox: Outbox): Promise<void> {
  for (;;) {
    const jobs = await selectUndrawn(db, DRAWN_AT_ONCE);
    if (jobs.length === 0) return;
    const logos = await loadLogos(
      db,
      jobs.map(({ face }) => face),
    );
    const drawn = jobs.map(({ id, face, dpi }) => ({ id, ...drawnOrWhy(face, dpi ?? USUAL_DPI, logos) }));
    await runInternal(db, async (trx) => {
      await updateDrawn(trx, drawn);
      announce(trx, 'labels');
    });
    outbox.nudge();
  }
}

// One label that cannot be must not keep the others waiting.
function drawnOrWhy(face: LabelFace, dpi: Dpi, logos: Logos): { svg: string | null; why: string | null } {
  try {
    const made = drawLabel(face, dpi, logos);
    return 'svg' in made ? { svg: made.svg, why: null } : { svg: null, why: labelsSentence(made.fault) };
  } catch {
    return { svg: null, why: UNREADABLE };
  }
}

/** Takes the next steps with one printer, as far as they go without waiting for it: sends a run, asks how it stands, and ends it.
 *  Shape:  what is sent is written down first and its end is written once, so that after a crash at any point the printer is asked what
 *          became of it. Where it does not know that either, a person is: nothing is printed twice and nothing left out by guessing. */
export async function tendPrinter(printing: Printing, printer: QueuePrinter): Promise<void> {
  for (let goesOn = true; goesOn;) {
    const run = await selectOpenRun(printing.db, printer.id);
    goesOn = run ? await follow(printing, printer, run) : !printer.paused && (await sendNext(printing, printer));
    printing.outbox.nudge();
  }
}

async function sendNext(printing: Printing, printer: QueuePrinter): Promise<boolean> {
  const { db } = printing;
  const pages = await pagesOf(db, await selectWaiting(db, printer.id, MOST_IN_RUN));
  const token = randomUUID();
  const run = await runInternal(db, async (trx): Promise<Run | null> => {
    if (!(await lockPrinter(trx, printer.id)) || (await selectOpenRun(trx, printer.id))) return null;
    const waiting = await selectWaiting(trx, printer.id, MOST_IN_RUN);
    // What was drawn anew meanwhile is for the next run, and so is what comes after it.
    const changed = waiting.findIndex((job) => pages.get(job.id)?.svg !== job.svg);
    const parts = nextRun(changed < 0 ? waiting : waiting.slice(0, changed), MOST_IN_RUN);
    if (parts.length === 0) return null;
    const labels = lengthOf(parts);
    const id = await insertRun(trx, { printer: printer.id, token, parts, labels });
    return { id, token, remote: null, parts, labels, cameOut: 0, unsure: false, age: 0 };
  });
  if (!run) return false;
  const sheets = run.parts.flatMap(({ job, copies }) => Array.from({ length: copies }, () => (pages.get(job) as Page).bitmap));
  const sent = await sendRun(printer.address, token, writeRaster(sheets, printer.dpi));
  if (sent.ok) return hear(printing, printer, run, sent.value);
  return sent.error.code === 'printing.refused'
    ? end(printing, printer, run, { out: 0, said: printingSentence(sent.error), then: 'waits' })
    : wait(printing, printer, sent.error);
}

type Page = { readonly svg: string; readonly bitmap: Bitmap };

async function pagesOf(db: Db, jobs: readonly { id: number; svg: string }[]): Promise<Map<number, Page>> {
  const pages = new Map<number, Page>();
  const broken: number[] = [];
  for (const { id, svg } of jobs) {
    const bitmap = await drawBitmap(svg).catch(() => null);
    if (bitmap) pages.set(id, { svg, bitmap });
    else broken.push(id);
  }
  if (broken.length > 0) await runInternal(db, (trx) => updateUnprintable(trx, broken, UNREADABLE));
  return pages;
}

// Whether there is more to do at once.
async function follow(printing: Printing, printer: QueuePrinter, run: Run): Promise<boolean> {
  if (run.unsure) return false;
  if (run.remote === null) return findAgain(printing, printer, run);
  if (printer.paused) await cancelRun(printer.address, run.remote);
  const state = await askRun(printer.address, run.remote);
  if (state.ok) return hear(printing, printer, run, state.value);
  return state.error.code === 'printing.unknownRun' ? doubt(printing, printer, run) : wait(printing, printer, state.error);
}

async function findAgain(printing: Printing, printer: QueuePrinter, run: Run): Promise<boolean> {
  const found = await findRun(printer.address, run.token);
  if (!found.ok) return wait(printing, printer, found.error);
  if (found.value) return hear(printing, printer, run, found.value);
  // It may be on its way at this moment, from here or from another server.
  if (run.age < printing.sendingSeconds) return false;
  const printerNow = await askPrinter(printer.address);
  if (!printerNow.ok) return wait(printing, printer, printerNow.error);
  // It never heard of it, if it was on all the time since; what it was told before it was switched off it may have printed.
  const { upSeconds } = printerNow.value;
  if (upSeconds === null || upSeconds <= run.age) return doubt(printing, printer, run);
  return end(printing, printer, run, { out: 0, said: null, then: 'goesOn' });
}

async function hear(printing: Printing, printer: QueuePrinter, run: Run, told: RunState): Promise<boolean> {
  const { state, out, stands } = told;
  if (state === 'done') return end(printing, printer, run, { out: run.labels, said: null, then: 'goesOn' });
  const isEnded = state === 'stopped' || state === 'broken';
  if (isEnded && out === null) return doubt(printing, printer, run);
  if (isEnded) return end(printing, printer, run, { out: out ?? 0, said: stands, then: state === 'stopped' ? 'pauses' : 'waits' });
  await runInternal(printing.db, async (trx) => {
    await updateRun(trx, run.id, { remote: told.job, ...(out === null ? {} : { cameOut: out }) });
    if (out !== null && out > run.cameOut) announce(trx, 'labels');
    await updatePrinterSaid(trx, printer.id, { said: stands, waitSeconds: 0 });
  });
  return false;
}

// Who stopped it at the printer does not want it to begin again by itself; a run that broke is not sent again at once.
async function end(
  printing: Printing,
  printer: QueuePrinter,
  run: Run,
  { out, said, then }: { out: number; said: string | null; then: 'goesOn' | 'pauses' | 'waits' },
): Promise<boolean> {
  await runInternal(printing.db, async (trx) => {
    await endRun(trx, run.id, cameOut(run.parts, out));
    const waitSeconds = then === 'waits' ? backOff(printer) : 0;
    await updatePrinterSaid(trx, printer.id, { said: printer.paused ? null : said, waitSeconds, pauses: then === 'pauses' });
  });
  return then === 'goesOn' && !printer.paused;
}

async function wait({ db }: Printing, printer: QueuePrinter, error: PrintingError): Promise<false> {
  await runInternal(db, (trx) => updatePrinterSaid(trx, printer.id, { said: printingSentence(error), waitSeconds: backOff(printer) }));
  return false;
}

const backOff = ({ tries }: QueuePrinter): number => Math.min(LONGEST_WAIT_S, 2 ** tries);

async function doubt({ db }: Printing, printer: QueuePrinter, run: Run): Promise<false> {
  await runInternal(db, async (trx) => {
    await updateRun(trx, run.id, { unsure: true });
    await updatePrinterSaid(trx, printer.id, { said: printingSentence({ code: 'printing.unknownRun' }), waitSeconds: 0 });
    announce(trx, 'labels');
  });
  return false;
}
