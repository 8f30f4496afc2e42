import { addQty, maxQty, minQty, subQty, sumQty, ZERO, type BinId, type ItemId, type Qty } from '#core/base';

/** A pick face of an item (a home bin where it is picked). Thousandths of the base unit. */
export type Face = {
  readonly item: ItemId;
  readonly bin: BinId;
  /** What can be picked there, less what open rounds are on their way for. */
  readonly there: Qty;
  /** What open refill and put-away rounds bring. */
  readonly coming: Qty;
  readonly min: Qty | null;
  readonly max: Qty | null;
};
/** Why a face is filled: less lies there than its minimum, or the orders that no round serves yet want more than lies on the faces. */
export type RefillWhy = 'belowMin' | 'tonight';
export const REFILL_WHY: Readonly<Record<RefillWhy, string>> = {
  belowMin: 'below its minimum',
  tonight: 'tonight’s orders need it',
};
export type RefillWant = { readonly face: Face; readonly qty: Qty; readonly why: RefillWhy };

/** Decides which pick faces are filled from reserve, and up to what (I5).
 *  Shape:  `needed`: what is promised of each item and on no round yet; `packs`: its packs of more than one unit, by item. A face below its
 *          minimum, or one whose item is needed beyond what lies on all its faces, is filled to its maximum; without one, to its minimum
 *          or to what is needed, whichever is more. Whole packs are brought where the face still gets what it must have; never more than
 *          its maximum. Faces of one item share its need in their order.
 *  Units:  thousandths of the base unit. */
export function decideRefill(
  faces: readonly Face[],
  needed: ReadonlyMap<ItemId, Qty>,
  packs: ReadonlyMap<ItemId, readonly Qty[]>,
): readonly RefillWant[] {
  const wants: RefillWant[] = [];
  for (const item of new Set(faces.map((f) => f.item))) {
    const own = faces.filter((f) => f.item === item);
    let lacking = maxQty(ZERO, subQty(needed.get(item) ?? ZERO, sumQty(own.map(stockOf))));
    for (const face of own) {
      const has = stockOf(face);
      const isLow = face.min !== null && has < face.min;
      if (!isLow && lacking === 0) continue;
      const full = face.max ?? maxQty(face.min ?? ZERO, addQty(has, lacking));
      const room = maxQty(ZERO, subQty(full, has));
      if (room === 0) continue;
      // What it must have at least: the minimum, and its part of what is needed.
      const must = minQty(room, maxQty(subQty(face.min ?? ZERO, has), lacking));
      const qty = inWholePacks(room, must, packs.get(item) ?? []);
      wants.push({ face, qty, why: isLow ? 'belowMin' : 'tonight' });
      lacking = maxQty(ZERO, subQty(lacking, qty));
    }
  }
  return wants;
}

const stockOf = (face: Face): Qty => addQty(face.there, face.coming);

// The largest pack of which so many as fit are still enough; else piece by piece.
function inWholePacks(room: Qty, must: Qty, packs: readonly Qty[]): Qty {
  for (const pack of packs.toSorted((a, b) => b - a)) {
    const whole = (room - (room % pack)) as Qty;
    if (whole > 0 && whole >= must) return whole;
  }
  return room;
}
