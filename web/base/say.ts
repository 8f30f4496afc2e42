import { DateTime } from 'luxon';
import { siteToday, siteZone } from './site.ts';

// The one way to write times and numbers on screen. ISO stands in files and in the API only.
const LANGUAGE = 'en-GB';
const WEEK = 7;

/** A day as people say it: with its weekday within a week of `today`, with its year otherwise. Both as `YYYY-MM-DD`.
 *  Shape:  `Tue 24 Nov`, `24 Nov 2025`; what is no day is given back as it is. */
export function dayText(day: string, today: string): string {
  const [said, now] = [DateTime.fromISO(day, { zone: 'utc' }), DateTime.fromISO(today, { zone: 'utc' })];
  if (!said.isValid) return day;
  return said.setLocale(LANGUAGE).toFormat(Math.abs(said.diff(now, 'days').days) < WEEK ? 'ccc d LLL' : 'd LLL yyyy');
}

/** A moment as people say it at a place: the time where it is of that day, else the day before it. `iso` as the API tells it. */
export function momentText(iso: string, today: string, zone: string): string {
  const at = DateTime.fromISO(iso, { zone });
  if (!at.isValid) return iso;
  const day = at.toISODate();
  return day === today ? at.toFormat('HH:mm') : `${dayText(day, today)} ${at.toFormat('HH:mm')}`;
}

/** A day, as seen from today at the site. */
export const sayDay = (day: string): string => dayText(day, siteToday());

/** A moment, by the clock of the site. */
export const sayMoment = (iso: string): string => momentText(iso, siteToday(), siteZone());

/** How long ago, in the words one would use. */
export function ago(iso: string | null, now = Date.now()): string {
  if (!iso) return '';
  const minutes = Math.max(0, Math.round((now - Date.parse(iso)) / 60_000));
  if (minutes < 1) return 'now';
  if (minutes < 60) return `${minutes} min`;
  if (minutes < 60 * 36) return `${Math.round(minutes / 60)} h`;
  return counted(Math.round(minutes / 1440), 'day', 'days');
}

const NUMBER = new Intl.NumberFormat(LANGUAGE, { maximumFractionDigits: 3 });
/** A number with its thousands apart. Quantities come as decimal texts; what is no number is given back as it is. */
export const sayNumber = (n: number | string): string => (Number.isFinite(Number(n)) && n !== '' ? NUMBER.format(Number(n)) : String(n));

/** So many of something: `1 entry`, `2 entries`. */
export const counted = (n: number, one: string, many: string): string => `${sayNumber(n)} ${n === 1 ? one : many}`;
