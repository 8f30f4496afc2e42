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
import { contentsHandlers, facesOf, loadLogos } from './contents.ts';
import { drawingOf, drawSvg, isFault, type PdfRequest } from './draw.ts';
import { selectUnitNumbers, updateUnitPrefix } from './store-units.ts';
import { noteBinLabels, noteShelfLabels, selectBinFaces, selectWrongLabels, selectWrongLabelsSorted } from './store.ts';
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
    if (wanted.length === 0) return { jobs: 0, labels: 0, unsaid: [], printers: [] };
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
  'labels.pdf': async (trx, { me, body }) => {
    const faces = await selectBinFaces(trx, me.site.id, body);
    if (faces.length === 0) refuse({ code: 'places.unknownBin', text: 'to label' });
    if (faces.length > MOST_IN_PDF) refuse({ code: 'labels.tooMany', asked: faces.length, most: MOST_IN_PDF });
    const job = await startJob(trx, {
      kind: 'labels.pdf',
      title: faces.length === 1 ? `Label of bin ${faces[0]?.address ?? ''} as PDF` : `${faces.length} bin labels as PDF`,
      person: me.id,
      site: me.site.id,
      input: { bins: faces.map((f) => f.id), size: body.size, first: body.first },
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
      await noteShelfLabels(trx, pairs);
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
    await updateUnitPrefix(trx, body.prefix);
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
  if (paper?.sheet) refuse({ code: 'labels.sheetIsPdf' });
  return ({ request, zone }) => {
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
  const choose = await chooser(trx, who);
  const placed = wanted.map((label) => ({ label, ...choose(label) }));
  const faces = await facesOf(
    trx,
    who.site,
    placed.map(({ label, paper }) => ({ ...label.request, paper })),
  );
  const made = placed.map(({ label: { title, copies }, printer }, n) => ({
    ...{ title, copies, at: printer, printer: printer?.id ?? null },
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
  if (price !== null) await noteShelfLabels(trx, [{ bin: of.bin, item: of.item }]);
}

/** Draws the labels of bins as one PDF and keeps it as a file; the bins count as labelled from then on. */
export async function drawBinLabels(
  context: JobContext<{ bins: number[]; size: string; first: number }>,
): Promise<{ state: 'done'; result: unknown }> {
  const { db, job } = context;
  const bins = await selectBinFaces(db, job.site, job.input);
  const { sheet, ...paper } = await findPaper(db, job.input.size);
  const faces = await facesOf(
    db,
    job.site,
    bins.map(({ id: _, zoneId: __, ...b }) => ({ kind: 'bin', ...b, paper })),
  );
  const request: PdfRequest = { faces, sheet, first: job.input.first, logos: await loadLogos(db, faces) };
  const { pdf, faults } = await askHelper<{ pdf: Uint8Array; faults: string[] }>('labels', request, {
    what: 'Drawing the labels',
    signal: context.signal,
    progress: (done, total) => void context.progress(done, total).catch(() => undefined),
  });
  const result = await context.apply(async (trx) => {
    await noteBinLabels(trx, bins);
    const kept = await keepFile(trx, {
      name: `bin-labels-${job.id}.pdf`,
      type: 'application/pdf',
      bytes: Buffer.from(pdf),
      thumb: null,
      person: job.person,
    });
    return { file: kept.id, labels: bins.length - faults.length, unsaid: faults };
  });
  return { state: 'done', result };
}
