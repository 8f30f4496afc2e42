import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { parseAmount, parseQty, qty, type ItemId, type Qty } from '#core/base';
import {
  decideLines,
  decidePurchaseState,
  isUnitCode,
  judgePurchaseSheet,
  PURCHASE_COLUMNS,
  purchasingSentence,
  reckonReorder,
  unitCodeOf,
  type KnownForPurchases,
  type PurchaseLine,
  type PurchaseState,
  type ReorderFacts,
  type WantedLine,
} from './index.ts';

const q = (text: string): Qty => {
  const read = parseQty(text);
  if (!read.ok) throw new Error(text);
  return read.value;
};
const cost = parseAmount('2.5');
const JAR = 1 as ItemId;
const ROPE = 2 as ItemId;
const OLD = 3 as ItemId;
const itemOf = (item: ItemId) =>
  ({
    [JAR]: { code: 'JR-1', decimals: 0, isRetired: false },
    [ROPE]: { code: 'RP-1', decimals: 2, isRetired: false },
    [OLD]: { code: 'OLD', decimals: 0, isRetired: true },
  })[item] ?? { code: '?', decimals: 0, isRetired: false };
const line = (n: number, item: ItemId, ordered: string, received = '0'): PurchaseLine => ({
  line: n,
  item,
  code: itemOf(item).code,
  qty: q(ordered),
  received: q(received),
  cost,
});
const wanted = (n: number | null, item: ItemId, amount: string): WantedLine => ({ line: n, item, qty: q(amount), cost });
const decide = (lines: readonly PurchaseLine[], after: readonly WantedLine[]) => decideLines({ number: 'PO-1', lines }, after, itemOf);
const said = (result: ReturnType<typeof decide>): string => (result.ok ? '' : purchasingSentence(result.error));

describe('the lines of a purchase order', () => {
  it('B11 become what was saved: added, changed, removed; what is as it was is left alone', () => {
    const before = [line(1, JAR, '10'), line(2, ROPE, '2.5'), line(3, JAR, '4')];
    expect(decide(before, [wanted(1, JAR, '12'), wanted(2, ROPE, '2.5'), wanted(null, ROPE, '0.25')])).toEqual({
      ok: true,
      value: [
        { kind: 'change', line: 1, qty: q('12'), cost },
        { kind: 'add', item: ROPE, qty: q('0.25'), cost },
        { kind: 'remove', line: 3 },
      ],
    });
  });

  it('keep goods that have come: no less than those, and no line of them goes', () => {
    const before = [line(1, JAR, '10', '4')];
    expect(said(decide(before, [wanted(1, JAR, '3')]))).toBe('4 JR-1 have come already; 3 is less. Close the line short instead.');
    expect(said(decide(before, [wanted(null, ROPE, '1')]))).toBe(
      '4 JR-1 of this line have come. It stays; close it short if no more are wanted.',
    );
    expect(decide(before, [wanted(1, JAR, '4')]).ok).toBe(true);
  });

  it.each([
    [[], 'A purchase order wants one line at least. Cancel it if nothing of it is wanted.'],
    [[wanted(null, JAR, '0')], 'Key how many JR-1 are ordered; it must be more than 0.'],
    [[wanted(null, JAR, '-1')], 'Key how many JR-1 are ordered; it must be more than 0.'],
    [[wanted(null, JAR, '1.5')], 'JR-1 is ordered whole.'],
    [[wanted(null, ROPE, '0.125')], 'RP-1 is ordered to 2 decimals.'],
    [[wanted(null, OLD, '1')], 'OLD is retired. Bring it back on its page before it is ordered.'],
    [[wanted(7, JAR, '1')], 'Line 7 is not in PO-1. Somebody may have removed it; read the order again.'],
    [[wanted(1, ROPE, '1')], 'A line of PO-1 stays a line of its item: remove that of JR-1 and add another.'],
    [[wanted(1, JAR, '1'), wanted(1, JAR, '2')], 'Line 1 is not in PO-1. Somebody may have removed it; read the order again.'],
  ])('refuse what cannot be ordered: %#', (after, sentence) => {
    expect(said(decide([line(1, JAR, '10')], after))).toBe(sentence);
  });

  it('law: what is saved is what is there afterwards, whatever was there before', () => {
    const amount = fc.integer({ min: 1, max: 50 }).map(String);
    const some = fc.array(fc.record({ item: fc.constantFrom(JAR, ROPE), amount }), { minLength: 1, maxLength: 6 });
    fc.assert(
      fc.property(some, fc.array(fc.option(amount), { minLength: 6, maxLength: 6 }), some, (before, keeps, added) => {
        const lines = before.map((b, n) => line(n + 1, b.item, b.amount));
        const kept = lines.flatMap((l, n) => (keeps[n] ? [wanted(l.line, l.item, keeps[n])] : []));
        const after = [...kept, ...added.map((a) => wanted(null, a.item, a.amount))];
        const decided = decide(lines, after);
        if (!decided.ok) throw new Error(said(decided));
        const there = new Map(lines.map((l) => [l.line, { item: l.item, qty: l.qty }]));
        let next = 100;
        for (const c of decided.value) {
          if (c.kind === 'remove') there.delete(c.line);
          else if (c.kind === 'change') there.set(c.line, { item: there.get(c.line)?.item ?? JAR, qty: c.qty });
          else there.set((next += 1), { item: c.item, qty: c.qty });
        }
        expect([...there.values()]).toEqual(after.map((a) => ({ item: a.item, qty: a.qty })));
      }),
    );
  });
});

