import { z } from 'zod';
import {
  byId,
  condition,
  done,
  id,
  isoDate,
  labelIn,
  moment,
  optionalText,
  page,
  qtyIn,
  qtyOut,
  routesOf,
  sortBy,
  text,
} from '../base/index.ts';

/** Goods of one lot in one bin. */
export const LotRow = z.object({
  id: z.number().describe('The balance'),
  item: z.number(),
  code: z.string(),
  description: z.string(),
  unit: z.string(),
  lot: z.string(),
  made: isoDate.nullable(),
  expires: isoDate.nullable(),
  daysLeft: z.number().nullable().describe('Days from today at its site until its last; below 0 it has expired'),
  bin: z.number(),
  address: z.string(),
  site: z.string(),
  qty: qtyOut,
  condition,
  supplier: z.string().nullable(),
  receipt: z.object({ id: z.number(), number: z.string() }).nullable(),
});
export type LotRow = z.infer<typeof LotRow>;

/** By what a list of lots can be ordered. */
export const LOT_SORTS = ['code', 'lot', 'expires', 'address', 'qty', 'supplier', 'site'] as const;

export const SerialLife = z.object({
  item: z.number(),
  code: z.string(),
  description: z.string(),
  serial: z.string(),
  where: z.object({ bin: z.number(), address: z.string(), site: z.string(), condition, heldFor: z.string().nullable() }).nullable(),
  events: z.array(
    z.object({
      movement: z.number(),
      at: moment,
      what: z.enum(['received', 'entered', 'putAway', 'moved', 'picked', 'shipped', 'adjusted', 'scrapped', 'held', 'returned', 'undone']),
      from: z.string(),
      to: z.string(),
      reason: z.string(),
      by: z.string(),
      document: z.object({ id: z.number(), number: z.string() }),
      who: z.string().nullable().describe('The supplier that it came from, or the customer that it went to'),
      undone: z.boolean(),
    }),
  ),
});
export type SerialLife = z.infer<typeof SerialLife>;

/** A lot that is tied to another, near or far: `steps` numbers lie between them, 1 for the next. */
export const LotTie = z.object({
  lot: z.string(),
  of: z.string().describe('The lot that it stands next to, on the way from the one that was asked for'),
  steps: z.number(),
  qty: qtyOut,
  at: moment,
  by: z.string(),
  reason: z.string(),
  document: z.object({ id: z.number(), number: z.string() }),
});
export type LotTie = z.infer<typeof LotTie>;

export const lotsRoutes = routesOf({
  'lots.list': {
    method: 'GET',
    path: '/api/lots',
    allow: [],
    act: 'See the lots',
    query: z.object({
      q: optionalText(60),
      show: z.enum(['all', 'soon', 'expired']).default('all'),
      within: z.coerce.number().int('must be whole days').min(1, 'must be 1 at least').max(3650, 'must be 3650 at most').default(60),
      site: z.enum(['here', 'all']).default('here'),
      sort: sortBy(LOT_SORTS),
      ...page,
    }),
    reply: z.object({ lots: z.array(LotRow), next: z.string().nullable() }),
  },
  'lots.weeks': {
    method: 'GET',
    path: '/api/lots/weeks',
    allow: [],
    act: 'See what expires by week',
    query: z.object({ site: z.enum(['here', 'all']).default('here') }),
    reply: z.object({
      expired: z.object({ lots: z.number(), qty: qtyOut }),
      weeks: z.array(
        z.object({
          from: isoDate,
          days: z.number().describe('From today until the last day of the week'),
          lots: z.number(),
          sound: qtyOut,
          apart: qtyOut.describe('Failed, held or in quarantine: nobody sells it'),
        }),
      ),
    }),
  },
  'lots.relabel': {
    method: 'POST',
    path: '/api/lots/relabel',
    allow: ['lead'],
    act: 'Give goods a new lot number',
    body: z.object({ balance: id, lot: labelIn(40), expires: isoDate.nullable().default(null), qty: qtyIn, reason: text(200) }),
    reply: z.object({ document: z.number(), number: z.string(), lot: z.string() }),
  },
  'lots.ties': {
    method: 'GET',
    path: '/api/items/:id/lots/:lot/ties',
    allow: [],
    act: 'See what a lot came from and became',
    params: z.object({ id, lot: text(40) }),
    reply: z.object({ cameFrom: z.array(LotTie), became: z.array(LotTie) }),
  },
  'lots.warnings': {
    method: 'GET',
    path: '/api/lots/warnings',
    allow: [],
    act: 'See when lots are warned of',
    reply: z.object({ days: z.array(z.number()) }),
  },
  'lots.warn': {
    method: 'POST',
    path: '/api/lots/warnings',
    allow: ['lead'],
    act: 'Say when lots are warned of',
    body: z.object({
      days: z
        .array(z.number().int('must be whole days').min(1, 'must be 1 at least').max(3650, 'must be 3650 at most'))
        .min(1, 'must be one at least')
        .max(6, 'must be at most six'),
    }),
    reply: done,
  },
  'lots.workOff': {
    method: 'POST',
    path: '/api/lots/work-off',
    allow: ['lead'],
    act: 'Work expired lots off',
    body: z.object({
      balances: z.array(id).min(1, 'must name one at least').max(500, 'must be at most 500 at once'),
      to: z.enum(['quarantine', 'scrap', 'writeOff']),
      reason: text(200),
    }),
    reply: z.object({ document: z.number(), number: z.string(), lots: z.number(), bin: z.string().nullable() }),
  },
  'lots.serial': {
    method: 'GET',
    path: '/api/items/:id/serials/:serial',
    allow: [],
    act: 'See the life of a serial',
    params: byId.extend({ serial: text(60) }),
    reply: SerialLife,
  },
});
