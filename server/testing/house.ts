import { randomUUID } from 'node:crypto';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import pg from 'pg';
import { pino } from 'pino';
import { openDatabase, Outbox, query, runJobs, type Db, type Topic } from '#server/kernel';
import { DEMO_PEOPLE } from '#server/people';
import { runAudit } from '#server/stock';
import { ROUTES, type BodyIn, type ParamsIn, type Problem, type ReplyOf, type RouteName, type Routes } from '#contract';
import { WORKING_AT } from '#contract/people';
import { buildApp } from '../http/app.ts';
import { JOBS } from '../jobs.ts';
import { TEMPLATE } from './global-setup.ts';

type Answer<K extends RouteName> = { status: number; reply: ReplyOf<Routes[K]>; problem: Problem; replayed: boolean };
type Asked<K extends RouteName> = {
  params?: ParamsIn<Routes[K]>;
  body?: BodyIn<Routes[K]>;
  query?: Record<string, string | number>;
  key?: string;
  /** Where the tab works; the person's own site where it is not said. */
  site?: number;
};

/** A person at a device: signed in, sending as the web does. */
export type Client = {
  readonly cookie: string;
  ask<K extends RouteName>(name: K, asked?: Asked<K>): Promise<Answer<K>>;
  raw(path: string, init?: RequestInit): Promise<Response>;
};

export type TestHouse = {
  db: Db;
  url: string;
  address: string;
  signIn(name: (typeof DEMO_PEOPLE)[number]['name']): Promise<Client>;
  stranger: Client;
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
  const url = new URL(`/${name}`, base).href;
  const db = openDatabase(url, { poolSize: 16 });
  const outbox = new Outbox(db, url);
  await outbox.start();
  const stopJobs = jobs ? await runJobs(db, outbox, JOBS) : null;
  const sessions = new pg.Pool({ connectionString: url, max: 2 });
  const app = buildApp({
    house: { db, outbox, demo: true, version: 'test' },
    sessions,
    secret: 'test',
    log: pino({ level: 'silent' }),
    webFolder: null,
  });
  const server: Server = createServer(app);
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  const address = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  return {
    db,
    url,
    address,
    stranger: clientOf(address, ''),
    signIn: (who) => signIn(address, who),
    rows: (sql, values) => query(db, sql, values),
    nextChange: (topic) =>
      new Promise((resolve) => {
        const done = (): void => {
          stop();
          clearTimeout(timer);
          resolve();
        };
        const stop = outbox.listen((change) => change.topic === topic && done());
        const timer = setTimeout(done, 2000);
      }),
    expectCleanAudit: async () => {
      const { faults } = await runAudit(db);
      if (faults.length > 0) throw new Error(`The audit found faults:\n${faults.map((f) => `${f.check}: ${f.detail}`).join('\n')}`);
    },
    close: async () => {
      await stopJobs?.();
      server.closeAllConnections();
      await new Promise((resolve) => server.close(resolve));
      await outbox.stop();
      await sessions.end();
      await db.destroy();
      await admin(base, `DROP DATABASE ${name} WITH (FORCE)`);
    },
  };
}

async function admin(base: string, sql: string): Promise<void> {
  const client = new pg.Client({ connectionString: new URL('/postgres', base).href });
  await client.connect();
  await client.query(sql);
  await client.end();
}

/** Signs a demo person in by password at any Dock Row server. */
export async function signIn(address: string, who: string): Promise<Client> {
  const person = DEMO_PEOPLE.find((p) => p.name === who);
  const answer = await fetch(`${address}/api/sign-in`, {
    method: 'POST',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify({ name: who, password: person?.password }),
  });
  if (!answer.ok) throw new Error(`${who} could not sign in: ${await answer.text()}`);
  return clientOf(
    address,
    answer.headers
      .getSetCookie()
      .map((c) => c.split(';')[0])
      .join('; '),
  );
}

function clientOf(address: string, cookie: string): Client {
  const raw = (path: string, init: RequestInit = {}): Promise<Response> =>
    fetch(address + path, { ...init, headers: { Cookie: cookie, ...init.headers } });
  return {
    cookie,
    raw,
    ask: async (name, asked = {}) => {
      const { method, path } = ROUTES[name];
      const filled = path.replace(/:(\w+)/g, (_, key: string) => String((asked.params as Record<string, unknown> | undefined)?.[key]));
      const search = asked.query ? `?${new URLSearchParams(Object.entries(asked.query).map(([k, v]) => [k, String(v)])).toString()}` : '';
      const at = asked.site === undefined ? {} : { [WORKING_AT]: String(asked.site) };
      const answer = await raw(
        filled + search,
        method === 'GET'
          ? { headers: at }
          : {
              method,
              headers: { ...at, 'Content-Type': 'application/json', 'Idempotency-Key': asked.key ?? randomUUID() },
              body: JSON.stringify(asked.body ?? {}),
            },
      );
      const json = (await answer.json()) as never;
      return { status: answer.status, reply: json, problem: json, replayed: answer.headers.get('idempotent-replay') === 'true' };
    },
  };
}
