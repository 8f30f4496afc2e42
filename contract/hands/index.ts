import { z } from 'zod';
import { condition, done, id, labelIn, moment, optionalLabel, optionalText, routesOf, sscc, text } from '../base/index.ts';

const MOST_ACTS = 100;
/** A picture that a device made small, in base64: some 375 kB. */
export const MOST_PHOTO_LETTERS = 500_000;
/** Things in one logistic unit, as a device tells them. */
export const MOST_IN_UNIT = 1000;
const key = z.uuid({ error: 'must be a UUID' });
const steps = z
  .number()
  .int('must be whole thousandths')
  .min(0)
  .max(1_000_000_000_000)
  .describe('Quantity in thousandths of the base unit');
// What no text column holds is in no label.
const held = /^[^\u0000\p{Cs}]*$/u;
const label = labelIn(40).pipe(z.string().regex(held)).nullable();
const isoDay = z.iso.date().nullable();
// By its number in the house, or by the key under which a device began it.
const delivery = z.union([key, id]);

/** What a hand did, as a device tells it: things by number, lots and serials as on their labels, what was made by the key of the act that
 *  made it. */
export const DoesIn = z.discriminatedUnion('kind', [
  z.object({
    kind: z.literal('receive.begin'),
    delivery: key,
    supplier: id.nullable(),
    orders: z.array(id).max(50),
    back: z.object({ shipment: id.nullable() }).nullable().default(null),
  }),
  z.object({ kind: z.literal('receive.paper'), delivery, doc: z.string().max(60).regex(held), date: isoDay }),
  z.object({
    kind: z.literal('receive.enter'),
    delivery,
    item: id,
    pack: id,
    qty: steps,
    lot: label,
    expires: isoDay,
    made: isoDay.default(null),
    serial: label,
    sscc: sscc.nullable().default(null),
    takeAnyway: z.boolean(),
  }),
  z.object({
    kind: z.literal('receive.unit'),
    delivery,
    sscc,
    goods: z
      .array(z.object({ item: id, pack: id, qty: steps, lot: label, expires: isoDay, made: isoDay, serial: label }))
      .min(1)
      .max(MOST_IN_UNIT),
  }),
  z.object({ kind: z.literal('receive.unknown'), delivery, code: z.string().min(1).max(300).regex(held), qty: steps }),
  z.object({ kind: z.literal('receive.change'), delivery, entry: key, qty: steps }),
  z.object({ kind: z.literal('receive.takeOut'), delivery, entry: key }),
  z.object({
    kind: z.literal('receive.inspect'),
    delivery,
    entry: key,
    checked: steps,
    failed: z.array(z.object({ reason: id, qty: steps })).max(20),
    note: z.string().max(200).regex(held),
  }),
  z.object({ kind: z.literal('receive.where'), delivery, entry: key, bin: id.nullable(), qty: steps, stays: steps }),
  z.object({ kind: z.literal('receive.photo'), delivery, entry: key, jpeg: z.base64().max(MOST_PHOTO_LETTERS) }),
  z.object({ kind: z.literal('receive.finish'), delivery }),
  z.object({
    kind: z.literal('move.put'),
    from: id,
    to: id,
    item: id,
    lot: label,
    serial: label,
    condition,
    qty: steps,
    over: z.string().max(200).regex(held).nullable(),
    newLot: label.default(null),
  }),
  z.object({ kind: z.literal('move.unit'), sscc, from: id, to: id, over: z.string().max(200).regex(held).nullable() }),
  z.object({ kind: z.literal('move.undo'), act: key }),
  z.object({
    kind: z.literal('adjust.say'),
    bin: id,
    item: id,
    way: z.enum(['plus', 'minus']),
    qty: steps,
    lot: label,
    expires: isoDay,
    serial: label,
    condition: z.enum(['sound', 'failed']).default('sound'),
    reason: z.string().min(1).max(200).regex(held),
    reference: z.string().max(60).regex(held).default(''),
    job: z.string().max(60).regex(held).default(''),
    day: isoDay.default(null),
    cost: z
      .string()
      .max(14)
      .regex(/^\d+(\.\d{1,4})?$/)
      .nullable()
      .default(null),
  }),
  z.object({
    kind: z.literal('pick.take'),
    round: id,
    pick: key,
    bin: id,
    item: id,
    lot: label,
    serial: label,
    qty: steps,
    over: z.string().max(200).regex(held).nullable().default(null),
    sscc: label.default(null),
  }),
  z.object({ kind: z.literal('pick.undo'), round: id, taken: key }),
  z.object({
    kind: z.literal('pick.trouble'),
    round: id,
    pick: key,
    trouble: z.enum(['short', 'damaged', 'notFound']),
    instead: z.array(z.object({ key, bin: id, lot: label, qty: steps })).max(20),
  }),
  z.object({
    kind: z.literal('pick.elsewhere'),
    round: id,
    pick: key,
    instead: z.object({ key, bin: id, lot: label, qty: steps }),
    reason: z.string().max(200).regex(held),
  }),
  z.object({ kind: z.literal('pick.assemble'), round: id, order: id, qty: steps, to: id.nullable() }),
  z.object({ kind: z.literal('pick.putDown'), round: id, bin: id }),
  z.object({ kind: z.literal('carry.take'), carry: id, task: key, item: id, lot: label, serial: label, qty: steps }),
  z.object({
    kind: z.literal('carry.put'),
    carry: id,
    task: key,
    item: id,
    lot: label,
    serial: label,
    qty: steps,
    to: id,
    over: z.string().max(200).regex(held).nullable(),
  }),
  z.object({ kind: z.literal('carry.undo'), carry: id, act: key }),
  z.object({ kind: z.literal('carry.trouble'), carry: id, task: key, trouble: z.enum(['short', 'damaged', 'notFound']) }),
  z.object({
    kind: z.literal('count.tally'),
    count: id,
    bin: id,
    item: id,
    lot: label,
    expires: isoDay,
    serial: label,
    sscc: sscc.nullable().default(null),
    qty: steps,
    adds: z.boolean(),
  }),
  z.object({ kind: z.literal('count.change'), count: id, tally: key, qty: steps }),
  z.object({ kind: z.literal('count.takeOut'), count: id, tally: key }),
  z.object({ kind: z.literal('count.verdict'), count: id, bin: id, verdict: z.enum(['none', 'asExpected']) }),
  z.object({ kind: z.literal('count.again'), count: id, bin: id }),
  z.object({ kind: z.literal('pack.order'), order: id, pieces: z.array(key).max(2000), parcels: z.number().int().min(1).max(99) }),
  z.object({ kind: z.literal('pack.undo'), order: id }),
  z.object({ kind: z.literal('pack.ship'), order: id, pieces: z.array(key).max(2000) }),
]);

