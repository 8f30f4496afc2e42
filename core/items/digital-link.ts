import { ok, type Result } from '#core/base';
import { readGs1Data, type Gs1Element, type Gs1Fault } from './gs1.ts';
import { GS1_TABLE } from './gs1-table.ts';

// The identifiers that may begin a Digital Link path, and what may follow each, in this order.
// Source: GS1 Digital Link Standard: URI Syntax, sections 4.3 and 4.4.
const QUALIFIERS: Readonly<Record<string, readonly string[]>> = {
  '00': [],
  '01': ['22', '10', '21', '235'],
  '253': [],
  '255': [],
  '401': [],
  '402': [],
  '414': ['254', '7040'],
  '417': ['7040'],
  '8003': [],
  '8004': ['7040'],
  '8006': ['22', '10', '21'],
  '8010': ['8011'],
  '8013': [],
  '8017': ['8019'],
  '8018': ['8019'],
};

/** Reads a GS1 Digital Link URI, or null where the text is no such URI (any other address on a box is plain text).
 *  Shape:  `https://any.host/any/path/01/<GTIN>/10/<lot>/21/<serial>?17=<YYMMDD>`; a GTIN of 8, 12 or 13 digits is padded; keys of the
 *          query that are not digits belong to the link's owner and are passed over.
 *  Errors: those of the element string; a query key of digits that is no identifier.
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
  const start = segments.findIndex((s, i) => s in QUALIFIERS && isPathOf(segments.slice(i)));
  if (start === -1) return null;
  const path = segments.slice(start);
  const pairs: { ai: string; data: string }[] = [];
  for (let i = 0; i < path.length; i += 2) pairs.push({ ai: path[i] as string, data: path[i + 1] as string });
  for (const [key, value] of url.searchParams) if (/^\d{2,4}$/.test(key)) pairs.push({ ai: key, data: value });
  const elements: Gs1Element[] = [];
  for (const { ai, data } of pairs) {
    const read = readGs1Data(ai, ai === '01' && /^(\d{8}|\d{12,13})$/.test(data) ? data.padStart(14, '0') : data, thisYear);
    if (!read.ok) return read;
    elements.push(read.value);
  }
  return ok(elements);
}

// A key, its value, then pairs of qualifiers in their order and nothing else.
function isPathOf(path: readonly string[]): boolean {
  const allowed = QUALIFIERS[path[0] ?? ''] ?? [];
  const rule = GS1_TABLE.get(path[0] ?? '');
  // A page called /01/manual.pdf is no link of ours: where the key is a number, digits must follow.
  const wanted = rule?.parts[0]?.set === 'N' ? /^\d+$/ : /^[^/]{1,90}$/;
  if (path.length % 2 !== 0 || !rule || !wanted.test(path[1]?.slice(0, rule.parts[0]?.max) ?? '')) return false;
  let at = -1;
  for (let i = 2; i < path.length; i += 2) {
    const next = allowed.indexOf(path[i] ?? '');
    if (next <= at) return false;
    at = next;
  }
  return true;
}
