import { formatQty, isWholeStep, ONE, type DocumentId, type LotId, type PersonId, type Qty, type SerialId } from '#core/base';
import { needsLot } from '#core/items';
import type { Condition } from '#core/stock';
import { makeDocument, query, refuse, together, type Trx } from '#server/kernel';
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

type Chosen = {
  lot: number | null;
  lotCode: string | null;
  expires: string | null;
  isExpired: boolean;
  serial: number | null;
  condition: Condition;
};

/** Moves goods from one bin to another (I1, I2), on a document of their own.
 *  Errors: goods that are not there, a lot or serial that must be said, expired goods on a shelf, and what `post` refuses.
 *  Locks:  what `post` locks. */
export async function moveGoods(trx: Trx, moving: Moving): Promise<{ document: number; number: string; qty: Qty; at: string }> {
  const { from, to, item } = moving;
  const kind = ['arrivals', 'unplaced'].includes(from.use) ? 'putAway' : 'move';
  const at = moving.at ?? undefined;
  const [chosen, document] = await together([
    chooseStock(trx, moving),
    makeDocument(trx, kind, { site: moving.site, person: moving.person, ...(at ? { at } : {}) }),
  ]);
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
        lot: chosen.lot as LotId | null,
        serial: chosen.serial as SerialId | null,
        qty,
        from: { bin: from.id, unit: null, condition: chosen.condition },
        to: { bin: to.id, unit: null, condition: chosen.condition },
        reason: moving.override ? `${reason}, rule overridden: ${moving.override}` : reason,
      },
    ],
  });
  return { document: document.id, number: document.number, qty, at: document.at };
}

// Which stock in the bin is meant: the lot or serial that was said, else the only one there is.
async function chooseStock(trx: Trx, { from, item, lot, serial, condition }: Moving): Promise<Chosen> {
  const there = await query<{
    lot_id: number | null;
    lot: string | null;
    expires: string | null;
    expired: boolean;
    serial_id: number | null;
    serial: string | null;
    condition: Condition;
  }>(
    trx,
    `SELECT lot_id, lot, expires, expired, serial_id, serial, condition FROM stock_fact
     WHERE bin_id = ? AND item_id = ? AND qty > 0 AND (?::text IS NULL OR condition = ?)
     ORDER BY array_position(ARRAY['sound', 'inspect', 'held', 'failed'], condition), expires NULLS LAST, serial LIMIT 500`,
    [from.id, item.id, condition, condition],
  );
  if (there.length === 0) refuse({ code: 'moves.notThere', bin: from.address, item: item.code });
  const matching = there.filter((t) => (!lot || t.lot === lot) && (!serial || t.serial === serial));
  if (matching.length === 0) {
    return serial
      ? refuse({ code: 'moves.unknownSerial', item: item.code, serial })
      : refuse({ code: 'moves.unknownLot', item: item.code, lot: lot ?? '' });
  }
  if (item.tracking === 'serial' && matching.length > 1) refuse({ code: 'moves.whichSerial', bin: from.address, item: item.code });
  const lots = [...new Set(matching.map((t) => t.lot))];
  if (needsLot(item.tracking) && lots.length > 1)
    refuse({ code: 'moves.whichLot', bin: from.address, item: item.code, lots: lots.map((l) => l ?? 'none') });
  const first = matching[0] as (typeof matching)[number];
  return {
    lot: first.lot_id,
    lotCode: first.lot,
    expires: first.expires,
    isExpired: first.expired,
    serial: first.serial_id,
    condition: first.condition,
  };
}
