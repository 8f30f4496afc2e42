import { createRequire } from 'node:module';
import bidiFactory from 'bidi-js';
import { openSync, type Font, type GlyphRun } from 'fontkit';
import type { Extent, Letters } from '#core/labels';

const require = createRequire(import.meta.url);
const bidi = bidiFactory();

/** The fonts of labels, the first that has a letter draws it: files that SVG, PDF and pictures are drawn from alike. */
const FAMILIES = [
  ['barlow-condensed', 'BarlowCondensed'],
  ['noto-sans', 'NotoSans'],
  ['noto-sans-hebrew', 'NotoSansHebrew'],
  ['noto-sans-arabic', 'NotoSansArabic'],
] as const;
const fileOf = ([folder, name]: (typeof FAMILIES)[number], weight: string): string =>
  require.resolve(`@expo-google-fonts/${folder}/${weight}/${name}_${weight}.ttf`);

type Face = { readonly name: string; readonly file: string; readonly font: Font };
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
/** Letters that follow each other in one font and one direction, from left to right as they are seen. `extent` in sizes of the font. */
export type Run = {
  readonly face: Face;
  readonly text: string;
  readonly isRtl: boolean;
  readonly extent: Extent;
  readonly glyphs: readonly PlacedGlyph[];
};

type Shape = Pick<Run, 'extent' | 'glyphs'>;

// Letters that no font has: they are drawn as the box that the first font has for it.
const NO_FACE = 0;
const GRAPHEMES = new Intl.Segmenter('en', { granularity: 'grapheme' });
// What only says how others are written, in which direction or where a line may break: it has its effect, and no shape.
const UNSEEN = /^\p{Default_Ignorable_Code_Point}+$/u;
const MARKS = /[\p{M}\p{Cf}]/gu;

// A letter and its accents are drawn by one font, the first that has them all, or the first that has the letter.
function faceOf(list: readonly Face[], letters: string): number {
  const all = [...letters].filter((c) => !/\p{Cf}/u.test(c));
  const whole = list.findIndex(({ font }) => all.every((c) => font.hasGlyphForCodePoint(c.codePointAt(0) ?? 0)));
  if (whole >= 0) return whole;
  const bare = letters.replace(MARKS, '') || letters;
  return list.findIndex(({ font }) => [...bare].every((c) => font.hasGlyphForCodePoint(c.codePointAt(0) ?? 0)));
}

// Nearly all that a warehouse prints: one font has it, and it is written from left to right.
const PLAIN = /^[ -~]*$/;

function setRuns(text: string, isBold: boolean): Run[] {
  const list = facesOf(isBold);
  if (PLAIN.test(text)) {
    const face = list[0] as Face;
    const words = wordsOf(text);
    return [
      {
        face,
        text,
        isRtl: false,
        ...(words.length > 1 ? inRow(face, words, isBold) : (inPairs(face, text) ?? shapeOf(face, text, false))),
      },
    ];
  }
  const said = drawable(text);
  const { levels } = bidi.getEmbeddingLevels(said);
  const mirrored = bidi.getMirroredCharactersMap(said, levels);
  const parts: { face: number; level: number; text: string }[] = [];
  for (const { segment, index } of GRAPHEMES.segment(said)) {
    if (UNSEEN.test(segment)) continue;
    const level = levels[index] ?? 0;
    const last = parts.at(-1);
    const letter = mirrored.get(index) ?? segment;
    const own = faceOf(list, segment);
    // A space or a stroke between letters of one font is drawn by it: the line keeps its rhythm.
    const goesOn =
      last !== undefined &&
      last.level === level &&
      (own === last.face || (/^[\p{P}\p{Z}\p{N}]+$/u.test(segment) && has(list[last.face], segment)));
    if (goesOn) last.text += letter;
    else parts.push({ face: Math.max(own, NO_FACE), level, text: letter });
  }
  return inSight(parts).map(({ face, level, text: run }) => {
    const chosen = list[face] as Face;
    const isRtl = level % 2 === 1;
    return { face: chosen, text: run, isRtl, ...shapeOfWords(chosen, run, isRtl) };
  });
}

const has = (face: Face | undefined, text: string): boolean =>
  face !== undefined && [...text].every((c) => face.font.hasGlyphForCodePoint(c.codePointAt(0) ?? 0));
// What has no shape of its own is not drawn: controls, and the marks that choose between pictures of an emoji.
const drawable = (text: string): string => text.normalize('NFC').replace(/[\p{Cc}\p{Cs}\uFE0E\uFE0F]/gu, ' ');

// From the highest level down to the lowest odd one, what stands at it or above is turned round.
function inSight<T extends { level: number }>(parts: readonly T[]): T[] {
  const order = [...parts];
  const most = Math.max(0, ...parts.map((p) => p.level));
  for (let level = most; level >= 1; level -= 1)
    for (let from = 0; from < order.length; from += 1) {
      if ((order[from] as T).level < level) continue;
      let until = from;
      while (until < order.length && (order[until] as T).level >= level) until += 1;
      order.splice(from, until - from, ...order.slice(from, until).reverse());
      from = until;
    }
  return order;
}

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

// A word with the space behind it is shaped once, wherever it stands: shaping is nearly all that a label costs.
const wordsOf = (text: string): string[] => text.split(/(?<= )/u);

const shapedWords = new Map<string, Shape>();

