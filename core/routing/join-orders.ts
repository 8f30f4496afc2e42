import { seeded } from '#core/base';
import type { Metres } from '#core/places';
import { shortestWay } from './shortest-way.ts';

/** An order that may be walked with others. `places`: where one must stop for it, as numbers that `metres` knows; sizes in grams and
 *  millilitres, null where somebody has not said them; `due` as the number of a day. */
export type JoinOrder = {
  readonly id: number;
  readonly places: readonly number[];
  readonly grams: number | null;
  readonly millilitres: number | null;
  readonly due: number;
};
/** What a cart takes: so many orders, each in a slot of its own, and so much in all; null is no limit. */
export type JoinCart = { readonly slots: number; readonly grams: number | null; readonly millilitres: number | null };
export type JoinProblem = {
  readonly metres: Metres;
  /** Where carts begin, and where they end. */
  readonly from: number;
  readonly to: number;
  readonly orders: readonly JoinOrder[];
  readonly cart: JoinCart;
  /** Orders that are due more days apart than this are not walked together: the later would push the sooner out of today. */
  readonly daysApart: number;
};
export type JoinedRound = { readonly orders: readonly number[]; readonly places: readonly number[]; readonly metres: number };
export type Joined = { readonly rounds: readonly JoinedRound[]; readonly metres: number; readonly done: number };

type Round = { orders: JoinOrder[]; tour: number[]; length: number };
type Tried = { tour: number[]; length: number };

const NEAR_ROUNDS = 6;
const MOVES_PER_ORDER = 12;
const LEAST_MOVES = 8_000;
const YIELD_EVERY = 500;

/** Joins orders into rounds so that the whole walk is short (G1, G2), within what a cart takes and the days on which they are due.
 *  Shape:  every order is in exactly one round; the soonest due first. What is yielded is the best so far, with the part of the search
 *          that is done (0 to 1), so that somebody may stop there; the last is what is returned. An order that no cart takes is a round by
 *          itself. Equal input gives equal output.
 *  Units:  metres.
 *  Source: rounds are begun by the most urgent order and filled by what lies nearest to them (seed algorithms: Gibson and Sharp, “Order
 *          batching procedures”, 1992); then orders are moved and exchanged between rounds while that shortens the walk (local search:
 *          Henn, Koch, Doerner, Strauss and Wäscher, 2010), and each round is walked by `shortestWay`. */
export function* joinOrders(asked: JoinProblem, effort = 1): Generator<Joined, Joined> {
  const { problem, names } = numbered(asked);
  const outside = (rounds: readonly Round[], done: number): Joined => {
    const said = joinedOf(rounds, done);
    return { ...said, rounds: said.rounds.map((r) => ({ ...r, places: r.places.map((p) => names[p] as number) })) };
  };
  const near = new Map<number, Round[]>();
  const rounds = fill(problem, near);
  let best = outside(rounds, 0);
  yield best;
  const random = seeded(problem.orders.length);
  const moves = rounds.length < 2 ? 0 : Math.max(LEAST_MOVES, problem.orders.length * MOVES_PER_ORDER) * effort;
  const roundOf = new Map(rounds.flatMap((r) => r.orders.map((o) => [o.id, r] as const)));
  const isSmall = problem.orders.length <= 200;
  // Where few orders are joined there is time to try what is longer at first (simulated annealing; Kirkpatrick et al., 1983).
  const heat = isSmall ? (0.3 * best.metres) / Math.max(1, rounds.length) : 0;
  let [length, shortest] = [best.metres, best.metres];
  // Without heat every move is an improvement: what is here is the best there is.
  let kept = heat > 0 ? rounds.map((r) => ({ ...r })) : rounds;
  for (let move = 0; move < moves; move += 1) {
    const order = random.pick(problem.orders);
    const here = roundOf.get(order.id) as Round;
    const there = isSmall || random.chance(0.2) ? random.pick(rounds) : random.pick(near.get(order.id) ?? rounds);
    if (there !== here) {
      const back = there.orders.length > 0 && random.chance(0.6) ? random.pick(there.orders) : null;
      const [mine, theirs] = [without(here.orders, order, back), without(there.orders, back, order)];
      if (fits(problem, mine) && fits(problem, theirs)) {
        const a = replaced(problem, here, order, back, mine);
        const b = replaced(problem, there, back, order, theirs);
        const longer = a.length + b.length - here.length - there.length;
        const warmth = heat * (1 - move / moves) ** 2;
        if (longer < -1e-9 || (warmth > 0 && random.next() < Math.exp(-longer / warmth))) {
          Object.assign(here, a, { orders: mine });
          Object.assign(there, b, { orders: theirs });
          roundOf.set(order.id, there);
          if (back) roundOf.set(back.id, here);
          length += longer;
          if (heat > 0 && length < shortest - 1e-9) {
            shortest = length;
            kept = rounds.map((r) => ({ ...r }));
          }
        }
      }
    }
    if ((move + 1) % YIELD_EVERY === 0) {
      best = outside(kept, (move / moves) * 0.9);
      yield best;
    }
  }
  kept = kept.filter((r) => r.orders.length > 0);
  const care = Math.min(1, 10 / kept.length);
  for (const [n, round] of kept.entries()) {
    Object.assign(round, walked(problem, round.tour, care));
    if (n % 10 === 9) {
      best = outside(kept, 0.9 + (0.1 * n) / kept.length);
      yield best;
    }
  }
  return outside(kept, 1);
}

