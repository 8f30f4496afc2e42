import { z } from 'zod';
import {
  byId,
  costOut,
  done,
  id,
  isoDate,
  moment,
  optionalText,
  page,
  qtyIn,
  qtyOut,
  routesOf,
  sortBy,
  text,
  version,
} from '../base/index.ts';
import { amount } from '../items/index.ts';

const state = z.enum(['draft', 'open', 'closed', 'cancelled']);

export const PurchaseRow = z.object({
  id: z.number(),
  number: z.string(),
  supplier: z.string(),
  supplierId: z.number(),
  state,
  due: isoDate,
  /** Due before today at its site, and expected still. */
  late: z.boolean(),
  lines: z.number(),
  openLines: z.number(),
  partly: z.boolean(),
  total: costOut,
  made: moment,
  sent: z.boolean(),
});
export type PurchaseRow = z.infer<typeof PurchaseRow>;
export const PurchaseLine = z.object({
  id: z.number(),
  item: z.number(),
  code: z.string(),
  description: z.string(),
  unit: z.string(),
  partNo: z.string(),
  qty: qtyOut,
  received: qtyOut,
  closed: z.boolean(),
  cost: z.string(),
  total: z.string(),
  packs: z.array(z.object({ name: z.string(), units: qtyOut })),
});
export type PurchaseLine = z.infer<typeof PurchaseLine>;
const stamp = z.object({ at: moment, by: z.string() }).nullable();
export const Purchase = PurchaseRow.extend({
  site: z.string(),
  reference: z.string(),
  note: z.string(),
  version: z.number(),
  madeBy: z.string().nullable(),
  approved: stamp,
  sentAs: z.enum(['pdf', 'ubl', 'other']).nullable(),
  sentStamp: stamp,
  ended: z.object({ at: moment, by: z.string(), why: z.string() }).nullable(),
  lineList: z.array(PurchaseLine),
  deliveries: z.array(
    z.object({ id: z.number(), number: z.string(), state: z.enum(['scanning', 'review', 'posted', 'thrown']), touched: moment }),
  ),
});
export type Purchase = z.infer<typeof Purchase>;

const lineIn = z.object({
  item: id,
  qty: qtyIn,
  cost: amount.optional().describe('Of one base unit; what the supplier takes for it where it is left out'),
});
const dueIn = isoDate;

/** By what a list of purchase orders can be ordered. */
export const PURCHASE_SORTS = ['number', 'supplier', 'due', 'state', 'lines', 'openLines', 'total'] as const;

export const ReorderRow = z.object({
  item: z.number(),
  code: z.string(),
  description: z.string(),
  unit: z.string(),
  here: qtyOut,
  coming: qtyOut,
  drafted: qtyOut,
  promised: qtyOut,
  waiting: qtyOut,
  used: qtyOut,
  leadDays: z.number(),
  least: qtyOut.nullable(),
  most: qtyOut.nullable(),
  pack: z.object({ id: z.number(), name: z.string(), units: qtyOut }),
  packs: z.array(z.object({ id: z.number(), name: z.string(), units: qtyOut })),
  position: qtyOut,
  leadUse: qtyOut,
  level: qtyOut,
  upTo: qtyOut,
  buy: qtyOut,
  buyPacks: z.number(),
  reason: z.enum(['waiting', 'least', 'use']).nullable(),
  supplier: z.object({ id: z.number(), name: z.string(), cost: z.string(), partNo: z.string() }).nullable(),
});
export type ReorderRow = z.infer<typeof ReorderRow>;

export const SupplierRow = z.object({
  id: z.number(),
  code: z.string(),
  name: z.string(),
  open: z.number().describe('Orders that are still to come'),
  over: z.string().describe('Percent more than was ordered that are as good as ordered'),
  short: z.string().describe('Percent fewer after which nothing more is expected'),
});
export type SupplierRow = z.infer<typeof SupplierRow>;
const percent = z
  .string()
  .regex(/^\d{1,3}([.,]\d{1,2})?$/, 'must be a percentage such as 5 or 2.5')
  .transform((t) => t.replace(',', '.'))
  .refine((t) => Number(t) <= 100, 'must be at most 100');

