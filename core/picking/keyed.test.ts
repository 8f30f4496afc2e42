import { describe, expect, it } from '@jest/globals';
import { qty } from '#core/base';
import { decideKeyed, pickingSentence, type KeyedPick, type OpenPick } from './index.ts';

const open: OpenPick[] = [
  { pick: 1, item: 'HV-10', bin: 'A-01-1', tracking: 'none', open: qty(5000) },
  { pick: 2, item: 'MX-42', bin: 'A-02-1', tracking: 'serial', open: qty(2000) },
];
const keyed = (pick: number, pieces: number, more: Partial<KeyedPick> = {}): KeyedPick => ({
  pick,
  taken: qty(pieces * 1000),
  serials: [],
  why: 'short',
  ...more,
});
const said = (...lines: KeyedPick[]): string => {
  const decided = decideKeyed(lines, open, 'RD-7');
  return decided.ok ? decided.value.map((l) => `${l.pick}: ${l.left} left`).join(', ') : pickingSentence(decided.error);
};
const both = keyed(2, 2, { serials: ['S1', 'S2'] });

describe('a pick sheet that came back (G12)', () => {
  it.each<[string, KeyedPick[], string]>([
    ['all of it, in any order', [both, keyed(1, 5)], '1: 0 left, 2: 0 left'],
    ['some of it', [keyed(1, 3), keyed(2, 1, { serials: ['S1'] })], '1: 2000 left, 2: 1000 left'],
    ['nothing of it', [keyed(1, 0), keyed(2, 0)], '1: 5000 left, 2: 2000 left'],
    ['serials of what has none are nothing', [keyed(1, 5, { serials: ['X'] }), both], '1: 0 left, 2: 0 left'],
    ['a pick is left out', [keyed(1, 5)], 'Say how many MX-42 came from A-02-1: RD-7 still wants them. 0 where none did.'],
    ['a pick stands there twice', [keyed(1, 2), keyed(1, 3), both], 'Pick 1 is not on this round.'],
    ['a pick of another round', [keyed(1, 5), both, keyed(9, 1)], 'Pick 9 is not on this round.'],
    ['too many', [keyed(1, 6), both], 'That is too many: 6 of HV-10, and 5 are still to take here.'],
    ['less than nothing', [keyed(1, -1), both], 'That is too many: -1 of HV-10, and 5 are still to take here.'],
    ['a serial too few', [keyed(1, 5), keyed(2, 2, { serials: ['S1'] })], 'MX-42 from A-02-1: 1 serial for 2 taken. Key each serial.'],
    ['one serial twice', [keyed(1, 5), keyed(2, 2, { serials: ['S1', 'S1'] })], 'Serial S1 of MX-42 stands on the sheet twice.'],
  ])('%s', (_, lines, wanted) => {
    expect(said(...lines)).toBe(wanted);
  });
});
