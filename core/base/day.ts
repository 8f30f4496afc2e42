const MONTHS = ['jan', 'feb', 'mar', 'apr', 'may', 'jun', 'jul', 'aug', 'sep', 'oct', 'nov', 'dec'] as const;
const HALF_A_CENTURY = 50;
const DAY_MS = 86_400_000;

const dayOf = (year: number, month: number, day: number): string | null => {
  const at = new Date(0);
  at.setUTCFullYear(year, month - 1, day);
  const isReal = at.getUTCFullYear() === year && at.getUTCMonth() === month - 1 && at.getUTCDate() === day;
  return isReal && year >= 1900 && year <= 9999 ? at.toISOString().slice(0, 10) : null;
};

// A year of two digits is the one nearest to today.
function fullYear(digits: string, today: string): number {
  if (digits.length === 4) return Number(digits);
  const now = Number(today.slice(0, 4));
  const here = now - (now % 100) + Number(digits);
  if (here - now > HALF_A_CENTURY) return here - 100;
  return now - here >= HALF_A_CENTURY ? here + 100 : here;
}

// A day without a year is the next one of that name, today included.
function nextOf(month: number, day: number, today: string): string | null {
  const year = Number(today.slice(0, 4));
  for (const y of [year, year + 1, year + 2, year + 3, year + 4]) {
    const found = dayOf(y, month, day);
    if (found !== null && found >= today) return found;
  }
  return null;
}

/** Reads a day as people key it, day before month: `24 Nov 2026`, `24 nov`, `24.11.2026`, `24/11/26`, `24.11.`, `2026-11-24`, `20261124`,
 *  `today`, `tomorrow`, `+7` for so many days from today.
 *  Shape:  `today` and the result are `YYYY-MM-DD`; a year of two digits is the nearest, a day without a year the next of that name.
 *  Errors: null for what is no day, such as `31.2.2026`. */
export function readDay(typed: string, today: string): string | null {
  const text = typed.trim().toLowerCase();
  const later = /^\+(\d{1,4})$/.exec(text)?.[1] ?? { today: '0', tomorrow: '1' }[text];
  if (later !== undefined) return new Date(Date.parse(`${today}T00:00:00Z`) + Number(later) * DAY_MS).toISOString().slice(0, 10);
  const iso = /^(\d{4})-?(\d{2})-?(\d{2})$/.exec(text);
  if (iso) return dayOf(Number(iso[1]), Number(iso[2]), Number(iso[3]));
  const said = /^(?:[a-z]{3,9},? +)?(\d{1,2})(?:[./ -]+)(\d{1,2}|[a-z]{3,9})(?:[./ -]+(\d{4}|\d{2})?)?$/.exec(text);
  if (!said) return null;
  const [, day = '', named = '', year] = said;
  const month = /^\d/.test(named) ? Number(named) : MONTHS.findIndex((m) => named.startsWith(m)) + 1;
  if (month === 0) return null;
  return year === undefined ? nextOf(month, Number(day), today) : dayOf(fullYear(year, today), month, Number(day));
}

/** Writes a day as people read it: `24 Nov 2026`. What is no day is given back as it is. `day` is `YYYY-MM-DD`. */
export function writeDay(day: string): string {
  const [, year = '', month = '', date = ''] = /^(\d{4})-(\d{2})-(\d{2})$/.exec(day) ?? [];
  const named = MONTHS[Number(month) - 1];
  return named ? `${Number(date)} ${named.charAt(0).toUpperCase()}${named.slice(1)} ${year}` : day;
}

/** The day so many days later, or earlier where that is below 0. `YYYY-MM-DD`. */
export const addDays = (day: string, days: number): string =>
  new Date(Date.parse(`${day}T00:00:00Z`) + days * DAY_MS).toISOString().slice(0, 10);
