import { z } from 'zod';
import { bySscc, condition, device, id, moment, optionalLabel, optionalText, qtyIn, qtyOut, routesOf, scanText } from '../base/index.ts';

/** A bin where goods would best go, and why: their home, where their lot or the item lies, or the nearest empty one. */
const SuggestedBin = z.object({ bin: z.number(), address: z.string(), why: z.enum(['home', 'sameLot', 'sameItem', 'empty']) });
export const PutAwayRow = z.object({
  bin: z.number(),
  from: z.string(),
  item: z.number(),
  code: z.string(),
  description: z.string(),
  unit: z.string(),
  barcode: z.string().nullable(),
  lot: z.string().nullable(),
  expires: z.string().nullable(),
  serial: z.string().nullable(),
  qty: qtyOut,
  since: moment,
  condition,
  sscc: z.string().nullable().describe('The pallet or carton in which it is, which goes whole'),
  suggestion: SuggestedBin.nullable(),
  round: z.object({ id: z.number(), number: z.string() }).nullable().describe('The put-away round that carries it'),
});
export type PutAwayRow = z.infer<typeof PutAwayRow>;
export const movesRoutes = routesOf({
  'moves.putAway': {
    method: 'GET',
    path: '/api/put-away',
    allow: [],
    act: 'See what is to be put away',
    query: z.object({ from: z.enum(['arrivals', 'unplaced']).default('arrivals') }),
    reply: z.object({ rows: z.array(PutAwayRow) }),
  },
  'moves.suggest': {
    method: 'GET',
    path: '/api/put-away/suggestion',
    allow: [],
    act: 'See where goods would best go',
    query: z.object({ item: id, lot: optionalLabel(40), qty: qtyIn }),
    reply: z.object({ suggestion: SuggestedBin.nullable() }),
  },
  'moves.move': {
    method: 'POST',
    path: '/api/moves',
    allow: ['lead', 'hand'],
    act: 'Move goods',
    body: z.object({
      from: scanText,
      to: scanText,
      code: scanText,
      qty: qtyIn.optional(),
      lot: optionalLabel(40),
      serial: optionalLabel(40),
      newLot: optionalLabel(40).describe('The lot number that they get with the move'),
      reason: optionalText(200),
      /** Why a rule of the bin is overridden: a right of the lead (A5). */
      override: optionalText(200),
      device,
    }),
    reply: z.object({
      document: z.number(),
      number: z.string(),
      code: z.string(),
      qty: qtyOut,
      from: z.string(),
      to: z.string(),
      at: moment,
    }),
  },
  'moves.unit': {
    method: 'POST',
    path: '/api/units/:sscc/move',
    allow: ['lead', 'hand'],
    act: 'Move a logistic unit',
    params: bySscc,
    body: z.object({ to: scanText, reason: optionalText(200), override: optionalText(200), device }),
    reply: z.object({
      document: z.number(),
      number: z.string(),
      qty: qtyOut,
      lines: z.number(),
      from: z.string(),
      to: z.string(),
      at: moment,
    }),
  },
});
