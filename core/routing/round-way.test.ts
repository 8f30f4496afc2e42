import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { seeded } from '#core/base';
import { generatePlan, walkedFloor, walkingDistances, type FloorPlan } from '#core/places';
import { wayOfCarry, wayOfRound, type RoundBin } from './index.ts';

const ADDRESSES = ['A', 'B', 'C', 'D'].flatMap((aisle) =>
  Array.from({ length: 12 }, (_, n) => `${aisle}-${String(n + 1).padStart(2, '0')}-1`),
);
const PLAN = generatePlan([
  ...ADDRESSES.map((address) => ({ zone: 1, address })),
  { zone: 2, address: 'BENCH-1', use: 'packing' },
  { zone: 3, address: 'ARRIVALS', use: 'arrivals' },
]);
const BENCH = { id: 900, zone: 2, address: 'BENCH-1' };
const bin = (n: number, address = ADDRESSES[n] ?? ''): RoundBin => ({ id: n + 1, zone: 1, address, walk: n });
const way = (bins: readonly RoundBin[], plan: FloorPlan = PLAN, bench: typeof BENCH | null = BENCH) =>
  wayOfRound(walkedFloor(plan), { cart: null, bench, bins });

describe('G2 the way of a round on the plan of its site', () => {
  it('law: meets each bin once, is as far as it says and never farther than plain walking order', () => {
    fc.assert(
      fc.property(fc.uniqueArray(fc.nat(ADDRESSES.length - 1), { minLength: 1, maxLength: 25 }), (numbers) => {
        const bins = numbers.map((n) => bin(n));
        const found = way(bins);
        expect(found.bins.toSorted((a, b) => a - b)).toEqual(bins.map((b) => b.id).toSorted((a, b) => a - b));
        expect(found.unreached).toEqual([]);
        expect(found.metres).toBeGreaterThan(0);
        expect(found.metres).toBeLessThanOrEqual(found.plain ?? 0);
        // The legs are the way but for its last, from the last stop to the bench.
        const legs = found.legs.map((leg) => leg ?? NaN);
        expect(legs.reduce((sum, leg) => sum + leg, 0)).toBeLessThanOrEqual(found.metres ?? 0);
        expect(way(bins.toReversed())).toEqual(found);
      }),
      { numRuns: 60 },
    );
  });
  it('bins above each other are met together', () => {
    const shelf = [bin(3), { ...bin(3), id: 50, address: 'A-04-2', walk: 3.5 }, bin(30)];
    const { bins } = way(shelf);
    expect(Math.abs(bins.indexOf(4) - bins.indexOf(50))).toBe(1);
  });
  it('what the plan does not know is met after the bin before it; without a bench, or with none that it knows, the order is plain', () => {
    const strange = { ...bin(5), id: 77, address: 'NOWHERE-1', walk: 5.5 };
    const { bins, legs, metres } = way([bin(5), strange, bin(40)]);
    expect(bins.indexOf(77)).toBe(bins.indexOf(6) + 1);
    expect(metres).toBe(way([bin(5), bin(40)]).metres);
    expect(bins.map((id, i) => [id === 77 || bins[i - 1] === 77, legs[i] === null])).toEqual(
      bins.map((id, i) => Array(2).fill(id === 77 || bins[i - 1] === 77)),
    );
    expect(way([strange])).toEqual({ bins: [77], legs: [null], metres: null, plain: null, unreached: [] });
    expect(way([bin(40), bin(5)], PLAN, null)).toEqual({ bins: [6, 41], legs: [null, null], metres: null, plain: null, unreached: [] });
    expect(way([bin(1)], { ...PLAN, aisles: [], spots: [] })).toMatchObject({ bins: [2], metres: null });
  });
  it('a bin that is walled in is said and stands last; the rest is walked', () => {
    const lane = PLAN.aisles.find((a) => a.name.includes('D') || a.key.endsWith('/D'));
    if (!lane) throw new Error('The plan has no aisle D.');
    const alongY = lane.along === 'y';
    const end = { x: lane.x - 1, y: lane.y - 1, w: alongY ? 3 : 1, h: alongY ? 1 : 3 };
    const length = Math.ceil(lane.bays.length / lane.sides);
    const far = alongY ? { ...end, y: lane.y + length } : { ...end, x: lane.x + length };
    const walled = { ...PLAN, things: [...PLAN.things, ...[end, far].map((box) => ({ kind: 'wall' as const, name: 'Wall', ...box }))] };
    const found = way([bin(40), bin(0), bin(14)], walled);
    expect(found.unreached).toEqual([41]);
    expect(found.bins.at(-1)).toBe(41);
    expect(found.metres).toBe(way([bin(0), bin(14)]).metres);
  });
  it('is found again: the same round has the same way', () => {
    const bins = Array.from({ length: 40 }, () => seeded(5)).flatMap((r, n) => (r.chance(1) ? [bin(n)] : []));
    expect(way(bins)).toEqual(way(bins));
  });
});

