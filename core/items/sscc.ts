import { withCheckDigit } from './check-digit.ts';

const DIGITS = 17;

/** How many logistic units a company can number under its prefix (4 to 12 digits): `10^(17 − length)`. */
export const ssccRoom = (prefix: string): number => 10 ** (DIGITS - prefix.length);

/** The serial shipping container code of the company's `n`-th unit, counted from 0; null where its prefix holds no more.
 *  Shape:  18 digits: extension, prefix, serial reference, check digit. The extension is the first digit of the number once the serial
 *          references are used up.
 *  Errors: throws on a prefix that is none, because settings keep only what `isCompanyPrefix` allows.
 *  Source: GS1 General Specifications, sections 1.4.4 (company prefix) and 2.2.1 (SSCC). */
export function ssccOf(prefix: string, n: number): string | null {
  if (!isCompanyPrefix(prefix)) throw new Error(`Not a company prefix: ${prefix}`);
  if (!Number.isSafeInteger(n) || n < 0 || n >= ssccRoom(prefix)) return null;
  const own = String(n).padStart(DIGITS - prefix.length, '0');
  return withCheckDigit(own.charAt(0) + prefix + own.slice(1));
}

/** Whether a text is a GS1 company prefix: 4 to 12 digits. Whose it is nobody can tell here. */
export const isCompanyPrefix = (text: string): boolean => /^\d{4,12}$/.test(text);
