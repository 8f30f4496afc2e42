import { randomBytes } from 'node:crypto';
import { hash, verify } from '@node-rs/argon2';
import { query, refuse, type Db } from '#server/kernel';
import { deleteFirstLead, insertFirstLead, lockFirstLead, upsertFirstLead } from './store.ts';

/** On a database without a lead, makes a one-time code for the first one. There are no default passwords.
 *  Returns the code to be logged, or null where a lead exists. Every start makes a new code. */
export async function offerFirstLead(db: Db): Promise<string | null> {
  const leads = await query(db, `SELECT 1 FROM person WHERE role = 'lead' AND active LIMIT 1`);
  if (leads.length > 0) {
    await deleteFirstLead(db);
    return null;
  }
  const code = randomBytes(9).toString('base64url').toUpperCase();
  await upsertFirstLead(db, await hash(code));
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
    const codeHash = await lockFirstLead(trx);
    if (codeHash === null) return refuse({ code: 'people.leadExists' });
    if (!(await verify(codeHash, wanted.code.trim().toUpperCase()))) refuse({ code: 'people.codeWrong' });
    await insertFirstLead(trx, { name: wanted.name, passwordHash: await hash(wanted.password) });
    await deleteFirstLead(trx);
  });
}
