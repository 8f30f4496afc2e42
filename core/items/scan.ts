import { assertNever, fail, ok, type Result } from '#core/base';
import { checkDigit, hasValidCheckDigit } from './check-digit.ts';
import { readDigitalLink } from './digital-link.ts';
import { readGs1, type Gs1Element, type Gs1Fault } from './gs1.ts';
import { readGs1Date } from './gs1-date.ts';
import { expandUpcE } from './upc-e.ts';

/** What a scan says by itself, before anybody looks it up.
 *  `gtin` is always 14 digits, so that a UPC read with or without its leading zero is the same code. `orGtin` is what eight digits mean if
 *  they are a UPC-E: only looking both up can tell. */
export type ScanReading =
  | { kind: 'gtin'; gtin: string; orGtin: string | null; text: string }
  | {
      kind: 'elements';
      gtin: string | null;
      sscc: string | null;
      lot: string | null;
      expires: string | null;
      made: string | null;
      serial: string | null;
      /** How many of the trade items (02) are inside: (37). */
      contents: string | null;
      /** How many pieces a trade item of varying count holds: (30). */
      pieces: string | null;
      elements: readonly Gs1Element[];
      text: string;
    }
  | { kind: 'text'; text: string };

export type ScanFault =
  | { code: 'items.scanEmpty' }
  | { code: 'items.scanTooLong'; length: number }
  | { code: 'items.checkDigit'; text: string; wanted: string }
  | Gs1Fault;

const LONGEST = 300;
const GS = '\u001d';

/** Reads what a scanner typed.
 *  Shape:  raw text, with or without symbology identifier (`]C1`, `]d2` …), GS as 0x1D, brackets `(01)…` as printed under a code, or a
 *          GS1 Digital Link.
 *  Errors: empty, too long, an EAN/UPC symbol with a wrong check digit, or a GS1 code that breaks the standard, said how. Digits that no
 *          symbology vouches for and anything else are plain text and are looked up as they stand.
 *  Source: ISO/IEC 15424 for symbology identifiers; GS1 General Specifications for the rest. */
export function readScan(raw: string, thisYear: number): Result<ScanReading, ScanFault> {
  const trimmed = raw.replace(/^[\s\u0000-\u001c]+|[\s\u0000-\u001c]+$/g, '');
  if (trimmed === '') return fail({ code: 'items.scanEmpty' });
  if (trimmed.length > LONGEST) return fail({ code: 'items.scanTooLong', length: trimmed.length });
  const symbology = /^\][A-Za-z][0-9A-Z]/.exec(trimmed)?.[0] ?? null;
  const body = symbology ? trimmed.slice(3) : trimmed;
  if (body === '') return fail({ code: 'items.scanEmpty' });
  const link = readDigitalLink(body, thisYear);
  if (link) return link.ok ? ok(elementsOf(link.value, trimmed, thisYear)) : link;
  const isGs1 = symbology !== null && /^\](C1|d2|Q3|e[0-3]|J1)/.test(symbology);
  const bracketed = /^\(\d{2,4}\)/.test(body);
  const says = bracketed ? body.replace(/\s*\((\d{2,4})\)\s*/g, `${GS}$1`) : body;
  if (isGs1 || bracketed) {
    // A bracket may stand where no FNC1 is; the reader passes over a separator after data of fixed length.
    const read = readGs1(says, thisYear);
    return read.ok ? ok(elementsOf(read.value, trimmed, thisYear)) : read;
  }
  // ISO/IEC 15434 wraps messages of several formats; 05 is GS1.
  const message = /^\[\)>\u001e05\u001d([^\u001e\u0004]+)/.exec(body)?.[1];
  if (message !== undefined) {
    const read = readGs1(message, thisYear);
    return read.ok ? ok(elementsOf(read.value, trimmed, thisYear)) : read;
  }
  if (body.includes(GS)) {
    // Separators alone do not make GS1: other data formats use them too, and a scanner that names another symbology knows better.
    const read = symbology === null && !body.startsWith('[)>') ? readGs1(body, thisYear) : null;
    if (read?.ok) return ok(elementsOf(read.value, trimmed, thisYear));
    if (read && !(read.error.code === 'items.gs1UnknownAi' && read.error.at <= 1)) return read;
    return ok({ kind: 'text', text: body });
  }
  // EAN-13 with an add-on of two or five digits (magazines): the add-on is no part of the number.
  if (symbology === ']E3' && /^\d{13}(\d{2}|\d{5})$/.test(body)) return readScan(`]E0${body.slice(0, 13)}`, thisYear);
  // ]I1: the scanner has looked at the check digit of an ITF-14 itself; digits that break it were misread.
  const isRetail = symbology !== null && /^\](E[0-4]|I1)/.test(symbology);
  if (isRetail && /^(\d{8}|\d{12,14})$/.test(body) && !hasValidCheckDigit(body) && !expandUpcE(body)) {
    return fail({ code: 'items.checkDigit', text: body, wanted: String(checkDigit(body.slice(0, -1))) });
  }
  const upcE = symbology === ']E4' ? null : expandUpcE(body);
  const orGtin = upcE?.padStart(14, '0') ?? null;
  if (/^(\d{8}|\d{12}|\d{13}|\d{14})$/.test(body) && hasValidCheckDigit(body)) {
    return ok({ kind: 'gtin', gtin: body.padStart(14, '0'), orGtin, text: body });
  }
  if (orGtin) return ok({ kind: 'gtin', gtin: orGtin, orGtin: null, text: body });
  // Scanners that are set to send no identifier: a whole element string that begins with a key whose check digit is right.
  if (/^(00\d{18}|0[12]\d{14})/.test(body) && body.length >= 16) {
    const read = readGs1(body, thisYear);
    if (read.ok) return ok(elementsOf(read.value, trimmed, thisYear));
  }
  return ok({ kind: 'text', text: body });
}

