import express, { type Request, type RequestHandler, type Response } from 'express';
import type { z } from 'zod';
import { ORDER_COLUMNS } from '#core/orders';
import { PURCHASE_COLUMNS } from '#core/purchasing';
import { RECEIPT_COLUMNS } from '#core/receiving';
import type { BYTE_ROUTES, ByteRouteName } from '#contract';
import type { Me } from '#contract/people';
import { refuse, writeCsv, writeXlsx, type House, type SheetColumn } from '#server/kernel';
import { givePicture, HOME_SHEET, itemSheet, selectFilteredItems, selectHomes, selectItemRecords } from '#server/items';
import { carrySheet } from '#server/carrying';
import { pickSheet } from '#server/picking';
import { BIN_SHEET, selectBinRecords } from '#server/places';
import { givePurchaseUbl, purchasePaper } from '#server/purchasing';
import { receiptPaper } from '#server/receiving';
import { deliveryNote, orderSlip } from '#server/shipping';
import { selectStock } from '#server/stock';
import { giveFile, nameOf, takeFile } from '#server/work';
import type { Streams } from './streams.ts';

type Routes = typeof BYTE_ROUTES;
type Part<K extends ByteRouteName, Name extends string> =
  Routes[K] extends Readonly<Record<Name, infer S extends z.ZodType>> ? z.output<S> : undefined;
type Asked<K extends ByteRouteName> = { readonly me: Me; readonly params: Part<K, 'params'>; readonly query: Part<K, 'query'> };
type ByteHandler<K extends ByteRouteName> = (house: House, asked: Asked<K>, req: Request, res: Response) => Promise<void> | void;

const MOST_MB = 50;

/** Reads the body of a file; refuses one that says it is too large before it is read. */
export const takeBytes: readonly RequestHandler[] = [
  (req, _res, next) => {
    const megabytes = Math.round(Number(req.get('content-length') ?? 0) / 1_000_000);
    if (megabytes > MOST_MB)
      refuse({
        code: 'file.tooLarge',
        name: nameOf(typeof req.query['name'] === 'string' ? req.query['name'] : 'The file'),
        megabytes,
        most: MOST_MB,
      });
    next();
  },
  express.raw({ type: () => true, limit: `${MOST_MB}mb` }),
];

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
const PURCHASE_SHEET: readonly SheetColumn<never>[] = PURCHASE_COLUMNS.map((c) => ({ title: c.title, of: () => '' }));
const RECEIPT_SHEET: readonly SheetColumn<never>[] = RECEIPT_COLUMNS.map((c) => ({ title: c.title, of: () => '' }));
const ORDER_SHEET: readonly SheetColumn<never>[] = ORDER_COLUMNS.map((c) => ({ title: c.title, of: () => '' }));
const MOST_STOCK_ROWS = 1_000_000;

type SheetAsked = { readonly params: { format: 'csv' | 'xlsx' }; readonly query: { template?: string | undefined } };

async function sendSheet<Row>(
  asked: SheetAsked,
  res: Response,
  name: string,
  columns: readonly SheetColumn<Row>[],
  rows: () => Promise<readonly Row[]>,
): Promise<void> {
  const table = asked.query.template === undefined ? await rows() : [];
  res.set('Content-Disposition', `attachment; filename="${name}.${asked.params.format}"`);
  if (asked.params.format === 'csv') res.type('text/csv; charset=utf-8').send(writeCsv(columns, table));
  else await writeXlsx(columns, table, res.type('application/vnd.openxmlformats-officedocument.spreadsheetml.sheet'));
}

/** Who answers each route of bytes. */
export const byteHandlers = (streams: Streams): { readonly [K in ByteRouteName]: ByteHandler<K> } => ({
  'files.take': async (house, { me, query: asked }, req, res) => {
    const bytes = Buffer.isBuffer(req.body) ? req.body : Buffer.alloc(0);
    res.json(await takeFile(house, me, { name: asked.name, bytes }));
  },
  'files.give': (house, { me, params, query: asked }, req, res) =>
    giveFile(house, me, { id: params.id, thumb: asked.thumb !== undefined }, req, res),
  'items.picture': (house, { params }, req, res) => givePicture(house, params.id, req, res),
  'sheets.bins': (house, asked, _req, res) =>
    sendSheet(asked, res, 'bins', BIN_SHEET, async () => (await selectBinRecords(house.db, asked.me.site.id)).filter((b) => !b.isRetired)),
  'sheets.homes': (house, asked, _req, res) => sendSheet(asked, res, 'homes', HOME_SHEET, () => selectHomes(house.db, asked.me.site.id)),
  'sheets.items': async (house, asked, _req, res) => {
    const { q, group, supplier, free, retired } = asked.query;
    const filter = { site: asked.me.site.id, group: group || undefined, supplier, onlyFree: free === 'yes', retired: retired === 'yes' };
    const isAll = !q && !filter.group && !supplier && !filter.onlyFree && !filter.retired;
    await sendSheet(asked, res, 'items', await itemSheet(house.db), async () =>
      selectItemRecords(house.db, asked.me.site.id, isAll ? null : await selectFilteredItems(house.db, filter, q ?? '')),
    );
  },
  'sheets.stock': (house, asked, _req, res) =>
    sendSheet(asked, res, 'stock', STOCK_SHEET, () => selectStock(house.db, { ...asked.query, after: null, limit: MOST_STOCK_ROWS })),
  'purchasing.paper': (house, { params }, _req, res) => purchasePaper(house, params, res),
  'receiving.receipt': (house, { params }, _req, res) => receiptPaper(house, params, res),
  'purchasing.ubl': (house, { params }, _req, res) => givePurchaseUbl(house, params, res),
  'purchasing.template': (_house, asked, _req, res) =>
    sendSheet({ ...asked, query: { template: '' } }, res, 'purchase-orders', PURCHASE_SHEET, () => Promise.resolve([])),
  'receiving.template': (_house, asked, _req, res) =>
    sendSheet({ ...asked, query: { template: '' } }, res, 'received-goods', RECEIPT_SHEET, () => Promise.resolve([])),
  'orders.slip': (house, { params }, _req, res) => orderSlip(house, params, res),
  'orders.template': (_house, asked, _req, res) =>
    sendSheet({ ...asked, query: { template: '' } }, res, 'orders', ORDER_SHEET, () => Promise.resolve([])),
  'carrying.sheet': (house, { params }, _req, res) => carrySheet(house, params, res),
  'picking.sheet': (house, { params }, _req, res) => pickSheet(house, params, res),
  'shipping.note': (house, { params }, _req, res) => deliveryNote(house, params, res),
  'changes.stream': (_house, { me, query: asked }, req, res) => streams.open(me, asked.figures !== undefined, req, res),
});
