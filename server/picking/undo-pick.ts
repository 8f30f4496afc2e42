import { type BinId, type DocumentId, type ItemId, type LotId, type PersonId, type SerialId, type UnitId } from '#core/base';
import { announce, asQty, lockRows, query, refuse, type Trx } from '#server/kernel';
import { lockOrders } from '#server/orders';
import { lockStock, post, selectUnitContent } from '#server/stock';
import { stateWord } from './put-back.ts';
import { lockRoundAt } from './store-rounds.ts';
import { updateReturned } from './store-in-hand.ts';

type TakenRow = {
  id: number;
  pick_id: number;
  order_id: number;
  item_id: ItemId;
  lot_id: LotId | null;
  serial_id: SerialId | null;
  qty: string;
  bin_id: BinId;
  from_bin: BinId;
  unit_id: UnitId | null;
};

/** Takes back what was taken by mistake: it goes from the cart into the bin from which it came, and is still to be picked.
 *  Errors: a round that has ended; goods that are not on its cart any more.
 *  Locks:  the round, the order, the unit, then what `post` locks. */
export async function undoPick(
  trx: Trx,
  command: { round: number; taken: string; site: number; person: number; device: string | null; at: Date | null },
): Promise<void> {
  const round = await lockRoundAt(trx, command.round, command.site);
  if (round.state !== 'open') refuse({ code: 'picking.roundDone', number: round.number, state: stateWord(round.state) });
  const find = (): Promise<TakenRow[]> =>
    query<TakenRow>(
      trx,
      `SELECT k.id, k.pick_id, l.order_id, k.item_id, k.lot_id, k.serial_id, k.qty, k.bin_id, p.bin_id AS from_bin,
         (SELECT h.unit_id FROM picked h WHERE h.id = k.id) AS unit_id
       FROM in_hand k JOIN round_pick p ON p.id = k.pick_id JOIN order_line l ON l.id = k.line_id
       WHERE k.key = ?::uuid AND p.round_id = ? AND NOT k.put_down`,
      [command.taken, round.id],
    );
  const [named] = await find();
  if (!named) return refuse({ code: 'picking.unknownPick', id: 0 });
  await lockOrders(trx, [named.order_id], command.site);
  if (named.unit_id !== null) await lockRows(trx, 'unit', [named.unit_id]);
  await lockStock(trx, [{ item: named.item_id, site: command.site }]);
  const [taken] = await find();
  if (!taken) return refuse({ code: 'picking.unknownPick', id: 0 });
  // First they are nobody's, then they move: the ledger does not let go of goods that are an order's.
  await updateReturned(trx, taken);
  await post(trx, {
    document: round.document_id as DocumentId,
    person: command.person as PersonId,
    device: command.device,
    ...(command.at ? { at: command.at } : {}),
    movements: [
      {
        item: taken.item_id,
        lot: taken.lot_id,
        serial: taken.serial_id,
        qty: asQty(taken.qty),
        from: { bin: taken.bin_id, unit: null, condition: 'sound' },
        to: { bin: taken.from_bin, unit: await unitToReturnTo(trx, taken), condition: 'sound' },
        reason: `Put back where it lay: ${round.number}`,
      },
    ],
    overBinRules: true,
  });
  announce(trx, 'picking', { round: round.id });
}

// Into the pallet from which it came, unless that stands elsewhere by now.
async function unitToReturnTo(trx: Trx, taken: TakenRow): Promise<UnitId | null> {
  if (taken.unit_id === null) return null;
  const content = await selectUnitContent(trx, taken.unit_id);
  return content.every((c) => c.bin === taken.from_bin) ? taken.unit_id : null;
}