function orders<T>(of: readonly T[]): T[][] {
  return of.length === 0 ? [[]] : of.flatMap((one) => orders(of.filter((other) => other !== one)).map((rest) => [one, ...rest]));
}

describe('I2 I5 the way of a round that takes and puts', () => {
  const HOME = { id: 901, zone: 3, address: 'ARRIVALS' };
  const numbers = fc.uniqueArray(fc.nat(ADDRESSES.length - 1), { maxLength: 4 });
  it('law: everything is taken before anything is put, and no way that does so is shorter', () => {
    const floor = walkedFloor(PLAN);
    fc.assert(
      fc.property(numbers, fc.uniqueArray(fc.nat(ADDRESSES.length - 1), { minLength: 1, maxLength: 4 }), (takes, puts) => {
        const found = wayOfCarry(floor, { home: HOME, takes: takes.map((n) => bin(n)), puts: puts.map((n) => bin(n)) });
        expect(found.takes.toSorted((x, y) => x - y)).toEqual(takes.map((n) => n + 1).toSorted((x, y) => x - y));
        expect(found.puts.toSorted((x, y) => x - y)).toEqual(puts.map((n) => n + 1).toSorted((x, y) => x - y));
        const cells = [HOME, ...takes.map((n) => bin(n)), ...puts.map((n) => bin(n))].flatMap((b) => floor.placeOf(b) ?? []);
        const metres = walkingDistances(floor.grid, cells);
        const far = (way: readonly number[]): number =>
          [...way, 0].reduce((sum, to, i) => sum + (metres[way[i - 1] ?? 0]?.[to] ?? Infinity), 0);
        const [first, then] = [takes.map((_, i) => i + 1), puts.map((_, i) => takes.length + i + 1)];
        const best = Math.min(...orders(first).flatMap((t) => orders(then).map((p) => far([...t, ...p]))));
        expect(found.metres).toBeCloseTo(best, 6);
        expect(found.metres).toBeLessThanOrEqual(found.plain ?? 0);
      }),
      { numRuns: 60 },
    );
  });
  it('a bin that is taken from and put into is met twice; what the plan does not know stands after the bin before it', () => {
    const strange = { ...bin(5), id: 77, address: 'NOWHERE-1', walk: 5.5 };
    const found = wayOfCarry(walkedFloor(PLAN), { home: HOME, takes: [bin(5), strange, bin(9)], puts: [bin(5), bin(20)] });
    expect(found.takes.indexOf(77)).toBe(found.takes.indexOf(6) + 1);
    expect(found.puts).toContain(6);
    expect(found.takeLegs.filter((l) => l === null).length).toBeGreaterThan(0);
    expect(wayOfCarry(walkedFloor(PLAN), { home: null, takes: [bin(2)], puts: [bin(1)] })).toEqual({
      takes: [3],
      puts: [2],
      takeLegs: [null],
      putLegs: [null],
      metres: null,
      plain: null,
      unreached: [],
    });
  });
});
