import { randomUUID } from 'node:crypto';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { afterAll, beforeAll } from '@jest/globals';
import pg from 'pg';
import { pino } from 'pino';
import { openDatabase, Outbox, query, runJobs, type Db, type Topic } from '#server/kernel';
import type { DEMO_PEOPLE } from '#server/people';
import { startPrinting } from '#server/labels';
import { runAudit } from '#server/stock';
import { buildApp } from '../http/app.ts';
import type { Streams } from '../http/streams.ts';
import { clientOf, signIn, type Client } from './client.ts';
import { JOBS } from '../jobs.ts';
import { applicationUrl, TEMPLATE } from './global-setup.ts';

export type TestHouse = {
  db: Db;
  outbox: Outbox;
  streams: Streams;
  url: string;
  ownerUrl: string;
  address: string;
  signIn(name: (typeof DEMO_PEOPLE)[number]['name']): Promise<Client>;
  stranger: Client;
  /** The same database as its owner, who may do what the application may not. */
  owner: Db;
  rows<Row>(sql: string, values?: readonly unknown[]): Promise<Row[]>;
  /** Resolves at the next change of a topic, or after two seconds: the waiter looks again then. */
  nextChange(topic: Topic): Promise<void>;
  expectCleanAudit(): Promise<void>;
  close(): Promise<void>;
};

/** Clones the template and opens a whole server on it, for one test file. */
export async function openHouse({ jobs = true } = {}): Promise<TestHouse> {
  const base = process.env['TEST_DATABASE_URL'] ?? '';
  const name = `test_${randomUUID().replaceAll('-', '').slice(0, 16)}`;
  await admin(base, `CREATE DATABASE ${name} TEMPLATE ${TEMPLATE}`);
  const ownerUrl = new URL(`/${name}`, base).href;
  const owner = openDatabase(ownerUrl, { poolSize: 4 });
  const url = applicationUrl(ownerUrl);
  const db = openDatabase(url, { poolSize: 16 });
  const outbox = new Outbox(db, url);
  await outbox.start();
  const stopJobs = jobs ? await runJobs(db, outbox, JOBS) : null;
  const stopPrinting = jobs ? startPrinting(db, outbox, null) : null;
  const sessions = new pg.Pool({ connectionString: url, max: 2 });
  const { app, streams } = buildApp({
    house: { db, outbox, demo: true, version: 'test' },
    sessions,
    secret: 'test',
    log: pino({ level: 'silent' }),
    webFolder: null,
  });
  const server: Server = createServer(app);
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  const address = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  const close = async (): Promise<void> => {
    await stopPrinting?.();
    await stopJobs?.();
    streams.close();
    server.closeAllConnections();
    await new Promise((resolve) => server.close(resolve));
    await outbox.stop();
    await sessions.end();
    await db.destroy();
    await owner.destroy();
    await admin(base, `DROP DATABASE ${name} WITH (FORCE)`);
  };
  return {
    db,
    outbox,
    owner,
    streams,
    url,
    ownerUrl,
    address,
    stranger: clientOf(address, ''),
    signIn: (who) => signIn(address, who),
    rows: (sql, values) => query(owner, sql, values),
    nextChange: (topic) =>
      new Promise((resolve) => {
        const done = (): void => {
          stop();
          clearTimeout(timer);
          resolve();
        };
        const stop = outbox.listen((change) => change.topic === topic && done());
        const timer = setTimeout(done, 2000).unref();
      }),
    expectCleanAudit: async () => {
      // What is open keeps the test runner waiting; a file that complains here does not come to its closing.
      const { faults } = await runAudit(db).catch(async (error: unknown) => {
        await close();
        throw error;
      });
      if (faults.length === 0) return;
      await close();
      throw new Error(`The audit found faults:\n${faults.map((f) => `${f.check}: ${f.detail}`).join('\n')}`);
    },
    close,
  };
}

// A database is copied: on a machine that does much else that takes longer than a test may.
const OPENING_MS = 60_000;

type DemoName = (typeof DEMO_PEOPLE)[number]['name'];

/** The house of a file's tests, and people who are signed in at it: there before the first test; its ledger proved and all closed after the
 *  last.
 *  Shape:  people by the names that the file gives them. `jobs`: whether queued work is done; `proves`: false where the tests put faults
 *          into the ledger themselves. */
export function houseForTests<const Names extends Readonly<Record<string, DemoName>>>(
  people: Names,
  { jobs = true, proves = true } = {},
): { readonly house: TestHouse } & { readonly [Name in keyof Names]: Client } {
  const house = {} as TestHouse;
  const clients = Object.fromEntries(Object.keys(people).map((name) => [name, {} as Client]));
  beforeAll(async () => {
    Object.assign(house, await openHouse({ jobs }));
    for (const [name, who] of Object.entries(people)) Object.assign(clients[name] ?? {}, await house.signIn(who));
  }, OPENING_MS);
  afterAll(async () => {
    if (proves) await house.expectCleanAudit();
    await house.close();
  }, OPENING_MS);
  return { house, ...(clients as { [Name in keyof Names]: Client }) };
}

async function admin(base: string, sql: string): Promise<void> {
  const client = new pg.Client({ connectionString: new URL('/postgres', base).href });
  await client.connect();
  await client.query(sql);
  await client.end();
}
