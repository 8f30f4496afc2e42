import { dotsFor, dotsIn, mmOf, type Dpi } from './dots.ts';
import type { LabelFace, SymbolWay, Voice } from './label.ts';
import { sizesOf, SYMBOLOGIES, type Modules, type Reach, type Symbology, type SymbolSize } from './symbols.ts';
import { CAPITAL, fitTexts, type Field, type FittedTexts, type Letters, type PlacedText } from './texts.ts';

/** What a layout asks of those who know fonts and codes. `encode`: null where the code cannot hold the text. */
export type LabelTools = { readonly letters: Letters; readonly encode: (way: SymbolWay) => Modules | null };

export type Box = { readonly x: number; readonly y: number; readonly width: number; readonly height: number };

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

/** Why a label cannot be: its code fits into no form, or the words that it is for have no room. */
export type LabelFault = { readonly code: 'labels.noRoom'; readonly caption: string; readonly widthMm: number; readonly heightMm: number };

// Heads do not print to the edge, and paper moves.
const MARGIN_MM = 1.5;
const GAP_MM = 1;
/** Capitals are never lower than this: what is smaller is not read with the arm stretched out. */
export const LEAST_CAPITAL_MM = 2;
// Heights of capitals as a part of the label’s height.
const VOICES: Readonly<Record<Voice, number>> = { huge: 0.26, loud: 0.085, plain: 0.06, quiet: 0.045 };
// A module that is read without aiming, in millimetres: below it the code gets room before the letters do.
const COMFORT: Readonly<Record<Reach, Readonly<Record<'line' | 'matrix', number>>>> = {
  hand: { line: 0.375, matrix: 0.5 },
  aisle: { line: 0.75, matrix: 1.5 },
  carton: { line: 0.5, matrix: 0.75 },
  logistic: { line: 0.5, matrix: 0.75 },
};
// What stands below bars is keyed when they do not read.
const CAPTION_MM = 2.5;
const TALLEST_BARS = 0.5;
const ARROW = { ofHeight: 0.36, ofWidth: 0.25 } as const;

/** Lays a label out in whole dots of a head (D1, D2).
 *  Shape:  bars stand below the texts over the width, a square beside them, or below on a label that is higher than wide. The rule: the
 *          first way of the code that fits at its least module beside the words that must be said, at their least heights, is taken; of its
 *          sizes the one at which neither letters nor modules starve.
 *  Units:  dots of the resolution.
 *  Errors: `labels.noRoom` where no way fits. */
export function layOut(face: LabelFace, dpi: Dpi, tools: LabelTools): Drawing | LabelFault {
  for (const way of face.code.ways) {
    const modules = tools.encode(way);
    const placed = modules && bestPlaced(face, dpi, tools, way, modules);
    if (placed) return placed;
  }
  return { code: 'labels.noRoom', caption: face.code.caption, widthMm: face.widthMm, heightMm: face.heightMm };
}

type Page = {
  readonly dpi: Dpi;
  readonly width: number;
  readonly height: number;
  readonly gap: number;
  readonly inner: Box;
  readonly arrow: Box | null;
  readonly fields: readonly Field[];
  readonly letters: Letters;
};

function pageOf(face: LabelFace, dpi: Dpi, letters: Letters): Page {
  const [width, height] = [dotsIn(face.widthMm, dpi), dotsIn(face.heightMm, dpi)];
  const [margin, gap, least] = [dotsFor(MARGIN_MM, dpi), dotsFor(GAP_MM, dpi), dotsFor(LEAST_CAPITAL_MM, dpi)];
  const inner = { x: margin, y: margin, width: width - 2 * margin, height: height - 2 * margin };
  const side = Math.floor(Math.min(ARROW.ofHeight * height, ARROW.ofWidth * width));
  const arrow = face.arrow ? { x: inner.x + inner.width - side, y: inner.y, width: side, height: side } : null;
  const high = Math.min(height, width * 0.75);
  const fields = face.fields.map(({ voice, ...f }): Field => ({
    ...f,
    isBold: voice === 'huge' || voice === 'loud',
    least,
    wish: Math.max(least, VOICES[voice] * high),
  }));
  return { dpi, width, height, gap, inner, arrow, fields, letters };
}

