import { describe, expect, it } from '@jest/globals';
import { qty } from '#core/base';
import { decideRelabel, type RelabelFacts } from './relabel.ts';

const facts: RelabelFacts = {
  item: 'WX-2',
  decimals: 0,
  lot: 'L-1',
  expires: '2027-05-31',
  isHeld: false,
  there: qty(9000),
  bin: 'A-01-1',
  known: null,
};
const said = (lot: string, n: number, expires: string | null = null, more: Partial<RelabelFacts> = {}) =>
  decideRelabel({ lot, expires, qty: qty(n * 1000) }, { ...facts, ...more });

describe('E6 a new lot number', () => {
  it('keeps the date, unless another is said or the new lot has one', () => {
    expect(said('L-1A', 9)).toEqual({ ok: true, value: { expires: '2027-05-31' } });
    expect(said('L-1A', 4, '2027-01-31')).toEqual({ ok: true, value: { expires: '2027-01-31' } });
    expect(said('L-2', 1, null, { known: { expires: '2028-02-29' } })).toEqual({ ok: true, value: { expires: '2028-02-29' } });
    expect(said('L-2', 1, null, { expires: null })).toEqual({ ok: true, value: { expires: null } });
  });
  it.each([
    ['L-1', 1, null, {}, 'lots.sameLot'],
    ['L-2', 10, null, {}, 'lots.notSoMany'],
    ['L-2', 0, null, {}, 'lots.badQuantity'],
    ['L-2', 0.5, null, {}, 'lots.badQuantity'],
    ['L-2', 1, '2030-01-01', { known: { expires: '2028-02-29' } }, 'lots.otherDate'],
    ['L-2', 1, '2030-01-01', { known: { expires: null } }, 'lots.otherDate'],
    ['L-2', 1, null, { isHeld: true }, 'lots.held'],
  ] as const)('%s, %d of it, %s: refused', (lot, n, expires, more, code) => {
    expect(said(lot, n, expires, more)).toMatchObject({ ok: false, error: { code } });
  });
});
