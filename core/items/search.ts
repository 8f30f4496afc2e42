import { expandUpcE } from './upc-e.ts';

/** What a person typed into a search field, read for looking up.
 *  `code` is the text as a code (no spaces at its ends, upper case); `gtins` what it may be as a retail code, 14 digits each; `words` its
 *  words, folded, letters and digits apart; `bare` the code without dashes and the like, for part numbers that people write either way. */
export type SearchText = {
  readonly code: string;
  readonly bare: string;
  readonly gtins: readonly string[];
  readonly words: readonly string[];
};

const MOST_WORDS = 12;
const LETTERS: Readonly<Record<string, string>> = { ß: 'ss', æ: 'ae', œ: 'oe', ø: 'o', ł: 'l', đ: 'd', ı: 'i' };

/** A text as search compares it: lower case, without accents, wide and narrow forms the same. The database's `fold_text` does the same. */
export function foldText(text: string): string {
  return text
    .normalize('NFKD')
    .toLowerCase()
    .replace(/\p{M}+/gu, '')
    .replace(/[ßæœøłđı]/g, (c) => LETTERS[c] ?? c);
}

/** The words of a text: letters and digits apart, so that `454ml` and `454 ml` are the same two. */
export function searchWords(text: string): string[] {
  return foldText(text).match(/\p{L}+|\p{N}+/gu) ?? [];
}

/** Reads a search text. A code with dashes gives its parts as words too, so that half a part number finds the whole. */
export function readSearch(text: string): SearchText {
  const trimmed = text.normalize('NFKC').trim();
  const digits = /^\d{8}$|^\d{11,14}$/.test(trimmed) ? trimmed : null;
  const upcE = expandUpcE(trimmed);
  return {
    code: trimmed.toUpperCase(),
    bare: foldText(trimmed).replace(/[^\p{L}\p{N}]+/gu, ''),
    gtins: [...new Set([digits, upcE].filter((d): d is string => d !== null).map((d) => d.padStart(14, '0')))],
    words: searchWords(trimmed).slice(0, MOST_WORDS),
  };
}

/** Whether a word may be mistyped rather than a code: letters only, long enough that one wrong letter leaves it recognisable. */
export function maySpellWrong(word: string): boolean {
  return word.length >= 4 && /^\p{L}+$/u.test(word);
}

/** The word and what is left of it without one of its letters: two words that are one edit apart (a letter wrong, missing, too many, or two
 *  neighbours changed about) share at least one of these.
 *  Source: W. Garbe, “1000x faster spelling correction” (symmetric delete), 2012. */
export function wordStems(word: string): string[] {
  const letters = [...word];
  return [
    ...new Set([
      word,
      ...letters.map((_, i) =>
        letters
          .slice(0, i)
          .concat(letters.slice(i + 1))
          .join(''),
      ),
    ]),
  ];
}

/** Whether two words are at most one edit apart.
 *  Source: the restricted distance of F. Damerau, “A technique for computer detection and correction of spelling errors”, 1964. */
export function isOneEditApart(a: string, b: string): boolean {
  const [left, right] = [[...a], [...b]];
  let from = 0;
  while (from < left.length && from < right.length && left[from] === right[from]) from += 1;
  let [endA, endB] = [left.length, right.length];
  while (endA > from && endB > from && left[endA - 1] === right[endB - 1]) [endA, endB] = [endA - 1, endB - 1];
  const [restA, restB] = [endA - from, endB - from];
  if (restA <= 1 && restB <= 1) return true;
  return restA === 2 && restB === 2 && left[from] === right[from + 1] && left[from + 1] === right[from];
}
