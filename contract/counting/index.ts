import { z } from 'zod';
import { byId, device, done, id, isoDate, moment, optionalLabel, optionalText, qtyIn, qtyOut, routesOf, scanText } from '../base/index.ts';

export const CountRow = z.object({
  id: z.number(),
  number: z.string(),
  zone: z.string(),
  site: z.string(),
  blind: z.boolean(),
  state: z.enum(['open', 'posted', 'thrown']),
  by: z.string(),
  at: moment,
  bins: z.number(),
  counted: z.number(),
});
export const TallyOut = z.object({
  id: z.number(),
  bin: z.number(),
  code: z.string(),
  description: z.string(),
  unit: z.string(),
  lot: z.string().nullable(),
  serial: z.string().nullable(),
  qty: qtyOut,
  by: z.string(),
  byId: z.number(),
  at: moment,
});
export const Count = CountRow.extend({
  binList: z.array(
    z.object({
      bin: z.number(),
      address: z.string(),
      counted: z.boolean(),
      verdict: z.enum(['none', 'asExpected']).nullable(),
      tallies: z.array(TallyOut),
    }),
  ),
});
export type Count = z.infer<typeof Count>;
export const DifferenceOut = z.object({
  bin: z.number(),
  address: z.string(),
  item: z.number(),
  code: z.string(),
  description: z.string(),
  unit: z.string(),
  lot: z.string().nullable(),
  serial: z.string().nullable(),
  expected: qtyOut,
  found: qtyOut.nullable(),
  difference: qtyOut,
  value: z.string(),
  movedMeanwhile: z.boolean(),
  /** `lookAgain`: it moved while it was counted; nobody can decide from which part, so it is not posted. */
  state: z.enum(['uncounted', 'counted', 'lookAgain']),
});
export const countingRoutes = routesOf({
  'counting.counts': {
    method: 'GET',
    path: '/api/counts',
    allow: [],
    act: 'See the counts',
    reply: z.object({ counts: z.array(CountRow) }),
  },
  'counting.make': {
    method: 'POST',
    path: '/api/counts',
    allow: ['lead'],
    act: 'Plan a count',
    body: z.object({ zone: id, blind: z.boolean().default(true) }),
    reply: z.object({ id: z.number(), number: z.string(), bins: z.number() }),
  },
  'counting.count': { method: 'GET', path: '/api/counts/:id', allow: [], act: 'See a count', params: byId, reply: Count },
  'counting.tally': {
    method: 'POST',
    path: '/api/counts/:id/tallies',
    allow: ['lead', 'hand'],
    act: 'Count',
    params: byId,
    body: z.object({
      bin: scanText,
      code: scanText,
      qty: qtyIn.optional(),
      lot: optionalLabel(40),
      expires: isoDate.optional(),
      serial: optionalLabel(40),
      device,
    }),
    reply: z.object({ tally: TallyOut, binTotal: qtyOut }),
  },
  'counting.takeOut': {
    method: 'POST',
    path: '/api/counts/:id/tallies/:tally/take-out',
    allow: ['lead', 'hand'],
    act: 'Take a tally out',
    params: z.object({ id, tally: id }),
    reply: done,
  },
  'counting.verdict': {
    method: 'POST',
    path: '/api/counts/:id/verdicts',
    allow: ['lead', 'hand'],
    act: 'Say how a bin stands',
    params: byId,
    body: z.object({ bin: scanText, verdict: z.enum(['none', 'asExpected']) }),
    reply: done,
  },
  'counting.differences': {
    method: 'GET',
    path: '/api/counts/:id/differences',
    allow: ['lead', 'office'],
    act: 'See the differences',
    params: byId,
    reply: z.object({ count: CountRow, rows: z.array(DifferenceOut), value: z.string() }),
  },
  'counting.post': {
    method: 'POST',
    path: '/api/counts/:id/post',
    allow: ['lead'],
    act: 'Post a count',
    params: byId,
    /** Why what was found may lie there although a rule of the bin forbids it (A5). */
    body: z.object({ override: optionalText(200) }),
    reply: z.object({ document: z.string(), adjusted: z.number(), uncounted: z.number(), lookAgain: z.number() }),
  },
  'counting.takeUp': {
    method: 'POST',
    path: '/api/counts/:id/take-up',
    allow: ['lead'],
    act: 'Take a thrown count up again',
    params: byId,
    reply: done,
  },
  'counting.throwAway': {
    method: 'POST',
    path: '/api/counts/:id/throw-away',
    allow: ['lead'],
    act: 'Throw a count away',
    params: byId,
    reply: done,
  },
});
