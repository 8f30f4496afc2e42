import './wording.ts';
import { z } from 'zod';
import { formatQty, parseQty, type Qty } from '#core/base';
import { labelText } from '#core/items';
import type { Role } from '#core/people';

/** One row of the table of routes: everything that server, web and the OpenAPI description need to know of it. */
export type RouteSpec = {
  readonly method: 'GET' | 'POST';
  /** Express style: `/api/bins/:id`. */
  readonly path: string;
  /** Who may: `public`, or roles; an empty list is everybody who is signed in. */
  readonly allow: 'public' | readonly Role[];
  /** What it does, as a person would say it; also named in the refusal when the right is missing. */
  readonly act: string;
  readonly params?: z.ZodType;
  readonly query?: z.ZodType;
  readonly body?: z.ZodType;
  readonly reply: z.ZodType;
  /** Sign-in and sign-out change the session, not stock: no Idempotency-Key. */
  readonly plain?: boolean;
};

/** Keeps the literal types of a room's routes. */
export function routesOf<const R extends Record<string, RouteSpec>>(routes: R): R {
  return routes;
}

type Part<R, Name extends string, Way extends 'in' | 'out'> =
  R extends Readonly<Record<Name, infer S extends z.ZodType>> ? (Way extends 'in' ? z.input<S> : z.output<S>) : undefined;
export type ParamsOf<R extends RouteSpec> = Part<R, 'params', 'out'>;
export type QueryOf<R extends RouteSpec> = Part<R, 'query', 'out'>;
export type BodyOf<R extends RouteSpec> = Part<R, 'body', 'out'>;
export type ParamsIn<R extends RouteSpec> = Part<R, 'params', 'in'>;
export type QueryIn<R extends RouteSpec> = Part<R, 'query', 'in'>;
export type BodyIn<R extends RouteSpec> = Part<R, 'body', 'in'>;
export type ReplyOf<R extends RouteSpec> = z.output<R['reply']>;

/** A number of the database, in a path or a query. */
export const id = z.coerce
  .number({ error: 'must be a number' })
  .int('must be a whole number')
  .positive('must be more than 0')
  .max(2_147_483_647, 'is too large');
export const byId = z.object({ id });
/** In which state stock is. */
export const condition = z.enum(['sound', 'inspect', 'held', 'failed']);
/** The number on the label of a logistic unit: 18 digits. */
export const sscc = z.string().regex(/^\d{18}$/, 'must be 18 digits');
export const bySscc = z.object({ sscc });

/** A quantity in base units, as a decimal text; parsed to whole steps at the door. */
export const qtyIn = z
  .union([z.string(), z.number()], { error: 'must be a quantity such as 12 or 2.5' })
  .transform((value, context): Qty => {
    const parsed = parseQty(String(value));
    if (parsed.ok && parsed.value >= 0) return parsed.value;
    if (parsed.ok) context.addIssue({ code: 'custom', message: `${String(value).slice(0, 40)} is less than nothing` });
    else context.addIssue({ code: 'custom', message: `“${String(value).slice(0, 40)}” is not a quantity such as 12 or 2.5` });
    return z.NEVER;
  });

/** A quantity that leaves the server: base units, no trailing zeros. */
export const qtyOut = z.string().describe('Quantity in base units, as a decimal text');

/** A quantity for a reply. */
export function qtyText(value: Qty): string {
  return formatQty(value);
}

/** What goods cost, as a decimal text; null for whoever may not read costs. */
export const costOut = z.string().nullable().describe('A cost; null for those who may not read costs');

export const text = (most: number) =>
  z.string({ error: 'must be a text' }).trim().min(1, 'must not be empty').max(most, `must have at most ${most} characters`);
export const optionalText = (most: number) =>
  z.string({ error: 'must be a text' }).trim().max(most, `must have at most ${most} characters`).optional();
/** A lot or serial, as it is kept (`labelText`). */
export const labelIn = (most: number) =>
  z
    .string({ error: 'must be a text' })
    .max(300, 'is longer than any label')
    .transform(labelText)
    .pipe(z.string().min(1, 'must not be empty').max(most, `must have at most ${most} characters`));
export const optionalLabel = (most: number) =>
  z
    .string({ error: 'must be a text' })
    .max(300, 'is longer than any label')
    .transform(labelText)
    .pipe(z.string().max(most, `must have at most ${most} characters`))
    .optional();
export const isoDate = z.iso.date({ error: 'must be a date such as 2027-03-31' });
export const moment = z.string().describe('ISO 8601 time');
/** What the scanner typed, untouched. */
export const scanText = z.string({ error: 'must be a text' }).min(1, 'must not be empty').max(300, 'is longer than any label');
/** Where and when a scan was made; both are the device's own words. */
export const device = z.string().max(60).optional();
/** The version of a record that a person looked at when they changed it. */
export const version = z.number({ error: 'must be the version of the record that was changed' }).int();
export const done = z.object({ ok: z.literal(true) });
/** By which column a list is read, with a minus for the other way round; nothing for the order that it has by itself. */
export const sortBy = <const Id extends string>(ids: readonly Id[]) =>
  z.enum(ids.flatMap((id): (Id | `-${Id}`)[] => [id, `-${id}`])).optional();
// A place in a list may hold a description of 200 characters, each of four bytes.
export const page = { after: z.string().max(1200).optional(), limit: z.coerce.number().int().min(1).max(500).default(100) };
