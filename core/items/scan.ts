import { assertNever, fail, ok, type Result } from '#core/base';
import { hasValidCheckDigit } from './check-digit.ts';
import { readGs1, type Gs1Fault } from './gs1.ts';

/** What a scan says by itself, before anybody looks it up.
 *  `gtin` is always 14 digits, so that a UPC read with or without its leading zero is the same code. */
export type ScanReading =
  | { kind: 'gtin'; gtin: string; text: string }
  | {
      kind: 'elements';
      gtin: string | null;
      sscc: string | null;
      lot: string | null;
      expires: string | null;
      made: string | null;
      serial: string | null;
      text: string;
    }
  | { kind: 'text'; text: string };

export type ScanFault = { code: 'items.scanEmpty' } | { code: 'items.scanTooLong'; length: number } | Gs1Fault;

const LONGEST = 200;

/** Reads what a scanner typed.
 *  Shape:  raw text, with or without symbology identifier (`]C1`, `]d2` …), GS as 0x1D, or brackets `(01)…` as printed under a code.
 *  Errors: empty, too long, or a GS1 code that breaks the standard, said how. Anything else is plain text and is looked up.
 *  Source: ISO/IEC 15424 for symbology identifiers; GS1 General Specifications for the rest. */
export function readScan(raw: string, thisYear: number): Result<ScanReading, ScanFault> {
  const trimmed = raw.replace(/^[\s\u0000-\u001c]+|[\s\u0000-\u001c]+$/g, '');
  if (trimmed === '') return fail({ code: 'items.scanEmpty' });
  if (trimmed.length > LONGEST) return fail({ code: 'items.scanTooLong', length: trimmed.length });
  const symbology = /^\](C1|d2|Q3|e0|J1)/.exec(trimmed);
  const body = symbology ? trimmed.slice(3) : trimmed.replace(/^\][A-Za-z]\d/, '');
  const bracketed = /^\((\d{2})\)/.test(body);
  if (symbology || bracketed || body.includes('\u001d')) {
    const plain = bracketed ? body.replace(/\((\d{2,4})\)/g, '\u001d$1') : body;
    // A printed bracket may stand where no FNC1 is; the reader passes over a separator after fixed-length data.
    const elements = readGs1(plain, thisYear);
    if (!elements.ok) return elements;
    const e = elements.value;
    return ok({
      kind: 'elements',
      gtin: e['gtin'] ?? e['content'] ?? null,
      sscc: e['sscc'] ?? null,
      lot: e['lot'] ?? null,
      expires: e['expires'] ?? e['bestBefore'] ?? null,
      made: e['made'] ?? null,
      serial: e['serial'] ?? null,
      text: trimmed,
    });
  }
  if (/^(\d{8}|\d{12}|\d{13}|\d{14})$/.test(body) && hasValidCheckDigit(body)) {
    return ok({ kind: 'gtin', gtin: body.padStart(14, '0'), text: body });
  }
  return ok({ kind: 'text', text: body });
}

/** The sentence for a scan that cannot be read. */
export function scanFaultSentence(fault: ScanFault): string {
  switch (fault.code) {
    case 'items.scanEmpty':
      return 'The scan was empty. Scan again.';
    case 'items.scanTooLong':
      return `The scan has ${fault.length} characters; no label has so many. Two codes may have run together: scan again.`;
    case 'items.gs1UnknownAi':
      return `The code says it is GS1, but “${fault.text.slice(fault.at, fault.at + 4)}” at place ${fault.at + 1} is no identifier that is known here.`;
    case 'items.gs1TooShort':
      return `The code ends in the middle of (${fault.ai}). The label may be damaged: scan again.`;
    case 'items.gs1BadData':
      return `In the code, (${fault.ai}) holds “${fault.text}”, which does not fit: a check digit, a date or a character is wrong.`;
    default:
      return assertNever(fault);
  }
}
