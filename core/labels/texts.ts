/** How far a text reaches, in sizes of its font: to the right, and over and under the line it stands on. */
export type Extent = { readonly width: number; readonly rise: number; readonly fall: number };

/** What is known of letters: how far they reach, and which of them no font has. */
export type Letters = {
  readonly extent: (text: string, isBold: boolean) => Extent;
  readonly unknown: (text: string) => readonly string[];
};

/** A text that a label says. `wish` and `least`: the height of its capitals in dots. `must`: the label is worth nothing without it;
 *  `isQuiet`: it is said where there is room. Of two others the later is the first that gives way. */
export type Field = {
  readonly name: string;
  readonly text: string;
  readonly isBold: boolean;
  readonly wish: number;
  readonly least: number;
  readonly lines: number;
  readonly must: boolean;
  readonly isQuiet: boolean;
};

/** A line of text that has its place in an area. In dots from the area's upper left corner; `size` is that of the font, `top` and `bottom`
 *  hold every letter with its accents. */
export type PlacedText = {
  readonly field: string;
  readonly text: string;
  readonly isBold: boolean;
  readonly size: number;
  readonly x: number;
  readonly baseline: number;
  readonly width: number;
  readonly top: number;
  readonly bottom: number;
};

export type FittedTexts = {
  readonly texts: readonly PlacedText[];
  readonly height: number;
  /** How large the texts are, 1 as wished; 0 where they are at their least heights and something is left out. */
  readonly scale: number;
  /** Fields that end before their end, and fields that have no room at all. */
  readonly shortened: readonly string[];
  readonly omitted: readonly string[];
};

/** The height of a capital as a part of the font's size. */
export const CAPITAL = 0.7;
// Between two lines, as a part of the lower one's size.
const LEAD = 0.22;

const widthOf = (letters: Letters, text: string, isBold: boolean): number => letters.extent(text, isBold).width;

const RTL = /\p{Script=Hebrew}|\p{Script=Arabic}/u;
/** Whether a text is written from right to left: its first letter says. */
export function isRightToLeft(text: string): boolean {
  const first = /\p{L}/u.exec(text);
  return first !== null && RTL.test(first[0]);
}

// From twice as large as wished down to nothing: each field stops at its least height.
const SCALES = Array.from({ length: 32 }, (_, i) => 2.2 * 0.92 ** i);

/** Sets texts into an area: first as large as they fit whole, wrapped at spaces; then at their least heights, ending in an ellipsis at a
 *  word, the last fields first; then without the last fields.
 *  Units:  dots; `largest` as a multiple of what is wished.
 *  Errors: null where what must be said has no room at its least height. */
export function fitTexts(
  fields: readonly Field[],
  area: { width: number; height: number },
  letters: Letters,
  largest = Infinity,
): FittedTexts | null {
  // Larger letters never take less room: the largest scale that fits lies between one that does and one that does not.
  let fits: FittedTexts | null = null;
  let [from, to] = [SCALES.findIndex((scale) => scale <= largest), SCALES.length - 1];
  while (from <= to) {
    const middle = (from + to) >> 1;
    const set = setAt(fields, SCALES[middle] as number, area.width, letters, () => Infinity);
    const isIn = set !== null && set.height <= area.height;
    if (isIn) fits = set;
    if (isIn) to = middle - 1;
    else from = middle + 1;
  }
  if (fits) return fits;
  // Too much to say: the last fields give lines away, one after the other, at last all of theirs.
  const lines = new Map(fields.map((f) => [f.name, f.lines]));
  for (;;) {
    const set = setAt(fields, 0, area.width, letters, (f) => lines.get(f.name) ?? 0);
    if (set && set.height <= area.height) return set;
    const gives =
      fields.findLast((f) => (lines.get(f.name) ?? 0) > 0 && f.isQuiet) ??
      fields.findLast((f) => (lines.get(f.name) ?? 0) > 1 && !f.must) ??
      fields.findLast((f) => (lines.get(f.name) ?? 0) > 0 && !f.must) ??
      fields.findLast((f) => (lines.get(f.name) ?? 0) > 1);
    if (!gives) return null;
    lines.set(gives.name, (lines.get(gives.name) ?? 0) - 1);
  }
}

