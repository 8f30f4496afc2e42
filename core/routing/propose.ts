import { measureBetween, type Cell, type WalkedFloor } from '#core/places';
import { firstCome, joinOrders, leastWalk, singly, type JoinOrder, type JoinProblem } from './join-orders.ts';

type Standing = { readonly zone: number; readonly address: string };
/** What is asked: orders with the bins at which one stops for them, by number; where carts begin and end; what a cart takes. */
export type ToPropose = {
  readonly orders: readonly {
    readonly id: number;
    readonly day: number;
    readonly bins: readonly number[];
    readonly grams: number;
    readonly millilitres: number;
  }[];
  readonly bins: readonly (Standing & { readonly id: number })[];
  readonly cart: Standing | null;
  readonly bench: Standing | null;
  readonly slots: number;
  readonly grams: number | null;
  readonly millilitres: number | null;
};
/** Rounds that somebody may make, the soonest due first, and what they are measured against. Metres; null where the plan cannot say. */
export type Proposal = {
  readonly rounds: readonly { readonly orders: readonly number[]; readonly metres: number | null; readonly stops: number }[];
  readonly metres: number | null;
  readonly firstCome: number | null;
  readonly singly: number | null;
  readonly least: number | null;
  /** Orders of which a bin stands nowhere on the plan, or where nobody gets: how far they are is not known. */
  readonly offPlan: readonly number[];
  readonly done: number;
};

// Farther than any floor: where nobody gets is walked last, and joined with what is there, too.
const NO_WAY = 1e6;
const DAYS_APART = 1;

/** Proposes rounds on the plan of a site (G1): yields the best so far until the search is done.
 *  Shape:  without a bench on the plan nothing can be measured; orders are then joined as they come. Equal input gives equal output. */
export function* proposeRounds(asked: ToPropose, floor: WalkedFloor): Generator<Proposal, void> {
  const bench = asked.bench && floor.placeOf(asked.bench);
  const cart = (asked.cart && floor.placeOf(asked.cart)) ?? bench;
  if (!bench || !cart) return yield unmeasured(asked);
  const cells: Cell[] = [cart, bench];
  const placeAt = new Map<string, number>();
  const placeOf = new Map<number, number>();
  for (const bin of asked.bins) {
    const cell = floor.placeOf(bin);
    if (!cell) continue;
    const key = `${cell.x} ${cell.y}`;
    if (!placeAt.has(key)) placeAt.set(key, cells.push(cell) - 1);
    placeOf.set(bin.id, placeAt.get(key) as number);
  }
  const walked = measureBetween(floor.grid, cells);
  const metres = (a: number, b: number): number => Math.min(NO_WAY, walked(a, b));
  const isReached = (p: number): boolean => Number.isFinite(walked(0, p)) && Number.isFinite(walked(p, 1));
  const offPlan: number[] = [];
  const orders = asked.orders.map((o): JoinOrder => {
    const places = o.bins.map((b) => placeOf.get(b)).filter((p): p is number => p !== undefined && isReached(p));
    if (places.length < o.bins.length) offPlan.push(o.id);
    return { id: o.id, places: [...new Set(places)], grams: o.grams, millilitres: o.millilitres, due: o.day };
  });
  const cartTakes = { slots: asked.slots, grams: asked.grams, millilitres: asked.millilitres };
  const problem: JoinProblem = { metres, from: 0, to: 1, orders, cart: cartTakes, daysApart: DAYS_APART };
  const against = { firstCome: firstCome(problem).metres, singly: singly(problem).metres, least: leastWalk(problem) };
  const binsOf = new Map(asked.orders.map((o) => [o.id, o.bins]));
  for (const best of everyStep(joinOrders(problem)))
    yield {
      rounds: best.rounds.map((r) => ({
        orders: r.orders,
        metres: r.metres,
        stops: new Set(r.orders.flatMap((id) => binsOf.get(id) ?? [])).size,
      })),
      metres: best.metres,
      ...against,
      offPlan,
      done: best.done,
    };
}

// A generator's steps with what it returns at the end.
function* everyStep<T>(steps: Generator<T, T>): Generator<T, void> {
  for (;;) {
    const step = steps.next();
    yield step.value;
    if (step.done) return;
  }
}

function unmeasured(asked: ToPropose): Proposal {
  const none: JoinProblem = {
    metres: () => 0,
    from: 0,
    to: 0,
    orders: asked.orders.map((o) => ({ id: o.id, places: [0], grams: o.grams, millilitres: o.millilitres, due: o.day })),
    cart: { slots: asked.slots, grams: asked.grams, millilitres: asked.millilitres },
    daysApart: DAYS_APART,
  };
  const binsOf = new Map(asked.orders.map((o) => [o.id, o.bins]));
  return {
    rounds: firstCome(none).rounds.map((r) => ({
      orders: r.orders,
      metres: null,
      stops: new Set(r.orders.flatMap((id) => binsOf.get(id) ?? [])).size,
    })),
    ...{ metres: null, firstCome: null, singly: null, least: null },
    offPlan: asked.orders.map((o) => o.id),
    done: 1,
  };
}