// So many places are measured once and looked up after that: 80 MB at most.
const MOST_IN_TABLE = 4_500;

/** The same problem with its places numbered from 0 on, and how they are called outside. */
function numbered(problem: JoinProblem): { problem: JoinProblem; names: readonly number[] } {
  const names = [...new Set([...problem.orders.flatMap((o) => o.places), problem.from, problem.to])];
  const at = new Map(names.map((name, i) => [name, i]));
  const numberOf = (name: number): number => at.get(name) as number;
  const size = names.length;
  const outside = problem.metres;
  let metres: Metres = (a, b) => outside(names[a] as number, names[b] as number);
  if (size <= MOST_IN_TABLE) {
    const table = new Float32Array(size * size);
    for (let a = 0; a < size; a += 1) for (let b = 0; b < size; b += 1) table[a * size + b] = metres(a, b);
    metres = (a, b) => table[a * size + b] as number;
  }
  const orders = problem.orders.map((o) => ({ ...o, places: [...new Set(o.places.map(numberOf))] }));
  return { problem: { ...problem, metres, orders, from: numberOf(problem.from), to: numberOf(problem.to) }, names };
}

/** Every order by itself: what joining is measured against. */
export function singly(problem: JoinProblem): Joined {
  const rounds = problem.orders.map((o): Round => ({ orders: [o], ...walked(problem, [...new Set(o.places)], 0) }));
  return joinedOf(rounds, 1);
}

/** Orders in the order in which they are due, as many on a cart as it takes.
 *  Units:  metres. */
export function firstCome(problem: JoinProblem): Joined {
  const rounds: JoinOrder[][] = [];
  for (const order of byUrgency(problem.orders)) {
    const last = rounds.at(-1);
    if (last && fits(problem, [...last, order])) last.push(order);
    else rounds.push([order]);
  }
  return joinedOf(
    rounds.map((orders): Round => ({ orders, ...walked(problem, [...new Set(orders.flatMap((o) => o.places))], 0) })),
    1,
  );
}

/** No way to join orders is shorter than this.
 *  Units:  metres.
 *  Source: a round is at least as long as the way over any one place of it, and has at most as many orders as the cart has slots; summed
 *          over the orders by their farthest place, every so many-th counts (the radial bound of Haimovich and Rinnooy Kan, 1985). */
export function leastWalk({ metres, from, to, orders, cart }: JoinProblem): number {
  const farthest = orders
    .map((o) => Math.max(0, ...o.places.map((p) => metres(from, p) + metres(p, to))))
    .filter(Number.isFinite)
    .toSorted((a, b) => b - a);
  return farthest.filter((_, i) => i % cart.slots === 0).reduce((a, b) => a + b, 0);
}

const byUrgency = (orders: readonly JoinOrder[]): JoinOrder[] => orders.toSorted((a, b) => a.due - b.due || a.id - b.id);

/** Whether a cart takes these orders. What has no size on record weighs nothing here: nobody knows better. */
function fits({ cart, daysApart }: JoinProblem, orders: readonly JoinOrder[]): boolean {
  if (orders.length <= 1) return true;
  if (orders.length > cart.slots) return false;
  let [grams, millilitres, soonest, latest] = [0, 0, Infinity, -Infinity];
  for (const o of orders) {
    grams += o.grams ?? 0;
    millilitres += o.millilitres ?? 0;
    soonest = Math.min(soonest, o.due);
    latest = Math.max(latest, o.due);
  }
  return grams <= (cart.grams ?? Infinity) && millilitres <= (cart.millilitres ?? Infinity) && latest - soonest <= daysApart;
}

/** Begins each round with the most urgent order that is left, and adds what lies nearest to it until the cart is full. `near` is told which
 *  rounds lay near each order. */
