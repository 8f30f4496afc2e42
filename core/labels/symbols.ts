import { dotsFor, dotsIn, type Dpi } from './dots.ts';

export type Symbology = 'ean13' | 'ean8' | 'upca' | 'code128' | 'gs1-128' | 'gs1-datamatrix' | 'datamatrix' | 'qrcode';

/** From where a code is read: in the hand, from the aisle over two metres, or where it travels, by the standard of pallets (`logistic`) and
 *  that of what is too small for it (`carton`). */
export type Reach = 'hand' | 'aisle' | 'carton' | 'logistic';

/** A code without its size. A line: bars and spaces in turns, as multiples of the module, beginning with a bar. A matrix: its dark modules
 *  row by row. */
export type Modules =
  | { readonly shape: 'line'; readonly widths: readonly number[]; readonly across: number }
  | { readonly shape: 'matrix'; readonly across: number; readonly down: number; readonly isDark: readonly boolean[] };

type Line = {
  readonly shape: 'line';
  /** Empty modules before and behind the bars. */
  readonly quiet: readonly [number, number];
  /** The least width of a module, in millimetres. */
  readonly least: Readonly<Record<Reach, number>>;
  readonly most: Readonly<Record<Reach, number>>;
  /** The least height of the bars in millimetres, for a module of so many millimetres and so many of them. */
  readonly height: (module: number, across: number, reach: Reach) => number;
};
type Matrix = {
  readonly shape: 'matrix';
  readonly quiet: number;
  readonly least: Readonly<Record<Reach, number>>;
  readonly most: Readonly<Record<Reach, number>>;
};

// A retail code is made for one width, 0.33 mm, and printed at 80 to 200 % of it; its height grows with it.
const RETAIL = { hand: 0.264, aisle: 0.495, carton: 0.495, logistic: 0.495 } as const;
const MOST_RETAIL = { hand: 0.66, aisle: 0.66, carton: 0.66, logistic: 0.66 } as const;
const BARS = { hand: 0.25, aisle: 0.5, carton: 0.495, logistic: 0.495 } as const;
const MOST_BARS = { hand: 0.508, aisle: 1.2, carton: 0.94, logistic: 0.94 } as const;
const SQUARES = { hand: 0.25, aisle: 0.75, carton: 0.743, logistic: 0.743 } as const;
const MOST_SQUARES = { hand: 1, aisle: 3, carton: 1.5, logistic: 1.5 } as const;
const TRAVEL_HEIGHTS = { logistic: 31.75, carton: 12.7 } as const;

const retail = (quiet: readonly [number, number], nominalHeight: number): Line => ({
  ...{ shape: 'line', quiet, least: RETAIL, most: MOST_RETAIL },
  height: (module) => (nominalHeight * module) / 0.33,
});
const bars: Line = {
  ...{ shape: 'line', quiet: [10, 10], least: BARS, most: MOST_BARS },
  height: (module, across, reach) =>
    reach === 'logistic' || reach === 'carton' ? TRAVEL_HEIGHTS[reach] : Math.max(5, 0.15 * module * across),
};
const squares = (quiet: number): Matrix => ({ shape: 'matrix', quiet, least: SQUARES, most: MOST_SQUARES });

/** What the standards ask of each code.
 *  Source: GS1 General Specifications, section 5.2 (EAN and UPC: module 0.264 to 0.66 mm, height 22.85 or 18.23 mm at 0.33 mm, quiet
 *          zones), 5.4 (GS1-128: ten modules of quiet zone, 0.495 to 0.94 mm and 31.75 mm high where it travels, 12.7 mm where that has no
 *          room), 5.6 (GS1 DataMatrix: one module); ISO/IEC 15417 for Code 128 (5 mm or 15 % of its length); ISO/IEC 16022 and 18004 for
 *          the quiet zones of DataMatrix (one module, doubled here: heads and paper are not even) and QR (four). What is read in the hand
 *          has 0.25 mm at the least, from the aisle twice that and a square three times. */
export const SYMBOLOGIES: Readonly<Record<Symbology, Line | Matrix>> = {
  ean13: retail([11, 7], 22.85),
  upca: retail([9, 9], 22.85),
  ean8: retail([7, 7], 18.23),
  code128: bars,
  'gs1-128': bars,
  'gs1-datamatrix': squares(2),
  datamatrix: squares(2),
  qrcode: squares(4),
};

/** How large a code is with a module of so many dots, its quiet zones in it.
 *  Units:  dots. `height` of a line is the least that the standard asks for. */
export type SymbolSize = { readonly module: number; readonly width: number; readonly height: number };

/** The sizes that a code may have at a resolution, the largest first; none where no whole number of dots lies between the least module and
 *  the most.
 *  Units:  dots. */
export function sizesOf(symbology: Symbology, modules: Modules, reach: Reach, dpi: Dpi): SymbolSize[] {
  const rule = SYMBOLOGIES[symbology];
  const least = dotsFor(rule.least[reach] - RAGGED, dpi);
  const sizes: SymbolSize[] = [];
  for (let module = dotsIn(rule.most[reach], dpi); module >= least; module -= 1) {
    if (rule.shape === 'line') {
      const width = (modules.across + rule.quiet[0] + rule.quiet[1]) * module;
      const height = rule.height((module * 25.4) / dpi, modules.across, reach);
      sizes.push({ module, width, height: dotsFor(height, dpi) });
    } else {
      const down = modules.shape === 'matrix' ? modules.down : 1;
      sizes.push({ module, width: (modules.across + 2 * rule.quiet) * module, height: (down + 2 * rule.quiet) * module });
    }
  }
  return sizes;
}

// A head of 300 or 600 dots is made with a thousandth more or less: three dots are 0.254 mm, and nobody asks for four.
const RAGGED = 0.0005;
