/** Numbers that look drawn and are the same each time and on every machine: `next` from 0, below 1; `int` from and to, both among them. */
export type Random = { next(): number; int(from: number, to: number): number; pick<T>(list: readonly T[]): T; chance(p: number): boolean };

/** A row of such numbers that begins from a seed.
 *  Source: “mulberry32” (T. Ettinger, 2017, public domain). */
export function seeded(seed: number): Random {
  let state = seed;
  const next = (): number => {
    state = (state + 0x6d2b79f5) | 0;
    let t = Math.imul(state ^ (state >>> 15), 1 | state);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
  return {
    next,
    int: (from, to) => from + Math.floor(next() * (to - from + 1)),
    pick: (list) => list[Math.floor(next() * list.length)] as never,
    chance: (p) => next() < p,
  };
}
