import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { qty, type BinId, type ItemId, type LineId, type LotId, type SerialId } from '#core/base';
import { Allotment, ASKS_NOTHING, isAskedFor, type Asking } from '#core/stock';
import { chooseAsked, chooseStock, lessPlanned, type AskedWant, type KeptForOthers, type PickSource } from './index.ts';

const ITEM = 1 as ItemId;
const source = (bin: number, amount: number, more: Partial<Record<'lot' | 'serial', number>> & { expires?: string } = {}): PickSource => ({
  bin: bin as BinId,
  item: ITEM,
  lot: (more.lot ?? null) as LotId | null,
  serial: (more.serial ?? null) as SerialId | null,
  expires: more.expires ?? null,
  arrived: null,
  walk: bin,
  isPickFace: false,
  qty: qty(amount),
});
const asks = (of: Partial<{ lot: number; bin: number; serials: number[]; goodOn: string }>): Asking => ({
  lot: (of.lot ?? null) as LotId | null,
  bin: (of.bin ?? null) as BinId | null,
  serials: (of.serials ?? null) as SerialId[] | null,
  goodOn: of.goodOn ?? null,
});
const want = (line: number, amount: number, asking: Asking = ASKS_NOTHING): AskedWant => ({
  line: line as LineId,
  item: ITEM,
  qty: qty(amount),
  asking,
});
const kept = (amount: number, asking: Asking): KeptForOthers => ({ item: ITEM, asking, qty: qty(amount) });
const picked = (wants: AskedWant[], sources: PickSource[], others: KeptForOthers[] = []): string[] =>
  chooseAsked(wants, sources, others)
    .picks.map((p) => `${p.line}: ${p.qty} from ${p.bin}${p.lot === null ? '' : ` lot ${p.lot}`}`)
    .toSorted();

