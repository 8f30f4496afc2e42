import { addQty, minQty, qty, subQty, ZERO, type Qty } from '#core/base';
import { keyText, type StockKey } from './key.ts';
import type { Movement } from './movement.ts';
import type { PostingPlan } from './posting.ts';

/** Goods in a logistic unit, as they lie: `sscc` is the number on its label. */
export type InUnit = { readonly key: StockKey; readonly qty: Qty; readonly sscc: string };

/** The loose keys from which a plan takes more than lies loose, with what is missing there. Units: thousandths. */
export function missingLoose(plan: PostingPlan, there: ReadonlyMap<string, Qty>): readonly { readonly key: StockKey; readonly qty: Qty }[] {
  return plan.takes.flatMap(({ key, delta }) => {
    const missing = -delta - (there.get(keyText(key)) ?? ZERO);
    return key.unit === null && missing > 0 ? [{ key, qty: qty(missing) }] : [];
  });
}

/** Takes out of logistic units what is missing loose in their own bin: whoever takes three pieces from a pallet opened it, whether or not
 *  they said so. What was begun is finished first: the unit with the least of it, then the oldest.
 *  Shape:  movements from a unit to beside it, in the same bin; fewer than is missing where the units hold less.
 *  Law:    no bin, and no condition of goods in it, holds more or less by these. */
export function takeOutOfUnits(missing: readonly { readonly key: StockKey; readonly qty: Qty }[], units: readonly InUnit[]): Movement[] {
  const left = units.map((u) => ({ ...u }));
  return missing.flatMap(({ key, qty: wanted }) => {
    const same = left
      .filter((u) => u.qty > 0 && keyText({ ...u.key, unit: null }) === keyText(key))
      .sort((a, b) => a.qty - b.qty || (a.key.unit ?? 0) - (b.key.unit ?? 0));
    const movements: Movement[] = [];
    let taken = ZERO;
    for (const unit of same) {
      const take = minQty(unit.qty, subQty(wanted, taken));
      if (take <= 0) break;
      unit.qty = subQty(unit.qty, take);
      taken = addQty(taken, take);
      const { item, lot, serial, bin, condition } = key;
      movements.push({
        item,
        lot,
        serial,
        qty: take,
        from: { bin, unit: unit.key.unit, condition },
        to: { bin, unit: null, condition },
        reason: `Taken out of unit ${unit.sscc}`,
      });
    }
    return movements;
  });
}

/** Whether a movement only takes goods out of a unit, where it stands. Undoing what was taken does not close the unit again: it may have
 *  been carried on. */
export function isOpening({ from, to }: Pick<Movement, 'from' | 'to'>): boolean {
  return from.bin === to.bin && from.condition === to.condition && from.unit !== null && to.unit === null;
}

/** The units into which movements bring goods, from outside or with the unit itself: each stands in one bin, before and after. */
export function unitsFilled(movements: readonly Movement[]): readonly number[] {
  const filled = movements.filter(({ from, to }) => to.unit !== null && !(from.unit === to.unit && from.bin === to.bin));
  return [...new Set(filled.map((m) => m.to.unit as number))].sort((a, b) => a - b);
}
