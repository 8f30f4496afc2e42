import { z } from 'zod';
import { PRICE_FIELDS } from '#core/items';
import { byId, costOut, done, id, isoDate, moment, optionalText, routesOf, text } from '../base/index.ts';

const fields = PRICE_FIELDS.map((f) => f.key) as [(typeof PRICE_FIELDS)[number]['key'], ...(typeof PRICE_FIELDS)[number]['key'][]];
export const Mapping = z.partialRecord(z.enum(fields), z.string().max(100));
export const Supplier = z.object({ id: z.number(), code: z.string(), name: z.string(), items: z.number() });
export const PriceList = z.object({
  supplier: z.number(),
  code: z.string(),
  name: z.string(),
  rows: z.number(),
  stocked: z.number(),
  file: z.string().nullable(),
  imported: moment.nullable(),
  imports: z
    .array(z.object({ job: z.number(), title: z.string(), at: moment, state: z.string() }))
    .describe('The last imports, newest first'),
});
export type PriceList = z.infer<typeof PriceList>;
export const ListRow = z.object({
  id: z.number(),
  supplier: z.string(),
  supplierId: z.number(),
  partNo: z.string(),
  description: z.string(),
  barcode: z.string().nullable(),
  cost: costOut,
  price: z.string().nullable(),
  packUnits: z.string(),
  item: z.object({ id: z.number(), code: z.string() }).nullable(),
});
export type ListRow = z.infer<typeof ListRow>;

export const priceListRoutes = routesOf({
  'items.setCurrency': {
    method: 'POST',
    path: '/api/currency',
    allow: ['lead'],
    act: 'Say in which currency prices are',
    body: z.object({ currency: z.string().regex(/^[A-Z]{3}$/, 'must be three letters such as EUR') }),
    reply: done,
  },
  'items.lotRule': {
    method: 'GET',
    path: '/api/lot-rule',
    allow: [],
    act: 'See which lots the house takes',
    reply: z.object({
      onlyThatRead: z.boolean().describe('New lots that the code of a label cannot hold are refused where they are typed'),
    }),
  },
  'items.setLotRule': {
    method: 'POST',
    path: '/api/lot-rule',
    allow: ['lead'],
    act: 'Say which lots the house takes',
    body: z.object({ onlyThatRead: z.boolean() }),
    reply: done,
  },
  'items.suppliers': {
    method: 'GET',
    path: '/api/suppliers',
    allow: [],
    act: 'See the suppliers',
    reply: z.object({ suppliers: z.array(Supplier) }),
  },
  'items.makeSupplier': {
    method: 'POST',
    path: '/api/suppliers',
    allow: ['lead', 'office'],
    act: 'Make a supplier',
    body: z.object({ code: text(20).transform((c) => c.toUpperCase()), name: text(100) }),
    reply: z.object({ id: z.number() }),
  },
  'items.priceLists': {
    method: 'GET',
    path: '/api/price-lists',
    allow: [],
    act: 'See the price lists',
    reply: z.object({ lists: z.array(PriceList) }),
  },
  'items.priceColumns': {
    method: 'GET',
    path: '/api/price-lists/:id/columns',
    allow: ['lead', 'office'],
    act: 'Read the columns of a price list',
    params: byId,
    query: z.object({ file: id }),
    reply: z.object({
      header: z.array(z.string()),
      sample: z.array(z.array(z.string())),
      rows: z.number(),
      mapping: Mapping,
      remembered: z.boolean(),
      unclear: z.string().nullable().describe('An amount that can be read in two ways, while nothing in the list shows which'),
    }),
  },
  'items.importPrices': {
    method: 'POST',
    path: '/api/price-lists/:id/imports',
    allow: ['lead', 'office'],
    act: 'Import a price list',
    params: byId,
    body: z.object({ file: id, mapping: Mapping, holdsFrom: isoDate, decimal: z.enum(['.', ',']).optional() }),
    reply: z.object({ job: z.number() }),
  },
  'items.listRow': {
    method: 'GET',
    path: '/api/price-rows/:id',
    allow: [],
    act: 'See a row of a price list',
    params: byId,
    reply: ListRow,
  },
  'items.importItems': {
    method: 'POST',
    path: '/api/item-imports',
    allow: ['lead', 'office'],
    act: 'Import items',
    body: z.object({ file: id }),
    reply: z.object({ job: z.number() }),
  },
  'items.importHomes': {
    method: 'POST',
    path: '/api/home-imports',
    allow: ['lead'],
    act: 'Import home bins',
    body: z.object({ file: id }),
    reply: z.object({ job: z.number() }),
  },
  'items.ownFields': {
    method: 'GET',
    path: '/api/own-fields',
    allow: [],
    act: 'See the own fields',
    reply: z.object({
      fields: z.array(
        z.object({
          id: z.number(),
          label: z.string(),
          kind: z.enum(['text', 'number', 'date', 'choice']),
          choices: z.array(z.string()),
          retired: z.boolean(),
        }),
      ),
    }),
  },
  'items.makeOwnField': {
    method: 'POST',
    path: '/api/own-fields',
    allow: ['lead', 'office'],
    act: 'Make an own field',
    body: z.object({
      label: text(40),
      kind: z.enum(['text', 'number', 'date', 'choice']),
      choices: z.array(text(60)).max(100).default([]),
    }),
    reply: z.object({ id: z.number() }),
  },
  'items.changeOwnField': {
    method: 'POST',
    path: '/api/own-fields/:id',
    allow: ['lead', 'office'],
    act: 'Change an own field',
    params: byId,
    body: z.object({ label: text(40), choices: z.array(text(60)).max(100).default([]), retired: z.boolean() }),
    reply: done,
  },
  'items.assign': {
    method: 'POST',
    path: '/api/homes',
    allow: ['lead', 'hand'],
    act: 'Assign items to bins',
    body: z.object({
      pairs: z
        .array(z.object({ bin: text(40), item: z.string().min(1).max(300) }))
        .min(1, 'must name at least one bin and item')
        .max(500),
      role: z.enum(['face', 'reserve']).default('face'),
      min: optionalText(20),
      max: optionalText(20),
    }),
    reply: z.object({ assigned: z.number(), says: z.array(z.string()) }),
  },
  'items.unassign': {
    method: 'POST',
    path: '/api/homes/remove',
    allow: ['lead', 'hand'],
    act: 'Take items from their home bins',
    body: z.object({
      pairs: z
        .array(z.object({ bin: id, item: id }))
        .min(1)
        .max(500),
    }),
    reply: z.object({ removed: z.number() }),
  },
});
