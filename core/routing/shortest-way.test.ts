import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { seeded } from '#core/base';
import { metresOf, shortestWay, type Walk } from './index.ts';
import { nearOrder } from './near-way.ts';
import { madeRound } from './testing.ts';

type Metres = readonly (readonly number[])[];

/** The shortest way by trying all, each as far as it may still win. `hope`: what the rest takes at the least, which may be nothing. */
function tried(metres: Metres, { from, to, stops }: Walk, hope: (left: readonly number[]) => number = () => 0): number {
  let shortest = Infinity;
  const go = (here: number, left: readonly number[], so: number): void => {
    if (so + hope(left) >= shortest) return;
    if (left.length === 0) {
      shortest = Math.min(shortest, so + (metres[here]?.[to] ?? Infinity));
      return;
    }
    const nearest = left.toSorted((a, b) => (metres[here]?.[a] ?? Infinity) - (metres[here]?.[b] ?? Infinity));
    for (const next of nearest)
      go(
        next,
        left.filter((s) => s !== next),
        so + (metres[here]?.[next] ?? Infinity),
      );
  };
  go(from, stops, 0);
  return shortest;
}
const isOrderOf = (order: readonly number[], stops: readonly number[]): void =>
  expect(order.toSorted((a, b) => a - b)).toEqual(stops.toSorted((a, b) => a - b));

