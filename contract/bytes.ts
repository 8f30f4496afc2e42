import { z } from 'zod';
import { byId, id, text, type RouteSpec } from './base/index.ts';
import { itemsRoutes } from './items/index.ts';
import { stockRoutes } from './stock/index.ts';

/** A route that answers bytes, or takes them. Its rights and what it asks are checked like those of every other. */
export type ByteRoute = Omit<RouteSpec, 'body' | 'reply' | 'plain'> & {
  /** The media types of its answer. */
  readonly gives: readonly string[];
  /** The body is a file as it is, not JSON. */
  readonly takesBytes?: true;
};

const SHEETS = ['text/csv', 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet'];
const asSheet = z.object({ format: z.enum(['csv', 'xlsx'], { error: 'must be csv or xlsx' }) });
/** `?template` gives the columns with no rows: the form that import wants. */
const template = { template: z.string().max(10).optional() };
const flag = z.string().max(10).optional();

const bytesOf = <const R extends Record<string, ByteRoute>>(routes: R): R => routes;

/** The second table of routes: files, sheets to carry away, papers, and the stream of changes. */
export const BYTE_ROUTES = bytesOf({
  'files.take': {
    method: 'POST',
    path: '/api/files',
    allow: [],
    act: 'Send a file',
    query: z.object({ name: text(200).default('The file') }),
    takesBytes: true,
    gives: ['application/json'],
  },
  'files.give': {
    method: 'GET',
    path: '/api/files/:id',
    allow: [],
    act: 'Open a file',
    params: byId,
    query: z.object({ thumb: flag }),
    gives: ['image/webp', 'application/pdf', ...SHEETS],
  },
  'items.picture': {
    method: 'GET',
    path: '/api/items/:id/picture',
    allow: [],
    act: 'See what an item looks like',
    params: byId,
    gives: ['image/webp', 'image/svg+xml'],
  },
  'sheets.bins': {
    method: 'GET',
    path: '/api/download/bins.:format',
    allow: [],
    act: 'Export the bins',
    params: asSheet,
    query: z.object(template),
    gives: SHEETS,
  },
  'sheets.homes': {
    method: 'GET',
    path: '/api/download/homes.:format',
    allow: [],
    act: 'Export the home bins',
    params: asSheet,
    query: z.object(template),
    gives: SHEETS,
  },
  'sheets.items': {
    method: 'GET',
    path: '/api/download/items.:format',
    allow: ['lead', 'office'],
    act: 'Export the items',
    params: asSheet,
    query: itemsRoutes['items.search'].query.extend(template),
    gives: SHEETS,
  },
  'sheets.stock': {
    method: 'GET',
    path: '/api/download/stock.:format',
    allow: ['lead', 'office'],
    act: 'Export the stock list',
    params: asSheet,
    query: stockRoutes['stock.list'].query.extend(template),
    gives: SHEETS,
  },
  'purchasing.paper': {
    method: 'GET',
    path: '/api/purchasing/orders/:id/order.pdf',
    allow: ['lead', 'office'],
    act: 'Print a purchase order',
    params: byId,
    gives: ['application/pdf'],
  },
  'receiving.receipt': {
    method: 'GET',
    path: '/api/deliveries/:id/receipt.pdf',
    allow: ['lead', 'office'],
    act: 'Print a receipt',
    params: byId,
    gives: ['application/pdf'],
  },
  'purchasing.ubl': {
    method: 'GET',
    path: '/api/purchasing/orders/:id/order.xml',
    allow: ['lead', 'office'],
    act: 'Save a purchase order as UBL 2.1',
    params: byId,
    gives: ['application/xml'],
  },
  'purchasing.template': {
    method: 'GET',
    path: '/api/download/purchase-orders.:format',
    allow: ['lead', 'office'],
    act: 'Take the sheet for purchase orders',
    params: asSheet,
    gives: SHEETS,
  },
  'receiving.template': {
    method: 'GET',
    path: '/api/download/received-goods.:format',
    allow: ['lead'],
    act: 'Take the sheet for received goods',
    params: asSheet,
    gives: SHEETS,
  },
  'orders.slip': {
    method: 'GET',
    path: '/api/orders/:id/slip.pdf',
    allow: [],
    act: 'Print a packing slip',
    params: z.object({ id: z.union([id, text(30)]) }),
    gives: ['application/pdf'],
  },
  'orders.template': {
    method: 'GET',
    path: '/api/download/orders.:format',
    allow: ['lead', 'office'],
    act: 'Take the sheet for orders',
    params: asSheet,
    gives: SHEETS,
  },
  'picking.sheet': {
    method: 'GET',
    path: '/api/rounds/:id/sheet.pdf',
    allow: [],
    act: 'Print a pick sheet',
    params: byId,
    gives: ['application/pdf'],
  },
  'carrying.sheet': {
    method: 'GET',
    path: '/api/carries/:id/sheet.pdf',
    allow: [],
    act: 'Print a put-away or refill sheet',
    params: byId,
    gives: ['application/pdf'],
  },
  'shipping.note': {
    method: 'GET',
    path: '/api/shipments/:number/note.pdf',
    allow: [],
    act: 'Print a delivery note',
    params: z.object({ number: text(30) }),
    gives: ['application/pdf'],
  },
  'changes.stream': {
    method: 'GET',
    path: '/api/events',
    allow: [],
    act: 'Hear what changes',
    /** `figures`: the row and home too, as data, whenever they are others. */
    query: z.object({ figures: flag }),
    gives: ['text/event-stream'],
  },
});
export type ByteRouteName = keyof typeof BYTE_ROUTES;
