import { addQty, minQty, subQty, ZERO, type LineId, type Qty } from '#core/base';

/** A line that wants stock: how much is still open and how much of that is promised already. */
export type PromiseWish = { readonly line: LineId; readonly item: number; readonly open: Qty; readonly promised: Qty };
export type PromiseGrant = { readonly line: LineId; readonly granted: Qty; readonly missing: Qty };

/** `whole`: every line in full or nothing at all. `free`: as much as there is. */
export type PromiseMode = 'whole' | 'free';

/** Shares free stock among lines in the order given.
 *  Shape:  `free` maps item to what is free now; one grant per wish, in order. `whole` grants nothing unless all can be met.
 *  Units:  thousandths. A grant never exceeds what is free after the grants before it. */
export function decidePromise(wishes: readonly PromiseWish[], free: ReadonlyMap<number, Qty>, mode: PromiseMode): readonly PromiseGrant[] {
  const left = new Map(free);
  const grants = wishes.map((wish): PromiseGrant => {
    const wanted = subQty(wish.open, wish.promised);
    const there = left.get(wish.item) ?? ZERO;
    const granted = wanted <= 0 || there <= 0 ? ZERO : minQty(wanted, there);
    left.set(wish.item, subQty(there, granted));
    return { line: wish.line, granted, missing: wanted <= 0 ? ZERO : subQty(wanted, granted) };
  });
  if (mode === 'whole' && grants.some((g) => g.missing > 0)) {
    return grants.map((g) => ({ line: g.line, granted: ZERO, missing: addQty(g.granted, g.missing) }));
  }
  return grants;
}

/** A promise that stands. `cuttable` is the part that is not yet in somebody's hands. Promises are given latest-due first. */
export type HeldPromise = { readonly line: LineId; readonly cuttable: Qty };

/** Decides which promises give way when stock was lost: the ones given first lose first, until the excess is gone.
 *  Shape:  order the promises latest-due first, so that the most urgent order keeps its goods.
 *  Units:  thousandths; `excess` is promised minus usable stock. */
export function decideCuts(excess: Qty, promises: readonly HeldPromise[]): readonly { line: LineId; cut: Qty }[] {
  let left = excess;
  const cuts: { line: LineId; cut: Qty }[] = [];
  for (const promise of promises) {
    if (left <= 0) break;
    const cut = minQty(left, promise.cuttable);
    if (cut <= 0) continue;
    cuts.push({ line: promise.line, cut });
    left = subQty(left, cut);
  }
  return cuts;
}
