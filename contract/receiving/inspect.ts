import { z } from 'zod';
import { done, id, isoDate, moment, optionalText, qtyIn, qtyOut, routesOf, text } from '../base/index.ts';

/** What somebody found who looked at the goods of an entry. */
export const FindingOut = z.object({
  checked: qtyOut,
  failed: z.array(z.object({ reason: z.number(), qty: qtyOut })),
  note: z.string(),
  by: z.string(),
  at: moment,
  document: z.object({ id: z.number(), number: z.string() }).nullable().describe('By which goods were moved for it after they were stock'),
});
export type FindingOut = z.infer<typeof FindingOut>;

export const FailureReason = z.object({
  id: z.number(),
  name: z.string(),
  retired: z.boolean(),
  used: z.number().describe('How often it was said'),
});
export type FailureReason = z.infer<typeof FailureReason>;

export const FailureOut = z.object({
  entry: z.number(),
  delivery: z.number(),
  number: z.string(),
  at: moment,
  by: z.string(),
  supplier: z.string().nullable(),
  item: z.number(),
  code: z.string(),
  description: z.string(),
  unit: z.string(),
  reason: z.string(),
  qty: qtyOut,
  checked: qtyOut,
  arrived: qtyOut,
  lot: z.string().nullable(),
  note: z.string(),
  photos: z.array(z.number()),
});
export type FailureOut = z.infer<typeof FailureOut>;

const entry = z.object({ id, entry: id });
const sums = z.array(z.object({ name: z.string(), reason: z.string(), qty: qtyOut }));
const MOST_PARTS = 20;

export const inspectionRoutes = routesOf({
  'receiving.inspect': {
    method: 'POST',
    path: '/api/deliveries/:id/entries/:entry/inspect',
    allow: ['lead', 'hand'],
    act: 'Say what an inspection found',
    params: entry,
    body: z.object({
      checked: qtyIn,
      failed: z.array(z.object({ reason: id, qty: qtyIn })).max(MOST_PARTS, `must be at most ${MOST_PARTS} reasons`),
      note: optionalText(200),
    }),
    reply: z.object({ document: z.string().nullable(), failed: qtyOut }),
  },
  'receiving.photo': {
    method: 'POST',
    path: '/api/deliveries/:id/entries/:entry/photo',
    allow: ['lead', 'hand'],
    act: 'Add a picture of goods that arrived',
    params: entry,
    body: z.object({ file: id }),
    reply: done,
  },
  'receiving.reasons': {
    method: 'GET',
    path: '/api/failure-reasons',
    allow: [],
    act: 'See for what goods fail',
    reply: z.object({ reasons: z.array(FailureReason) }),
  },
  'receiving.setReason': {
    method: 'POST',
    path: '/api/failure-reasons',
    allow: ['lead'],
    act: 'Say for what goods fail',
    body: z.object({ id: id.nullable().default(null), name: text(40), retired: z.boolean().default(false) }),
    reply: done,
  },
  'receiving.failures': {
    method: 'GET',
    path: '/api/failures',
    allow: [],
    act: 'See what failed',
    query: z.object({ from: isoDate, to: isoDate }),
    reply: z.object({
      failures: z.array(FailureOut),
      bySupplier: sums,
      byItem: sums,
      checked: z.array(z.object({ supplier: z.string(), checked: qtyOut, failed: qtyOut })),
    }),
  },
});