describe('a round takes what lines name, and leaves what others named (F3, F10)', () => {
  it('the lot that is named, although another expires first', () => {
    const sources = [source(10, 5, { lot: 1, expires: '2027-01-01' }), source(20, 5, { lot: 2, expires: '2027-05-01' })];
    expect(picked([want(1, 3, asks({ lot: 2 })), want(2, 3)], sources)).toEqual(['1: 3 from 20 lot 2', '2: 3 from 10 lot 1']);
  });
  it('what somebody else named is left, although it expires first', () => {
    const sources = [source(10, 5, { lot: 1, expires: '2027-01-01' }), source(20, 5, { lot: 2, expires: '2027-05-01' })];
    expect(picked([want(1, 3)], sources, [kept(5, asks({ lot: 1 }))])).toEqual(['1: 3 from 20 lot 2']);
    expect(picked([want(1, 3)], sources, [kept(3, asks({ lot: 1 }))])).toEqual(['1: 1 from 20 lot 2', '1: 2 from 10 lot 1']);
  });
  it('goods that must keep: not those that expire before, and those who take anything get these', () => {
    const sources = [source(10, 4, { lot: 1, expires: '2027-01-01' }), source(20, 4, { lot: 2, expires: '2027-05-01' })];
    expect(picked([want(1, 4), want(2, 4, asks({ goodOn: '2027-03-01' }))], sources)).toEqual(['1: 4 from 10 lot 1', '2: 4 from 20 lot 2']);
  });
  it('a serial that is named is fetched from its bin; pieces of one bin are one taking', () => {
    const sources = [source(10, 3), source(10, 1, { serial: 7 }), source(20, 1, { serial: 8 })];
    expect(picked([want(1, 2, asks({ serials: [7, 8] })), want(2, 1)], sources)).toEqual(['1: 1 from 10', '1: 1 from 20', '2: 1 from 10']);
    expect(picked([want(2, 4)], sources)).toEqual(['2: 4 from 10']);
  });
  it('a bin that is named, and what it lacks is missing', () => {
    const { picks, missing } = chooseAsked([want(1, 5, asks({ bin: 20 }))], [source(10, 9), source(20, 3)], []);
    expect(picks).toMatchObject([{ bin: 20, qty: 3 }]);
    expect(missing).toMatchObject([{ line: 1, qty: 2 }]);
  });

  const bin = fc.integer({ min: 1, max: 4 });
  const lot = fc.option(fc.integer({ min: 1, max: 3 }));
  const day = fc.option(fc.constantFrom('2027-01-01', '2027-02-01'));
  const anySources = fc
    .array(fc.record({ bin, lot, expires: day, amount: fc.integer({ min: 1, max: 6 }) }), { maxLength: 6 })
    .map((all) => {
      // A bin holds a lot once.
      const once = new Map(all.map((s) => [`${s.bin}|${s.lot ?? ''}`, s]));
      return [...once.values()].map((s) =>
        source(s.bin, s.amount, { ...(s.lot ? { lot: s.lot } : {}), ...(s.expires ? { expires: s.expires } : {}) }),
      );
    });
  const anyAsking = fc
    .record({ lot, bin: fc.option(bin, { freq: 1 }), goodOn: day })
    .map((a): Asking =>
      asks({ ...(a.lot ? { lot: a.lot } : {}), ...(a.bin ? { bin: a.bin } : {}), ...(a.goodOn ? { goodOn: a.goodOn } : {}) }),
    );
  const anyAsks = fc.array(fc.record({ asking: fc.oneof(fc.constant(ASKS_NOTHING), anyAsking), amount: fc.integer({ min: 1, max: 5 }) }), {
    maxLength: 4,
  });
  it('law: each line is served from what it asks; whoever was promised something, here or elsewhere, can still have it', () => {
    fc.assert(
      fc.property(anySources, anyAsks, anyAsks, (sources, mine, theirs) => {
        const ledger = new Allotment(
          sources,
          [...mine, ...theirs].map((a) => a.asking),
        );
        // What is promised is there, as the ledger sees to.
        const wants = mine.map((a, n) => want(n, ledger.give(a.asking, qty(a.amount)), a.asking)).filter((w) => w.qty > 0);
        const others = theirs.map((a) => kept(ledger.give(a.asking, qty(a.amount)), a.asking));
        const { picks, missing } = chooseAsked(wants, sources, others);
        expect(missing).toEqual([]);
        const left = sources.map((s) => ({ ...s }));
        for (const pick of picks) {
          const from = left.find((s) => s.bin === pick.bin && s.lot === pick.lot);
          expect(from && isAskedFor(from, wants.find((w) => w.line === pick.line)?.asking ?? ASKS_NOTHING)).toBe(true);
          if (from) from.qty = qty(from.qty - pick.qty);
        }
        expect(left.every((s) => s.qty >= 0)).toBe(true);
        for (const w of wants) expect(picks.filter((p) => p.line === w.line).reduce((sum, p) => sum + p.qty, 0)).toBe(w.qty);
        const after = new Allotment(
          left,
          others.map((o) => o.asking),
        );
        for (const o of others) expect(after.give(o.asking, o.qty)).toBe(o.qty);
      }),
      { numRuns: 400 },
    );
  });
  it('where nobody names anything it is the choice over all wants together', () => {
    fc.assert(
      fc.property(anySources, fc.array(fc.integer({ min: 1, max: 5 }), { maxLength: 3 }), (sources, amounts) => {
        const wants = amounts.map((a, n) => want(n, a));
        expect(chooseAsked(wants, sources, []).missing).toEqual(chooseStock(wants, sources).missing);
        expect(chooseAsked(wants, sources, []).picks.reduce((sum, p) => sum + p.qty, 0)).toBe(
          chooseStock(wants, sources).picks.reduce((sum, p) => sum + p.qty, 0),
        );
      }),
      { numRuns: 50 },
    );
  });
});

describe('what no round is on its way for', () => {
  const plan = (bin: number, amount: number, serials: number[] | null = null) => ({
    item: ITEM,
    bin: bin as BinId,
    lot: null,
    serials,
    qty: qty(amount),
  });
  const left = (sources: PickSource[], ...plans: ReturnType<typeof plan>[]): [number | null, number][] =>
    lessPlanned(sources, plans).map((s) => [s.serial, s.qty]);

  it('a piece that its line names is that piece; other plans take pieces that nobody named first', () => {
    const sources = [source(10, 1, { serial: 7 }), source(10, 2), source(10, 1, { serial: 8 })];
    expect(left(sources, plan(10, 1, [7]))).toEqual([
      [null, 2],
      [8, 1],
    ]);
    expect(left(sources, plan(10, 2))).toEqual([
      [7, 1],
      [8, 1],
    ]);
    expect(left(sources, plan(10, 3))).toHaveLength(1);
    expect(left(sources, plan(20, 3))).toHaveLength(3);
    expect(left(sources, plan(10, 9))).toEqual([]);
  });
});
