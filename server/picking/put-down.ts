import { sumQty, type BinId, type DocumentId, type ItemId, type LotId, type PersonId, type SerialId } from '#core/base';
import type { Movement } from '#core/stock';
import { qtyText } from '#contract/base';
import { announce, asQty, query, refuse, type Trx } from '#server/kernel';
import { findBin } from '#server/places';
import { post } from '#server/stock';
import { findRound } from './store.ts';

type OnCart = { id: number; item_id: number; lot_id: number | null; serial_id: number | null; qty: string };

/** Ends a round: everything on its cart goes to the packing bin that was scanned (G10).
 *  Errors: picks still open, a bin that is no packing bin, a round that has ended.
 *  Locks:  the round, then the balances. */
export async function putDownRound(
  trx: Trx,
  command: { round: number; bin: string; site: number; person: number; device?: string | null },
): Promise<{ bin: string; pieces: string }> {
  const round = await findRound(trx, command.round, { lock: true });
  if (round.state !== 'open') refuse({ code: 'picking.roundDone', number: round.number, state: 'put down' });
  if (round.person_id !== null && round.person_id !== command.person)
    refuse({ code: 'picking.othersRound', number: round.number, person: round.person ?? '' });
  const bin = await findBin(trx, command.site, command.bin);
  if (bin.use !== 'packing') refuse({ code: 'picking.notAPackingBin', bin: bin.address });
  if (round.done < round.picks) refuse({ code: 'picking.stillOpen', number: round.number, open: round.picks - round.done });
  const onCart = await query<OnCart>(
    trx,
    `SELECT k.id, k.item_id, k.lot_id, k.serial_id, k.qty FROM picked k JOIN round_pick p ON p.id = k.pick_id WHERE p.round_id = ? AND NOT k.put_down ORDER BY k.id`,
    [round.id],
  );
  const movements = onCart.map((k): Movement => ({
    item: k.item_id as ItemId,
    lot: k.lot_id as LotId | null,
    serial: k.serial_id as SerialId | null,
    qty: asQty(k.qty),
    from: { bin: round.cart_bin as BinId, unit: null, condition: 'sound' },
    to: { bin: bin.id, unit: null, condition: 'sound' },
    reason: `Put down from ${round.number}`,
  }));
  await post(trx, {
    document: round.document_id as DocumentId,
    person: command.person as PersonId,
    device: command.device ?? null,
    movements,
  });
  await query(trx, `UPDATE picked SET put_down = true, bin_id = ? WHERE id = ANY(?::int[])`, [bin.id, onCart.map((k) => k.id)]);
  await query(trx, `UPDATE round SET state = 'putDown', put_down_at = now() WHERE id = ?`, [round.id]);
  announce(trx, 'picking', { round: round.id });
  announce(trx, 'shipping');
  announce(trx, 'orders');
  return { bin: bin.address, pieces: qtyText(sumQty(movements.map((m) => m.qty))) };
}
