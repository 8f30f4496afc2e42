import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import type { Trx } from './database.ts';
import { LOCK_CLASS, LOCK_ORDER, noteLocks, workAlone, type LockRank } from './locks.ts';

const transaction = (): Trx => ({}) as Trx;
type Ask = readonly [LockRank, number];
const ask = fc.tuple(fc.constantFrom(...LOCK_ORDER), fc.integer({ min: 1, max: 4 })) as fc.Arbitrary<Ask>;
const place = ([rank, key]: Ask): number => LOCK_ORDER.indexOf(rank) * 1000 + key;

describe('the lock order of the house', () => {
  it('lets pass what goes downwards, and what is held already', () => {
    const trx = transaction();
    noteLocks(trx, 'order', [[3, 0]]);
    noteLocks(trx, 'stock', [
      [9, 1],
      [2, 1],
    ]);
    expect(noteLocks(trx, 'order', [[3, 0]])).toEqual([]);
    expect(
      noteLocks(trx, 'stock', [
        [2, 1],
        [11, 1],
      ]),
    ).toEqual([[11, 1]]);
    noteLocks(trx, 'bin', [[1, 0]]);
  });
  it('stops a program that asks upwards, naming both', () => {
    const trx = transaction();
    noteLocks(trx, 'stock', [[2, 1]]);
    expect(() => noteLocks(trx, 'order', [[3, 0]])).toThrow('Lock order broken: order 3/0 was asked for after stock 2/1.');
    expect(() => noteLocks(trx, 'stock', [[1, 1]])).toThrow('stock 1/1');
  });
  it('two transactions that keep to it never wait for each other in a circle', () => {
    fc.assert(
      fc.property(fc.array(ask, { maxLength: 8 }), fc.array(ask, { maxLength: 8 }), (a, b) => {
        const keep = (asks: readonly Ask[]): Ask[] => {
          const trx = transaction();
          return asks.filter(([rank, key]) => {
            try {
              noteLocks(trx, rank, [[key, 0]]);
              return true;
            } catch {
              return false;
            }
          });
        };
        const firsts = (asks: readonly Ask[]): number[] => [...new Set(asks.map(place))];
        const [mine, theirs] = [firsts(keep(a)), firsts(keep(b))];
        // A circle needs two locks that the one takes in this order and the other in that.
        for (const x of mine)
          for (const y of mine)
            if (mine.indexOf(x) < mine.indexOf(y) && theirs.includes(x) && theirs.includes(y))
              expect(theirs.indexOf(x)).toBeLessThan(theirs.indexOf(y));
      }),
    );
  });
  it('is not watched while one works alone in the house', () => {
    const trx = transaction();
    workAlone(trx);
    noteLocks(trx, 'bin', [[1, 0]]);
    noteLocks(trx, 'zone', [[1, 0]]);
  });
  it('gives each class of advisory locks a space of its own', () => {
    const classes = Object.values(LOCK_CLASS);
    expect(new Set(classes).size).toBe(classes.length);
  });
});
