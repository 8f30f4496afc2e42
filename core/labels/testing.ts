import type { LabelTools } from './page.ts';
import type { Modules, Symbology } from './symbols.ts';
import type { Letters } from './texts.ts';

/** Letters that are all half as wide as high; those of the private use area are nobody's. */
export const evenLetters: Letters = {
  extent: (text) => ({ width: [...text].length / 2, rise: 0.72, fall: /[gjpqy,;()]/.test(text) ? 0.2 : 0 }),
  unknown: (text) => [...new Set([...text].filter((c) => /\p{Co}/u.test(c)))],
};

const LINES: readonly Symbology[] = ['ean13', 'ean8', 'upca', 'code128', 'gs1-128'];

/** Codes as wide as the real ones would be: bars that take eleven modules a letter, squares with eight modules a letter. Of the right size,
 *  and not readable. */
export function madeModules(symbology: Symbology, text: string): Modules | null {
  if (LINES.includes(symbology)) {
    const letters = symbology.startsWith('ean') || symbology === 'upca' ? 0 : text.length + 3;
    const across = letters === 0 ? (symbology === 'ean8' ? 67 : 95) : letters * 11 + 2;
    return { shape: 'line', widths: Array.from({ length: across }, () => 1), across };
  }
  const side = 2 * Math.ceil((6 + Math.sqrt(text.length * 8)) / 2);
  return side > 144
    ? null
    : { shape: 'matrix', across: side, down: side, isDark: Array.from({ length: side * side }, (_, i) => i % 3 !== 0) };
}

export const evenTools: LabelTools = { letters: evenLetters, encode: ({ symbology, text }) => madeModules(symbology, text) };
