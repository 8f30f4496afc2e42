import { LOCK_CLASS, query, queryOne, type Db, type Trx } from '#server/kernel';
import type { Me } from '#contract/people';

/** Why a session (`s`) is over by the limits (`l`), null where it is not. What was once over stays so, also where a limit is made longer
 *  afterwards. */
export const OVER = `CASE WHEN s.closed IS NOT NULL THEN s.closed
    WHEN s.sess->>'by' = 'badge' THEN CASE WHEN s.since <= now() - make_interval(hours => l.shift_hours) THEN 'shift' END
    WHEN s.seen <= now() - make_interval(mins => l.desk_idle_minutes) THEN 'idle' END`;

/** Where a person (`p`) works. */
export const SITES = `coalesce((SELECT json_agg(json_build_object('id', x.id, 'code', x.code, 'name', x.name, 'timeZone',
  x.time_zone) ORDER BY x.id)
      FROM person_site w JOIN site x ON x.id = w.site_id WHERE w.person_id = p.id), '[]') AS sites`;

type SecretRow = { id: number; password_hash: string | null; pin_hash: string | null };
const SECRETS = 'SELECT id, password_hash, pin_hash FROM person WHERE active';

/** The person of this name, with what proves them. */
export async function selectByName(db: Db, name: string): Promise<SecretRow | undefined> {
  return (await query<SecretRow>(db, `${SECRETS} AND lower(name) = lower(?)`, [name]))[0];
}

/** The person with this badge. */
export async function selectByBadge(db: Db, badge: string): Promise<SecretRow | undefined> {
  return (await query<SecretRow>(db, `${SECRETS} AND badge = ?`, [badge]))[0];
}

type PersonRow = { id: number; name: string; role: Me['role']; sites: number[] };

/** Everybody who may sign in and where they work, leads first. */
export async function selectPeople(db: Db): Promise<PersonRow[]> {
  return query<PersonRow>(
    db,
    `SELECT p.id, p.name, p.role,
       coalesce((SELECT json_agg(site_id ORDER BY site_id) FROM person_site x WHERE x.person_id = p.id), '[]') AS sites
     FROM person p WHERE p.active ORDER BY array_position(ARRAY['lead', 'office', 'hand'], p.role), p.id`,
  );
}

/** Whether a person works at a site. */
export async function worksAt(db: Pick<Db, 'raw'>, person: number, site: number): Promise<boolean> {
  return (
    (
      await query(
        db,
        `SELECT 1 FROM person_site x JOIN person p ON p.id = x.person_id WHERE p.active AND x.person_id = ? AND x.site_id = ?`,
        [person, site],
      )
    ).length > 0
  );
}

/** Adds a person to a site or takes them off it. Returns false where there is no such person or site. */
export async function updateWorksAt(db: Pick<Db, 'raw'>, person: number, site: number, works: boolean): Promise<boolean> {
  const both = await query(db, `SELECT 1 FROM person, site WHERE person.id = ? AND site.id = ?`, [person, site]);
  if (both.length === 0) return false;
  await query(
    db,
    works
      ? `INSERT INTO person_site (person_id, site_id) VALUES (?, ?) ON CONFLICT DO NOTHING`
      : `DELETE FROM person_site WHERE person_id = ? AND site_id = ?`,
    [person, site],
  );
  return true;
}

/** Claims one of the tries that somebody has within so many minutes, before anything is looked at; false where none is left. A try that
 *  turns out right gives all of them back. Those that come at the same moment wait for each other, or forty at once would each be the
 *  first. */
export async function claimTry(db: Db, who: string, { tries, minutes }: { tries: number; minutes: number }): Promise<boolean> {
  return db.transaction(async (trx) => {
    await query(trx, `SELECT pg_advisory_xact_lock((?::bigint << 56) | (hashtextextended(?, 0) & ((1::bigint << 56) - 1)))`, [
      LOCK_CLASS.tries,
      who,
    ]);
    const claimed = await query(
      trx,
      `INSERT INTO sign_in_failure (who)
       SELECT ? WHERE (SELECT count(*) FROM sign_in_failure WHERE who = ? AND at > now() - make_interval(mins => ?)) < ? RETURNING 1`,
      [who, who, minutes, tries],
    );
    return claimed.length > 0;
  });
}

