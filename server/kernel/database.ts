import { Socket } from 'node:net';
import knexPkg, { type Knex } from 'knex';
import PostgresDialect from 'knex/lib/dialects/postgres/index.js';
import { Logger, runMigrations } from 'graphile-worker';
import pg from 'pg';
import * as first from './migrations/001-first.ts';
import * as placesAndItems from './migrations/002-places-and-items.ts';
import * as truthOfStock from './migrations/003-truth-of-stock.ts';
import * as hands from './migrations/004-hands.ts';
import * as people from './migrations/005-people.ts';
import * as ground from './migrations/006-ground.ts';
import * as saidOnce from './migrations/007-said-once.ts';
import * as inspection from './migrations/014-inspection.ts';
import * as returns from './migrations/015-returns.ts';
import * as invoice from './migrations/016-invoice.ts';
import * as whereTo from './migrations/017-where-to.ts';
import * as lotTie from './migrations/018-lot-tie.ts';
import * as units from './migrations/019-units.ts';
import * as tolerance from './migrations/020-tolerance.ts';
import * as ownUnits from './migrations/021-own-units.ts';
import * as way from './migrations/022-way.ts';
import * as orders from './migrations/023-orders.ts';
import * as named from './migrations/024-named.ts';
import * as orderPaper from './migrations/025-order-paper.ts';
import * as carry from './migrations/026-carry.ts';
import * as pickedHow from './migrations/027-picked-how.ts';
import * as kits from './migrations/028-kits.ts';
import * as printers from './migrations/029-printers.ts';
import * as labelContents from './migrations/030-label-contents.ts';
import * as forLeads from './migrations/031-for-leads.ts';
import * as warnings from './migrations/012-warnings.ts';
import * as receiptSheet from './migrations/013-receipt-sheet.ts';
import * as reversing from './migrations/011-reversing.ts';
import * as adjusting from './migrations/010-adjusting.ts';
import * as deliveries from './migrations/009-deliveries.ts';
import * as purchasing from './migrations/008-purchasing.ts';

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
  '006-ground': ground,
  '007-said-once': saidOnce,
  '008-purchasing': purchasing,
  '009-deliveries': deliveries,
  '010-adjusting': adjusting,
  '011-reversing': reversing,
  '012-warnings': warnings,
  '013-receipt-sheet': receiptSheet,
  '014-inspection': inspection,
  '015-returns': returns,
  '016-invoice': invoice,
  '017-where-to': whereTo,
  '018-lot-tie': lotTie,
  '019-units': units,
  '020-tolerance': tolerance,
  '021-own-units': ownUnits,
  '022-way': way,
  '023-orders': orders,
  '024-named': named,
  '025-order-paper': orderPaper,
  '026-carry': carry,
  '027-picked-how': pickedHow,
  '028-kits': kits,
  '029-printers': printers,
  '030-label-contents': labelContents,
  '031-for-leads': forLeads,
};

export const NEWEST_MIGRATION = Object.keys(MIGRATIONS).at(-1) ?? '';

/** No statement of a screen or a scan takes so long; one that does is broken off, and its work with it. */
const STATEMENT_MS = 60_000;
/** Nobody waits longer for somebody else's lock. */
const LOCK_MS = 20_000;
/** A transaction that does nothing for so long has lost whoever held it. */
const IDLE_MS = 120_000;

/** A transaction of which the first statements go in one packet with its beginning; only where they are harmless by themselves (a
 *  beginning that fails lets them through). */
export const TOGETHER = { together: true } as const;

/** A connection of the driver, and the line to the database below it. */
export type Sender = pg.Client & {
  readonly processID: number;
  readonly secretKey: number;
  readonly connection: { readonly stream: Socket };
};

/** Sends in one packet what is sent by that connection before the program waits for anything. */
export function packed<T>({ connection: { stream } }: Sender, sending: () => T): T {
  stream.cork();
  process.nextTick(() => stream.uncork());
  return sending();
}

/** PostgreSQL as knex speaks it, with the one way there and back fewer that a command's transaction can do without. */
class HousePostgres extends PostgresDialect {
  override transaction(
    container: unknown,
    config: object,
    outer: unknown,
  ): ReturnType<InstanceType<typeof PostgresDialect>['transaction']> {
    const made = super.transaction(container, config, outer);
    if ('together' in config) {
      const begin = made.begin.bind(made);
      // Whether it began, the transaction itself notes: what is asked of it afterwards is refused if it did not.
      made.begin = (sender) => {
        packed(sender as Sender, () => void begin(sender));
        return Promise.resolve();
      };
    }
    return made;
  }
}

type Written = { readonly chunk: Buffer | string; readonly encoding: BufferEncoding };

/** The line to the database. What is written together goes as one piece: the driver writes five small ones for each statement, and to hand
 *  the system forty of them takes it twice the time of one (measured: 100 and 50 microseconds). */
