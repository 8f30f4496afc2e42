import express, { type Request, type Response, type Router } from 'express';
import { z } from 'zod';
import { composeLabel, LABEL_SIZES, type LabelSize } from '#core/labels';
import { isAllowed, type Role } from '#core/people';
import { id } from '#contract/base';
import type { Me } from '#contract/people';
import { ROUTES } from '#contract';
import { query, refuse, writeCsv, writeXlsx, type House, type SheetColumn } from '#server/kernel';
import { HOME_SHEET, itemSheet, selectFilteredItems, selectHomes, selectItemRecords } from '#server/items';
import { labelsPdf, selectBinFaces } from '#server/labels';
import { BIN_SHEET, selectBinRecords } from '#server/places';
import { selectStock } from '#server/stock';

type Table = { readonly columns: readonly SheetColumn<never>[]; readonly rows: readonly unknown[] };
type Download = {
  readonly allow: readonly Role[];
  readonly act: string;
  readonly table: (house: House, me: Me, req: Request) => Promise<Table>;
};

const STOCK_SHEET: readonly SheetColumn<Awaited<ReturnType<typeof selectStock>>[number]>[] = [
  { title: 'Item', of: (r) => r.code },
  { title: 'Description', of: (r) => r.description, width: 40 },
  { title: 'Group', of: (r) => r.group },
  { title: 'Supplier', of: (r) => r.supplier },
  { title: 'Site', of: (r) => r.site },
  { title: 'Zone', of: (r) => r.zone },
  { title: 'Bin', of: (r) => r.bin },
  { title: 'Lot', of: (r) => r.lot },
  { title: 'Serial', of: (r) => r.serial },
  { title: 'Condition', of: (r) => r.condition },
  { title: 'Quantity', of: (r) => Number(r.qty) },
  { title: 'Unit', of: (r) => r.unit },
  { title: 'Cost', of: (r) => Number(r.cost) },
  { title: 'Value', of: (r) => Number(r.value) },
];

/** What can be carried away as a sheet. `?template=1` gives the columns with no rows: the form that import wants. */
const DOWNLOADS: Readonly<Record<string, Download>> = {
  bins: {
    allow: [],
    act: 'Export the bins',
    table: async (house, me) => ({
      columns: BIN_SHEET as never,
      rows: (await selectBinRecords(house.db, me.site.id)).filter((b) => !b.isRetired),
    }),
  },
  items: {
    allow: ['lead', 'office'],
    act: 'Export the items',
    table: async (house, me, req) => {
      const { q, group, supplier, free, retired } = ROUTES['items.search'].query.parse({
        ...req.query,
        template: undefined,
        workingAt: undefined,
      });
      const filter = { site: me.site.id, group: group || undefined, supplier, onlyFree: free === 'yes', retired: retired === 'yes' };
      const isAll = !q && !filter.group && !supplier && !filter.onlyFree && !filter.retired;
      const ids = isAll ? null : await selectFilteredItems(house.db, filter, q ?? '');
      return { columns: (await itemSheet(house.db)) as never, rows: await selectItemRecords(house.db, me.site.id, ids) };
    },
  },
  homes: {
    allow: [],
    act: 'Export the home bins',
    table: async (house, me) => ({ columns: HOME_SHEET as never, rows: await selectHomes(house.db, me.site.id) }),
  },
  stock: {
    allow: ['lead', 'office'],
    act: 'Export the stock list',
    table: async (house, _me, req) => {
      const filter = ROUTES['stock.list'].query.parse({ ...req.query, template: undefined, workingAt: undefined });
      return { columns: STOCK_SHEET as never, rows: await selectStock(house.db, { ...filter, after: null, limit: 1_000_000 }) };
    },
  },
};

const MOST_LABELS = 5000;
const LabelQuery = z.object({
  zone: id.optional(),
  bins: z
    .string()
    .regex(/^\d{1,9}(,\d{1,9})*$/)
    .optional(),
  only: z.enum(['all', 'unlabelled']).default('all'),
  size: z.enum(Object.keys(LABEL_SIZES) as [LabelSize, ...LabelSize[]]).default('shelf'),
});

/** Sheets and label PDFs to carry away. Names end in what they are: `/api/download/bins.csv`, `/api/download/bins.xlsx`, `/api/download/bin-labels.pdf`. */
export function downloads(house: House): Router {
  const router = express.Router();
  router.get('/api/download/bin-labels.pdf', (req, res, next) => void binLabels(house, req, res).catch(next));
  router.get('/api/download/:name.:format', (req, res, next) => void sheet(house, req, res).catch(next));
  return router;
}

function allowed(req: Request, allow: readonly Role[], act: string): Me {
  const me = req.me;
  if (!isAllowed(me?.role ?? null, allow)) refuse(me ? { code: 'people.noRight', role: me.role, act } : { code: 'people.signInFirst' });
  return me as Me;
}

async function sheet(house: House, req: Request, res: Response): Promise<void> {
  const { name = '', format = '' } = req.params as Record<string, string>;
  const download = DOWNLOADS[name];
  if (!download || !['csv', 'xlsx'].includes(format)) return refuse({ code: 'request.unknownRoute', path: req.originalUrl.slice(0, 200) });
  const me = allowed(req, download.allow, download.act);
  const table = await download.table(house, me, req);
  const rows = (req.query['template'] === undefined ? table.rows : []) as never[];
  res.set('Content-Disposition', `attachment; filename="${name}.${format}"`);
  if (format === 'csv') res.type('text/csv; charset=utf-8').send(writeCsv(table.columns, rows));
  else await writeXlsx(table.columns, rows, res.type('application/vnd.openxmlformats-officedocument.spreadsheetml.sheet'));
}

async function binLabels(house: House, req: Request, res: Response): Promise<void> {
  const me = allowed(req, [], 'Print labels');
  const asked = LabelQuery.safeParse(req.query);
  if (!asked.success || (asked.data.zone === undefined && asked.data.bins === undefined))
    return refuse({ code: 'request.fields', fields: [{ field: 'zone', problem: 'a zone or bins must be named.' }] });
  const { zone, bins, only, size } = asked.data;
  const faces = bins
    ? await selectBinFaces(house.db, 'b.id = ANY(?::int[])', bins.split(',').map(Number))
    : await selectBinFaces(
        house.db,
        `b.zone_id = ? AND b.retired_at IS NULL${only === 'unlabelled' ? ' AND b.labelled_at IS NULL' : ''}`,
        zone,
      );
  if (faces.length === 0) refuse({ code: 'places.unknownBin', text: 'to label' });
  if (faces.length > MOST_LABELS) refuse({ code: 'labels.tooMany', asked: faces.length, most: MOST_LABELS });
  await query(house.db, `UPDATE bin SET labelled_at = now() WHERE id = ANY(?::int[]) AND site_id = ?`, [
    faces.map((f) => f.id),
    me.site.id,
  ]);
  res.set('Content-Disposition', 'attachment; filename="bin-labels.pdf"').type('application/pdf');
  await labelsPdf(
    faces.map(({ id: _, ...f }) => composeLabel({ kind: 'bin', ...f, size })),
    res,
  );
}
