import { describe, expect, it } from '@jest/globals';
import { generatePlan, walkedFloor, type FloorPlan } from '#core/places';
import { proposeRounds, type Proposal, type ToPropose } from './index.ts';

const ADDRESSES = ['A', 'B', 'C', 'D'].flatMap((aisle) =>
  Array.from({ length: 12 }, (_, n) => `${aisle}-${String(n + 1).padStart(2, '0')}-1`),
);
const PLAN = generatePlan([...ADDRESSES.map((address) => ({ zone: 1, address })), { zone: 2, address: 'BENCH-1', use: 'packing' }]);
const bins = ADDRESSES.map((address, id) => ({ id, zone: 1, address }));
const order = (id: number, at: readonly number[], day = 0) => ({ id, day, bins: at, grams: 0, millilitres: 0 });
const asked = (more: Partial<ToPropose>): ToPropose => ({
  orders: [],
  bins,
  cart: null,
  bench: { zone: 2, address: 'BENCH-1' },
  slots: 2,
  grams: null,
  millilitres: null,
  ...more,
});
function proposed(more: Partial<ToPropose>, plan: FloorPlan = PLAN): Proposal {
  const steps = [...proposeRounds(asked(more), walkedFloor(plan))];
  return steps.at(-1) as Proposal;
}

describe('rounds that are proposed (G1)', () => {
  it('orders beside each other are walked together, and the soonest due come first', () => {
    const orders = [order(1, [1], 5), order(2, [40], 0), order(3, [2], 5), order(4, [41], 0)];
    const { rounds, metres, singly, firstCome, least, offPlan } = proposed({ orders });
    expect(rounds.map((r) => r.orders)).toEqual([
      [2, 4],
      [1, 3],
    ]);
    expect(rounds.map((r) => r.stops)).toEqual([2, 2]);
    expect(metres).toBeLessThan(singly ?? 0);
    expect(metres).toBeLessThanOrEqual(firstCome ?? 0);
    expect(metres).toBeGreaterThanOrEqual(least ?? Infinity);
    expect(offPlan).toEqual([]);
  });
  it('bins that stand nowhere are named, their order still walks; without a bench orders are joined as they come, unmeasured', () => {
    const orders = [order(1, [1]), order(2, [2, 99])];
    const off = proposed({ orders, bins: [...bins, { id: 99, zone: 1, address: 'Z-99-9' }] });
    expect(off.offPlan).toEqual([2]);
    expect(off.rounds.flatMap((r) => r.orders).toSorted()).toEqual([1, 2]);
    const blind = proposed({ orders, bench: null });
    expect(blind).toMatchObject({ metres: null, least: null, done: 1, offPlan: [1, 2] });
    expect(blind.rounds.flatMap((r) => r.orders)).toEqual([1, 2]);
  });
  it('a bin behind a wall is where nobody gets; the others are measured', () => {
    const cell = walkedFloor(PLAN).placeOf({ zone: 1, address: 'A-01-1' }) as { x: number; y: number };
    const around = [-1, 0, 1].flatMap((dx) => [-1, 0, 1].map((dy) => ({ x: cell.x + dx, y: cell.y + dy })));
    const walls = around
      .filter((c) => c.x !== cell.x || c.y !== cell.y)
      .map((c) => ({ kind: 'wall' as const, name: '', x: Math.max(0, c.x), y: Math.max(0, c.y), w: 1, h: 1 }));
    const { offPlan, metres } = proposed({ orders: [order(1, [0]), order(2, [30])] }, { ...PLAN, things: [...PLAN.things, ...walls] });
    expect(offPlan).toEqual([1]);
    expect(metres).toBeGreaterThan(0);
    expect(metres).toBeLessThan(10_000);
  });
});
