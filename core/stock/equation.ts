import { addQty, subQty, ZERO, type Qty } from '#core/base';
import type { Condition } from './key.ts';

/** One balance as the equation needs it. `promisable` is the power of its zone; `expired` was reckoned from the lot's date. */
export type StockFact = {
  readonly qty: Qty;
  readonly condition: Condition;
  readonly promisable: boolean;
  readonly expired: boolean;
};

/** on hand = free + promised + held + to inspect + expired. All in thousandths of the base unit. */
export type Equation = {
  readonly onHand: Qty;
  readonly free: Qty;
  readonly promised: Qty;
  readonly held: Qty;
  readonly toInspect: Qty;
  readonly expired: Qty;
};

/** Reckons the stock equation of one item in one scope.
 *  Shape:  each balance falls into exactly one part: expired before to-inspect before held; held is stock under a hold, failed
 *          stock, and sound stock in a zone whose stock may not be promised.
 *  Units:  thousandths. `free` is negative only if more is promised than is there, which the ledger's door prevents. */
export function reckonEquation(facts: Iterable<StockFact>, promised: Qty): Equation {
  let onHand = ZERO;
  let usable = ZERO;
  let held = ZERO;
  let toInspect = ZERO;
  let expired = ZERO;
  for (const fact of facts) {
    onHand = addQty(onHand, fact.qty);
    if (fact.expired) expired = addQty(expired, fact.qty);
    else if (fact.condition === 'inspect') toInspect = addQty(toInspect, fact.qty);
    else if (fact.condition === 'sound' && fact.promisable) usable = addQty(usable, fact.qty);
    else held = addQty(held, fact.qty);
  }
  return { onHand, free: subQty(usable, promised), promised, held, toInspect, expired };
}
