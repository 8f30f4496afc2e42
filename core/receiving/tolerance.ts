import type { Qty } from '#core/base';

/** How much more or less than was ordered is agreed with a supplier, in hundredths of a percent of what was expected: 250 is 2.5 %. */
export type Tolerance = { readonly over: number; readonly short: number };
export const NO_TOLERANCE: Tolerance = { over: 0, short: 0 };
const WHOLE = 10_000;

/** Whether what arrived is as good as what was expected (C13): not more over it, and not more short of it, than is agreed. Nothing is never
 *  enough. Exact: whole numbers only. */
export function isAgreed(expected: Qty, arrived: Qty, { over, short }: Tolerance): boolean {
  if (arrived <= 0) return expected <= 0;
  return arrived * WHOLE <= expected * (WHOLE + over) && arrived * WHOLE >= expected * (WHOLE - short);
}