describe('G2 the shortest way over the stops of a round', () => {
  it('500 floors with up to ten stops: as short as any order of them', () => {
    for (let seed = 1; seed <= 500; seed += 1) {
      const { metres, ...walk } = madeRound(seed, 2 + (seed % 9));
      const way = shortestWay(metres, walk);
      isOrderOf(way.order, walk.stops);
      expect(way.metres).toBe(metresOf(metres, { ...walk, stops: way.order }));
      expect([seed, way.metres]).toEqual([seed, tried(metres, walk)]);
    }
  }, 120_000);

  it('twelve stops: as short as an exact search that knows what each stop takes at the least', () => {
    for (let seed = 1000; seed < 1025; seed += 1) {
      const { metres, ...walk } = madeRound(seed, 12);
      const least = metres.map((_, s) => Math.min(...metres.map((row, i) => (i === s ? Infinity : (row[s] ?? Infinity)))));
      const hope = (left: readonly number[]): number => left.reduce((sum, s) => sum + (least[s] ?? 0), least[walk.to] ?? 0);
      expect([seed, shortestWay(metres, walk).metres]).toEqual([seed, tried(metres, walk, hope)]);
    }
  }, 120_000);

  it('the search for long rounds, on short ones whose truth is known: seldom longer than it, and never by much', () => {
    const excess = Array.from({ length: 200 }, (_, n) => {
      const { metres, ...walk } = madeRound(5000 + n, 6 + (n % 7));
      const size = metres.length;
      const order = nearOrder({ n: size - 2, size, d: Float64Array.from(metres.flat()) }, 1);
      isOrderOf(order, walk.stops);
      return metresOf(metres, { ...walk, stops: order }) / shortestWay(metres, walk).metres - 1;
    });
    expect(Math.min(...excess)).toBe(0);
    expect(excess.filter((e) => e > 0).length).toBeLessThanOrEqual(4);
    expect(Math.max(...excess)).toBeLessThan(0.03);
  }, 60_000);

  it('law: tables whose directions differ at will: the search returns every stop once, no longer than in the order given', () => {
    const table = fc.integer({ min: 3, max: 40 }).chain((n) => {
      const size = n + 2;
      return fc.array(fc.integer({ min: 1, max: 500 }), { minLength: size * size, maxLength: size * size }).map((d) => ({ n, size, d }));
    });
    fc.assert(
      fc.property(table, ({ n, size, d }) => {
        const given = Array.from({ length: n }, (_, i) => i);
        const order = nearOrder({ n, size, d: Float64Array.from(d) }, 0.2);
        isOrderOf(order, given);
        const rows = Array.from({ length: size }, (_, a) => d.slice(a * size, (a + 1) * size));
        const far = (stops: readonly number[]): number => metresOf(rows, { from: n, to: n + 1, stops });
        expect(far(order)).toBeLessThanOrEqual(far(given));
        // A longer search begins like a shorter one, so it is never worse.
        expect(far(nearOrder({ n, size, d: Float64Array.from(d) }, 1))).toBeLessThanOrEqual(far(order));
      }),
      { numRuns: 60 },
    );
  }, 60_000);

  it('30 and 60 stops: within 1 % of a long search in the mean, 5 % at the worst; never longer than plain walking order', () => {
    const told: string[] = [];
    for (const many of [30, 60]) {
      const rounds = Array.from({ length: 20 }, (_, n) => madeRound(many * 1000 + n, many)).map(({ metres, ...walk }) => {
        const way = shortestWay(metres, walk);
        isOrderOf(way.order, walk.stops);
        const long = shortestWay(metres, walk, 30).metres;
        return { excess: way.metres / Math.min(long, way.metres) - 1, saved: 1 - way.metres / metresOf(metres, walk) };
      });
      const mean = (of: (r: (typeof rounds)[number]) => number): number => rounds.reduce((sum, r) => sum + of(r), 0) / rounds.length;
      const worst = Math.max(...rounds.map((r) => r.excess));
      expect(mean((r) => r.excess)).toBeLessThanOrEqual(0.01);
      expect(worst).toBeLessThanOrEqual(0.05);
      expect(Math.min(...rounds.map((r) => r.saved))).toBeGreaterThanOrEqual(0);
      const percent = (part: number): string => `${(part * 100).toFixed(1)} %`;
      told.push(
        `${many} stops: ${percent(mean((r) => r.excess))} over a long search in the mean, ${percent(worst)} at the worst; ` +
          `${percent(mean((r) => r.saved))} shorter than plain walking order`,
      );
    }
    process.stdout.write(`${told.join('\n')}\n`);
  }, 180_000);

  it('law: any table, with places out of reach: each stop once or said to be unreached; equal input gives equal output', () => {
    const table = fc.integer({ min: 1, max: 18 }).chain((n) =>
      fc.record({
        n: fc.constant(n),
        metres: fc.array(
          fc.array(fc.oneof({ weight: 9, arbitrary: fc.integer({ min: 0, max: 90 }) }, fc.constant(Infinity)), {
            minLength: n + 2,
            maxLength: n + 2,
          }),
          { minLength: n + 2, maxLength: n + 2 },
        ),
      }),
    );
    fc.assert(
      fc.property(table, ({ n, metres }) => {
        const walk = { from: n, to: n + 1, stops: Array.from({ length: n }, (_, i) => i) };
        const way = shortestWay(metres, walk);
        isOrderOf([...way.order, ...way.unreached], walk.stops);
        for (const s of walk.stops) expect(way.unreached.includes(s)).toBe(metres[n]?.[s] === Infinity || metres[s]?.[n + 1] === Infinity);
        expect(shortestWay(metres, walk)).toEqual(way);
        if (way.order.length > 0) expect(way.metres).toBe(metresOf(metres, { ...walk, stops: way.order }));
      }),
      { numRuns: 150 },
    );
  }, 60_000);

  it('no stop is a walk from the cart to the bench; one stop is there and on; a stop in a walled corner is said, not walked to', () => {
    const metres = [
      [0, 4, 6, Infinity],
      [4, 0, 3, Infinity],
      [6, 3, 0, Infinity],
      [Infinity, Infinity, Infinity, 0],
    ];
    expect(shortestWay(metres, { from: 0, to: 2, stops: [] })).toEqual({ order: [], metres: 6, unreached: [] });
    expect(shortestWay(metres, { from: 0, to: 2, stops: [1] })).toEqual({ order: [1], metres: 7, unreached: [] });
    expect(shortestWay(metres, { from: 0, to: 2, stops: [3, 1] })).toEqual({ order: [1], metres: 7, unreached: [3] });
  });

  it('numbers that look drawn are the same each time', () => {
    const row = (seed: number): number[] => Array.from({ length: 5 }, () => seeded(seed).int(1, 6));
    expect(row(3)).toEqual(row(3));
  });
});
