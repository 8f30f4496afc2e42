import { z } from 'zod';
import { byId, device, done, id, isoDate, moment, optionalText, qtyIn, qtyOut, routesOf, scanText, text } from '../base/index.ts';
import { FindingOut, inspectionRoutes } from './inspect.ts';
import { invoiceRoutes } from './invoice.ts';
import { noticeRoutes } from './notices.ts';

export { InvoiceOut } from './invoice.ts';
export { NoticeOut, NoticeRow } from './notices.ts';
export { FailureReason, FindingOut, FailureOut } from './inspect.ts';

const standing = z.enum(['waiting', 'short', 'full', 'over', 'notOrdered']);
export const PurchaseOrderRow = z.object({
  id: z.number(),
  number: z.string(),
  supplier: z.string(),
  supplierId: z.number(),
  due: isoDate,
  late: z.boolean(),
  lines: z.number(),
  openLines: z.number(),
  partly: z.boolean(),
  delivery: z.number().nullable(),
  deliveryState: z.enum(['scanning', 'review']).nullable(),
});
export const DeliveryRow = z.object({
  id: z.number(),
  number: z.string(),
  state: z.enum(['scanning', 'review', 'posted', 'thrown']),
  supplier: z.string().nullable(),
  back: z
    .object({ customer: z.string().nullable(), shipment: z.object({ id: z.number(), number: z.string() }).nullable() })
    .nullable()
    .describe('Goods that a customer brings back'),
  orders: z.array(z.object({ id: z.number(), number: z.string() })).describe('The purchase orders that it is of'),
  site: z.string(),
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
  made: z.string().nullable(),
  serial: z.string().nullable(),
  sscc: z.string().nullable().describe('The logistic unit in which it came'),
  cost: z.string().nullable().describe('What one of it cost by the sheet with which it came; null for hands'),
  expired: z.boolean(),
  by: z.string(),
  byId: z.number(),
  at: moment,
  reversed: z
    .object({ id: z.number(), number: z.string(), by: z.string(), at: moment, why: z.string() })
    .nullable()
    .describe('The document that took it back after it was posted'),
  finding: FindingOut.nullable().describe('What was found by whoever looked at the goods'),
  goesTo: z.object({ bin: z.number(), address: z.string() }).nullable().describe('The bin into which it goes at once'),
  leftWith: z.string().nullable().describe('Of goods that come back: the shipment with which their serial or lot left'),
  photos: z.array(z.number()).describe('Pictures of the goods, as files'),
  handedIn: z.boolean().describe('Handed in for review: only a lead changes it now'),
  changes: z.array(
    z.object({
      by: z.string(),
      at: moment,
      was: qtyOut,
      now: qtyOut,
      expiresWas: z.string().nullable(),
      expiresNow: z.string().nullable(),
    }),
  ),
});
export type EntryOut = z.infer<typeof EntryOut>;
export const Delivery = DeliveryRow.extend({
  supplierDoc: z.string(),
  supplierDocDate: isoDate.nullable(),
  supplierId: z.number().nullable(),
  refs: z.array(z.string()).describe('The keys under which devices know it'),
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
  ...inspectionRoutes,
  ...invoiceRoutes,
  ...noticeRoutes,
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
    query: z.object({ state: z.enum(['open', 'posted', 'thrown']).default('open') }),
    reply: z.object({ deliveries: z.array(DeliveryRow) }),
  },
  'receiving.start': {
    method: 'POST',
    path: '/api/deliveries',
    allow: ['lead', 'hand'],
    act: 'Start a delivery',
    body: z.object({
      purchaseOrder: scanText.optional(),
      orders: z.array(id).max(50, 'must be at most 50 orders').optional(),
      supplier: id.nullable().optional(),
    }),
    reply: z.object({ id: z.number(), number: z.string() }),
  },
  'receiving.takeBack': {
    method: 'POST',
    path: '/api/deliveries/return',
    allow: ['lead', 'hand'],
    act: 'Take goods back',
    body: z.object({
      shipment: optionalText(60).describe('The number of the shipment, or of its order'),
      customer: id.nullable().default(null),
    }),
    reply: z.object({ id: z.number(), number: z.string(), joined: z.boolean() }),
  },
  'receiving.customer': {
    method: 'POST',
    path: '/api/deliveries/:id/customer',
    allow: ['lead', 'hand', 'office'],
    act: 'Say which customer brings goods back',
    params: byId,
    body: z.object({ customer: id }),
    reply: done,
  },
  'receiving.import': {
    method: 'POST',
    path: '/api/deliveries/import',
    allow: ['lead'],
    act: 'Receive by sheet',
    body: z.object({
      file: id,
      supplier: id.nullable().default(null),
      orders: z.array(id).max(50, 'must be at most 50 orders').default([]),
    }),
    reply: z.object({ job: z.number() }),
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
      made: isoDate.optional(),
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
  'receiving.place': {
    method: 'POST',
    path: '/api/deliveries/:id/entries/:entry/place',
    allow: ['lead', 'hand'],
    act: 'Say where goods go',
    params: z.object({ id, entry: id }),
    body: z.object({ bin: id.nullable(), qty: qtyIn }),
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
  'receiving.paper': {
    method: 'POST',
    path: '/api/deliveries/:id/paper',
    allow: ['lead', 'hand', 'office'],
    act: 'Name the supplier’s paper of a delivery',
    params: byId,
    body: z.object({ doc: optionalText(60), date: isoDate.nullable() }),
    reply: done,
  },
  'receiving.supplier': {
    method: 'POST',
    path: '/api/deliveries/:id/supplier',
    allow: ['lead', 'hand', 'office'],
    act: 'Say which supplier a delivery is of',
    params: byId,
    body: z.object({ supplier: id }),
    reply: done,
  },
  'receiving.lotDate': {
    method: 'POST',
    path: '/api/deliveries/lot-date',
    allow: ['lead'],
    act: 'Say which date a lot has',
    body: z.object({ item: id, lot: text(40), expires: isoDate }),
    reply: z.object({ entries: z.number() }),
  },
  'receiving.throwAway': {
    method: 'POST',
    path: '/api/deliveries/:id/throw-away',
    allow: ['lead', 'hand'],
    act: 'Throw a delivery away',
    params: byId,
    reply: done,
  },
  'receiving.takeUp': {
    method: 'POST',
    path: '/api/deliveries/:id/take-up',
    allow: ['lead', 'hand'],
    act: 'Take a thrown delivery up again',
    params: byId,
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
  'receiving.reverse': {
    method: 'POST',
    path: '/api/deliveries/:id/entries/:entry/reverse',
    allow: ['lead'],
    act: 'Reverse a line of a receipt',
    params: z.object({ id, entry: id }),
    body: z.object({ reason: text(200) }),
    reply: z.object({
      document: z.number(),
      number: z.string(),
      broughtBack: z.array(z.object({ bin: z.string(), qty: qtyOut })).describe('From where goods came back to where they were received'),
    }),
  },
  'receiving.post': {
    method: 'POST',
    path: '/api/deliveries/:id/post',
    allow: ['lead'],
    act: 'Post a delivery',
    params: byId,
    body: z.object({ supplierDoc: optionalText(60), closeShort: z.boolean().default(false) }),
    reply: z.object({ receipt: z.string(), pieces: qtyOut, movements: z.number(), toQuarantine: z.number(), failed: qtyOut }),
  },
});
