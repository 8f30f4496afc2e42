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
  | { kind: 'order'; number: string; customer: string };

/** What stands on a label: lines of text from loudest to quietest, an arrow where several shelves share one beam, and one code. */
export type LabelFace = {
  readonly lines: readonly { text: string; size: 'huge' | 'large' | 'small' }[];
  readonly arrow: 'up' | 'down' | null;
  readonly symbol: { type: 'code128' | 'ean13' | 'ean8' | 'upca' | 'gs1-128'; text: string };
  readonly widthMm: number;
  readonly heightMm: number;
};

const size = (name: LabelSize): { widthMm: number; heightMm: number } => ({
  widthMm: LABEL_SIZES[name].widthMm,
  heightMm: LABEL_SIZES[name].heightMm,
});

/** Lays out what a label says (D1, D2).
 *  Shape:  a lot or serial of an item with a GTIN is printed as GS1-128, bracketed form; a bare retail code as its own symbol; else Code 128.
 *  Source: GS1 General Specifications, section 3.2 (01, 10, 17, 21). */
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
        symbol: { type: 'code128', text: request.address },
        ...size(request.size),
      };
    case 'order':
      return {
        lines: [
          { text: request.number, size: 'huge' },
          { text: request.customer, size: 'large' },
        ],
        arrow: null,
        symbol: { type: 'code128', text: request.number },
        ...size('shelf'),
      };
    case 'shelf':
      return {
        lines: [
          { text: request.price, size: 'huge' },
          { text: request.description, size: 'large' },
          { text: `${request.code} · ${request.bin}`, size: 'small' },
        ],
        arrow: null,
        symbol: retailSymbol(request.barcode) ?? { type: 'code128', text: request.barcode ?? request.code },
        ...size('item'),
      };
    case 'item': {
      const details = [
        request.lot && `Lot ${request.lot}`,
        request.expires && `Expires ${request.expires}`,
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
        symbol: itemSymbol(request),
        ...size('item'),
      };
    }
  }
}

const isGtin = (code: string | null): code is string => code !== null && /^(\d{8}|\d{12}|\d{13}|\d{14})$/.test(code);

function retailSymbol(barcode: string | null): LabelFace['symbol'] | null {
  if (!isGtin(barcode) || barcode.length === 14) return null;
  return { type: barcode.length === 8 ? 'ean8' : barcode.length === 12 ? 'upca' : 'ean13', text: barcode };
}

function itemSymbol(request: Extract<LabelRequest, { kind: 'item' }>): LabelFace['symbol'] {
  const { barcode, lot, expires, serial } = request;
  if (isGtin(barcode) && (lot || serial)) {
    const date = expires ? `(17)${expires.slice(2, 4)}${expires.slice(5, 7)}${expires.slice(8, 10)}` : '';
    return { type: 'gs1-128', text: `(01)${barcode.padStart(14, '0')}${date}${lot ? `(10)${lot}` : ''}${serial ? `(21)${serial}` : ''}` };
  }
  return retailSymbol(barcode) ?? { type: 'code128', text: barcode ?? request.code };
}
