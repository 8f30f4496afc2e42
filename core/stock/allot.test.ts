import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { qty, type BinId, type LineId, type LotId, type OrderId, type Qty, type SerialId } from '#core/base';
import { Allotment, ASKS_NOTHING, asksNothing, isAskedFor, keyOf, type Asking, type Claim, type Lying } from './allot.ts';
import { decideCuts, decidePromise, FreeGoods, type Pool } from './promise.ts';

const goods = (bin: number, lot: number | null, amount: number, more: Partial<Lying> = {}): Lying => ({
  bin: bin as BinId,
  lot: lot as LotId | null,
  serial: null,
  expires: null,
  qty: qty(amount),
  ...more,
});
const asks = (of: Partial<Record<'lot' | 'bin', number>> & { serials?: number[]; goodOn?: string }): Asking => ({
  lot: (of.lot ?? null) as LotId | null,
  bin: (of.bin ?? null) as BinId | null,
  serials: (of.serials ?? null) as SerialId[] | null,
  goodOn: of.goodOn ?? null,
});

const lot = fc.constantFrom(1, 2, 3);
const bin = fc.constantFrom(11, 12, 13);
const day = fc.constantFrom('2027-01-01', '2027-02-01', '2027-03-01');
const anyLying = fc.array(
  fc.record({ bin, lot: fc.option(lot), expires: fc.option(day), serial: fc.option(fc.integer({ min: 1, max: 4 })), qty: fc.nat(9) }),
  { maxLength: 7 },
) as unknown as fc.Arbitrary<Lying[]>;
const anyAsking = fc
  .record({
    lot: fc.option(lot, { freq: 2 }),
    bin: fc.option(bin, { freq: 1 }),
    serials: fc.option(fc.uniqueArray(fc.integer({ min: 1, max: 4 }), { minLength: 1, maxLength: 3 }), { freq: 1 }),
    goodOn: fc.option(day, { freq: 1 }),
  })
  .map((a) => a as unknown as Asking);
const anyClaims = fc.array(fc.record({ asking: fc.oneof(fc.constant(ASKS_NOTHING), anyAsking), qty: fc.nat(12) }), {
  maxLength: 6,
}) as unknown as fc.Arbitrary<Claim[]>;

/** The most that these claims can have together, by the cut (Ford and Fulkerson, 1956): the least over all sets of claims of what those
 *  outside the set want and what lies that anybody in it takes. Written down as it is told, for few claims. */
function mostTogether(lying: readonly Lying[], claims: readonly Claim[]): number {
  let least = Infinity;
  for (let set = 0; set < 1 << claims.length; set += 1) {
    const inside = claims.filter((_, n) => set & (1 << n));
    const outside = claims.filter((_, n) => !(set & (1 << n))).reduce((sum, c) => sum + c.qty, 0);
    const there = lying.filter((l) => inside.some((c) => isAskedFor(l, c.asking))).reduce((sum, l) => sum + l.qty, 0);
    least = Math.min(least, outside + there);
  }
  return least;
}

describe('what is kept for whom', () => {
  it('one after the other gets all that can be beside those before: equal to the cut, claim by claim', () => {
    fc.assert(
      fc.property(anyLying, anyClaims, (lying, claims) => {
        const allotment = new Allotment(
          lying,
          claims.map((c) => c.asking),
        );
        let given = 0;
        for (const [n, claim] of claims.entries()) {
          given += allotment.give(claim.asking, claim.qty);
          expect(given).toBe(mostTogether(lying, claims.slice(0, n + 1)));
        }
      }),
      { numRuns: 500 },
    );
  });
  it('whatever one takes of its choice, the others can still have theirs', () => {
    fc.assert(
      fc.property(anyLying, anyClaims, fc.nat(), (lying, claims, seed) => {
        const [own] = claims;
        if (!own) return;
        const allotment = new Allotment(
          lying.map((l, n) => ({ ...l, n })),
          claims.map((c) => c.asking),
        );
        const kept = claims.map((c) => ({ ...c, qty: allotment.give(c.asking, c.qty) }));
        const isOwn = (c: Claim): boolean => keyOf(c.asking) === keyOf(own.asking);
        const choice = allotment.choiceOf(own.asking);
        for (const g of choice) expect(isAskedFor(g, own.asking)).toBe(true);
        // As much as those who ask the same were given, from a place by chance on.
        let open = kept.filter(isOwn).reduce((sum, c) => sum + c.qty, 0);
        const after = [...lying];
        const from = seed % (choice.length || 1);
        for (const taken of [...choice.slice(from), ...choice.slice(0, from)]) {
          const much = Math.min(open, taken.qty);
          const there = after[taken.n] as Lying;
          after[taken.n] = { ...there, qty: qty(there.qty - much) };
          open -= much;
        }
        expect(open).toBe(0);
        const rest = kept.filter((c) => !isOwn(c));
        expect(mostTogether(after, rest)).toBe(rest.reduce((sum, c) => sum + c.qty, 0));
      }),
      { numRuns: 500 },
    );
  });
  it('what was marked stands again', () => {
    const allotment = new Allotment([goods(11, 1, 5), goods(12, 2, 5)], [ASKS_NOTHING, asks({ lot: 1 })]);
    allotment.give(ASKS_NOTHING, qty(5));
    const back = allotment.mark();
    expect(allotment.give(asks({ lot: 1 }), qty(9))).toBe(5);
    back();
    expect(allotment.give(ASKS_NOTHING, qty(9))).toBe(5);
    back();
    expect(allotment.give(asks({ lot: 1 }), qty(9))).toBe(5);
  });
  it('two askings are one when they name the same', () => {
    expect(keyOf(asks({ serials: [2, 1] }))).toBe(keyOf(asks({ serials: [1, 2] })));
    expect(keyOf(asks({ serials: [] }))).not.toBe(keyOf(ASKS_NOTHING));
    expect(asksNothing(asks({}))).toBe(true);
    expect(asksNothing(asks({ goodOn: '2027-01-01' }))).toBe(false);
  });
  it('what was never named is the programmer’s mistake', () => {
    expect(() => new Allotment([], []).give(ASKS_NOTHING, qty(1))).toThrow(/Nobody said/);
  });
});

