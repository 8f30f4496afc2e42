import { formatQty, isWholeStep, ONE, type DocumentId, type PersonId, type Qty } from '#core/base';
import { chooseStock, type LyingStock } from '#core/moves';
import type { Condition } from '#core/stock';
import { makeDocument, query, refuse, together, valueOf, type Trx } from '#server/kernel';
import type { FoundItem } from '#server/items';
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
};

/** Moves goods from one bin to another (I1, I2), on a document of their own.
 *  Errors: goods that are not there, a lot or serial that must be said, expired goods on a shelf, and what `post` refuses.
 *  Locks:  what `post` locks. */
export async function moveGoods(trx: Trx, moving: Moving): Promise<{ document: number; number: string; qty: Qty; at: string }> {
  const { from, to, item } = moving;
  const kind = ['arrivals', 'unplaced'].includes(from.use) ? 'putAway' : 'move';
  const at = moving.at ?? undefined;
  const [there, document] = await together([
    selectLying(trx, moving),
    makeDocument(trx, kind, { site: moving.site, person: moving.person, ...(at ? { at } : {}) }),
  ]);
  const { lot, serial } = moving;
  const chosen = valueOf(chooseStock(there, { bin: from.address, item: item.code, tracking: item.tracking, lot, serial }));
  const qty = chosen.serial !== null ? ONE : moving.qty;
  if (!isWholeStep(qty, item.decimals)) refuse({ code: 'stock.tooFine', text: formatQty(qty), decimals: item.decimals });
  if (moving.override === undefined && to.pickable && chosen.isExpired)
    refuse({ code: 'moves.expiredToShelf', item: item.code, lot: chosen.lotCode ?? '', expired: chosen.expires ?? '', bin: to.address });
  const reason = moving.reason || (kind === 'putAway' ? 'Put away' : 'Moved');
  await post(trx, {
    document: document.id as DocumentId,
    person: moving.person as PersonId,
    device: moving.device,
    ...(at ? { at } : {}),
    overBinRules: moving.override !== undefined,
    movements: [
      {
        item: item.id,
        lot: chosen.lot,
        serial: chosen.serial,
        qty,
        from: { bin: from.id, unit: null, condition: chosen.condition },
        to: { bin: to.id, unit: null, condition: chosen.condition },
        reason: moving.override ? `${reason}, rule overridden: ${moving.override}` : reason,
      },
    ],
  });
  return { document: document.id, number: document.number, qty, at: document.at };
}

// What lies of the item in the bin, the soundest and what expires first before the rest.
const selectLying = (trx: Trx, { from, item, condition }: Moving): Promise<LyingStock[]> =>
  query<LyingStock>(
    trx,
    `SELECT lot_id AS lot, lot AS "lotCode", expires, expired AS "isExpired", serial_id AS serial, serial AS "serialCode", condition
     FROM stock_fact
     WHERE bin_id = ? AND item_id = ? AND qty > 0 AND (?::text IS NULL OR condition = ?)
     ORDER BY array_position(ARRAY['sound', 'inspect', 'held', 'failed'], condition), expires NULLS LAST, serial
     LIMIT 500`,
    [from.id, item.id, condition, condition],
  );