// Letters join within words only, in every script that labels are drawn in: words stand beside each other as each is shaped, the first
// rightmost where it is read from right to left.
function shapeOfWords(face: Face, text: string, isRtl: boolean): Shape {
  const shapes = wordsOf(text).map((word) => {
    const key = `${face.name}${isRtl ? '<' : '>'}${word}`;
    let shape = shapedWords.get(key);
    if (!shape) {
      if (shapedWords.size >= MOST_KEPT) shapedWords.clear();
      shapedWords.set(key, (shape = shapeOf(face, word, isRtl)));
    }
    return shape;
  });
  return besides(face, isRtl ? shapes.reverse() : shapes);
}

const single = new Map<string, Shape>();
const kerned = new Map<string, number | null>();

function shapeOfOne(face: Face, letter: string): Shape {
  const key = face.name + letter;
  let shape = single.get(key);
  if (!shape) single.set(key, (shape = shapeOf(face, letter, false)));
  return shape;
}

// How much nearer two letters stand than each alone, in the font's units; null where together they are drawn as something else.
function kernOf(face: Face, pair: string): number | null {
  const key = face.name + pair;
  const known = kerned.get(key);
  if (known !== undefined) return known;
  const [a, b] = [...pair].map((letter) => shapeOfOne(face, letter)) as [Shape, Shape];
  const { extent, glyphs } = shapeOf(face, pair, false);
  const [first, second] = glyphs;
  const isPlain = glyphs.length === 2 && first?.id === a.glyphs[0]?.id && second?.id === b.glyphs[0]?.id && first?.x === 0;
  const kern = isPlain ? Math.round((extent.width - a.extent.width - b.extent.width) * face.font.unitsPerEm) : null;
  kerned.set(key, kern);
  return kern;
}

/** A word set from its letters and how near each stands to the next, as a font of Latin letters without wider contexts shapes it; null
 *  where two letters are drawn as one. Words are new all the time, pairs are not: shaping was most of what a thousand labels cost. */
export function inPairs(face: Face, word: string): Shape | null {
  const em = face.font.unitsPerEm;
  const glyphs: PlacedGlyph[] = [];
  let [x, rise, fall] = [0, -Infinity, -Infinity];
  for (let n = 0; n < word.length; n += 1) {
    const kern = n === 0 ? 0 : kernOf(face, word.slice(n - 1, n + 1));
    if (kern === null) return null;
    const one = shapeOfOne(face, word.charAt(n));
    x += kern;
    for (const glyph of one.glyphs) glyphs.push({ ...glyph, x: x + glyph.x });
    x += Math.round(one.extent.width * em);
    if (word[n] !== ' ') [rise, fall] = [Math.max(rise, one.extent.rise), Math.max(fall, one.extent.fall)];
  }
  return { extent: { width: x / em, rise: Number.isFinite(rise) ? rise : 0, fall: Number.isFinite(fall) ? fall : 0 }, glyphs };
}

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

// Words of one font beside each other, each as it was measured.
function inRow(face: Face, parts: readonly string[], isBold: boolean): Shape {
  return besides(
    face,
    parts.map((word) => {
      const { runs, extent } = setOf(word, isBold);
      return { extent, glyphs: runs.flatMap((run) => run.glyphs) };
    }),
  );
}

function besides({ font }: Face, shapes: readonly Shape[]): Shape {
  const [only] = shapes;
  if (shapes.length === 1 && only) return only;
  let before = 0;
  const glyphs = shapes.flatMap((shape) => {
    const x = before;
    before += shape.extent.width * font.unitsPerEm;
    return shape.glyphs.map((glyph) => ({ ...glyph, x: x + glyph.x }));
  });
  return { extent: together(shapes.map((shape) => shape.extent)), glyphs };
}

const together = (parts: readonly Extent[]): Extent => ({
  width: parts.reduce((sum, p) => sum + p.width, 0),
  rise: Math.max(0, ...parts.map((p) => p.rise)),
  fall: Math.max(0, ...parts.map((p) => p.fall)),
});

// The same texts are asked for again and again while they are wrapped at one size after the other, and when they are drawn.
const MOST_KEPT = 20_000;
type Set = { readonly runs: readonly Run[]; readonly extent: Extent };
const kept = new Map<string, Set>();

function setOf(text: string, isBold: boolean): Set {
  const key = (isBold ? 'b' : 'r') + text;
  const known = kept.get(key);
  if (known) return known;
  const runs = setRuns(text, isBold);
  const set = { runs, extent: together(runs.map((run) => run.extent)) };
  if (kept.size >= MOST_KEPT) kept.clear();
  kept.set(key, set);
  return set;
}

const strange = new Map<string, readonly string[]>();
function strangeIn(word: string): readonly string[] {
  const known = strange.get(word);
  if (known) return known;
  const list = facesOf(false);
  const found = [...GRAPHEMES.segment(word)].map((s) => s.segment).filter((s) => s.trim() !== '' && faceOf(list, s) < 0);
  if (strange.size >= MOST_KEPT) strange.clear();
  strange.set(word, found);
  return found;
}

/** A text in runs, as they stand beside each other from left to right.
 *  Source: the Unicode Bidirectional Algorithm (UAX #9), its levels by bidi-js; rule L2 for the order, L4 for mirrored brackets. */
export const runsOf = (text: string, isBold: boolean): readonly Run[] => setOf(text, isBold).runs;

/** What a layout asks of letters, from the fonts of labels. */
export const labelLetters: Letters = {
  // Word by word: a line is tried with every word that may still fit.
  extent: (text, isBold) => together(wordsOf(text).map((word) => setOf(word, isBold).extent)),
  unknown: (text) => (PLAIN.test(text) ? [] : [...new Set(wordsOf(drawable(text)).flatMap(strangeIn))]),
};