export const purchasingRoutes = routesOf({
  'purchasing.list': {
    method: 'GET',
    path: '/api/purchasing/orders',
    allow: ['lead', 'office'],
    act: 'See the purchase orders',
    query: z.object({
      q: optionalText(60),
      state: z.enum(['draft', 'open', 'closed', 'cancelled', 'all']).default('all'),
      supplier: id.optional(),
      from: isoDate.optional(),
      to: isoDate.optional(),
      sort: sortBy(PURCHASE_SORTS),
      ...page,
    }),
    reply: z.object({ orders: z.array(PurchaseRow), next: z.string().nullable() }),
  },
  'purchasing.order': {
    method: 'GET',
    path: '/api/purchasing/orders/:id',
    allow: ['lead', 'office'],
    act: 'See a purchase order',
    params: byId,
    reply: Purchase,
  },
  'purchasing.make': {
    method: 'POST',
    path: '/api/purchasing/orders',
    allow: ['lead', 'office'],
    act: 'Make a purchase order',
    body: z.object({
      supplier: id,
      due: dueIn,
      note: optionalText(500),
      reference: optionalText(60),
      lines: z.array(lineIn).min(1, 'must have one line at least').max(1000, 'must have at most 1000 lines'),
    }),
    reply: z.object({ id: z.number(), number: z.string() }),
  },
  'purchasing.change': {
    method: 'POST',
    path: '/api/purchasing/orders/:id',
    allow: ['lead', 'office'],
    act: 'Change a purchase order',
    params: byId,
    body: z.object({
      version,
      due: dueIn,
      note: optionalText(500),
      lines: z
        .array(lineIn.extend({ line: id.nullable() }))
        .min(1, 'must have one line at least')
        .max(1000, 'must have at most 1000 lines'),
    }),
    reply: z.object({ version: z.number(), state }),
  },
  'purchasing.approve': {
    method: 'POST',
    path: '/api/purchasing/orders/:id/approve',
    allow: ['lead', 'office'],
    act: 'Approve a purchase order',
    params: byId,
    body: z.object({ version }),
    reply: done,
  },
  'purchasing.sent': {
    method: 'POST',
    path: '/api/purchasing/orders/:id/sent',
    allow: ['lead', 'office'],
    act: 'Say that a purchase order was sent',
    params: byId,
    body: z.object({ as: z.enum(['pdf', 'ubl', 'other']) }),
    reply: done,
  },
  'purchasing.cancel': {
    method: 'POST',
    path: '/api/purchasing/orders/:id/cancel',
    allow: ['lead', 'office'],
    act: 'Cancel a purchase order',
    params: byId,
    body: z.object({ reason: text(200) }),
    reply: done,
  },
  'purchasing.close': {
    method: 'POST',
    path: '/api/purchasing/orders/:id/close',
    allow: ['lead', 'office'],
    act: 'Close a purchase order short',
    params: byId,
    body: z.object({ reason: text(200) }),
    reply: done,
  },
  'purchasing.takeUp': {
    method: 'POST',
    path: '/api/purchasing/orders/:id/take-up',
    allow: ['lead', 'office'],
    act: 'Take a purchase order up again',
    params: byId,
    reply: done,
  },
  'purchasing.import': {
    method: 'POST',
    path: '/api/purchasing/import',
    allow: ['lead', 'office'],
    act: 'Import purchase orders',
    body: z.object({ file: id }),
    reply: z.object({ job: z.number() }),
  },
  'purchasing.suppliers': {
    method: 'GET',
    path: '/api/purchasing/suppliers',
    allow: ['lead', 'office'],
    act: 'See the suppliers',
    reply: z.object({ suppliers: z.array(SupplierRow) }),
  },
  'purchasing.agree': {
    method: 'POST',
    path: '/api/purchasing/suppliers/:id/agreed',
    allow: ['lead', 'office'],
    act: 'Say what is agreed with a supplier',
    params: byId,
    body: z.object({ over: percent, short: percent }),
    reply: done,
  },
  'purchasing.reorder': {
    method: 'GET',
    path: '/api/purchasing/reorder',
    allow: ['lead', 'office'],
    act: 'See what to buy',
    query: z.object({ supplier: id.optional(), item: id.optional() }),
    reply: z.object({ days: z.number(), rows: z.array(ReorderRow), levels: z.number() }),
  },
  'purchasing.setLevel': {
    method: 'POST',
    path: '/api/purchasing/levels',
    allow: ['lead', 'office'],
    act: 'Say how much of an item there should be',
    body: z.object({ item: id, least: qtyIn.nullable(), most: qtyIn.nullable(), pack: id.nullable() }),
    reply: done,
  },
  'purchasing.draft': {
    method: 'POST',
    path: '/api/purchasing/drafts',
    allow: ['lead', 'office'],
    act: 'Make drafts of what to buy',
    body: z.object({
      lines: z
        .array(z.object({ item: id, supplier: id.nullable(), qty: qtyIn }))
        .min(1, 'must have one line at least')
        .max(2000, 'must have at most 2000 lines'),
    }),
    reply: z.object({
      orders: z.array(z.object({ id: z.number(), number: z.string(), supplier: z.string(), lines: z.number() })),
    }),
  },
});
