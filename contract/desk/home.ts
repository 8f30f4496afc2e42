import { z } from 'zod';
import { ACTS } from '#core/desk';
import { moment, qtyOut } from '../base/index.ts';

// Home tells facts; the sentences are the web's. Each kind of thing that is wrong is counted exactly; the first of them by name.
const all = <Row extends z.ZodType>(row: Row) => z.object({ total: z.number(), rows: z.array(row) });
const order = z.object({ order: z.number(), number: z.string(), customer: z.string(), due: z.string() });
const lot = z.object({
  item: z.number(),
  code: z.string(),
  lot: z.string(),
  qty: qtyOut,
  unit: z.string(),
  expires: z.string(),
  address: z.string().describe('The bin, or the first of several'),
});

/** What can be done now, ranked by what waiting costs; `of` names what it would be done to, as far as that is one press. */
export const NextAct = z.object({
  act: z.enum(ACTS),
  count: z.number(),
  late: z.number(),
  since: moment.nullable(),
  of: z.array(z.object({ id: z.number(), name: z.string() })).describe('The first of what waits, in the order in which it would be done'),
});
export type NextAct = z.infer<typeof NextAct>;

export const Home = z.object({
  lowDisk: z.number().nullable().describe('Megabytes left on the disk of the database, where that is little'),
  now: z.array(NextAct),
  late: all(order.extend({ station: z.enum(['orders', 'rounds', 'bench']), who: z.string().nullable() })),
  overdue: all(z.object({ purchaseOrder: z.number(), number: z.string(), supplier: z.string(), due: z.string(), days: z.number() })),
  trouble: all(
    z.object({
      trouble: z.number(),
      what: z.string(),
      bin: z.number(),
      address: z.string(),
      code: z.string(),
      by: z.string(),
      at: moment,
    }),
  ),
  short: all(order.extend({ lines: z.number(), isLate: z.boolean(), isFree: z.boolean() })).extend({
    free: z.number().describe('Of how many of them more could be promised now'),
  }),
  held: all(order.extend({ reason: z.string() })),
  pastHolds: all(
    z.object({ hold: z.number(), number: z.string(), what: z.string(), until: z.string(), reason: z.string(), by: z.string() }),
  ),
  clashes: all(z.object({ key: z.string(), what: z.string(), by: z.string(), against: z.string(), at: moment })),
  expired: all(
    lot.extend({ balance: z.number(), bin: z.number(), to: z.string().nullable().describe('Quarantine, where it may go there') }),
  ),
  expiring: all(lot.extend({ lotId: z.number() })).extend({
    within: z.array(z.object({ days: z.number(), lots: z.number() })).describe('How many expire within each distance of the site'),
  }),
  unplaced: all(z.object({ item: z.number(), code: z.string(), description: z.string(), qty: qtyOut, unit: z.string() })),
  wrongLabels: all(
    z.object({ bin: z.number(), address: z.string(), item: z.number(), code: z.string(), onLabel: z.string().nullable(), now: z.string() }),
  ),
  counts: all(z.object({ zone: z.number(), name: z.string(), never: z.number(), bins: z.number(), oldest: z.string().nullable() })),
  people: z.array(
    z.object({
      name: z.string(),
      job: z.enum(['round', 'delivery', 'count']),
      id: z.number(),
      number: z.string(),
      done: z.number(),
      of: z.number().nullable(),
      at: moment,
    }),
  ),
});
export type Home = z.infer<typeof Home>;

/** Pieces that moved, by the hour of the day at the site. */
export const DAY_KINDS = ['in', 'putAway', 'picked', 'gone'] as const;
export const Day = z.object({
  hours: z.array(z.object({ hour: z.number(), kind: z.enum(DAY_KINDS), pieces: z.number() })),
  usual: z
    .array(z.object({ hour: z.number(), kind: z.enum(DAY_KINDS), pieces: z.number() }))
    .describe('The mean of the last four weeks’ days of work'),
});
