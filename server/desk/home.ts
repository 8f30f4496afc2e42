import { ACTS, rankActs, type Act } from '#core/desk';
import type { Home } from '#contract/desk';
import type { Db } from '#server/kernel';
import { clashesOut, selectClashes } from '#server/hands';
import { selectWrongLabels } from '#server/labels';
import { readLowDisk } from './disk.ts';
import {
  NAMED,
  selectDueCounts,
  selectExpired,
  selectExpiring,
  selectHeldOrders,
  selectLate,
  selectOverdue,
  selectPastHolds,
  selectPeople,
  selectShort,
  selectTrouble,
  selectUnplaced,
  selectWaiting,
} from './store.ts';

/** What can be done now, what is wrong or will be soon, and who is on what (L1). Facts, counted exactly; what is said of them is the web's. */
export async function readHome(db: Db, site: number): Promise<Home> {
  const wrong = {
    clashes: await readClashes(db, site),
    short: await selectShort(db, site),
    held: await selectHeldOrders(db, site),
    late: await selectLate(db, site),
    overdue: await selectOverdue(db, site),
    trouble: await selectTrouble(db, site),
    pastHolds: await selectPastHolds(db, site),
    expired: await selectExpired(db, site),
    expiring: await selectExpiring(db, site),
    unplaced: await selectUnplaced(db, site),
    wrongLabels: await readWrongLabels(db, site),
    counts: await selectDueCounts(db, site),
  };
  return {
    lowDisk: await readLowDisk(process.env['DOCKROW_HOME']),
    now: await readNow(db, site, wrong),
    ...wrong,
    people: await selectPeople(db, site),
  };
}

type Found = Home['now'][number];

async function readNow(db: Db, site: number, wrong: Pick<Home, 'clashes' | 'short' | 'expired' | 'wrongLabels'>): Promise<Found[]> {
  const waiting = await selectWaiting(db, site);
  const free = wrong.short.rows.filter((r) => r.isFree);
  const told = (act: Act): Omit<Found, 'act'> => {
    switch (act) {
      case 'settle':
        return { count: wrong.clashes.total, late: 0, since: wrong.clashes.rows[0]?.at ?? null, of: [] };
      case 'quarantine':
        return { count: wrong.expired.total, late: 0, since: null, of: wrong.expired.rows.map((r) => ({ id: r.balance, name: r.code })) };
      case 'promise':
        return {
          count: wrong.short.free,
          late: free.filter((r) => r.isLate).length,
          since: null,
          of: free.map((r) => ({ id: r.order, name: `${r.number} ${r.customer}` })),
        };
      case 'label':
        return { count: wrong.wrongLabels.total, late: 0, since: null, of: [] };
      default: {
        const mine = waiting.filter((w) => w.act === act);
        const since = mine.map((w) => w.since?.toISOString() ?? '').filter(Boolean);
        return {
          count: mine.length,
          late: mine.filter((w) => w.late).length,
          since: since.sort()[0] ?? null,
          of: mine.slice(0, NAMED).map(({ id, name }) => ({ id, name })),
        };
      }
    }
  };
  const all = Object.fromEntries(ACTS.map((act) => [act, told(act)])) as Record<Act, Omit<Found, 'act'>>;
  return rankActs(all).map((act) => ({ act, ...all[act] }));
}

/** What hands told and nobody has settled yet, the oldest first. */
async function readClashes(db: Db, site: number): Promise<Home['clashes']> {
  const rows = await selectClashes(db, { site, open: true, job: null });
  const shown = await clashesOut(db, rows.slice(0, NAMED));
  return { total: rows.length, rows: shown.map(({ key, what, by, against, at }) => ({ key, what, by, against, at })) };
}

async function readWrongLabels(db: Db, site: number): Promise<Home['wrongLabels']> {
  const { rows, total } = await selectWrongLabels(db, site, null, null, NAMED);
  return { total, rows: rows.map(({ bin, address, item, code, onLabel, now }) => ({ bin, address, item, code, onLabel, now })) };
}
