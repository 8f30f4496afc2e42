import { hash } from '@node-rs/argon2';
import { decideStaff, type Role, type Staff, type StaffChange } from '#core/people';
import { query, refuse, valueOf, type Db, type Trx } from '#server/kernel';
import {
  deleteFailures,
  deleteSessions,
  insertPerson,
  insertPersonEvent,
  lockStaff,
  OVER,
  updatePerson,
  type PersonEvent,
} from './store.ts';

export type { PersonEvent };

type Reads = Pick<Db, 'raw'>;

/** Keeps that something happened to a person or was done by one. Details never hold a secret. */
export async function noteEvent(
  db: Reads,
  event: { what: PersonEvent; person: number | null; by: number | null; detail?: string },
): Promise<void> {
  await insertPersonEvent(db, { ...event, detail: event.detail ?? '' });
}

type StaffRow = Staff & { id: number; name: string };
const STAFF = `SELECT id, name, role, active, badge, pin_hash IS NOT NULL AS "hasPin", password_hash IS NOT NULL AS "hasPassword"
  FROM person`;

/** Adds somebody who works here.
 *  Shape:  returns their number.
 *  Errors: what `decideStaff` refuses; a name or a badge that somebody has.
 *  Locks:  people are changed one after the other. */
export async function addPerson(
  trx: Trx,
  wanted: StaffChange & { readonly name: string; readonly role: Role; readonly sites: readonly number[] },
  by: number,
): Promise<number> {
  await lockStaff(trx);
  const { name, role, sites } = wanted;
  const decided = valueOf(decideStaff(wanted, { name, before: null, self: false, otherLeads: 0 }));
  const [same] = await query<{ name: string }>(trx, `SELECT name FROM person WHERE lower(name) = lower(?)`, [name]);
  if (same) refuse({ code: 'people.nameTaken', name: same.name });
  await refuseTakenBadge(trx, decided.badge, 0);
  const known = (await query<{ id: number }>(trx, `SELECT id FROM site WHERE id = ANY(?::int[])`, [sites])).map((s) => s.id);
  const unknown = sites.find((site) => !known.includes(site));
  if (unknown !== undefined) refuse({ code: 'places.unknownSite', id: unknown });
  const secrets = { pinHash: await hashOf(wanted.pin), passwordHash: await hashOf(wanted.password) };
  const id = await insertPerson(trx, { name, role, badge: decided.badge, ...secrets, sites });
  await noteEvent(trx, { what: 'added', person: id, by, detail: role });
  return id;
}

async function findPerson(db: Reads, id: number): Promise<StaffRow> {
  const [person] = await query<StaffRow>(db, `${STAFF} WHERE id = ?`, [id]);
  return person ?? refuse({ code: 'people.unknownPerson', id });
}

/** Gives somebody the tries back that were made in vain.
 *  Errors: nobody of that number. */
export async function letIn(trx: Trx, id: number, by: number): Promise<void> {
  await findPerson(trx, id);
  await deleteFailures(trx, `person:${id}`);
  await noteEvent(trx, { what: 'letIn', person: id, by });
}

/** Changes one's own password or PIN, which was proved before. Sessions that are open elsewhere end: whoever changes a secret may have
 *  lost it. Errors and locks as `changePerson`. */
export async function changeOwnSecret(trx: Trx, id: number, secret: Pick<StaffChange, 'pin' | 'password'>, session: string): Promise<void> {
  await changePerson(trx, id, secret, id);
  await deleteSessions(trx, id, { but: session });
}

/** Changes what somebody is, how they come in, and whether they may. Whoever is locked out is out at once, on every device.
 *  Errors: what `decideStaff` refuses; nobody of that number; a badge that somebody has.
 *  Locks:  people are changed one after the other. */
