import { writeDay } from '#core/base';
import { expandUpcE, hasValidCheckDigit, writeGs1 } from '#core/items';

/** Sizes of common rolls, in millimetres. */
export const LABEL_SIZES = {
  beam: { widthMm: 150, heightMm: 50, says: '150 × 50, for racks read from the aisle' },
  shelf: { widthMm: 102, heightMm: 51, says: '102 × 51' },
  item: { widthMm: 76, heightMm: 51, says: '76 × 51' },
  small: { widthMm: 51, heightMm: 25, says: '51 × 25, for drawers' },
} as const;
export type LabelSize = keyof typeof LABEL_SIZES;

/** What a label is asked for. Prices only where customers look (D3), so `price` is null elsewhere. */
export type LabelRequest =
  | {
      kind: 'item';
      code: string;
      barcode: string | null;
      description: string;
      company: string;
      price: string | null;
      lot: string | null;
      expires: string | null;
      serial: string | null;
    }
  | { kind: 'bin'; address: string; zone: string; site: string; arrow: 'up' | 'down' | null; size: LabelSize }
  | { kind: 'shelf'; code: string; barcode: string | null; description: string; price: string; bin: string }
  | { kind: 'order'; number: string; customer: string }
  /** A pallet or carton with what is in it, a line each. */
  | { kind: 'unit'; sscc: string; company: string; contents: readonly string[] };

/** The code on a label. `text` is what a reader gives back: for `gs1-128` the element string, with GS (0x1D) where FNC1 stands. `caption`
 *  is what stands below it in letters. */
export type LabelSymbol = {
  readonly type: 'code128' | 'ean13' | 'ean8' | 'upca' | 'gs1-128' | 'qrcode';
  readonly text: string;
  readonly caption: string;
};

/** What stands on a label: lines of text from loudest to quietest, an arrow where several shelves share one beam, and one code. */
export type LabelFace = {
  readonly lines: readonly { text: string; size: 'huge' | 'large' | 'small' }[];
  readonly arrow: 'up' | 'down' | null;
  readonly symbol: LabelSymbol;
  /** What the code cannot say and why, for the person who prints it; null where it says everything. */
  readonly unsaid: string | null;
  readonly widthMm: number;
  readonly heightMm: number;
};

const size = (name: LabelSize): { widthMm: number; heightMm: number } => ({
  widthMm: LABEL_SIZES[name].widthMm,
  heightMm: LABEL_SIZES[name].heightMm,
});

/** Lays out what a label says (D1, D2).
 *  Shape:  a lot or serial of an item with a GTIN is printed as GS1-128; a bare retail code as its own symbol; other texts of printable
 *          ASCII as Code 128, and what has other letters as a QR code, because Code 128 would print another text. Never fails: what a code
 *          cannot say is left out of it and said in `unsaid`.
 *  Source: GS1 General Specifications, section 3.2 (01, 10, 17, 21) and figure 7.11-1 (the characters of a lot or serial). */
export function composeLabel(request: LabelRequest): LabelFace {
  switch (request.kind) {
    case 'bin':
      return {
        // On a drawer only the address has room.
        lines: [
          { text: request.address, size: 'huge' },
          ...(request.size === 'small' ? [] : [{ text: `${request.zone} · ${request.site}`, size: 'small' as const }]),
        ],
        arrow: request.arrow,
        symbol: plainSymbol(request.address),
        unsaid: null,
        ...size(request.size),
      };
    case 'order':
      return {
        lines: [
          { text: request.number, size: 'huge' },
          { text: request.customer, size: 'large' },
        ],
        arrow: null,
        symbol: plainSymbol(request.number),
        unsaid: null,
        ...size('shelf'),
      };
    case 'unit': {
      const { sscc, contents } = request;
      const rest = contents.length - MOST_CONTENTS;
      return {
        lines: [
          { text: `Unit ${sscc.slice(-6)}`, size: 'large' },
          ...contents.slice(0, rest > 0 ? MOST_CONTENTS - 1 : MOST_CONTENTS).map((text) => ({ text, size: 'small' as const })),
          ...(rest > 0 ? [{ text: `and ${rest + 1} more`, size: 'small' as const }] : []),
          { text: request.company, size: 'small' },
        ],
        arrow: null,
        symbol: { type: 'gs1-128', text: writeGs1([{ ai: '00', data: sscc }]), caption: `(00)${sscc}` },
        unsaid: null,
        ...size('shelf'),
      };
    }
    case 'shelf':
      return {
        lines: [
          { text: request.price, size: 'huge' },
          { text: request.description, size: 'large' },
          { text: `${request.code} · ${request.bin}`, size: 'small' },
        ],
        arrow: null,
        symbol: retailSymbol(request.barcode) ?? plainSymbol(request.barcode ?? request.code),
        unsaid: null,
        ...size('item'),
      };
    case 'item': {
      const details = [
        request.lot && `Lot ${request.lot}`,
        request.expires && `Expires ${writeDay(request.expires)}`,
        request.serial && `Serial ${request.serial}`,
        request.price,
      ].filter((text): text is string => Boolean(text));
      return {
        lines: [
          { text: request.code, size: 'large' },
          { text: request.description, size: 'small' },
          ...(details.length > 0 ? [{ text: details.join('   '), size: 'large' as const }] : []),
          { text: request.company, size: 'small' },
        ],
        arrow: null,
        ...itemSymbol(request),
        ...size('item'),
      };
    }
  }
}

