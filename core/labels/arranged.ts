import { partOf } from './contents.ts';
import { dotsOfCells, type Box, type CellBox } from './grid.ts';
import type { LabelFace, SymbolWay } from './label.ts';
import { sizeInside } from './logo.ts';
import type { Dpi } from './dots.ts';
import { captionField, darkOf, pageOf, shifted, unsaidIn, type Drawing, type LabelTools, type Page } from './page.ts';
import { sizesOf, type SymbolSize } from './symbols.ts';
import { CAPITAL, fitTexts, LARGEST, type Field, type FittedTexts, type PlacedText } from './texts.ts';

/** Lays a label out as somebody arranged it: every part fills its own box, and no more than that.
 *  Shape:  the code takes the first of its ways that fits into its box at its least module, as large as it goes there. `noRoom`: the parts
 *          that have no room in their boxes, or no box; the drawing is without them then, for whoever is arranging it, and no label.
 *  Units:  dots of the resolution. */
export function layOutArranged(
  face: LabelFace,
  boxes: Readonly<Record<string, CellBox>>,
  dpi: Dpi,
  tools: LabelTools,
): { readonly drawing: Drawing; readonly noRoom: readonly string[] } {
  const page = pageOf(face, dpi, tools.letters);
  const boxOf = (part: string): Box | null => (boxes[part] ? dotsOfCells(boxes[part], face, dpi) : null);
  const noRoom: string[] = [];
  const fitted: FittedTexts[] = [];
  const texts: PlacedText[] = [];
  for (const part of new Set(page.fields.map((f) => partOf(f.name)))) {
    const fields = page.fields.filter((f) => partOf(f.name) === part);
    const box = boxOf(part);
    // What may be shortened may not be left out: an empty place on a label looks like a fault of the printer.
    const set =
      box &&
      fitTexts(
        fields.map((f) => filling(f, box)),
        box,
        tools.letters,
      );
    if (!box || !set || set.texts.length === 0) {
      noRoom.push(part);
      continue;
    }
    fitted.push(set);
    const spare = (box.height - set.height) / (set.texts.length + 1);
    texts.push(...set.texts.map((t, n) => shifted(t, box.x, box.y + spare * (n + 1))));
  }
  const code = codeIn(boxOf('symbol'), face, page, tools);
  if (!code) noRoom.push('symbol');
  const [arrow, logo] = [boxOf('arrow'), boxOf('logo')];
  if (face.arrow && !arrow) noRoom.push('arrow');
  const [{ symbology, text }] = face.code.ways;
  const drawing: Drawing = {
    ...{ widthMm: face.widthMm, heightMm: face.heightMm, dpi, width: page.width, height: page.height },
    texts: [...texts, ...(code?.caption?.texts ?? [])],
    arrow: face.arrow && arrow ? centred({ width: 1, height: 1 }, arrow) : null,
    arrowWay: face.arrow,
    logo: face.logo && logo ? { file: face.logo.file, box: centred(face.logo, logo) } : null,
    dark: code?.dark ?? [],
    symbol: code?.symbol ?? { symbology, text, module: 0, box: NOWHERE },
    unsaid: unsaidIn(face, page, code?.caption ? [...fitted, code.caption] : fitted),
  };
  return { drawing, noRoom };
}

const NOWHERE: Box = { x: 0, y: 0, width: 0, height: 0 };

// As large as the box takes it.
const filling = (field: Field, box: Box): Field => ({ ...field, wish: Math.max(field.least, (box.height * CAPITAL) / LARGEST) });

function centred(of: { readonly width: number; readonly height: number }, box: Box): Box {
  const size = sizeInside(of, box);
  return { x: box.x + Math.floor((box.width - size.width) / 2), y: box.y + Math.floor((box.height - size.height) / 2), ...size };
}

// What stands in a square is not said in letters where its box has no room for them: who prints it is told.
const UNSAID: FittedTexts = { texts: [], height: 0, scale: 0, shortened: [], omitted: ['caption'] };

type Code = { readonly dark: readonly Box[]; readonly symbol: Drawing['symbol']; readonly caption: FittedTexts | null };

function codeIn(box: Box | null, face: LabelFace, page: Page, tools: LabelTools): Code | null {
  if (!box) return null;
  const { caption } = face.code;
  const under = face.fields.some((f) => f.text === caption)
    ? null
    : fitTexts([captionField(page, caption)], { width: box.width, height: box.height / 3 }, page.letters, 1);
  for (const way of face.code.ways) {
    const modules = tools.encode(way);
    if (!modules) continue;
    const isLine = modules.shape === 'line';
    for (const below of under ? [under, ...(isLine ? [] : [null])] : [null]) {
      const taken = below ? Math.ceil(below.height + page.gap / 2) : 0;
      const room = { ...box, height: box.height - taken };
      const size = sizesOf(way.symbology, modules, face.reach, page.dpi).find((s) => s.width <= room.width && s.height <= room.height);
      if (size) return placedCode(way, modules, size, room, page, below ?? (under && UNSAID));
    }
  }
  return null;
}

function placedCode(
  way: SymbolWay,
  modules: Parameters<typeof darkOf>[1],
  size: SymbolSize,
  room: Box,
  page: Page,
  below: FittedTexts | null,
): Code {
  // Bars are as high as there is room: a taller code is met sooner by a hurried hand.
  const height = modules.shape === 'line' ? room.height : size.height;
  const box = {
    x: room.x + Math.floor((room.width - size.width) / 2),
    y: room.y + Math.floor((room.height - height) / 2),
    ...{ width: size.width, height },
  };
  const texts = (below?.texts ?? []).map((t) => shifted(t, room.x + (room.width - t.width) / 2 - t.x, box.y + box.height + page.gap / 2));
  return {
    dark: darkOf(way.symbology, modules, size.module, box),
    symbol: { symbology: way.symbology, text: way.text, module: size.module, box },
    caption: below && { ...below, texts },
  };
}
