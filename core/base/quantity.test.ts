import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { formatQty, isWholeStep, parseQty, qty } from './index.ts';

describe('quantities', () => {
  it('reads back what it writes, whatever the quantity', () => {
    fc.assert(
      fc.property(fc.integer({ min: -1_000_000_000, max: 1_000_000_000 }), (steps) => {
        const read = parseQty(formatQty(qty(steps)));
        expect(read).toEqual({ ok: true, value: qty(steps) });
      }),
    );
  });
  it('reads 1.005 exactly, which floating point cannot', () => {
    expect(parseQty('1.005')).toEqual({ ok: true, value: 1005 });
  });
  it('reads what PostgreSQL writes, trailing zeros and all', () => {
    expect(parseQty('12.500')).toEqual({ ok: true, value: 12500 });
  });
  it('refuses half a jar, naming how finely jars are counted', () => {
    expect(parseQty('2.5', 0)).toEqual({ ok: false, error: { code: 'stock.tooFine', text: '2.5', decimals: 0 } });
    expect(isWholeStep(qty(2500), 0)).toBe(false);
    expect(isWholeStep(qty(2500), 1)).toBe(true);
  });
  it('refuses a barcode keyed as a quantity', () => {
    expect(parseQty('5001230000018')).toMatchObject({ ok: false, error: { code: 'stock.tooLarge' } });
  });
  it('never throws on anything that can be typed', () => {
    fc.assert(fc.property(fc.string(), (text) => typeof parseQty(text).ok === 'boolean'));
  });
});
