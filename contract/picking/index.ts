import { z } from 'zod';
import { FloorPlan } from '../places/index.ts';
import { byId, device, done, id, labelIn, moment, optionalLabel, qtyIn, qtyOut, routesOf, scanText, text } from '../base/index.ts';

export const RoundRow = z.object({
  id: z.number(),
  number: z.string(),
  state: z.enum(['open', 'putDown', 'thrown']),
  person: z.string().nullable(),
  cart: z.string(),
  at: moment,
  orders: z.array(z.string()),
  site: z.string(),
  personId: z.number().nullable(),
  picks: z.number(),
  done: z.number(),
  stops: z.number(),
  trouble: z.number(),
});
export type RoundRow = z.infer<typeof RoundRow>;
export const PickOut = z.object({
  id: z.number(),
  order: z.string(),
  slot: z.number(),
  item: z.number(),
  code: z.string(),
  description: z.string(),
  unit: z.string(),
  decimals: z.number(),
  tracking: z.string(),
  barcode: z.string().nullable(),
  lot: z.string().nullable(),
  expires: z.string().nullable(),
  qty: qtyOut,
  picked: qtyOut,
  trouble: z.string().nullable(),
  instead: z.string().nullable().describe('For which bin it was planned before, and why it is taken here'),
});
export const StopOut = z.object({ bin: z.number(), address: z.string(), zone: z.string(), picks: z.array(PickOut) });
export type StopOut = z.infer<typeof StopOut>;
export const Round = RoundRow.extend({
  stopList: z.array(StopOut),
  packingBin: z.string().nullable(),
  metres: z.number().nullable().describe('How far its way is, from the cart’s place to the bench; null where the plan cannot say'),
  plain: z.number().nullable().describe('How far plain walking order would be'),
  unreached: z.array(z.string()).describe('Bins to which the plan has no way'),
});
export type Round = z.infer<typeof Round>;

/** What is needed to join orders into rounds: where each must be stopped for, what it weighs, and what a cart takes. */
export const ToJoin = z.object({
  orders: z.array(
    z.object({
      id: z.number(),
      number: z.string(),
      customer: z.string(),
      due: z.string(),
      day: z.number().describe('Its due day, counted from today'),
      lines: z.number(),
      bins: z.array(z.number()),
      grams: z.number(),
      millilitres: z.number(),
      unsized: z.number().describe('Lines whose item has no weight or no size on record'),
      missing: z.number().describe('Lines of which not all lies where it can be fetched'),
    }),
  ),
  bins: z.array(z.object({ id: z.number(), zone: z.number(), address: z.string(), walk: z.number() })),
  cart: z.object({ zone: z.number(), address: z.string() }).nullable(),
  bench: z.object({ zone: z.number(), address: z.string() }).nullable(),
  slots: z.number(),
  grams: z.number().nullable().describe('What the smallest cart of the site bears'),
  millilitres: z.number().nullable().describe('What the smallest cart of the site holds'),
  freeCarts: z.number(),
});
export type ToJoin = z.infer<typeof ToJoin>;
const cell = z.object({ x: z.number(), y: z.number() });
const putBack = z.object({ pieces: qtyOut.describe('Pieces that went to arrivals'), bin: z.string().nullable() });

