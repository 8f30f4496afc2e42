import { formatQty, isWholeStep, ONE, type DocumentId, type LotId, type PersonId, type Qty } from '#core/base';
import { decideRelabel } from '#core/lots';
import { chooseStock, type LyingStock } from '#core/moves';
import { OUTSIDE, type Condition } from '#core/stock';
import { dbQty, makeDocument, query, refuse, together, valueOf, type Db, type Trx } from '#server/kernel';
import { ensureLots, selectLot, type FoundItem } from '#server/items';
import { insertTie } from '#server/lots';
import type { FoundBin } from '#server/places';
import { post } from '#server/stock';

/** Goods that somebody carries from bin to bin. Lot and serial as on the label, null where none was said; a null condition is the soundest
 *  there. */
export type Moving = {
  readonly site: number;
  readonly person: number;
  readonly device: string | null;
  /** When it happened, where that is not now. */
  readonly at: Date | null;
  readonly from: FoundBin;
  readonly to: FoundBin;
  readonly item: FoundItem;
  readonly lot: string | null;
  readonly serial: string | null;
  readonly condition: Condition | null;
  readonly qty: Qty;
  readonly reason: string | undefined;
  /** Why a rule of the bin may be broken; only where a lead says so. */
  readonly override: string | undefined;
  /** The lot number that they get with the move (E6). */
  readonly newLot: string | null;
  /** The round on whose paper it stands; else it has one of its own. */
  readonly round?: { readonly document: number; readonly number: string };
};
// What lies there is somebody's: for an order, or on a round.
const HANDS = ['cart', 'packing'];

/** Moves goods from one bin to another (I1, I2), on a document of their own.
 *  Errors: goods that are not there, a lot or serial that must be said, expired goods on a shelf, and what `post` refuses.
 *          of a new lot number, what `decideRelabel` refuses.
 *  Locks:  the lot that it makes, then what `post` locks. */
export async function moveGoods(
  trx: Trx,
  moving: Moving,
): Promise<{ document: number; number: string; qty: Qty; at: string; movements: readonly number[] }> {
  const { from, to, item, round } = moving;
  if (!round && HANDS.includes(to.use)) refuse({ code: 'stock.passingThrough', bin: to.address, item: item.code });
  const kind = ['arrivals', 'unplaced'].includes(from.use) ? 'putAway' : 'move';
  const at = moving.at ?? undefined;
  const [there, document] = await together([
    selectLying(trx, { bin: from.id, item: item.id, condition: moving.condition }),
    round
      ? { id: round.document, number: round.number, at: (at ?? new Date()).toISOString() }
      : makeDocument(trx, kind, { site: moving.site, person: moving.person, ...(at ? { at } : {}) }),
  ]);
  const { lot, serial } = moving;
  const chosen = valueOf(chooseStock(there, { bin: from.address, item: item.code, tracking: item.tracking, lot, serial }));
  const qty = chosen.serial !== null ? ONE : moving.qty;
  if (!isWholeStep(qty, item.decimals)) refuse({ code: 'stock.tooFine', text: formatQty(qty), decimals: item.decimals });
  if (moving.override === undefined && to.pickable && chosen.isExpired)
    refuse({ code: 'moves.expiredToShelf', item: item.code, lot: chosen.lotCode ?? '', expired: chosen.expires ?? '', bin: to.address });
  const reason = moving.reason || (kind === 'putAway' ? 'Put away' : 'Moved');
  const goods = {
    item: item.id,
    serial: chosen.serial,
    qty,
    reason: moving.override ? `${reason}, rule overridden: ${moving.override}` : reason,
  };
  const here = { bin: from.id, unit: null, condition: chosen.condition };
  const target = { bin: to.id, unit: null, condition: chosen.condition };
  const newLot = moving.newLot === null ? null : await renamed(trx, moving, chosen, qty, moving.newLot);
  const between = { bin: OUTSIDE.assembly, unit: null, condition: chosen.condition };
  const movements = await post(trx, {
    document: document.id as DocumentId,
    person: moving.person as PersonId,
    device: moving.device,
    ...(at ? { at } : {}),
    overBinRules: moving.override !== undefined,
    movements:
      newLot === null
        ? [{ ...goods, lot: chosen.lot, from: here, to: target }]
        : [
            { ...goods, lot: chosen.lot, from: here, to: between },
            { ...goods, lot: newLot, from: between, to: target },
          ],
  });
  if (newLot !== null && chosen.lot !== null)
    await insertTie(trx, { document: document.id, from: chosen.lot, to: newLot, qty: dbQty(qty) });
  return { document: document.id, number: document.number, qty, at: document.at, movements };
}

// The lot that goods become on their way: made where nobody knows it, with the date of the old one.
async function renamed(trx: Trx, { from, item }: Moving, chosen: LyingStock, qty: Qty, lot: string): Promise<LotId> {
  if (chosen.lot === null) refuse({ code: 'lots.noLots', item: item.code });
  const known = (await selectLot(trx, item.id, lot)) ?? null;
  const { expires } = valueOf(
    decideRelabel(
      { lot, expires: null, qty },
      {
        item: item.code,
        decimals: item.decimals,
        lot: chosen.lotCode ?? '',
        expires: chosen.expires,
        isHeld: chosen.condition === 'held',
        // Whether so many lie there is judged where they are posted.
        there: qty,
        bin: from.address,
        known,
      },
    ),
  );
  return (await ensureLots(trx, [{ item: item.id, code: lot, expires }])).get(`${item.id}|${lot}`) as LotId;
}

/** What lies of an item in a bin, the soundest and what expires first before the rest; null is any condition. */
export const selectLying = (
  db: Pick<Db, 'raw'>,
  { bin, item, condition }: { bin: number; item: number; condition: Condition | null },
): Promise<LyingStock[]> =>
  query<LyingStock>(
    db,
    `SELECT lot_id AS lot, lot AS "lotCode", expires, expired AS "isExpired", serial_id AS serial, serial AS "serialCode", condition
     FROM stock_fact
     WHERE bin_id = ? AND item_id = ? AND qty > 0 AND (?::text IS NULL OR condition = ?)
     ORDER BY array_position(ARRAY['sound', 'inspect', 'held', 'failed'], condition), expires NULLS LAST, serial
     LIMIT 500`,
    [bin, item, condition, condition],
  );
