import { z } from 'zod';
import { TRACKINGS } from '#core/items';
import {
  byId,
  bySscc,
  costOut,
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
  sortBy,
  sscc,
  text,
} from '../base/index.ts';
import { amount } from '../items/index.ts';

export const MovementRow = z.object({
  id: z.number(),
  at: moment,
  document: z.object({
    id: z.number(),
    kind: z.string(),
    number: z.string(),
    /** The paper behind it, where it has a page of its own. */
    paper: z.object({ what: z.enum(['delivery', 'order', 'round', 'count']), id: z.number() }).nullable(),
    undoable: z.boolean().describe('Whether the whole document can be taken back from here'),
  }),
  person: z.string(),
  reason: z.string(),
  item: z.object({ id: z.number(), code: z.string(), description: z.string() }),
  lot: z.string().nullable(),
  serial: z.string().nullable(),
  qty: qtyOut,
  from: z.object({ id: z.number(), address: z.string(), condition: z.string() }),
  to: z.object({ id: z.number(), address: z.string(), condition: z.string() }),
  undoneBy: z.number().nullable(),
  undoes: z.number().nullable(),
});
export type MovementRow = z.infer<typeof MovementRow>;

export const EquationOut = z.object({ onHand: qtyOut, free: qtyOut, promised: qtyOut, held: qtyOut, toInspect: qtyOut, expired: qtyOut });

export const HoldRow = z.object({
  id: z.number(),
  number: z.string(),
  what: z.string(),
  item: z.number().nullable(),
  bin: z.number().nullable(),
  qty: qtyOut,
  reason: z.string(),
  until: isoDate.nullable(),
  overdue: z.boolean(),
  standing: z.boolean().describe('Whether it takes what comes too, or means so many of the pieces that were there'),
  by: z.string(),
  at: moment,
  released: moment.nullable(),
});
export type HoldRow = z.infer<typeof HoldRow>;
const powers = z.object({ promisable: z.boolean(), pickable: z.boolean(), showsPrice: z.boolean() });
const flag = z.enum(['yes', 'no']).transform((v) => v === 'yes');
const stockFilter = {
  at: z.iso.datetime({ offset: true, error: 'must be a moment such as 2026-11-01T17:00:00Z' }).optional(),
  site: id.optional(),
  group: optionalText(60),
  supplier: id.optional(),
  q: optionalText(60),
};
export const StockRow = z.object({
  item: z.number(),
  code: z.string(),
  description: z.string(),
  group: z.string(),
  supplier: z.string(),
  unit: z.string(),
  site: z.string().nullable(),
  zone: z.string().nullable(),
  bin: z.string().nullable(),
  lot: z.string().nullable(),
  serial: z.string().nullable(),
  condition: z.string().nullable(),
  qty: qtyOut,
  cost: costOut,
  value: costOut,
});
export type StockRow = z.infer<typeof StockRow>;

/** By what lists of stock, of holds and of movements can be ordered; the ledger is a sequence, which is read from one end or the other. */
export const STOCK_SORTS = [
  'code',
  'description',
  'group',
  'supplier',
  'qty',
  'unit',
  'cost',
  'value',
  'site',
  'bin',
  'lot',
  'condition',
] as const;
export const HOLD_SORTS = ['number', 'what', 'qty', 'reason', 'until', 'by', 'at'] as const;
export const LEDGER_SORTS = ['at'] as const;

export const UnitOut = z.object({
  sscc: z.string(),
  place: z
    .object({ bin: z.number(), address: z.string(), site: z.string() })
    .nullable()
    .describe('Where it stands; null where nothing is in it any more'),
  content: z.array(
    z.object({
      item: z.number(),
      code: z.string(),
      description: z.string(),
      unit: z.string(),
      lot: z.string().nullable(),
      expires: isoDate.nullable(),
      expired: z.boolean(),
      serial: z.string().nullable(),
      condition: z.string(),
      qty: qtyOut,
    }),
  ),
});
export type UnitOut = z.infer<typeof UnitOut>;