describe('the state of a purchase order', () => {
  const order = (state: PurchaseState, more: object = {}) => ({
    number: 'PO-1',
    state,
    wasApproved: state !== 'draft',
    hasGoods: false,
    missing: true,
    delivery: null,
    ...more,
  });

  it('goes from draft to approved to its end, and back from there', () => {
    expect(decidePurchaseState(order('draft'), 'approve')).toEqual({ ok: true, value: 'open' });
    expect(decidePurchaseState(order('open'), 'close')).toEqual({ ok: true, value: 'closed' });
    expect(decidePurchaseState(order('closed'), 'takeUp')).toEqual({ ok: true, value: 'open' });
    expect(decidePurchaseState(order('cancelled', { wasApproved: false }), 'takeUp')).toEqual({ ok: true, value: 'draft' });
    expect(decidePurchaseState(order('open', { missing: false }), 'change')).toEqual({ ok: true, value: 'closed' });
  });

  it.each([
    [order('open'), 'approve', 'PO-1 is approved; it cannot be approved now.'],
    [order('draft'), 'send', 'PO-1 is a draft; it cannot be sent now.'],
    [order('cancelled'), 'change', 'PO-1 is cancelled; it cannot be changed now.'],
    [order('open', { delivery: 'DL-9' }), 'close', 'PO-1 is being received in DL-9. Post that, or throw it away, first.'],
    [
      order('open', { hasGoods: true }),
      'cancel',
      'Goods of PO-1 have come. Close it short: what has not come is expected no longer, and what has come stays on record.',
    ],
    [order('closed', { missing: false }), 'takeUp', 'PO-1 is closed; it cannot be taken up again now.'],
  ] as const)('refuses what its state does not allow: %#', (of, act, sentence) => {
    const decided = decidePurchaseState(of, act);
    expect(decided.ok ? '' : purchasingSentence(decided.error)).toBe(sentence);
  });
});

describe('what to buy', () => {
  const facts = (more: Partial<ReorderFacts>): ReorderFacts => ({
    here: qty(0),
    coming: qty(0),
    drafted: qty(0),
    promised: qty(0),
    waiting: qty(0),
    used: qty(0),
    days: 28,
    leadDays: 7,
    least: null,
    most: null,
    pack: q('1'),
    decimals: 0,
    ...more,
  });

  it.each([
    ['enough is here', { here: q('20'), least: q('20'), most: q('50') }, '0', null],
    ['below the least', { here: q('19'), least: q('20'), most: q('50') }, '31', 'least'],
    ['what is coming counts', { here: q('5'), coming: q('15'), least: q('20'), most: q('50') }, '0', null],
    ['so does what stands on a draft: twice is not doubled', { here: q('5'), drafted: q('45'), least: q('20'), most: q('50') }, '0', null],
    ['whole packs', { here: q('5'), least: q('20'), most: q('50'), pack: q('12') }, '48', 'least'],
    ['what is promised is as good as gone', { here: q('30'), promised: q('15'), least: q('20'), most: q('40') }, '25', 'least'],
    ['orders wait, and no level is said', { here: q('2'), promised: q('2'), waiting: q('7') }, '7', 'waiting'],
    ['it runs out before more comes: 40 a week', { here: q('30'), used: q('160'), least: q('10') }, '50', 'use'],
    ['nothing is said of it and nobody wants it', { here: q('0') }, '0', null],
    ['a most below what is used meanwhile', { used: q('160'), most: q('10') }, '40', 'use'],
  ])('B11 %s', (_, more, buy, reason) => {
    expect(reckonReorder(facts(more))).toMatchObject({ buy: q(buy), reason });
  });

  it('law: what is bought brings it up to where it should be, by no pack too many, and nothing is bought twice', () => {
    const steps = fc.integer({ min: 0, max: 200 }).map((n) => qty(n * 1000));
    fc.assert(
      fc.property(
        fc.record({
          here: steps,
          coming: steps,
          drafted: steps,
          promised: steps,
          waiting: steps,
          used: steps,
          leadDays: fc.integer({ min: 0, max: 60 }),
          least: fc.option(steps),
          most: fc.option(fc.integer({ min: 1, max: 400 }).map((n) => qty(n * 1000))),
          pack: fc.integer({ min: 1, max: 24 }).map((n) => qty(n * 1000)),
        }),
        (some) => {
          const f = facts(some);
          const r = reckonReorder(f);
          if (r.reason === null) {
            expect(r.position).toBeGreaterThanOrEqual(r.level);
            expect(r.buy).toBe(0);
            return;
          }
          expect(r.buy % f.pack).toBe(0);
          expect(r.position + r.buy).toBeGreaterThanOrEqual(r.upTo);
          if (r.packs > 1) expect(r.position + r.buy - f.pack).toBeLessThan(r.upTo);
          expect(reckonReorder({ ...f, drafted: qty(f.drafted + r.buy) }).reason).toBeNull();
        },
      ),
    );
  });
});

