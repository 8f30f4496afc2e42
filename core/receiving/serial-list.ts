import { fail, ok, type Result } from '#core/base';
import { labelText } from '#core/items';
import type { ReceivingError } from './errors.ts';

/** Serials are entered at once in this number at most. */
export const MOST_SERIALS = 500;
export const LONGEST_LABEL = 40;

/** The serials of a pasted text: one to a line, or parted by commas, semicolons or tabs. */
export function readSerialList(text: string): readonly string[] {
  return text
    .split(/[\n\r,;\t]+/)
    .map(labelText)
    .filter((code) => code !== '');
}

/** Makes serials that follow each other (C9): `SN-` with first `0098` and 5 of them are `SN-0098` to `SN-0102`.
 *  Shape:  the digits of `first` say how wide the numbers are; one that outgrows them is as wide as it must be.
 *  Errors: `receiving.serialRange`: a first that is no number, none or more than `MOST_SERIALS` of them, serials longer than a label. */
export function makeSerialRange(of: {
  readonly prefix: string;
  readonly first: string;
  readonly count: number;
}): Result<readonly string[], ReceivingError> {
  const wrong = (why: 'first' | 'count' | 'long'): Result<never, ReceivingError> => fail({ code: 'receiving.serialRange', why });
  if (!/^\d{1,15}$/.test(of.first)) return wrong('first');
  if (!Number.isInteger(of.count) || of.count < 1 || of.count > MOST_SERIALS) return wrong('count');
  const begin = Number(of.first);
  const codes = Array.from({ length: of.count }, (_, n) => `${of.prefix}${String(begin + n).padStart(of.first.length, '0')}`);
  return codes.some((code) => code.length > LONGEST_LABEL) ? wrong('long') : ok(codes);
}

/** Those of many serials that cannot be taken (C9), each with where it is: in stock, in this delivery, twice in the list, or too long.
 *  `placeOf` says where a serial is known to be, or null. */
export function clashingSerials(
  codes: readonly string[],
  placeOf: (code: string) => string | null,
): readonly { readonly code: string; readonly place: string }[] {
  const seen = new Set<string>();
  return codes.flatMap((code) => {
    const place = seen.has(code) ? 'twice in this list' : code.length > LONGEST_LABEL ? 'longer than a label' : placeOf(code);
    seen.add(code);
    return place === null ? [] : [{ code, place }];
  });
}

/** The serials that a cell of a sheet names: spaces part them too, where a list that somebody pasted may have them within. */
export const serialsOfCell = (cell: string): string[] => [...readSerialList(cell.replace(/\s+/g, ';'))];
