import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { ONE, qty, type BinId, type ItemId, type LineId, type OrderId, type Qty, type SiteId } from '#core/base';
import {
  applyMovements,
  ASKS_NOTHING,
  decideCuts,
  decidePosting,
  decidePromise,
  FreeGoods,
  isOutside,
  keyText,
  OUTSIDE,
  planPosting,
  poolOf,
  reckonEquation,
  reverseMovement,
  type Lying,
  type Movement,
  type StockFact,
} from './index.ts';

const place = (bin: number, condition: 'sound' | 'held' = 'sound') => ({ bin: bin as BinId, unit: null, condition });
const move = (from: number, to: number, amount: number, item = 1): Movement => ({
  item: item as ItemId,
  lot: null,
  serial: null,
  qty: qty(amount),
  from: place(from),
  to: place(to),
  reason: 'test',
});
const bins = fc.constantFrom(1, 2, 3, 100, 101, 102, 103);
const movements = fc.array(
  fc
    .record({ from: bins, to: bins, amount: fc.integer({ min: 1, max: 5000 }), item: fc.integer({ min: 1, max: 3 }) })
    .filter((m) => m.from !== m.to)
    .map((m) => move(m.from, m.to, m.amount, m.item)),
  { maxLength: 40 },
);
const total = (balances: ReadonlyMap<string, Qty>): number => [...balances.values()].reduce((sum: number, q) => sum + q, 0);

describe('movements', () => {
  it('K2 any sequence of movements neither makes nor loses a piece', () => {
    fc.assert(fc.property(movements, (list) => expect(total(applyMovements(new Map(), list))).toBe(0)));
  });
  it('K2 reversing every movement restores what was there', () => {
    fc.assert(
      fc.property(movements, movements, (before, list) => {
        const start = applyMovements(new Map(), before);
        const undone = applyMovements(applyMovements(start, list), list.map((m, i) => reverseMovement(m, i + 1, 'undo')).reverse());
        expect(undone).toEqual(start);
      }),
    );
  });
  it('the plan of a posting changes real bins exactly as the fold does', () => {
    fc.assert(
      fc.property(movements, (list) => {
        const plan = planPosting(list);
        if (!plan.ok) throw new Error('these movements are all plausible');
        const planned = new Map([...plan.value.takes, ...plan.value.puts].map((d) => [keyText(d.key), d.delta]));
        const folded = new Map([...applyMovements(new Map(), list)].filter(([text]) => !isOutside(Number(text.split('|')[0]) as BinId)));
        expect(planned).toEqual(folded);
      }),
    );
  });
});

describe('posting', () => {
  it('a bin never goes below zero: the line, what was asked and what is there are named', () => {
    const plan = planPosting([move(100, 101, 2000), move(100, 102, 4000)]);
    if (!plan.ok) throw new Error('plausible');
    const decision = decidePosting(
      plan.value,
      new Map([[keyText({ item: 1 as ItemId, lot: null, serial: null, ...place(100) }), qty(5000)]]),
    );
    expect(decision).toMatchObject({ ok: false, error: { code: 'stock.binShort', asked: 6000, there: 5000, short: { line: 0 } } });
  });
  it('goods may pass through a bin within one posting', () => {
    const plan = planPosting([move(OUTSIDE.suppliers, 100, 3000), move(100, 101, 3000)]);
    expect(plan).toMatchObject({ ok: true, value: { takes: [], puts: [{ key: { bin: 101 }, delta: 3000 }] } });
  });
  it('refuses to move nothing, to nowhere, or two of one serial', () => {
    expect(planPosting([move(100, 101, 0)])).toMatchObject({ error: { code: 'stock.nothingToMove', line: 0 } });
    expect(planPosting([move(100, 100, 5)])).toMatchObject({ error: { code: 'stock.staysPut' } });
    expect(planPosting([{ ...move(100, 101, 2000), serial: 7 as never }])).toMatchObject({ error: { code: 'stock.serialNotOne' } });
    expect(planPosting([{ ...move(100, 101, ONE), serial: 7 as never }])).toMatchObject({ ok: true });
  });
});

