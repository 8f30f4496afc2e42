import type { Branded } from './brand.ts';
import { fail, ok, type Result } from './result.ts';

/** A quantity: a whole number of thousandths of the item's base unit. Never negative zero, never a fraction. */
export type Qty = Branded<number, 'Qty'>;

export type QtyError =
  | { code: 'stock.notANumber'; text: string }
  | { code: 'stock.tooFine'; text: string; decimals: number }
  | { code: 'stock.tooLarge'; text: string };

const STEPS_PER_UNIT = 1000;
const LARGEST = 1_000_000_000 * STEPS_PER_UNIT;
export const ZERO = 0 as Qty;
export const ONE = STEPS_PER_UNIT as Qty;

/** Brands a whole number of thousandths.
 *  Errors: throws on a fraction or an unsafe number: that is a programmer's mistake, not input. */
export function qty(steps: number): Qty {
  if (!Number.isSafeInteger(steps)) throw new Error(`Not a whole number of steps: ${steps}`);
  return (steps === 0 ? 0 : steps) as Qty;
}

/** Reads a decimal such as `12`, `2.5` or PostgreSQL's `2.500`.
 *  Units:  text in base units; result in thousandths. `decimals` is how finely the item may be counted (0 to 3).
 *  Errors: `stock.notANumber`, `stock.tooFine` (2.5 of something counted whole), `stock.tooLarge` (over 10^9 units). */
export function parseQty(text: string, decimals = 3): Result<Qty, QtyError> {
  const match = /^(-?)(\d{1,15})(?:\.(\d{1,6}))?$/.exec(text.trim());
  if (!match) return fail({ code: 'stock.notANumber', text });
  const [, sign, whole = '0', fraction = ''] = match;
  const significant = fraction.replace(/0+$/, '');
  if (significant.length > Math.min(decimals, 3)) return fail({ code: 'stock.tooFine', text, decimals });
  // String arithmetic: 1.005 * 1000 is 1004.9999… in floating point.
  const steps = Number(whole + significant.padEnd(3, '0'));
  if (steps > LARGEST) return fail({ code: 'stock.tooLarge', text });
  return ok(qty(sign ? -steps : steps));
}

/** Writes a quantity in base units without trailing zeros: 2500 → `2.5`. Exact inverse of `parseQty`. */
export function formatQty(value: Qty): string {
  const steps = Math.abs(value);
  const whole = Math.floor(steps / STEPS_PER_UNIT);
  const fraction = String(steps % STEPS_PER_UNIT)
    .padStart(3, '0')
    .replace(/0+$/, '');
  return `${value < 0 ? '-' : ''}${whole}${fraction ? `.${fraction}` : ''}`;
}

/** Whether the quantity can be counted with this many decimals. */
export function isWholeStep(value: Qty, decimals: number): boolean {
  return value % 10 ** (3 - decimals) === 0;
}

export function addQty(a: Qty, b: Qty): Qty {
  return qty(a + b);
}
export function subQty(a: Qty, b: Qty): Qty {
  return qty(a - b);
}
export function minQty(a: Qty, b: Qty): Qty {
  return a < b ? a : b;
}
export function maxQty(a: Qty, b: Qty): Qty {
  return a > b ? a : b;
}
export function sumQty(values: Iterable<Qty>): Qty {
  let total = 0;
  for (const value of values) total += value;
  return qty(total);
}