describe('a sheet of purchase orders', () => {
  const at = new Map(PURCHASE_COLUMNS.map((c, n) => [c.key, n]));
  const jar = { item: JAR, code: 'JR-1', decimals: 0, isRetired: false, packs: new Map([['CASE', q('12')]]) };
  const known: KnownForPurchases = {
    suppliers: new Map([
      ['SALTQUILL', { id: 7, name: 'Saltquill' }],
      ['S7', { id: 7, name: 'Saltquill' }],
    ]),
    items: new Map([
      ['JR-1', jar],
      ['9521230000017', jar],
      ['7|AB 9', jar],
      ['OLD', { ...jar, item: OLD, code: 'OLD', isRetired: true }],
    ]),
    costs: new Map([['7|1', parseAmount('3.2')]]),
    references: new Map([['7|WEEK 47', 'PO-3040']]),
    dueOf: () => '2026-12-04',
    today: '2026-11-27',
  };
  const judge = (...rows: string[][]) =>
    judgePurchaseSheet(
      at,
      rows.map((cells, n) => ({ row: n + 2, cells })),
      known,
    );

  it('C12 becomes drafts: by reference, else by supplier; goods by code, barcode or the supplier’s number; packs; costs', () => {
    const { orders, verdicts } = judge(
      ['Saltquill', 'JR-1', '2', 'W48', 'case', '3,10', '4.12.2026'],
      ['S7', '9521230000017', '6', 'w48', '', '', ''],
      ['saltquill', 'ab 9', '5', '', '', '', ''],
    );
    expect(verdicts.map((v) => v.verdict)).toEqual(['new', 'new', 'new']);
    expect(orders).toEqual([
      { supplier: 7, reference: 'W48', due: '2026-12-04', lines: [{ item: JAR, qty: q('30'), cost: parseAmount('3.1') }] },
      { supplier: 7, reference: '', due: '2026-12-04', lines: [{ item: JAR, qty: q('5'), cost: parseAmount('3.2') }] },
    ]);
  });

  it('names every fault of a row', () => {
    const { verdicts, orders } = judge(
      ['Nobody', 'XX', 'many', '', '', '', ''],
      ['S7', 'JR-1', '1.5', '', 'crate', '1.2.3', '31.2.2027'],
      ['S7', 'JR-1', '1', 'Week 47', '', '', '1.1.2026'],
      ['S7', 'OLD', '-1', '', '', '', ''],
    );
    expect(orders).toEqual([]);
    expect(verdicts.map((v) => v.says)).toEqual([
      'There is no supplier “Nobody”. There is no item “XX”. “many” is no quantity.',
      'JR-1 does not come by “crate”. “1.2.3” under Cost is no amount, or can be read in two ways. “31.2.2027” under Due is no day.',
      '2026-01-01 is past. Order Week 47 was imported before, as PO-3040.',
      'OLD is retired. “-1” is no quantity.',
    ]);
  });
});

describe('units in papers for other programs', () => {
  it('L7 are those of UN/ECE Recommendation 20; what has none is counted', () => {
    expect(['each', 'm', 'kg', 'frame'].map(unitCodeOf)).toEqual(['EA', 'MTR', 'KGM', 'C62']);
    expect([
      isUnitCode('EA', 'frame'),
      isUnitCode('C62', 'each'),
      isUnitCode('MTR', 'm'),
      isUnitCode('KGM', 'm'),
      isUnitCode('EA', 'm'),
    ]).toEqual([true, true, true, false, false]);
  });
});
