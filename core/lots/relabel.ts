import { fail, formatQty, isWholeStep, ok, type Qty, type Result } from '#core/base';
import type { LotsError } from './errors.ts';

/** Goods of a lot in a bin that get a new lot number (E6): set apart, repacked. `expires` is null where the new lot keeps the date. */
export type RelabelCommand = { readonly lot: string; readonly expires: string | null; readonly qty: Qty };
/** What is known when it is decided. `known` is the new lot, where there is one of this number already. */
export type RelabelFacts = {
  readonly item: string;
  readonly decimals: number;
  readonly lot: string;
  readonly expires: string | null;
  readonly isHeld: boolean;
  readonly there: Qty;
  readonly bin: string;
  readonly known: { readonly expires: string | null } | null;
};

/** Decides whether goods of a lot become another lot.
 *  Shape:  the date of the new lot: what was said, else what is known of it, else that of the old one. A new number gives no goods a longer
 *          life unless somebody says so.
 *  Errors: goods that are held, for a hold answers for them by their number; the same number; more than lies there; a quantity that the
 *          item cannot have; another date than the lot is known to have. */
export function decideRelabel(command: RelabelCommand, facts: RelabelFacts): Result<{ readonly expires: string | null }, LotsError> {
  const { item } = facts;
  if (facts.isHeld) return fail({ code: 'lots.held', item, lot: facts.lot });
  if (command.lot === facts.lot) return fail({ code: 'lots.sameLot', item, lot: facts.lot });
  if (command.qty <= 0 || !isWholeStep(command.qty, facts.decimals)) return fail({ code: 'lots.badQuantity', item });
  if (command.qty > facts.there)
    return fail({ code: 'lots.notSoMany', item, lot: facts.lot, bin: facts.bin, there: formatQty(facts.there) });
  const expires = command.expires ?? facts.known?.expires ?? facts.expires;
  if (facts.known && facts.known.expires !== expires)
    return fail({ code: 'lots.otherDate', item, lot: command.lot, known: facts.known.expires, given: expires });
  return ok({ expires });
}
