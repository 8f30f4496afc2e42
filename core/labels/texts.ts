/** How far a text reaches, in sizes of its font: to the right, and over and under the line it stands on. */
export type Extent = { readonly width: number; readonly rise: number; readonly fall: number };

/** What is known of letters: how far they reach, and which of them no font has. */
export type Letters = {
  readonly extent: (text: string, isBold: boolean) => Extent;
  readonly unknown: (text: string) => readonly string[];
};

/** How much depends on a text: without all of it the label is wrong (an address, a price, a date); without its beginning it is worth
 *  nothing; it may be shortened and left out; it is said where there is room. */
export type Need = 'whole' | 'must' | 'may' | 'quiet';
/** A text that a label says. `wish` and `least`: the height of its capitals in dots. `lines`: on how many it may stand. Of two that are
 *  needed alike the later is the first that gives way. */
export type Field = {
  readonly name: string;
  readonly text: string;
  readonly isBold: boolean;
  readonly wish: number;
  readonly least: number;
  readonly lines: number;
  readonly need: Need;
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

const RTL = /\p{Script=Hebrew}|\p{Script=Arabic}/u;
/** Whether a text is written from right to left: its first letter says. */
export function isRightToLeft(text: string): boolean {
  const first = /\p{L}/u.exec(text);
  return first !== null && RTL.test(first[0]);
}

/** How much larger than wished a text may become. */
export const LARGEST = 2.2;
// From there down to nothing: each field stops at its least height.
const SCALES = Array.from({ length: 32 }, (_, i) => LARGEST * 0.92 ** i);

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
    const set = setAt(fields, SCALES[middle] as number, area.width, letters, null);
    const isIn = set !== null && set.height <= area.height;
    if (isIn) fits = set;
    if (isIn) to = middle - 1;
    else from = middle + 1;
  }
  if (fits) return fits;
  // Too much to say: the last fields give lines away, one after the other, at last all of theirs.
  const lines = new Map(fields.map((f) => [f.name, f.lines]));
  const last = (need: Need, kept: number): Field | undefined => fields.findLast((f) => f.need === need && (lines.get(f.name) ?? 0) > kept);
  for (;;) {
    const set = setAt(fields, 0, area.width, letters, lines);
    if (set && set.height <= area.height) return set;
    const gives = last('quiet', 0) ?? last('may', 1) ?? last('may', 0) ?? last('must', 1);
    if (!gives) return null;
    lines.set(gives.name, (lines.get(gives.name) ?? 0) - 1);
  }
}

// All fields at one scale, with at most so many lines each; null where a text needs more and may not be shortened. Without `most` none may.
function setAt(
  fields: readonly Field[],
  scale: number,
  width: number,
  letters: Letters,
  most: ReadonlyMap<string, number> | null,
): FittedTexts | null {
  const texts: PlacedText[] = [];
  const shortened: string[] = [];
  const omitted: string[] = [];
  let y = 0;
  for (const field of fields) {
    const may = most?.get(field.name) ?? field.lines;
    if (may === 0) {
      omitted.push(field.name);
      continue;
    }
    // A word is rather smaller than broken: 12.4 on two lines is two numbers.
    const words = wordsOf(field, letters);
    const whole = width / Math.max(...words.map((word) => word.width));
    const size = Math.max(field.least / CAPITAL, Math.min((field.wish * scale) / CAPITAL, whole));
    const lines = inLines(words, width / size, field.isBold, letters);
    if (lines.length > may) {
      if (most === null || field.need === 'whole') return null;
      shortened.push(field.name);
      const rest = lines
        .splice(may - 1)
        .map((line) => line.text)
        .join(' ');
      lines.push(withEllipsis(rest, width / size, field.isBold, letters));
    }
    for (const { text, width: reach, rise, fall } of lines) {
      const far = reach * size;
      const x = isRightToLeft(field.text) ? width - far : 0;
      const top = texts.length === 0 ? y : y + LEAD * size;
      const baseline = top + Math.max(CAPITAL, rise) * size;
      const bottom = baseline + Math.max(0, fall) * size;
      texts.push({ field: field.name, text, isBold: field.isBold, size, x, width: far, top, baseline, bottom });
      y = bottom;
    }
  }
  return { texts, height: y, scale, shortened, omitted };
}

// What stands on a line, and how far it reaches by itself and with the space behind it: in a line the words add up.
type Piece = Extent & { readonly text: string; readonly withSpace: number };
const measured = new WeakMap<Field, readonly Piece[]>();

// A text is wrapped at one size after the other; its words are measured once.
function wordsOf(field: Field, letters: Letters): readonly Piece[] {
  let words = measured.get(field);
  if (!words) measured.set(field, (words = wordsIn(field.text, field.isBold, letters)));
  return words;
}

const wordsIn = (text: string, isBold: boolean, letters: Letters): Piece[] =>
  text
    .trim()
    .split(/\s+/u)
    .map((word) => piece(word, isBold, letters));
const piece = (text: string, isBold: boolean, letters: Letters): Piece => ({
  ...letters.extent(text, isBold),
  ...{ text, withSpace: letters.extent(`${text} `, isBold).width },
});
const joined = (line: Piece, word: Piece): Piece => ({
  text: `${line.text} ${word.text}`,
  width: line.withSpace + word.width,
  withSpace: line.withSpace + word.withSpace,
  rise: Math.max(line.rise, word.rise),
  fall: Math.max(line.fall, word.fall),
});

/** A text in lines that are no wider than `room` (in sizes of the font). A word that is wider than a line is broken between letters. */
export const wrapped = (text: string, room: number, isBold: boolean, letters: Letters): string[] =>
  inLines(wordsIn(text, isBold, letters), room, isBold, letters).map((line) => line.text);

function inLines(words: readonly Piece[], room: number, isBold: boolean, letters: Letters): Piece[] {
  const lines: Piece[] = [];
  for (const word of words) {
    const line = lines.at(-1);
    if (line && line.withSpace + word.width <= room) lines[lines.length - 1] = joined(line, word);
    else if (word.width <= room) lines.push(word);
    else lines.push(...broken(word.text, room, isBold, letters).map((part) => piece(part, isBold, letters)));
  }
  return lines;
}

function broken(word: string, room: number, isBold: boolean, letters: Letters): string[] {
  const parts: string[] = [];
  for (let rest = word; rest !== ''; rest = rest.slice(parts.at(-1)?.length)) parts.push(longestPart(rest, room, isBold, letters));
  return parts;
}

const GRAPHEMES = new Intl.Segmenter('en', { granularity: 'grapheme' });
// As many letters as there is room for, one at the least: a letter and its accents stay together.
function longestPart(word: string, room: number, isBold: boolean, letters: Letters): string {
  let part = '';
  for (const { segment } of GRAPHEMES.segment(word)) {
    if (part !== '' && letters.extent(part + segment, isBold).width > room) break;
    part += segment;
  }
  return part;
}

function withEllipsis(text: string, room: number, isBold: boolean, letters: Letters): Piece {
  const words = text.split(' ');
  while (words.length > 1) {
    words.pop();
    const said = piece(`${words.join(' ')} …`, isBold, letters);
    if (said.width <= room) return said;
  }
  const [first = ''] = words;
  const most = room - letters.extent('…', isBold).width;
  return piece(`${longestPart(first, most, isBold, letters)}…`, isBold, letters);
}
