import { sumQty, type BinId, type DocumentId, type ItemId, type PersonId, type Qty } from '#core/base';
import type { Movement } from '#core/stock';
import { lockRows, makeDocument, refuse, type Trx } from '#server/kernel';
import type { FoundBin } from '#server/places';
import { lockStock, post, selectUnit, selectUnitContent } from '#server/stock';

// What lies there is somebody's for an order.
const HANDS = ['cart', 'packing', 'transit'];

export type MovingUnit = {
  readonly site: number;
  readonly person: number;
  readonly device: string | null;
  /** When it happened, where that is not now. */
  readonly at: Date | null;
  readonly sscc: string;
  readonly to: FoundBin;
  readonly reason: string | undefined;
  /** Why a rule of the bin may be broken; only where a lead says so. */
  readonly override: string | undefined;
  /** The round on whose paper it stands; else it has one of its own. */
  readonly round?: { readonly document: number; readonly number: string };
};

/** Moves a logistic unit with all that is in it (C15, I1), from wherever it stands: who has it in their hands knows better than the record.
 *  Errors: a unit that never came, holds nothing, or stands at another site or in that bin already; expired goods on a shelf; and what
 *          `post` refuses.
 *  Locks:  the unit, then what `post` locks. */
export async function moveUnit(
  trx: Trx,
  moving: MovingUnit,
): Promise<{ document: number; number: string; from: string; qty: Qty; lines: number; at: string; movements: readonly number[] }> {
  const { sscc, to, round } = moving;
  const unit = (await selectUnit(trx, sscc)) ?? refuse({ code: 'stock.unknownUnit', sscc });
  await lockRows(trx, 'unit', [unit.id]);
  const before = await selectUnitContent(trx, unit.id);
  const [first] = before;
  if (!first) return refuse({ code: 'stock.unitEmpty', sscc });
  if (first.site !== moving.site) refuse({ code: 'people.otherSite', what: `Unit ${sscc}`, site: first.siteName });
  if (HANDS.includes(to.use)) refuse({ code: 'stock.passingThrough', bin: to.address, item: `unit ${sscc}` });
  await lockStock(
    trx,
    [...new Set(before.map((c) => c.item))].map((item) => ({ item, site: moving.site })),
  );
  // Somebody may have taken pieces out of it since; nothing can have come in.
  const content = await selectUnitContent(trx, unit.id);
  if (content.length === 0) return refuse({ code: 'stock.unitEmpty', sscc });
  if (first.bin === to.id) return refuse({ code: 'moves.sameBin', what: `Unit ${sscc}`, bin: to.address });
  const expired = content.find((c) => c.expired);
  if (moving.override === undefined && to.pickable && expired)
    refuse({ code: 'moves.expiredToShelf', item: expired.code, lot: expired.lot ?? '', expired: expired.expires ?? '', bin: to.address });
  const kind = ['arrivals', 'unplaced'].includes(first.use) ? 'putAway' : 'move';
  const at = moving.at ?? undefined;
  const document = round
    ? { id: round.document, number: round.number, at: (at ?? new Date()).toISOString() }
    : await makeDocument(trx, kind, { site: moving.site, person: moving.person, ...(at ? { at } : {}) });
  const reason = `${moving.reason || (kind === 'putAway' ? 'Put away' : 'Moved')} as unit ${sscc}`;
  const movements = await post(trx, {
    document: document.id as DocumentId,
    person: moving.person as PersonId,
    device: moving.device,
    ...(at ? { at } : {}),
    overBinRules: moving.override !== undefined,
    movements: content.map((c): Movement => ({
      item: c.item as ItemId,
      lot: c.lotId,
      serial: c.serialId,
      qty: c.qty,
      from: { bin: c.bin as BinId, unit: unit.id, condition: c.condition },
      to: { bin: to.id, unit: unit.id, condition: c.condition },
      reason: moving.override ? `${reason}, rule overridden: ${moving.override}` : reason,
    })),
  });
  const qty = sumQty(content.map((c) => c.qty));
  return { document: document.id, number: document.number, from: first.address, qty, lines: content.length, at: document.at, movements };
}
