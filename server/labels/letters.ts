import bidiFactory from 'bidi-js';
import type { Extent, Letters } from '#core/labels';
import { besides, facesOf, inPairs, PLAIN, shapeOf, together, type Face, type Shape } from './shapes.ts';

const bidi = bidiFactory();

/** Letters that follow each other in one font and one direction, from left to right as they are seen. `extent` in sizes of the font. */
export type Run = Shape & { readonly face: Face; readonly text: string; readonly isRtl: boolean };

// Letters that no font has: they are drawn as the box that the first font has for it.
const NO_FACE = 0;
const GRAPHEMES = new Intl.Segmenter('en', { granularity: 'grapheme' });
// What only says how others are written, in which direction or where a line may break: it has its effect, and no shape.
const UNSEEN = /^\p{Default_Ignorable_Code_Point}+$/u;
const MARKS = /[\p{M}\p{Cf}]/gu;

// The first font that has all of it; marks that only say how others are written need none. -1 where none has.
function faceOfAll(list: readonly Face[], letters: string): number {
  const all = [...letters].filter((c) => !/\p{Cf}/u.test(c));
  return list.findIndex(({ font }) => all.every((c) => font.hasGlyphForCodePoint(c.codePointAt(0) ?? 0)));
}
// A letter and its accents are drawn by one font, the first that has them all, or the first that has the letter.
function faceOf(list: readonly Face[], letters: string): number {
  const whole = faceOfAll(list, letters);
  return whole >= 0 ? whole : faceOfAll(list, letters.replace(MARKS, '') || letters);
}
// A word is drawn by one font where one has all of it: the first has a few Greek letters, for units, and would stand in the midst of words.
function facesOfWords(list: readonly Face[], text: string): Map<number, number> {
  const at = new Map<number, number>();
  for (const { index, 0: word } of text.matchAll(/[^ ]+/gu)) {
    const face = faceOfAll(list, word);
    if (face >= 0) for (let n = index; n < index + word.length; n += 1) at.set(n, face);
  }
  return at;
}

// The shape as it is: its glyphs are placed only when they are drawn.
const runOf = (face: Face, text: string, isRtl: boolean, shape: Shape): Run => ({
  ...{ face, text, isRtl, extent: shape.extent },
  get glyphs() {
    return shape.glyphs;
  },
});

function setRuns(text: string, isBold: boolean): Run[] {
  const list = facesOf(isBold);
  if (PLAIN.test(text)) {
    const face = list[0] as Face;
    const words = wordsOf(text);
    const isOne = words.length === 1;
    const shapes = words.map((word) => (isOne ? wordShape(face, word) : plainWord(word, isBold)));
    return [runOf(face, text, false, besides(face, shapes))];
  }
  const said = drawable(text);
  const { levels } = bidi.getEmbeddingLevels(said);
  const mirrored = bidi.getMirroredCharactersMap(said, levels);
  const parts: { face: number; level: number; text: string }[] = [];
  const ofWords = facesOfWords(list, said);
  let before: number | null = null;
  for (const { segment, index } of GRAPHEMES.segment(said)) {
    if (UNSEEN.test(segment)) continue;
    const level = levels[index] ?? 0;
    const last = parts.at(-1);
    const letter = mirrored.get(index) ?? segment;
    // A space or a stroke behind letters of one font is drawn by it: the line keeps its rhythm. A new word begins in its own font: it is
    // measured by itself, and stands as it was measured.
    const isBegun = segment === ' ' || (index > 0 && said[index - 1] !== ' ');
    const goesOn = isBegun && before !== null && /^[\p{P}\p{Z}\p{N}]+$/u.test(segment) && has(list[before], segment);
    const face: number = ofWords.get(index) ?? (goesOn ? before : null) ?? Math.max(faceOf(list, segment), NO_FACE);
    before = face;
    if (last?.level === level && last.face === face) last.text += letter;
    else parts.push({ face, level, text: letter });
  }
  return inSight(parts).map(({ face, level, text: run }) => {
    const chosen = list[face] as Face;
    const isRtl = level % 2 === 1;
    return runOf(chosen, run, isRtl, shapeOfWords(chosen, run, isRtl));
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

// A word with the space behind it is shaped once, wherever it stands: shaping is nearly all that a label costs.
const wordsOf = (text: string): string[] => text.split(/(?<= )/u);

const wordShape = (face: Face, word: string): Shape => inPairs(face, word) ?? shapeOf(face, word, false);
// A plain word is one run, as it was measured.
const plainWord = (word: string, isBold: boolean): Shape => setOf(word, isBold).runs[0] as Run;

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
