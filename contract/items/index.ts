import { z } from 'zod';
import { readAmount, TRACKINGS } from '#core/items';
import { byId, costOut, id, isoDate, optionalText, page, qtyIn, qtyOut, routesOf, text, version, sortBy } from '../base/index.ts';
import { ListRow, priceListRoutes } from './price-lists.ts';

export { ListRow, Mapping, PriceList, Supplier } from './price-lists.ts';

export const ItemRow = z.object({
  id: z.number(),
  code: z.string(),
  description: z.string(),
  group: z.string(),
  unit: z.string(),
  decimals: z.number(),
  tracking: z.enum(TRACKINGS),
  storageClass: z.string(),
  supplier: z.string(),
  onHand: qtyOut,
  free: qtyOut,
  cost: costOut,
  price: z.string(),
  retired: z.boolean(),
  own: z.record(z.string(), z.string()),
});
export type ItemRow = z.infer<typeof ItemRow>;
const size = z.number().int().nullable();
export const Pack = z.object({
  id: z.number(),
  name: z.string(),
  units: qtyOut,
  lengthMm: size,
  widthMm: size,
  heightMm: size,
  weightG: size,
  barcodes: z.array(z.string()),
});
export type Pack = z.infer<typeof Pack>;
export const Item = z.object({
  id: z.number(),
  code: z.string(),
  version: z.number(),
  description: z.string(),
  group: z.string(),
  unit: z.string(),
  decimals: z.number(),
  tracking: z.enum(TRACKINGS),
  shelfLifeMonths: z.number().nullable(),
  storageClass: z.string(),
  cost: costOut,
  price: z.string(),
  weightGrams: z.number(),
  volumeMl: z.number(),
  countClass: z.string(),
  note: z.string(),
  retired: z.boolean(),
  own: z.record(z.string(), z.string()),
  packs: z.array(Pack),
  suppliers: z.array(
    z.object({ id: z.number(), code: z.string(), name: z.string(), partNo: z.string(), cost: costOut, leadDays: z.number() }),
  ),
  homes: z.array(
    z.object({
      bin: z.number(),
      address: z.string(),
      site: z.string(),
      role: z.enum(['face', 'reserve']),
      min: qtyOut.nullable(),
      max: qtyOut.nullable(),
    }),
  ),
  files: z.array(z.object({ id: z.number(), name: z.string(), type: z.string(), size: z.number() })),
  amounts: z.array(
    z.object({ kind: z.enum(['price', 'cost']), amount: z.string(), from: isoDate, source: z.string(), begun: z.boolean() }),
  ),
  parts: z.array(z.object({ item: z.number(), code: z.string(), description: z.string(), unit: z.string(), qty: qtyOut })),
  partOf: z.array(z.object({ item: z.number(), code: z.string(), description: z.string() })),
});
export type Item = z.infer<typeof Item>;

/** An amount as a person types it; with a comma too, where that cannot mean thousands. */
export const amount = z
  .string({ error: 'must be an amount such as 12.50' })
  .trim()
  .transform((typed, context): string => {
    const read = readAmount(typed);
    if (read !== null && read.length <= 14) return read;
    const problem = readAmount(typed, '.') === null ? 'is no amount such as 12.50' : 'can be read in two ways: write 1234 or 1.2340';
    context.addIssue({ code: 'custom', message: `“${typed.slice(0, 20)}” ${problem}` });
    return z.NEVER;
  });
const whole = (most: number) => z.number().int('must be a whole number').min(0, 'must not be below 0').max(most, `must be at most ${most}`);
const facts = {
  description: text(200),
  group: text(60),
  decimals: whole(3),
  shelfLifeMonths: whole(600).nullable(),
  storageClass: text(30),
  weightGrams: whole(100_000_000),
  volumeMl: whole(1_000_000_000),
  countClass: z.string().trim().length(1, 'must be one character'),
  note: z.string().trim().max(2000).default(''),
  own: z.record(z.string().max(40), z.string().max(200)).default({}),
  version,
};

/** By what a list of items can be ordered. */
export const ITEM_SORTS = [
  'code',
  'description',
  'group',
  'supplier',
  'tracking',
  'onHand',
  'free',
  'unit',
  'price',
  'cost',
  'storage',
] as const;

