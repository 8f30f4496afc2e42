import { dotsFor, dotsIn, mmOf, type Dpi } from './dots.ts';
import { GAP_MM, MARGIN_MM, type Box } from './grid.ts';
import type { LabelFace, SymbolWay, Voice } from './label.ts';
import { sizeInside } from './logo.ts';
import { SYMBOLOGIES, type Modules, type Symbology } from './symbols.ts';
import { CAPITAL, type Field, type FittedTexts, type Letters, type PlacedText } from './texts.ts';

/** What a layout asks of those who know fonts and codes. `encode`: null where the code cannot hold the text. */
export type LabelTools = { readonly letters: Letters; readonly encode: (way: SymbolWay) => Modules | null };

/** A label as a head prints it: everything in its dots, from the upper left corner; what is dark of a code in whole ones. */
export type Drawing = {
  readonly widthMm: number;
  readonly heightMm: number;
  readonly dpi: Dpi;
  readonly width: number;
  readonly height: number;
  readonly texts: readonly PlacedText[];
  readonly arrow: Box | null;
  readonly arrowWay: 'up' | 'down' | null;
  /** The picture of the company, by its file. */
  readonly logo: { readonly file: number; readonly box: Box } | null;
  /** The dark parts of the code. */
  readonly dark: readonly Box[];
  readonly symbol: {
    readonly symbology: Symbology;
    readonly text: string;
    readonly module: number;
    /** With its quiet zones. */
    readonly box: Box;
  };
  /** What the label does not say, in sentences for the person who prints it. */
  readonly unsaid: readonly string[];
};

/** Capitals are never lower than this: what is smaller is not read with the arm stretched out. */
export const LEAST_CAPITAL_MM = 2;
// Heights of capitals as a part of the label’s height.
const VOICES: Readonly<Record<Voice, number>> = { huge: 0.26, loud: 0.085, plain: 0.06, quiet: 0.045 };
// What stands below bars is keyed when they do not read.
const CAPTION_MM = 2.5;
const ARROW = { ofHeight: 0.36, ofWidth: 0.25 } as const;
const LOGO = { ofHeight: 0.25, ofWidth: 0.3 } as const;

/** A label before anything has its place: in dots of a head. `corner`: the arrow, or the logo where there is none. */
export type Page = {
  readonly dpi: Dpi;
  readonly width: number;
  readonly height: number;
  readonly gap: number;
  readonly inner: Box;
  readonly corner: Box | null;
  readonly fields: readonly Field[];
  readonly letters: Letters;
};

/** A label with its margin and what stands in its upper right corner. */
export function pageOf(face: LabelFace, dpi: Dpi, letters: Letters): Page {
  const [width, height] = [dotsIn(face.widthMm, dpi), dotsIn(face.heightMm, dpi)];
  const [margin, gap, least] = [dotsFor(MARGIN_MM, dpi), dotsFor(GAP_MM, dpi), dotsFor(LEAST_CAPITAL_MM, dpi)];
  const inner = { x: margin, y: margin, width: width - 2 * margin, height: height - 2 * margin };
  const side = Math.floor(Math.min(ARROW.ofHeight * height, ARROW.ofWidth * width));
  const inCorner = (size: { width: number; height: number }): Box => ({ x: inner.x + inner.width - size.width, y: inner.y, ...size });
  const room = { width: Math.floor(LOGO.ofWidth * width), height: Math.floor(LOGO.ofHeight * height) };
  const corner = face.arrow ? inCorner({ width: side, height: side }) : face.logo ? inCorner(sizeInside(face.logo, room)) : null;
  const high = Math.min(height, width * 0.75);
  const fields = face.fields.map(({ voice, ...f }): Field => ({
    ...f,
    isBold: voice === 'huge' || voice === 'loud',
    least,
    wish: Math.max(least, VOICES[voice] * high),
  }));
  return { dpi, width, height, gap, inner, corner, fields, letters };
}

/** What stands in a code, in letters. */
export const captionField = (page: Page, text: string): Field => ({
  ...{ name: 'caption', text, isBold: false, need: 'may', lines: 3 },
  ...{ least: dotsFor(LEAST_CAPITAL_MM, page.dpi), wish: dotsFor(CAPTION_MM, page.dpi) },
});

/** A line of text somewhere else. */
export const shifted = (t: PlacedText, x: number, y: number): PlacedText => ({
  ...t,
  x: t.x + x,
  ...{ baseline: t.baseline + y, top: t.top + y, bottom: t.bottom + y },
});

/** What is dark of a code in its box: bars over the whole height; runs of dark squares of a row as one. */
export function darkOf(symbology: Symbology, modules: Modules, module: number, box: Box): Box[] {
  const rule = SYMBOLOGIES[symbology];
  const dark: Box[] = [];
  if (modules.shape === 'line') {
    let x = box.x + (rule.shape === 'line' ? rule.quiet[0] : 0) * module;
    for (const [n, wide] of modules.widths.entries()) {
      if (n % 2 === 0) dark.push({ x, y: box.y, width: wide * module, height: box.height });
      x += wide * module;
    }
    return dark;
  }
  const quiet = rule.shape === 'matrix' ? rule.quiet * module : 0;
  for (let row = 0; row < modules.down; row += 1)
    for (let from = 0; from < modules.across; from += 1) {
      if (!modules.isDark[row * modules.across + from]) continue;
      const first = from;
      while (from < modules.across && modules.isDark[row * modules.across + from]) from += 1;
      dark.push({ x: box.x + quiet + first * module, y: box.y + quiet + row * module, width: (from - first) * module, height: module });
    }
  return dark;
}

/** What a label does not say, in sentences: what ends early, what has no room, what no font has. */
export function unsaidIn(
  face: LabelFace,
  { fields, letters }: Pick<Page, 'fields' | 'letters'>,
  fitted: readonly Pick<FittedTexts, 'shortened' | 'omitted'>[],
): string[] {
  const unknown = [...new Set([...fields.map((f) => f.text), face.code.caption].flatMap((text) => letters.unknown(text)))];
  const textOf = (name: string): string => fields.find((f) => f.name === name)?.text ?? face.code.caption;
  // The quiet are said where there is room.
  const isMissed = (name: string): boolean => face.fields.find((f) => f.name === name)?.voice !== 'quiet';
  return [
    ...(face.unsaid === null ? [] : [face.unsaid]),
    ...fitted.flatMap((f) => f.shortened).map((name) => `“${textOf(name)}” is too long for this label and ends in “…”.`),
    ...fitted
      .flatMap((f) => f.omitted)
      .filter(isMissed)
      .map((name) => `“${textOf(name)}” has no room on this label.`),
    ...(unknown.length > 0 ? [`No font has ${unknown.map((u) => `“${u}”`).join(', ')}: a box stands there.`] : []),
  ];
}

/** The height of the capitals of a text, in millimetres. */
export const capitalMm = (text: PlacedText, dpi: Dpi): number => mmOf(text.size * CAPITAL, dpi);
