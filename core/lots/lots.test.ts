import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { addMonths, compareFirstExpired, daysLeft, isExpired } from './index.ts';

describe('expiry', () => {
  it('E3 a lot is good on its last day and expired on the next', () => {
    expect(isExpired('2026-11-23', '2026-11-23')).toBe(false);
    expect(isExpired('2026-11-22', '2026-11-23')).toBe(true);
    expect(isExpired(null, '2026-11-23')).toBe(false);
  });
  it('E4 first expired leaves first, undated stock last, then the oldest arrival', () => {
    const dated = fc.record({
      expires: fc.option(fc.constantFrom('2026-01-01', '2026-06-01', '2027-01-01')),
      arrived: fc.option(fc.constantFrom('2025-01-01', '2025-02-01')),
    });
    fc.assert(
      fc.property(fc.array(dated), (list) => {
        const sorted = [...list].sort(compareFirstExpired).map((d) => d.expires ?? '9999');
        expect(sorted).toEqual([...sorted].sort());
      }),
    );
    expect(compareFirstExpired({ expires: null, arrived: '2025-01-01' }, { expires: null, arrived: '2025-02-01' })).toBeLessThan(0);
  });
  it('C8 a month after 31 January is the end of February', () => {
    expect(addMonths('2027-01-31', 1)).toBe('2027-02-28');
    expect(addMonths('2026-11-23', 6)).toBe('2027-05-23');
    expect(daysLeft('2026-12-23', '2026-11-23')).toBe(30);
  });
});
