import { qty, type Qty } from '#core/base';

/** A way in which an item comes: `units` is how much of the base unit one pack holds. */
export type Pack = { readonly name: string; readonly units: Qty };

/** How much of the base unit so many packs are. Exact.
 *  Units:  `packs` in thousandths of a pack, so half a case can be said; result in thousandths of the base unit, or null where
 *          the product is no whole number of thousandths. */
export function packToBase(packs: Qty, pack: Pack): Qty | null {
  // BigInt: a pallet of fine steps times many packs can pass 2^53 before the division.
  const product = BigInt(packs) * BigInt(pack.units);
  if (product % 1000n !== 0n) return null;
  return qty(Number(product / 1000n));
}

/** Splits a base quantity into whole packs and what is left over: 26 as 2 cases of 12 and 2.
 *  Units:  `count` is a plain whole number of packs; `rest` is in thousandths of the base unit. */
export function baseToPacks(base: Qty, pack: Pack): { count: number; rest: Qty } {
  const count = Math.floor(base / pack.units);
  return { count, rest: qty(base - count * pack.units) };
}