/** Gives somebody's tries back. */
export async function deleteFailures(db: Db, who: string): Promise<void> {
  await query(db, `DELETE FROM sign_in_failure WHERE who = ? OR at < now() - interval '1 day'`, [who]);
}

const CURRENCY = 'EUR';

/** What is the same at every site: the company's name, and the currency (ISO 4217) in which prices and costs are told. */
export async function selectHouse(db: Pick<Db, 'raw'>): Promise<{ company: string; currency: string }> {
  const rows = await query<{ name: string; value: string }>(db, `SELECT name, value FROM setting WHERE name IN ('company', 'currency')`);
  const of = (name: string): string | undefined => rows.find((r) => r.name === name)?.value;
  return { company: of('company') ?? '', currency: of('currency') ?? CURRENCY };
}

/** What the house may say of itself, by its name; what it did not say is not there. */
export type Setting = 'currency' | 'unit prefix' | 'only lots that read';

/** Keeps a setting of the house. Of the currency: amounts stay as they are. */
export async function upsertSetting(trx: Trx, name: Setting, value: string | boolean): Promise<void> {
  await query(trx, `INSERT INTO setting (name, value) VALUES (?, ?::jsonb) ON CONFLICT (name) DO UPDATE SET value = excluded.value`, [
    name,
    JSON.stringify(value),
  ]);
}

/** Notes where somebody worked last: their next tab begins there. */
export async function updateLastSite(db: Pick<Db, 'raw'>, person: number, site: number): Promise<void> {
  await query(db, `UPDATE person SET site_id = ? WHERE id = ?`, [site, person]);
}

/** Keeps the code, hashed, by which the first lead comes in; instead of an older one. */
export async function upsertFirstLead(db: Pick<Db, 'raw'>, codeHash: string): Promise<void> {
  await query(db, `INSERT INTO first_lead (one, code_hash) VALUES (1, ?) ON CONFLICT (one) DO UPDATE SET code_hash = excluded.code_hash`, [
    codeHash,
  ]);
}

/** Locks the code of the first lead and reads its hash; null where there is none any more. */
export async function lockFirstLead(trx: Pick<Db, 'raw'>): Promise<string | null> {
  return (await query<{ code_hash: string }>(trx, `SELECT code_hash FROM first_lead FOR UPDATE`))[0]?.code_hash ?? null;
}

/** Uses the code of the first lead up. */
export async function deleteFirstLead(db: Pick<Db, 'raw'>): Promise<void> {
  await query(db, `DELETE FROM first_lead`);
}

/** Writes the first lead, who works at every site, and a site where there is none. */
export async function insertFirstLead(trx: Pick<Db, 'raw'>, lead: { name: string; passwordHash: string }): Promise<void> {
  await query(trx, `INSERT INTO site (code, name, time_zone) SELECT 'MAIN', 'Main warehouse', 'UTC' WHERE NOT EXISTS (SELECT 1 FROM site)`);
  await query(
    trx,
    `WITH lead AS (INSERT INTO person (name, role, password_hash) VALUES (?, 'lead', ?) RETURNING id)
     INSERT INTO person_site
     SELECT lead.id, site.id
     FROM lead, site`,
    [lead.name, lead.passwordHash],
  );
}

/** What is kept of people beside stock: who came in, who tried in vain, who changed whom. */
export type PersonEvent =
  'in' | 'tried' | 'shutOut' | 'letIn' | 'added' | 'changed' | 'locked' | 'unlocked' | 'ended' | 'sites' | 'over' | 'limits';

/** Keeps that something happened to a person or was done by one. */
export async function insertPersonEvent(
  db: Pick<Db, 'raw'>,
  event: { what: PersonEvent; person: number | null; by: number | null; detail: string },
): Promise<void> {
  const { what, person, by, detail } = event;
  await query(db, `INSERT INTO person_event (what, person_id, by_id, detail) VALUES (?, ?, ?, ?)`, [what, person, by, detail]);
}