export const stockRoutes = routesOf({
  'stock.where': {
    method: 'GET',
    path: '/api/stock/where',
    allow: [],
    act: 'See where goods lie',
    query: z.object({ q: text(60) }),
    reply: z.object({ items: z.array(z.object({ id: z.number(), code: z.string() })), bins: z.array(z.number()) }),
  },
  'stock.list': {
    method: 'GET',
    path: '/api/stock',
    allow: [],
    act: 'See the stock list',
    query: z.object({ ...stockFilter, by: z.enum(['item', 'place']).default('item'), sort: sortBy(STOCK_SORTS), ...page }),
    reply: z.object({ rows: z.array(StockRow), next: z.string().nullable() }),
  },
  'stock.value': {
    method: 'GET',
    path: '/api/stock/value',
    allow: ['lead', 'office'],
    act: 'See what the stock is worth',
    query: z.object({ ...stockFilter, by: z.enum(['group', 'supplier', 'site']).default('group') }),
    reply: z.object({ rows: z.array(z.object({ name: z.string(), items: z.number(), value: z.string() })), total: z.string() }),
  },
  'stock.holds': {
    method: 'GET',
    path: '/api/holds',
    allow: [],
    act: 'See the holds',
    query: z.object({
      show: z.enum(['open', 'released']).default('open'),
      item: id.optional(),
      bin: id.optional(),
      sort: sortBy(HOLD_SORTS),
      ...page,
    }),
    reply: z.object({ holds: z.array(HoldRow), next: z.string().nullable() }),
  },
  'stock.hold': {
    method: 'POST',
    path: '/api/holds',
    allow: ['lead', 'hand'],
    act: 'Hold stock',
    body: z
      .object({
        item: id.optional(),
        bin: id.optional(),
        lot: optionalLabel(40),
        serial: optionalLabel(40),
        qty: qtyIn.optional(),
        reason: text(200),
        until: isoDate.optional(),
      })
      .refine((h) => h.item !== undefined || h.bin !== undefined, 'An item or a bin must be named.'),
    reply: z.object({ id: z.number(), number: z.string(), qty: qtyOut, promisesCut: z.number() }),
  },
  'stock.release': {
    method: 'POST',
    path: '/api/holds/:id/release',
    allow: ['lead'],
    act: 'Release a hold',
    params: byId,
    body: z.object({ reason: text(200) }),
    reply: z.object({
      number: z.string(),
      qty: qtyOut,
      gone: qtyOut.describe('Held when it began and no longer held now'),
      stillHeld: qtyOut.describe('Held on, because another hold names it too'),
    }),
  },
  'stock.adjust': {
    method: 'POST',
    path: '/api/items/:id/adjust',
    allow: ['lead', 'office'],
    act: 'Adjust stock',
    params: byId,
    body: z.object({
      bin: text(40),
      way: z.enum(['plus', 'minus'], { error: 'must be plus or minus' }),
      qty: qtyIn,
      lot: optionalLabel(40),
      expires: isoDate.optional(),
      serials: z.array(labelIn(60)).max(500, 'must be at most 500 at once').default([]),
      reason: text(200),
      reference: optionalText(60),
      condition: z.enum(['sound', 'failed']).default('sound').describe('Which of it is taken; what is added is sound'),
      job: optionalText(60).describe('The job that it is used up for, or comes back from'),
      day: isoDate.optional(),
      cost: amount.optional().describe('Of one base unit; only where more is added'),
    }),
    reply: z.object({ document: z.number(), number: z.string(), qty: qtyOut }),
  },
  'stock.opening': {
    method: 'POST',
    path: '/api/items/:id/opening',
    allow: ['lead', 'office'],
    act: 'Enter opening stock',
    params: byId,
    body: z.object({
      lines: z
        .array(
          z.object({
            bin: text(40),
            qty: qtyIn,
            lot: optionalLabel(40),
            expires: isoDate.optional(),
            serials: z.array(labelIn(60)).max(500).default([]),
          }),
        )
        .min(1, 'must have at least one line')
        .max(200),
      /** Why, where the item has history at this site: then it is an adjustment. */
      reason: optionalText(200),
    }),
    reply: z.object({ document: z.string(), qty: qtyOut, isAdjustment: z.boolean() }),
  },
  'stock.quickAdd': {
    method: 'POST',
    path: '/api/quick-add',
    allow: ['lead', 'office', 'hand'],
    act: 'Add an item from a price list',
    body: z.object({
      row: id,
      bin: text(40),
      qty: qtyIn,
      group: optionalText(60),
      /** Labels to print: none, one, or as many as there are. */
      labels: z.enum(['none', 'one', 'all']).default('one'),
      device: z.string().max(60).optional(),
    }),
    reply: z.object({
      item: z.number(),
      code: z.string(),
      description: z.string(),
      bin: z.string(),
      qty: qtyOut,
      document: z.number(),
      labels: z.number(),
    }),
  },
  'stock.kit': {
    method: 'GET',
    path: '/api/items/:id/kit',
    allow: [],
    act: 'See how many of a kit could be made',
    params: byId,
    reply: z.object({
      sites: z.array(
        z.object({
          site: z.string(),
          kits: z.number(),
          scarcest: z.string(),
          parts: z.array(z.object({ item: z.number(), code: z.string(), needs: qtyOut, free: qtyOut })),
        }),
      ),
    }),
  },
  'stock.changeTracking': {
    method: 'POST',
    path: '/api/items/:id/tracking',
    allow: ['lead'],
    act: 'Change how an item is tracked',
    params: byId,
    body: z.object({
      tracking: z.enum(TRACKINGS),
      lines: z
        .array(
          z.object({
            bin: id,
            condition: text(10),
            qty: qtyIn,
            lot: optionalLabel(40),
            expires: isoDate.optional(),
            serial: optionalLabel(60),
          }),
        )
        .max(2000)
        .default([]),
    }),
    reply: z.object({ document: z.string().nullable(), lines: z.number() }),
  },
  'stock.zoneEffect': {
    method: 'GET',
    path: '/api/zones/:id/effect',
    allow: ['lead'],
    act: 'See what a change of powers would do',
    params: byId,
    query: z.object({ promisable: flag, pickable: flag, showsPrice: flag }),
    reply: z.object({
      items: z.array(z.object({ item: z.number(), code: z.string(), unit: z.string(), qty: qtyOut, short: qtyOut })),
      itemsTotal: z.number(),
      becomes: z.enum(['free', 'held', 'asItIs']),
      ordersCut: z.array(z.string()),
      stopsOpen: z.number(),
      labels: z.number(),
    }),
  },
  'stock.zonePowers': {
    method: 'POST',
    path: '/api/zones/:id/powers',
    allow: ['lead'],
    act: 'Change the powers of a zone',
    params: byId,
    body: powers,
    reply: done,
  },
  'stock.equation': {
    method: 'GET',
    path: '/api/items/:id/equation',
    allow: [],
    act: 'See the stock equation',
    params: byId,
    reply: z.object({
      total: EquationOut.extend({ onOrder: qtyOut, inTransit: qtyOut }),
      sites: z.array(EquationOut.extend({ site: z.number(), name: z.string() })),
      bins: z.array(
        z.object({
          bin: z.number(),
          address: z.string(),
          zone: z.string(),
          site: z.string(),
          lot: z.string().nullable(),
          expires: z.string().nullable(),
          serial: z.string().nullable(),
          condition: z.string(),
          part: z.enum(['free', 'held', 'toInspect', 'expired']),
          why: z.string(),
          qty: qtyOut,
        }),
      ),
      promises: z.array(
        z.object({ order: z.number(), number: z.string(), customer: z.string(), due: isoDate, qty: qtyOut, picked: qtyOut }),
      ),
      onOrder: z.array(z.object({ order: z.number(), number: z.string(), supplier: z.string(), due: isoDate, qty: qtyOut })),
    }),
  },
  'stock.movements': {
    method: 'GET',
    path: '/api/movements',
    allow: [],
    act: 'Read the ledger',
    query: z.object({
      item: id.optional(),
      bin: id.optional(),
      document: id.optional(),
      lot: z.string().max(60).optional(),
      serial: z.string().max(60).optional(),
      sscc: sscc.optional().describe('What went into a logistic unit, with it, or out of it'),
      person: id.optional(),
      reason: optionalText(100).describe('Words that stand in the reason'),
      from: isoDate.optional().describe('The first day, at the site where one works'),
      to: isoDate.optional().describe('The last day, at the site where one works'),
      sort: sortBy(LEDGER_SORTS),
      ...page,
    }),
    reply: z.object({ movements: z.array(MovementRow), next: z.string().nullable() }),
  },
  'stock.unit': {
    method: 'GET',
    path: '/api/units/:sscc',
    allow: [],
    act: 'See a logistic unit',
    params: bySscc,
    reply: UnitOut,
  },
  'stock.undo': {
    method: 'POST',
    path: '/api/documents/:id/undo',
    allow: ['lead', 'hand'],
    act: 'Undo a move',
    params: byId,
    body: z.object({ reason: text(200) }),
    reply: z.object({ document: z.string(), movements: z.number() }),
  },
});
