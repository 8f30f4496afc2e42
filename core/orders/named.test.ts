import { describe, expect, it } from '@jest/globals';
import { qty } from '#core/base';
import { decideNames, ordersSentence, sayAsking, type NamedGoods, type NamedLine } from './index.ts';

const nothing: NamedGoods = { lot: null, serials: [], bin: null };
const line = (tracking: NamedLine['tracking'], pieces: number): NamedLine => ({ item: 'HV-10', tracking, qty: qty(pieces * 1000) });
const said = (named: Partial<NamedGoods>, of: NamedLine): string => {
  const decided = decideNames({ ...nothing, ...named }, of);
  return decided.ok ? 'yes' : ordersSentence(decided.error);
};

describe('goods that a line names (F3)', () => {
  it.each<[Partial<NamedGoods>, NamedLine, string]>([
    [{ lot: 'L7' }, line('lot', 3), 'yes'],
    [{ lot: 'L7' }, line('lotExpiry', 3), 'yes'],
    [{ lot: 'L7' }, line('none', 3), 'HV-10 has no lots; none can be named.'],
    [{ bin: 'A-01-1' }, line('none', 3), 'yes'],
    [{ serials: ['S1', 'S2'] }, line('serial', 2), 'yes'],
    [{ serials: ['S1'] }, line('serial', 2), '1 serial is named for 2 of HV-10: name each piece, or none.'],
    [{ serials: ['S1', 'S2', 'S3'] }, line('serial', 2), '3 serials are named for 2 of HV-10: name each piece, or none.'],
    [{ serials: ['S1', 'S1'] }, line('serial', 2), 'Serial S1 of HV-10 is named twice.'],
    [{ serials: ['S1'] }, line('serialOut', 1), 'HV-10 does not lie under serials; none can be named.'],
    [{ serials: ['S1'] }, line('lot', 1), 'HV-10 does not lie under serials; none can be named.'],
  ])('%j of %j: %s', (named, of, wanted) => {
    expect(said(named, of)).toBe(wanted);
  });
  it('are said in the order in which a hand looks for them', () => {
    expect(sayAsking({ ...nothing, goodOn: null })).toBeNull();
    expect(sayAsking({ lot: 'L7', serials: ['S1', 'S2'], bin: 'A-01-1', goodOn: '2027-03-04' })).toBe(
      'lot L7, serials S1, S2, from A-01-1, good until 4 Mar 2027',
    );
  });
});