function fill(problem: JoinProblem, near: Map<number, Round[]>): Round[] {
  const { metres, orders } = problem;
  const many = 1 + Math.max(problem.from, problem.to, ...orders.flatMap((o) => o.places));
  const left = new Set(byUrgency(orders));
  const costs = new Map<number, { round: Round; cost: number }[]>(orders.map((o) => [o.id, []]));
  const rounds: Round[] = [];
  const toTour = new Float64Array(many);
  // Per place: an order of many lines is no worse for having many.
  const costOf = (o: JoinOrder): number => {
    let cost = 0;
    for (const p of o.places) cost += toTour[p] as number;
    return cost / Math.max(1, o.places.length);
  };
  while (left.size > 0) {
    const [first] = left;
    if (!first) break;
    const round: Round = { orders: [], tour: [], length: 0 };
    rounds.push(round);
    toTour.fill(Infinity);
    for (let next: JoinOrder | null = first; next;) {
      left.delete(next);
      const fresh = next.places.filter((p) => !round.tour.includes(p));
      Object.assign(round, inserted(problem, round.tour, fresh), { orders: [...round.orders, next] });
      for (const t of fresh) for (let p = 0; p < many; p += 1) toTour[p] = Math.min(toTour[p] as number, metres(t, p));
      next = null;
      let least = Infinity;
      if (round.orders.length === problem.cart.slots) break;
      for (const o of left) {
        const cost = costOf(o);
        if (cost < least && fits(problem, [...round.orders, o])) [least, next] = [cost, o];
      }
    }
    const mine = new Set(round.orders);
    for (const o of orders) {
      if (mine.has(o)) continue;
      const list = costs.get(o.id) ?? [];
      list.push({ round, cost: costOf(o) });
      if (list.length > NEAR_ROUNDS * 3) costs.set(o.id, nearest(list));
    }
  }
  for (const [id, list] of costs)
    near.set(
      id,
      nearest(list).map((l) => l.round),
    );
  return rounds;
}

const nearest = <R extends { readonly cost: number }>(list: readonly R[]): R[] =>
  list.toSorted((a, b) => a.cost - b.cost).slice(0, NEAR_ROUNDS);

const without = (orders: readonly JoinOrder[], out: JoinOrder | null, into: JoinOrder | null): JoinOrder[] => [
  ...orders.filter((o) => o !== out),
  ...(into ? [into] : []),
];

// The tour without the places that only `out` needed, and with those of `into`.
function replaced(problem: JoinProblem, round: Round, out: JoinOrder | null, into: JoinOrder | null, orders: readonly JoinOrder[]): Tried {
  const needed = new Set(orders.flatMap((o) => o.places));
  const kept = out ? round.tour.filter((p) => needed.has(p)) : round.tour;
  const has = new Set(kept);
  return inserted(problem, kept, into ? [...new Set(into.places)].filter((p) => !has.has(p)) : []);
}

/** Puts places into a tour, each where it lengthens it least (cheapest insertion; Rosenkrantz, Stearns and Lewis, 1977). */
function inserted({ metres, from, to }: JoinProblem, tour: readonly number[], more: readonly number[]): Tried {
  const result = [...tour];
  for (const place of more) {
    let [best, at] = [Infinity, result.length];
    for (let i = 0; i <= result.length; i += 1) {
      const [before, after] = [i === 0 ? from : (result[i - 1] as number), i === result.length ? to : (result[i] as number)];
      const longer = metres(before, place) + metres(place, after) - metres(before, after);
      if (longer < best) [best, at] = [longer, i];
    }
    result.splice(at, 0, place);
  }
  return { tour: result, length: lengthOf(metres, from, to, result) };
}

function lengthOf(metres: Metres, from: number, to: number, tour: readonly number[]): number {
  let [sum, here] = [0, from];
  for (const next of tour) {
    sum += metres(here, next);
    here = next;
  }
  return sum + metres(here, to);
}

// The shortest way over the places of a tour, or, without effort, the tour that insertion makes of them.
function walked(problem: JoinProblem, tour: readonly number[], effort: number): Tried {
  const start = inserted(problem, [], tour);
  const places = [...start.tour, problem.from, problem.to];
  const table = places.map((a) => places.map((b) => problem.metres(a, b)));
  const [n] = [start.tour.length];
  const way = shortestWay(table, { from: n, to: n + 1, stops: start.tour.map((_, i) => i) }, effort);
  const order = [...way.order, ...way.unreached].map((i) => start.tour[i] as number);
  const length = way.unreached.length > 0 ? Infinity : way.metres;
  return length <= start.length ? { tour: order, length } : start;
}

function joinedOf(rounds: readonly Round[], done: number): Joined {
  const kept = rounds.filter((r) => r.orders.length > 0);
  const said = kept.map((r): JoinedRound & { due: number } => ({
    orders: byUrgency(r.orders).map((o) => o.id),
    places: [...r.tour],
    metres: r.length,
    due: Math.min(...r.orders.map((o) => o.due)),
  }));
  return {
    rounds: said.toSorted((a, b) => a.due - b.due || b.orders.length - a.orders.length).map(({ due: _, ...round }) => round),
    metres: kept.reduce((sum, r) => sum + r.length, 0),
    done,
  };
}
