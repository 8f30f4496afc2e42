import { describe, expect, it } from '@jest/globals';
import { ago, counted, dayText, momentText, sayNumber } from './say.ts';

describe('times and numbers are written in one way', () => {
  const today = '2026-11-26';
  it.each([
    ['2026-11-26', 'Thu 26 Nov'],
    ['2026-11-20', 'Fri 20 Nov'],
    ['2026-12-02', 'Wed 2 Dec'],
    ['2026-11-19', '19 Nov 2026'],
    ['2026-12-03', '3 Dec 2026'],
    ['2028-02-29', '29 Feb 2028'],
    ['', ''],
    ['soon', 'soon'],
  ])('the day %s is %s', (day, said) => expect(dayText(day, today)).toBe(said));
  it('a moment is told by the clock of the site, with the day where it is not today there', () => {
    expect(momentText('2026-11-26T14:17:00Z', today, 'Europe/London')).toBe('14:17');
    // Half an hour before midnight here is already tomorrow there.
    expect(momentText('2026-11-25T23:30:00Z', today, 'Europe/Helsinki')).toBe('01:30');
    expect(momentText('2026-11-26T23:30:00Z', today, 'Europe/Helsinki')).toBe('Fri 27 Nov 01:30');
    // The clock went back in between: it is still told as it stood then.
    expect(momentText('2026-10-20T12:00:00Z', today, 'Europe/London')).toBe('20 Oct 2026 13:00');
  });
  it('one is one', () => {
    expect(counted(1, 'entry', 'entries')).toBe('1 entry');
    expect(counted(0, 'entry', 'entries')).toBe('0 entries');
    expect(counted(5000, 'entry', 'entries')).toBe('5,000 entries');
    expect([sayNumber('12500.5'), sayNumber(''), sayNumber('—')]).toEqual(['12,500.5', '', '—']);
  });
  it('how long ago never says “1 days”', () => {
    const now = Date.parse('2026-11-26T12:00:00Z');
    const before = (hours: number): string => ago(new Date(now - hours * 3_600_000).toISOString(), now);
    expect([before(0), before(0.5), before(3), before(36), before(48)]).toEqual(['now', '30 min', '3 h', '2 days', '2 days']);
    expect(ago(null, now)).toBe('');
  });
});
