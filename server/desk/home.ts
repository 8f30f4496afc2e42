import { ACTS, rankActs, type Act } from '#core/desk';
import type { Home } from '#contract/desk';
import type { Db, Topic } from '#server/kernel';
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

type Waiting = Awaited<ReturnType<typeof selectWaiting>>;
type Parts = Omit<Home, 'lowDisk' | 'now'> & { waiting: Waiting };
type Part<Name extends keyof Parts> = { readonly topics: readonly Topic[]; readonly read: (db: Db, site: number) => Promise<Parts[Name]> };

// What home is made of, each with the topics that can change it: a move does not make the counts due be looked up again.
const PARTS: { readonly [Name in keyof Parts]: Part<Name> } = {
  clashes: { topics: ['hands'], read: readClashes },
  short: { topics: ['orders', 'stock', 'shipping', 'picking', 'places', 'items'], read: selectShort },
  held: { topics: ['orders', 'shipping'], read: selectHeldOrders },
  late: { topics: ['orders', 'picking', 'shipping'], read: selectLate },
  overdue: { topics: ['receiving'], read: selectOverdue },
  trouble: { topics: ['picking', 'hands'], read: selectTrouble },
  pastHolds: { topics: ['stock'], read: selectPastHolds },
  expired: { topics: ['stock', 'places', 'items'], read: selectExpired },
  expiring: { topics: ['stock', 'places', 'items'], read: selectExpiring },
  unplaced: { topics: ['stock', 'items'], read: selectUnplaced },
  wrongLabels: { topics: ['labels', 'items', 'stock', 'places'], read: readWrongLabels },
  counts: { topics: ['counting', 'places'], read: selectDueCounts },
  waiting: { topics: ['orders', 'picking', 'shipping', 'receiving', 'stock'], read: selectWaiting },
  people: { topics: ['picking', 'receiving', 'counting', 'hands', 'people'], read: selectPeople },
};
const NAMES = Object.keys(PARTS) as (keyof Parts)[];
/** Days begin, lots expire and orders become late without anybody doing anything. */
const WHOLE_MS = 60_000;

/** Reads home (L1): what can be done now, what is wrong or will be soon, and who is on what. Facts, counted exactly; what is said of them
 *  is the web's.
 *  Shape:  of a site whole, or only the parts that the touched topics can have changed; the others as they were read before, a minute ago
 *          at most. */
export function homeReader(db: Db): (site: number, touched: ReadonlySet<Topic> | null) => Promise<Home> {
  const kept = new Map<number, { parts: Parts; wholeAt: number }>();
  return async (site, touched) => {
    const last = kept.get(site);
    const before = touched !== null && last && Date.now() - last.wholeAt < WHOLE_MS ? last : null;
    const wanted = NAMES.filter((name) => !before || PARTS[name].topics.some((topic) => touched?.has(topic)));
    const read: Partial<Record<keyof Parts, unknown>> = {};
    for (const name of wanted) read[name] = await PARTS[name].read(db, site);
    const parts = { ...before?.parts, ...read } as Parts;
    kept.set(site, { parts, wholeAt: before?.wholeAt ?? Date.now() });
    const { waiting, ...shown } = parts;
    return { lowDisk: await readLowDisk(process.env['DOCKROW_HOME']), now: nowOf(waiting, shown), ...shown };
  };
}

type Found = Home['now'][number];

function nowOf(waiting: Waiting, wrong: Pick<Home, 'clashes' | 'short' | 'expired' | 'wrongLabels'>): Found[] {
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
