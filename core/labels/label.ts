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
  | { kind: 'bin'; address: string; zone: string; site: string }
  | { kind: 'order'; number: string; customer: string };

/** What stands on a label: lines of text from loudest to quietest, and one code. */
export type LabelFace = {
  readonly lines: readonly { text: string; size: 'huge' | 'large' | 'small' }[];
  readonly symbol: { type: 'code128' | 'ean13' | 'gs1-128'; text: string };
  readonly widthMm: number;
  readonly heightMm: number;
};

/** Lays out what a label says (D1, D2).
 *  Shape:  a lot or serial of an item with a GTIN is printed as GS1-128, bracketed form; a bare EAN-13 as such; else Code 128.
 *  Source: GS1 General Specifications, section 3.2 (01, 10, 17, 21). */
export function composeLabel(request: LabelRequest): LabelFace {
  if (request.kind === 'bin') {
    return {
      lines: [
        { text: request.address, size: 'huge' },
        { text: `${request.zone} · ${request.site}`, size: 'small' },
      ],
      symbol: { type: 'code128', text: request.address },
      widthMm: 102,
      heightMm: 51,
    };
  }
  if (request.kind === 'order') {
    return {
      lines: [
        { text: request.number, size: 'huge' },
        { text: request.customer, size: 'large' },
      ],
      symbol: { type: 'code128', text: request.number },
      widthMm: 102,
      heightMm: 51,
    };
  }
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
    symbol: itemSymbol(request),
    widthMm: 76,
    heightMm: 51,
  };
}

function itemSymbol(request: Extract<LabelRequest, { kind: 'item' }>): LabelFace['symbol'] {
  const { barcode, lot, expires, serial } = request;
  const gtin = barcode && /^(\d{8}|\d{12}|\d{13}|\d{14})$/.test(barcode) ? barcode.padStart(14, '0') : null;
  if (gtin && (lot || serial)) {
    const date = expires ? `(17)${expires.slice(2, 4)}${expires.slice(5, 7)}${expires.slice(8, 10)}` : '';
    return { type: 'gs1-128', text: `(01)${gtin}${date}${lot ? `(10)${lot}` : ''}${serial ? `(21)${serial}` : ''}` };
  }
  if (barcode && barcode.length === 13 && gtin) return { type: 'ean13', text: barcode };
  return { type: 'code128', text: barcode ?? request.code };
}
