import { z } from 'zod';
import { LABEL_KINDS } from '#core/labels';
import { done, id, moment, routesOf } from '../base/index.ts';

const cells = z.number().int().min(0).max(100);
const mm = z.number().min(5).max(300);
const arrangement = z.object({
  widthMm: mm,
  heightMm: mm,
  boxes: z.record(z.string().max(60), z.object({ column: cells, row: cells, across: cells, down: cells })),
});
const kind = z.enum(LABEL_KINDS);
const contents = z.object({
  shown: z.array(z.string().max(60)).max(40).describe('Keys of parts that may stand there; own: and a number is an own field'),
  texts: z.array(z.string().trim().min(1, 'must say something').max(120)).max(10).describe('Words of the house'),
  arranged: z.array(arrangement).max(20).describe('Where everything stands, for labels of a size'),
  logo: id.nullable().describe('The file of the picture'),
});
/** What a house wants on a kind of label. */
export type ContentsBody = z.infer<typeof contents>;

// In the address of a page, as text.
const contentsText = z
  .string()
  .max(12_000)
  .transform((value, context): ContentsBody => {
    try {
      return contents.parse(JSON.parse(value));
    } catch {
      context.addIssue({ code: 'custom', message: 'are no contents of a label' });
      return z.NEVER;
    }
  });

export const contentsRoutes = routesOf({
  'labels.contents': {
    method: 'GET',
    path: '/api/label-contents/:kind',
    allow: [],
    act: 'See what stands on labels',
    params: z.object({ kind }),
    reply: z.object({
      version: z.number().describe('0 where the house said nothing yet'),
      contents,
      by: z.string().nullable(),
      at: moment.nullable(),
      before: contents.nullable().describe('As it was before the last change'),
      own: z.array(z.object({ id: z.number(), label: z.string() })).describe('The fields of the company’s own that may stand there'),
    }),
  },
  'labels.draft': {
    method: 'GET',
    path: '/api/label-contents/:kind/draft',
    allow: [],
    act: 'See what stands on labels',
    params: z.object({ kind }),
    query: z.object({ contents: contentsText, widthMm: z.coerce.number().min(5).max(300), heightMm: z.coerce.number().min(5).max(300) }),
    reply: z.object({
      svg: z.string().nullable().describe('A made-up label, as it would be printed'),
      unsaid: z.array(z.string()),
      drawn: z.array(z.string()).describe('The keys of the parts that stand on it'),
      checks: z
        .array(
          z.object({
            says: z.string().describe('Which made-up label'),
            misses: z.array(z.string()).describe('Parts that have no room where they were put'),
            dpi: z.array(z.number()).describe('The heads for which this holds'),
            isLabel: z.boolean().describe('Whether it can be printed at all, by the rule where it does not fit as arranged'),
          }),
        )
        .describe('What becomes of made-up labels, everyday ones and long ones, at every head'),
    }),
  },
  'labels.setContents': {
    method: 'POST',
    path: '/api/label-contents/:kind',
    allow: ['lead'],
    act: 'Say what stands on labels',
    params: z.object({ kind }),
    body: contents.extend({ version: z.number().int().min(0).describe('The version that was changed') }),
    reply: done,
  },
});