export const pickingRoutes = routesOf({
  'picking.rounds': {
    method: 'GET',
    path: '/api/rounds',
    allow: [],
    act: 'See the rounds',
    query: z.object({ state: z.enum(['open', 'putDown']).default('open') }),
    reply: z.object({ rounds: z.array(RoundRow) }),
  },
  'picking.fromDock': {
    method: 'POST',
    path: '/api/deliveries/:id/to-bench',
    allow: ['lead', 'hand'],
    act: 'Send what somebody waits for to the bench',
    params: byId,
    body: z.object({}),
    reply: z.object({
      id: z.number(),
      number: z.string(),
      orders: z.array(z.string()),
      missing: z.array(z.object({ order: z.string(), code: z.string(), qty: qtyOut })),
    }),
  },
  'picking.toJoin': {
    method: 'GET',
    path: '/api/rounds/to-join',
    allow: ['lead', 'hand'],
    act: 'See what can be joined into rounds',
    reply: ToJoin,
  },
  'picking.make': {
    method: 'POST',
    path: '/api/rounds',
    allow: ['lead', 'hand'],
    act: 'Make a round',
    body: z.object({
      orders: z
        .array(z.union([id, scanText]))
        .min(1, 'must name at least one order')
        .max(40),
    }),
    reply: z.object({
      id: z.number(),
      number: z.string(),
      stops: z.number(),
      missing: z.array(z.object({ order: z.string(), code: z.string(), qty: qtyOut })),
    }),
  },
  'picking.round': { method: 'GET', path: '/api/rounds/:id', allow: [], act: 'See a round', params: byId, reply: Round },
  'picking.map': {
    method: 'GET',
    path: '/api/rounds/:id/map',
    allow: [],
    act: 'See the way of a round',
    params: byId,
    reply: z.object({
      plan: FloorPlan,
      parts: z.array(z.array(cell)).describe('The corners of the way; several parts where the plan has none between them'),
      stops: z.array(z.object({ bin: z.number(), ...cell.shape })).describe('Where one stands at each bin, in the order of the way'),
      bench: cell.nullable(),
    }),
  },
  'picking.take': { method: 'POST', path: '/api/rounds/:id/take', allow: ['lead', 'hand'], act: 'Take a round', params: byId, reply: done },
  'picking.give': {
    method: 'POST',
    path: '/api/rounds/:id/give',
    allow: ['lead', 'hand'],
    act: 'Give a round to somebody',
    params: byId,
    /** Null: nobody walks it; whoever is free may take it. */
    body: z.object({ person: id.nullable() }),
    reply: done,
  },
  'picking.split': {
    method: 'POST',
    path: '/api/rounds/:id/split',
    allow: ['lead', 'hand'],
    act: 'Take lines off a round',
    params: byId,
    body: z.object({
      picks: z.array(id).min(1, 'must name at least one line').max(500),
      to: z
        .discriminatedUnion('kind', [
          z.object({ kind: z.literal('out') }),
          z.object({ kind: z.literal('round'), round: id }),
          z.object({ kind: z.literal('new'), person: id.nullable() }),
        ])
        .describe('Off the round, onto another one, or onto a new one'),
    }),
    reply: z.object({
      id: z.number().nullable(),
      number: z.string().nullable().describe('The round that has them now'),
      picks: z.number(),
      ended: z.boolean().describe('Nothing was left of the round they were on'),
    }),
  },
  'picking.throwAway': {
    method: 'POST',
    path: '/api/rounds/:id/throw-away',
    allow: ['lead'],
    act: 'Throw a round away',
    params: byId,
    reply: putBack,
  },
  'picking.putBack': {
    method: 'POST',
    path: '/api/orders/:id/put-back',
    allow: ['lead'],
    act: 'Put an order’s goods back',
    params: byId,
    reply: putBack,
  },
  'picking.cancelOrder': {
    method: 'POST',
    path: '/api/orders/:id/cancel',
    allow: ['lead', 'office'],
    act: 'Cancel an order',
    params: byId,
    body: z.object({ reason: text(200) }),
    reply: putBack.extend({ also: z.array(z.string()).describe('Orders that made kits for it, and are cancelled with it') }),
  },
  'picking.changeLine': {
    method: 'POST',
    path: '/api/orders/:id/lines/:line',
    allow: ['lead', 'office'],
    act: 'Change how many are ordered',
    params: z.object({ id, line: id }),
    body: z.object({ qty: qtyIn.describe('0 takes the line out') }),
    reply: z.object({ qty: qtyOut, did: z.array(z.string()).describe('What else it did') }),
  },
  'picking.settle': {
    method: 'POST',
    path: '/api/troubles/:id/settle',
    allow: ['lead'],
    act: 'Settle a trouble report',
    params: byId,
    reply: done,
  },
  'picking.pick': {
    method: 'POST',
    path: '/api/rounds/:id/picks/:pick',
    allow: ['lead', 'hand'],
    act: 'Pick',
    params: z.object({ id, pick: id }),
    body: z.object({ bin: scanText, code: scanText, qty: qtyIn.optional(), lot: optionalLabel(40), serial: optionalLabel(40), device }),
    reply: z.object({ picked: qtyOut, open: qtyOut, roundOpen: z.number() }),
  },
  'picking.trouble': {
    method: 'POST',
    path: '/api/rounds/:id/picks/:pick/trouble',
    allow: ['lead', 'hand'],
    act: 'Report trouble at a stop',
    params: z.object({ id, pick: id }),
    body: z.object({ kind: z.enum(['short', 'damaged', 'notFound']) }),
    reply: z.object({ replanned: qtyOut, missing: qtyOut, bins: z.array(z.string()) }),
  },
  'picking.assemble': {
    method: 'POST',
    path: '/api/orders/:id/assemble',
    allow: ['lead', 'hand'],
    act: 'Say that kits are made',
    params: byId,
    body: z.object({
      qty: qtyIn,
      bin: scanText.optional().describe('Into which bin; else to where the parts lie, for whoever ordered them'),
    }),
    reply: z.object({
      number: z.string(),
      bin: z.string(),
      aside: qtyOut.describe('Kits that nobody wants any more, at arrivals to be put away'),
    }),
  },
  'picking.takeApart': {
    method: 'POST',
    path: '/api/assemblies/:id/take-apart',
    allow: ['lead'],
    act: 'Take kits apart again',
    params: byId,
    reply: z.object({ number: z.string(), bin: z.string() }),
  },
  'picking.keySheet': {
    method: 'POST',
    path: '/api/rounds/:id/keyed',
    allow: ['lead', 'hand'],
    act: 'Key a pick sheet',
    params: byId,
    body: z.object({
      bench: scanText.describe('Where all of it lies now'),
      lines: z
        .array(
          z.object({
            pick: id,
            taken: qtyIn.describe('0 where none was brought'),
            serials: z.array(labelIn(60)).max(500, 'must be at most 500 at once').default([]),
            why: z.enum(['short', 'damaged', 'notFound']).default('short').describe('Where fewer were taken'),
          }),
        )
        .min(1, 'must name what was taken')
        .max(2000),
    }),
    reply: z.object({ pieces: qtyOut, bin: z.string(), short: z.number().describe('Picks of which something was not brought') }),
  },
  'picking.putDown': {
    method: 'POST',
    path: '/api/rounds/:id/put-down',
    allow: ['lead', 'hand'],
    act: 'Put a round down',
    params: byId,
    body: z.object({ bin: scanText, device }),
    reply: z.object({ bin: z.string(), pieces: qtyOut }),
  },
});
