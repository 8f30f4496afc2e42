import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { qty, type Qty } from '#core/base';
import { decideLineChange, sayLineChange, type LineAtWork } from './change-line.ts';

const units = (n: number): Qty => qty(n * 1000);
const line = (is: Partial<Record<keyof Omit<LineAtWork, 'item'>, number>>): LineAtWork => ({
  item: 'AN-1',
  ...{ qty: units(is.qty ?? 10), shipped: units(is.shipped ?? 0), promised: units(is.promised ?? 0) },
  ...{ inHand: units(is.inHand ?? 0), planned: units(is.planned ?? 0) },
});

describe('a line that is changed (F)', () => {
  it.each<[number, Parameters<typeof line>[0], { cut: number; unplan: number; putBack: number }]>([
    [12, { promised: 10 }, { cut: 0, unplan: 0, putBack: 0 }],
    [6, { promised: 10 }, { cut: 4, unplan: 0, putBack: 0 }],
    [6, { promised: 4 }, { cut: 0, unplan: 0, putBack: 0 }],
    [6, { promised: 10, planned: 10 }, { cut: 4, unplan: 4, putBack: 0 }],
    [6, { promised: 10, planned: 7, inHand: 3 }, { cut: 4, unplan: 4, putBack: 0 }],
    [2, { promised: 10, planned: 7, inHand: 3 }, { cut: 8, unplan: 7, putBack: 1 }],
    [0, { promised: 10, inHand: 10 }, { cut: 10, unplan: 0, putBack: 10 }],
    [4, { shipped: 4, promised: 6, inHand: 6 }, { cut: 6, unplan: 0, putBack: 6 }],
  ])('to %d of %j', (to, is, wanted) => {
    const decided = decideLineChange(units(to), line(is));
    const { cut, unplan, putBack } = decided.ok ? decided.value : { cut: 0, unplan: 0, putBack: -1 };
    expect({ cut: cut / 1000, unplan: unplan / 1000, putBack: putBack / 1000 }).toEqual(wanted);
  });
  it('fewer than have left is refused by name', () => {
    const decided = decideLineChange(units(3), line({ shipped: 4 }));
    expect(decided.ok ? null : decided.error).toEqual({ code: 'orders.fewerThanShipped', item: 'AN-1', asked: '3', shipped: '4' });
  });
  it('law: what stays of hands, plans and promise is what is still wanted, and no more of anything is undone than must be', () => {
    const n = fc.integer({ min: 0, max: 9 });
    fc.assert(
      fc.property(n, n, n, n, n, (to, shipped, inHand, planned, more) => {
        const promised = inHand + planned + more;
        const decided = decideLineChange(units(to), line({ qty: shipped + promised, shipped, promised, inHand, planned }));
        if (to < shipped) return expect(decided.ok).toBe(false);
        const { cut, unplan, putBack } = decided.ok ? decided.value : { cut: -1, unplan: -1, putBack: -1 };
        const open = units(to - shipped);
        expect(units(inHand) - putBack + units(planned) - unplan).toBeLessThanOrEqual(open);
        expect(units(promised) - cut).toBe(Math.min(units(promised), open));
        // What is in hand and planned is never more than is promised.
        expect(units(inHand + planned) - putBack - unplan).toBeLessThanOrEqual(units(promised) - cut);
        if (putBack > 0) expect(unplan).toBe(units(planned));
        if (inHand + planned <= open / 1000) expect([putBack, unplan]).toEqual([0, 0]);
        return expect(Math.min(cut, unplan, putBack)).toBeGreaterThanOrEqual(0);
      }),
    );
  });
  it('says what it did, and nothing where it did nothing else', () => {
    const nothing = { qty: units(1), cut: units(0), unplan: units(0), putBack: units(0) };
    expect(sayLineChange(nothing, null)).toEqual([]);
    expect(sayLineChange({ qty: units(1), cut: units(4), unplan: units(2), putBack: units(3) }, 'ARRIVALS')).toEqual([
      '3 went from cart or bench back to ARRIVALS, to be put away.',
      '2 fewer are taken on the round.',
      '4 are free again.',
    ]);
  });
});
