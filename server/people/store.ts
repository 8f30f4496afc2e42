import { query, type Db } from '#server/kernel';
import type { Me } from '#contract/people';

type PersonRow = {
  id: number;
  name: string;
  role: Me['role'];
  password_hash: string | null;
  pin_hash: string | null;
  badge: string | null;
  site: Me['site'];
};

const PERSON = `SELECT p.id, p.name, p.role, p.password_hash, p.pin_hash, p.badge, json_build_object('id', s.id, 'code', s.code, 'name', s.name, 'timeZone', s.time_zone) AS site
  FROM person p JOIN site s ON s.id = coalesce(p.site_id, (SELECT min(id) FROM site)) WHERE p.active`;

/** The person of this name. */
export async function selectByName(db: Db, name: string): Promise<PersonRow | undefined> {
  return (await query<PersonRow>(db, `${PERSON} AND lower(p.name) = lower(?)`, [name]))[0];
}

/** The person with this badge. */
export async function selectByBadge(db: Db, badge: string): Promise<PersonRow | undefined> {
  return (await query<PersonRow>(db, `${PERSON} AND p.badge = ?`, [badge]))[0];
}

/** Everybody who may sign in, leads first. */
export async function selectPeople(db: Db): Promise<PersonRow[]> {
  return query<PersonRow>(db, `${PERSON} ORDER BY array_position(ARRAY['lead', 'office', 'hand'], p.role), p.id`);
}

/** A site as the signed-in person sees it. */
export async function selectSite(db: Pick<Db, 'raw'>, id: number): Promise<Me['site'] | undefined> {
  return (await query<Me['site']>(db, `SELECT id, code, name, time_zone AS "timeZone" FROM site WHERE id = ?`, [id]))[0];
}

/** How often this name or badge was tried in vain in the last so many minutes. */
export async function countFailures(db: Db, who: string, minutes: number): Promise<number> {
  const rows = await query<{ n: number }>(
    db,
    `SELECT count(*) AS n FROM sign_in_failure WHERE who = ? AND at > now() - make_interval(mins => ?)`,
    [who, minutes],
  );
  return rows[0]?.n ?? 0;
}

export async function insertFailure(db: Db, who: string): Promise<void> {
  await query(db, `INSERT INTO sign_in_failure (who) VALUES (?)`, [who]);
}

export async function deleteFailures(db: Db, who: string): Promise<void> {
  await query(db, `DELETE FROM sign_in_failure WHERE who = ? OR at < now() - interval '1 day'`, [who]);
}