// All fields at one scale; null where a text needs more lines than it may have, and nobody allowed it fewer.
function setAt(
  fields: readonly Field[],
  scale: number,
  width: number,
  letters: Letters,
  most: (field: Field) => number,
): FittedTexts | null {
  const texts: PlacedText[] = [];
  const shortened: string[] = [];
  const omitted: string[] = [];
  let y = 0;
  for (const field of fields) {
    const may = Math.min(field.lines, most(field));
    if (may === 0) {
      omitted.push(field.name);
      continue;
    }
    // A word is rather smaller than broken: 12.4 on two lines is two numbers.
    const words = wordsOf(field, letters);
    const whole = width / Math.max(...words.map((word) => word.alone));
    const size = Math.max(field.least / CAPITAL, Math.min((field.wish * scale) / CAPITAL, whole));
    const lines = inLines(words, width / size, field.isBold, letters);
    if (lines.length > may) {
      if (most(field) === Infinity) return null;
      shortened.push(field.name);
      const rest = lines.slice(may - 1).join(' ');
      lines.length = may;
      lines[may - 1] = withEllipsis(rest, width / size, field.isBold, letters);
    }
    for (const text of lines) {
      const reach = letters.extent(text, field.isBold);
      const far = reach.width * size;
      const x = isRightToLeft(field.text) ? width - far : 0;
      const top = texts.length === 0 ? y : y + LEAD * size;
      const baseline = top + Math.max(CAPITAL, reach.rise) * size;
      const bottom = baseline + Math.max(0, reach.fall) * size;
      texts.push({ field: field.name, text, isBold: field.isBold, size, x, width: far, top, baseline, bottom });
      y = bottom;
    }
  }
  return { texts, height: y, scale, shortened, omitted };
}

// A word, and how wide it is by itself and with the space behind it: in a line they add up.
type Word = { readonly text: string; readonly alone: number; readonly before: number };
const measured = new WeakMap<Field, readonly Word[]>();

// A text is wrapped at one size after the other; its words are measured once.
function wordsOf(field: Field, letters: Letters): readonly Word[] {
  let words = measured.get(field);
  if (!words) measured.set(field, (words = wordsIn(field.text, field.isBold, letters)));
  return words;
}

const wordsIn = (text: string, isBold: boolean, letters: Letters): Word[] =>
  text
    .trim()
    .split(/\s+/u)
    .map((word) => ({ text: word, alone: widthOf(letters, word, isBold), before: widthOf(letters, `${word} `, isBold) }));

/** A text in lines that are no wider than `room` (in sizes of the font). A word that is wider than a line is broken between letters. */
export const wrapped = (text: string, room: number, isBold: boolean, letters: Letters): string[] =>
  inLines(wordsIn(text, isBold, letters), room, isBold, letters);

function inLines(words: readonly Word[], room: number, isBold: boolean, letters: Letters): string[] {
  const lines: string[] = [];
  let line = '';
  // How far the line reaches with the space behind it.
  let reach = 0;
  for (const word of words) {
    if (reach + word.alone <= room) {
      line = line === '' ? word.text : `${line} ${word.text}`;
      reach += word.before;
      continue;
    }
    if (line !== '') lines.push(line);
    line = word.text;
    reach = word.before;
    if (word.alone <= room) continue;
    while (widthOf(letters, line, isBold) > room) {
      const part = longestPart(line, room, isBold, letters);
      lines.push(part);
      line = line.slice(part.length);
    }
    reach = line === '' ? 0 : widthOf(letters, `${line} `, isBold);
  }
  if (line !== '') lines.push(line);
  return lines;
}

const GRAPHEMES = new Intl.Segmenter('en', { granularity: 'grapheme' });
// As many letters as there is room for, one at the least: a letter and its accents stay together.
function longestPart(word: string, room: number, isBold: boolean, letters: Letters): string {
  let part = '';
  for (const { segment } of GRAPHEMES.segment(word)) {
    if (part !== '' && widthOf(letters, part + segment, isBold) > room) break;
    part += segment;
  }
  return part;
}

function withEllipsis(text: string, room: number, isBold: boolean, letters: Letters): string {
  const words = text.split(' ');
  while (words.length > 1) {
    words.pop();
    const said = `${words.join(' ')} …`;
    if (widthOf(letters, said, isBold) <= room) return said;
  }
  const [first = ''] = words;
  return `${longestPart(first, room - widthOf(letters, '…', isBold), isBold, letters)}…`;
}
