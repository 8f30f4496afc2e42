import { expect, it } from '@jest/globals';
import { momentAt } from './site-moment.ts';

it('a time that is keyed is the site’s, whatever clock the desk has', () => {
  expect(momentAt('2026-11-24T14:17', 'Europe/London')).toBe('2026-11-24T14:17:00.000Z');
  expect(momentAt('2026-07-24T14:17', 'Europe/London')).toBe('2026-07-24T13:17:00.000Z');
  expect(momentAt('2026-11-24T23:59', 'Pacific/Auckland')).toBe('2026-11-24T10:59:00.000Z');
  // Skipped in the night when the clocks go forward: the moment after.
  expect(momentAt('2026-03-29T01:30', 'Europe/London')).toBe('2026-03-29T01:30:00.000Z');
  expect(momentAt('2026-11-31T10:00', 'Europe/London')).toBe('');
});
