import { setImmediate as immediately } from 'node:timers/promises';
import {
  choosePrinter,
  formOf,
  labelsSentence,
  mmOf,
  USUAL_PAPERS,
  type LabelFault,
  type LabelFace,
  type LabelForm,
  type Paper,
} from '#core/labels';
import type { Role } from '#core/people';
import type { BodyOf, Routes } from '#contract';
import {
  announce,
  askHelper,
  keepFile,
  keysetOf,
  keysetText,
  queryOne,
  refuse,
  startJob,
  type JobContext,
  type RoomHandlers,
  type Trx,
} from '#server/kernel';
import { findItem } from '#server/items';
import { upsertSetting } from '#server/people';
import { contentsHandlers, facesOf, loadLogos } from './contents.ts';
import { drawSvg } from './draw.ts';
import { drawingOf, isFault } from './drawing.ts';
import type { PdfRequest } from './pdf.ts';
import { selectUnitNumbers } from './store-units.ts';
import { noteShelfLabels, selectBinFaces, selectWrongLabels, selectWrongLabelsSorted, type WantedBins } from './store.ts';
import { printerHandlers } from './printers.ts';
import { findPaper, selectOwnPrinter, selectPrintersAt, selectZonePrinters, type NamedPrinter } from './store-printers.ts';
import { insertPrintJobs } from './store-queue.ts';
import { itemLabel, labelsWanted, MOST, noteWanted, priceAt, unitsAhead, type Wanted } from './wanted.ts';

const MOST_IN_PDF = 5000;

export const labelsHandlers: RoomHandlers<'labels'> = {
  ...printerHandlers,
  ...contentsHandlers,
  'labels.print': async (trx, { me, body, handheld }) => {
    const wanted = body.kind === 'unitsAhead' ? await unitsAhead(trx, body.count) : await labelsWanted(trx, body, me);
    await noteWanted(trx, body, me.site.id);
    if (wanted.length === 0) refuse({ code: 'labels.nothing' });
    const labels = wanted.reduce((sum, w) => sum + w.copies, 0);
    if (labels > MOST) refuse({ code: 'labels.tooMany', asked: labels, most: MOST });
    const { fault, ...queued } = await queueLabels(
      trx,
      { person: me.id, site: me.site.id, handheld, ...chosenOf(body) },
      wanted.map((w) => ({ ...w, request: { ...w.request, ...formIn(body) } })),
    );
    if (fault && queued.jobs === 0) refuse(fault);
    return queued;
  },
  'labels.pdf': async (trx, { me, body: { wanted: body, first } }) => {
    const wanted = await labelsWanted(trx, body, me, MOST_IN_PDF);
    const labels = wanted.reduce((sum, w) => sum + w.copies, 0);
    if (labels === 0) refuse({ code: 'labels.nothing' });
    if (labels > MOST_IN_PDF) refuse({ code: 'labels.tooMany', asked: labels, most: MOST_IN_PDF });
    const job = await startJob(trx, {
      kind: 'labels.pdf',
      title: `${labels === 1 ? `Label: ${wanted[0]?.title ?? ''}` : `${labels} labels`} as PDF`,
      person: me.id,
      site: me.site.id,
      // These bins and no others: one that is made while they are drawn has no label yet.
      input: {
        wanted: body.kind === 'zone' ? { ...body, kind: 'bins', bins: await binsOf(trx, me.site.id, body) } : body,
        first,
        role: me.role,
      },
    });
    return { job: job.id };
  },
  'labels.wrong': async (db, { me, query: asked }) => {
    const [site, day, { sort: by, after, limit }] = [me.site.id, asked.day ?? null, asked];
    if (by !== undefined) {
      const { rows, next } = await selectWrongLabelsSorted(db, { site, day, by, after, limit });
      const { total } = await selectWrongLabels(db, site, day, null, 1);
      return { labels: rows.map(({ walk: _, id: __, ...r }) => r), total, next };
    }
    const { rows, total } = await selectWrongLabels(db, site, day, keysetOf(after, 'number', 'number', 'number'), limit);
    const last = rows.at(-1);
    return {
      labels: rows.map(({ walk: _, ...r }) => r),
      total,
      next: last && rows.length === limit ? keysetText([last.walk, last.bin, last.item]) : null,
    };
  },
  'labels.wrongBySite': async (db, { me, query: asked }) => {
    const counts = me.sites.map(async ({ id, name }) => ({
      id,
      name,
      total: (await selectWrongLabels(db, id, asked.day ?? null, null, 1, asked.item)).total,
    }));
    return { sites: (await Promise.all(counts)).filter((s) => s.total > 0) };
  },
  'labels.printWrong': async (trx, { me, body, handheld }) => {
    const sites: { name: string; labels: number; left: number; printers: string[] }[] = [];
    for (const id of new Set(body.sites)) {
      const site = me.sites.find((s) => s.id === id);
      if (!site) return refuse({ code: 'people.notAtSite', site: String(id) });
      const { rows, total } = await selectWrongLabels(trx, id, null, null, MOST, body.item);
      const pairs = rows.map(({ bin, item }) => ({ bin, item }));
      const wanted = pairs.length === 0 ? [] : await labelsWanted(trx, { kind: 'shelf', pairs }, { ...me, site });
      await noteShelfLabels(trx, id, pairs);
      // A handheld's own printer stands where the handheld is.
      const own = id === me.site.id ? handheld : null;
      const queued = await queueLabels(trx, { person: me.id, site: id, handheld: own, size: null, printer: null }, wanted);
      sites.push({ name: site.name, labels: queued.labels, left: total - rows.length, printers: queued.printers });
    }
    return { sites };
  },
  'labels.preview': async (db, { me, query: { wanted: body }, handheld }) => {
    // Numbers are taken when they are printed; what they look like is seen of any.
    const wanted = body.kind === 'unitsAhead' ? [SAMPLE_UNIT] : await labelsWanted(db, body, me);
    const [first] = wanted;
    if (!first) return refuse({ code: 'labels.nothing' });
    const { printer, paper } = (await chooser(db, { site: me.site.id, handheld, ...chosenOf(body) }))(first);
    const [face] = (await facesOf(db, me.site.id, [{ ...first.request, paper, ...formIn(body) }])) as [LabelFace];
    const drawing = drawingOf(face, printer?.dpi);
    const onHand = body.kind === 'item' ? await selectOnHand(db, me.site.id, body.item, body.lot ?? '') : null;
    const labels = wanted.reduce((sum, w) => sum + w.copies, 0);
    const { widthMm, heightMm } = face;
    const forms = [...new Set(face.code.ways.map((way) => formOf(way.symbology)))];
    const said = isFault(drawing)
      ? { svg: null, form: null, moduleMm: null, unsaid: [labelsSentence(drawing)] }
      : {
          svg: drawSvg(drawing, await loadLogos(db, [face])),
          form: formOf(drawing.symbol.symbology),
          moduleMm: mmOf(drawing.symbol.module, drawing.dpi),
          unsaid: [...drawing.unsaid],
        };
    return { ...said, widthMm, heightMm, forms, onHand, labels, printer: printer?.name ?? null };
  },
  'labels.units': async (db) => selectUnitNumbers(db),
  'labels.setUnitPrefix': async (trx, { body }) => {
    await upsertSetting(trx, 'unit prefix', body.prefix);
    announce(trx, 'labels');
    return { ok: true };
  },
};

