import {
  addQty,
  minQty,
  subQty,
  ZERO,
  type BinId,
  type Branded,
  type ItemId,
  type LineId,
  type LotId,
  type OrderId,
  type Qty,
  type SiteId,
} from '#core/base';
import { Allotment, type Asking, type Claim, type Lying } from './allot.ts';

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
  readonly asking: Asking;
  /** Its customer takes an order whole or not at all. */
  readonly isWhole?: boolean;
};
export type PromiseGrant = { readonly line: LineId; readonly granted: Qty; readonly missing: Qty };

/** `whole`: an order gets every line in full or nothing. `free`: as much as there is. */
export type PromiseMode = 'whole' | 'free';

/** A promise that stands: what of it is in nobody's hands yet, and where open rounds will fetch some of that. */
export type StandingPromise = Claim & {
  readonly planned: readonly { readonly bin: BinId; readonly lot: LotId | null; readonly qty: Qty }[];
};

/** What of one item at one site is free, and for whom. */
export class FreeGoods {
  readonly #stock: Allotment;
  readonly #walks: Allotment;

  /** Shape:  `lying` is usable and in nobody's hands; `askings`, what will be asked for. What a round is on its way to fetch is free for
   *          nobody else, as far as it lies there still. */
  constructor(lying: readonly Lying[], standing: readonly StandingPromise[], askings: readonly Asking[]) {
    const kinds = [...standing.map((s) => s.asking), ...askings];
    const onWalk = standing.flatMap((s) => s.planned.map((plan) => fetched(s.asking, plan)));
    this.#stock = new Allotment(lying, kinds);
    this.#walks = new Allotment(lying, [...kinds, ...onWalk]);
    for (const { asking, qty } of standing) this.#stock.give(asking, qty);
    const rest = standing.map((s) =>
      s.planned.reduce((open, plan) => subQty(open, this.#walks.give(fetched(s.asking, plan), minQty(open, plan.qty))), s.qty),
    );
    for (const [n, { asking }] of standing.entries()) this.#walks.give(asking, rest[n] ?? ZERO);
  }

  /** Gives as much of it as can be, up to `wanted`, and keeps it from then on; returns how much. */
  give(asking: Asking, wanted: Qty): Qty {
    return this.#stock.give(asking, this.#walks.give(asking, wanted));
  }

  /** Notes how it stands; what is returned makes it stand so again. */
  mark(): () => void {
    const back = [this.#stock.mark(), this.#walks.mark()];
    return () => back.forEach((undo) => undo());
  }
}

const fetched = (asking: Asking, plan: { readonly bin: BinId; readonly lot: LotId | null }): Asking => ({
  ...asking,
  bin: plan.bin,
  lot: plan.lot ?? asking.lot,
});

/** Shares free stock among orders in the order given.
 *  Shape:  `free` maps a pool to what is free in it now; one grant per wish, in order. In `whole`, what an order does not get in full is
 *          left for the orders after it.
 *  Units:  thousandths. What is granted from a pool never exceeds what was free in it, and each gets what it asks for: the lot, the bin,
 *          the serials that it names, the life that it wants left. */
export function decidePromise(
  wishes: readonly PromiseWish[],
  free: ReadonlyMap<Pool, FreeGoods>,
  mode: PromiseMode,
): readonly PromiseGrant[] {
  const byOrder = new Map<OrderId, PromiseWish[]>();
  for (const wish of wishes) {
    const own = byOrder.get(wish.order);
    if (own) own.push(wish);
    else byOrder.set(wish.order, [wish]);
  }
  const grants = new Map<PromiseWish, PromiseGrant>();
  for (const own of byOrder.values()) {
    const needsWhole = mode === 'whole' || own.some((w) => w.isWhole === true);
    const undo = needsWhole ? [...new Set(own.map((w) => w.pool))].map((pool) => free.get(pool)?.mark()) : [];
    const given = own.map((wish) => grantFrom(free.get(wish.pool), wish));
    const isKept = !needsWhole || given.every((g) => g.missing === 0);
    if (!isKept) for (const back of undo) back?.();
    for (const [i, wish] of own.entries()) {
      const { line, granted, missing } = given[i] as PromiseGrant;
      grants.set(wish, isKept ? { line, granted, missing } : { line, granted: ZERO, missing: addQty(granted, missing) });
    }
  }
  return wishes.map((w) => grants.get(w) as PromiseGrant);
}

function grantFrom(free: FreeGoods | undefined, wish: PromiseWish): PromiseGrant {
  const wanted = subQty(wish.open, wish.promised);
  if (wanted <= 0) return { line: wish.line, granted: ZERO, missing: ZERO };
  const granted = free?.give(wish.asking, wanted) ?? ZERO;
  return { line: wish.line, granted, missing: subQty(wanted, granted) };
}

/** A promise that stands, and how much of it is not in somebody's hands yet. */
export type HeldPromise = Claim & { readonly line: LineId };

/** Decides which promises give way when stock was lost: the most urgent keep theirs, and those after them what is left.
 *  Shape:  the promises, most urgent first; `lying` is usable and in nobody's hands.
 *  Units:  thousandths. */
export function decideCuts(lying: readonly Lying[], promises: readonly HeldPromise[]): readonly { line: LineId; cut: Qty }[] {
  const kept = new Allotment(
    lying,
    promises.map((p) => p.asking),
  );
  return promises.flatMap(({ line, asking, qty }) => {
    const cut = subQty(qty, kept.give(asking, qty));
    return cut > 0 ? [{ line, cut }] : [];
  });
}
