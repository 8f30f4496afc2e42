import { z } from 'zod';
import { byId, done, id, moment, routesOf } from '../base/index.ts';

/** What another program sent of an order, and what came of it. */
export const OrderPaperRow = z.object({
  id: z.number(),
  kind: z.enum(['order', 'change', 'cancellation', 'unread']),
  fileName: z.string(),
  reference: z.string(),
  customer: z.string(),
  order: z.object({ id: z.number(), number: z.string() }).nullable(),
  state: z.enum(['done', 'waiting', 'refused', 'aside']),
  says: z.string().describe('What it did, or why it did nothing'),
  at: moment,
  by: z.string().nullable().describe('Who brought it; null where it came by itself'),
});
export type OrderPaperRow = z.infer<typeof OrderPaperRow>;

export const channelRoutes = routesOf({
  'channel.papers': {
    method: 'GET',
    path: '/api/order-papers',
    allow: ['lead', 'office'],
    act: 'See what other programs sent of orders',
    reply: z.object({ open: z.array(OrderPaperRow), past: z.array(OrderPaperRow).describe('The newest first') }),
  },
  'channel.take': {
    method: 'POST',
    path: '/api/order-papers',
    allow: ['lead', 'office'],
    act: 'Take an order in that another program wrote',
    body: z.object({ file: id }),
    reply: z.object({ paper: z.number(), order: z.number(), number: z.string(), says: z.string(), isNew: z.boolean() }),
  },
  'channel.settle': {
    method: 'POST',
    path: '/api/order-papers/:id/settle',
    allow: ['lead', 'office'],
    act: 'Let a change of an order go ahead, or not',
    params: byId,
    body: z.object({ how: z.enum(['do', 'aside'], { error: 'must be do or aside' }) }),
    reply: done.extend({ says: z.string() }),
  },
});
