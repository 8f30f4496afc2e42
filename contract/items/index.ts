import { z } from 'zod';
import { TRACKINGS } from '#core/items';
import { byId, id, optionalText, page, qtyOut, routesOf, text } from '../base/index.ts';

export const ItemRow = z.object({
  id: z.number(),
  code: z.string(),
  description: z.string(),
  group: z.string(),
  unit: z.string(),
  tracking: z.enum(TRACKINGS),
  onHand: qtyOut,
  free: qtyOut,
  price: z.string(),
});
export type ItemRow = z.infer<typeof ItemRow>;
export const Pack = z.object({ id: z.number(), name: z.string(), units: qtyOut, barcodes: z.array(z.string()) });
export const Item = z.object({
  id: z.number(),
  code: z.string(),
  description: z.string(),
  group: z.string(),
  unit: z.string(),
  decimals: z.number(),
  tracking: z.enum(TRACKINGS),
  shelfLifeMonths: z.number().nullable(),
  storageClass: z.string(),
  cost: z.string(),
  price: z.string(),
  weightGrams: z.number(),
  countClass: z.string(),
  packs: z.array(Pack),
  suppliers: z.array(z.object({ code: z.string(), name: z.string(), partNo: z.string(), cost: z.string(), leadDays: z.number() })),
  homes: z.array(z.object({ bin: z.number(), address: z.string() })),
});
export type Item = z.infer<typeof Item>;

export const itemsRoutes = routesOf({
  'items.search': {
    method: 'GET',
    path: '/api/items',
    allow: [],
    act: 'Search the items',
    query: z.object({ q: optionalText(100), group: optionalText(60), free: z.enum(['yes']).optional(), ...page }),
    reply: z.object({ items: z.array(ItemRow), next: z.string().nullable(), groups: z.array(z.string()) }),
  },
  'items.item': { method: 'GET', path: '/api/items/:id', allow: [], act: 'See an item', params: byId, reply: Item },
  'items.make': {
    method: 'POST',
    path: '/api/items',
    allow: ['lead', 'office'],
    act: 'Make an item',
    body: z.object({
      code: text(40),
      description: text(200),
      group: text(60),
      unit: text(20),
      decimals: z.number().int().min(0).max(3),
      tracking: z.enum(TRACKINGS),
      price: z
        .string()
        .regex(/^\d{1,9}(\.\d{1,2})?$/, 'must be an amount such as 12.50')
        .default('0'),
      barcode: optionalText(60),
    }),
    reply: Item,
  },
  'items.addBarcode': {
    method: 'POST',
    path: '/api/items/:id/barcodes',
    allow: [],
    act: 'Tie a barcode to an item',
    params: byId,
    body: z.object({ code: text(60), pack: id }),
    reply: Item,
  },
});
