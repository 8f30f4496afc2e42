import type { Db } from './database.ts';
import { query } from './query.ts';

/** Deletes what nobody will ask for again: told changes, answers of commands, ended jobs, labels that came out or
 *  never will, and sheets that were imported or never were.
 *  What hangs on an item, or shows goods that arrived, stays. */
export async function deleteWhatIsPast(db: Db): Promise<void> {
  await query(db, `DELETE FROM outbox WHERE at < now() - interval '1 hour'`);
  await query(db, `DELETE FROM command WHERE at < now() - interval '14 days'`);
  await query(
    db,
    `DELETE FROM file f
     WHERE at < now() - interval '14 days' AND NOT EXISTS (SELECT 1 FROM item_file x WHERE x.file_id = f.id)
       AND NOT EXISTS (SELECT 1 FROM inspection_photo x WHERE x.file_id = f.id)
       AND NOT EXISTS (SELECT 1 FROM label_contents x WHERE x.logo_id = f.id)`,
  );
  await query(db, `DELETE FROM job WHERE at < now() - interval '90 days'`);
  await query(db, `DELETE FROM print_job WHERE at < now() - interval '90 days' AND state IN ('printed', 'dropped', 'failed')`);
  await query(db, `DELETE FROM print_run WHERE ended_at < now() - interval '90 days'`);
}
