import { randomBytes } from 'node:crypto';
import { hash, verify } from '@node-rs/argon2';
import { query, refuse, type Db } from '#server/kernel';

/** On a database without a lead, makes a one-time code for the first one. There are no default passwords.
 *  Returns the code to be logged, or null where a lead exists. Every start makes a new code. */
export async function offerFirstLead(db: Db): Promise<string | null> {
  const leads = await query(db, `SELECT 1 FROM person WHERE role = 'lead' AND active LIMIT 1`);
  if (leads.length > 0) {
    await query(db, `DELETE FROM first_lead`);
    return null;
  }
  const code = randomBytes(9).toString('base64url').toUpperCase();
  await query(db, `INSERT INTO first_lead (one, code_hash) VALUES (1, ?) ON CONFLICT (one) DO UPDATE SET code_hash = excluded.code_hash`, [
    await hash(code),
  ]);
  return code;
}

/** Whether the first lead is still to be made. */
export async function waitsForFirstLead(db: Db): Promise<boolean> {
  return (await query(db, `SELECT 1 FROM first_lead`)).length > 0;
}

/** Makes the first lead and the first site; uses the code up.
 *  Errors: `people.codeWrong`, `people.leadExists`. */
export async function makeFirstLead(db: Db, wanted: { code: string; name: string; password: string }): Promise<void> {
  await db.transaction(async (trx) => {
    // Locked: of two people who send the code at once, one is first.
    const rows = await query<{ code_hash: string }>(trx, `SELECT code_hash FROM first_lead FOR UPDATE`);
    if (!rows[0]) return refuse({ code: 'people.leadExists' });
    if (!(await verify(rows[0].code_hash, wanted.code.trim().toUpperCase()))) refuse({ code: 'people.codeWrong' });
    await query(
      trx,
      `INSERT INTO site (code, name, time_zone) SELECT 'MAIN', 'Main warehouse', 'UTC' WHERE NOT EXISTS (SELECT 1 FROM site)`,
    );
    await query(
      trx,
      `WITH lead AS (INSERT INTO person (name, role, password_hash) VALUES (?, 'lead', ?) RETURNING id)
       INSERT INTO person_site
       SELECT lead.id, site.id
       FROM lead, site`,
      [wanted.name, await hash(wanted.password)],
    );
    await query(trx, `DELETE FROM first_lead`);
  });
}
