import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import {
  addMonths,
  compareFirstExpired,
  daysLeft,
  decideWorkOff,
  hasLittleLife,
  isExpired,
  lotsSentence,
  type ExpiredStock,
} from './index.ts';

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

describe('C8 how much life is left', () => {
  it('is little below a third of what the item keeps; an item that says nothing of it has never little', () => {
    expect(hasLittleLife('2027-03-24', '2026-11-24', 12)).toBe(true);
    expect(hasLittleLife('2027-03-26', '2026-11-24', 12)).toBe(false);
    expect([hasLittleLife(null, '2026-11-24', 12), hasLittleLife('2026-11-25', '2026-11-24', null)]).toEqual([false, false]);
  });
});

describe('E3 expired lots that are worked off', () => {
  const stock = (more: Partial<ExpiredStock> = {}): ExpiredStock => ({
    item: 'WX-1',
    lot: 'L-1',
    expires: '2026-11-01',
    isExpired: true,
    bin: 5,
    address: 'A-01-1',
    ...more,
  });
  const said = (all: readonly ExpiredStock[], asked: readonly number[], into: number | null): string => {
    const decided = decideWorkOff(all, asked, into);
    return decided.ok ? 'ok' : lotsSentence(decided.error);
  };
  it('are all of those that were named, or none', () => {
    expect(said([stock(), stock()], [1, 2], 9)).toBe('ok');
    expect(said([stock()], [1, 1], null)).toBe('ok');
    expect(said([stock()], [1, 2], 9)).toBe('Some of these lots were moved meanwhile. Nothing was done: look at the list again.');
    expect(said([stock(), stock({ isExpired: false, lot: 'L-2', expires: '2026-12-01' })], [1, 2], 9)).toBe(
      'Lot L-2 of WX-1 is good until 1 Dec 2026. Move it, or hold it, on its item’s page.',
    );
    expect(said([stock({ isExpired: false, expires: null })], [1], 9)).toBe('Lot L-1 of WX-1 has no date: it cannot have expired.');
    expect(said([stock({ bin: 9, address: 'QUARANTINE' })], [1], 9)).toBe('Lot L-1 of WX-1 lies in QUARANTINE already.');
    expect(said([stock({ bin: 9 })], [1], null)).toBe('ok');
  });
});