/** Writes a person who works at these sites; returns their number. */
export async function insertPerson(
  trx: Trx,
  person: {
    name: string;
    role: Me['role'];
    badge: string | null;
    pinHash: string | null;
    passwordHash: string | null;
    sites: readonly number[];
  },
): Promise<number> {
  const made = await queryOne<{ id: number }>(
    trx,
    `INSERT INTO person (name, role, badge, pin_hash, password_hash, site_id)
     VALUES (?, ?, ?, ?, ?, ?)
     RETURNING id`,
    [person.name, person.role, person.badge, person.pinHash, person.passwordHash, person.sites[0] ?? null],
  );
  await query(trx, `INSERT INTO person_site (person_id, site_id) SELECT ?, unnest(?::int[])`, [made.id, [...new Set(person.sites)]]);
  return made.id;
}

/** Writes what a person is and how they come in. A secret that is null stays what it was. */
export async function updatePerson(
  trx: Trx,
  id: number,
  to: { role: Me['role']; active: boolean; badge: string | null; pinHash: string | null; passwordHash: string | null },
): Promise<void> {
  await query(
    trx,
    `UPDATE person
     SET role = ?, active = ?, badge = ?, pin_hash = coalesce(?, pin_hash), password_hash = coalesce(?, password_hash)
     WHERE id = ?`,
    [to.role, to.active, to.badge, to.pinHash, to.passwordHash, id],
  );
}

/** Ends the sessions of a person, but for one where that is named; returns how many there were. */
export async function deleteSessions(db: Pick<Db, 'raw'>, person: number, { but = '' }: { but?: string } = {}): Promise<number> {
  return (await query(db, `DELETE FROM session WHERE sess->>'person' = ? AND sid <> ? RETURNING 1`, [String(person), but])).length;
}

/** Closes a session that is open, for good. Of all the windows that ask at this moment one closes it: the others get nothing. */
export function closeSession(db: Pick<Db, 'raw'>, sid: string, why: 'idle' | 'shift'): Promise<{ person: number | null }[]> {
  return query<{ person: number | null }>(
    db,
    `UPDATE session SET closed = ? WHERE sid = ? AND closed IS NULL RETURNING (sess->>'person')::int AS person`,
    [why, sid],
  );
}

/** A session whose holder was not noted for that long is noted again. */
export const STALE = `interval '30 seconds'`;

/** Notes that somebody is at the device of a session. */
export async function updateSeen(db: Db, sid: string): Promise<void> {
  await query(db, `UPDATE session SET seen = now() WHERE sid = ? AND seen < now() - ${STALE}`, [sid]);
}

/** Notes which handheld a session is on. A session that has ended meanwhile stays ended. */
export async function updateHandheld(db: Db, sid: string, device: string): Promise<void> {
  await query(db, `UPDATE session SET sess = (sess::jsonb || jsonb_build_object('handheld', ?::text))::json WHERE sid = ?`, [device, sid]);
}

/** Ends one session of a person; the device that it was on, or undefined where there is no such session. */
export async function deleteSession(trx: Trx, person: number, number: number): Promise<{ device: string } | undefined> {
  const gone = await query<{ device: string }>(
    trx,
    `DELETE FROM session
     WHERE number = ? AND sess->>'person' = ?
     RETURNING coalesce((SELECT name FROM device WHERE id = (sess->>'handheld')::uuid), sess->>'device', '') AS device`,
    [number, String(person)],
  );
  return gone[0];
}

/** Writes how long a sign-in lasts. */
export async function updateLimits(trx: Trx, limits: { deskIdleMinutes: number; shiftHours: number }): Promise<void> {
  await query(trx, `UPDATE sign_in_limit SET desk_idle_minutes = ?, shift_hours = ?`, [limits.deskIdleMinutes, limits.shiftHours]);
}

/** Deletes sessions whose time was over long ago. */
export async function deleteOldSessions(db: Db): Promise<void> {
  await query(db, `DELETE FROM session WHERE expire < now()`);
}

/** The secret that signs sessions, kept in the database, so that every server process on it knows every session; `made` where there is
 *  none yet. */
export async function findSessionSecret(db: Db, made: string): Promise<string> {
  await query(db, `INSERT INTO setting (name, value) VALUES ('session secret', to_jsonb(?::text)) ON CONFLICT DO NOTHING`, [made]);
  return (await queryOne<{ value: string }>(db, `SELECT value FROM setting WHERE name = 'session secret'`)).value;
}

/** Lets whoever changes people alone with all of them, until the transaction ends. */
export async function lockStaff(trx: Trx): Promise<void> {
  await query(trx, `SELECT pg_advisory_xact_lock(?::bigint << 56)`, [LOCK_CLASS.staff]);
}
