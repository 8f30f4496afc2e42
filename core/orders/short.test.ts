import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { qty, ZERO, type Qty } from '#core/base';
import { explainShort, type BesideFree } from './short.ts';

const NOTHING: BesideFree = {
  asks: null,
  free: ZERO,
  elsewhere: [],
  held: [],
  toInspect: ZERO,
  expired: ZERO,
  apart: [],
  coming: [],
  promised: [],
};
const units = (n: number): Qty => qty(n * 1000);
const said = (missing: number, beside: Partial<BesideFree>): readonly string[] =>
  explainShort(units(missing), { ...NOTHING, ...beside }, (d) => d);

describe('why not all is promised, and what would mend it (F4)', () => {
  it.each<[Partial<BesideFree>, string[]]>([
    [{}, ['none is on order']],
    [{ asks: 'lot L7', free: units(9) }, ['9 free, but not as asked: lot L7', 'none is on order']],
    [{ free: units(9) }, ['none is on order']],
    [{ elsewhere: [{ site: 'the barn', qty: units(30) }] }, ['30 at the barn']],
    [{ held: [{ reason: 'lids warped', qty: units(12) }] }, ['12 held: lids warped']],
    [{ coming: [{ number: 'PO-3031', due: 'Tuesday', qty: units(50) }] }, ['50 on Tuesday with PO-3031']],
    [{ toInspect: units(4) }, ['4 to inspect']],
    [{ apart: [{ zone: 'CAGE', qty: units(2) }] }, ['2 in CAGE, which is not promised from', 'none is on order']],
    [{ expired: units(5) }, ['5 expired', 'none is on order']],
    [{ promised: [{ order: 'CO-7', due: 'Friday', qty: units(8) }] }, ['8 promised to CO-7, due Friday', 'none is on order']],
  ])('%j: %j', (beside, wanted) => {
    expect(said(10, beside)).toEqual(wanted);
  });
  it('names no more than it takes, and never more than two of a kind', () => {
    const coming = [1, 2, 3].map((n) => ({ number: `PO-${n}`, due: `day ${n}`, qty: units(6) }));
    expect(said(5, { coming })).toEqual(['6 on day 1 with PO-1']);
    expect(said(20, { coming })).toHaveLength(2);
  });
  it('says nothing where nothing is missing, and nothing of nothing', () => {
    expect(explainShort(ZERO, { ...NOTHING, toInspect: units(1) }, (d) => d)).toEqual([]);
    expect(said(1, { elsewhere: [{ site: 'a', qty: ZERO }], coming: [{ number: 'PO-1', due: 'd', qty: units(1) }] })).toEqual([
      '1 on d with PO-1',
    ]);
  });
  it('law: for whatever is beside, each sentence names a quantity that is there, the soonest first', () => {
    const amount = fc.integer({ min: 0, max: 40 }).map(units);
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 60 }), fc.array(amount, { maxLength: 5 }), (missing, all) => {
        const coming = all.map((q, n) => ({ number: `PO-${n}`, due: `${n}`, qty: q }));
        const there = coming.filter((c) => c.qty > 0);
        const told = said(missing, { coming }).filter((s) => s.includes('PO-'));
        expect(told).toEqual(there.slice(0, told.length).map((c) => `${c.qty / 1000} on ${c.due} with ${c.number}`));
        const named = there.slice(0, told.length).reduce((sum, c) => sum + c.qty, 0);
        expect(told.length === 2 || named >= units(missing) || told.length === there.length).toBe(true);
      }),
    );
  });
});
