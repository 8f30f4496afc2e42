import { z } from 'zod';
import { id, moment, optionalText, qtyOut, routesOf, scanText } from '../base/index.ts';
import { Day, Home } from './home.ts';

export { Day, DAY_KINDS, Home, NextAct } from './home.ts';

export const STATIONS = ['expected', 'dock', 'review', 'putAway', 'shelf', 'orders', 'rounds', 'bench', 'gone', 'counts'] as const;
export const Station = z.object({
  station: z.enum(STATIONS),
  waiting: z.number(),
  late: z.number(),
  oldest: moment.nullable(),
  unit: z.string(),
});
export type Station = z.infer<typeof Station>;

/** One thing that a scan stands for. */
export const ScannedOne = z.discriminatedUnion('kind', [
  z.object({
    kind: z.literal('item'),
    item: z.number(),
    code: z.string(),
    description: z.string(),
    pack: z.string(),
    packUnits: qtyOut,
    lot: z.string().nullable(),
    expires: z.string().nullable(),
    serial: z.string().nullable(),
    tracking: z.string(),
    unit: z.string(),
    decimals: z.number(),
  }),
  z.object({ kind: z.literal('bin'), bin: z.number(), address: z.string(), zone: z.string() }),
  z.object({ kind: z.literal('lot'), item: z.number(), code: z.string(), lot: z.string() }),
  z.object({ kind: z.literal('serial'), item: z.number(), code: z.string(), serial: z.string() }),
  z.object({ kind: z.literal('unit'), sscc: z.string() }),
  z.object({ kind: z.literal('order'), order: z.number(), number: z.string() }),
  z.object({ kind: z.literal('purchaseOrder'), purchaseOrder: z.number(), number: z.string() }),
  z.object({ kind: z.literal('delivery'), delivery: z.number(), number: z.string() }),
  z.object({ kind: z.literal('round'), round: z.number(), number: z.string() }),
  z.object({ kind: z.literal('carry'), carry: z.number(), number: z.string() }),
  z.object({ kind: z.literal('count'), count: z.number(), number: z.string() }),
  z.object({ kind: z.literal('document'), document: z.number(), number: z.string() }),
]);
export type ScannedOne = z.infer<typeof ScannedOne>;

/** What a scan turned out to be. `unknown` is an answer, not an error: the screen offers to tie it. */
export const Scanned = z.discriminatedUnion('kind', [
  ScannedOne,
  z.object({ kind: z.literal('several'), choices: z.array(ScannedOne) }),
  /** A bin of other sites, which are named. */
  z.object({ kind: z.literal('elsewhere'), text: z.string(), sites: z.array(z.string()) }),
  z.object({ kind: z.literal('unknown'), text: z.string() }),
]);
export type Scanned = z.infer<typeof Scanned>;

/** What a field can ask for by name. */
export const CHOICE_KINDS = ['item', 'bin', 'customer', 'supplier', 'order', 'document', 'person'] as const;
export type ChoiceKind = (typeof CHOICE_KINDS)[number];
/** One that may be meant: what it is called by its code or number, and the words beside it. */
export const Choice = z.object({ id: z.number(), code: z.string(), name: z.string() });
export type Choice = z.infer<typeof Choice>;

export const deskRoutes = routesOf({
  'desk.row': { method: 'GET', path: '/api/row', allow: [], act: 'See the row', reply: z.object({ stations: z.array(Station) }) },
  'desk.home': {
    method: 'GET',
    path: '/api/home',
    allow: [],
    act: 'See the home screen',
    reply: Home,
  },
  'desk.day': {
    method: 'GET',
    path: '/api/day',
    allow: [],
    act: 'See what moved today',
    reply: Day,
  },
  'desk.scan': { method: 'GET', path: '/api/scan', allow: [], act: 'Scan', query: z.object({ code: scanText }), reply: Scanned },
  'desk.choices': {
    method: 'GET',
    path: '/api/choices',
    allow: [],
    act: 'Choose by name',
    query: z.object({
      kind: z.enum(CHOICE_KINDS),
      q: optionalText(100),
      id: id.optional().describe('The one of this number, instead of those that a text finds'),
    }),
    reply: z.object({ choices: z.array(Choice), more: z.boolean().describe('Whether the text finds more than these') }),
  },
  'desk.health': {
    method: 'GET',
    path: '/api/health',
    allow: 'public',
    act: 'Ask whether the server is well',
    reply: z.object({ version: z.string(), migration: z.string(), database: z.string() }),
  },
});
