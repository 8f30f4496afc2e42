import { z } from 'zod';
import { byId, done, moment, page, routesOf } from '../base/index.ts';

export const Job = z.object({
  id: z.number(),
  kind: z.string(),
  title: z.string(),
  state: z.enum(['waiting', 'running', 'checked', 'done', 'failed', 'cancelled']),
  progress: z.number(),
  total: z.number(),
  said: z.string().nullable(),
  result: z.record(z.string(), z.unknown()).nullable(),
  by: z.string(),
  at: moment,
});
export type Job = z.infer<typeof Job>;
export const JobRow = z.object({
  row: z.number(),
  verdict: z.enum(['new', 'changed', 'same', 'gone', 'fault']),
  name: z.string(),
  says: z.string(),
});
export type JobRow = z.infer<typeof JobRow>;

/** Work that takes longer than a second: started by a room's own command, watched and cancelled here. */
export const workRoutes = routesOf({
  'work.jobs': { method: 'GET', path: '/api/jobs', allow: [], act: 'See the jobs', reply: z.object({ jobs: z.array(Job) }) },
  'work.job': { method: 'GET', path: '/api/jobs/:id', allow: [], act: 'See a job', params: byId, reply: Job },
  'work.rows': {
    method: 'GET',
    path: '/api/jobs/:id/rows',
    // A verdict on a price list says what goods cost.
    allow: ['lead', 'office'],
    act: 'See what a job found',
    params: byId,
    query: z.object({ verdict: z.enum(['new', 'changed', 'same', 'gone', 'fault']).optional(), ...page }),
    reply: z.object({ rows: z.array(JobRow), next: z.string().nullable() }),
  },
  'work.goAhead': {
    method: 'POST',
    path: '/api/jobs/:id/go',
    allow: ['lead', 'office'],
    act: 'Let a checked job go ahead',
    params: byId,
    reply: done,
  },
  'work.cancel': {
    method: 'POST',
    path: '/api/jobs/:id/cancel',
    allow: ['lead', 'office'],
    act: 'Cancel a job',
    params: byId,
    reply: done,
  },
});
