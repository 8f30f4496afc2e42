import { createRequire } from 'node:module';
import { openSync, type Font, type GlyphRun } from 'fontkit';
import type { Extent } from '#core/labels';

const require = createRequire(import.meta.url);

/** The fonts of labels, the first that has a letter draws it: files that SVG, PDF and pictures are drawn from alike. */
const FAMILIES = [
  ['barlow-condensed', 'BarlowCondensed'],
  ['noto-sans', 'NotoSans'],
  ['noto-sans-hebrew', 'NotoSansHebrew'],
  ['noto-sans-arabic', 'NotoSansArabic'],
] as const;
const fileOf = ([folder, name]: (typeof FAMILIES)[number], weight: string): string =>
  require.resolve(`@expo-google-fonts/${folder}/${weight}/${name}_${weight}.ttf`);

/** A font of labels. */
export type Face = { readonly name: string; readonly file: string; readonly font: Font };
const faces = new Map<boolean, readonly Face[]>();
/** The fonts of a weight, in the order in which they are asked. */
export function facesOf(isBold: boolean): readonly Face[] {
  let found = faces.get(isBold);
  if (!found) {
    const weight = isBold ? '700Bold' : '400Regular';
    found = FAMILIES.map((family) => {
      const file = fileOf(family, weight);
      return { name: `${family[1]}-${weight}`, file, font: openSync(file) as Font };
    });
    faces.set(isBold, found);
  }
  return found;
}

/** A letter's outline at its place in a run, in the font's units; `id` is the same for the same outline. */
export type PlacedGlyph = { readonly id: string; readonly outline: string; readonly x: number; readonly y: number };
/** Letters of one font beside each other, from left to right as they are seen. `extent` in sizes of the font. */
export type Shape = { readonly extent: Extent; readonly glyphs: readonly PlacedGlyph[] };

const outlines = new Map<string, string>();

// The library falls over some marks that stand on nothing: drawn where they are, a label comes out all the same.
function laidOut(font: Font, text: string, direction: 'ltr' | 'rtl'): ReturnType<Font['layout']> {
  try {
    return font.layout(text, undefined, undefined, undefined, direction);
  } catch {
    return font.layout(text, { mark: false, mkmk: false }, undefined, undefined, direction);
  }
}

/** A text as its font shapes it. */
export function shapeOf({ name, font }: Face, text: string, isRtl: boolean): Shape {
  const { advanceWidth, bbox, glyphs, positions } = laidOut(font, text, isRtl ? 'rtl' : 'ltr');
  const em = font.unitsPerEm;
  const [rise, fall] = [bbox.maxY / em, -bbox.minY / em];
  let x = 0;
  const placed = glyphs.map((glyph, n): PlacedGlyph => {
    const id = `${name}-${glyph.id}`;
    let outline = outlines.get(id);
    if (outline === undefined) outlines.set(id, (outline = glyph.path.toSVG()));
    const p = positions[n];
    const at = { id, outline, x: x + (p?.xOffset ?? 0), y: p?.yOffset ?? 0 };
    x += p?.xAdvance ?? 0;
    return at;
  });
  const extent = { width: advanceWidth / em, rise: Number.isFinite(rise) ? rise : 0, fall: Number.isFinite(fall) ? fall : 0 };
  return { extent, glyphs: placed };
}

// Nearly all that a warehouse prints, and all that pairs are kept of: one font has it, and it is written from left to right.
export const PLAIN = /^[ -~]*$/;
const FIRST = 0x20;
const COUNT = 0x7f - FIRST;

// What is known of the plain letters of a font: each by itself, and how much nearer each stands to the one before it than alone, in the
// font's units; null where the two are drawn as something else.
type Pairs = { readonly single: (Shape | undefined)[]; readonly kern: (number | null | undefined)[] };
const known = new WeakMap<Face, Pairs>();
function pairsOf(face: Face): Pairs {
  let pairs = known.get(face);
  if (!pairs) known.set(face, (pairs = { single: Array.from({ length: COUNT }), kern: Array.from({ length: COUNT * COUNT }) }));
  return pairs;
}

const alone = (face: Face, { single }: Pairs, letter: number): Shape =>
  (single[letter - FIRST] ??= shapeOf(face, String.fromCharCode(letter), false));

