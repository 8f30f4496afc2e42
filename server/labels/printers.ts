import { paperFault, type Paper } from '#core/labels';
import { cameOut, printingSentence } from '#core/printing';
import { announce, keysetOf, keysetText, queryOne, refuse, type RoomHandlers, type Trx } from '#server/kernel';
import { askPrinter } from './talk.ts';
import { dropJobs, endRun, lockJob, printAgain, selectJobs, selectOpenRun, updatePrinterSaid } from './store-queue.ts';
import {
  findPaper,
  findPrinter,
  handOver,
  insertPaper,
  insertPrinter,
  retirePaper,
  retirePrinter,
  selectPapers,
  selectPrinters,
  updatePaused,
  updatePrinter,
  updateRoll,
  type PrinterFacts,
} from './store-printers.ts';

type Printers =
  | 'labels.printers'
  | 'labels.addPrinter'
  | 'labels.changePrinter'
  | 'labels.removePrinter'
  | 'labels.askPrinter'
  | 'labels.pausePrinter'
  | 'labels.putRoll'
  | 'labels.cameOut'
  | 'labels.handOver'
  | 'labels.papers'
  | 'labels.addPaper'
  | 'labels.removePaper'
  | 'labels.jobs'
  | 'labels.again'
  | 'labels.drop';

/** Printers by their place, the labels in them, and their queue. */
export const printerHandlers: Pick<RoomHandlers<'labels'>, Printers> = {
  'labels.printers': async (db, { me }) => {
    const rows = await selectPrinters(db, me.site.id);
    const { homeless } = await queryOne<{ homeless: number }>(
      db,
      `SELECT coalesce(sum(copies - done), 0)::int AS homeless
       FROM print_job
       WHERE site_id = ? AND printer_id IS NULL AND state = 'waiting'`,
      [me.site.id],
    );
    return { printers: rows.map((p) => ({ ...p, heard: p.heard?.toISOString() ?? null })), homeless };
  },
  'labels.addPrinter': async (trx, { me, body }) => ({ id: await insertPrinter(trx, me.site.id, await factsOf(trx, body)) }),
  'labels.changePrinter': async (trx, { me, params, body }) => {
    await updatePrinter(trx, me.site.id, params.id, await factsOf(trx, body));
    return { ok: true };
  },
  'labels.removePrinter': async (trx, { me, params }) => {
    await retirePrinter(trx, me.site.id, await findPrinter(trx, me.site.id, params.id));
    return { ok: true };
  },
  'labels.askPrinter': async (_house, { body }) => {
    const told = await askPrinter(body.address);
    if (!told.ok) return { says: printingSentence(told.error), dpi: null, answers: false };
    return { says: told.value.stands ?? 'It is ready.', dpi: told.value.dpi, answers: true };
  },
  'labels.pausePrinter': async (trx, { me, params, body }) => {
    await findPrinter(trx, me.site.id, params.id);
    await updatePaused(trx, params.id, body.paused ? me.id : null);
    return { ok: true };
  },
  'labels.putRoll': async (trx, { me, params, body }) => {
    await findPrinter(trx, me.site.id, params.id);
    await updateRoll(trx, params.id, await rollOf(trx, body.roll));
    return { ok: true };
  },
  'labels.cameOut': async (trx, { me, params, body }) => {
    const printer = await findPrinter(trx, me.site.id, params.id);
    const run = await selectOpenRun(trx, params.id);
    // One that was stopped and does not answer may be gone for good.
    const isAsked = run?.id === body.run && (run.unsure || (printer.paused && printer.said !== null));
    if (!run || !isAsked) return refuse({ code: 'labels.nothingUnsure', name: printer.name });
    if (body.labels > run.labels) refuse({ code: 'labels.moreThanSent', asked: body.labels, most: run.labels });
    await endRun(trx, run.id, cameOut(run.parts, body.labels));
    await updatePrinterSaid(trx, params.id, { said: null, waitSeconds: 0 });
    return { ok: true };
  },
  'labels.handOver': async (trx, { me, params, body }) => {
    // Two who hand over to each other wait for each other in one order.
    const [first, second] = [params.id, body.to].toSorted((a, b) => a - b);
    await findPrinter(trx, me.site.id, first ?? 0);
    await findPrinter(trx, me.site.id, second ?? 0);
    return { jobs: await handOver(trx, params.id, body.to) };
  },
  'labels.papers': async (db) => ({ papers: await selectPapers(db) }),
  'labels.addPaper': async (trx, { body }) => {
    const fault = paperFault(body, body.sheet);
    if (fault) refuse(fault);
    return { key: await insertPaper(trx, body) };
  },
  'labels.removePaper': async (trx, { body }) => {
    await retirePaper(trx, body.key);
    return { ok: true };
  },
  'labels.jobs': async (db, { me, query: asked }) => {
    const rows = await selectJobs(
      db,
      { site: me.site.id, isLead: me.role === 'lead' },
      asked.show,
      keysetOf(asked.after, 'number'),
      asked.limit,
    );
    const last = rows.at(-1);
    return {
      jobs: rows.map((r) => ({ ...r, at: r.at.toISOString() })),
      next: last && rows.length === asked.limit ? keysetText([last.id]) : null,
    };
  },
  'labels.again': async (trx, { me, params }) => {
    const job = await lockJob(trx, me.site.id, params.id);
    if (!job) return refuse({ code: 'labels.unknownJob', id: params.id });
    if (job.forLeads && me.role !== 'lead') refuse({ code: 'people.noRight', role: me.role, act: 'Print badges' });
    // What is on its way comes out anyhow.
    if (job.state !== 'sent') await printAgain(trx, params.id);
    announce(trx, 'labels');
    return { ok: true };
  },
  'labels.drop': async (trx, { me, body }) => {
    const jobs = await dropJobs(trx, me.site.id, { jobs: body.jobs ?? null, printer: body.printer ?? null });
    announce(trx, 'labels');
    return { jobs };
  },
};

async function factsOf(
  trx: Trx,
  body: Omit<PrinterFacts, 'roll' | 'zones'> & { roll: string | null; zones: number[] },
): Promise<PrinterFacts> {
  return { ...body, roll: await rollOf(trx, body.roll) };
}

// Sheets go into printers of another kind.
async function rollOf(trx: Trx, key: string | null): Promise<Paper | null> {
  if (key === null) return null;
  const { sheet, ...paper } = await findPaper(trx, key);
  return sheet ? refuse({ code: 'labels.sheetIsPdf' }) : paper;
}
