import { fail, ok, type Result } from '#core/base';
import { readGs1Data, type Gs1Element, type Gs1Fault } from './gs1.ts';
import { GS1_TABLE } from './gs1-table.ts';

// The identifiers that may begin a Digital Link path, and what may follow each, in this order.
// Source: GS1 Digital Link Standard: URI Syntax, sections 4.3 and 4.4.
const QUALIFIERS: Readonly<Record<string, readonly (readonly string[])[]>> = {
  '00': [],
  '01': [['22', '10', '21'], ['235']],
  '253': [],
  '255': [],
  '401': [],
  '402': [],
  '414': [['254'], ['7040']],
  '415': [['8020']],
  '417': [['7040']],
  '8003': [],
  '8004': [['7040']],
  '8006': [['22', '10', '21']],
  '8010': [['8011']],
  '8013': [],
  '8017': [['8019']],
  '8018': [['8019']],
};
// What says which thing is meant stands in the path, never behind the question mark.
const NOT_IN_QUERY = new Set([
  '03',
  '21',
  '22',
  '235',
  '254',
  '7040',
  '7041',
  '8011',
  '8014',
  '8019',
  '8020',
  '8040',
  '8041',
  '8042',
  '8043',
  '8200',
]);

/** Reads a GS1 Digital Link URI, or null where the text is no such URI (any other address on a box is plain text).
 *  Shape:  `https://any.host/any/path/01/<GTIN>/10/<lot>/21/<serial>?17=<YYMMDD>`; a GTIN of 8, 12 or 13 digits is padded; keys of the
 *          query that are not digits belong to the link's owner and are passed over.
 *  Errors: those of the element string; a query key of digits that is no identifier; a key or qualifier that stands twice, in the path or
 *          behind it; one that may not stand where it stands.
 *  Source: GS1 Digital Link Standard: URI Syntax, section 4. */
export function readDigitalLink(text: string, thisYear: number): Result<readonly Gs1Element[], Gs1Fault> | null {
  if (!/^https?:\/\/[^\s]+$/i.test(text)) return null;
  let url: URL;
  let segments: string[];
  try {
    url = new URL(text);
    segments = url.pathname.split('/').filter(Boolean).map(decodeURIComponent);
  } catch {
    return null;
  }
  const start = segments.findIndex((s, i) => s in QUALIFIERS && isPathOf(segments.slice(i), thisYear));
  if (start === -1) return null;
  const path = segments.slice(start);
  const key = path[0] as string;
  const pairs: { ai: string; data: string }[] = [];
  for (let i = 0; i < path.length; i += 2) pairs.push({ ai: path[i] as string, data: path[i + 1] as string });
  const inPath = pairs.map((p) => p.ai);
  const misplaced = wrongQualifier(key, inPath.slice(1));
  if (misplaced !== null) return fail({ code: 'items.linkPlace', ai: misplaced, key });
  for (const [ai, data] of url.searchParams) {
    if (!/^\d{2,4}$/.test(ai)) continue;
    if (pairs.some((p) => p.ai === ai)) return fail({ code: 'items.linkTwice', ai });
    if (ai in QUALIFIERS || NOT_IN_QUERY.has(ai)) return fail({ code: 'items.linkPlace', ai, key });
    pairs.push({ ai, data });
  }
  const elements: Gs1Element[] = [];
  for (const { ai, data } of pairs) {
    const read = readGs1Data(ai, padded(ai, data), thisYear);
    if (!read.ok) return read;
    elements.push(read.value);
  }
  return ok(elements);
}

const padded = (ai: string, data: string): string => (ai === '01' && /^(\d{8}|\d{12,13})$/.test(data) ? data.padStart(14, '0') : data);

// The first qualifier that does not belong to the key, stands out of order, or twice; null where all are right.
function wrongQualifier(key: string, qualifiers: readonly string[]): string | null {
  const fits = (list: readonly string[]): number => {
    let at = -1;
    for (const [n, q] of qualifiers.entries()) {
      const next = list.indexOf(q);
      if (next <= at) return n;
      at = next;
    }
    return qualifiers.length;
  };
  const furthest = Math.max(0, ...(QUALIFIERS[key] ?? []).map(fits));
  return qualifiers[furthest] ?? null;
}

// A key with a value, then pairs of identifier and value. A page called /01/manual.pdf is no link of ours: where the key is a number,
// digits must follow; and where more follows, it must look like identifiers.
function isPathOf(path: readonly string[], thisYear: number): boolean {
  const [key = '', value = ''] = path;
  const rule = GS1_TABLE.get(key);
  if (!rule || path.length % 2 !== 0) return false;
  const wanted = rule.parts[0]?.set === 'N' ? /^\d{8,}$/ : /^[^/]{1,90}$/;
  if (!wanted.test(value)) return false;
  const rest = path.filter((_, i) => i > 0 && i % 2 === 0);
  if (rest.some((ai) => !GS1_TABLE.has(ai))) return false;
  // With nothing behind it, an address that breaks the key's own rules may still be meant as one: it is refused, with the reason.
  return (
    rest.length === 0 ||
    readGs1Data(key, padded(key, value), thisYear).ok ||
    rest.every((ai) => (QUALIFIERS[key] ?? []).flat().includes(ai))
  );
}