export const itemsRoutes = routesOf({
  ...priceListRoutes,
  'items.search': {
    method: 'GET',
    path: '/api/items',
    allow: [],
    act: 'Search the items',
    query: z.object({
      q: optionalText(100),
      group: optionalText(60),
      supplier: id.optional(),
      free: z.enum(['yes']).optional(),
      retired: z.enum(['yes']).optional(),
      /** Where to look: items, price lists, or both. */
      over: z.enum(['items', 'lists', 'both']).default('items'),
      sort: sortBy(ITEM_SORTS),
      ...page,
    }),
    reply: z.object({
      items: z.array(ItemRow),
      listRows: z.array(ListRow),
      next: z.string().nullable(),
      groups: z.array(z.string()),
      /** The words that were looked for instead, where one was spelled wrong. */
      insteadOf: z.string().nullable(),
    }),
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
      decimals: whole(3),
      tracking: z.enum(TRACKINGS),
      price: amount.default('0'),
      barcode: optionalText(60),
    }),
    reply: Item,
  },
  'items.change': {
    method: 'POST',
    path: '/api/items/:id',
    allow: ['lead', 'office'],
    act: 'Change an item',
    params: byId,
    body: z.object(facts),
    reply: Item,
  },
  'items.copy': {
    method: 'POST',
    path: '/api/items/:id/copy',
    allow: ['lead', 'office'],
    act: 'Copy an item',
    params: byId,
    body: z.object({ code: text(40), description: text(200) }),
    reply: Item,
  },
  'items.retire': {
    method: 'POST',
    path: '/api/items/:id/retire',
    allow: ['lead', 'office'],
    act: 'Retire an item',
    params: byId,
    body: z.object({ retired: z.boolean() }),
    reply: Item,
  },
  'items.addBarcode': {
    method: 'POST',
    path: '/api/items/:id/barcodes',
    allow: [],
    act: 'Tie a barcode to an item',
    params: byId,
    body: z.object({ code: text(300), pack: id }),
    reply: Item,
  },
  'items.removeBarcode': {
    method: 'POST',
    path: '/api/items/:id/barcodes/remove',
    allow: ['lead', 'office'],
    act: 'Take a barcode from an item',
    params: byId,
    body: z.object({ code: text(300) }),
    reply: Item,
  },
  'items.savePack': {
    method: 'POST',
    path: '/api/items/:id/packs',
    allow: ['lead', 'office'],
    act: 'Change the packs of an item',
    params: byId,
    body: z.object({
      pack: id.optional(),
      name: text(30),
      units: qtyIn.refine((q) => q > 0, 'must be more than 0'),
      lengthMm: whole(20_000).nullable(),
      widthMm: whole(20_000).nullable(),
      heightMm: whole(20_000).nullable(),
      weightG: whole(100_000_000).nullable(),
    }),
    reply: Item,
  },
  'items.setSupplier': {
    method: 'POST',
    path: '/api/items/:id/suppliers',
    allow: ['lead', 'office'],
    act: 'Change the suppliers of an item',
    params: byId,
    body: z.object({ supplier: id, partNo: optionalText(60), cost: amount, leadDays: whole(1000), remove: z.boolean().default(false) }),
    reply: Item,
  },
  'items.setAmount': {
    method: 'POST',
    path: '/api/items/:id/amounts',
    allow: ['lead', 'office'],
    act: 'Set a price or cost',
    params: byId,
    body: z.object({ kind: z.enum(['price', 'cost']), amount, from: isoDate }),
    reply: Item,
  },
  'items.setParts': {
    method: 'POST',
    path: '/api/items/:id/parts',
    allow: ['lead', 'office'],
    act: 'Change what a kit is made of',
    params: byId,
    body: z.object({ parts: z.array(z.object({ item: id, qty: qtyIn.refine((q) => q > 0, 'must be more than 0') })).max(200) }),
    reply: Item,
  },
  'items.attach': {
    method: 'POST',
    path: '/api/items/:id/files',
    allow: ['lead', 'office'],
    act: 'Attach a picture or document',
    params: byId,
    body: z.object({ file: id, remove: z.boolean().default(false) }),
    reply: Item,
  },
});
