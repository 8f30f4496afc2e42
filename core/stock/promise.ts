import { addQty, minQty, subQty, ZERO, type Branded, type ItemId, type LineId, type OrderId, type Qty, type SiteId } from '#core/base';

/** One item at one site: what is free is free there and nowhere else. */
export type Pool = Branded<string, 'Pool'>;

/** The pool of an item at a site. */
export function poolOf(item: ItemId, site: SiteId): Pool {
  return `${item}|${site}` as Pool;
}

/** A line that wants stock: how much is still open and how much of that is promised already. */
export type PromiseWish = {
  readonly line: LineId;
  readonly order: OrderId;
  readonly pool: Pool;
  readonly open: Qty;
  readonly promised: Qty;
  /** Its customer takes an order whole or not at all. */
  readonly isWhole?: boolean;
};
export type PromiseGrant = { readonly line: LineId; readonly granted: Qty; readonly missing: Qty };

/** `whole`: an order gets every line in full or nothing. `free`: as much as there is. */
export type PromiseMode = 'whole' | 'free';

/** Shares free stock among orders in the order given.
 *  Shape:  `free` maps a pool to what is free in it now; one grant per wish, in order. In `whole`, what an order does not get in full is
 *          left for the orders after it.
 *  Units:  thousandths. What is granted from a pool never exceeds what was free in it. */
export function decidePromise(wishes: readonly PromiseWish[], free: ReadonlyMap<Pool, Qty>, mode: PromiseMode): readonly PromiseGrant[] {
  const left = new Map(free);
  const orders = [...new Set(wishes.map((w) => w.order))];
  const grants = new Map<PromiseWish, PromiseGrant>();
  for (const order of orders) {
    const before = new Map(left);
    const own = wishes.filter((w) => w.order === order);
    const given = own.map((wish) => grantFrom(left, wish));
    const isWhole = given.every((g) => g.missing === 0);
    const needsWhole = mode === 'whole' || own.some((w) => w.isWhole === true);
    if (needsWhole && !isWhole) for (const [pool, quantity] of before) left.set(pool, quantity);
    for (const [i, wish] of own.entries()) {
      const { line, granted, missing } = given[i] as PromiseGrant;
      const kept = !needsWhole || isWhole;
      grants.set(wish, kept ? { line, granted, missing } : { line, granted: ZERO, missing: addQty(granted, missing) });
    }
  }
  return wishes.map((w) => grants.get(w) as PromiseGrant);
}

function grantFrom(left: Map<Pool, Qty>, wish: PromiseWish): PromiseGrant {
  const wanted = subQty(wish.open, wish.promised);
  const there = left.get(wish.pool) ?? ZERO;
  const granted = wanted <= 0 || there <= 0 ? ZERO : minQty(wanted, there);
  left.set(wish.pool, subQty(there, granted));
  return { line: wish.line, granted, missing: wanted <= 0 ? ZERO : subQty(wanted, granted) };
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
