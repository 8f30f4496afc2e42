import { moneyText, writeDay } from '#core/base';
import { houseCurrency, siteToday, siteZone } from './site.ts';

// The one way to write times and numbers on screen. ISO stands in files and in the API only.
const LANGUAGE = 'en-GB';
const WEEK = 7;
const DAY_MS = 86_400_000;

type Parts = Readonly<Partial<Record<Intl.DateTimeFormatPartTypes, string>>>;
const partsOf = (at: Date, format: Intl.DateTimeFormat): Parts =>
  Object.fromEntries(format.formatToParts(at).map((p) => [p.type, p.value]));
const WEEKDAY = new Intl.DateTimeFormat(LANGUAGE, { timeZone: 'UTC', weekday: 'short' });
const CLOCKS = new Map<string, Intl.DateTimeFormat>();
function clockOf(zone: string): Intl.DateTimeFormat {
  const known = CLOCKS.get(zone);
  if (known) return known;
  const digits = { year: 'numeric', month: '2-digit', day: '2-digit', hour: '2-digit', minute: '2-digit', hourCycle: 'h23' } as const;
  const made = new Intl.DateTimeFormat(LANGUAGE, { timeZone: zone, ...digits });
  CLOCKS.set(zone, made);
  return made;
}

const timeOf = (day: string): number => (/^\d{4}-\d{2}-\d{2}$/.test(day) ? Date.parse(`${day}T00:00:00Z`) : NaN);

/** A day as people say it: with its weekday within a week of `today`, with its year otherwise. Both as `YYYY-MM-DD`.
 *  Shape:  `Tue 24 Nov`, `24 Nov 2025`; what is no day is given back as it is. */
export function dayText(day: string, today: string): string {
  const at = timeOf(day);
  if (Number.isNaN(at)) return day;
  const written = writeDay(day);
  return Math.abs(at - timeOf(today)) < WEEK * DAY_MS ? `${WEEKDAY.format(at)} ${written.slice(0, -5)}` : written;
}

/** A moment as people say it at a place: the time where it is of that day, else the day before it. `iso` as the API tells it. */
export function momentText(iso: string, today: string, zone: string): string {
  const at = new Date(iso);
  if (Number.isNaN(at.getTime())) return iso;
  const { year, month, day, hour, minute } = partsOf(at, clockOf(zone));
  const date = `${year}-${month}-${day}`;
  return date === today ? `${hour}:${minute}` : `${dayText(date, today)} ${hour}:${minute}`;
}

/** A day with its year, as it stands in a field. */
export const sayDate = writeDay;

/** A day, as seen from today at the site. */
export const sayDay = (day: string): string => dayText(day, siteToday());

/** A day of which everybody knows the year, as under a chart: `27 Nov`. */
export const sayDayOfYear = (day: string): string => writeDay(day).split(' ').slice(0, 2).join(' ');

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

/** When something was, in the words one would use: just now, 3 h ago. */
export const sayAgo = (iso: string | null): string => (ago(iso) === 'now' ? 'just now' : iso ? `${ago(iso)} ago` : '');

/** For how long something has been so, in the words one would use. */
export const lasting = (iso: string | null): string => (ago(iso) === 'now' ? 'since just now' : iso ? `for ${ago(iso)}` : '');

const NUMBER = new Intl.NumberFormat(LANGUAGE, { maximumFractionDigits: 3 });
/** A number with its thousands apart. Quantities come as decimal texts; what is no number is given back as it is. */
export const sayNumber = (n: number | string): string => (Number.isFinite(Number(n)) && n !== '' ? NUMBER.format(Number(n)) : String(n));

/** So many of something: `1 entry`, `2 entries`. */
export const counted = (n: number, one: string, many: string): string => `${sayNumber(n)} ${n === 1 ? one : many}`;

/** A price or a cost, in the currency of the house; nothing for whoever may not read it. */
export const sayMoney = (amount: string | null, decimals = 2): string =>
  amount === null ? '' : moneyText(amount, houseCurrency(), decimals);
