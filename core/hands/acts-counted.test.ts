import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { formatQty, qty, type Qty } from '#core/base';
import { CARRY_BEGINS, carryDeltasOf, foldCarry, stepCarry, type CarryDoes, type CarryJob } from '#core/carrying';
import type { ContentFact } from '#core/floor';
import {
  foldRound,
  NOTHING_NAMED,
  openOf,
  PICK_BEGINS,
  pickDeltasOf,
  stepPick,
  stopsOf,
  type PickDoes,
  type RoundJob,
} from '#core/picking';
import { BINS, codeOf, GOODS, scanOf, stampNow, testFloor } from '../floor/testing.ts';

// What a hand does at a stop, counted: a scan is one act, a number keyed is one. Nothing that a scanner can do needs the screen.

const whole = (n: number): Qty => qty(n * 1000);
const SHELVES = [BINS.a, BINS.b, BINS.c, BINS.empty];
type Line = { readonly shelf: number; readonly goods: 'jar' | 'rope'; readonly many: number };
const lines = fc.uniqueArray(
  fc.record({ shelf: fc.nat(3), goods: fc.constantFrom<'jar' | 'rope'>('jar', 'rope'), many: fc.integer({ min: 1, max: 9 }) }),
  { minLength: 1, maxLength: 8, selector: (l) => `${l.shelf} ${l.goods}` },
);
const lying = (of: readonly Line[]): Partial<ContentFact>[] =>
  of.map((l) => ({ bin: SHELVES[l.shelf]?.id ?? BINS.a.id, item: GOODS[l.goods].id, qty: l.many as Qty }));
// Bin, goods, and a number where there is more than one.
const least = (of: readonly Line[]): number =>
  new Set(of.map((l) => l.shelf)).size + of.reduce((sum, l) => sum + 1 + (l.many > 1 ? 1 : 0), 0);

/** Plays a round by the fewest acts: returns how many it took until nothing was left. */
function walkPicks(of: readonly Line[]): number {
  const facts = testFloor(lying(of));
  const job: RoundJob = {
    ...{
      id: 1,
      number: 'RD-1',
      state: 'open',
      person: null,
      cart: BINS.cart.id,
      packingBin: BINS.bench.id,
      way: [],
      legs: [],
      taken: [],
      kits: [],
    },
    picks: of.map((l, n) => ({
      ...{ key: `p${n}`, order: 'CO-1', line: n, slot: 1, bin: SHELVES[l.shelf]?.id ?? BINS.a.id, item: GOODS[l.goods].id },
      ...{ lot: null, qty: whole(l.many), trouble: null, named: NOTHING_NAMED, kept: [] },
    })),
  };
  const done: { does: PickDoes; stamp: ReturnType<typeof stampNow> }[] = [];
  let at = PICK_BEGINS;
  let acts = 0;
  const act = (event: Parameters<typeof stepPick>[1]): void => {
    const stamp = stampNow();
    const stepped = stepPick(at, event, foldRound(job, done), facts, stamp);
    expect(stepped.says.tone).toBe('right');
    at = stepped.at;
    for (const does of stepped.does) done.push({ does, stamp });
    facts.setDeltas(done.flatMap((d) => [...pickDeltasOf(d.does, job, facts)]));
    acts += 1;
  };
  for (;;) {
    const now = foldRound(job, done);
    const stop = stopsOf(now, facts).find((s) => s.open.length > 0);
    const [pick] = stop?.open ?? [];
    if (!stop || !pick) return acts;
    if (at.bin !== stop.bin.id) act(scanOf(facts, stop.bin.address));
    act(scanOf(facts, codeOf(pick.item === GOODS.jar.id ? GOODS.jar : GOODS.rope)));
    if (openOf(foldRound(job, done), pick) > 0) act({ kind: 'number', text: formatQty(pick.qty) });
  }
}

function walkPutAway(of: readonly Line[]): number {
  const facts = testFloor(of.map((l) => ({ bin: BINS.arrivals.id, item: GOODS[l.goods].id, qty: l.many as Qty })));
  const job: CarryJob = {
    ...{ id: 1, number: 'CR-1', kind: 'putAway', state: 'open', person: null, cart: null, takeWay: [], putWay: [], carried: [] },
    tasks: of.map((l, n) => ({
      ...{
        key: `t${n}`,
        item: GOODS[l.goods].id,
        from: BINS.arrivals.id,
        lot: null,
        serial: null,
        sscc: null,
        condition: 'sound' as const,
      },
      ...{ qty: whole(l.many), to: SHELVES[l.shelf]?.id ?? BINS.a.id, why: 'its home', trouble: null },
    })),
  };
  const done: { does: CarryDoes; stamp: ReturnType<typeof stampNow> }[] = [];
  let at = CARRY_BEGINS;
  let acts = 0;
  const act = (event: Parameters<typeof stepCarry>[1]): void => {
    const stamp = stampNow();
    const stepped = stepCarry(at, event, foldCarry(job, done), facts, stamp);
    expect(stepped.says.tone).toBe('right');
    at = stepped.at;
    for (const does of stepped.does) done.push({ does, stamp });
    facts.setDeltas(done.flatMap((d) => [...carryDeltasOf(d.does, job, facts, () => [])]));
    acts += 1;
  };
  for (const shelf of [...new Set(of.map((l) => l.shelf))]) {
    act(scanOf(facts, SHELVES[shelf]?.address ?? ''));
    for (const l of of.filter((one) => one.shelf === shelf)) {
      act(scanOf(facts, codeOf(GOODS[l.goods])));
      if (l.many > 1) act({ kind: 'number', text: String(l.many) });
    }
  }
  expect(foldCarry(job, done).state).toBe('done');
  return acts;
}

describe('acts of a stop, counted', () => {
  it('G3 a stop is bin and goods, and a number if more than one; nothing more, over 300 rounds', () => {
    let [acts, stops, goods] = [0, 0, 0];
    fc.assert(
      fc.property(lines, (of) => {
        const took = walkPicks(of);
        expect(took).toBe(least(of));
        [acts, stops, goods] = [acts + took, stops + new Set(of.map((l) => l.shelf)).size, goods + of.length];
      }),
      { numRuns: 300 },
    );
    process.stdout.write(`A round: ${(acts / stops).toFixed(2)} acts a stop, ${(goods / stops).toFixed(2)} lines a stop.\n`);
  });
  it('I2 so is a put-away stop, over 300 rounds', () => {
    let [acts, stops] = [0, 0];
    fc.assert(
      fc.property(lines, (of) => {
        const took = walkPutAway(of);
        expect(took).toBe(least(of));
        [acts, stops] = [acts + took, stops + new Set(of.map((l) => l.shelf)).size];
      }),
      { numRuns: 300 },
    );
    process.stdout.write(`A put-away round: ${(acts / stops).toFixed(2)} acts a stop.\n`);
  });
});
