import { minQty, subQty, type Qty } from '#core/base';
import { announce, asQty, refuse, type Trx } from '#server/kernel';
import type { FoundBin } from '#server/places';
import { lockPick } from './pick.ts';
import { insertPickElsewhere, updatePlanned, type PickName } from './store-picks.ts';

/** Plans what is open of a pick in another bin, where it lies too, because somebody took it there (G4).
 *  Shape:  at most what is still open; the rest stays where it was planned. Why is kept with the pick, and said in the ledger.
 *  Errors: as a pick; `picking.binNamed` where the order names its bin; a bin that is not picked from, another lot than planned. Whether
 *          enough lies there is seen when it is taken.
 *  Locks:  the round and the order. */
export async function takeElsewhere(
  trx: Trx,
  command: {
    round: number;
    pick: PickName;
    site: number;
    person: number;
    told: boolean;
    bin: FoundBin;
    instead: { readonly key: string; readonly lot: number | null; readonly qty: Qty };
    reason: string;
  },
): Promise<void> {
  const { round, pick } = await lockPick(trx, command);
  const { bin, instead } = command;
  if (pick.asks.bin !== null) refuse({ code: 'picking.binNamed', order: pick.order, bin: pick.address, item: pick.code });
  // A device offers only what lies on a shelf, of the planned lot; what it is told else is not done.
  if (bin.use !== 'shelf' || !bin.pickable) refuse({ code: 'picking.notPickable', bin: bin.address, item: pick.code });
  if (instead.lot !== pick.lot_id)
    refuse({ code: 'picking.wrongLot', item: pick.code, scanned: 'another lot', wanted: pick.lot ?? 'no lot' });
  const qty = minQty(subQty(asQty(pick.qty), asQty(pick.picked)), instead.qty);
  if (qty <= 0) return;
  await updatePlanned(trx, pick.id, subQty(asQty(pick.qty), qty));
  await insertPickElsewhere(trx, pick, { ...instead, qty, bin: bin.id, why: command.reason });
  announce(trx, 'picking', { round: round.id });
}