export async function changePerson(trx: Trx, id: number, change: StaffChange, by: number): Promise<void> {
  await lockStaff(trx);
  const before = await findPerson(trx, id);
  const [others] = await query<{ n: number }>(trx, `SELECT count(*)::int AS n FROM person WHERE role = 'lead' AND active AND id <> ?`, [
    id,
  ]);
  const after = valueOf(decideStaff(change, { name: before.name, before, self: id === by, otherLeads: others?.n ?? 0 }));
  await refuseTakenBadge(trx, after.badge, id);
  await updatePerson(trx, id, { ...after, pinHash: await hashOf(change.pin), passwordHash: await hashOf(change.password) });
  const said = [
    after.role !== before.role && `${before.role} → ${after.role}`,
    after.badge !== before.badge && `badge ${after.badge ?? 'taken away'}`,
    change.pin !== undefined && 'a new PIN',
    change.password !== undefined && 'a new password',
  ].filter((s) => s !== false);
  if (said.length > 0) await noteEvent(trx, { what: 'changed', person: id, by, detail: said.join(', ') });
  if (after.active !== before.active) await noteEvent(trx, { what: after.active ? 'unlocked' : 'locked', person: id, by });
  // A secret that was changed by somebody else, or a lock, leaves no session behind that the old one opened.
  if (!after.active || ((change.pin !== undefined || change.password !== undefined) && id !== by)) await deleteSessions(trx, id);
}

/** Ends every session of a person; returns how many there were.
 *  Errors: nobody of that number. */
export async function endSessions(trx: Trx, id: number, by: number): Promise<number> {
  await findPerson(trx, id);
  const ended = await deleteSessions(trx, id);
  await noteEvent(trx, { what: 'ended', person: id, by, detail: String(ended) });
  return ended;
}

async function refuseTakenBadge(trx: Trx, badge: string | null, self: number): Promise<void> {
  if (badge === null) return;
  const [other] = await query<{ name: string }>(trx, `SELECT name FROM person WHERE badge = ? AND id <> ?`, [badge, self]);
  if (other) refuse({ code: 'people.badgeTaken', badge, name: other.name });
}

const hashOf = async (secret: string | undefined): Promise<string | null> => (secret === undefined ? null : hash(secret));

export type StaffListRow = StaffRow & { sites: number[]; sessions: number; lastIn: string | null; shutOut: boolean };

/** Everybody who ever could come in: how, where they work, how many sessions they have open, and when they came in last. */
export async function selectStaff(db: Reads, { tries, minutes }: { tries: number; minutes: number }): Promise<StaffListRow[]> {
  return query<StaffListRow>(
    db,
    `SELECT p.*, coalesce((SELECT json_agg(site_id ORDER BY site_id) FROM person_site x WHERE x.person_id = p.id), '[]') AS sites,
       (
         SELECT count(*)::int
         FROM session s
         CROSS JOIN sign_in_limit l
         WHERE s.sess->>'person' = p.id::text AND s.expire > now() AND ${OVER} IS NULL
       ) AS sessions,
       (SELECT to_json(max(e.at)) #>> '{}' FROM person_event e WHERE e.person_id = p.id AND e.what = 'in') AS "lastIn",
       (
         SELECT count(*) >= ? FROM sign_in_failure f WHERE f.who = 'person:' || p.id AND f.at > now() - make_interval(mins => ?)
       ) AS "shutOut"
     FROM (${STAFF}) p ORDER BY NOT p.active, array_position(ARRAY['lead', 'office', 'hand'], p.role), p.name`,
    [tries, minutes],
  );
}

export type EventRow = { id: number; at: Date; what: PersonEvent; person: string | null; by: string | null; detail: string };

/** What happened to people, newest first, a page at a time; of one person where one is named. */
export function selectEvents(db: Reads, of: { person: number | null; after: number | null }): Promise<EventRow[]> {
  return query<EventRow>(
    db,
    `SELECT e.id, e.at, e.what, p.name AS person, b.name AS by, e.detail FROM person_event e
       LEFT JOIN person p ON p.id = e.person_id LEFT JOIN person b ON b.id = e.by_id
     WHERE (?::int IS NULL OR e.person_id = ?) AND (?::bigint IS NULL OR e.id < ?) ORDER BY e.id DESC LIMIT 100`,
    [of.person, of.person, of.after, of.after],
  );
}
