import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { qty, type BinId, type ItemId, type Qty, type UnitId } from '#core/base';
import {
  applyMovements,
  decidePosting,
  isOpening,
  keyText,
  missingLoose,
  planPosting,
  takeOutOfUnits,
  unitsFilled,
  type InUnit,
  type Movement,
  type StockKey,
} from './index.ts';

const place = (bin: number, unit: number | null = null) => ({
  bin: bin as BinId,
  unit: unit as UnitId | null,
  condition: 'sound' as const,
});
const key = (bin: number, unit: number | null = null, item = 1): StockKey => ({
  item: item as ItemId,
  lot: null,
  serial: null,
  ...place(bin, unit),
});
const move = (from: ReturnType<typeof place>, to: ReturnType<typeof place>, amount: number): Movement => ({
  item: 1 as ItemId,
  lot: null,
  serial: null,
  qty: qty(amount),
  from,
  to,
  reason: 'test',
});
const planned = (movements: readonly Movement[]) => {
  const plan = planPosting(movements);
  if (!plan.ok) throw new Error('plausible');
  return plan.value;
};

describe('C15 goods taken from a logistic unit', () => {
  const unit = (bin: number, number: number, amount: number): InUnit => ({ key: key(bin, number), qty: qty(amount), sscc: `S${number}` });

  it('come loose first, then from the unit with the least, then from the oldest', () => {
    const plan = planned([move(place(100), place(101), 10_000)]);
    const missing = missingLoose(plan, new Map([[keyText(key(100)), qty(2000)]]));
    expect(missing).toEqual([{ key: key(100), qty: 8000 }]);
    const taken = takeOutOfUnits(missing, [unit(100, 9, 5000), unit(100, 7, 5000), unit(100, 8, 1000), unit(101, 3, 9000)]);
    expect(taken.map((m) => [m.from.unit, m.qty, m.to.unit, m.to.bin])).toEqual([
      [8, 1000, null, 100],
      [7, 5000, null, 100],
      [9, 2000, null, 100],
    ]);
    expect(taken.every(isOpening)).toBe(true);
  });
  it('nothing is opened for what is carried with its unit, or is there loose', () => {
    const whole = planned([move(place(100, 7), place(101, 7), 5000)]);
    expect(missingLoose(whole, new Map())).toEqual([]);
    const loose = planned([move(place(100), place(101), 5000)]);
    expect(missingLoose(loose, new Map([[keyText(key(100)), qty(5000)]]))).toEqual([]);
  });
  it('a unit is filled by what enters it or comes with it, not by what changes in it where it stands', () => {
    expect(unitsFilled([move(place(2), place(100, 7), 1000), move(place(100, 8), place(101, 8), 1000)])).toEqual([7, 8]);
    expect(unitsFilled([{ ...move(place(100, 7), place(100, 7), 1000), to: { ...place(100, 7), condition: 'held' } }])).toEqual([]);
    expect(unitsFilled([move(place(100, 7), place(100), 1000)])).toEqual([]);
  });
  it('law: with what was taken out, a plan goes through exactly when the bin holds enough in all; no bin gains or loses by it', () => {
    const lying = fc.record({
      loose: fc.integer({ min: 0, max: 9 }),
      a: fc.integer({ min: 0, max: 9 }),
      b: fc.integer({ min: 0, max: 9 }),
    });
    fc.assert(
      fc.property(lying, fc.array(fc.integer({ min: 1, max: 9 }), { minLength: 1, maxLength: 4 }), ({ loose, a, b }, amounts) => {
        const there = new Map<string, Qty>([
          [keyText(key(100)), qty(loose * 1000)],
          [keyText(key(100, 7)), qty(a * 1000)],
          [keyText(key(100, 8)), qty(b * 1000)],
        ]);
        const asked = amounts.map((n, i) => move(place(100), place(101 + i), n * 1000));
        const units = [unit(100, 7, a * 1000), unit(100, 8, b * 1000)];
        const opened = takeOutOfUnits(missingLoose(planned(asked), there), units);
        const decided = decidePosting(planned([...opened, ...asked]), there);
        const wanted = amounts.reduce((s, n) => s + n, 0);
        expect(decided.ok).toBe(wanted <= loose + a + b);
        // Never more is opened than is wanted.
        expect(opened.reduce((s, m) => s + m.qty, 0)).toBe(Math.min(Math.max(0, wanted - loose), a + b) * 1000);
        const after = applyMovements(there, opened);
        const sum = (m: ReadonlyMap<string, Qty>): number => [...m.values()].reduce((s: number, q) => s + q, 0);
        expect(sum(after)).toBe(sum(there));
        expect([...after.values()].every((q) => q >= 0)).toBe(true);
      }),
    );
  });
});
