import { z } from 'zod';
import { byId, device, done, id, isoDate, moment, optionalText, qtyIn, qtyOut, routesOf, scanText } from '../base/index.ts';

const standing = z.enum(['waiting', 'short', 'full', 'over', 'notOrdered']);
export const PurchaseOrderRow = z.object({
  id: z.number(),
  number: z.string(),
  supplier: z.string(),
  due: isoDate,
  lines: z.number(),
  openLines: z.number(),
  partly: z.boolean(),
  delivery: z.number().nullable(),
});
export const DeliveryRow = z.object({
  id: z.number(),
  number: z.string(),
  state: z.enum(['scanning', 'review', 'posted', 'thrown']),
  supplier: z.string(),
  purchaseOrder: z.string().nullable(),
  by: z.string(),
  at: moment,
  touched: moment,
  entries: z.number(),
});
export const EntryOut = z.object({
  id: z.number(),
  item: z.number(),
  code: z.string(),
  description: z.string(),
  unit: z.string(),
  pack: z.string(),
  qty: qtyOut,
  lot: z.string().nullable(),
  expires: z.string().nullable(),
  serial: z.string().nullable(),
  expired: z.boolean(),
  by: z.string(),
  at: moment,
});
export type EntryOut = z.infer<typeof EntryOut>;
export const Delivery = DeliveryRow.extend({
  supplierDoc: z.string(),
  receipt: z.number().nullable(),
  lines: z.array(
    z.object({
      item: z.number(),
      code: z.string(),
      description: z.string(),
      unit: z.string(),
      tracking: z.string(),
      expected: qtyOut,
      arrived: qtyOut,
      difference: qtyOut,
      standing,
      waitingOrders: z.number(),
    }),
  ),
  entryList: z.array(EntryOut),
});
export type Delivery = z.infer<typeof Delivery>;

export const receivingRoutes = routesOf({
  'receiving.expected': {
    method: 'GET',
    path: '/api/purchase-orders',
    allow: [],
    act: 'See what is expected',
    reply: z.object({ orders: z.array(PurchaseOrderRow) }),
  },
  'receiving.deliveries': {
    method: 'GET',
    path: '/api/deliveries',
    allow: [],
    act: 'See the deliveries',
    query: z.object({ state: z.enum(['open', 'posted']).default('open') }),
    reply: z.object({ deliveries: z.array(DeliveryRow) }),
  },
  'receiving.start': {
    method: 'POST',
    path: '/api/deliveries',
    allow: ['lead', 'hand'],
    act: 'Start a delivery',
    body: z.object({ purchaseOrder: scanText }),
    reply: z.object({ id: z.number(), number: z.string() }),
  },
  'receiving.delivery': { method: 'GET', path: '/api/deliveries/:id', allow: [], act: 'See a delivery', params: byId, reply: Delivery },
  'receiving.scan': {
    method: 'POST',
    path: '/api/deliveries/:id/entries',
    allow: ['lead', 'hand'],
    act: 'Scan goods in',
    params: byId,
    body: z.object({
      code: scanText,
      packs: qtyIn.optional(),
      lot: optionalText(40),
      expires: isoDate.optional(),
      serial: optionalText(40),
      takeAnyway: z.boolean().default(false),
      device,
    }),
    reply: z.object({ entry: EntryOut, line: z.object({ expected: qtyOut, arrived: qtyOut, standing }) }),
  },
  'receiving.change': {
    method: 'POST',
    path: '/api/deliveries/:id/entries/:entry',
    allow: ['lead', 'hand'],
    act: 'Change an entry',
    params: z.object({ id, entry: id }),
    body: z.object({ qty: qtyIn }),
    reply: done,
  },
  'receiving.takeOut': {
    method: 'POST',
    path: '/api/deliveries/:id/entries/:entry/take-out',
    allow: ['lead', 'hand'],
    act: 'Take an entry out',
    params: z.object({ id, entry: id }),
    reply: done,
  },
  'receiving.finish': {
    method: 'POST',
    path: '/api/deliveries/:id/finish',
    allow: ['lead', 'hand'],
    act: 'Hand a delivery in for review',
    params: byId,
    reply: done,
  },
  'receiving.reopen': {
    method: 'POST',
    path: '/api/deliveries/:id/reopen',
    allow: ['lead', 'hand'],
    act: 'Scan on',
    params: byId,
    reply: done,
  },
  'receiving.post': {
    method: 'POST',
    path: '/api/deliveries/:id/post',
    allow: ['lead'],
    act: 'Post a delivery',
    params: byId,
    body: z.object({ supplierDoc: optionalText(60), closeShort: z.boolean().default(false) }),
    reply: z.object({ receipt: z.string(), pieces: qtyOut, movements: z.number(), toQuarantine: z.number() }),
  },
});