describe('promising goods that are named (F3, F10)', () => {
  const wish = (n: number, wanted: number, asking: Asking) => ({
    line: n as LineId,
    order: n as OrderId,
    pool: 'p' as Pool,
    open: qty(wanted),
    promised: qty(0),
    asking,
  });
  const granted = (free: FreeGoods, ...wishes: ReturnType<typeof wish>[]): number[] =>
    decidePromise(wishes, new Map([['p' as Pool, free]]), 'free').map((g) => g.granted);

  it('a lot that is named is kept for it, by whoever it was promised first', () => {
    const lying = [goods(11, 1, 10), goods(12, 2, 10)];
    const named = wish(2, 10, asks({ lot: 1 }));
    expect(granted(new FreeGoods(lying, [], [ASKS_NOTHING, named.asking]), wish(1, 10, ASKS_NOTHING), named)).toEqual([10, 10]);
    expect(granted(new FreeGoods(lying, [], [ASKS_NOTHING, named.asking]), wish(1, 11, ASKS_NOTHING), named)).toEqual([11, 9]);
  });
  it('goods that must keep until a day are not those that expire before', () => {
    const lying = [goods(11, 1, 4, { expires: '2027-01-01' }), goods(12, 2, 3, { expires: '2027-03-01' }), goods(13, null, 1)];
    const late = wish(1, 9, asks({ goodOn: '2027-02-01' }));
    expect(granted(new FreeGoods(lying, [], [late.asking, ASKS_NOTHING]), late, wish(2, 9, ASKS_NOTHING))).toEqual([4, 4]);
  });
  it('what a round is on its way to fetch cannot be named by anybody else', () => {
    const lying = [goods(11, 1, 10), goods(12, 2, 10)];
    const onWalk = { asking: ASKS_NOTHING, qty: qty(6), planned: [{ bin: 11 as BinId, lot: 1 as LotId, qty: qty(6) }] };
    const named = wish(2, 10, asks({ lot: 1 }));
    expect(granted(new FreeGoods(lying, [onWalk], [named.asking]), named)).toEqual([4]);
    expect(granted(new FreeGoods(lying, [{ ...onWalk, planned: [] }], [named.asking]), named)).toEqual([10]);
  });
  it('an order that takes all or nothing leaves what it cannot have whole, by lot', () => {
    const free = new FreeGoods([goods(11, 1, 5), goods(12, 2, 5)], [], [asks({ lot: 1 }), asks({ lot: 2 })]);
    const whole = [wish(1, 5, asks({ lot: 1 })), { ...wish(2, 6, asks({ lot: 2 })), order: 1 as OrderId }];
    const after = wish(3, 5, asks({ lot: 1 }));
    expect(decidePromise([...whole, after], new Map([['p' as Pool, free]]), 'whole').map((g) => g.granted)).toEqual([0, 0, 5]);
  });

  const anyStanding = fc.array(
    fc.record({
      asking: fc.oneof(fc.constant(ASKS_NOTHING), anyAsking),
      qty: fc.nat(12),
      planned: fc.array(fc.record({ bin, lot: fc.option(lot), qty: fc.nat(6) }), { maxLength: 2 }),
    }),
    { maxLength: 3 },
  );
  it('never more than there is: all that stood and all that was given can be had at once, whatever rounds are on their way', () => {
    fc.assert(
      fc.property(anyLying, anyStanding, anyClaims, (lying, standing, wished) => {
        // What stands could be had before, as the ledger sees to.
        const first = new Allotment(
          lying,
          standing.map((s) => s.asking),
        );
        const held = standing.map((s) => ({ ...s, qty: first.give(s.asking, s.qty as Qty) })) as unknown as ConstructorParameters<
          typeof FreeGoods
        >[1];
        const free = new FreeGoods(
          lying,
          held,
          wished.map((w) => w.asking),
        );
        const given = wished.map((w) => ({ asking: w.asking, qty: free.give(w.asking, w.qty) }));
        const all = [...held, ...given];
        expect(mostTogether(lying, all)).toBe(all.reduce((sum, c) => sum + c.qty, 0));
        // Without rounds nothing is kept back that could be given.
        if (standing.every((s) => s.planned.length === 0))
          expect(given.reduce((sum, g) => sum + g.qty, 0)).toBe(
            mostTogether(lying, [...held, ...wished]) - held.reduce((sum, c) => sum + c.qty, 0),
          );
      }),
      { numRuns: 300 },
    );
  });
  it('when stock is lost the least urgent give way first, and nothing more than must', () => {
    fc.assert(
      fc.property(anyLying, anyClaims, (lying, claims) => {
        const cuts = decideCuts(
          lying,
          claims.map((c, n) => ({ ...c, line: n as LineId })),
        );
        const kept = claims.map((c, n) => c.qty - (cuts.find((cut) => cut.line === n)?.cut ?? 0));
        for (const n of claims.keys())
          expect(kept.slice(0, n + 1).reduce((sum, k) => sum + k, 0)).toBe(mostTogether(lying, claims.slice(0, n + 1)));
      }),
    );
  });
});
