import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { isSscc, readScan, ssccOf, ssccRoom, writeGs1 } from './index.ts';

const prefix = fc.integer({ min: 4, max: 12 }).chain((n) => fc.stringMatching(new RegExp(`^\\d{${n}}$`)));

describe('the numbers of the house’s own pallets and cartons (C15)', () => {
  // By hand, weights 3 and 1 from the right: of 0 9520099 000000000 they come to 9 + 15 + 2 + 27 + 9 = 62, to which 8 is missing.
  it('are built as the standard has it: extension, prefix, serial reference, check digit', () => {
    expect(ssccOf('9520099', 0)).toBe('095200990000000008');
    expect(ssccOf('9520099', 1)).toBe('095200990000000015');
    expect(ssccOf('9520099', 1_000_000_000)).toBe('195200990000000005');
    expect(ssccOf('952009912345', 99_999)?.slice(0, 17)).toBe('99520099123459999');
  });
  it('law: each is one that scanners know, no two are one, and none is made when the prefix is used up', () => {
    fc.assert(
      fc.property(prefix, fc.nat(), fc.nat(), (own, a, b) => {
        const [one, other] = [a % ssccRoom(own), b % ssccRoom(own)].map((n) => ssccOf(own, n));
        expect(isSscc(one ?? '')).toBe(true);
        expect(one === other).toBe(a % ssccRoom(own) === b % ssccRoom(own));
        expect(one?.slice(1)).toMatch(new RegExp(`^${own}`));
        expect(readScan(writeGs1([{ ai: '00', data: one ?? '' }]), 2026)).toMatchObject({ value: { kind: 'elements', sscc: one } });
        expect(ssccOf(own, ssccRoom(own))).toBeNull();
      }),
      { numRuns: 300 },
    );
    expect(ssccOf('9520', -1)).toBeNull();
    expect(() => ssccOf('952', 1)).toThrow('Not a company prefix');
  });
});
