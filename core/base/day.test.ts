import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { readDay, writeDay } from './day.ts';

const TODAY = '2026-11-27';

describe('a day as people key it', () => {
  it.each([
    ['2026-12-01', '2026-12-01'],
    ['20261201', '2026-12-01'],
    ['1 Dec 2026', '2026-12-01'],
    ['Tue 1 December 2026', '2026-12-01'],
    ['01.12.2026', '2026-12-01'],
    ['1/12/26', '2026-12-01'],
    ['1-12-26', '2026-12-01'],
    [' 1. 12. ', '2026-12-01'],
    ['27 nov', '2026-11-27'],
    ['26 nov', '2027-11-26'],
    ['today', '2026-11-27'],
    ['Tomorrow', '2026-11-28'],
    ['+7', '2026-12-04'],
    ['29.2.', '2028-02-29'],
    ['1.1.75', '2075-01-01'],
    ['1.1.77', '1977-01-01'],
  ])('%s is %s', (typed, day) => {
    expect(readDay(typed, TODAY)).toBe(day);
  });

  it.each([
    '',
    '12',
    '31.2.2026',
    '13/13/2026',
    '24 foo',
    'soon',
    '2026-13-01',
    '2026-1-1',
    '+',
    '0.1.2026',
    '1.12.202',
    '1.12.20266',
    'A-01-1',
  ])('“%s” is none', (typed) => {
    expect(readDay(typed, TODAY)).toBeNull();
  });

  it('reads every real day again in each way of writing it', () => {
    const days = fc
      .date({ min: new Date('1980-01-01'), max: new Date('2070-12-31'), noInvalidDate: true })
      .map((d) => d.toISOString().slice(0, 10));
    fc.assert(
      fc.property(days, (iso) => {
        const [y = '', m = '', d = ''] = iso.split('-');
        for (const typed of [iso, `${y}${m}${d}`, `${Number(d)}.${Number(m)}.${y}`, `${d}/${m}/${y}`])
          expect(readDay(typed, TODAY)).toBe(iso);
      }),
    );
  });

  it('is written so that it can be read, and what is none is left as it is', () => {
    expect([writeDay('2026-09-04'), writeDay('2026-13-01'), writeDay('soon'), writeDay('')]).toEqual([
      '4 Sep 2026',
      '2026-13-01',
      'soon',
      '',
    ]);
  });
});
