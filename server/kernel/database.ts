import knexPkg, { type Knex } from 'knex';
import { Logger, runMigrations } from 'graphile-worker';
import pg from 'pg';
import * as first from './migrations/001-first.ts';
import * as placesAndItems from './migrations/002-places-and-items.ts';
import * as truthOfStock from './migrations/003-truth-of-stock.ts';
import * as hands from './migrations/004-hands.ts';
import * as people from './migrations/005-people.ts';

const { knex } = knexPkg;

// Dates stay texts (a DATE is no moment in anybody's time zone); ids and counts are far below 2^53; numeric stays text for core to read.
pg.types.setTypeParser(pg.types.builtins.DATE, (text) => text);
pg.types.setTypeParser(pg.types.builtins.INT8, Number);

export type Trx = Knex.Transaction;
export type Db = Knex;

/** Every migration, in order. Static imports, because the server runs as one bundled file. */
const MIGRATIONS: Readonly<Record<string, Knex.Migration>> = {
  '001-first': first,
  '002-places-and-items': placesAndItems,
  '003-truth-of-stock': truthOfStock,
  '004-hands': hands,
  '005-people': people,
};

export const NEWEST_MIGRATION = Object.keys(MIGRATIONS).at(-1) ?? '';

/** Opens a pool on a PostgreSQL address. */
export function openDatabase(url: string, { poolSize = 16 } = {}): Db {
  return knex({
    client: 'pg',
    connection: { connectionString: url, application_name: 'dock-row' },
    pool: { min: 0, max: poolSize },
    acquireConnectionTimeout: 20_000,
    migrations: {
      tableName: 'migration',
      migrationSource: {
        getMigrations: () => Promise.resolve(Object.keys(MIGRATIONS)),
        getMigrationName: (name: string) => name,
        getMigration: (name: string) => Promise.resolve(MIGRATIONS[name] as Knex.Migration),
      },
    },
  });
}

/** The database was migrated by a newer program than this one. */
export class NewerDatabase extends Error {
  constructor(found: string) {
    super(
      `the database was last changed by a newer Dock Row (migration ${found}; this program knows up to ${NEWEST_MIGRATION}). Update the program.`,
    );
  }
}

/** The queue's own log would say every time that nothing had to be done. */
export const SILENT = new Logger(() => () => undefined);

/** The address that a pool was opened on. */
export function addressOf(db: Db): string {
  return (db.client as { config: { connection: { connectionString: string } } }).config.connection.connectionString;
}

/** Brings the database up to this program's shape.
 *  Errors: `NewerDatabase` where it is ahead of this program; nothing is changed then. */
export async function migrate(db: Db): Promise<void> {
  if (await db.schema.hasTable('migration')) {
    const done = await db<{ name: string }>('migration').select('name');
    const unknown = done
      .map((row) => row.name)
      .filter((name) => !(name in MIGRATIONS))
      .sort();
    if (unknown.length > 0) throw new NewerDatabase(unknown.at(-1) ?? '');
  }
  await db.migrate.latest();
  await runMigrations({ connectionString: addressOf(db), logger: SILENT });
}

/** Makes the database of the address if the server does not have it yet. */
export async function ensureDatabase(url: string): Promise<void> {
  const target = new URL(url);
  const name = decodeURIComponent(target.pathname.slice(1));
  const probe = new pg.Client({ connectionString: url });
  try {
    await probe.connect();
    await probe.end();
  } catch (error) {
    if ((error as { code?: string }).code !== '3D000') throw error;
    target.pathname = '/postgres';
    const admin = new pg.Client({ connectionString: target.href });
    await admin.connect();
    await admin.query(`CREATE DATABASE "${name.replaceAll('"', '""')}"`);
    await admin.end();
  }
}
