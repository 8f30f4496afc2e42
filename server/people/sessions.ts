import type { IncomingMessage } from 'node:http';
import type { Request } from 'express';
import session, { type SessionData } from 'express-session';
import connectPgSimple from 'connect-pg-simple';
import type pg from 'pg';
import type { Me, Site } from '#contract/people';
import { announce, query, refuse, type Db, type Trx } from '#server/kernel';
import { noteEvent } from './staff.ts';
import { closeSession, deleteSession, OVER, SITES, STALE, updateLimits } from './store.ts';

declare module 'express-session' {
  interface SessionData {
    person: number;
    /** How they came in: at the desk by password, on a handheld by badge. */
    by: 'password' | 'badge';
    /** What they came in on, in a person's words. */
    device: string;
    /** The handheld that it proved to be, by the id of that device. */
    handheld?: string;
  }
}

/** Why a session is over though its cookie is still good. */
type Over = { why: 'idle' | 'shift'; limit: number; isClosed: boolean };
/** Whose session a request carries, as they are now; null where they may not come in any more. */
export type Asker = {
  readonly person: { id: number; name: string; role: Me['role']; home: number | null; sites: Site[] } | null;
  readonly over: Over | null;
  /** Nobody was noted at it for a while. */
  readonly isStale: boolean;
};

// Longer than any shift: until when a session lasts is asked of the limits, each time.
const LONGEST_HOURS = 24;
const ASKER = `SELECT s.sess, s.seen < now() - ${STALE} AS "isStale", ${OVER} AS over, s.closed IS NOT NULL AS "isClosed",
    l.desk_idle_minutes AS idle, l.shift_hours AS shift,
    p.id, p.name, p.role, p.site_id AS home,
    ${SITES}
  FROM session s CROSS JOIN sign_in_limit l LEFT JOIN person p ON p.id = (s.sess->>'person')::int AND p.active
  WHERE s.sid = ? AND s.expire >= now()`;

type Row = {
  sess: SessionData;
  isStale: boolean;
  over: Over['why'] | null;
  isClosed: boolean;
  idle: number;
  shift: number;
  id: number | null;
  name: string;
  role: Me['role'];
  home: number | null;
  sites: Site[];
};

const askers = new WeakMap<object, Asker>();
const ofRequests = new WeakMap<object, Asker>();

/** Whose session a request carries; undefined where it carries none that is kept. */
export const askerOf = (req: Request): Asker | undefined => ofRequests.get(req);

/** Sessions in the database. A session and who has it are read in one way: every request asks for both. */
class Sessions extends connectPgSimple(session) {
  private readonly db: Db;

  constructor(db: Db, pool: pg.Pool) {
    super({ pool, tableName: 'session', disableTouch: true, pruneSessionInterval: false });
    this.db = db;
  }

  override get(sid: string, done: (error: unknown, found?: SessionData | null) => void): void {
    query<Row>(this.db, ASKER, [sid]).then(
      ([row]) => {
        if (!row) return done(null, null);
        const { id, name, role, home, sites } = row;
        askers.set(row.sess, {
          person: id === null ? null : { id, name, role, home, sites },
          over: row.over && { why: row.over, limit: row[row.over], isClosed: row.isClosed },
          isStale: row.isStale,
        });
        done(null, row.sess);
      },
      (error: unknown) => done(error),
    );
  }

  override createSession(req: IncomingMessage, found: SessionData): session.Session & SessionData {
    const asker = askers.get(found);
    if (asker) ofRequests.set(req, asker);
    return super.createSession(req as Request, found);
  }
}

/** The sessions of the house, as Express takes them. */
export function withSession(db: Db, pool: pg.Pool, secret: string): ReturnType<typeof session> {
  return session({
    store: new Sessions(db, pool),
    secret,
    name: 'dockrow',
    resave: false,
    saveUninitialized: false,
    cookie: { httpOnly: true, sameSite: 'strict', secure: 'auto', maxAge: LONGEST_HOURS * 3_600_000 },
  });
}

/** Closes a session whose time is over, for good: it is known as what it was until somebody signs in there again. */
export async function closeOver(db: Db, sid: string, over: Over): Promise<void> {
  const closed = await closeSession(db, sid, over.why);
  const detail = over.why === 'idle' ? 'nobody was there' : 'the shift';
  for (const { person } of closed) if (person !== null) await noteEvent(db, { what: 'over', person, by: null, detail });
}

