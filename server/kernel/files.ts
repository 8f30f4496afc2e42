import { createHash } from 'node:crypto';
import type { Db } from './database.ts';
import { query, queryOne } from './query.ts';

export type KeptFile = { id: number; name: string; type: string; size: number; bytes: Buffer; thumb: Buffer | null };

/** Keeps a file in the database. The same bytes kept twice are one file, so a double send does no harm. */
export async function keepFile(
  db: Pick<Db, 'raw'>,
  file: { name: string; type: string; bytes: Buffer; thumb: Buffer | null; person: number; forLeads?: boolean },
): Promise<{ id: number }> {
  const hash = createHash('sha256').update(file.name).update('\0').update(file.bytes).digest('hex');
  const kept = await queryOne<{ id: number }>(
    db,
    `INSERT INTO file (name, type, size, sha256, bytes, thumb, person_id, for_leads)
     VALUES (?, ?, ?, ?, ?, ?, ?, ?)
     ON CONFLICT (sha256) DO UPDATE SET name = excluded.name, for_leads = file.for_leads OR excluded.for_leads
     RETURNING id`,
    [file.name, file.type, file.bytes.length, hash, file.bytes, file.thumb, file.person, file.forLeads ?? false],
  );
  return kept;
}

/** The file of this id, or undefined. */
export async function loadFile(db: Pick<Db, 'raw'>, id: number): Promise<KeptFile | undefined> {
  return (await query<KeptFile>(db, `SELECT id, name, type, size, bytes, thumb FROM file WHERE id = ?`, [id]))[0];
}

const PART = 4_000_000;

/** The bytes of a file, four million at a time: a large one is never held whole, and scans are answered in between. */
export async function* fileParts(db: Pick<Db, 'raw'>, id: number, column: 'bytes' | 'thumb'): AsyncGenerator<Buffer> {
  for (let at = 1; ; at += PART) {
    const [row] = await query<{ part: Buffer }>(db, `SELECT substring(${column} FROM ?::int FOR ${PART}) AS part FROM file WHERE id = ?`, [
      at,
      id,
    ]);
    if (!row || row.part.length === 0) return;
    yield row.part;
    if (row.part.length < PART) return;
  }
}