const SAMPLE_UNIT: Wanted = {
  title: 'Unit',
  request: { kind: 'unit', sscc: '0'.repeat(18), company: '', contents: [] },
  ...{ copies: 1, zone: null },
};
const formIn = (body: object): { form?: LabelForm } => ('form' in body && body.form ? { form: body.form as LabelForm } : {});

// How many labels the goods of an item at a site want.
async function selectOnHand(db: Pick<Trx, 'raw'>, site: number, item: number, lot: string): Promise<number> {
  const { onHand } = await queryOne<{ onHand: number }>(
    db,
    `SELECT ceil(coalesce(sum(b.qty), 0))::float8 AS "onHand"
     FROM balance b
     JOIN bin ON bin.id = b.bin_id
     LEFT JOIN lot l ON l.id = b.lot_id
     WHERE b.item_id = ? AND bin.site_id = ? AND (? = '' OR l.code = ?)`,
    [item, site, lot, lot],
  );
  return onHand;
}

// So many are laid out before they are queued, so that who prints them is told at once what they do not say; of more the queue tells.
const TOLD_AT_ONCE = 24;

type Asking = { readonly site: number; readonly handheld: string | null; readonly size: string | null; readonly printer: number | null };
const chosenOf = (body: { size?: string | undefined; printer?: number | undefined }): Pick<Asking, 'size' | 'printer'> => ({
  size: body.size ?? null,
  printer: body.printer ?? null,
});

/** Says for each label where it comes out and on which paper.
 *  Errors: labels or a printer that the site has not. */
async function chooser(
  db: Pick<Trx, 'raw'>,
  { site, handheld, size, printer }: Asking,
): Promise<(label: Pick<Wanted, 'request' | 'zone'>) => { printer: NamedPrinter | null; paper: Paper }> {
  const all = await selectPrintersAt(db, site);
  const chosen = printer === null ? undefined : all.find((p) => p.id === printer);
  if (printer !== null && !chosen) refuse({ code: 'labels.unknownPrinter', id: printer });
  const own = printer ?? (handheld === null ? null : await selectOwnPrinter(db, handheld));
  const zones = await selectZonePrinters(db, site);
  const paper = size === null ? null : await findPaper(db, size);
  return ({ request, zone }) => {
    // A sheet comes out of no label printer.
    if (paper?.sheet) return { printer: null, paper };
    const asked = { own, zone: zone === null ? null : (zones.get(zone) ?? null), paper, usual: USUAL_PAPERS[request.kind] };
    return choosePrinter(chosen ? [chosen] : all, asked);
  };
}