/** Which of these sessions may still be used, and at which sites. */
export async function selectUsable(db: Db, sids: readonly string[]): Promise<ReadonlyMap<string, readonly number[]>> {
  const rows = await query<{ sid: string; sites: number[] }>(
    db,
    `SELECT s.sid, ARRAY(SELECT site_id FROM person_site x WHERE x.person_id = p.id) AS sites
     FROM session s CROSS JOIN sign_in_limit l JOIN person p ON p.id = (s.sess->>'person')::int
     WHERE s.sid = ANY(?::text[]) AND s.expire > now() AND p.active AND ${OVER} IS NULL`,
    [sids],
  );
  return new Map(rows.map((r) => [r.sid, r.sites]));
}

export type SessionRow = {
  number: number;
  by: 'password' | 'badge';
  device: string;
  /** The name that a handheld was given; null for a desk. */
  handheld: string | null;
  since: Date;
  seen: Date;
  isOwn: boolean;
};

/** The open sessions of a person, the latest first. `own` is the session that asks. */
export async function selectSessions(db: Db, person: number, own: string): Promise<SessionRow[]> {
  return query<SessionRow>(
    db,
    `SELECT s.number, coalesce(s.sess->>'by', 'password') AS by, coalesce(s.sess->>'device', '') AS device, h.name AS handheld,
       s.since, s.seen, s.sid = ? AS "isOwn"
     FROM session s CROSS JOIN sign_in_limit l LEFT JOIN device h ON h.id = (s.sess->>'handheld')::uuid
     WHERE s.sess->>'person' = ? AND s.expire > now() AND ${OVER} IS NULL ORDER BY s.seen DESC, s.number DESC`,
    [own, String(person)],
  );
}

/** Ends one session of a person.
 *  Errors: `people.noSuchSession`: it has ended already, or never was theirs. */
export async function endSession(trx: Trx, person: number, number: number, by: number): Promise<void> {
  const gone = await deleteSession(trx, person, number);
  if (!gone) return refuse({ code: 'people.noSuchSession' });
  await noteEvent(trx, { what: 'ended', person, by, detail: gone.device || '1' });
  announce(trx, 'people', { person });
}

export type Limits = { deskIdleMinutes: number; shiftHours: number };
const LIMITS = 'desk_idle_minutes AS "deskIdleMinutes", shift_hours AS "shiftHours"';

/** How long a desk may stand open with nobody at it, and how long a sign-in on a handheld lasts. */
export async function selectLimits(db: Pick<Db, 'raw'>): Promise<Limits> {
  const [limits] = await query<Limits>(db, `SELECT ${LIMITS} FROM sign_in_limit`);
  return limits ?? { deskIdleMinutes: 30, shiftHours: 12 };
}

/** Changes those limits; they hold for sessions that are open, too. */
export async function changeLimits(trx: Trx, limits: Limits, by: number): Promise<void> {
  await updateLimits(trx, limits);
  await noteEvent(trx, { what: 'limits', person: null, by, detail: `${limits.deskIdleMinutes} minutes, ${limits.shiftHours} hours` });
  announce(trx, 'people');
}

const BROWSERS = [
  ['Edg/', 'Edge'],
  ['Firefox/', 'Firefox'],
  ['Chrome/', 'Chrome'],
  ['Safari/', 'Safari'],
] as const;
const SYSTEMS = [
  ['Android', 'Android'],
  ['iPhone', 'iPhone'],
  ['iPad', 'iPad'],
  ['Windows', 'Windows'],
  ['Mac OS X', 'a Mac'],
  ['CrOS', 'ChromeOS'],
  ['Linux', 'Linux'],
] as const;

/** What a browser says that it is, in a person's words: enough to know one's own handheld from the office's desk. */
export function deviceOf(userAgent: string): string {
  const named = (list: readonly (readonly [string, string])[]): string | undefined => list.find(([mark]) => userAgent.includes(mark))?.[1];
  const [browser, system] = [named(BROWSERS), named(SYSTEMS)];
  return browser && system ? `${browser} on ${system}` : (browser ?? system ?? 'another program');
}
