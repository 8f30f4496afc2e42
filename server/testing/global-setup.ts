import pg from 'pg';
import { migrate, openDatabase } from '#server/kernel';
import { loadDemo } from '#demo';

export const TEMPLATE = 'dockrow_template';

/** Makes the database that every test file clones: migrated, with the demo company in it. Runs once for the whole suite. */
export default async function makeTemplate(): Promise<void> {
  const base = process.env['TEST_DATABASE_URL'];
  if (!base) throw new Error('TEST_DATABASE_URL is not set: start the tests with npm test.');
  const admin = new pg.Client({ connectionString: new URL('/postgres', base).href });
  await admin.connect();
  await admin.query(`DROP DATABASE IF EXISTS ${TEMPLATE} WITH (FORCE)`);
  await admin.query(`CREATE DATABASE ${TEMPLATE}`);
  await admin.end();
  const db = openDatabase(new URL(`/${TEMPLATE}`, base).href, { poolSize: 2 });
  await migrate(db);
  await loadDemo(db);
  await db.destroy();
}
