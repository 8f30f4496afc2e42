import { refuse } from './refusal.ts';

/** The place in a sorted list after which the next page begins, as an opaque text. */
export function keysetText(values: readonly (string | number)[]): string {
  return Buffer.from(JSON.stringify(values)).toString('base64url');
}

/** Reads such a text; null for the first page.
 *  Errors: `request.fields` where the text is not one of ours. */
export function keysetOf(after: string | undefined, length: number): (string | number)[] | null {
  if (after === undefined) return null;
  try {
    const values: unknown = JSON.parse(Buffer.from(after, 'base64url').toString('utf8'));
    if (Array.isArray(values) && values.length === length && values.every((v) => typeof v === 'string' || typeof v === 'number'))
      return values;
  } catch {
    // Falls through to the refusal.
  }
  return refuse({
    code: 'request.fields',
    fields: [{ field: 'after', problem: 'is not a place in this list. Begin again from its top.' }],
  });
}
