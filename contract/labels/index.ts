import { z } from 'zod';
import { byId, done, id, moment, optionalText, routesOf } from '../base/index.ts';

export const PrintJob = z.object({
  id: z.number(),
  title: z.string(),
  copies: z.number(),
  state: z.enum(['waiting', 'printed', 'failed']),
  said: z.string().nullable(),
  by: z.string(),
  at: moment,
  svg: z.string(),
});
export const labelsRoutes = routesOf({
  'labels.print': {
    method: 'POST',
    path: '/api/labels',
    allow: [],
    act: 'Print labels',
    body: z.discriminatedUnion('kind', [
      z.object({ kind: z.literal('bins'), bins: z.array(id).min(1, 'must name at least one bin').max(500) }),
      z.object({
        kind: z.literal('item'),
        item: id,
        lot: optionalText(40),
        serial: optionalText(40),
        copies: z.number().int().min(1).max(999).default(1),
      }),
      z.object({ kind: z.literal('delivery'), delivery: id }),
      z.object({ kind: z.literal('order'), order: id }),
    ]),
    reply: z.object({ jobs: z.number(), labels: z.number() }),
  },
  'labels.jobs': {
    method: 'GET',
    path: '/api/print-jobs',
    allow: [],
    act: 'See the printer’s queue',
    reply: z.object({ jobs: z.array(PrintJob) }),
  },
  'labels.again': { method: 'POST', path: '/api/print-jobs/:id/again', allow: [], act: 'Print again', params: byId, reply: done },
});
