import { fail, formatQty, isWholeStep, ok, subQty, type Qty, type Result } from '#core/base';
import type { ReceivingError } from './errors.ts';

/** What is known of the bin into which goods go that are being received. */
export type BinToFill = { readonly address: string; readonly use: string };

/** Decides how an entry goes into a bin (C10): whole, or so many of it, the rest staying as it was.
 *  Shape:  what stays of the entry where it was; 0 where all of it goes.
 *  Errors: a bin that is no shelf; goods that expired; more than the entry is; a quantity that the item cannot have; a part of what was
 *          looked at: what failed of it would be nobody's. */
export function decideWhereTo(
  qty: Qty,
  of: {
    readonly item: string;
    readonly decimals: number;
    readonly arrived: Qty;
    readonly isFound: boolean;
    readonly expired: boolean;
    readonly bin: BinToFill | null;
  },
): Result<{ readonly stays: Qty }, ReceivingError> {
  const { item, decimals, arrived, bin } = of;
  if (qty <= 0) return fail({ code: 'receiving.nothing', item });
  if (!isWholeStep(qty, decimals)) return fail({ code: 'receiving.tooFine', item, decimals });
  if (bin && bin.use !== 'shelf') return fail({ code: 'receiving.noPlaceFor', item, bin: bin.address });
  if (bin && of.expired) return fail({ code: 'receiving.expiredStays', item, bin: bin.address });
  if (qty > arrived) return fail({ code: 'receiving.moreThanEntry', item, asked: formatQty(qty), arrived: formatQty(arrived) });
  if (qty < arrived && of.isFound) return fail({ code: 'receiving.lookedAt', item });
  return ok({ stays: subQty(arrived, qty) });
}
