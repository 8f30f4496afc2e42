import { z } from 'zod';
import { MOST_LINES } from '#core/orders';
import {
  byId,
  done,
  id,
  isoDate,
  labelIn,
  moment,
  optionalLabel,
  optionalText,
  page,
  qtyIn,
  qtyOut,
  routesOf,
  text,
  sortBy,
} from '../base/index.ts';

const readiness = z.enum(['all', 'part', 'nothing', 'done']);
export const ORDER_KINDS = ['customer', 'job', 'transfer', 'counter', 'kit'] as const;
export const OrderRow = z.object({
  id: z.number(),
  number: z.string(),
  kind: z.enum(ORDER_KINDS),
  /** Who it is for: a customer, a job, another site. */
  customer: z.string(),
  reference: z.string().describe('The customer’s own number for it'),
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
  /** The first line that keeps it from being picked whole, and of how much. */
  blocked: z.object({ code: z.string(), qty: qtyOut }).nullable(),
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
  kits: z.number().nullable().describe('How many could be made of free parts, where it is a kit'),
  making: z.array(z.object({ id: z.number(), number: z.string(), left: qtyOut })).describe('Who makes some for it'),
  named: z.object({ lot: z.string().nullable(), serials: z.array(z.string()), bin: z.string().nullable() }),
  asks: z.string().nullable().describe('What it asks of its goods, in words'),
  why: z.array(z.string()).describe('Why not all of it is promised, and what would mend it'),
});
const extra = z.object({ text: text(120), qty: qtyOut });
export const Order = OrderRow.extend({
  note: z.string(),
  carrier: z.string(),
  leastLife: z.number().nullable().describe('Days that goods must keep, from its due day'),
  wholeOnly: z.boolean().describe('The customer takes it whole or not at all'),
  extras: z.array(extra.extend({ id: z.number() })).describe('What is no stock and stands on the papers'),
  site: z.string(),
  cancelledFor: z.string().nullable(),
  at: moment,
  lineList: z.array(OrderLine),
  kit: z
    .object({
      item: z.number(),
      code: z.string(),
      description: z.string(),
      qty: qtyOut,
      made: qtyOut,
      ready: qtyOut.describe('How many could be made of what is in hand'),
      for: z.object({ id: z.number(), number: z.string(), state: z.string() }).nullable(),
      assemblies: z.array(
        z.object({
          id: z.number(),
          number: z.string(),
          qty: qtyOut,
          at: moment,
          person: z.string(),
          document: z.number(),
          apart: z.boolean(),
        }),
      ),
    })
    .nullable()
    .describe('Of which kit its goods are the parts'),
  shipments: z.array(z.object({ number: z.string(), at: moment, document: z.number(), parcels: z.number() })),
});
export type Order = z.infer<typeof Order>;
const namedIn = {
  lot: optionalLabel(40).describe('Only of this lot'),
  serials: z.array(labelIn(60)).max(200).optional().describe('These pieces: as many as are ordered'),
  bin: optionalText(40).describe('Only from this bin'),
};
const lineIn = z.object({ item: id, qty: qtyIn, ...namedIn });
const extraIn = z.object({ text: text(120), qty: qtyIn });
const mode = z.enum(['whole', 'free']);
const days = z.number().int('must be whole days').min(0, 'must not be less than 0').max(3650, 'is more than ten years');
const headIn = {
  due: isoDate,
  priority: z.number().int().min(1).max(9).default(5),
  note: optionalText(500),
  reference: optionalText(60),
  carrier: optionalText(60),
  leastLife: days.nullable().default(null),
};
export const Customer = z.object({
  id: z.number(),
  code: z.string(),
  name: z.string(),
  address: z.string(),
  wholeOnly: z.boolean(),
  leastLife: z.number().nullable(),
  version: z.number(),
  open: z.number().describe('Orders that are open'),
});
export type Customer = z.infer<typeof Customer>;
/** What could not be promised, and why. */
export const Missing = z.object({ order: z.string(), orderId: z.number(), code: z.string(), qty: qtyOut, why: z.array(z.string()) });
export type Missing = z.infer<typeof Missing>;

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
      ready: z.enum(['yes', 'all', 'part', 'nothing']).optional().describe('“yes”: all of it, and nobody is at it'),
      kind: z.enum(ORDER_KINDS).optional(),
      due: z.enum(['today', 'late']).optional(),
      step: z.enum(['new', 'promised', 'onRound', 'atBench', 'packed', 'held']).optional(),
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
      kind: z.enum(['customer', 'job', 'transfer']).default('customer'),
      customer: id.optional(),
      job: optionalText(60),
      toSite: id.optional(),
      ...headIn,
      lines: z.array(lineIn).max(MOST_LINES, `must have at most ${MOST_LINES} lines; make two orders of it`).default([]),
      extras: z.array(extraIn).max(50).default([]),
    }),
    reply: z.object({ id: z.number(), number: z.string() }),
  },
  'orders.change': {
    method: 'POST',
    path: '/api/orders/:id/change',
    allow: ['lead', 'office'],
    act: 'Change an order',
    params: byId,
    body: z.object({ ...headIn, extras: z.array(extraIn).max(50).default([]) }),
    reply: done,
  },
  'orders.makeKit': {
    method: 'POST',
    path: '/api/kits',
    allow: ['lead', 'hand', 'office'],
    act: 'Have kits made',
    body: z.object({
      item: id,
      qty: qtyIn,
      line: id.optional().describe('The line of an order for which they are; else they go to stock'),
      due: isoDate.optional(),
    }),
    reply: z.object({ id: z.number(), number: z.string(), missing: z.array(Missing) }),
  },
  'orders.import': {
    method: 'POST',
    path: '/api/orders/import',
    allow: ['lead', 'office'],
    act: 'Read orders from a sheet',
    body: z.object({ file: id }),
    reply: z.object({ job: z.number() }),
  },
  'orders.customers': {
    method: 'GET',
    path: '/api/customers',
    allow: ['lead', 'office'],
    act: 'See the customers',
    query: z.object({ q: optionalText(60) }),
    reply: z.object({ customers: z.array(Customer) }),
  },
  'orders.saveCustomer': {
    method: 'POST',
    path: '/api/customers',
    allow: ['lead', 'office'],
    act: 'Keep a customer',
    body: z.object({
      id: id.optional(),
      version: z.number().int().optional(),
      code: text(30),
      name: text(120),
      address: optionalText(300),
      wholeOnly: z.boolean().default(false),
      leastLife: days.nullable().default(null),
    }),
    reply: z.object({ id: z.number() }),
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
  'orders.nameLine': {
    method: 'POST',
    path: '/api/orders/:id/lines/name',
    allow: ['lead', 'office'],
    act: 'Name the goods of a line',
    params: byId,
    body: z.object({ line: id, ...namedIn }),
    reply: z.object({ promised: qtyOut, was: qtyOut.describe('What was promised of it before') }),
  },
  'orders.promise': {
    method: 'POST',
    path: '/api/orders/promise',
    allow: ['lead', 'office'],
    act: 'Promise stock',
    body: z.object({
      orders: z.array(id).min(1, 'must name at least one order').max(2000, 'must name at most 2,000 orders'),
      lines: z.array(id).max(5000).optional().describe('Only these lines of them'),
      mode: mode.default('free'),
    }),
    reply: z.object({ promised: z.number().describe('Lines that got more'), missing: z.array(Missing) }),
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
