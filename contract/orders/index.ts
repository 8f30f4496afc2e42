import { z } from 'zod';
import { byId, done, id, isoDate, moment, optionalText, page, qtyIn, qtyOut, routesOf, text, sortBy } from '../base/index.ts';

const readiness = z.enum(['all', 'part', 'nothing', 'done']);
export const OrderRow = z.object({
  id: z.number(),
  number: z.string(),
  customer: z.string(),
  due: isoDate,
  /** Due before today at its site, and open still. */
  late: z.boolean(),
  priority: z.number(),
  state: z.enum(['open', 'shipped', 'cancelled']),
  heldFor: z.string().nullable(),
  lines: z.number(),
  pieces: qtyOut,
  ready: readiness,
  step: z.enum(['new', 'promised', 'onRound', 'atBench', 'packed', 'shipped', 'held', 'cancelled']),
  round: z.string().nullable(),
});
export type OrderRow = z.infer<typeof OrderRow>;
export const OrderLine = z.object({
  id: z.number(),
  item: z.number(),
  code: z.string(),
  description: z.string(),
  unit: z.string(),
  tracking: z.string(),
  qty: qtyOut,
  promised: qtyOut,
  picked: qtyOut,
  notFound: qtyOut.describe('Promised, and looked for in vain'),
  shipped: qtyOut,
  free: qtyOut,
  onOrder: qtyOut,
});
export const Order = OrderRow.extend({
  note: z.string(),
  site: z.string(),
  cancelledFor: z.string().nullable(),
  at: moment,
  lineList: z.array(OrderLine),
  shipments: z.array(z.object({ number: z.string(), at: moment, document: z.number(), parcels: z.number() })),
});
export type Order = z.infer<typeof Order>;
const lineIn = z.object({ item: id, qty: qtyIn });
const mode = z.enum(['whole', 'free']);

/** By what a list of orders can be ordered. */
export const ORDER_SORTS = ['number', 'customer', 'due', 'priority', 'lines', 'pieces'] as const;

export const ordersRoutes = routesOf({
  'orders.list': {
    method: 'GET',
    path: '/api/orders',
    allow: [],
    act: 'See the orders',
    query: z.object({
      q: optionalText(60),
      state: z.enum(['open', 'shipped', 'all']).default('open'),
      ready: z.enum(['yes']).optional(),
      sort: sortBy(ORDER_SORTS),
      ...page,
    }),
    reply: z.object({ orders: z.array(OrderRow), next: z.string().nullable() }),
  },
  'orders.order': { method: 'GET', path: '/api/orders/:id', allow: [], act: 'See an order', params: byId, reply: Order },
  'orders.make': {
    method: 'POST',
    path: '/api/orders',
    allow: ['lead', 'office'],
    act: 'Enter an order',
    body: z.object({
      customer: id,
      due: isoDate,
      priority: z.number().int().min(1).max(9).default(5),
      note: optionalText(500),
      lines: z.array(lineIn).max(500).default([]),
    }),
    reply: z.object({ id: z.number(), number: z.string() }),
  },
  'orders.addLine': {
    method: 'POST',
    path: '/api/orders/:id/lines',
    allow: ['lead', 'office'],
    act: 'Add a line',
    params: byId,
    body: lineIn,
    reply: z.object({ line: z.number() }),
  },
  'orders.promise': {
    method: 'POST',
    path: '/api/orders/promise',
    allow: ['lead', 'office'],
    act: 'Promise stock',
    body: z.object({ orders: z.array(id).min(1, 'must name at least one order').max(200), mode: mode.default('free') }),
    reply: z.object({ promised: z.number(), missing: z.array(z.object({ order: z.string(), code: z.string(), qty: qtyOut })) }),
  },
  'orders.hold': {
    method: 'POST',
    path: '/api/orders/:id/hold',
    allow: ['lead', 'office'],
    act: 'Hold an order',
    params: byId,
    body: z.object({ reason: text(200) }),
    reply: done,
  },
  'orders.release': {
    method: 'POST',
    path: '/api/orders/:id/release',
    allow: ['lead', 'office'],
    act: 'Release an order',
    params: byId,
    reply: done,
  },
});
