import { z } from 'zod';
import { isCompanyPrefix } from '#core/items';
import { done, id, isoDate, optionalLabel, page, routesOf, sortBy, sscc } from '../base/index.ts';
import { contentsRoutes } from './contents.ts';
import { paperKey, printersRoutes } from './printers.ts';

export type { ContentsBody } from './contents.ts';
export { PrinterOut, PrintJob, PRINT_SHOWS } from './printers.ts';

const form = z.enum(['bars', 'square']).optional().describe('The form of the code, where it fits; otherwise the rule chooses');
export const WrongLabel = z.object({
  bin: z.number(),
  address: z.string(),
  zone: z.string(),
  item: z.number(),
  code: z.string(),
  description: z.string(),
  onLabel: z.string().nullable().describe('The price that was last printed for this shelf; null where none was'),
  now: z.string(),
  since: z.string().describe('The day from which the price holds'),
});
export type WrongLabel = z.infer<typeof WrongLabel>;

const to = {
  size: paperKey.optional().describe('On which labels; otherwise on those that are in the printer'),
  printer: id.optional().describe('Otherwise that of the handheld, of the zone or of the site'),
};
const unitsAhead = z.object({
  kind: z.literal('unitsAhead').describe('For pallets and cartons that come without a label: numbers of the house, each once'),
  count: z.number().int().min(1, 'must be at least one').max(200, 'must be at most 200 at once'),
  ...to,
});
const ofWhatIsHere = [
  z.object({ kind: z.literal('bins'), bins: z.array(id).min(1, 'must name at least one bin').max(2000), form, ...to }),
  z.object({ kind: z.literal('zone'), zone: id, only: z.enum(['all', 'unlabelled']).default('all'), ...to }),
  z.object({
    kind: z.literal('shelf'),
    pairs: z
      .array(z.object({ bin: id, item: id }))
      .min(1, 'must name at least one shelf')
      .max(2000),
    ...to,
  }),
  z.object({
    kind: z.literal('item'),
    item: id,
    bin: id.optional(),
    lot: optionalLabel(40),
    serial: optionalLabel(40),
    expires: isoDate.optional().describe('Of a lot that the house does not have yet'),
    form,
    copies: z.number().int().min(1).max(999).default(1),
    ...to,
  }),
  z.object({ kind: z.literal('delivery'), delivery: id, ...to }),
  z.object({ kind: z.literal('order'), order: id, form, ...to }),
  z.object({ kind: z.literal('parcels').describe('One for each parcel of an order that is packed'), order: id, form, ...to }),
  z.object({ kind: z.literal('goods').describe('One for each piece that was picked for an order'), order: id, form, ...to }),
  z.object({
    kind: z.literal('totes').describe('One for each slot of a cart'),
    bin: id,
    slots: z.number().int().min(1).max(40),
    form,
    ...to,
  }),
  z.object({ kind: z.literal('badge').describe('Of a person, for leads'), person: id, form, ...to }),
  z.object({ kind: z.literal('unit'), sscc, copies: z.number().int().min(1).max(99).default(1), form, ...to }),
] as const;
const wantedLabels = z.discriminatedUnion('kind', [...ofWhatIsHere, unitsAhead]);

// In the address of a page, as text.
const wantedText = z
  .string()
  .max(4000)
  .transform((value, context): z.infer<typeof wantedLabels> => {
    try {
      return wantedLabels.parse(JSON.parse(value));
    } catch {
      context.addIssue({ code: 'custom', message: 'asks for no label' });
      return z.NEVER;
    }
  });

/** By what a list of wrong labels can be ordered. */
export const WRONG_LABEL_SORTS = ['bin', 'code', 'description', 'on', 'now', 'since'] as const;

export const labelsRoutes = routesOf({
  'labels.wrong': {
    method: 'GET',
    path: '/api/shelf-labels/wrong',
    allow: [],
    act: 'See the shelf labels that are wrong',
    query: z.object({ day: isoDate.optional(), sort: sortBy(WRONG_LABEL_SORTS), ...page }),
    reply: z.object({ labels: z.array(WrongLabel), total: z.number(), next: z.string().nullable() }),
  },
  'labels.wrongBySite': {
    method: 'GET',
    path: '/api/shelf-labels/wrong-by-site',
    allow: [],
    act: 'See how many shelf labels are wrong at each site',
    query: z.object({ day: isoDate.optional(), item: id.optional() }),
    reply: z.object({ sites: z.array(z.object({ id: z.number(), name: z.string(), total: z.number() })) }),
  },
  'labels.printWrong': {
    method: 'POST',
    path: '/api/shelf-labels/print',
    allow: [],
    act: 'Print the shelf labels that are wrong',
    body: z.object({
      sites: z.array(id).min(1, 'must name at least one site').max(100),
      item: id.optional().describe('Of this item only'),
    }),
    reply: z.object({
      sites: z.array(z.object({ name: z.string(), labels: z.number(), left: z.number(), printers: z.array(z.string()) })),
    }),
  },
  'labels.print': {
    method: 'POST',
    path: '/api/labels',
    allow: [],
    act: 'Print labels',
    body: wantedLabels,
    reply: z.object({
      jobs: z.number(),
      labels: z.number(),
      unsaid: z.array(z.string()).describe('What a code could not hold, a sentence for each label'),
      printers: z.array(z.string()).describe('Where they come out'),
    }),
  },
  'labels.preview': {
    method: 'GET',
    path: '/api/labels/preview',
    allow: [],
    act: 'See a label before it is printed',
    query: z.object({ wanted: wantedText }),
    reply: z.object({
      svg: z.string().nullable().describe('As it will be printed; null where it cannot be'),
      widthMm: z.number(),
      heightMm: z.number(),
      form: z.enum(['bars', 'square']).nullable().describe('The form of its code'),
      printer: z.string().nullable().describe('Where it comes out'),
      moduleMm: z.number().nullable().describe('The least bar or square of the code'),
      forms: z.array(z.enum(['bars', 'square'])).describe('The forms that the code may have'),
      unsaid: z.array(z.string()).describe('What the label does not say, a sentence each'),
      labels: z.number().describe('How many labels come out'),
      onHand: z
        .number()
        .nullable()
        .describe('How many labels the goods at this site want, of the lot where one is named; null of what is no goods'),
    }),
  },
  'labels.units': {
    method: 'GET',
    path: '/api/unit-numbers',
    allow: [],
    act: 'See under which prefix pallets are numbered',
    reply: z.object({ prefix: z.string().nullable(), left: z.number().describe('Numbers that were not given yet') }),
  },
  'labels.setUnitPrefix': {
    method: 'POST',
    path: '/api/unit-numbers',
    allow: ['lead'],
    act: 'Set the prefix under which pallets are numbered',
    body: z.object({
      prefix: z.string().trim().refine(isCompanyPrefix, 'must be the 4 to 12 digits of a company prefix, as the standards office gave it'),
    }),
    reply: done,
  },
  'labels.pdf': {
    method: 'POST',
    path: '/api/labels/pdf',
    allow: [],
    act: 'Print labels',
    body: z.object({
      wanted: z.discriminatedUnion('kind', [...ofWhatIsHere]),
      first: z.number().int().min(0).max(500).default(0).describe('The place on a sheet from which labels are printed, from 0'),
    }),
    reply: z.object({ job: z.number().describe('The job that draws them; its result has the file') }),
  },
  ...printersRoutes,
  ...contentsRoutes,
});
