/** Stock as first-expired-first-out sees it. Dates are `YYYY-MM-DD`; `arrived` is when the goods came, as an ISO time. */
export type Dated = { readonly expires: string | null; readonly arrived: string | null };

/** Whether a lot may no longer leave: its date is before today. On its last day it is still good.
 *  Shape:  plain dates `YYYY-MM-DD`, which compare as texts. `today` is the site's. */
export function isExpired(expires: string | null, today: string): boolean {
  return expires !== null && expires < today;
}

/** Whole days from today until the lot's last day; negative when it has passed. */
export function daysLeft(expires: string, today: string): number {
  return Math.round((Date.parse(`${expires}T00:00:00Z`) - Date.parse(`${today}T00:00:00Z`)) / 86_400_000);
}

/** Order in which stock should leave (E4): first expired first; undated stock after dated; then oldest arrival. */
export function compareFirstExpired(a: Dated, b: Dated): number {
  if (a.expires !== b.expires) {
    if (a.expires === null) return 1;
    if (b.expires === null) return -1;
    return a.expires < b.expires ? -1 : 1;
  }
  if (a.arrived === b.arrived) return 0;
  if (a.arrived === null) return 1;
  if (b.arrived === null) return -1;
  return a.arrived < b.arrived ? -1 : 1;
}

/** The date so many months later; the last day of the month where the day does not exist (31 January + 1 = 28 February). */
export function addMonths(date: string, months: number): string {
  const [year = 0, month = 1, day = 1] = date.split('-').map(Number);
  const target = new Date(Date.UTC(year, month - 1 + months, 1));
  const last = new Date(Date.UTC(target.getUTCFullYear(), target.getUTCMonth() + 1, 0)).getUTCDate();
  target.setUTCDate(Math.min(day, last));
  return target.toISOString().slice(0, 10);
}

/** Goods that arrive with less than this share of their item's shelf life have little left (C8). */
export const LEAST_LIFE_SHARE = 1 / 3;

/** Whether goods arrive with little life left, of an item that keeps so many months; never of one that says nothing of it. */
export function hasLittleLife(expires: string | null, today: string, shelfLifeMonths: number | null): boolean {
  if (expires === null || shelfLifeMonths === null) return false;
  return daysLeft(expires, today) < daysLeft(addMonths(today, shelfLifeMonths), today) * LEAST_LIFE_SHARE;
}
