import { z } from 'zod';
import { byId, id, isoDate, moment, qtyOut, routesOf, text } from '../base/index.ts';

export const MovementRow = z.object({
  id: z.number(),
  at: moment,
  document: z.object({ id: z.number(), kind: z.string(), number: z.string() }),
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

export const stockRoutes = routesOf({
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
      onOrder: z.array(z.object({ number: z.string(), supplier: z.string(), due: isoDate, qty: qtyOut })),
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
      before: z.coerce.number().int().optional(),
      limit: z.coerce.number().int().min(1).max(500).default(100),
    }),
    reply: z.object({ movements: z.array(MovementRow), next: z.number().nullable() }),
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
