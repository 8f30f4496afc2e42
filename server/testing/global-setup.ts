import pg from 'pg';
import { migrate, openDatabase, type Db } from '#server/kernel';
import { loadDemo } from '#demo';

export const TEMPLATE = 'dockrow_template';

/** Makes the database that every test file clones. Runs once for the whole suite. */
export default async function makeTemplate(): Promise<void> {
  const base = process.env['TEST_DATABASE_URL'];
  if (!base) throw new Error('TEST_DATABASE_URL is not set: start the tests with npm test.');
  await makeDemoDatabase(base, TEMPLATE);
}

/** Makes a database anew: migrated, with the demo company in it. */
export async function makeDemoDatabase(base: string, name: string): Promise<void> {
  const db = await emptyDatabase(base, name);
  await loadDemo(db);
  await db.destroy();
}

/** Makes a database anew: migrated, and nothing in it. */
export async function emptyDatabase(base: string, name: string): Promise<Db> {
  const admin = new pg.Client({ connectionString: new URL('/postgres', base).href });
  await admin.connect();
  await admin.query(`DROP DATABASE IF EXISTS ${name} WITH (FORCE)`);
  await admin.query(`CREATE DATABASE ${name}`);
  await admin.end();
  const db = openDatabase(new URL(`/${name}`, base).href, { poolSize: 2 });
  await migrate(db);
  return db;
}