/** One act with its author and its moment by the device's clock (milliseconds since 1970). */
export const ActIn = z.object({
  key,
  /** The act of the same job before it on this device; it is waited for. */
  after: key.nullable(),
  seq: z.number().int().min(0).max(2_000_000_000),
  person: id,
  site: id,
  doneAt: z.number().int().min(0).max(8_640_000_000_000_000),
  /** By `DoesIn`; what is not readable by it is kept as a clash, or one act of an older program would hold up all that comes after it. */
  does: z.record(z.string(), z.unknown()),
});
export type ActIn = z.infer<typeof ActIn>;

/** What became of an act. `failed`: the server broke on it; it stays on the device and is sent again. */
export const Outcome = z.object({
  key: z.string(),
  outcome: z.enum(['done', 'repeated', 'clash', 'failed']),
  says: z.string().nullable(),
});
export type Outcome = z.infer<typeof Outcome>;

// Rows of facts travel as plain arrays, in the order that web/hands reads: ten thousands of them come to a device at once.
const row = z.array(z.unknown());
export const FACT_KINDS = [
  'item',
  'bin',
  'foreignBin',
  'lot',
  'balance',
  'supplier',
  'purchaseOrder',
  'delivery',
  'entry',
  'round',
  'carry',
  'order',
  'count',
  'countBin',
  'tally',
  'failureReason',
  'shipment',
  'notice',
] as const;
export type FactKind = (typeof FACT_KINDS)[number];
const part = z.object({ kind: z.enum(FACT_KINDS), rows: z.array(row), gone: z.array(z.number()) });
export type FactPart = { kind: FactKind; rows: unknown[][]; gone: number[] };

