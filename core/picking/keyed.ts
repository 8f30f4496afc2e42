import { fail, formatQty, ok, ONE, subQty, ZERO, type Qty, type Result } from '#core/base';
import { needsSerialToShip, type Tracking } from '#core/items';
import type { PickingError } from './errors.ts';
import type { TroubleKind } from './round-job.ts';

/** What somebody wrote on a pick sheet beside a pick. Thousandths of the base unit. `why`: where fewer were taken. */
export type KeyedPick = {
  readonly pick: number;
  readonly taken: Qty;
  readonly serials: readonly string[];
  readonly why: TroubleKind;
};
/** A pick that is open, and how much of it. */
export type OpenPick = {
  readonly pick: number;
  readonly item: string;
  readonly bin: string;
  readonly tracking: Tracking;
  readonly open: Qty;
};

/** Decides what a pick sheet that came back says (G12).
 *  Shape:  every open pick once, in the order of the sheet, with what is left of it.
 *  Errors: a pick left out, or twice; one that is not open; more than was to be taken; serials that are not as many as pieces, or twice. */
export function decideKeyed(
  lines: readonly KeyedPick[],
  open: readonly OpenPick[],
  round: string,
): Result<readonly (KeyedPick & { readonly left: Qty })[], PickingError> {
  const keyed: (KeyedPick & { left: Qty })[] = [];
  const strange = lines.find((l, n) => !open.some((o) => o.pick === l.pick) || lines.findIndex((m) => m.pick === l.pick) < n);
  if (strange) return fail({ code: 'picking.unknownPick', id: strange.pick });
  const seen = new Set<string>();
  for (const pick of open) {
    const line = lines.find((l) => l.pick === pick.pick);
    if (!line) return fail({ code: 'picking.notKeyed', item: pick.item, bin: pick.bin, number: round });
    const { taken, serials } = line;
    if (taken < ZERO || taken > pick.open)
      return fail({ code: 'picking.tooMany', item: pick.item, taken: taken / ONE, open: pick.open / ONE });
    if (needsSerialToShip(pick.tracking) && serials.length * ONE !== taken)
      return fail({ code: 'picking.serialsKeyed', item: pick.item, bin: pick.bin, serials: serials.length, pieces: formatQty(taken) });
    for (const serial of needsSerialToShip(pick.tracking) ? serials : []) {
      if (seen.has(`${pick.item}|${serial}`)) return fail({ code: 'picking.serialTwice', item: pick.item, serial });
      seen.add(`${pick.item}|${serial}`);
    }
    keyed.push({ ...line, serials: needsSerialToShip(pick.tracking) ? serials : [], left: subQty(pick.open, taken) });
  }
  return ok(keyed);
}
