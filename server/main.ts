import { randomBytes } from 'node:crypto';
import { createServer } from 'node:http';
import path from 'node:path';
import { Worker } from 'node:worker_threads';
import pg from 'pg';
import { pino } from 'pino';
import { deleteWhatIsPast, grantApplication, openDatabase, openWhenThere, Outbox, runInternal, type Db, type House } from '#server/kernel';
import { deleteOldSessions, findSessionSecret, offerFirstLead } from '#server/people';
import { forgetOldChanges } from '#server/hands';
import { trimAllPromises } from '#server/orders';
import { buildApp } from './http/app.ts';

const VERSION = '0.1.0';
const HOUSEKEEPING_MS = 10 * 60_000;
/** How long requests that are under way may still take when the server is stopped. */
const LAST_MS = 10_000;
const log = pino({ level: process.env['LOG_LEVEL'] ?? 'warn' });

// Whoever read the log may have gone away: that is no reason for the server to go too.
process.stdout.on('error', () => undefined);

function giveUp(sentence: string): never {
  process.stderr.write(`\nDock Row cannot go on: ${sentence}\n`);
  process.exit(1);
}

let stopping = false;
/** Ends what was begun; nothing yet while the server waits for its database. */
let endAll: () => Promise<void> = () => Promise.resolve();
for (const signal of ['SIGTERM', 'SIGINT'] as const) process.on(signal, () => void stop());
const url = process.env['DATABASE_URL'] ?? giveUp('DATABASE_URL is not set.');
const ownerUrl = process.env['DATABASE_OWNER_URL'] ?? url;
const port = Number(process.env['PORT'] ?? 4800);

const db = await openHouse();
const outbox = new Outbox(db, url);
await outbox.start();
const house: House = { db, outbox, demo: process.env['DOCKROW_DEMO'] === '1', version: VERSION };
const sessions = new pg.Pool({ connectionString: url, max: 4, connectionTimeoutMillis: 10_000, query_timeout: 30_000, keepAlive: true });
// The error itself holds the connection, and with it the password.
sessions.on('error', (error) => log.warn({ why: error.message }, 'session connection lost'));
const { app, streams } = buildApp({
  house,
  sessions,
  secret: await findSessionSecret(db, randomBytes(32).toString('base64')),
  log,
  webFolder: path.resolve(import.meta.dirname, 'web'),
});
const jobs = startJobs();
const housekeeping = setInterval(() => void keepHouse(), HOUSEKEEPING_MS);
await keepHouse();

const server = createServer(app);
server.on('error', (error: NodeJS.ErrnoException) =>
  giveUp(error.code === 'EADDRINUSE' ? `port ${port} is taken by another program. Choose another with PORT=….` : error.message),
);
// Nothing new is taken; what is under way ends; streams are told to go, and their devices come back when there is a server again.
endAll = async () => {
  clearInterval(housekeeping);
  const ended = new Promise((resolve) => server.close(resolve));
  streams.close();
  // A connection whose last request has ended would be kept for the next one.
  const idle = setInterval(() => server.closeIdleConnections(), 100);
  const late = setTimeout(() => server.closeAllConnections(), LAST_MS);
  await ended;
  clearInterval(idle);
  clearTimeout(late);
  await jobs.stop();
  await outbox.stop();
  await sessions.end();
  await db.destroy();
};
server.listen(port, process.env['HOST'] ?? '127.0.0.1', () => {
  process.stdout.write(`Dock Row is ready at http://127.0.0.1:${port}\n`);
});
const code = await offerFirstLead(db);
if (code) process.stdout.write(`There is no lead yet. Open the page above and make the first one with this one-time code: ${code}\n`);

// Jobs run in a thread of their own; one that dies is begun again, and the queue gives its job to the next.
function startJobs(): { stop(): Promise<unknown> } {
  let worker = new Worker(path.resolve(import.meta.dirname, 'jobs.mjs'));
  const watch = (): void => {
    worker.on('error', (error) => log.error({ err: error }, 'the thread of jobs fell over'));
    worker.on('exit', () => {
      if (stopping) return;
      // Not at once: where the database is away it would fall over again and again.
      setTimeout(() => {
        worker = new Worker(path.resolve(import.meta.dirname, 'jobs.mjs'));
        watch();
      }, 1000);
    });
  };
  watch();
  return { stop: () => worker.terminate() };
}

async function stop(): Promise<void> {
  if (stopping) process.exit(1);
  stopping = true;
  await endAll();
  process.exit(0);
}

/** Waits for the database, brings it up to this program's shape as its owner, and opens it as the application. */
async function openHouse(): Promise<Db> {
  const owner = await openWhenThere(ownerUrl, (why) =>
    process.stdout.write(`Waiting for the database at ${new URL(ownerUrl).host}: ${why}\n`),
  ).catch((error: Error) => giveUp(error.message));
  if (ownerUrl === url) {
    log.warn(
      'The application owns its tables: set DATABASE_OWNER_URL to a role of its own, so that nothing may change what the ledger says.',
    );
    return owner;
  }
  await grantApplication(owner, url);
  await owner.destroy();
  return openDatabase(url);
}

// Lots that expired since the last look can no longer back a promise; what nobody will ask for again goes.
async function keepHouse(): Promise<void> {
  try {
    await runInternal(db, (trx) => trimAllPromises(trx));
    outbox.nudge();
    await forgetOldChanges(db);
    await deleteOldSessions(db);
    await deleteWhatIsPast(db);
  } catch (error) {
    log.warn({ err: error }, 'housekeeping will be tried again');
  }
}
