import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { qty, seeded, sumQty, type BinId, type ItemId, type LineId, type LotId, type Qty } from '#core/base';
import { chooseStock, type PickSource } from './choose.ts';
import { costOfCover, coverNeeds, isLess, type CoverCost, type Need, type Shelved, type Taking } from './cover.ts';

const source = (item: number, bin: number, amount: number, more: Partial<PickSource> = {}): PickSource => ({
  bin: bin as BinId,
  item: item as ItemId,
  lot: null,
  serial: null,
  expires: null,
  arrived: null,
  walk: bin,
  isPickFace: false,
  qty: qty(amount),
  ...more,
});
const want = (line: number, item: number, amount: number) => ({ line: line as LineId, item: item as ItemId, qty: qty(amount) });
const binsOf = (wants: ReturnType<typeof want>[], sources: PickSource[]): number[] =>
  chooseStock(wants, sources)
    .picks.map((p) => p.bin as number)
    .toSorted((a, b) => a - b);

describe('the bins of a round, chosen over all wants together (G2)', () => {
  it('one bin that has both items is one stop, although each has a nearer one of its own', () => {
    expect(binsOf([want(1, 1, 2), want(2, 2, 2)], [source(1, 10, 5), source(2, 11, 5), source(1, 90, 5), source(2, 90, 5)])).toEqual([
      90, 90,
    ]);
  });
  it('where one must stop for what expires first, the other item is taken, too', () => {
    const dated = source(1, 50, 3, { lot: 1 as LotId, expires: '2027-01-01' });
    expect(binsOf([want(1, 1, 3), want(2, 2, 1)], [dated, source(2, 10, 9), source(2, 50, 9)])).toEqual([50, 50]);
  });
  it('no case is opened where loose pieces serve; a whole pallet is taken whole', () => {
    const packs = [qty(12), qty(120)];
    expect(binsOf([want(1, 1, 3)], [source(1, 10, 24, { packs }), source(1, 20, 15, { packs })])).toEqual([20]);
    expect(binsOf([want(1, 1, 120)], [source(1, 10, 130, { packs }), source(1, 20, 120, { packs })])).toEqual([20]);
  });
  it('then the bin that becomes empty, then the pick face, then walking order', () => {
    expect(binsOf([want(1, 1, 5)], [source(1, 10, 9, { isPickFace: true }), source(1, 20, 5)])).toEqual([20]);
    expect(binsOf([want(1, 1, 5)], [source(1, 10, 9), source(1, 20, 9, { isPickFace: true })])).toEqual([20]);
    expect(binsOf([want(1, 1, 5)], [source(1, 30, 9), source(1, 20, 9)])).toEqual([20]);
  });
  it('a want that fits into one of the chosen bins is taken out of one', () => {
    const { picks } = chooseStock([want(1, 1, 4), want(2, 1, 6)], [source(1, 10, 6), source(1, 20, 4)]);
    expect(picks.map((p) => [p.line, p.bin, p.qty])).toEqual([
      [1, 20, 4],
      [2, 10, 6],
    ]);
  });

  // Every way to take what is wanted, looked through one by one.
  function* everyTaking(need: Qty, sources: readonly Shelved[]): Generator<Taking<Shelved>[]> {
    const [first, ...rest] = sources;
    if (!first) {
      if (need === 0) yield [];
      return;
    }
    for (let n = 0; n <= Math.min(need, first.qty); n += 1)
      for (const more of everyTaking((need - n) as Qty, rest)) yield n === 0 ? more : [{ source: first, qty: n as Qty }, ...more];
  }
  const leavesOne = (taken: readonly Taking<Shelved>[]): boolean => taken.filter((t) => t.qty < t.source.qty).length <= 1;
  function* everyCover(needs: readonly Need<Shelved>[]): Generator<Taking<Shelved>[][]> {
    const [first, ...rest] = needs;
    if (!first) yield [];
    else
      for (const own of everyTaking(first.qty, first.sources))
        if (leavesOne(own)) for (const more of everyCover(rest)) yield [own, ...more];
  }

  it('law: as good as the best of all ways there are, by the whole rule (500 floors by chance)', () => {
    const shelf = fc.record({
      bin: fc.integer({ min: 1, max: 5 }),
      qty: fc.integer({ min: 1, max: 4 }).map(qty),
      isPickFace: fc.boolean(),
    });
    const need = fc
      .record({
        sources: fc.uniqueArray(shelf, { selector: (s) => s.bin, minLength: 1, maxLength: 4 }),
        share: fc.double({ min: 0.1, max: 1, noNaN: true }),
        pack: fc.constantFrom([], [qty(2)], [qty(3)]),
      })
      .map(({ sources, share, pack }): Need<Shelved> => {
        const all = sources.map((s) => ({ ...s, walk: s.bin * 10, packs: pack }));
        return { sources: all, qty: qty(Math.max(1, Math.floor(sumQty(all.map((s) => s.qty)) * share))) };
      });
    fc.assert(
      fc.property(fc.array(need, { minLength: 1, maxLength: 3 }), fc.subarray([1, 2, 3, 4, 5], { maxLength: 2 }), (needs, anyway) => {
        const stops = new Set(anyway);
        const chosen = coverNeeds(needs, stops);
        for (const [i, own] of chosen.entries()) expect(sumQty(own.map((t) => t.qty))).toBe(needs[i]?.qty);
        let best: CoverCost | null = null;
        for (const cover of everyCover(needs)) {
          const cost = costOfCover(cover, stops);
          if (!best || isLess(cost, best)) best = cost;
        }
        expect(costOfCover(chosen, stops)).toEqual(best);
      }),
      { numRuns: 500 },
    );
  });

  it('law: of very many needs at once each gets what it needs, at hardly more stops than if they were searched in parts', () => {
    for (let seed = 1; seed <= 10; seed += 1) {
      const random = seeded(seed);
      const needs = Array.from({ length: 200 }, (): Need<Shelved> => {
        const bins = [...new Set(Array.from({ length: random.int(1, 4) }, () => random.int(1, 160)))];
        const sources = bins.map((bin) => ({ bin, walk: bin, isPickFace: false, packs: [], qty: qty(random.int(1, 6)) }));
        return { sources, qty: qty(random.int(1, sumQty(sources.map((s) => s.qty)))) };
      });
      const chosen = coverNeeds(needs, new Set());
      for (const [i, own] of chosen.entries()) {
        expect(sumQty(own.map((t) => t.qty))).toBe(needs[i]?.qty);
        for (const t of own) expect(t.qty).toBeLessThanOrEqual(t.source.qty);
      }
      const [stops] = costOfCover(chosen, new Set());
      const parts = [0, 50, 100, 150].map((from) => needs.slice(from, from + 50));
      const open = new Set<number>();
      for (const part of parts) for (const t of coverNeeds(part, open).flat()) open.add(t.source.bin);
      expect(stops).toBeLessThanOrEqual(open.size * 1.05);
    }
  });

  it('law: no source gives more than it has, what expires first is gone before the next is touched, and all is given that there is', () => {
    const stock = fc.array(
      fc.record({
        item: fc.integer({ min: 1, max: 3 }),
        bin: fc.integer({ min: 1, max: 8 }),
        amount: fc.integer({ min: 1, max: 9 }),
        lot: fc.integer({ min: 1, max: 3 }),
      }),
      { maxLength: 14 },
    );
    const asked = fc.array(fc.record({ item: fc.integer({ min: 1, max: 3 }), amount: fc.integer({ min: 1, max: 15 }) }), { maxLength: 6 });
    fc.assert(
      fc.property(stock, asked, (there, wanted) => {
        const merged = new Map<string, PickSource>();
        for (const t of there) {
          const lot = { lot: (t.item * 10 + t.lot) as LotId, expires: `2027-0${t.lot}-01` };
          merged.set(`${t.item} ${t.bin} ${t.lot}`, source(t.item, t.bin, t.amount, lot));
        }
        const sources = [...merged.values()];
        const wants = wanted.map((w, i) => want(i, w.item, w.amount));
        const { picks, missing } = chooseStock(wants, sources);
        for (const w of wants) {
          const got = sumQty(picks.filter((p) => p.line === w.line).map((p) => p.qty));
          const lost = sumQty(missing.filter((m) => m.line === w.line).map((m) => m.qty));
          expect(got + lost).toBe(w.qty);
        }
        for (const item of new Set(wants.map((w) => w.item))) {
          const own = sources.filter((s) => s.item === item);
          const all = sumQty(own.map((s) => s.qty));
          const asks = sumQty(wants.filter((w) => w.item === item).map((w) => w.qty));
          expect(sumQty(picks.filter((p) => p.item === item).map((p) => p.qty))).toBe(Math.min(all, asks));
          const takenOf = (s: PickSource): number =>
            sumQty(picks.filter((p) => p.item === item && p.bin === s.bin && p.lot === s.lot).map((p) => p.qty));
          const touched = own.filter((s) => takenOf(s) > 0).map((s) => s.expires ?? '');
          const last = touched.toSorted().at(-1) ?? '';
          for (const s of own) {
            expect(takenOf(s)).toBeLessThanOrEqual(s.qty);
            if ((s.expires ?? '') < last) expect(takenOf(s)).toBe(s.qty);
          }
        }
      }),
    );
  });
});
