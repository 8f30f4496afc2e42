/** Reads a GS1 date YYMMDD as `YYYY-MM-DD`.
 *  Shape:  six digits and today's year in; null where there is no such day. Day 00 means the last day of the month.
 *  Source: GS1 General Specifications, section 7.12 (century: within 50 years back, 49 ahead). */
export function readGs1Date(digits: string, thisYear: number): string | null {
  const match = /^(\d\d)(\d\d)(\d\d)$/.exec(digits);
  if (!match) return null;
  const yy = Number(match[1]);
  const month = Number(match[2]);
  const day = Number(match[3]);
  if (month < 1 || month > 12) return null;
  const century = thisYear - (thisYear % 100);
  const difference = yy - (thisYear % 100);
  const year = difference >= 51 ? century - 100 + yy : difference <= -50 ? century + 100 + yy : century + yy;
  const lastDay = new Date(Date.UTC(year, month, 0)).getUTCDate();
  if (day > lastDay) return null;
  return `${year}-${String(month).padStart(2, '0')}-${String(day || lastDay).padStart(2, '0')}`;
}
