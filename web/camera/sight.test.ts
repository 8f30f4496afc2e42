import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { NOTHING_SEEN, OUT_OF_SIGHT_MS, stepSight, type Seen } from './sight.ts';

/** What is taken from pictures that come every 100 ms. */
function watch(pictures: readonly (readonly Seen[])[], every = 100): { taken: string[]; crowded: number } {
  let sight = NOTHING_SEEN;
  const taken: string[] = [];
  let crowded = 0;
  for (const [n, seen] of pictures.entries()) {
    const step = stepSight(sight, seen, n * every);
    sight = step.sight;
    if (step.take !== null) taken.push(step.take);
    if (step.crowded) crowded += 1;
  }
  return { taken, crowded };
}
const middle = (code: string): Seen[] => [{ code, apart: 0.1 }];
const times = <T>(n: number, picture: T): T[] => Array.from({ length: n }, () => picture);
const nothing: Seen[] = [];

describe('what the camera takes', () => {
  test('a code counts when two pictures agree, and once, however long it is held', () => {
    expect(watch([middle('A')]).taken).toEqual([]);
    expect(watch(times(50, middle('A'))).taken).toEqual(['A']);
  });

  test('a picture that was misread counts nothing', () => {
    expect(watch([middle('A'), middle('A'), middle('8'), middle('A'), middle('A')]).taken).toEqual(['A']);
  });

  test('the same code counts again after it was out of sight, and not after a blink', () => {
    const blink = times(OUT_OF_SIGHT_MS / 100 - 1, nothing);
    const away = times(OUT_OF_SIGHT_MS / 100 + 1, nothing);
    expect(watch([...times(3, middle('A')), ...blink, ...times(3, middle('A'))]).taken).toEqual(['A']);
    expect(watch([...times(3, middle('A')), ...away, ...times(3, middle('A'))]).taken).toEqual(['A', 'A']);
  });

  test('another code is taken at once, and the way back too', () => {
    expect(watch([...times(3, middle('BIN')), ...times(3, middle('GOODS'))]).taken).toEqual(['BIN', 'GOODS']);
    expect(watch([...times(3, middle('BIN')), ...times(20, middle('GOODS')), ...times(3, middle('BIN'))]).taken).toEqual([
      'BIN',
      'GOODS',
      'BIN',
    ]);
  });

  test('the code nearest the middle is meant; of two that are equally near, none', () => {
    const aside: Seen[] = [
      { code: 'NEIGHBOUR', apart: 0.9 },
      { code: 'MEANT', apart: 0.1 },
    ];
    expect(watch(times(4, aside))).toEqual({ taken: ['MEANT'], crowded: 0 });
    const both: Seen[] = [
      { code: 'A', apart: 0.4 },
      { code: 'B', apart: 0.5 },
    ];
    expect(watch(times(4, both))).toEqual({ taken: [], crowded: 4 });
    // One label that carries its code twice is one code.
    expect(
      watch(
        times(3, [
          { code: 'A', apart: 0.4 },
          { code: 'A', apart: 0.5 },
        ]),
      ).taken,
    ).toEqual(['A']);
  });

  test('property: a code is never taken twice while it stays in sight, nor without having been seen twice', () => {
    const code = fc.constantFrom('A', 'B', 'C');
    const picture = fc.array(fc.record({ code, apart: fc.double({ min: 0, max: 1, noNaN: true }) }), { maxLength: 3 });
    fc.assert(
      fc.property(fc.array(picture, { maxLength: 60 }), (pictures) => {
        let sight = NOTHING_SEEN;
        const lastTaken = new Map<string, number>();
        let previous: string | null = null;
        for (const [n, seen] of pictures.entries()) {
          const { sight: next, take } = stepSight(sight, seen, n * 100);
          sight = next;
          if (take === null) continue;
          expect(seen.map((s) => s.code)).toContain(take);
          expect((pictures[n - 1] ?? []).map((s) => s.code)).toContain(take);
          // Taken before, and nothing else since: it was out of sight in between.
          const since = lastTaken.get(take);
          if (since !== undefined && previous === take) {
            const shown = pictures.slice(since, n).map((p, i) => (p.some((s) => s.code === take) ? since + i : -1));
            const visible = shown.filter((at) => at >= 0);
            const gaps = [...visible, n].map((at, i) => (i === 0 ? 0 : at - (visible[i - 1] as number)));
            expect(Math.max(...gaps) * 100).toBeGreaterThan(OUT_OF_SIGHT_MS);
          }
          lastTaken.set(take, n);
          previous = take;
        }
      }),
    );
  });
});
