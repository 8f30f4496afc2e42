import { z } from 'zod';
import { isAddress, MOST_BINS_AT_ONCE, ZONE_PURPOSES } from '#core/places';
import { byId, done, id, moment, optionalText, page, qtyIn, qtyOut, routesOf, text, version, sortBy } from '../base/index.ts';
import { planRoutes } from './plan.ts';

export { FloorPlan, PlanAisle, PlanThing } from './plan.ts';

export const Zone = z.object({
  id: z.number(),
  code: z.string(),
  name: z.string(),
  purpose: z.enum(ZONE_PURPOSES),
  promisable: z.boolean(),
  pickable: z.boolean(),
  showsPrice: z.boolean(),
  bins: z.number(),
  used: z.number(),
});
export type Zone = z.infer<typeof Zone>;
/** By what a list of bins can be ordered. */
export const BIN_SORTS = ['address', 'zone', 'items', 'fill', 'count', 'label', 'oldNames'] as const;
export const DEFAULT_USES = ['arrivals', 'packing', 'quarantine', 'scrap', 'transit'] as const;
const defaults = z.object({
  arrivals: z.string().nullable(),
  packing: z.string().nullable(),
  quarantine: z.string().nullable(),
  scrap: z.string().nullable(),
  transit: z.string().nullable(),
});
export const Site = z.object({
  id: z.number(),
  code: z.string(),
  name: z.string(),
  version: z.number(),
  timeZone: z.string(),
  address: z.string(),
  cartSlots: z.number().describe('How many orders a cart takes, each in a slot of its own'),
  defaults,
  zones: z.array(Zone),
});
export type Site = z.infer<typeof Site>;
export const BIN_SHOWS = ['all', 'empty', 'overfull', 'mixed', 'unlabelled', 'neverCounted', 'retired'] as const;
export const BinRow = z.object({
  id: z.number(),
  address: z.string(),
  oldNames: z.array(z.string()),
  zone: z.string(),
  zoneName: z.string(),
  purpose: z.enum(ZONE_PURPOSES),
  use: z.string(),
  items: z.number(),
  fill: z.number().nullable(),
  labelled: moment.nullable(),
  lastCount: moment.nullable(),
  retired: moment.nullable(),
});
export type BinRow = z.infer<typeof BinRow>;
export const BinRulesOut = z.object({
  oneItem: z.boolean(),
  oneLot: z.boolean(),
  storageClass: z.string().nullable(),
  units: qtyOut.nullable(),
  litres: qtyOut.nullable(),
  kilograms: qtyOut.nullable(),
});
const BrokenRule = z.object({ rule: z.enum(['oneItem', 'oneLot', 'storageClass', 'units', 'litres', 'kilograms']), says: z.string() });
export const BinPage = BinRow.extend({
  site: z.string(),
  zoneId: z.number(),
  walk: z.number(),
  version: z.number(),
  /** Rules that what lies there breaks already. */
  broken: z.array(BrokenRule),
  arrow: z.enum(['up', 'down']).nullable(),
  rules: BinRulesOut,
  homeOf: z.array(
    z.object({
      id: z.number(),
      code: z.string(),
      description: z.string(),
      role: z.enum(['face', 'reserve']),
      min: qtyOut.nullable(),
      max: qtyOut.nullable(),
    }),
  ),
  promised: z.array(
    z.object({ round: z.number(), number: z.string(), order: z.string(), code: z.string(), lot: z.string().nullable(), qty: qtyOut }),
  ),
  contents: z.array(
    z.object({
      item: z.number(),
      code: z.string(),
      description: z.string(),
      unit: z.string(),
      lot: z.string().nullable(),
      expires: z.string().nullable(),
      expired: z.boolean(),
      serial: z.string().nullable(),
      sscc: z.string().nullable().describe('The logistic unit in which it is'),
      condition: z.string(),
      qty: qtyOut,
      planned: qtyOut,
    }),
  ),
});
export type BinPage = z.infer<typeof BinPage>;

export const address = z
  .string({ error: 'must be a text' })
  .trim()
  .refine(isAddress, 'must be 1 to 5 levels of letters or digits, such as A-04-2')
  .transform((a) => a.toUpperCase());
const oldNames = z.array(text(40)).max(20, 'are at most 20').default([]);
const code = text(12).transform((c) => c.toUpperCase());
const limit = qtyIn.refine((q) => q > 0, 'must be more than 0').nullable();
const skip = z.array(z.string().max(6)).max(50).default([]);
export const Grid = z.object({
  levels: z
    .array(
      z.discriminatedUnion('kind', [
        z.object({ kind: z.literal('letters'), from: z.string().max(2).toUpperCase(), to: z.string().max(2).toUpperCase(), skip }),
        z.object({
          kind: z.literal('numbers'),
          from: z.number().int(),
          to: z.number().int(),
          digits: z.number().int(),
          step: z.number().int().default(1),
          skip,
        }),
      ]),
    )
    .min(1)
    .max(5),
  separators: z.array(z.string().max(1)).max(4),
  walk: z.enum(['serpentine', 'oneWay']),
  turned: z.array(z.string().max(6)).max(500).default([]),
});
const gridText = z.string().transform((value, context): z.infer<typeof Grid> => {
  try {
    return Grid.parse(JSON.parse(value));
  } catch {
    context.addIssue({ code: 'custom', message: 'is no grid of bins' });
    return z.NEVER;
  }
});

