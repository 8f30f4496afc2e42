import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { qty } from '#core/base';
import { baseToPacks, hasValidCheckDigit, packToBase, readGs1Date, readScan, withCheckDigit } from './index.ts';

const GS = '\u001d';
const YEAR = 2026;

describe('packs', () => {
  it('B2 packs and what is left over make up the base quantity exactly', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 10_000_000 }), fc.integer({ min: 1, max: 2_000_000 }), (base, units) => {
        const pack = { name: 'case', units: qty(units) };
        const { count, rest } = baseToPacks(qty(base), pack);
        const whole = packToBase(qty(count * 1000), pack);
        expect((whole ?? 0) + rest).toBe(base);
        expect(rest).toBeLessThan(units);
      }),
    );
  });
  it('B2 half a tray of 24 is 12 jars; a third of a step is nothing that exists', () => {
    expect(packToBase(qty(500), { name: 'tray', units: qty(24_000) })).toBe(12_000);
    expect(packToBase(qty(1), { name: 'roll', units: qty(500) })).toBeNull();
  });
});

describe('check digits', () => {
  it('B3 every single wrong digit is noticed', () => {
    fc.assert(
      fc.property(fc.stringMatching(/^\d{12}$/), fc.nat(12), fc.integer({ min: 1, max: 9 }), (digits, at, by) => {
        const code = withCheckDigit(digits);
        expect(hasValidCheckDigit(code)).toBe(true);
        const wrong = code.slice(0, at) + String((Number(code[at]) + by) % 10) + code.slice(at + 1);
        expect(hasValidCheckDigit(wrong)).toBe(false);
      }),
    );
  });
});

describe('reading scans', () => {
  it('B8 a UPC read with or without its leading zero is one code', () => {
    const upc = withCheckDigit('03600029145');
    expect(readScan(upc, YEAR)).toMatchObject({ ok: true, value: { kind: 'gtin', gtin: `00${upc}` } });
    expect(readScan(`0${upc}`, YEAR)).toMatchObject({ ok: true, value: { kind: 'gtin', gtin: `00${upc}` } });
  });
  it('C8 a GS1-128 code gives item, expiry and lot at one scan', () => {
    const gtin = withCheckDigit('0500123000001');
    const scanned = readScan(`]C101${gtin}1727033110N4711${GS}21S1`, YEAR);
    expect(scanned).toMatchObject({ ok: true, value: { kind: 'elements', gtin, expires: '2027-03-31', lot: 'N4711', serial: 'S1' } });
    expect(readScan(`(01)${gtin}(17)270331(10)N4711`, YEAR)).toMatchObject({ ok: true, value: { gtin, lot: 'N4711' } });
  });
  it('C8 day 00 is the last day of the month, and month 13 is no date', () => {
    expect(readGs1Date('280200', YEAR)).toBe('2028-02-29');
    expect(readGs1Date('271301', YEAR)).toBeNull();
    expect(readGs1Date('990101', YEAR)).toBe('1999-01-01');
    expect(readGs1Date('750101', YEAR)).toBe('2075-01-01');
  });
  it('a damaged GS1 code says where it is damaged, and is never guessed', () => {
    expect(readScan(`]C10112345`, YEAR)).toEqual({ ok: false, error: { code: 'items.gs1TooShort', ai: '01', text: '12345' } });
    expect(readScan(`]C1${'01'}${'0'.repeat(13)}9`, YEAR)).toMatchObject({ ok: false, error: { code: 'items.gs1CheckDigit', ai: '01' } });
  });
  it('garbage from a scanner never throws', () => {
    fc.assert(fc.property(fc.string({ unit: 'binary' }), (text) => typeof readScan(text, YEAR).ok === 'boolean'));
  });
});