// Texts in their area, with the box of the code: what is compared between sizes.
type Placed = {
  readonly size: SymbolSize;
  readonly box: Box;
  readonly caption: FittedTexts | null;
  readonly texts: FittedTexts;
  readonly area: Box;
};

function bestPlaced(face: LabelFace, dpi: Dpi, tools: LabelTools, way: SymbolWay, modules: Modules): Drawing | null {
  const page = pageOf(face, dpi, tools.letters);
  if (page.inner.width <= 0 || page.inner.height <= 0) return null;
  const { shape } = SYMBOLOGIES[way.symbology];
  const isSaid = face.fields.some((f) => f.text === face.code.caption);
  // What stands in a square is said among the texts, the last of them; what stands in bars, below them.
  const caption = isSaid ? null : face.code.caption;
  const told: Page = shape === 'matrix' && caption !== null ? { ...page, fields: withCaption(face, page, caption) } : page;
  const place = shape === 'line' ? below(caption) : page.width >= 1.2 * page.height ? beside : below(null);
  const sizes = sizesOf(way.symbology, modules, face.reach, dpi);
  const least = sizes.at(-1);
  if (!least || !place({ ...page, fields: page.fields.flatMap(leastOf) }, least)) return null;
  let best: Placed | null = null;
  for (const size of sizes) {
    const now = place(told, size);
    if (now && (best === null || starves(now, face.reach, dpi, shape) > starves(best, face.reach, dpi, shape) + 1e-9)) best = now;
  }
  return best && drawn(face, told, way, modules, best);
}

// What a label must say, as small as it may be.
function leastOf(field: Field): Field[] {
  if (field.need === 'whole') return [{ ...field, wish: field.least }];
  return field.need === 'must' ? [{ ...field, wish: field.least, lines: 1 }] : [];
}

// Higher is better: how well off is the worse off of letters and modules; where letters are left out, how few.
function starves({ size, texts }: Placed, reach: Reach, dpi: Dpi, shape: 'line' | 'matrix'): number {
  const module = mmOf(size.module, dpi) / COMFORT[reach][shape];
  return texts.scale > 0 ? Math.min(texts.scale, module) : -texts.shortened.length - 2 * texts.omitted.length;
}

const captionField = (page: Page, text: string): Field => ({
  ...{ name: 'caption', text, isBold: false, need: 'may', lines: 3 },
  ...{ least: dotsFor(LEAST_CAPITAL_MM, page.dpi), wish: dotsFor(CAPTION_MM, page.dpi) },
});

// Before what is said only where there is room.
function withCaption(face: LabelFace, page: Page, caption: string): Field[] {
  const at = face.fields.findIndex((f) => f.voice === 'quiet');
  return page.fields.toSpliced(at < 0 ? page.fields.length : at, 0, captionField(page, caption));
}

type Place = (page: Page, size: SymbolSize) => Placed | null;

const below =
  (caption: string | null): Place =>
  (page, size) => {
    const { inner, gap, arrow } = page;
    const under =
      caption === null ? null : fitTexts([captionField(page, caption)], { width: inner.width, height: inner.height / 3 }, page.letters, 1);
    const captionHeight = under ? gap / 2 + under.height : 0;
    const room = inner.height - size.height - gap - captionHeight;
    if (size.width > inner.width || room <= 0 || (caption !== null && under === null)) return null;
    const area = { x: inner.x, y: inner.y, width: inner.width - (arrow ? arrow.width + gap : 0), height: room };
    if (arrow && arrow.height > room) return null;
    const texts = fitTexts(page.fields, area, page.letters);
    if (!texts) return null;
    const box = {
      x: inner.x + Math.floor((inner.width - size.width) / 2),
      y: inner.y + inner.height - Math.ceil(captionHeight) - size.height,
      ...{ width: size.width, height: size.height },
    };
    return { size, box, caption: under, texts, area };
  };

