import { fail, formatQty, isWholeStep, ok, ONE, subQty, type BinId, type ItemId, type LotId, type Qty, type Result } from '#core/base';
import { needsSerialToShip, type Tracking } from '#core/items';
import { isExpired } from '#core/lots';
import type { PickingError } from './errors.ts';

/** What the hand scanned at a stop. A null lot means that none was scanned. */
export type PickCommand = {
  readonly bin: BinId;
  readonly item: ItemId;
  readonly lot: LotId | null;
  readonly serial: string | null;
  readonly qty: Qty;
  /** Why another lot than planned is taken all the same; null where none is meant to be. */
  readonly over: string | null;
};

/** The planned pick and what is known of it. Names are for the sentences. */
export type PickFacts = {
  readonly bin: BinId;
  readonly binAddress: string;
  readonly scannedBinAddress: string;
  readonly item: ItemId;
  readonly itemCode: string;
  readonly scannedItemCode: string;
  readonly lot: LotId | null;
  readonly lotCode: string | null;
  readonly scannedLotCode: string | null;
  readonly expires: string | null;
  /** Until when the lot that was scanned is good, where one was and it is known. */
  readonly scannedExpires: string | null;
  /** Whether the line names its lot, and the day on which its goods must still be good. */
  readonly lotNamed: boolean;
  readonly goodOn: string | null;
  /** The lots of the item that lie in this bin. */
  readonly lotsHere: readonly string[];
  readonly tracking: Tracking;
  readonly decimals: number;
  readonly planned: Qty;
  readonly picked: Qty;
  readonly today: string;
  /** The serials that the line names; null where any will do. */
  readonly serials: readonly string[] | null;
  /** The serials here that other lines named. */
  readonly kept: readonly string[];
};

/** Decides whether a pick is believed (G3–G5): right bin, right item, right lot, not more than was planned.
 *  Shape:  the quantity that is picked after this, out. A lot that was not scanned is taken to be the planned one, where no other
 *          lot lies in the bin that the hand could have taken instead. Another lot than planned is taken for a reason only (E4), never
 *          where the line names its lot, and never one that does not keep as long as its customer wants.
 *  Units:  thousandths of the base unit.
 *  Errors: says what is wrong and what was wanted. */
export function decidePick(command: PickCommand, facts: PickFacts): Result<{ qty: Qty }, PickingError> {
  if (command.bin !== facts.bin) return fail({ code: 'picking.wrongBin', scanned: facts.scannedBinAddress, wanted: facts.binAddress });
  if (command.item !== facts.item) return fail({ code: 'picking.wrongItem', scanned: facts.scannedItemCode, wanted: facts.itemCode });
  const isOther = command.lot !== null && command.lot !== facts.lot;
  if (isOther && (command.over === null || facts.lotNamed || facts.lot === null)) {
    return fail({ code: 'picking.wrongLot', item: facts.itemCode, scanned: facts.scannedLotCode ?? '', wanted: facts.lotCode ?? 'no lot' });
  }
  if (command.lot === null && facts.lotCode !== null && facts.lotsHere.length > 1)
    return fail({ code: 'picking.whichLot', item: facts.itemCode, bin: facts.binAddress, wanted: facts.lotCode, lots: facts.lotsHere });
  const [lot, expires] = isOther ? [facts.scannedLotCode, facts.scannedExpires] : [facts.lotCode, facts.expires];
  if (isExpired(expires, facts.today))
    return fail({ code: 'picking.expired', item: facts.itemCode, lot: lot ?? '', expired: expires ?? '' });
  if (isOther && facts.goodOn !== null && expires !== null && expires < facts.goodOn)
    return fail({ code: 'picking.tooLittleLife', item: facts.itemCode, lot: lot ?? '', expires, goodOn: facts.goodOn });
  if (command.qty <= 0) return fail({ code: 'picking.nothing', item: facts.itemCode });
  if (!isWholeStep(command.qty, facts.decimals))
    return fail({ code: 'picking.tooFine', item: facts.itemCode, asked: formatQty(command.qty), decimals: facts.decimals });
  const open = subQty(facts.planned, facts.picked);
  if (command.qty > open) return fail({ code: 'picking.tooMany', item: facts.itemCode, taken: command.qty / 1000, open: open / 1000 });
  if (needsSerialToShip(facts.tracking)) {
    if (!command.serial) return fail({ code: 'picking.serialWanted', item: facts.itemCode });
    if (command.qty !== ONE) return fail({ code: 'picking.serialIsOne', item: facts.itemCode });
    if (facts.serials !== null && !facts.serials.includes(command.serial))
      return fail({ code: 'picking.serialNotNamed', item: facts.itemCode, serial: command.serial, named: facts.serials });
    if (facts.kept.includes(command.serial)) return fail({ code: 'picking.serialKept', item: facts.itemCode, serial: command.serial });
  }
  return ok({ qty: command.qty });
}
