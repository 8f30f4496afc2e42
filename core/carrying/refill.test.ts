import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { qty, type BinId, type ItemId, type Qty } from '#core/base';
import { decideRefill, type Face } from './index.ts';

const whole = (n: number): Qty => qty(n * 1000);
const ITEM = 1 as ItemId;
const face = (bin: number, there: number, min: number | null, max: number | null, more: Partial<Face> = {}): Face => ({
  item: ITEM,
  bin: bin as BinId,
  there: whole(there),
  coming: whole(0),
  min: min === null ? null : whole(min),
  max: max === null ? null : whole(max),
  ...more,
});
const refill = (faces: readonly Face[], needed = 0, packs: readonly number[] = []) =>
  decideRefill(faces, new Map([[ITEM, whole(needed)]]), new Map([[ITEM, packs.map(whole)]])).map((w) => [w.face.bin, w.qty / 1000, w.why]);

describe('I5 which pick faces are filled from reserve', () => {
  it('a face below its minimum is filled to its maximum; one that has it is left alone', () => {
    expect(refill([face(10, 3, 5, 20), face(11, 5, 5, 20)])).toEqual([[10, 17, 'belowMin']]);
    expect(refill([face(10, 3, 5, null)])).toEqual([[10, 2, 'belowMin']]);
    expect(refill([face(10, 0, null, 20)])).toEqual([]);
  });
  it('what comes already counts as there', () => {
    expect(refill([face(10, 3, 5, 20, { coming: whole(4) })])).toEqual([]);
  });
  it('what tonight’s orders want beyond all faces of the item is brought, no more than fits', () => {
    expect(refill([face(10, 6, 5, 20)], 6)).toEqual([]);
    expect(refill([face(10, 6, 5, 20)], 7)).toEqual([[10, 14, 'tonight']]);
    expect(refill([face(10, 6, null, null)], 10)).toEqual([[10, 4, 'tonight']]);
    expect(refill([face(10, 6, 5, 20), face(11, 4, 2, 10)], 30)).toEqual([
      [10, 14, 'tonight'],
      [11, 6, 'tonight'],
    ]);
  });
  it('whole packs are brought where that is enough, the largest that is', () => {
    expect(refill([face(10, 3, 5, 20)], 0, [6, 12])).toEqual([[10, 12, 'belowMin']]);
    expect(refill([face(10, 3, 5, 20)], 18, [6, 12])).toEqual([[10, 17, 'belowMin']]);
    expect(refill([face(10, 3, 5, 8)], 0, [12])).toEqual([[10, 5, 'belowMin']]);
  });
  it('law: never above a maximum, never nothing; with enough room no face stays low and nothing that is needed stays away', () => {
    const faces = fc.array(fc.record({ there: fc.nat(40), coming: fc.nat(10), min: fc.option(fc.nat(20)), span: fc.option(fc.nat(30)) }), {
      minLength: 1,
      maxLength: 4,
    });
    fc.assert(
      fc.property(faces, fc.nat(120), fc.array(fc.integer({ min: 2, max: 30 }), { maxLength: 2 }), (made, needed, packs) => {
        const own = made.map((m, n) =>
          face(n + 1, m.there, m.min, m.span === null ? null : (m.min ?? 0) + m.span, { coming: whole(m.coming) }),
        );
        const wants = decideRefill(own, new Map([[ITEM, whole(needed)]]), new Map([[ITEM, packs.map(whole)]]));
        const after = own.map((f) => ({ f, has: f.there + f.coming + (wants.find((w) => w.face === f)?.qty ?? 0) }));
        for (const { f, has } of after) {
          if (f.max !== null) expect(has).toBeLessThanOrEqual(Math.max(f.max, f.there + f.coming));
          // A maximum is never below the minimum: whatever was low is not any more.
          if (f.min !== null) expect(has).toBeGreaterThanOrEqual(f.min);
        }
        for (const w of wants) expect(w.qty).toBeGreaterThan(0);
        const isFull = after.every(({ f, has }) => f.max !== null && has >= f.max);
        const sum = after.reduce((all, a) => all + a.has, 0);
        // Where a face was left alone, or could have held more, nothing is lacking.
        if (!isFull && wants.length < own.length) expect(sum).toBeGreaterThanOrEqual(Math.min(whole(needed), sum));
        if (own.some((f) => f.max === null)) expect(sum).toBeGreaterThanOrEqual(whole(needed));
      }),
      { numRuns: 400 },
    );
  });
});
