import { moneyText } from '#core/base';
import { composeLabel, labelsSentence, type LabelFault, type LabelRequest, type LabelSize } from '#core/labels';
import {
  announce,
  askHelper,
  keepFile,
  keysetOf,
  keysetText,
  query,
  refuse,
  startJob,
  type JobContext,
  type RoomHandlers,
  type Trx,
} from '#server/kernel';
import type { BodyOf, Routes } from '#contract';
import { findItem, selectFirstBarcode } from '#server/items';
import { selectHouse } from '#server/people';
import { drawingOf, isFault } from './draw.ts';
import { selectUnitNumbers, takeUnitNumbers, updateUnitPrefix } from './store-units.ts';
import {
  insertPrintJobs,
  noteBinLabels,
  noteShelfLabels,
  retryPrintJob,
  selectBinFaces,
  selectWrongLabels,
  selectWrongLabelsSorted,
  type WantedBins,
} from './store.ts';

const MOST = 2000;
const MOST_IN_PDF = 5000;
type Wanted = { title: string; request: LabelRequest; copies: number };

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

async function labelsWanted(trx: Trx, body: BodyOf<Routes['labels.print']>, site: number): Promise<Wanted[]> {
  switch (body.kind) {
    case 'bins':
    case 'zone':
      return binLabels(trx, site, body);
    case 'shelf':
      return shelfLabels(trx, body.pairs);
    case 'item': {
      const { copies, lot, serial } = body;
      const item = await findItem(trx, body.item);
      const [known] = lot
        ? await query<{ expires: string | null }>(trx, `SELECT expires FROM lot WHERE item_id = ? AND code = ?`, [item.id, lot])
        : [];
      return [
        await itemLabel(trx, item, {
          lot: lot || null,
          expires: known?.expires ?? null,
          serial: serial || null,
          copies,
          bin: body.bin ?? null,
        }),
      ];
    }
    case 'order': {
      const [order] = await query<{ number: string; customer: string }>(
        trx,
        `SELECT o.number, c.name AS customer FROM customer_order o JOIN order_party c ON c.order_id = o.id WHERE o.id = ?`,
        [body.order],
      );
      if (!order) return refuse({ code: 'orders.unknownOrder', text: String(body.order) });
      return [{ title: `Order ${order.number}`, request: { kind: 'order', ...order }, copies: 1 }];
    }
    case 'unitsAhead': {
      const { company } = await selectHouse(trx);
      const numbers = await takeUnitNumbers(trx, body.count);
      return numbers.map((sscc) => ({ title: `Unit ${sscc}`, request: { kind: 'unit', sscc, company, contents: [] }, copies: 1 }));
    }
    case 'unit': {
      const { sscc, copies } = body;
      const goods = await query<{ code: string; qty: string; unit: string; lot: string | null }>(
        trx,
        `SELECT i.code, trim_scale(sum(b.qty))::text AS qty, i.base_unit AS unit, l.code AS lot
         FROM logistic_unit u
         JOIN balance b ON b.unit_id = u.id
         JOIN item i ON i.id = b.item_id
         LEFT JOIN lot l ON l.id = b.lot_id
         WHERE u.sscc = ?
         GROUP BY i.id, l.id
         ORDER BY i.code, l.code`,
        [sscc],
      );
      if (goods.length === 0) refuse({ code: 'stock.unitEmpty', sscc });
      const contents = goods.map((g) => `${g.qty} ${g.unit} ${g.code}${g.lot ? `, lot ${g.lot}` : ''}`);
      const { company } = await selectHouse(trx);
      return [{ title: `Unit ${sscc}`, request: { kind: 'unit', sscc, company, contents }, copies }];
    }
    case 'delivery': {
      const entries = await query<{
        id: number;
        lot: string | null;
        expires: string | null;
        serial: string | null;
        copies: number;
        site_id: number;
      }>(
        trx,
        `SELECT e.item_id AS id, e.lot, max(e.expires) AS expires, e.serial, ceil(sum(e.qty))::int AS copies, d.site_id
         FROM delivery_entry e
         JOIN delivery d ON d.id = e.delivery_id
         WHERE d.id = ? AND d.site_id = ? AND e.taken_out_at IS NULL
         GROUP BY e.item_id, e.lot, e.serial, d.site_id
         ORDER BY e.item_id, e.lot, e.serial`,
        [body.delivery, site],
      );
      if (entries.length === 0) refuse({ code: 'receiving.unknownDelivery', id: body.delivery });
      const labels: Wanted[] = [];
      for (const entry of entries) labels.push(await itemLabel(trx, await findItem(trx, entry.id), entry));
      return labels;
    }
  }
}

