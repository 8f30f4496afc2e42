import { z } from 'zod';
import { byId, id, moment, optionalLabel, optionalText, qtyIn, qtyOut, routesOf, scanText } from '../base/index.ts';

export const BenchRow = z.object({
  id: z.number(),
  number: z.string(),
  customer: z.string(),
  makesKits: z.boolean().describe('Its goods are parts that become kits: nobody packs them'),
  due: z.string(),
  heldFor: z.string().nullable(),
  packed: z.boolean(),
  bins: z.array(z.string()),
  pieces: qtyOut,
  since: moment,
  complete: z.boolean(),
});
export const BenchOrder = BenchRow.extend({
  lines: z.array(
    z.object({
      line: z.number(),
      code: z.string(),
      description: z.string(),
      unit: z.string(),
      ordered: qtyOut,
      shipped: qtyOut,
      picked: qtyOut,
      parts: z.array(
        z.object({ qty: qtyOut, lot: z.string().nullable(), serial: z.string().nullable(), bin: z.string(), putDown: z.boolean() }),
      ),
    }),
  ),
});
export type BenchOrder = z.infer<typeof BenchOrder>;
export const shippingRoutes = routesOf({
  'shipping.bench': { method: 'GET', path: '/api/bench', allow: [], act: 'See the bench', reply: z.object({ orders: z.array(BenchRow) }) },
  'shipping.look': { method: 'GET', path: '/api/bench/:id', allow: [], act: 'See an order at the bench', params: byId, reply: BenchOrder },
  'shipping.pack': {
    method: 'POST',
    path: '/api/orders/:id/pack',
    allow: ['lead', 'hand'],
    act: 'Pack an order',
    params: byId,
    body: z.object({ parcels: z.number().int().min(1, 'must be at least 1').max(99) }),
    reply: z.object({ number: z.string() }),
  },
  'shipping.unpack': {
    method: 'POST',
    path: '/api/orders/:id/unpack',
    allow: ['lead', 'hand'],
    act: 'Take a packing back',
    params: byId,
    reply: z.object({ number: z.string() }),
  },
  'shipping.ship': {
    method: 'POST',
    path: '/api/orders/:id/ship',
    allow: ['lead', 'hand'],
    act: 'Ship an order',
    params: byId,
    reply: z.object({ shipment: z.string(), pieces: qtyOut, left: qtyOut }),
  },
  'shipping.handOver': {
    method: 'POST',
    path: '/api/counter',
    allow: ['lead', 'hand'],
    act: 'Hand goods over the counter',
    body: z.object({
      customer: id.optional(),
      note: optionalText(200),
      lines: z
        .array(z.object({ bin: scanText, code: scanText, qty: qtyIn, lot: optionalLabel(40), serial: optionalLabel(40) }))
        .min(1, 'must name at least one piece')
        .max(200),
      /** Goods that are promised to orders are handed over, too; those orders lose them. */
      anyway: z.boolean().default(false),
    }),
    reply: z.object({ order: z.number(), number: z.string(), shipment: z.string(), pieces: qtyOut }),
  },
});
