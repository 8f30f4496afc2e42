import { assertNever, fail, ok, type Result } from '#core/base';
import { checkDigit, hasValidCheckDigit } from './check-digit.ts';
import { readGs1Date } from './gs1-date.ts';
import { aiAt, GS1_TABLE, isPredefined, type AiCheck, type AiRule } from './gs1-table.ts';

/** One element: the identifier, the data as printed, and the value read from it: dates as `YYYY-MM-DD`, measures with their decimal
 *  point. */
export type Gs1Element = { readonly ai: string; readonly name: string; readonly data: string; readonly value: string };

export type Gs1Fault =
  | { code: 'items.gs1UnknownAi'; at: number; text: string }
  | { code: 'items.gs1TooShort'; ai: string; text: string }
  | { code: 'items.gs1TooLong'; ai: string; text: string; most: number }
  | { code: 'items.gs1CheckDigit'; ai: string; text: string; wanted: string }
  | { code: 'items.gs1BadDate'; ai: string; text: string }
  | { code: 'items.gs1BadData'; ai: string; text: string }
  | { code: 'items.gs1Twice'; ai: string; text: string; other: string }
  | { code: 'items.linkTwice'; ai: string }
  | { code: 'items.linkPlace'; ai: string; key: string };

const GS = '\u001d';
// GS1 General Specifications, figures 7.11-1 to 7.11-3: character sets 82, 39 and 64.
const SETS = { N: /^\d+$/, X: /^[!"%&'()*+,\-./0-9:;<=>?A-Z_a-z]+$/, Y: /^[#\-/0-9A-Z]+$/, Z: /^[-0-9A-Z_a-z=]+$/ } as const;

/** Reads a GS1 element string.
 *  Shape:  the text without symbology identifier; FNC1 between elements arrives as GS (0x1D); one leading GS is allowed.
 *  Errors: the first thing that breaks the standard, naming the identifier. Never guesses: data that run on because a separator is missing
 *          are too long for their identifier and said to be so.
 *  Source: GS1 General Specifications, sections 3.2 and 7.8.5. */
export function readGs1(text: string, thisYear: number): Result<readonly Gs1Element[], Gs1Fault> {
  const elements: Gs1Element[] = [];
  let at = text.startsWith(GS) ? 1 : 0;
  if (at === text.length) return fail({ code: 'items.gs1UnknownAi', at, text });
  while (at < text.length) {
    const ai = aiAt(text, at);
    if (ai === null) return fail({ code: 'items.gs1UnknownAi', at, text });
    const rule = GS1_TABLE.get(ai) as AiRule;
    const start = at + ai.length;
    const separator = text.indexOf(GS, start);
    const limit = separator === -1 ? text.length : separator;
    const end = isPredefined(ai) ? Math.min(start + rule.max, limit) : limit;
    const read = readGs1Data(ai, text.slice(start, end), thisYear);
    if (!read.ok) return read;
    const same = elements.find((e) => e.ai === ai);
    if (same && same.data !== read.value.data) return fail({ code: 'items.gs1Twice', ai, text: read.value.data, other: same.data });
    if (!same) elements.push(read.value);
    at = text[end] === GS ? end + 1 : end;
  }
  return ok(elements);
}

/** Reads the data of one identifier.
 *  Errors: too short, too long, a wrong check digit (with the right one), no such day or time, or characters that may not stand there. */
export function readGs1Data(ai: string, data: string, thisYear: number): Result<Gs1Element, Gs1Fault> {
  const rule = GS1_TABLE.get(ai);
  if (!rule) return fail({ code: 'items.gs1UnknownAi', at: 0, text: ai });
  if (data.length < Math.max(1, rule.min)) return fail({ code: 'items.gs1TooShort', ai, text: data });
  if (data.length > rule.max) return fail({ code: 'items.gs1TooLong', ai, text: data, most: rule.max });
  let at = 0;
  let day: string | null = null;
  for (const part of rule.parts) {
    const piece = data.slice(at, at + part.max);
    at += piece.length;
    if (piece === '' && part.optional) continue;
    if (piece.length < part.min) return fail({ code: 'items.gs1TooShort', ai, text: data });
    if (!SETS[part.set].test(piece)) return fail({ code: 'items.gs1BadData', ai, text: data });
    const fault = part.checks.map((check) => faultOf(check, ai, piece, thisYear)).find((f) => f !== null);
    if (fault) return fail(fault);
    if (part.checks.some((c) => c === 'yymmdd' || c === 'yymmd0')) day ??= readGs1Date(piece, thisYear);
  }
  const onlyDay = day !== null && rule.parts.length === 1;
  return ok({ ai, name: rule.name, data, value: onlyDay ? (day as string) : rule.decimals ? withPoint(ai, data) : data });
}

function faultOf(check: AiCheck, ai: string, text: string, thisYear: number): Gs1Fault | null {
  const badDate: Gs1Fault = { code: 'items.gs1BadDate', ai, text };
  const badData: Gs1Fault = { code: 'items.gs1BadData', ai, text };
  const below = (limit: number): boolean => Number(text) < limit;
  switch (check) {
    case 'csum':
      return hasValidCheckDigit(text) ? null : { code: 'items.gs1CheckDigit', ai, text, wanted: String(checkDigit(text.slice(0, -1))) };
    case 'yymmdd':
      return readGs1Date(text, thisYear) === null || text.endsWith('00') ? badDate : null;
    case 'yymmd0':
      return readGs1Date(text, thisYear) === null ? badDate : null;
    case 'yyyymmdd':
      return readGs1Date(text.slice(2), Number(text.slice(0, 4))) === null || text.endsWith('00') ? badDate : null;
    case 'hhmi':
      return Number(text.slice(0, 2)) < 24 && Number(text.slice(2)) < 60 ? null : badDate;
    case 'hh':
      return below(24) ? null : badDate;
    case 'mi':
    case 'ss':
      return below(60) ? null : badDate;
    case 'yesno':
      return text === '0' || text === '1' ? null : badData;
    case 'zero':
      return Number(text) === 0 ? null : badData;
    case 'nonzero':
      return Number(text) !== 0 ? null : badData;
    case 'pieceoftotal': {
      const [piece, total] = [Number(text.slice(0, 2)), Number(text.slice(2))];
      return piece > 0 && piece <= total ? null : badData;
    }
    default:
      return assertNever(check);
  }
}

// The last digit of the identifier is the number of decimals; 391n and 393n begin with a currency of three digits.
function withPoint(ai: string, data: string): string {
  const decimals = Number(ai.at(-1));
  const currency = /^39[13]/.test(ai) ? `${data.slice(0, 3)} ` : '';
  const digits = (currency ? data.slice(3) : data).padStart(decimals + 1, '0');
  const whole = String(BigInt(digits.slice(0, digits.length - decimals)));
  return currency + (decimals === 0 ? whole : `${whole}.${digits.slice(-decimals)}`);
}

/** Writes elements as an element string: a separator after each whose length was not fixed for good, but not after the last.
 *  Source: GS1 General Specifications, section 7.8.4. */
export function writeGs1(elements: readonly { ai: string; data: string }[]): string {
  return elements.map((e, i) => e.ai + e.data + (isPredefined(e.ai) || i === elements.length - 1 ? '' : GS)).join('');
}