export const placesRoutes = routesOf({
  ...planRoutes,
  'places.sites': { method: 'GET', path: '/api/sites', allow: [], act: 'See the sites', reply: z.object({ sites: z.array(Site) }) },
  'places.makeSite': {
    method: 'POST',
    path: '/api/sites',
    allow: ['lead'],
    act: 'Make a site',
    body: z.object({ code, name: text(60), timeZone: text(60), address: optionalText(200) }),
    reply: z.object({ id: z.number() }),
  },
  'places.changeSite': {
    method: 'POST',
    path: '/api/sites/:id',
    allow: ['lead'],
    act: 'Change a site',
    params: byId,
    body: z.object({
      name: text(60),
      timeZone: text(60),
      address: optionalText(200),
      cartSlots: z
        .number({ error: 'must be a number' })
        .int('must be whole')
        .min(1, 'must be at least 1')
        .max(40, 'must be at most 40')
        .optional(),
      defaults: z.partialRecord(z.enum(DEFAULT_USES), z.string().max(40)).default({}),
      version,
    }),
    reply: z.object({ version: z.number() }),
  },
  'places.makeZone': {
    method: 'POST',
    path: '/api/zones',
    allow: ['lead'],
    act: 'Make a zone',
    body: z.object({ code, name: text(60), purpose: z.enum(ZONE_PURPOSES) }),
    reply: z.object({ id: z.number() }),
  },
  'places.renameZone': {
    method: 'POST',
    path: '/api/zones/:id/name',
    allow: ['lead'],
    act: 'Rename a zone',
    params: byId,
    body: z.object({ name: text(60) }),
    reply: done,
  },
  'places.bins': {
    method: 'GET',
    path: '/api/bins',
    allow: [],
    act: 'See the bins',
    query: z.object({ zone: id.optional(), q: optionalText(60), show: z.enum(BIN_SHOWS).default('all'), sort: sortBy(BIN_SORTS), ...page }),
    reply: z.object({ bins: z.array(BinRow), next: z.string().nullable(), total: z.number() }),
  },
  'places.bin': { method: 'GET', path: '/api/bins/:id', allow: [], act: 'See a bin', params: byId, reply: BinPage },
  'places.makeBin': {
    method: 'POST',
    path: '/api/bins',
    allow: ['lead'],
    act: 'Make a bin',
    body: z.object({ zone: id, address, oldNames }),
    reply: BinRow,
  },
  'places.changeBin': {
    method: 'POST',
    path: '/api/bins/:id',
    allow: ['lead'],
    act: 'Change a bin',
    params: byId,
    body: z.object({
      address,
      oldNames,
      zone: id,
      walk: z.number().int('must be a whole number').min(0, 'must not be below 0').max(9_999_999, 'is too large'),
      version,
      oneItem: z.boolean(),
      oneLot: z.boolean(),
      storageClass: optionalText(30),
      units: limit,
      litres: limit,
      kilograms: limit,
      arrow: z.enum(['up', 'down']).nullable(),
    }),
    reply: z.object({ version: z.number(), broken: z.array(BrokenRule) }),
  },
  'places.retireBins': {
    method: 'POST',
    path: '/api/retired-bins',
    allow: ['lead'],
    act: 'Retire bins',
    body: z.object({ bins: z.array(id).min(1, 'must name at least one bin').max(1000) }),
    reply: z.object({ retired: z.number() }),
  },
  'places.restoreBin': {
    method: 'POST',
    path: '/api/bins/:id/restore',
    allow: ['lead'],
    act: 'Bring a bin back',
    params: byId,
    reply: done,
  },
  'places.clashes': {
    method: 'GET',
    path: '/api/bin-grid/clashes',
    allow: ['lead'],
    act: 'See which bins of a grid are there already',
    query: z.object({ grid: gridText }),
    reply: z.object({ count: z.number(), first: z.array(z.string()) }),
  },
  'places.buildGrid': {
    method: 'POST',
    path: '/api/bin-grid',
    allow: ['lead'],
    act: `Build up to ${MOST_BINS_AT_ONCE} bins`,
    body: z.object({ zone: id, grid: Grid, leaveClashes: z.boolean().default(false) }),
    reply: z.object({ made: z.number(), left: z.number() }),
  },
  'places.importBins': {
    method: 'POST',
    path: '/api/bin-imports',
    allow: ['lead'],
    act: 'Import bins',
    body: z.object({ file: id }),
    reply: z.object({ job: z.number() }),
  },
});