// (7003) is an expiry to the minute; stock is kept by the day.
const expiryMoment = (data: string | null, thisYear: number): string | null =>
  data === null ? null : readGs1Date(data.slice(0, 6), thisYear);

function elementsOf(elements: readonly Gs1Element[], text: string, thisYear: number): ScanReading {
  const value = (ai: string): string | null => elements.find((e) => e.ai === ai)?.value ?? null;
  return {
    kind: 'elements',
    gtin: value('01') ?? value('02'),
    sscc: value('00'),
    lot: value('10'),
    expires: value('17') ?? expiryMoment(value('7003'), thisYear) ?? value('15') ?? value('16'),
    made: value('11') ?? value('13'),
    serial: value('21'),
    contents: value('01') === null ? value('37') : null,
    pieces: value('30'),
    elements,
    text,
  };
}

/** The sentence for a scan that cannot be read. */
export function scanFaultSentence(fault: ScanFault): string {
  switch (fault.code) {
    case 'items.scanEmpty':
      return 'The scan was empty. Scan again.';
    case 'items.scanTooLong':
      return `The scan has ${fault.length} characters; no label has so many. Two codes may have run together: scan again.`;
    case 'items.checkDigit':
      return `${fault.text} is misread: its last digit would have to be ${fault.wanted}. Scan again.`;
    case 'items.gs1UnknownAi':
      return `The code says it is GS1, but “${fault.text.slice(fault.at, fault.at + 4)}” at place ${fault.at + 1} is no GS1 identifier.`;
    case 'items.gs1TooShort':
      return `The code ends in the middle of (${fault.ai}). The label may be damaged: scan again.`;
    case 'items.gs1TooLong':
      return (
        `In the code, (${fault.ai}) runs on for ${fault.text.length} characters and may have ${fault.most}: the separator after ` +
        `it is missing.`
      );
    case 'items.gs1CheckDigit':
      return `In the code, (${fault.ai}) ${fault.text} has a wrong check digit; it would have to end in ${fault.wanted}.`;
    case 'items.gs1BadDate':
      return `In the code, (${fault.ai}) holds ${fault.text}, and there is no such day.`;
    case 'items.gs1BadData':
      return `In the code, (${fault.ai}) holds “${fault.text}”, with a character that may not stand there.`;
    case 'items.gs1Twice':
      return `The code says (${fault.ai}) twice and differently: ${fault.other} and ${fault.text}. Two labels may have run together.`;
    case 'items.linkTwice':
      return `The link says (${fault.ai}) twice. It cannot be told which is meant.`;
    case 'items.linkPlace':
      return `In the link, (${fault.ai}) stands where it may not stand with (${fault.key}). Scan another code of it.`;
    default:
      return assertNever(fault);
  }
}
