import { execFileSync } from 'node:child_process';
import path from 'node:path';
import pg from 'pg';
import { grantApplication, migrate, openDatabase, type Db } from '#server/kernel';
import { loadDemo } from '#demo';

export const TEMPLATE = 'dockrow_template';

/** Makes the database that every test file clones. Runs once for the whole suite. */
export default async function makeTemplate(): Promise<void> {
  const base = process.env['TEST_DATABASE_URL'];
  if (!base) throw new Error('TEST_DATABASE_URL is not set: start the tests with npm test.');
  buildHelper();
  await makeDemoDatabase(base, TEMPLATE);
}

// Built once: read from source, each begin of it would take seconds.
function buildHelper(): void {
  const folder = path.resolve('node_modules/.cache/dock-row');
  execFileSync('node', ['scripts/build.mjs', '--helper', folder], { env: { ...process.env, NODE_OPTIONS: '' } });
  process.env['DOCKROW_HELPER'] = path.join(folder, 'helper.mjs');
}

const APPLICATION = 'dock_row_in_tests';

/** The address of a database for the application's role, which may not touch what the ledger says. */
export function applicationUrl(url: string): string {
  const address = new URL(url);
  address.username = APPLICATION;
  address.password = APPLICATION;
  return address.href;
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
  // Two may make it at once.
  await admin.query(`CREATE ROLE ${APPLICATION} LOGIN PASSWORD '${APPLICATION}'`).catch(() => undefined);
  await admin.end();
  const db = openDatabase(new URL(`/${name}`, base).href, { poolSize: 2 });
  await migrate(db);
  await grantApplication(db, applicationUrl(base));
  return db;
}
