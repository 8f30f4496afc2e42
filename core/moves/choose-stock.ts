import { fail, ok, type LotId, type Result, type SerialId } from '#core/base';
import { needsLot, type Tracking } from '#core/items';
import type { Condition } from '#core/stock';
import type { MovesError } from './errors.ts';

/** One balance of an item in a bin, with what its lot says. */
export type LyingStock = {
  readonly lot: LotId | null;
  readonly lotCode: string | null;
  readonly expires: string | null;
  readonly isExpired: boolean;
  readonly serial: SerialId | null;
  readonly serialCode: string | null;
  readonly condition: Condition;
};
/** What a hand said of the goods that it carries: bin and item by name, lot and serial where a label told them. */
export type SaidOfGoods = {
  readonly bin: string;
  readonly item: string;
  readonly tracking: Tracking;
  readonly lot: string | null;
  readonly serial: string | null;
};

/** Chooses which stock of a bin is meant: the lot or serial that was said, else the only one there is. Of several conditions the first in
 *  `there` is meant.
 *  Errors: nothing there; a lot or serial that is not there; several, of which none was said. */
export function chooseStock(there: readonly LyingStock[], said: SaidOfGoods): Result<LyingStock, MovesError> {
  const { bin, item, lot, serial } = said;
  if (there.length === 0) return fail({ code: 'moves.notThere', bin, item });
  const matching = there.filter((t) => (!lot || t.lotCode === lot) && (!serial || t.serialCode === serial));
  const [first] = matching;
  if (!first) return fail(serial ? { code: 'moves.unknownSerial', item, serial } : { code: 'moves.unknownLot', item, lot: lot ?? '' });
  if (said.tracking === 'serial' && matching.length > 1) return fail({ code: 'moves.whichSerial', bin, item });
  const lots = [...new Set(matching.map((t) => t.lotCode))];
  if (needsLot(said.tracking) && lots.length > 1) return fail({ code: 'moves.whichLot', bin, item, lots: lots.map((l) => l ?? 'none') });
  return ok(first);
}