const facts = fc.array(
  fc.record({
    qty: fc.integer({ min: 0, max: 9000 }).map(qty),
    condition: fc.constantFrom('sound', 'inspect', 'held', 'failed'),
    promisable: fc.boolean(),
    expired: fc.boolean(),
  }) as fc.Arbitrary<StockFact>,
);

describe('the stock equation', () => {
  it('B9 on hand = free + promised + held + to inspect + expired, always', () => {
    fc.assert(
      fc.property(facts, fc.integer({ min: 0, max: 20_000 }), (list, promised) => {
        const e = reckonEquation(list, qty(promised));
        expect(e.free + e.promised + e.held + e.toInspect + e.expired).toBe(e.onHand);
      }),
    );
  });
  it('B9 free never exceeds on hand', () => {
    fc.assert(
      fc.property(facts, fc.integer({ min: 0, max: 20_000 }), (list, promised) => {
        const e = reckonEquation(list, qty(promised));
        expect(e.free).toBeLessThanOrEqual(e.onHand);
      }),
    );
  });
  it('E3 expired stock is expired even while it is held', () => {
    expect(reckonEquation([{ qty: qty(5), condition: 'held', promisable: true, expired: true }], qty(0))).toMatchObject({
      expired: 5,
      held: 0,
    });
  });
});

const line = (n: number) => n as LineId;
const order = (n: number) => n as OrderId;
const lying = (amount: number): Lying => ({ bin: 100 as BinId, lot: null, serial: null, expires: null, qty: qty(amount) });
const freeOf = (amount: number) => new FreeGoods([lying(amount)], [], [ASKS_NOTHING]);
const pool = (item: number, site = 1) => poolOf(item as ItemId, site as SiteId);

describe('promising', () => {
  it('F4 promises are never more than was free, and each wish is met or named as missing', () => {
    fc.assert(
      fc.property(
        fc.array(fc.record({ item: fc.integer({ min: 1, max: 3 }), open: fc.nat(50) })),
        fc.array(fc.nat(60), { minLength: 3, maxLength: 3 }),
        (wishes, free) => {
          const stock = new Map(free.map((f, i) => [pool(i + 1), freeOf(f)]));
          const grants = decidePromise(
            wishes.map((w, i) => ({
              line: line(i),
              order: order(i),
              pool: pool(w.item),
              open: qty(w.open),
              promised: qty(0),
              asking: ASKS_NOTHING,
            })),
            stock,
            'free',
          );
          for (const item of [1, 2, 3]) {
            const given = grants.filter((_, i) => wishes[i]?.item === item).reduce((sum, g) => sum + g.granted, 0);
            expect(given).toBeLessThanOrEqual(free[item - 1] ?? 0);
          }
          grants.forEach((g, i) => expect(g.granted + g.missing).toBe(wishes[i]?.open));
        },
      ),
    );
  });
  it('F4 the whole order or nothing of it', () => {
    const wishes = [
      { line: line(1), order: order(1), pool: pool(1), open: qty(5), promised: qty(0), asking: ASKS_NOTHING },
      { line: line(2), order: order(1), pool: pool(2), open: qty(5), promised: qty(0), asking: ASKS_NOTHING },
    ];
    expect(
      decidePromise(
        wishes,
        new Map([
          [pool(1), freeOf(9)],
          [pool(2), freeOf(4)],
        ]),
        'whole',
      ),
    ).toEqual([
      { line: 1, granted: 0, missing: 5 },
      { line: 2, granted: 0, missing: 5 },
    ]);
  });
  it('when stock is lost, the least urgent promise gives way first, and what is in hand stays', () => {
    expect(
      decideCuts(
        [lying(3)],
        [
          { line: line(7), asking: ASKS_NOTHING, qty: qty(6) },
          { line: line(8), asking: ASKS_NOTHING, qty: qty(0) },
          { line: line(9), asking: ASKS_NOTHING, qty: qty(4) },
        ],
      ),
    ).toEqual([
      { line: 7, cut: 3 },
      { line: 9, cut: 4 },
    ]);
  });
});
