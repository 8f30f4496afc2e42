import { z } from 'zod';
import { ZONE_PURPOSES } from '#core/places';
import { byId, id, moment, optionalText, page, qtyOut, routesOf } from '../base/index.ts';

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
export const Site = z.object({
  id: z.number(),
  code: z.string(),
  name: z.string(),
  timeZone: z.string(),
  address: z.string(),
  zones: z.array(Zone),
});
export const BinRow = z.object({
  id: z.number(),
  address: z.string(),
  alias: z.string().nullable(),
  zone: z.string(),
  zoneName: z.string(),
  purpose: z.enum(ZONE_PURPOSES),
  use: z.string(),
  items: z.number(),
  lastCount: moment.nullable(),
});
export type BinRow = z.infer<typeof BinRow>;

export const placesRoutes = routesOf({
  'places.sites': { method: 'GET', path: '/api/sites', allow: [], act: 'See the sites', reply: z.object({ sites: z.array(Site) }) },
  'places.bins': {
    method: 'GET',
    path: '/api/bins',
    allow: [],
    act: 'See the bins',
    query: z.object({
      zone: id.optional(),
      q: optionalText(60),
      show: z.enum(['all', 'empty', 'mixed', 'neverCounted']).default('all'),
      ...page,
    }),
    reply: z.object({ bins: z.array(BinRow), next: z.string().nullable(), total: z.number() }),
  },
  'places.bin': {
    method: 'GET',
    path: '/api/bins/:id',
    allow: [],
    act: 'See a bin',
    params: byId,
    reply: BinRow.extend({
      site: z.string(),
      rules: z.object({ oneItem: z.boolean(), oneLot: z.boolean(), capacity: qtyOut.nullable() }),
      homeOf: z.array(z.object({ id: z.number(), code: z.string(), description: z.string() })),
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
          condition: z.string(),
          qty: qtyOut,
          planned: qtyOut,
        }),
      ),
    }),
  },
  'places.makeBin': {
    method: 'POST',
    path: '/api/bins',
    allow: ['lead'],
    act: 'Make a bin',
    body: z.object({
      zone: id,
      address: z
        .string()
        .trim()
        .regex(/^[A-Za-z0-9]+([-./ ][A-Za-z0-9]+){0,4}$/, 'must be 1 to 5 levels of letters or digits, such as A-04-2')
        .max(40),
      alias: optionalText(40),
    }),
    reply: BinRow,
  },
});
