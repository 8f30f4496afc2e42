import { createHash, randomBytes, type Hash } from 'node:crypto';
import { spawn } from 'node:child_process';
import { createReadStream } from 'node:fs';
import { open, rename, rm, type FileHandle } from 'node:fs/promises';
import { Transform } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import pg from 'pg';
import { migrate, NEWEST_MIGRATION, openDatabase, query, type Db } from '#server/kernel';
import { runAudit } from '#server/stock';

/** What a database holds, table by table: how many rows, and a sum over their contents that does not hang on their order. */
export type Figures = Readonly<Record<string, { readonly rows: number; readonly sum: string }>>;
/** What stands at the head of a backup. */
export type Head = {
  readonly madeAt: string;
  readonly migration: string;
  readonly audit: { readonly checks: number; readonly faults: number };
  readonly figures: Figures;
  readonly sha256: string;
};
export type Say = (sentence: string) => void;

/** Why a backup or a restore ended; the message is a sentence for whoever asked for it. */
export class BackupFault extends Error {}

const MARK = 'DOCK ROW BACKUP 1\n';
/** Room for the head, in bytes: it is written last, when the sum over what follows is known. */
const HEAD_BYTES = 64 * 1024;
// Who is signed in is not kept: after a restore everybody comes in anew.
const LEFT_OUT = ['session'];

/** Keeps a whole database in one file, as it was at one moment, whoever works in it meanwhile; and proves the file by restoring it into an
 *  empty database beside it and comparing every table's figures.
 *  Shape:  `url` is that of the tables' owner. The file is there only when it was proved; returns its head.
 *  Errors: `BackupFault`. Nothing is left behind then. */
export async function backUp(url: string, file: string, say: Say): Promise<Head> {
  const part = `${file}.part`;
  // What is there already is another's, and stays theirs.
  const handle = await open(part, 'wx', 0o600).catch((error: NodeJS.ErrnoException) => {
    const isThere = error.code === 'EEXIST';
    throw new BackupFault(
      isThere ? `${part} is there already: another backup is being made, or one was broken off.` : `${part} cannot be written.`,
    );
  });
  const db = openDatabase(url, { poolSize: 1, patient: true });
  try {
    const head = await db.transaction(
      async (trx) => {
        const [snapshot] = await query<{ id: string }>(trx, `SELECT pg_export_snapshot() AS id`);
        const { checks, faults } = await runAudit(trx);
        say(`The audit says: ${checks} checks, ${faults.length === 0 ? 'clean' : `${faults.length} faults`}.`);
        const figures = await figuresOf(trx);
        say(`${Object.keys(figures).length} tables with ${Object.values(figures).reduce((n, f) => n + f.rows, 0)} rows are kept.`);
        const sha256 = await dump(url, snapshot?.id ?? '', handle);
        const made = {
          madeAt: new Date().toISOString(),
          migration: NEWEST_MIGRATION,
          audit: { checks, faults: faults.length },
          figures,
          sha256,
        };
        await writeHead(part, made);
        return made;
      },
      { isolationLevel: 'repeatable read', readOnly: true },
    );
    say('The file is proved by restoring it …');
    const check = await besideUrl(url, `dock_row_check_${randomBytes(4).toString('hex')}`);
    try {
      await fill(check, part, head);
    } finally {
      await dropDatabase(check);
    }
    await rename(part, file);
    return head;
  } catch (error) {
    await rm(part, { force: true });
    throw error;
  } finally {
    await handle.close().catch(() => undefined);
    await db.destroy();
  }
}

/** Brings a backup back.
 *  Shape:  it is restored into a new database and proved first; only then it takes the place of the one that is there, which is kept under
 *          another name. `over`: somebody said that it may. Returns the head, and the name under which the former database is kept, if
 *          there was one.
 *  Errors: `BackupFault`, and nothing has changed: a database that is not empty and nobody said so, a server that still works on it, a
 *          damaged file, a backup of a newer Dock Row. */
export async function bringBack(
  url: string,
  file: string,
  { over, say }: { over: boolean; say: Say },
): Promise<{ head: Head; kept: string | null }> {
  const head = await readHead(file);
  if (head.migration > NEWEST_MIGRATION)
    throw new BackupFault(
      `${file} was made by a newer Dock Row (migration ${head.migration}; this program knows up to ${NEWEST_MIGRATION}). Update the ` +
        `program.`,
    );
  const name = nameOf(url);
  const there = await lookAt(url);
  if (there.tables > 0 && !over)
    throw new BackupFault(
      `the database ${name} is not empty. Say --over where the backup shall take its place; what is there is kept under another name.`,
    );
  if (there.tables > 0 && there.servers > 0) throw new BackupFault(`a server works on the database ${name}. Stop it first.`);
  const next = await besideUrl(url, `${name}_next_${randomBytes(4).toString('hex')}`);
  try {
    await fill(next, file, head);
    await beginEra(next);
    say('The backup is whole; it takes its place.');
    const kept = there.exists ? `${name}_before_${new Date().toISOString().replace(/\D/g, '').slice(0, 14)}` : null;
    await asAdmin(url, async (admin) => {
      if (kept) await admin.query(`ALTER DATABASE ${quoted(name)} RENAME TO ${quoted(kept)}`);
      await admin.query(`ALTER DATABASE ${quoted(nameOf(next))} RENAME TO ${quoted(name)}`);
    });
    if (kept !== null && there.tables === 0) {
      await dropDatabase(withName(url, kept));
      return { head, kept: null };
    }
    return { head, kept };
  } catch (error) {
    await dropDatabase(next).catch(() => undefined);
    throw error;
  }
}

