import { hasValidCheckDigit } from './check-digit.ts';

/** A UPC-E of eight digits (number system 0 or 1, six digits, check digit) as the UPC-A it stands for, or null where it stands for none.
 *  Source: GS1 General Specifications, section 5.2.2.4.2 (zero suppression). */
export function expandUpcE(code: string): string | null {
  const match = /^([01])(\d{6})(\d)$/.exec(code);
  if (!match) return null;
  const [, system = '', d = '', check = ''] = match;
  const last = Number(d[5]);
  const digits =
    last <= 2
      ? `${d.slice(0, 2)}${last}0000${d.slice(2, 5)}`
      : last === 3
        ? `${d.slice(0, 3)}00000${d.slice(3, 5)}`
        : last === 4
          ? `${d.slice(0, 4)}00000${d[4]}`
          : `${d.slice(0, 5)}0000${last}`;
  const full = `${system}${digits}${check}`;
  return hasValidCheckDigit(full) ? full : null;
}
