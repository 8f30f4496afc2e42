import { z } from 'zod';
import { LABEL_SIZES, RESOLUTIONS } from '#core/labels';
import { printerUrl } from '#core/printing';
import { byId, done, id, moment, page, routesOf, text } from '../base/index.ts';

/** Which of the queue is shown. */
export const PRINT_SHOWS = ['waiting', 'failed', 'printed'] as const;
export const PrintJob = z.object({
  id: z.number(),
  title: z.string(),
  copies: z.number(),
  done: z.number().describe('How many of them came out'),
  state: z.enum(['waiting', 'sent', 'printed', 'failed', 'dropped']),
  said: z.string().nullable(),
  by: z.string(),
  at: moment,
  printer: z.object({ id: z.number(), name: z.string() }).nullable(),
  widthMm: z.number().nullable(),
  heightMm: z.number().nullable(),
  svg: z.string().nullable().describe('As it is drawn; null until it is, and for those who may not see it'),
  forLeads: z.boolean().describe('Only leads may see it and print it again'),
});
/** The name of labels: of a common roll, or of labels that somebody measured. */
export const paperKey = z
  .string()
  .max(20)
  .regex(new RegExp(`^(${Object.keys(LABEL_SIZES).join('|')}|own-\\d{1,9})$`), 'must be the name of labels that the house has');
const mm = z.number().min(0).max(1000);
const tenth = mm.transform((n) => Math.round(n * 10) / 10);
const sheet = z
  .object({
    columns: z.number().int().min(1).max(20),
    rows: z.number().int().min(1).max(40),
    leftMm: mm,
    topMm: mm,
    acrossMm: mm,
    downMm: mm,
  })
  .nullable();
const dpi = z.union(RESOLUTIONS.map((r) => z.literal(r)));
const roll = z.object({ widthMm: z.number(), heightMm: z.number() }).nullable();
export const PrinterOut = z.object({
  id: z.number(),
  name: z.string(),
  address: z.string(),
  dpi,
  roll: roll.describe('The labels that are in it; null where it cuts to length'),
  paused: z.boolean(),
  pausedBy: z.string().nullable(),
  said: z.string().nullable().describe('What keeps it, in words'),
  heard: moment.nullable(),
  waiting: z.number().describe('Labels that wait for it'),
  wantRoll: z
    .array(z.object({ widthMm: z.number(), heightMm: z.number(), labels: z.number() }))
    .describe('Labels for which another roll is wanted'),
  failed: z.number(),
  zones: z.array(z.object({ id: z.number(), code: z.string() })),
  handhelds: z.array(z.string()),
  run: z
    .object({
      id: z.number(),
      labels: z.number(),
      cameOut: z.number(),
      unsure: z.boolean().describe('The printer does not know what came out: somebody has to look'),
      since: moment,
      titles: z.array(z.object({ title: z.string(), copies: z.number() })).describe('What was sent, in order'),
    })
    .nullable(),
});
export type PrinterOut = z.infer<typeof PrinterOut>;
const printerFacts = z.object({
  name: text(40),
  address: text(200).refine((a) => printerUrl(a) !== null, 'must be the address of a printer, such as ipp://192.168.1.20/ipp/print'),
  dpi,
  roll: paperKey.nullable().describe('The labels that are in it; null where it cuts to length'),
  zones: z.array(id).max(200).default([]),
});

export const printersRoutes = routesOf({
  'labels.printers': {
    method: 'GET',
    path: '/api/printers',
    allow: [],
    act: 'See the printers',
    reply: z.object({ printers: z.array(PrinterOut), homeless: z.number().describe('Labels that wait for a printer at this site') }),
  },
  'labels.addPrinter': {
    method: 'POST',
    path: '/api/printers',
    allow: ['lead'],
    act: 'Add a printer',
    body: printerFacts,
    reply: z.object({ id: z.number() }),
  },
  'labels.changePrinter': {
    method: 'POST',
    path: '/api/printers/:id',
    allow: ['lead'],
    act: 'Change a printer',
    params: byId,
    body: printerFacts,
    reply: done,
  },
  'labels.removePrinter': {
    method: 'POST',
    path: '/api/printers/:id/away',
    allow: ['lead'],
    act: 'Take a printer away',
    params: byId,
    reply: done,
  },
  'labels.askPrinter': {
    method: 'POST',
    path: '/api/printer-check',
    allow: ['lead'],
    act: 'Ask a printer how it is',
    plain: true,
    body: z.object({ address: printerFacts.shape.address }),
    reply: z.object({ says: z.string(), dpi: z.number().nullable(), answers: z.boolean() }),
  },
  'labels.pausePrinter': {
    method: 'POST',
    path: '/api/printers/:id/pause',
    allow: [],
    act: 'Stop a printer or let it go on',
    params: byId,
    body: z.object({ paused: z.boolean() }),
    reply: done,
  },
  'labels.putRoll': {
    method: 'POST',
    path: '/api/printers/:id/roll',
    allow: [],
    act: 'Say which labels are in a printer',
    params: byId,
    body: z.object({ roll: paperKey.nullable() }),
    reply: done,
  },
  'labels.cameOut': {
    method: 'POST',
    path: '/api/printers/:id/came-out',
    allow: [],
    act: 'Say what came out of a printer',
    params: byId,
    body: z.object({ run: id, labels: z.number().int().min(0) }),
    reply: done,
  },
  'labels.handOver': {
    method: 'POST',
    path: '/api/printers/:id/hand-over',
    allow: [],
    act: 'Let another printer print what waits',
    params: byId,
    body: z.object({ to: id }),
    reply: z.object({ jobs: z.number() }),
  },
  'labels.papers': {
    method: 'GET',
    path: '/api/label-papers',
    allow: [],
    act: 'See the labels that the house has',
    reply: z.object({
      papers: z.array(z.object({ key: z.string(), name: z.string(), widthMm: z.number(), heightMm: z.number(), sheet })),
    }),
  },
  'labels.addPaper': {
    method: 'POST',
    path: '/api/label-papers',
    allow: ['lead'],
    act: 'Measure labels',
    body: z.object({ name: text(40), widthMm: tenth, heightMm: tenth, sheet: sheet.default(null) }),
    reply: z.object({ key: z.string() }),
  },
  'labels.removePaper': {
    method: 'POST',
    path: '/api/label-papers/away',
    allow: ['lead'],
    act: 'Take labels out of use',
    body: z.object({ key: paperKey }),
    reply: done,
  },
  'labels.jobs': {
    method: 'GET',
    path: '/api/print-jobs',
    allow: [],
    act: 'See the printer’s queue',
    query: z.object({ show: z.enum(PRINT_SHOWS).default('waiting'), ...page }),
    reply: z.object({ jobs: z.array(PrintJob), next: z.string().nullable() }),
  },
  'labels.again': { method: 'POST', path: '/api/print-jobs/:id/again', allow: [], act: 'Print again', params: byId, reply: done },
  'labels.drop': {
    method: 'POST',
    path: '/api/print-jobs/drop',
    allow: [],
    act: 'Take labels out of the queue',
    body: z.object({ jobs: z.array(id).min(1).max(2000).optional(), printer: id.optional() }),
    reply: z.object({ jobs: z.number() }),
  },
});