const beside: Place = (page, size) => {
  const { inner, gap, arrow } = page;
  const width = inner.width - size.width - gap - (arrow ? arrow.width + gap : 0);
  if (size.height > inner.height || width <= 0) return null;
  const area = { x: inner.x + size.width + gap, y: inner.y, width, height: inner.height };
  const texts = fitTexts(page.fields, area, page.letters);
  if (!texts) return null;
  const box = { x: inner.x, y: inner.y + Math.floor((inner.height - size.height) / 2), width: size.width, height: size.height };
  return { size, box, caption: null, texts, area };
};

function drawn(face: LabelFace, page: Page, way: SymbolWay, modules: Modules, placed: Placed): Drawing {
  const { texts, area, caption, size } = placed;
  let box = placed.box;
  let room = area.height;
  if (modules.shape === 'line') {
    // What the letters leave, the bars take: a taller code is met sooner by a hurried hand.
    const used = Math.max(texts.height, page.arrow?.height ?? 0);
    const grown = Math.max(0, Math.min(Math.floor(room - used), Math.floor(TALLEST_BARS * page.height) - box.height));
    box = { ...box, y: box.y - grown, height: box.height + grown };
    room -= grown;
  }
  const spare = (room - texts.height) / (texts.texts.length + 1);
  const spread = texts.texts.map((t, n) => shifted(t, area.x, area.y + spare * (n + 1)));
  const under = (caption?.texts ?? []).map((t) =>
    shifted(t, page.inner.x + (page.inner.width - t.width) / 2 - t.x, box.y + box.height + page.gap / 2),
  );
  return {
    ...{ widthMm: face.widthMm, heightMm: face.heightMm, dpi: page.dpi, width: page.width, height: page.height },
    texts: [...spread, ...under],
    ...{ arrow: page.arrow, arrowWay: face.arrow },
    dark: darkOf(way.symbology, modules, size.module, box),
    symbol: { symbology: way.symbology, text: way.text, module: size.module, box },
    unsaid: unsaidOf(face, page, placed),
  };
}

const shifted = (t: PlacedText, x: number, y: number): PlacedText => ({
  ...t,
  x: t.x + x,
  ...{ baseline: t.baseline + y, top: t.top + y, bottom: t.bottom + y },
});

// Bars over the whole height of the box; runs of dark squares of a row as one.
function darkOf(symbology: Symbology, modules: Modules, module: number, box: Box): Box[] {
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

function unsaidOf(face: LabelFace, page: Page, { texts, caption }: Placed): string[] {
  const unknown = page.letters.unknown([...page.fields.map((f) => f.text), face.code.caption].join(''));
  const textOf = (name: string): string => page.fields.find((f) => f.name === name)?.text ?? face.code.caption;
  // The quiet are said where there is room.
  const isMissed = (name: string): boolean => face.fields.find((f) => f.name === name)?.voice !== 'quiet';
  const shortened = [...texts.shortened, ...(caption?.shortened ?? [])];
  const omitted = [...texts.omitted, ...(caption?.omitted ?? [])].filter(isMissed);
  return [
    ...(face.unsaid === null ? [] : [face.unsaid]),
    ...shortened.map((name) => `“${textOf(name)}” is too long for this label and ends in “…”.`),
    ...omitted.map((name) => `“${textOf(name)}” has no room on this label.`),
    ...(unknown.length > 0 ? [`No font has ${unknown.map((u) => `“${u}”`).join(', ')}: a box stands there.`] : []),
  ];
}

/** The height of the capitals of a text, in millimetres. */
export const capitalMm = (text: PlacedText, dpi: Dpi): number => mmOf(text.size * CAPITAL, dpi);