function kernOf(face: Face, pairs: Pairs, before: number, letter: number): number | null {
  const at = (before - FIRST) * COUNT + letter - FIRST;
  const kept = pairs.kern[at];
  if (kept !== undefined) return kept;
  const [a, b] = [alone(face, pairs, before), alone(face, pairs, letter)];
  const { extent, glyphs } = shapeOf(face, String.fromCharCode(before, letter), false);
  const [first, second] = glyphs;
  const isPlain = glyphs.length === 2 && first?.id === a.glyphs[0]?.id && second?.id === b.glyphs[0]?.id && first?.x === 0;
  return (pairs.kern[at] = isPlain ? Math.round((extent.width - a.extent.width - b.extent.width) * face.font.unitsPerEm) : null);
}

/** A plain word set from its letters and how near each stands to the next, as a font of Latin letters without wider contexts shapes it;
 *  null where two letters are drawn as one. Words are new all the time, pairs are not: shaping was most of what a thousand labels cost. */
export function inPairs(face: Face, word: string): Shape | null {
  const em = face.font.unitsPerEm;
  const pairs = pairsOf(face);
  const starts: number[] = [];
  let [x, rise, fall] = [0, -Infinity, -Infinity];
  for (let n = 0; n < word.length; n += 1) {
    const letter = word.charCodeAt(n);
    const kern = n === 0 ? 0 : kernOf(face, pairs, word.charCodeAt(n - 1), letter);
    if (kern === null) return null;
    const { extent } = alone(face, pairs, letter);
    starts.push((x += kern));
    x += Math.round(extent.width * em);
    if (letter !== FIRST) [rise, fall] = [Math.max(rise, extent.rise), Math.max(fall, extent.fall)];
  }
  return shapeWhen({ width: x / em, rise: Number.isFinite(rise) ? rise : 0, fall: Number.isFinite(fall) ? fall : 0 }, () =>
    starts.flatMap((start, n) => alone(face, pairs, word.charCodeAt(n)).glyphs.map((glyph) => ({ ...glyph, x: start + glyph.x }))),
  );
}

// A text is measured often and drawn once, if at all: its glyphs are placed when somebody asks for them.
function shapeWhen(extent: Extent, place: () => readonly PlacedGlyph[]): Shape {
  let placed: readonly PlacedGlyph[] | null = null;
  return {
    extent,
    get glyphs() {
      return (placed ??= place());
    },
  };
}

/** Shapes of one font beside each other, from left to right, each as it was measured. */
export function besides({ font }: Face, shapes: readonly Shape[]): Shape {
  const [only] = shapes;
  if (shapes.length === 1 && only) return only;
  return shapeWhen(together(shapes.map((shape) => shape.extent)), () => {
    let before = 0;
    return shapes.flatMap((shape) => {
      const x = before;
      before += shape.extent.width * font.unitsPerEm;
      return shape.glyphs.map((glyph) => ({ ...glyph, x: x + glyph.x }));
    });
  });
}

/** How far texts reach together that stand beside each other. */
export const together = (parts: readonly Extent[]): Extent => ({
  width: parts.reduce((sum, p) => sum + p.width, 0),
  rise: Math.max(0, ...parts.map((p) => p.rise)),
  fall: Math.max(0, ...parts.map((p) => p.fall)),
});

/** The first font of a weight, as a PDF sets words in it: plain ones from their letters too, `shapeOf` would set them alike.
 *  Shape:  its `layout` gives places of its own each time, in the font's units, which the PDF scales. */
export function fontInPairs(face: Face): Font {
  const { font } = face;
  const em = font.unitsPerEm;
  const glyphs = new Map<string, GlyphRun['glyphs'][number]>();
  const glyphOf = (letter: string): GlyphRun['glyphs'][number] => {
    let glyph = glyphs.get(letter);
    if (!glyph) glyphs.set(letter, (glyph = font.layout(letter).glyphs[0] as GlyphRun['glyphs'][number]));
    return glyph;
  };
  const layout = (text: string, ...asked: readonly unknown[]): Pick<GlyphRun, 'glyphs' | 'positions' | 'advanceWidth'> => {
    const shape = PLAIN.test(text) ? inPairs(face, text) : null;
    if (shape?.glyphs.length !== text.length || asked.some((said) => said !== undefined)) return font.layout(text, ...(asked as []));
    const width = Math.round(shape.extent.width * em);
    const positions = shape.glyphs.map(({ x }, n) => ({
      xAdvance: (shape.glyphs[n + 1]?.x ?? width) - x,
      yAdvance: 0,
      xOffset: 0,
      yOffset: 0,
    }));
    return { glyphs: [...text].map(glyphOf), positions, advanceWidth: width };
  };
  return Object.create(font, { layout: { value: layout } }) as Font;
}
