import { fail, isWholeStep, ok, ONE, type Amount, type Qty, type Result } from '#core/base';
import { needsExpiry, needsLot, needsSerialOnArrival, type Tracking } from '#core/items';

export type AdjustError =
  | { code: 'stock.nothingToAdjust'; item: string }
  | { code: 'stock.adjustTooFine'; item: string; decimals: number }
  | { code: 'stock.adjustLot'; item: string }
  | { code: 'stock.adjustDate'; item: string; lot: string }
  | { code: 'stock.adjustDateDiffers'; item: string; lot: string; known: string; given: string }
  | { code: 'stock.adjustSerials'; item: string; qty: string; named: number }
  | { code: 'stock.adjustSerialTwice'; item: string; serial: string }
  | { code: 'stock.adjustSerialHere'; item: string; serial: string; bin: string }
  | { code: 'stock.adjustCost'; item: string }
  | { code: 'stock.adjustAhead'; day: string };

/** Stock that somebody adds or takes away by saying so (K1). `lot` and `serials` as on the labels; `cost` of one base unit. */
export type AdjustCommand = {
  readonly way: 'plus' | 'minus';
  readonly qty: Qty;
  readonly lot: string | null;
  readonly expires: string | null;
  readonly serials: readonly string[];
  readonly cost: Amount | null;
  /** The day to which it belongs in the books, `YYYY-MM-DD`. */
  readonly day: string;
};
export type AdjustFacts = {
  readonly itemCode: string;
  readonly decimals: number;
  readonly tracking: Tracking;
  readonly today: string;
  /** The lot as it is known: null where it is new. */
  readonly knownLot: { readonly expires: string | null } | null;
  /** In which bin a serial of the item lies, or null. */
  readonly placeOf: (serial: string) => string | null;
};
/** The pieces that are posted: one for each serial, else one in all. */
export type Adjusting = {
  readonly lot: string | null;
  readonly expires: string | null;
  readonly pieces: readonly { readonly serial: string | null; readonly qty: Qty }[];
};

/** Decides an adjustment.
 *  Errors: nothing or too fine a quantity; a lot, date or serial that the item's tracking asks for; serials that are not as many as the
 *          pieces, are named twice, or are here already where more are added; a date other than the lot's; a cost of what is taken away; a
 *          day that is to come. Whether there is enough of what is taken away is judged where it is posted. */
export function decideAdjustment(command: AdjustCommand, facts: AdjustFacts): Result<Adjusting, AdjustError> {
  const { itemCode: item, tracking } = facts;
  if (command.qty <= 0) return fail({ code: 'stock.nothingToAdjust', item });
  if (!isWholeStep(command.qty, facts.decimals)) return fail({ code: 'stock.adjustTooFine', item, decimals: facts.decimals });
  if (command.way === 'minus' && command.cost !== null) return fail({ code: 'stock.adjustCost', item });
  if (command.day > facts.today) return fail({ code: 'stock.adjustAhead', day: command.day });
  const lot = needsLot(tracking) ? command.lot : null;
  if (needsLot(tracking) && !lot) return fail({ code: 'stock.adjustLot', item });
  const { knownLot } = facts;
  if (lot && command.expires && knownLot?.expires && command.expires !== knownLot.expires)
    return fail({ code: 'stock.adjustDateDiffers', item, lot, known: knownLot.expires, given: command.expires });
  const expires = knownLot?.expires ?? command.expires;
  if (lot && needsExpiry(tracking) && command.way === 'plus' && !expires) return fail({ code: 'stock.adjustDate', item, lot });
  if (!needsSerialOnArrival(tracking)) return ok({ lot, expires: lot ? expires : null, pieces: [{ serial: null, qty: command.qty }] });
  const { serials } = command;
  if (serials.length * ONE !== command.qty)
    return fail({ code: 'stock.adjustSerials', item, qty: String(command.qty / ONE), named: serials.length });
  const twice = serials.find((s, n) => serials.indexOf(s) !== n);
  if (twice !== undefined) return fail({ code: 'stock.adjustSerialTwice', item, serial: twice });
  for (const serial of command.way === 'plus' ? serials : []) {
    const bin = facts.placeOf(serial);
    if (bin !== null) return fail({ code: 'stock.adjustSerialHere', item, serial, bin });
  }
  return ok({ lot: null, expires: null, pieces: serials.map((serial) => ({ serial, qty: ONE })) });
}
