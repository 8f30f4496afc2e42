import type { ReplyOf, Routes } from '#contract';
import { poolOf, type Db } from '#server/kernel';
import { selectMovedByHour } from './store.ts';

type Day = ReplyOf<Routes['desk.day']>;
const WEEKS = 4;

// What is usual is a month of history: it is read once for each day at a site, not each time that somebody looks.
const usualDays = new WeakMap<Db, Map<string, Promise<Day['usual']>>>();

/** Pieces that moved today by the hour, and on the mean of the days of the last four weeks on which anything moved. */
export async function readDay(db: Db, site: number, today: string): Promise<Day> {
  const pool = poolOf(db);
  const known = usualDays.get(pool) ?? new Map<string, Promise<Day['usual']>>();
  usualDays.set(pool, known);
  const key = `${site} ${today}`;
  const usual = known.get(key) ?? readUsual(pool, site);
  for (const old of known.keys()) if (old.startsWith(`${site} `) && old !== key) known.delete(old);
  known.set(key, usual);
  usual.catch(() => known.delete(key));
  const hours = await selectMovedByHour(db, site, { from: 0, to: 0 });
  return { hours: hours.map(({ hour, kind, pieces }) => ({ hour, kind, pieces })), usual: await usual };
}

async function readUsual(db: Db, site: number): Promise<Day['usual']> {
  const rows = await selectMovedByHour(db, site, { from: WEEKS * 7, to: 1 });
  const days = new Set(rows.map((r) => r.day)).size;
  const sums = new Map<string, Day['usual'][number]>();
  for (const { hour, kind, pieces } of rows) {
    const sum = sums.get(`${hour} ${kind}`) ?? { hour, kind, pieces: 0 };
    sums.set(`${hour} ${kind}`, { ...sum, pieces: sum.pieces + pieces / days });
  }
  return [...sums.values()];
}