/** The figures of every table of a database. */
export async function figuresOf(db: Pick<Db, 'raw'>): Promise<Figures> {
  const tables = await query<{ name: string }>(
    db,
    `SELECT relname AS name FROM pg_class WHERE relnamespace = 'public'::regnamespace AND relkind = 'r' ORDER BY 1`,
  );
  const figures: Record<string, { rows: number; sum: string }> = {};
  for (const { name } of tables.filter((t) => !LEFT_OUT.includes(t.name))) {
    const [row] = await query<{ rows: number; sum: string }>(
      db,
      `SELECT count(*) AS rows, coalesce(sum(hashtextextended(t::text, 0)), 0)::text AS sum FROM ${quoted(name)} t`,
    );
    if (row) figures[name] = row;
  }
  return figures;
}

/** Reads the head of a backup.
 *  Errors: `BackupFault` where the file is none, or is cut. */
export async function readHead(file: string): Promise<Head> {
  const handle = await open(file, 'r').catch(() => {
    throw new BackupFault(`there is no file ${file}, or it cannot be read.`);
  });
  try {
    const { buffer, bytesRead } = await handle.read(Buffer.alloc(HEAD_BYTES), 0, HEAD_BYTES, 0);
    const text = buffer.toString('utf8', 0, bytesRead);
    if (bytesRead < HEAD_BYTES || !text.startsWith(MARK)) throw new BackupFault(`${file} is no backup of Dock Row, or it was cut off.`);
    return JSON.parse(text.slice(MARK.length).trimEnd()) as Head;
  } finally {
    await handle.close();
  }
}

async function writeHead(file: string, head: Head): Promise<void> {
  const text = MARK + JSON.stringify(head);
  if (Buffer.byteLength(text) >= HEAD_BYTES) throw new BackupFault('the figures do not fit into the head of the file.');
  const handle = await open(file, 'r+');
  try {
    await handle.write(Buffer.concat([Buffer.from(text), Buffer.alloc(HEAD_BYTES - Buffer.byteLength(text), ' ')]), 0, HEAD_BYTES, 0);
    await handle.sync();
  } finally {
    await handle.close();
  }
}

async function dump(url: string, snapshot: string, handle: FileHandle): Promise<string> {
  const args = [
    '--format=custom',
    '--compress=6',
    '--no-owner',
    '--no-privileges',
    `--snapshot=${snapshot}`,
    ...LEFT_OUT.map((t) => `--exclude-table-data=public.${t}`),
  ];
  const { program, ended } = run('pg_dump', args, url);
  const hash = createHash('sha256');
  await Promise.all([pipeline(program.stdout, hashing(hash), handle.createWriteStream({ start: HEAD_BYTES })), ended]).catch(
    (error: NodeJS.ErrnoException) => {
      throw error.code === 'ENOSPC' ? new BackupFault('the disk is full.') : error;
    },
  );
  return hash.digest('hex');
}

/** Restores a backup into an empty database and compares what is there with its head. */
async function fill(url: string, file: string, head: Head): Promise<void> {
  const { program, ended } = run(
    'pg_restore',
    ['--no-owner', '--no-privileges', '--exit-on-error', '--single-transaction', `--dbname=${url}`],
    url,
  );
  const hash = createHash('sha256');
  const sent = pipeline(createReadStream(file, { start: HEAD_BYTES }), hashing(hash), program.stdin);
  // Where the program ends early its own words say why, not the pipe's.
  const [, restored] = await Promise.allSettled([sent, ended]);
  if (restored.status === 'rejected') throw restored.reason;
  if (hash.digest('hex') !== head.sha256) throw new BackupFault(`${file} is damaged: its contents are not those that were written.`);
  const db = openDatabase(url, { poolSize: 1, patient: true });
  try {
    const figures = await figuresOf(db);
    const wrong = [...new Set([...Object.keys(head.figures), ...Object.keys(figures)])].filter(
      (t) => figures[t]?.rows !== head.figures[t]?.rows || figures[t]?.sum !== head.figures[t]?.sum,
    );
    if (wrong.length > 0) throw new BackupFault(`what was restored is not what was kept, in ${wrong.join(', ')}.`);
    const { checks, faults } = await runAudit(db);
    if (checks === head.audit.checks && faults.length !== head.audit.faults)
      throw new BackupFault(
        `the audit finds ${faults.length} faults in what was restored, and found ${head.audit.faults} in what was kept.`,
      );
  } finally {
    await db.destroy();
  }
}

