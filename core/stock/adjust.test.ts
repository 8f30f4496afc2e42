import { describe, expect, it } from '@jest/globals';
import { parseAmount, qty } from '#core/base';
import { decideAdjustment, stockSentence, type AdjustCommand, type AdjustFacts } from './index.ts';

const command = (more: Partial<AdjustCommand> = {}): AdjustCommand => ({
  way: 'plus',
  qty: qty(2000),
  lot: null,
  expires: null,
  serials: [],
  cost: null,
  day: '2026-11-27',
  ...more,
});
const facts = (more: Partial<AdjustFacts> = {}): AdjustFacts => ({
  itemCode: 'JR-1',
  decimals: 0,
  tracking: 'none',
  today: '2026-11-27',
  knownLot: null,
  placeOf: (serial) => (serial === 'S-HERE' ? 'A-01-1' : null),
  ...more,
});
const said = (c: Partial<AdjustCommand>, f: Partial<AdjustFacts> = {}): string => {
  const decided = decideAdjustment(command(c), facts(f));
  return decided.ok ? 'ok' : stockSentence(decided.error);
};

describe('K1 an adjustment', () => {
  it('is one piece in all, or one for each serial; a lot that is known keeps its date', () => {
    expect(decideAdjustment(command(), facts())).toEqual({
      ok: true,
      value: { lot: null, expires: null, pieces: [{ serial: null, qty: 2000 }] },
    });
    expect(decideAdjustment(command({ serials: ['S-1', 'S-2'] }), facts({ tracking: 'serial' }))).toMatchObject({
      value: { pieces: [{ serial: 'S-1', qty: 1000 }, { serial: 'S-2' }] },
    });
    expect(
      decideAdjustment(command({ lot: 'L', way: 'minus' }), facts({ tracking: 'lotExpiry', knownLot: { expires: '2027-01-01' } })),
    ).toMatchObject({ value: { lot: 'L', expires: '2027-01-01' } });
  });
  it.each([
    [{ qty: qty(0) }, {}, 'Key how many JR-1; it must be more than 0.'],
    [{ qty: qty(-1000) }, {}, 'Key how many JR-1; it must be more than 0.'],
    [{ qty: qty(1500) }, {}, 'JR-1 is counted whole.'],
    [{ way: 'minus', cost: parseAmount('1') }, {}, 'A cost is said of what is added only; JR-1 leaves at what it cost.'],
    [{ day: '2026-11-28' }, {}, '28 Nov 2026 is still to come. An adjustment belongs to a day that has begun.'],
    [{}, { tracking: 'lot' }, 'JR-1 is kept by lot. Say which.'],
    [{ lot: 'L' }, { tracking: 'lotExpiry' }, 'Lot L of JR-1 is new here. Say when it expires.'],
    [
      { lot: 'L', expires: '2027-02-01' },
      { tracking: 'lotExpiry', knownLot: { expires: '2027-01-01' } },
      'Lot L of JR-1 is known to expire on 1 Jan 2027, not on 1 Feb 2027. One lot has one date.',
    ],
    [{ serials: ['S-1'] }, { tracking: 'serial' }, 'JR-1 is kept by serial: for 2, 1 serial is named.'],
    [{ serials: ['S-1', 'S-1'] }, { tracking: 'serial' }, 'Serial S-1 of JR-1 is named twice.'],
    [{ serials: ['S-1', 'S-HERE'] }, { tracking: 'serial' }, 'Serial S-HERE of JR-1 is in stock already: bin A-01-1.'],
    [{ way: 'minus', serials: ['S-1', 'S-HERE'] }, { tracking: 'serial' }, 'ok'],
    [{ lot: 'L', way: 'minus' }, { tracking: 'lotExpiry', knownLot: { expires: null } }, 'ok'],
  ] as const)('says what is wrong with it: %#', (c, f, sentence) => {
    expect(said(c, f)).toBe(sentence);
  });
});
