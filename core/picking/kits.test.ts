import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { qty, type ItemId, type Qty } from '#core/base';
import { eachOfKit, kitsInHand, takenByKits } from '#core/items';
import { decideAssembly, partInHand, type KitPartInHand } from './index.ts';

const whole = (n: number): Qty => qty(n * 1000);
const part = (n: number, each: Qty, inHand: Qty): KitPartInHand => ({ item: n as ItemId, code: `P-${n}`, each, inHand });
const decide = (made: Qty, left: Qty, parts: readonly KitPartInHand[]) => decideAssembly(made, { kit: 'KIT', order: 'CO-9', left, parts });
const parts = fc.array(fc.tuple(fc.integer({ min: 1, max: 9000 }), fc.integer({ min: 0, max: 60_000 })), { minLength: 1, maxLength: 5 });

describe('G9 how many kits the parts in hand make', () => {
  it('a law: exactly so many as `kitsInHand` says can be made, and not one more', () => {
    fc.assert(
      fc.property(parts, fc.integer({ min: 0, max: 12 }), (of, left) => {
        const known = of.map(([each, inHand], n) => part(n, qty(each), qty(inHand)));
        const most = kitsInHand(whole(left), known);
        if (most > 0) expect(decide(most, whole(left), known).ok).toBe(true);
        expect(decide(qty(most + 1000), whole(left), known).ok).toBe(false);
        expect(most).toBeLessThanOrEqual(left * 1000);
      }),
    );
  });
  it('a law: made in any portions, they take in all what they take at once, and leave nothing below zero', () => {
    fc.assert(
      fc.property(parts, fc.array(fc.integer({ min: 1, max: 3 }), { maxLength: 5 }), (of, portions) => {
        const all = portions.reduce((a, b) => a + b, 0);
        const eachOf = of.map(([each]) => qty(each));
        let made = qty(0);
        for (const n of portions) {
          const known = eachOf.map((each, i) => part(i, each, partInHand([takenByKits(each, whole(all))], each, made)));
          const decided = decide(whole(n), qty(whole(all) - made), known);
          expect(decided).toEqual({ ok: true, value: { takes: eachOf.map((each) => takenByKits(each, whole(n))) } });
          made = qty(made + n * 1000);
        }
        for (const each of eachOf) expect(partInHand([takenByKits(each, whole(all))], each, made)).toBe(0);
      }),
    );
  });
  it('an order knows what one kit takes from what all of them want', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 20_000 }), fc.integer({ min: 1, max: 500 }), (each, kits) => {
        expect(eachOfKit(takenByKits(qty(each), whole(kits)), whole(kits))).toBe(each);
      }),
    );
  });
  it('none, half a kit, more than are left, and the part that is short: each is said', () => {
    const known = [part(1, whole(2), whole(7)), part(2, qty(500), qty(1200))];
    const errorOf = (made: Qty, left = whole(5)) => {
      const decided = decide(made, left, known);
      return decided.ok ? null : decided.error;
    };
    expect(errorOf(whole(2))).toBeNull();
    expect(errorOf(qty(0))).toMatchObject({ code: 'picking.nothing' });
    expect(errorOf(qty(1500))).toMatchObject({ code: 'picking.tooFine', asked: '1.5' });
    expect(errorOf(whole(3), whole(2))).toMatchObject({ code: 'picking.kitsMade', left: 2000 });
    expect(errorOf(whole(3))).toMatchObject({ code: 'picking.partsShort', part: 'P-2', has: 1200, needs: 1500 });
    expect(errorOf(whole(4))).toMatchObject({ code: 'picking.partsShort', part: 'P-1', has: 7000, needs: 8000 });
  });
});
