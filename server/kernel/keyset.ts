import { refuse } from './refusal.ts';

/** The place in a sorted list after which the next page begins, as an opaque text. */
export function keysetText(values: readonly (string | number)[]): string {
  return Buffer.from(JSON.stringify(values)).toString('base64url');
}

/** What stands at one place of such a text: a number of the database, a text, a day (ISO 8601), or a decimal or a moment as the database
 *  writes them. */
export type KeysetPart = 'number' | 'text' | 'day' | 'decimal' | 'moment';
type Value<P extends KeysetPart> = P extends 'number' ? number : string;

const isDay = (text: string): boolean => {
  const at = /^\d{4}-\d\d-\d\d$/.test(text) ? new Date(`${text}T00:00:00Z`) : new Date(NaN);
  return !Number.isNaN(at.getTime()) && at.toISOString().startsWith(text);
};
const isMoment = (text: string): boolean =>
  /^-?infinity$/.test(text) ||
  (isDay(text.slice(0, 10)) && /^ ([01]\d|2[0-3]):[0-5]\d:[0-5]\d(\.\d{1,6})?[+-](0\d|1[0-5])(:[0-5]\d)?$/.test(text.slice(10)));

const FITS: Readonly<Record<KeysetPart, (value: unknown) => boolean>> = {
  number: (v) => typeof v === 'number' && Number.isSafeInteger(v) && Math.abs(v) < 2 ** 31,
  text: (v) => typeof v === 'string' && !v.includes('\u0000'),
  day: (v) => typeof v === 'string' && isDay(v),
  decimal: (v) => typeof v === 'string' && /^-?\d{1,30}(\.\d{1,60})?$/.test(v),
  moment: (v) => typeof v === 'string' && isMoment(v),
};

/** Reads such a text; null for the first page.
 *  Errors: `request.fields` where the text is not one of this list. */
export function keysetOf<const P extends readonly KeysetPart[]>(
  after: string | undefined,
  ...parts: P
): { -readonly [K in keyof P]: Value<P[K]> } | null {
  if (after === undefined) return null;
  try {
    const values: unknown = JSON.parse(Buffer.from(after, 'base64url').toString('utf8'));
    if (Array.isArray(values) && values.length === parts.length && parts.every((part, i) => FITS[part](values[i])))
      return values as { -readonly [K in keyof P]: Value<P[K]> };
  } catch {
    // Falls through to the refusal.
  }
  return refuse({
    code: 'request.fields',
    fields: [{ field: 'after', problem: 'is not a place in this list. Begin again from its top.' }],
  });
}
