import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { qty, ZERO } from '#core/base';
import { reckonReady } from './ready.ts';
import { reckonStep, type OrderWay } from './step.ts';

const NEW: OrderWay = { state: 'open', isHeld: false, isOnRound: false, putDown: ZERO, isPacked: false, promised: [ZERO] };

describe('how far an order has come (F1)', () => {
  it.each<[Partial<OrderWay>, string]>([
    [{}, 'new'],
    [{ promised: [] }, 'new'],
    [{ promised: [ZERO, qty(1)] }, 'promised'],
    [{ promised: [qty(1)], isOnRound: true }, 'onRound'],
    [{ putDown: qty(1000) }, 'atBench'],
    [{ putDown: qty(1000), isPacked: true }, 'packed'],
    // Packed once, and everything taken back since: what is at the bench says it, not the stamp.
    [{ isPacked: true, promised: [qty(1)] }, 'promised'],
    // A second round for what was short: it is being walked again, whatever lies at the bench.
    [{ putDown: qty(1000), isOnRound: true }, 'onRound'],
    [{ isHeld: true, putDown: qty(1000), isPacked: true }, 'held'],
    [{ state: 'shipped' }, 'shipped'],
    [{ state: 'cancelled', isHeld: true }, 'cancelled'],
  ])('%j is %s', (way, step) => {
    expect(reckonStep({ ...NEW, ...way })).toBe(step);
  });
});

describe('whether an order can be picked (F6)', () => {
  const line = fc.record({
    open: fc.integer({ min: 0, max: 9 }).map(qty),
    promised: fc.integer({ min: 0, max: 9 }).map(qty),
    notFound: fc.integer({ min: 0, max: 9 }).map(qty),
  });
  it('all where every open line is promised in full and found, nothing where no line has anything, else part', () => {
    fc.assert(
      fc.property(fc.array(line, { maxLength: 5 }), (lines) => {
        const open = lines.filter((l) => l.open > 0);
        const can = open.map((l) => Math.max(0, l.promised - l.notFound));
        const wanted =
          open.length === 0 ? 'done' : open.every((l, i) => (can[i] ?? 0) >= l.open) ? 'all' : can.some((c) => c > 0) ? 'part' : 'nothing';
        expect(reckonReady(lines)).toBe(wanted);
      }),
    );
  });
  it('a line that was looked for in vain holds the order back until it is found', () => {
    const found = { open: qty(2000), promised: qty(2000), notFound: ZERO };
    expect(reckonReady([found, { ...found, notFound: qty(2000) }])).toBe('part');
    expect(reckonReady([{ ...found, notFound: qty(2000) }])).toBe('nothing');
  });
});
