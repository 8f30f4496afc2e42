import {
  fail,
  formatQty,
  minQty,
  ok,
  qty,
  subQty,
  sumQty,
  ZERO,
  type BinId,
  type ItemId,
  type LotId,
  type Qty,
  type Result,
  type SerialId,
  type SiteId,
  type UnitId,
} from '#core/base';
import type { StockError } from './errors.ts';
import type { Movement } from './movement.ts';

/** A hold that stands: it takes what is there and what comes until it is released. Null means any. */
export type StandingHold = {
  readonly id: number;
  readonly site: SiteId;
  readonly item: ItemId | null;
  readonly lot: LotId | null;
  readonly serial: SerialId | null;
  readonly bin: BinId | null;
};

/** Goods at a place, as a hold looks at them. */
export type HeldGoods = {
  readonly site: SiteId;
  readonly bin: BinId;
  readonly item: ItemId;
  readonly lot: LotId | null;
  readonly serial: SerialId | null;
};

/** The oldest hold that names these goods at this place, or null. */
export function coveringHold(holds: readonly StandingHold[], goods: HeldGoods): StandingHold | null {
  const covers = (h: StandingHold): boolean =>
    h.site === goods.site &&
    (h.item === null || h.item === goods.item) &&
    (h.lot === null || h.lot === goods.lot) &&
    (h.serial === null || h.serial === goods.serial) &&
    (h.bin === null || h.bin === goods.bin);
  return holds.filter(covers).sort((a, b) => a.id - b.id)[0] ?? null;
}

/** A place in which arriving goods are caught by a hold. Carts and benches are not: what is picked is in somebody's hands, and packing
 *  refuses it. */
export type CatchingPlace = { readonly site: SiteId; readonly catches: boolean };
export type Caught = { readonly hold: number; readonly line: number };

/** Lets holds that stand catch what comes (B10): goods that would lie sound under a hold lie held.
 *  Shape:  the movements as they will be posted, and which of them which hold caught; `line` counts from 0. */
export function applyStandingHolds(
  movements: readonly Movement[],
  holds: readonly StandingHold[],
  places: ReadonlyMap<BinId, CatchingPlace>,
): { movements: readonly Movement[]; caught: readonly Caught[] } {
  const caught: Caught[] = [];
  const posted = movements.map((movement, line): Movement => {
    const place = places.get(movement.to.bin);
    if (!place?.catches || movement.to.condition !== 'sound') return movement;
    const hold = coveringHold(holds, { ...movement, site: place.site, bin: movement.to.bin });
    if (!hold) return movement;
    caught.push({ hold: hold.id, line });
    return { ...movement, to: { ...movement.to, condition: 'held' } };
  });
  return { movements: posted, caught };
}

/** Held pieces of one thing: a line of a hold, or a balance in which held pieces lie. */
export type HeldPieces = {
  readonly item: ItemId;
  readonly lot: LotId | null;
  readonly serial: SerialId | null;
  readonly bin: BinId;
  readonly unit: UnitId | null;
  readonly qty: Qty;
};

/** Decides which pieces a hold takes (B10): so many of those that lie there, in their order; all of them where no number is given.
 *  Errors: `stock.nothingToHold` and `stock.binShort` where a number is given and fewer are there. A hold without a number stands for what
 *          comes, and may begin with nothing. */
export function decideHold(
  there: readonly HeldPieces[],
  asked: { readonly qty: Qty | null; readonly what: string },
): Result<readonly HeldPieces[], StockError> {
  const { qty: wanted, what } = asked;
  if (wanted === null) return ok(there);
  const total = sumQty(there.map((p) => p.qty));
  if (total === 0) return fail({ code: 'stock.nothingToHold', what });
  if (wanted > total || wanted <= 0)
    return fail({
      code: 'stock.binShort',
      line: 0,
      bin: what,
      item: what,
      lot: null,
      serial: null,
      asked: formatQty(wanted),
      there: formatQty(total),
    });
  let rest = wanted;
  const taken: HeldPieces[] = [];
  for (const pieces of there) {
    const take = minQty(rest, pieces.qty);
    if (take <= 0) break;
    rest = subQty(rest, take);
    taken.push({ ...pieces, qty: take });
  }
  return ok(taken);
}

export type Release = {
  /** What becomes sound, where it lies now. */
  readonly sound: readonly HeldPieces[];
  /** What another hold names too: it stays held, and that hold answers for it from now on. */
  readonly handed: readonly (HeldPieces & { readonly to: number })[];
  /** What this hold held and what is no longer there. */
  readonly gone: Qty;
};

/** Decides what a release sets free (B10). Held is held until every hold on it is released.
 *  Shape:  `claimed` is what other open holds hold of the same item, lot and serial: pieces that were lost meanwhile are taken to be this
 *          hold's, so that a release never frees what another hold still holds. Where it was held is looked at first, other bins after
 *          that. Units:  thousandths. */
export function decideRelease(
  lines: readonly HeldPieces[],
  there: readonly HeldPieces[],
  claimed: (pieces: HeldPieces) => Qty,
  standing: (pieces: HeldPieces) => number | null,
): Release {
  const left = there.map((pieces) => ({ pieces, qty: pieces.qty }));
  const sound: HeldPieces[] = [];
  const handed: (HeldPieces & { to: number })[] = [];
  let gone: number = ZERO;
  for (const line of lines) {
    const same = left.filter(
      (l) => l.pieces.item === line.item && l.pieces.lot === line.lot && l.pieces.serial === line.serial && l.qty > 0,
    );
    const total = same.reduce((sum, l) => sum + l.qty, 0);
    const mine = qty(Math.max(0, total - claimed(line)));
    let rest = minQty(line.qty, mine);
    gone += line.qty - rest;
    for (const l of same.sort((a, b) => Number(b.pieces.bin === line.bin) - Number(a.pieces.bin === line.bin))) {
      const take = minQty(rest, l.qty);
      if (take <= 0) continue;
      l.qty = subQty(l.qty, take);
      rest = subQty(rest, take);
      const pieces = { ...l.pieces, qty: take };
      const other = standing(pieces);
      if (other === null) sound.push(pieces);
      else handed.push({ ...pieces, to: other });
    }
  }
  return { sound, handed, gone: qty(gone) };
}
