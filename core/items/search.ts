import { expandUpcE } from './upc-e.ts';

/** What a person typed into a search field, read for looking up.
 *  `code` is the text as a code (no spaces at its ends, upper case); `gtins` what it may be as a retail code, 14 digits each; `words` its words,
 *  lower case, letters and digits only; `bare` the code without dashes and the like, for part numbers that people write either way. */
export type SearchText = {
  readonly code: string;
  readonly bare: string;
  readonly gtins: readonly string[];
  readonly words: readonly string[];
};

const MOST_WORDS = 8;

/** Reads a search text. A code with dashes gives its parts as words too, so that half a part number finds the whole. */
export function readSearch(text: string): SearchText {
  const trimmed = text.trim();
  const digits = /^\d{8}$|^\d{11,14}$/.test(trimmed) ? trimmed : null;
  const upcE = expandUpcE(trimmed);
  return {
    code: trimmed.toUpperCase(),
    bare: trimmed.toLowerCase().replace(/[^\p{L}\p{N}]+/gu, ''),
    gtins: [...new Set([digits, upcE].filter((d): d is string => d !== null).map((d) => d.padStart(14, '0')))],
    words: trimmed
      .toLowerCase()
      .split(/[^\p{L}\p{N}]+/u)
      .filter(Boolean)
      .slice(0, MOST_WORDS),
  };
}

/** Whether a word may be mistyped rather than a code: letters only, long enough that one wrong letter leaves it recognisable. */
export function maySpellWrong(word: string): boolean {
  return word.length >= 4 && /^\p{L}+$/u.test(word);
}
