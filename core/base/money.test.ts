import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { formatAmount, parseAmount, qty, roundAmount, shareOf, sumAmounts, worthOf, moneyText } from './index.ts';

describe('K3 money', () => {
  it.each([
    ['1.005', '1.01'],
    ['2.675', '2.68'],
    ['-1.005', '-1.01'],
    ['0.0049', '0.00'],
    ['0.1', '0.10'],
    ['999999999.9950', '1000000000.00'],
  ])('%s is %s with two decimals, as the database says', (text, cents) => expect(roundAmount(text)).toBe(cents));
  it('a quantity is worth its cost, to the cent, half away from zero', () => {
    expect(formatAmount(worthOf(parseAmount('1.005'), qty(1000)))).toBe('1.01');
    expect(formatAmount(worthOf(parseAmount('0.3333'), qty(3000)))).toBe('1.00');
    expect(formatAmount(worthOf(parseAmount('1.005'), qty(-1000)))).toBe('-1.01');
    expect(formatAmount(shareOf(parseAmount('10'), qty(3000)), 4)).toBe('3.3333');
  });
  it('ten thousand cents are a hundred, whatever the order', () => {
    expect(formatAmount(sumAmounts(Array.from({ length: 10_000 }, () => parseAmount('0.01'))))).toBe('100.00');
  });
  it('reading and writing give the same text back', () => {
    fc.assert(
      fc.property(fc.bigInt({ min: -(10n ** 13n), max: 10n ** 13n }), (steps) => {
        const text = formatAmount(steps as never, 4);
        expect(parseAmount(text)).toBe(steps);
      }),
    );
  });
  it('the split of a sum over packs is never off by more than half a ten-thousandth each', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 10_000_000 }), fc.integer({ min: 1, max: 500 }), (cost, units) => {
        const share = shareOf(BigInt(cost) as never, qty(units * 1000));
        const off = share * BigInt(units) - BigInt(cost);
        expect((off < 0n ? -off : off) * 2n <= BigInt(units)).toBe(true);
      }),
    );
  });
});

it('an amount is written with its currency, and exactly', () => {
  expect(moneyText('12.5000', 'EUR')).toBe('€12.50');
  expect(moneyText('1234567.005', 'GBP')).toBe('£1,234,567.01');
  expect(moneyText('0.1234', 'EUR', 4)).toBe('€0.1234');
  expect(moneyText('-3', 'CHF')).toMatch(/^-CHF\s3\.00$/);
  expect(moneyText('900719925474.9931', 'EUR')).toBe('€900,719,925,474.99');
});
