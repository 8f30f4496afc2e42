import { describe, expect, it } from '@jest/globals';
import { seeded } from '#core/base';
import { laneLength, measureBetween, walkGrid, type Cell, type PlanAisle } from '#core/places';
import { firstCome, joinOrders, leastWalk, shortestWay, singly, type Joined, type JoinOrder, type JoinProblem } from './index.ts';
import { madeFloor } from './testing.ts';

function problemOf(seed: number, of: { orders: number; slots: number; grams?: number; days?: number; places?: number }): JoinProblem {
  const random = seeded(seed);
  const plan = madeFloor(random);
  const cells: Cell[] = [];
  const orders = Array.from({ length: of.orders }, (_, id): JoinOrder => {
    const places = Array.from({ length: random.int(1, of.places ?? 4) }, () => {
      const aisle = random.pick(plan.aisles) as PlanAisle;
      return cells.push({ x: aisle.x, y: aisle.y + random.int(0, laneLength(aisle) - 1) }) - 1;
    });
    return {
      id: id + 1,
      places,
      grams: random.chance(0.1) ? null : random.int(100, 900),
      millilitres: null,
      due: random.int(0, of.days ?? 0),
    };
  });
  const from = cells.push({ x: 0, y: 0 }) - 1;
  const to = cells.push({ x: plan.width - 1, y: plan.height - 1 }) - 1;
  const cart = { slots: of.slots, grams: of.grams ?? null, millilitres: null };
  return { metres: measureBetween(walkGrid(plan), cells), from, to, orders, cart, daysApart: 1 };
}
function joined(problem: JoinProblem): Joined {
  const search = joinOrders(problem);
  for (;;) {
    const step = search.next();
    if (step.done) return step.value;
  }
}
const exactWay = (p: JoinProblem, orders: readonly JoinOrder[]): number => {
  const places = [...new Set(orders.flatMap((o) => o.places)), p.from, p.to];
  const n = places.length - 2;
  const table = places.map((a) => places.map((b) => p.metres(a, b)));
  return shortestWay(table, { from: n, to: n + 1, stops: places.slice(0, n).map((_, i) => i) }).metres;
};
const fitsCart = (p: JoinProblem, orders: readonly JoinOrder[]): boolean =>
  orders.length === 1 ||
  (orders.length <= p.cart.slots &&
    orders.reduce((sum, o) => sum + (o.grams ?? 0), 0) <= (p.cart.grams ?? Infinity) &&
    Math.max(...orders.map((o) => o.due)) - Math.min(...orders.map((o) => o.due)) <= p.daysApart);
/** The shortest of all ways to part orders into rounds. */
function shortestParting(p: JoinProblem): number {
  const known = new Map<number, number>([[0, 0]]);
  const wayOf = new Map<number, number>();
  const solve = (left: number): number => {
    const before = known.get(left);
    if (before !== undefined) return before;
    const first = left & -left;
    const rest = left ^ first;
    let best = Infinity;
    for (let more = rest; ; more = (more - 1) & rest) {
      const set = first | more;
      const orders = p.orders.filter((_, i) => set & (1 << i));
      if (fitsCart(p, orders)) {
        const way = wayOf.get(set) ?? exactWay(p, orders);
        wayOf.set(set, way);
        best = Math.min(best, way + solve(left ^ set));
      }
      if (more === 0) break;
    }
    known.set(left, best);
    return best;
  };
  return solve((1 << p.orders.length) - 1);
}

describe('joining orders into rounds (G1, G2)', () => {
  it('law: every order once, within slots, weight and days; as far as it says; between the bound and one by one', () => {
    for (let seed = 1; seed <= 40; seed += 1) {
      const p = problemOf(seed, { orders: 8 + (seed % 20), slots: 2 + (seed % 5), grams: 2200, days: 3 });
      const found = joined(p);
      const orders = new Map(p.orders.map((o) => [o.id, o]));
      expect(found.rounds.flatMap((r) => r.orders).toSorted((a, b) => a - b)).toEqual([...orders.keys()]);
      for (const round of found.rounds) {
        const own = round.orders.map((id) => orders.get(id) as JoinOrder);
        expect(fitsCart(p, own)).toBe(true);
        expect([...round.places].toSorted((a, b) => a - b)).toEqual([...new Set(own.flatMap((o) => o.places))].toSorted((a, b) => a - b));
        let [sum, here] = [0, p.from];
        for (const next of round.places) {
          sum += p.metres(here, next);
          here = next;
        }
        expect(sum + p.metres(here, p.to)).toBeCloseTo(round.metres);
      }
      expect(found.metres).toBeGreaterThanOrEqual(leastWalk(p) - 1e-6);
      expect(found.metres).toBeLessThanOrEqual(singly(p).metres + 1e-6);
    }
  });

  it('near the shortest of all ways to part seven orders: mean excess at most 0.5 %, worst 5 % (60 floors)', () => {
    const excess: number[] = [];
    for (let seed = 101; seed <= 160; seed += 1) {
      const p = problemOf(seed, { orders: 7, slots: 3, places: 3 });
      excess.push(joined(p).metres / shortestParting(p) - 1);
    }
    const mean = excess.reduce((a, b) => a + b, 0) / excess.length;
    process.stdout.write(
      `joining seven orders, ${excess.length} floors: mean ${(mean * 100).toFixed(2)} %, ` +
        `worst ${(Math.max(...excess) * 100).toFixed(1)} % over the shortest\n`,
    );
    expect(Math.min(...excess)).toBeGreaterThan(-1e-9);
    expect(mean).toBeLessThanOrEqual(0.005);
    expect(Math.max(...excess)).toBeLessThanOrEqual(0.05);
  });

  it('is shorter than first come, and says how short it can be at most', () => {
    let [one, come, join, least] = [0, 0, 0, 0];
    for (let seed = 201; seed <= 206; seed += 1) {
      const p = problemOf(seed, { orders: 60, slots: 6 });
      one += singly(p).metres;
      come += firstCome(p).metres;
      join += joined(p).metres;
      least += leastWalk(p);
    }
    process.stdout.write(
      `60 orders, 6 slots: one by one 100 %, first come ${Math.round((come / one) * 100)} %, joined ${Math.round((join / one) * 100)} %, ` +
        `no way under ${Math.round((least / one) * 100)} %\n`,
    );
    expect(join).toBeLessThan(come * 0.85);
    expect(join).toBeGreaterThanOrEqual(least);
  });

  it('can be stopped at any moment: what it has is whole, and never longer than what it had before', () => {
    const p = problemOf(7, { orders: 40, slots: 5 });
    let before = Infinity;
    for (const best of joinOrders(p)) {
      expect(best.rounds.flatMap((r) => r.orders)).toHaveLength(40);
      expect(best.metres).toBeLessThanOrEqual(before + 1e-6);
      before = best.metres;
    }
  });

  it('what no cart takes is walked by itself; what has no size is joined as if it weighed nothing; no orders are no rounds', () => {
    const p = problemOf(3, { orders: 3, slots: 6 });
    const [a, b, c] = p.orders as [JoinOrder, JoinOrder, JoinOrder];
    const heavy = {
      ...p,
      cart: { ...p.cart, grams: 1000 },
      orders: [
        { ...a, grams: 5000 },
        { ...b, grams: null },
        { ...c, grams: 900 },
      ],
    };
    expect(joined(heavy).rounds.map((r) => [...r.orders].toSorted())).toContainEqual([a.id]);
    expect(joined({ ...p, orders: [] })).toEqual({ rounds: [], metres: 0, done: 1 });
  });
});
