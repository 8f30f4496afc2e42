import { fail, ok, type Result } from '#core/base';
import { hasValidCheckDigit } from './check-digit.ts';
import { readGs1Date } from './gs1-date.ts';

type AiRule = { readonly name: string; readonly fixed?: number; readonly max?: number; readonly kind: 'digits' | 'text' | 'date' | 'key' };

/** The application identifiers read so far. `fixed` data needs no separator after it; `max` data ends at a separator or the end.
 *  Source: GS1 General Specifications, section 3.2 and figure 7.8.5-2 (predefined lengths). */
export const GS1_AIS: Readonly<Record<string, AiRule>> = {
  '00': { name: 'sscc', fixed: 18, kind: 'key' },
  '01': { name: 'gtin', fixed: 14, kind: 'key' },
  '02': { name: 'content', fixed: 14, kind: 'key' },
  '10': { name: 'lot', max: 20, kind: 'text' },
  '11': { name: 'made', fixed: 6, kind: 'date' },
  '13': { name: 'packed', fixed: 6, kind: 'date' },
  '15': { name: 'bestBefore', fixed: 6, kind: 'date' },
  '17': { name: 'expires', fixed: 6, kind: 'date' },
  '21': { name: 'serial', max: 20, kind: 'text' },
  '30': { name: 'count', max: 8, kind: 'digits' },
  '37': { name: 'contentCount', max: 8, kind: 'digits' },
};

/** The elements by name, e.g. `{ gtin, lot, expires }`. Dates are `YYYY-MM-DD`. */
export type Gs1Elements = Readonly<Record<string, string>>;

export type Gs1Fault =
  | { code: 'items.gs1UnknownAi'; at: number; text: string }
  | { code: 'items.gs1TooShort'; ai: string; text: string }
  | { code: 'items.gs1BadData'; ai: string; text: string };

const GS = '\u001d';

/** Reads a GS1 element string.
 *  Shape:  the text without symbology identifier; FNC1 between elements arrives as GS (0x1D); a leading one is allowed.
 *  Errors: names the identifier and the data that do not fit. Never guesses. */
export function readGs1(text: string, thisYear: number): Result<Gs1Elements, Gs1Fault> {
  const elements: Record<string, string> = {};
  let at = text.startsWith(GS) ? 1 : 0;
  while (at < text.length) {
    const ai = text.slice(at, at + 2);
    const rule = GS1_AIS[ai];
    if (!rule) return fail({ code: 'items.gs1UnknownAi', at, text });
    const start = at + 2;
    const separator = text.indexOf(GS, start);
    const end = rule.fixed !== undefined ? start + rule.fixed : separator === -1 ? text.length : separator;
    const data = text.slice(start, end);
    if (data.length === 0 || (rule.fixed !== undefined && data.length < rule.fixed)) return fail({ code: 'items.gs1TooShort', ai, text });
    const value = readElement(rule, data, thisYear);
    if (value === null) return fail({ code: 'items.gs1BadData', ai, text: data });
    elements[rule.name] = value;
    at = text[end] === GS ? end + 1 : end;
  }
  return ok(elements);
}

// GS1 General Specifications, figure 7.11-1: the 82 characters that text elements may hold.
const TEXT_SET = /^[!"%&'()*+,\-./0-9:;<=>?A-Z_a-z]+$/;

function readElement(rule: AiRule, data: string, thisYear: number): string | null {
  if (rule.max !== undefined && data.length > rule.max) return null;
  switch (rule.kind) {
    case 'key':
      return hasValidCheckDigit(data) ? data : null;
    case 'date':
      return readGs1Date(data, thisYear);
    case 'digits':
      return /^\d+$/.test(data) ? data : null;
    case 'text':
      return TEXT_SET.test(data) ? data : null;
  }
}
