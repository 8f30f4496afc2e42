import { sumQty, type BinId, type DocumentId, type ItemId, type LotId, type PersonId, type SerialId } from '#core/base';
import type { Movement } from '#core/stock';
import { qtyText } from '#contract/base';
import { announce, asQty, refuse, type Trx } from '#server/kernel';
import { findBin } from '#server/places';
import { lockOrders, reopenPacking } from '#server/orders';
import { post } from '#server/stock';
import { stateWord } from './put-back.ts';
import { dropPlans } from './store-picks.ts';
import { findRound, lockRoundAt, updateRoundPutDown } from './store-rounds.ts';
import { selectInHand, updatePutDown } from './store-in-hand.ts';

/** Ends a round: everything on its cart goes to the packing bin that was scanned (G10).
 *  Errors: picks still open, a bin that is no packing bin, a round that has ended.
 *  Locks:  the round, its orders, then what `post` locks. */
export async function putDownRound(
  trx: Trx,
  command: {
    round: number;
    bin: string;
    site: number;
    person: number;
    device?: string | null;
    at?: Date | null;
    /** It lies there already: what the round still wanted is not brought any more. */
    told: boolean;
  },
): Promise<{ bin: string; pieces: string }> {
  const round = await lockRoundAt(trx, command.round, command.site);
  if (round.state !== 'open') refuse({ code: 'picking.roundDone', number: round.number, state: stateWord(round.state) });
  if (!command.told && round.person_id !== null && round.person_id !== command.person)
    refuse({ code: 'picking.othersRound', number: round.number, person: round.person ?? '' });
  const bin = await findBin(trx, command.site, command.bin);
  if (bin.use !== 'packing') refuse({ code: 'picking.notAPackingBin', bin: bin.address });
  await lockOrders(trx, round.order_ids, command.site);
  if (command.told) await dropPlans(trx, { round: round.id });
  const { picks, done } = await findRound(trx, round.id);
  if (done < picks) refuse({ code: 'picking.stillOpen', number: round.number, open: picks - done });
  const onCart = await selectInHand(trx, { round: round.id });
  const movements = onCart.map((k): Movement => ({
    item: k.item_id as ItemId,
    lot: k.lot_id as LotId | null,
    serial: k.serial_id as SerialId | null,
    qty: asQty(k.qty),
    from: { bin: round.cart_bin as BinId, unit: null, condition: 'sound' },
    to: { bin: bin.id, unit: null, condition: 'sound' },
    reason: `Put down from ${round.number}`,
  }));
  // Said first, moved then: the ledger lets go of an order's goods only where they are said to be.
  await updatePutDown(
    trx,
    bin.id,
    onCart.map((k) => k.id),
  );
  await post(trx, {
    document: round.document_id as DocumentId,
    person: command.person as PersonId,
    device: command.device ?? null,
    ...(command.at ? { at: command.at } : {}),
    movements,
  });
  // What was packed before these came must be looked at again.
  await reopenPacking(trx, [...new Set(onCart.map((k) => k.order_id))]);
  await updateRoundPutDown(trx, round.id);
  announce(trx, 'picking', { round: round.id });
  announce(trx, 'shipping');
  announce(trx, 'orders');
  return { bin: bin.address, pieces: qtyText(sumQty(movements.map((m) => m.qty))) };
}