/** Begins another era in a database that came back: the numbers by which another server, or this one later, told transactions apart mean
 *  nothing in it. Open counts keep what they saw by the ledger's numbers, devices begin anew, and nothing of before is told as a change. */
async function beginEra(url: string): Promise<void> {
  const db = openDatabase(url, { poolSize: 1, patient: true });
  try {
    await migrate(db);
    await db.transaction(async (trx) => {
      await query(
        trx,
        `UPDATE stock_count c
         SET began = NULL,
           seen = ARRAY(SELECT m.id FROM movement m WHERE m.id > c.starts_after AND pg_visible_in_snapshot(m.xid, c.began))
         WHERE c.state = 'open' AND c.began IS NOT NULL`,
      );
      await query(trx, `DELETE FROM outbox`);
      await query(trx, `DELETE FROM fact_change`);
      await query(trx, `UPDATE fact_floor SET era = substr(md5(random()::text), 1, 8), changed = '0'::xid8`);
    });
  } finally {
    await db.destroy();
  }
}

type Program = {
  program: ReturnType<typeof spawn> & { stdin: NodeJS.WritableStream; stdout: NodeJS.ReadableStream };
  ended: Promise<void>;
};

/** Runs one of PostgreSQL's own programs; its password goes by its surroundings, where nobody else reads it. */
function run(name: string, args: readonly string[], url: string): Program {
  const { hostname, port, username, password } = new URL(url);
  const bare = args.map((a) => (a.startsWith('--dbname=') ? `--dbname=${nameOf(url)}` : a));
  const program = spawn(name, [...bare, ...(name === 'pg_dump' ? [nameOf(url)] : [])], {
    env: {
      ...process.env,
      PGHOST: hostname,
      PGPORT: port || '5432',
      PGUSER: decodeURIComponent(username),
      PGPASSWORD: decodeURIComponent(password),
    },
    stdio: ['pipe', 'pipe', 'pipe'],
  });
  let said = '';
  program.stderr.on('data', (text: Buffer) => (said = (said + String(text)).slice(-2000)));
  const ended = new Promise<void>((resolve, reject) => {
    program.on('error', () => reject(new BackupFault(`${name} could not be run: PostgreSQL’s own programs must be installed here.`)));
    program.on('close', (code) =>
      code === 0 ? resolve() : reject(new BackupFault(`${name} broke off: ${said.trim().split('\n')[0] ?? ''}`)),
    );
  });
  return { program: program as Program['program'], ended };
}

function hashing(hash: Hash): Transform {
  return new Transform({
    transform(part: Buffer, _encoding, done) {
      hash.update(part);
      done(null, part);
    },
  });
}

const nameOf = (url: string): string => decodeURIComponent(new URL(url).pathname.slice(1));
const quoted = (name: string): string => `"${name.replaceAll('"', '""')}"`;
function withName(url: string, name: string): string {
  const target = new URL(url);
  target.pathname = `/${encodeURIComponent(name)}`;
  return target.href;
}

async function asAdmin<T>(url: string, work: (admin: pg.Client) => Promise<T>): Promise<T> {
  const admin = new pg.Client({ connectionString: withName(url, 'postgres') });
  await admin.connect().catch((error: Error) => {
    throw new BackupFault(`the database at ${new URL(url).host} cannot be reached: ${error.message}`);
  });
  try {
    return await work(admin);
  } finally {
    await admin.end();
  }
}

/** Makes an empty database beside that of the address. */
async function besideUrl(url: string, name: string): Promise<string> {
  await asAdmin(url, (admin) => admin.query(`CREATE DATABASE ${quoted(name)} TEMPLATE template0 ENCODING 'UTF8'`)).catch((error: Error) => {
    throw error instanceof BackupFault ? error : new BackupFault(`no database can be made to prove the backup in: ${error.message}`);
  });
  return withName(url, name);
}

async function dropDatabase(url: string): Promise<void> {
  await asAdmin(url, (admin) => admin.query(`DROP DATABASE IF EXISTS ${quoted(nameOf(url))} WITH (FORCE)`));
}

async function lookAt(url: string): Promise<{ exists: boolean; tables: number; servers: number }> {
  const { exists, servers } = await asAdmin(url, async (admin) => {
    const found = await admin.query<{ exists: boolean; servers: number }>(
      `SELECT EXISTS (SELECT 1 FROM pg_database WHERE datname = $1) AS exists,
         (SELECT count(*)::int FROM pg_stat_activity WHERE datname = $1 AND backend_type = 'client backend') AS servers`,
      [nameOf(url)],
    );
    return found.rows[0] ?? { exists: false, servers: 0 };
  });
  if (!exists) return { exists, servers, tables: 0 };
  const db = openDatabase(url, { poolSize: 1 });
  try {
    const [row] = await query<{ n: number }>(
      db,
      `SELECT count(*) AS n FROM pg_class WHERE relnamespace = 'public'::regnamespace AND relkind = 'r'`,
    );
    return { exists, servers, tables: row?.n ?? 0 };
  } finally {
    await db.destroy();
  }
}
