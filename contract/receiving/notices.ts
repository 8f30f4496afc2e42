import { z } from 'zod';
import { byId, done, id, isoDate, moment, qtyOut, routesOf } from '../base/index.ts';

export const NOTICE_STATES = ['coming', 'arrived', 'withdrawn'] as const;
export const NoticeRow = z.object({
  id: z.number(),
  number: z.string(),
  state: z.enum(NOTICE_STATES),
  supplier: z.string(),
  reference: z.string().describe('The supplier’s own number'),
  orders: z.array(z.object({ id: z.number(), number: z.string() })),
  due: isoDate.nullable(),
  late: z.boolean(),
  units: z.number().describe('Pallets and cartons that it announces'),
  come: z.number().describe('How many of them were scanned or have come'),
  lines: z.number(),
  at: moment,
  by: z.string().nullable().describe('Who took it in; null where the supplier dropped it'),
});
export type NoticeRow = z.infer<typeof NoticeRow>;
export const NoticeOut = NoticeRow.extend({
  fileName: z.string(),
  unitList: z.array(
    z.object({
      sscc: z.string().nullable().describe('Null: what comes loose'),
      state: z.enum(['coming', 'scanned', 'come']),
      delivery: z.object({ id: z.number(), number: z.string() }).nullable(),
      byScan: z.boolean().describe('Whether one scan takes all of it: its lots, dates and serials are told'),
      goods: z.array(
        z.object({
          item: z.number(),
          code: z.string(),
          description: z.string(),
          unit: z.string(),
          qty: qtyOut,
          lot: z.string().nullable(),
          expires: isoDate.nullable(),
          serial: z.string().nullable(),
          order: z.string().nullable(),
        }),
      ),
    }),
  ),
});
export type NoticeOut = z.infer<typeof NoticeOut>;

export const noticeRoutes = routesOf({
  'receiving.notices': {
    method: 'GET',
    path: '/api/notices',
    allow: [],
    act: 'See what is announced',
    query: z.object({ state: z.enum(NOTICE_STATES).default('coming') }),
    reply: z.object({
      notices: z.array(NoticeRow),
      refused: z
        .array(z.object({ id: z.number(), fileName: z.string(), says: z.string(), at: moment }))
        .describe('Files that suppliers dropped and that could not be taken in'),
    }),
  },
  'receiving.notice': {
    method: 'GET',
    path: '/api/notices/:id',
    allow: [],
    act: 'See a notice',
    params: byId,
    reply: NoticeOut,
  },
  'receiving.takeNotice': {
    method: 'POST',
    path: '/api/notices',
    allow: ['lead', 'office'],
    act: 'Take a notice in',
    body: z.object({ file: id }),
    reply: z.object({ id: z.number(), number: z.string(), isNew: z.boolean() }),
  },
  'receiving.withdrawNotice': {
    method: 'POST',
    path: '/api/notices/:id/withdraw',
    allow: ['lead', 'office'],
    act: 'Say that a notice is void',
    params: byId,
    body: z.object({ withdrawn: z.boolean() }),
    reply: done,
  },
  'receiving.seenRefused': {
    method: 'POST',
    path: '/api/notice-refusals/:id/seen',
    allow: ['lead', 'office'],
    act: 'Put a refused notice aside',
    params: byId,
    reply: done,
  },
});