class Line extends Socket {
  override _writev(written: Written[], done: (error?: Error | null) => void): void {
    const parts = written.map(({ chunk, encoding }) => (typeof chunk === 'string' ? Buffer.from(chunk, encoding) : chunk));
    this._write(Buffer.concat(parts), 'buffer' as BufferEncoding, done);
  }
}

/** Opens a pool on a PostgreSQL address. `patient`: for jobs and migrations, whose statements may take as long as they need. */
export function openDatabase(url: string, { poolSize = 16, patient = false } = {}): Db {
  return knex({
    client: HousePostgres as unknown as typeof Knex.Client,
    connection: {
      connectionString: url,
      application_name: 'dock-row',
      connectionTimeoutMillis: 5000,
      keepAlive: true,
      pipeline: true,
      stream: () => new Line(),
      // A house's tables lie in memory: reading one row by an index costs hardly more than reading it by the way.
      // And joins are written from what is asked for outward: to try out every order of nine tables takes longer than to read them.
      options: '-c random_page_cost=1.1 -c join_collapse_limit=6 -c from_collapse_limit=6',
      idle_in_transaction_session_timeout: patient ? 0 : IDLE_MS,
      statement_timeout: patient ? 0 : STATEMENT_MS,
      lock_timeout: patient ? 0 : LOCK_MS,
    } as Knex.PgConnectionConfig,
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
      `the database was last changed by a newer Dock Row (migration ${found}; this program knows up to ${NEWEST_MIGRATION}). Update ` +
        `the program.`,
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

const WAIT_MS = 2000;
// What will not become right by waiting.
const HOPELESS: Readonly<Record<string, string>> = {
  '28P01': 'its password is not right',
  '28000': 'it lets this role not in',
  '42501': 'this role may not change its tables',
  '53100': 'its disk is full',
};

/** Opens a database and brings it up to this program's shape, making it where the server does not have it; waits while nobody answers.
 *  `waiting` is told why, each time that is another reason.
 *  Errors: a sentence, where waiting would not help: a password, a right, a full disk, a newer Dock Row. */
export async function openWhenThere(url: string, waiting: (why: string) => void): Promise<Db> {
  for (let said = ''; ;) {
    const opened = openDatabase(url, { patient: true });
    try {
      await ensureDatabase(url);
      await migrate(opened);
      await opened.destroy();
      return openDatabase(url);
    } catch (error) {
      await opened.destroy();
      if (error instanceof NewerDatabase) throw error;
      const { code = '', message } = error as { code?: string; message: string };
      const hopeless = HOPELESS[code];
      if (hopeless) throw new Error(`the database at ${new URL(url).host} cannot be used: ${hopeless}.`);
      if (!/^(ECONN|ENOENT|ETIMEDOUT|EHOST|ENET|EAI_AGAIN|57P|08|53300)/.test(code) && !/timeout|terminated/i.test(message)) throw error;
      const why = code === 'ECONNREFUSED' ? 'nobody answers there' : code === '57P03' ? 'it is starting' : message || code;
      if (why !== said) waiting(why);
      said = why;
      await new Promise((resolve) => setTimeout(resolve, WAIT_MS));
    }
  }
}

/** Gives the application's role what it needs, and no more: of the ledger it may read and add, never change, take away or switch a guard
 *  off. The role is that of the address; its owner runs this, after every migration. */
export async function grantApplication(owner: Db, applicationUrl: string): Promise<void> {
  const role = `"${decodeURIComponent(new URL(applicationUrl).username).replaceAll('"', '""')}"`;
  await owner.raw(`
    GRANT USAGE ON SCHEMA public, graphile_worker TO ${role};
    GRANT SELECT, INSERT, UPDATE, DELETE ON ALL TABLES IN SCHEMA public, graphile_worker TO ${role};
    GRANT USAGE, SELECT, UPDATE ON ALL SEQUENCES IN SCHEMA public, graphile_worker TO ${role};
    GRANT EXECUTE ON ALL FUNCTIONS IN SCHEMA public, graphile_worker TO ${role};
    REVOKE UPDATE, DELETE, TRUNCATE, TRIGGER ON movement FROM ${role};
    REVOKE INSERT, UPDATE, DELETE, TRUNCATE, TRIGGER ON migration, migration_lock FROM ${role};
    -- The queue lets only its owner see its rows, unless it is told otherwise.
    DO $$ DECLARE queue regclass; BEGIN
      FOR queue IN SELECT c.oid FROM pg_class c WHERE c.relnamespace = 'graphile_worker'::regnamespace AND c.relrowsecurity
          AND NOT EXISTS (SELECT 1 FROM pg_policy p WHERE p.polrelid = c.oid AND p.polname = 'the_application') LOOP
        EXECUTE format('CREATE POLICY the_application ON %s USING (true) WITH CHECK (true)', queue);
      END LOOP;
    END $$;
  `);
}