// Returns what these labels do not say, a sentence for each. One that cannot be is left out, and said.
async function queueLabels(
  trx: Trx,
  who: Asking & { readonly person: number },
  wanted: readonly Wanted[],
): Promise<{ jobs: number; labels: number; unsaid: string[]; printers: string[]; fault: LabelFault | undefined }> {
  if (who.size !== null && (await findPaper(trx, who.size)).sheet) refuse({ code: 'labels.sheetIsPdf' });
  const choose = await chooser(trx, who);
  const placed = wanted.map((label) => ({ label, ...choose(label) }));
  const faces = await facesOf(
    trx,
    who.site,
    placed.map(({ label, paper }) => ({ ...label.request, paper })),
  );
  const made = placed.map(({ label: { title, copies, request }, printer }, n) => ({
    ...{ title, copies, at: printer, printer: printer?.id ?? null, forLeads: request.kind === 'badge' },
    face: faces[n] as LabelFace,
  }));
  const drawings: ReturnType<typeof drawingOf>[] = [];
  for (const { face, at } of made.length <= TOLD_AT_ONCE ? made : []) {
    drawings.push(drawingOf(face, at?.dpi));
    // One takes some milliseconds: who scans has their turn between two.
    await immediately();
  }
  const queued = made.filter((_, n) => !drawings[n] || !isFault(drawings[n]));
  await insertPrintJobs(trx, who, queued);
  announce(trx, 'labels');
  const unsaid = made.flatMap(({ face }, n) => {
    const drawing = drawings[n];
    if (!drawing) return face.unsaid === null ? [] : [face.unsaid];
    return isFault(drawing) ? [labelsSentence(drawing)] : drawing.unsaid;
  });
  return {
    jobs: queued.length,
    labels: queued.reduce((sum, q) => sum + q.copies, 0),
    unsaid,
    printers: [...new Set(queued.map((q) => q.at?.name ?? ''))].filter((name) => name !== ''),
    fault: drawings.find(isFault),
  };
}

/** Prints labels of an item as they belong into a bin: with its price where customers look, which is then what stands on that shelf. */
export async function printItemLabels(
  trx: Trx,
  of: { person: number; site: number; item: number; bin: number; copies: number },
): Promise<void> {
  const item = await findItem(trx, of.item);
  const price = await priceAt(trx, of.item, of.bin);
  const label = await itemLabel(trx, item, { lot: null, expires: null, serial: null, copies: of.copies, bin: of.bin });
  await queueLabels(trx, { person: of.person, site: of.site, handheld: null, size: null, printer: null }, [label]);
  if (price !== null) await noteShelfLabels(trx, of.site, [{ bin: of.bin, item: of.item }]);
}

const binsOf = async (trx: Trx, site: number, zone: WantedBins): Promise<number[]> =>
  (await selectBinFaces(trx, site, zone)).map((b) => b.id);

/** Draws labels as one PDF and keeps it as a file; bins and shelves count as labelled from then on. */
export async function drawLabels(
  context: JobContext<{ wanted: BodyOf<Routes['labels.pdf']>['wanted']; first: number; role: Role }>,
): Promise<{ state: 'done'; result: unknown }> {
  const { db, job } = context;
  const { wanted: body, first, role } = job.input;
  const wanted = await labelsWanted(db, body, { role, site: { id: job.site } }, MOST_IN_PDF);
  const { sheet, ...paper } = body.size === undefined ? { sheet: null } : await findPaper(db, body.size);
  const one = await facesOf(
    db,
    job.site,
    wanted.map((w) => ({ ...w.request, ...formIn(body), ...('widthMm' in paper ? { paper } : {}) })),
  );
  const faces = wanted.flatMap(({ copies }, n) => Array.from({ length: copies }, () => one[n] as LabelFace));
  const request: PdfRequest = { faces, sheet, first, logos: await loadLogos(db, faces) };
  const { pdf, faults, unsaid } = await askHelper<{ pdf: Uint8Array; faults: string[]; unsaid: string[] }>('labels', request, {
    what: 'Drawing the labels',
    signal: context.signal,
    progress: (done, total) => void context.progress(done, total).catch(() => undefined),
  });
  const result = await context.apply(async (trx) => {
    // What changed while it was drawn, a price or an address, is still to be printed.
    const now = await labelsWanted(trx, body, { role, site: { id: job.site } }, MOST_IN_PDF);
    if (JSON.stringify(now) === JSON.stringify(wanted)) await noteWanted(trx, body, job.site);
    const kept = await keepFile(trx, {
      name: `labels-${job.id}.pdf`,
      type: 'application/pdf',
      bytes: Buffer.from(pdf),
      ...{ thumb: null, person: job.person, forLeads: body.kind === 'badge' },
    });
    return { file: kept.id, labels: faces.length - faults.length, unsaid: [...new Set([...faults, ...unsaid])] };
  });
  return { state: 'done', result };
}
