import { z } from 'zod';
import { byId, condition, done, id, labelIn, moment, optionalText, qtyIn, qtyOut, routesOf, scanText } from '../base/index.ts';

export const CarryRow = z.object({
  id: z.number(),
  number: z.string(),
  kind: z.enum(['putAway', 'refill']),
  state: z.enum(['open', 'done', 'thrown']),
  person: z.string().nullable(),
  personId: z.number().nullable(),
  cart: z.string().nullable().describe('The cart on which goods ride; none where they go straight to their bins'),
  at: moment,
  lines: z.number(),
  done: z.number().describe('Lines of which everything is put down'),
  trouble: z.number(),
});
export type CarryRow = z.infer<typeof CarryRow>;
export const CarryTaskOut = z.object({
  id: z.number(),
  item: z.number(),
  code: z.string(),
  description: z.string(),
  unit: z.string(),
  decimals: z.number(),
  tracking: z.string(),
  from: z.string(),
  fromBin: z.number(),
  to: z.string(),
  toBin: z.number(),
  lot: z.string().nullable(),
  expires: z.string().nullable(),
  serial: z.string().nullable(),
  sscc: z.string().nullable(),
  condition,
  qty: qtyOut,
  taken: qtyOut,
  put: qtyOut,
  why: z.string(),
  trouble: z.string().nullable(),
});
export type CarryTaskOut = z.infer<typeof CarryTaskOut>;
export const Carry = CarryRow.extend({
  tasks: z.array(CarryTaskOut).describe('In the order in which they are put down'),
  takes: z.array(z.number()).describe('The bins where something is taken, in the order of the way'),
  metres: z.number().nullable().describe('How far its way is; null where the plan cannot say'),
  plain: z.number().nullable().describe('How far plain walking order would be'),
  unreached: z.array(z.string()),
});
export type Carry = z.infer<typeof Carry>;
export const FaceRow = z.object({
  item: z.number(),
  code: z.string(),
  description: z.string(),
  unit: z.string(),
  bin: z.number(),
  address: z.string(),
  there: qtyOut.describe('Can be picked there, less what rounds are on their way for'),
  coming: qtyOut,
  min: qtyOut.nullable(),
  max: qtyOut.nullable(),
  needed: qtyOut.describe('Promised of the item and on no round yet'),
  wants: qtyOut.describe('How many would fill it'),
  reserve: qtyOut.describe('What lies elsewhere and could be brought'),
  why: z.enum(['belowMin', 'tonight']),
});
export type FaceRow = z.infer<typeof FaceRow>;

const made = z.object({ id: z.number(), number: z.string(), lines: z.number() });
export const carryingRoutes = routesOf({
  'carrying.list': {
    method: 'GET',
    path: '/api/carries',
    allow: [],
    act: 'See put-away and refill rounds',
    query: z.object({ kind: z.enum(['putAway', 'refill']).optional() }),
    reply: z.object({ open: z.array(CarryRow), ended: z.array(CarryRow).describe('The last that ended') }),
  },
  'carrying.faces': {
    method: 'GET',
    path: '/api/carries/faces',
    allow: [],
    act: 'See which pick faces want more',
    reply: z.object({ faces: z.array(FaceRow) }),
  },
  'carrying.putAway': {
    method: 'POST',
    path: '/api/carries/put-away',
    allow: ['lead', 'hand'],
    act: 'Make a put-away round',
    body: z.object({
      take: z.boolean().default(false).describe('Whoever makes it walks it'),
      /** Only these things at arrivals; without them, all. */
      only: z
        .array(
          z.object({
            bin: id,
            item: id,
            lot: labelIn(40).nullable(),
            serial: labelIn(60).nullable(),
            condition,
            sscc: z.string().nullable(),
          }),
        )
        .max(300)
        .optional(),
    }),
    reply: made.extend({ homeless: z.number().describe('Things for which no bin has room') }),
  },
  'carrying.refill': {
    method: 'POST',
    path: '/api/carries/refill',
    allow: ['lead', 'hand'],
    act: 'Make a refill round',
    body: z.object({
      take: z.boolean().default(false),
      only: z
        .array(z.object({ item: id, bin: id }))
        .max(500)
        .optional(),
    }),
    reply: made.extend({ missing: z.array(z.object({ code: z.string(), bin: z.string(), qty: qtyOut })) }),
  },
  'carrying.carry': {
    method: 'GET',
    path: '/api/carries/:id',
    allow: [],
    act: 'See a put-away or refill round',
    params: byId,
    reply: Carry,
  },
  'carrying.take': {
    method: 'POST',
    path: '/api/carries/:id/walk',
    allow: ['lead', 'hand'],
    act: 'Take a put-away or refill round',
    params: byId,
    reply: done,
  },
  'carrying.give': {
    method: 'POST',
    path: '/api/carries/:id/give',
    allow: ['lead', 'hand'],
    act: 'Give a put-away or refill round to somebody',
    params: byId,
    body: z.object({ person: id.nullable() }),
    reply: done,
  },
  'carrying.throwAway': {
    method: 'POST',
    path: '/api/carries/:id/throw-away',
    allow: ['lead'],
    act: 'Throw a put-away or refill round away',
    params: byId,
    reply: z.object({ pieces: qtyOut.describe('Pieces that went from the cart to arrivals'), bin: z.string().nullable() }),
  },
  'carrying.keySheet': {
    method: 'POST',
    path: '/api/carries/:id/keyed',
    allow: ['lead', 'hand'],
    act: 'Key a put-away or refill sheet',
    params: byId,
    body: z.object({
      lines: z
        .array(
          z.object({
            task: id,
            put: qtyIn.describe('0 where none was brought'),
            to: scanText.describe('Where it lies now'),
            serials: z.array(labelIn(60)).max(500, 'must be at most 500 at once').default([]),
            why: z.enum(['short', 'damaged', 'notFound']).default('short').describe('Where fewer were brought'),
          }),
        )
        .min(1, 'must name what was put')
        .max(600),
      override: optionalText(200),
    }),
    reply: z.object({ pieces: qtyOut, short: z.number() }),
  },
});
