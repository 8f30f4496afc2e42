import { setImmediate as immediately } from 'node:timers/promises';
import { composeLabel, formOf, labelsSentence, mmOf, type LabelFault, type LabelSize } from '#core/labels';
import {
  announce,
  askHelper,
  keepFile,
  keysetOf,
  keysetText,
  query,
  queryOne,
  refuse,
  startJob,
  type JobContext,
  type RoomHandlers,
  type Trx,
} from '#server/kernel';
import { findItem } from '#server/items';
import { drawingOf, drawSvg, isFault } from './draw.ts';
import { selectUnitNumbers, updateUnitPrefix } from './store-units.ts';
import {
  insertPrintJobs,
  noteBinLabels,
  noteShelfLabels,
  retryPrintJob,
  selectBinFaces,
  selectWrongLabels,
  selectWrongLabelsSorted,
} from './store.ts';
import { itemLabel, labelOfItem, labelsWanted, MOST, priceAt, type Wanted } from './wanted.ts';

const MOST_IN_PDF = 5000;

export const labelsHandlers: RoomHandlers<'labels'> = {
  'labels.print': async (trx, { me, body }) => {
    const wanted = await labelsWanted(trx, body, me.site.id);
    if (wanted.length === 0) return { jobs: 0, labels: 0, unsaid: [] };
    const labels = wanted.reduce((sum, w) => sum + w.copies, 0);
    if (labels > MOST) refuse({ code: 'labels.tooMany', asked: labels, most: MOST });
    const { fault, ...queued } = await queueLabels(trx, me.id, wanted);
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
      input: { bins: faces.map((f) => f.id), size: body.size },
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
      total: (await selectWrongLabels(db, id, asked.day ?? null, null, 1)).total,
    }));
    return { sites: (await Promise.all(counts)).filter((s) => s.total > 0) };
  },
  'labels.jobs': async (db) => {
    const rows = await query<{
      id: number;
      title: string;
      copies: number;
      state: 'waiting' | 'printed' | 'failed';
      said: string | null;
      by: string;
      at: Date;
      svg: string | null;
    }>(
      db,
      `SELECT j.id, j.title, j.copies, j.state, j.said, p.name AS by, j.at, j.svg
       FROM print_job j
       JOIN person p ON p.id = j.person_id
       ORDER BY j.id DESC
       LIMIT 40`,
    );
    return { jobs: rows.map((r) => ({ ...r, at: r.at.toISOString() })) };
  },
  'labels.preview': async (db, { me, query: asked }) => {
    const { request } = await labelOfItem(db, asked);
    const face = composeLabel(request);
    const drawing = drawingOf(face);
    const { onHand } = await queryOne<{ onHand: number }>(
      db,
      `SELECT ceil(coalesce(sum(b.qty), 0))::float8 AS "onHand"
       FROM balance b
       JOIN bin ON bin.id = b.bin_id
       LEFT JOIN lot l ON l.id = b.lot_id
       WHERE b.item_id = ? AND bin.site_id = ? AND (? = '' OR l.code = ?)`,
      [asked.item, me.site.id, asked.lot ?? '', asked.lot ?? ''],
    );
    const { widthMm, heightMm } = face;
    const forms = [...new Set(face.code.ways.map((way) => formOf(way.symbology)))];
    const said = isFault(drawing)
      ? { svg: null, form: null, moduleMm: null, unsaid: [labelsSentence(drawing)] }
      : {
          svg: drawSvg(drawing),
          form: formOf(drawing.symbol.symbology),
          moduleMm: mmOf(drawing.symbol.module, drawing.dpi),
          unsaid: [...drawing.unsaid],
        };
    return { ...said, widthMm, heightMm, forms, onHand };
  },
  'labels.units': async (db) => selectUnitNumbers(db),
  'labels.setUnitPrefix': async (trx, { body }) => {
    await updateUnitPrefix(trx, body.prefix);
    announce(trx, 'labels');
    return { ok: true };
  },
  'labels.again': async (trx, { params }) => {
    if (!(await retryPrintJob(trx, params.id))) refuse({ code: 'labels.unknownJob', id: params.id });
    announce(trx, 'labels');
    return { ok: true };
  },
};

// So many are laid out before they are queued, so that who prints them is told at once what they do not say; of more the queue tells.
const TOLD_AT_ONCE = 24;

// Returns what these labels do not say, a sentence for each. One that cannot be is left out, and said.
async function queueLabels(
  trx: Trx,
  person: number,
  wanted: readonly Wanted[],
): Promise<{ jobs: number; labels: number; unsaid: string[]; fault: LabelFault | undefined }> {
  const made = wanted.map(({ title, copies, request }) => ({ title, copies, face: composeLabel(request) }));
  const drawings: ReturnType<typeof drawingOf>[] = [];
  for (const { face } of made.length <= TOLD_AT_ONCE ? made : []) {
    drawings.push(drawingOf(face));
    // One takes some milliseconds: who scans has their turn between two.
    await immediately();
  }
  const queued = made.filter((_, n) => !drawings[n] || !isFault(drawings[n]));
  await insertPrintJobs(trx, person, queued);
  announce(trx, 'labels');
  const unsaid = made.flatMap(({ face }, n) => {
    const drawing = drawings[n];
    if (!drawing) return face.unsaid === null ? [] : [face.unsaid];
    return isFault(drawing) ? [labelsSentence(drawing)] : drawing.unsaid;
  });
  return { jobs: queued.length, labels: queued.reduce((sum, q) => sum + q.copies, 0), unsaid, fault: drawings.find(isFault) };
}

/** Prints labels of an item as they belong into a bin: with its price where customers look, which is then what stands on that shelf. */
export async function printItemLabels(trx: Trx, of: { person: number; item: number; bin: number; copies: number }): Promise<void> {
  const item = await findItem(trx, of.item);
  const price = await priceAt(trx, of.item, of.bin);
  const labels = [await itemLabel(trx, item, { lot: null, expires: null, serial: null, copies: of.copies, bin: of.bin })];
  await queueLabels(trx, of.person, labels);
  if (price !== null) await noteShelfLabels(trx, [{ bin: of.bin, item: of.item }]);
}

/** Draws the labels of bins as one PDF and keeps it as a file; the bins count as labelled from then on. */
export async function drawBinLabels(context: JobContext<{ bins: number[]; size: LabelSize }>): Promise<{ state: 'done'; result: unknown }> {
  const { db, job } = context;
  const bins = await selectBinFaces(db, job.site, job.input);
  const faces = bins.map(({ id: _, ...b }) => composeLabel({ kind: 'bin', ...b, size: job.input.size }));
  const { pdf, faults } = await askHelper<{ pdf: Uint8Array; faults: string[] }>(
    'labels',
    { faces },
    {
      what: 'Drawing the labels',
      signal: context.signal,
      progress: (done, total) => void context.progress(done, total).catch(() => undefined),
    },
  );
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