async function itemLabel(
  trx: Trx,
  item: { id: number; code: string; description: string },
  of: { lot: string | null; expires: string | null; serial: string | null; copies: number; bin?: number | null },
): Promise<Wanted> {
  const barcode = await selectFirstBarcode(trx, item.id);
  const { company } = await selectHouse(trx);
  const which = of.serial ? ` ${of.serial}` : of.lot ? ` lot ${of.lot}` : '';
  return {
    title: `${item.code}${which}`,
    copies: Math.max(1, of.copies),
    request: {
      kind: 'item',
      code: item.code,
      description: item.description,
      barcode,
      company,
      price: of.bin ? await priceAt(trx, item.id, of.bin) : null,
      lot: of.lot,
      expires: of.expires,
      serial: of.serial,
    },
  };
}

// So many are laid out before they are queued, so that who prints them is told at once what they do not say; of more the queue tells.
const TOLD_AT_ONCE = 24;

// Returns what these labels do not say, a sentence for each. One that cannot be is left out, and said.
async function queueLabels(
  trx: Trx,
  person: number,
  wanted: readonly Wanted[],
): Promise<{ jobs: number; labels: number; unsaid: string[]; fault: LabelFault | undefined }> {
  const made = wanted.map(({ title, copies, request }) => ({ title, copies, face: composeLabel(request) }));
  const drawings = made.length <= TOLD_AT_ONCE ? made.map((m) => drawingOf(m.face)) : [];
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

// The price of an item in a bin, in the words of a label; null where no customer looks (D3).
async function priceAt(trx: Pick<Trx, 'raw'>, item: number, bin: number): Promise<string | null> {
  const [row] = await query<{ price: string }>(
    trx,
    `SELECT round(amount_on(?, 'price', today_in(s.time_zone)), 2)::text AS price
     FROM bin b
     JOIN zone z ON z.id = b.zone_id
     JOIN site s ON s.id = z.site_id
     WHERE b.id = ? AND z.shows_price`,
    [item, bin],
  );
  return row ? moneyText(row.price, (await selectHouse(trx)).currency) : null;
}

async function binLabels(trx: Trx, site: number, wanted: WantedBins & { size: LabelSize }): Promise<Wanted[]> {
  const bins = await selectBinFaces(trx, site, wanted);
  if (bins.length === 0) refuse({ code: 'places.unknownBin', text: 'without a label' });
  if (bins.length > MOST) refuse({ code: 'labels.tooMany', asked: bins.length, most: MOST });
  await noteBinLabels(trx, bins);
  return bins.map(({ id: _, ...b }) => ({ title: `Bin ${b.address}`, request: { kind: 'bin', ...b, size: wanted.size }, copies: 1 }));
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

async function shelfLabels(trx: Trx, pairs: readonly { bin: number; item: number }[]): Promise<Wanted[]> {
  const rows = await query<{ code: string; description: string; barcode: string | null; price: string; bin: string }>(
    trx,
    `SELECT i.code, i.description, b.address AS bin,
       first_barcode(i.id) AS barcode,
       round(amount_on(i.id, 'price', today_in(s.time_zone)), 2)::text AS price
     FROM unnest(?::int[], ?::int[]) AS x(bin, item)
     JOIN item i ON i.id = x.item
     JOIN bin b ON b.id = x.bin
     JOIN zone z ON z.id = b.zone_id
     JOIN site s ON s.id = z.site_id
     WHERE z.shows_price
     ORDER BY b.walk, b.id, i.code`,
    [pairs.map((p) => p.bin), pairs.map((p) => p.item)],
  );
  await noteShelfLabels(trx, pairs);
  const { currency } = await selectHouse(trx);
  return rows.map((r) => ({
    title: `Price of ${r.code} in ${r.bin}`,
    request: { kind: 'shelf', ...r, price: moneyText(r.price, currency) },
    copies: 1,
  }));
}
