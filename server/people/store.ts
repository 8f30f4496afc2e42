import { query, type Db } from '#server/kernel';
import type { Me } from '#contract/people';

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
    `SELECT p.id, p.name, p.role, coalesce((SELECT json_agg(site_id ORDER BY site_id) FROM person_site x WHERE x.person_id = p.id), '[]') AS sites
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