const MOST_CONTENTS = 3;

const isGtin = (code: string | null): code is string =>
  code !== null && /^(\d{8}|\d{12}|\d{13}|\d{14})$/.test(code) && hasValidCheckDigit(code);

/** The GTIN of a stored code, 14 digits: of a retail code with a right check digit, or of a UPC-E; null of anything else. */
function gtinOf(barcode: string | null): string | null {
  if (isGtin(barcode)) return barcode.padStart(14, '0');
  return barcode === null ? null : (expandUpcE(barcode)?.padStart(14, '0') ?? null);
}

function retailSymbol(barcode: string | null): LabelSymbol | null {
  if (barcode === null) return null;
  const upcA = isGtin(barcode) ? null : expandUpcE(barcode);
  if (upcA) return { type: 'upca', text: upcA, caption: upcA };
  if (!isGtin(barcode) || barcode.length === 14) return null;
  return { type: barcode.length === 8 ? 'ean8' : barcode.length === 12 ? 'upca' : 'ean13', text: barcode, caption: barcode };
}

const plainSymbol = (text: string): LabelSymbol => ({ type: /^[ -~]+$/.test(text) ? 'code128' : 'qrcode', text, caption: text });

const MOST_GS1 = 20;
const fitsGs1 = (text: string): boolean => text.length <= MOST_GS1 && /^[!"%&'()*+,\-./0-9:;<=>?A-Z_a-z]+$/.test(text);

// Why a lot or serial cannot stand in a GS1 code, in words.
function whyNot(what: string, text: string): string {
  if (text.length > MOST_GS1) return `${what} ${text} has ${text.length} characters, and a code takes ${MOST_GS1}`;
  const strange = [...text].find((c) => !fitsGs1(c)) ?? '';
  return `${what} ${text} has ${strange === ' ' ? 'a space' : `“${strange}”`} in it, which a code cannot hold`;
}

function itemSymbol(request: Extract<LabelRequest, { kind: 'item' }>): Pick<LabelFace, 'symbol' | 'unsaid'> {
  const { barcode, lot, expires, serial } = request;
  const gtin = gtinOf(barcode);
  const bare = retailSymbol(barcode) ?? plainSymbol(barcode ?? request.code);
  if (!lot && !serial) return { symbol: bare, unsaid: null };
  const faults = [lot && !fitsGs1(lot) && whyNot('Lot', lot), serial && !fitsGs1(serial) && whyNot('Serial', serial)].filter(Boolean);
  if (gtin === null || faults.length > 0)
    return {
      symbol: bare,
      unsaid: `${faults.length > 0 ? faults.join('; ') : `${request.code} has no GTIN`}: the code names the item only.`,
    };
  const elements = [
    { ai: '01', data: gtin },
    ...(expires ? [{ ai: '17', data: expires.slice(2, 4) + expires.slice(5, 7) + expires.slice(8, 10) }] : []),
    ...(lot ? [{ ai: '10', data: lot }] : []),
    ...(serial ? [{ ai: '21', data: serial }] : []),
  ];
  return {
    symbol: { type: 'gs1-128', text: writeGs1(elements), caption: elements.map((e) => `(${e.ai})${e.data}`).join('') },
    unsaid: null,
  };
}
