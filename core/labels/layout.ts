import { layOutArranged } from './arranged.ts';
import { partOf } from './contents.ts';
import { mmOf, type Dpi } from './dots.ts';
import type { Box } from './grid.ts';
import type { LabelFace, SymbolWay } from './label.ts';
import { captionField, darkOf, pageOf, shifted, unsaidIn, type Drawing, type LabelTools, type Page } from './page.ts';
import { sizesOf, SYMBOLOGIES, type Modules, type Reach, type SymbolSize } from './symbols.ts';
import { fitTexts, type Field, type FittedTexts } from './texts.ts';

/** Why a label cannot be: its code fits into no form, or the words that it is for have no room. */
export type LabelFault =
  | { readonly code: 'labels.noRoom'; readonly caption: string; readonly widthMm: number; readonly heightMm: number }
  | { readonly code: 'labels.emptyCode' };

// A module that is read without aiming, in millimetres: below it the code gets room before the letters do.
const COMFORT: Readonly<Record<Reach, Readonly<Record<'line' | 'matrix', number>>>> = {
  hand: { line: 0.375, matrix: 0.5 },
  aisle: { line: 0.75, matrix: 1.5 },
  carton: { line: 0.5, matrix: 0.75 },
  logistic: { line: 0.5, matrix: 0.75 },
};
const TALLEST_BARS = 0.5;

/** Lays a label out in whole dots of a head (D1, D2).
 *  Shape:  bars stand below the texts over the width, a square beside them, or below on a label that is higher than wide. The rule: the
 *          first way of the code that fits at its least module beside the words that must be said, at their least heights, is taken; of its
 *          sizes the one at which neither letters nor modules starve. Where somebody arranged labels of this size, everything stands where
 *          they put it; a label that has no room there goes by the rule, and says so.
 *  Units:  dots of the resolution.
 *  Errors: `labels.noRoom` where no way fits; `labels.emptyCode` where there is nothing to scan. */
export function layOut(face: LabelFace, dpi: Dpi, tools: LabelTools): Drawing | LabelFault {
  if (face.code.ways[0].text.trim() === '') return { code: 'labels.emptyCode' };
  if (!face.arranged) return byRule(face, dpi, tools);
  const made = layOutArranged(face, face.arranged, dpi, tools);
  if (made.noRoom.length === 0) return made.drawing;
  const drawing = byRule(face, dpi, tools);
  const why = made.noRoom.map((part) => face.fields.find((f) => partOf(f.name) === part)?.text ?? face.code.caption);
  return 'code' in drawing
    ? drawing
    : { ...drawing, unsaid: [...drawing.unsaid, `“${why[0] ?? ''}” has no room where it was put: this label is laid out by the rule.`] };
}

function byRule(face: LabelFace, dpi: Dpi, tools: LabelTools): Drawing | LabelFault {
  const { logo, ...bare } = face;
  for (const way of face.code.ways) {
    const modules = tools.encode(way);
    if (!modules) continue;
    // A picture gives way before the code changes its form.
    const placed = bestPlaced(face, dpi, tools, way, modules) ?? (logo ? bestPlaced(bare, dpi, tools, way, modules) : null);
    if (placed) return placed;
  }
  return { code: 'labels.noRoom', caption: face.code.caption, widthMm: face.widthMm, heightMm: face.heightMm };
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

// Before what is said only where there is room.
function withCaption(face: LabelFace, page: Page, caption: string): Field[] {
  const at = face.fields.findIndex((f) => f.voice === 'quiet');
  return page.fields.toSpliced(at < 0 ? page.fields.length : at, 0, captionField(page, caption));
}

type Place = (page: Page, size: SymbolSize) => Placed | null;

const below =
  (caption: string | null): Place =>
  (page, size) => {
    const { inner, gap, corner } = page;
    const under =
      caption === null ? null : fitTexts([captionField(page, caption)], { width: inner.width, height: inner.height / 3 }, page.letters, 1);
    const captionHeight = under ? gap / 2 + under.height : 0;
    const room = inner.height - size.height - gap - captionHeight;
    if (size.width > inner.width || room <= 0 || (caption !== null && under === null)) return null;
    const area = { x: inner.x, y: inner.y, width: inner.width - (corner ? corner.width + gap : 0), height: room };
    if (corner && corner.height > room) return null;
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
  const { inner, gap, corner } = page;
  const width = inner.width - size.width - gap - (corner ? corner.width + gap : 0);
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
    const used = Math.max(texts.height, page.corner?.height ?? 0);
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
    ...{ arrow: face.arrow ? page.corner : null, arrowWay: face.arrow },
    logo: face.logo && page.corner && !face.arrow ? { file: face.logo.file, box: page.corner } : null,
    dark: darkOf(way.symbology, modules, size.module, box),
    symbol: { symbology: way.symbology, text: way.text, module: size.module, box },
    unsaid: unsaidIn(face, page, caption ? [texts, caption] : [texts]),
  };
}
