import { fail, formatQty, isWholeStep, ok, ONE, type Qty, type Result } from '#core/base';
import { isExpired } from '#core/lots';
import { needsExpiry, needsLot, needsSerialOnArrival, type Tracking } from '#core/items';
import type { ReceivingError } from './errors.ts';

/** What the hand scanned or keyed. `qty` in thousandths of the base unit. Lot dates are `YYYY-MM-DD`. */
export type EntryCommand = {
  readonly qty: Qty;
  readonly lot: string | null;
  readonly expires: string | null;
  readonly made: string | null;
  readonly serial: string | null;
  readonly takeAnyway: boolean;
};

/** No entry is of more: ten million of the base unit. */
export const MOST_AT_ONCE = 10_000_000_000 as Qty;

/** What is known when the entry is decided. `serialsHere` are those in stock or already scanned in an open delivery. */
export type EntryFacts = {
  readonly itemCode: string;
  readonly decimals: number;
  readonly tracking: Tracking;
  readonly ordered: boolean;
  /** A customer brings them back: what is not on the paper never left with it. */
  readonly isReturn: boolean;
  readonly today: string;
  readonly knownLotExpires: string | null;
  readonly serialPlace: string | null;
};

export type AcceptedEntry = EntryCommand & { readonly expired: boolean };

/** Decides whether one scan at the dock becomes an entry (C3, C5, C8, C9). Nothing here touches stock.
 *  Errors: not ordered (unless taken anyway), lot or date or serial missing, serial already here, a quantity the item cannot have, made
 *          after it expires, more than anybody unloads. An expired lot is accepted, marked: it can only go to quarantine. */
export function decideEntry(command: EntryCommand, facts: EntryFacts): Result<AcceptedEntry, ReceivingError> {
  const item = facts.itemCode;
  if (command.qty <= 0) return fail({ code: 'receiving.nothing', item });
  if (!isWholeStep(command.qty, facts.decimals)) return fail({ code: 'receiving.tooFine', item, decimals: facts.decimals });
  if (command.qty > MOST_AT_ONCE) return fail({ code: 'receiving.tooMany', item, qty: formatQty(command.qty) });
  if (!facts.ordered && !command.takeAnyway) return fail({ code: 'receiving.notOrdered', item, isReturn: facts.isReturn });
  if (needsLot(facts.tracking) && !command.lot) return fail({ code: 'receiving.lotWanted', item });
  const expires = command.expires ?? facts.knownLotExpires;
  if (needsExpiry(facts.tracking) && !expires) return fail({ code: 'receiving.dateWanted', item, lot: command.lot ?? '' });
  if (facts.knownLotExpires && command.expires && command.expires !== facts.knownLotExpires) {
    return fail({ code: 'receiving.dateDiffers', item, lot: command.lot ?? '', known: facts.knownLotExpires, given: command.expires });
  }
  if (needsLot(facts.tracking) && command.made && expires && command.made > expires)
    return fail({ code: 'receiving.madeAfterExpiry', item, lot: command.lot ?? '', made: command.made, expires });
  if (needsSerialOnArrival(facts.tracking)) {
    if (!command.serial) return fail({ code: 'receiving.serialWanted', item });
    if (command.qty !== ONE) return fail({ code: 'receiving.serialIsOne', item, serial: command.serial });
    if (facts.serialPlace !== null) return fail({ code: 'receiving.serialHere', item, serial: command.serial, place: facts.serialPlace });
  }
  return ok({
    ...command,
    lot: needsLot(facts.tracking) ? command.lot : null,
    expires: needsLot(facts.tracking) ? expires : null,
    made: needsLot(facts.tracking) ? command.made : null,
    serial: needsSerialOnArrival(facts.tracking) ? command.serial : null,
    expired: isExpired(expires, facts.today),
  });
}