/** Acts of a clash that settle it, in the words of the button; `wants` what must be given with it. */
export const Settlement = z.object({
  how: z.string(),
  label: z.string(),
  wants: z.enum(['nothing', 'item', 'serial']).default('nothing'),
});
export const ClashOut = z.object({
  key: z.string(),
  kind: z.string(),
  what: z.string().describe('What was scanned or done, in words'),
  against: z.string().describe('What stood against it, in words'),
  document: z.object({ name: z.string(), path: z.string() }).nullable(),
  by: z.string(),
  at: moment,
  told: moment,
  device: z.string(),
  settlements: z.array(Settlement),
  settled: z.object({ at: moment, by: z.string(), how: z.string() }).nullable(),
});
export type ClashOut = z.infer<typeof ClashOut>;

export const handsRoutes = routesOf({
  'hands.device': {
    method: 'POST',
    path: '/api/hands/device',
    allow: [],
    act: 'Name this device',
    plain: true,
    body: z.object({ name: optionalText(40) }),
    reply: z.object({ device: z.string(), name: z.string() }),
  },
  'hands.printer': {
    method: 'GET',
    path: '/api/hands/printer',
    allow: [],
    act: 'See which printer this handheld uses',
    reply: z.object({ printer: z.number().nullable(), printers: z.array(z.object({ id: z.number(), name: z.string() })) }),
  },
  'hands.usePrinter': {
    method: 'POST',
    path: '/api/hands/printer',
    allow: [],
    act: 'Say which printer this handheld uses',
    body: z.object({ printer: id.nullable() }),
    reply: done,
  },
  'hands.devices': {
    method: 'GET',
    path: '/api/hands/devices',
    allow: ['lead'],
    act: 'See the devices',
    reply: z.object({
      benchTrusts: z.boolean(),
      devices: z.array(
        z.object({
          id: z.string(),
          name: z.string(),
          heard: moment,
          waiting: z.number(),
          person: z.string().nullable(),
          site: z.string().nullable(),
          version: z.string(),
          acts: z.number(),
        }),
      ),
    }),
  },
  'hands.facts': {
    method: 'GET',
    path: '/api/hands/facts',
    allow: [],
    act: 'Take facts along',
    query: z.object({
      /** The revision that the device has; without it, everything from the beginning, a page at a time. */
      since: z
        .string()
        .regex(/^([0-9a-f]{8}-)?\d{1,20}$/)
        .optional(),
      kind: z.enum(FACT_KINDS).optional(),
      after: z.coerce.number().int().min(0).default(0),
    }),
    reply: z.object({
      revision: z.string(),
      parts: z.array(part),
      /** Where the next page begins; null where that was the last. */
      next: z.object({ kind: z.enum(FACT_KINDS), after: z.number() }).nullable(),
      /** The device was away too long, or so much changed: it begins anew. */
      reset: z.boolean(),
      now: z.number(),
      today: z.string(),
      trust: z.boolean(),
      onlyLotsThatRead: z.boolean(),
    }),
  },
  'hands.acts': {
    method: 'POST',
    path: '/api/hands/acts',
    allow: [],
    act: 'Tell what was done on the floor',
    plain: true,
    body: z.object({
      sentAt: z.number().int(),
      waiting: z.number().int().min(0).max(1_000_000),
      version: z.string().max(40).regex(held).optional(),
      acts: z.array(ActIn).max(MOST_ACTS, `must hold at most ${MOST_ACTS} acts`),
    }),
    reply: z.object({ outcomes: z.array(Outcome), now: z.number() }),
  },
  'hands.clashes': {
    method: 'GET',
    path: '/api/hands/clashes',
    allow: ['lead', 'office'],
    act: 'See what clashed',
    query: z.object({ show: z.enum(['open', 'all']).default('open'), job: optionalText(40) }),
    reply: z.object({ clashes: z.array(ClashOut) }),
  },
  'hands.settle': {
    method: 'POST',
    path: '/api/hands/clashes/:key/settle',
    allow: ['lead'],
    act: 'Settle a clash',
    params: z.object({ key }),
    body: z.object({ how: text(40), item: id.optional(), serial: optionalLabel(40) }),
    reply: z.object({ says: z.string() }),
  },
  'hands.trust': {
    method: 'POST',
    path: '/api/hands/bench',
    allow: ['lead'],
    act: 'Say whether the bench trusts the pick',
    body: z.object({ trusts: z.boolean() }),
    reply: done,
  },
});
