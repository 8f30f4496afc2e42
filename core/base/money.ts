import type { Branded } from './brand.ts';
import type { Qty } from './quantity.ts';

/** An amount of money: a whole number of ten-thousandths of the currency unit, so that a cost of a fraction of a cent is exact. */
export type Amount = Branded<bigint, 'Amount'>;

const PLACES = 4;
export const NO_AMOUNT = 0n as Amount;

/** Reads a decimal text such as `12.50` or PostgreSQL's `1.0050`.
 *  Errors: throws on anything else: whoever reads what people typed asks `readAmount` first. */
export function parseAmount(text: string): Amount {
  const match = /^(-?)(\d+)(?:\.(\d+))?$/.exec(text);
  if (!match) throw new Error(`Not an amount: ${text}`);
  const [, sign, whole = '0', fraction = ''] = match;
  const steps = divideRounded(BigInt(whole + fraction.padEnd(PLACES, '0')), 10n ** BigInt(Math.max(0, fraction.length - PLACES)));
  return (sign ? -steps : steps) as Amount;
}

/** Writes an amount with so many decimals, half away from zero, as PostgreSQL's `round(numeric)` does: 1.005 → `1.01`. In floating point it
 *  would be `1.00`, and the screen would say another sum than the sheet. */
export function formatAmount(amount: Amount, decimals = 2): string {
  const steps = divideRounded(amount, 10n ** BigInt(PLACES - decimals));
  const digits = String(steps < 0n ? -steps : steps).padStart(decimals + 1, '0');
  const text = decimals === 0 ? digits : `${digits.slice(0, -decimals)}.${digits.slice(-decimals)}`;
  return steps < 0n ? `-${text}` : text;
}

/** A decimal text with so many decimals, exactly. */
export function roundAmount(text: string, decimals = 2): string {
  return formatAmount(parseAmount(text), decimals);
}

/** An amount with its currency, as people write it: `€12.50`.
 *  Shape:  `text` as `parseAmount` reads it; `currency` a code of ISO 4217. */
export function moneyText(text: string, currency: string, decimals = 2): string {
  const style = { style: 'currency', currency, currencyDisplay: 'narrowSymbol' } as const;
  const format = new Intl.NumberFormat('en-GB', { ...style, minimumFractionDigits: decimals, maximumFractionDigits: decimals });
  // As a text the amount is exact, however large; what is known of `format` to the compiler is older than that.
  return format.format(roundAmount(text, decimals) as unknown as number);
}

/** What a quantity is worth at an amount per base unit, rounded to cents as `round(qty * cost, 2)` is. */
export function worthOf(cost: Amount, quantity: Qty): Amount {
  return (divideRounded(cost * BigInt(quantity), 100_000n) * 100n) as Amount;
}

/** The amount of one base unit of a pack that costs so much, to four decimals. */
export function shareOf(cost: Amount, units: Qty): Amount {
  return divideRounded(cost * 1000n, BigInt(units)) as Amount;
}

export function sumAmounts(amounts: Iterable<Amount>): Amount {
  let sum = 0n;
  for (const amount of amounts) sum += amount;
  return sum as Amount;
}

// Half away from zero; the divisor is positive.
function divideRounded(dividend: bigint, divisor: bigint): bigint {
  const half = divisor / 2n;
  const size = dividend < 0n ? -dividend : dividend;
  const rounded = (size + half) / divisor;
  return dividend < 0n ? -rounded : rounded;
}
