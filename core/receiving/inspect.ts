import { addQty, fail, formatQty, isWholeStep, minQty, ok, subQty, sumQty, ZERO, type BinId, type Qty, type Result } from '#core/base';
import type { ReceivingError } from './errors.ts';
import type { ReceivedStock } from './reverse.ts';

/** So many that failed for one reason. Thousandths of the base unit. */
export type FailedPart = { readonly reason: number; readonly qty: Qty };
/** What somebody found who looked at goods that arrived (C11): how many they looked at, and which of those failed. Thousandths of the
 *  base unit; less looked at than arrived is a sample. */
export type Finding = { readonly checked: Qty; readonly failed: readonly FailedPart[]; readonly note: string };

/** How many failed, whatever for. */
export const failedOf = (finding: Pick<Finding, 'failed'> | null): Qty => sumQty((finding?.failed ?? []).map((f) => f.qty));

/** Decides whether what was found can be true of an entry.
 *  Shape:  parts of one reason are one part, parts of nothing are none; the order of the reasons is kept.
 *  Errors: more looked at than arrived, more failed than was looked at, a quantity that the item cannot have,
 *          a reason that nobody knows. */
export function decideFinding(
  found: Finding,
  of: { readonly item: string; readonly decimals: number; readonly arrived: Qty; readonly isReason: (reason: number) => boolean },
): Result<Finding, ReceivingError> {
  const parts = new Map<number, Qty>();
  for (const { reason, qty } of found.failed) if (qty > 0) parts.set(reason, addQty(parts.get(reason) ?? ZERO, qty));
  const failed = [...parts].map(([reason, qty]) => ({ reason, qty }));
  const { item, decimals, arrived } = of;
  if (![found.checked, ...failed.map((f) => f.qty)].every((amount) => isWholeStep(amount, decimals)))
    return fail({ code: 'receiving.tooFine', item, decimals });
  if (failed.some((f) => !of.isReason(f.reason))) return fail({ code: 'receiving.unknownReason' });
  if (found.checked > arrived)
    return fail({ code: 'receiving.checkedTooMany', item, checked: formatQty(found.checked), arrived: formatQty(arrived) });
  const bad = failedOf({ failed });
  if (bad > found.checked)
    return fail({ code: 'receiving.failedTooMany', item, failed: formatQty(bad), checked: formatQty(found.checked) });
  return ok({ checked: found.checked, failed, note: found.note.trim() });
}

/** What an entry becomes where its quantity is said anew after it was looked at.
 *  Errors: fewer than failed already: the finding has to be said first. */
export function decideChangeOfFound(finding: Finding | null, item: string, qty: Qty): Result<null, ReceivingError> {
  const bad = failedOf(finding);
  return bad > qty ? fail({ code: 'receiving.failedTooMany', item, failed: formatQty(bad), checked: formatQty(qty) }) : ok(null);
}

/** A movement of goods between sound and failed: out of a bin of sound goods into quarantine as failed, or back. */
export type FailMove = { readonly bin: BinId; readonly qty: Qty };

/** Decides out of which bins goods go to quarantine that failed after they were received, or how many come back.
 *  Shape:  `apart`: taken where they lie, first from where they were received, then where most lie; `back`: how many are sound after all.
 *          One of the two is nothing.
 *  Errors: `receiving.notAllHere` where not so many lie free any more. */
export function decideSetApart(
  of: { readonly item: string; readonly before: Qty; readonly now: Qty; readonly receivedInto: BinId },
  lying: readonly ReceivedStock[],
): Result<{ readonly apart: readonly FailMove[]; readonly back: Qty }, ReceivingError> {
  if (of.now <= of.before) return ok({ apart: [], back: subQty(of.before, of.now) });
  let missing = subQty(of.now, of.before);
  const there = sumQty(lying.map((l) => l.qty));
  if (there < missing) return fail({ code: 'receiving.notAllHere', item: of.item, there: formatQty(there), asked: formatQty(missing) });
  const rank = (l: ReceivedStock): number => (l.bin === of.receivedInto ? 0 : 1);
  const apart: FailMove[] = [];
  for (const place of lying.toSorted((a, b) => rank(a) - rank(b) || b.qty - a.qty || a.bin - b.bin)) {
    if (missing <= 0) break;
    const qty = minQty(place.qty, missing);
    apart.push({ bin: place.bin, qty });
    missing = subQty(missing, qty);
  }
  return ok({ apart, back: ZERO });
}
