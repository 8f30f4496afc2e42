// npm run bench [-- --json]: measures on this machine, as ratios taken in one run. Figures that are not ratios are for orientation.
import { spawn, type ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import { existsSync, readFileSync } from 'node:fs';
import { createServer, type AddressInfo } from 'node:net';
import pg from 'pg';
import { loadDemo } from '#demo';
import { migrate, openDatabase, query, type Db } from '#server/kernel';
import { DEMO_PEOPLE } from '#server/people';
import { agent, ask, quantile } from './ask.ts';
import { deskRows } from './desk.ts';
import { GROUND_PARTS, groundRows, type OpenHouse } from './ground.ts';
import { handsRows } from './hands.ts';
import { labelRows } from './labels.ts';
import { printingRows } from './printing.ts';
import { receivingRows } from './receiving.ts';
import { orderRows } from './orders.ts';
import { roundRows } from './rounds.ts';
import { walkRows } from './walks.ts';
import { importRows, planRows, searchRows, type Row } from './places-and-items.ts';

const base = process.env['DATABASE_URL'] ?? '';
// As a house has it: built, not read from source.
process.env['DOCKROW_HELPER'] ??= 'dist/helper.mjs';
const CLIENTS = 8;
const SECONDS = 6;
const HANDHELDS = 50;

const rows: Row[] = [];
const say = (text: string): void => void process.stderr.write(`${text}\n`);

async function makeDatabase(name: string): Promise<string> {
  const admin = new pg.Client({ connectionString: new URL('/postgres', base).href });
  await admin.connect();
  await admin.query(`DROP DATABASE IF EXISTS ${name} WITH (FORCE)`);
  await admin.query(`CREATE DATABASE ${name}`);
  await admin.end();
  return new URL(`/${name}`, base).href;
}

async function startServer(url: string): Promise<{ address: string; child: ChildProcess }> {
  const probe = createServer().listen(0, '127.0.0.1');
  await once(probe, 'listening');
  const { port } = probe.address() as AddressInfo;
  probe.close();
  const child = spawn('node', ['dist/server.mjs'], {
    env: { ...process.env, DATABASE_URL: url, PORT: String(port), NODE_ENV: 'production' },
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  await new Promise<void>((resolve, reject) => {
    child.stdout.on('data', (chunk: Buffer) => String(chunk).includes('ready') && resolve());
    child.once('exit', () => reject(new Error('The server ended before it was ready.')));
  });
  return { address: `http://127.0.0.1:${port}`, child };
}

async function signIn(address: string, name: string = DEMO_PEOPLE[1].name): Promise<string> {
  const person = DEMO_PEOPLE.find((p) => p.name === name);
  const answer = await ask(address, 'POST', '/api/sign-in', '', { name, password: person?.password });
  return answer.cookies.join('; ');
}

/** Runs so many workers for so many seconds; returns how often they got through, per second. */
async function perSecond(workers: number, seconds: number, work: (worker: number, n: number) => Promise<void>): Promise<number> {
  const end = performance.now() + seconds * 1000;
  let done = 0;
  await Promise.all(
    Array.from({ length: workers }, async (_, w) => {
      for (let n = 0; performance.now() < end; n += 1) {
        await work(w, n);
        done += 1;
      }
    }),
  );
  return done / seconds;
}

type Shelf = { item: number; code: string; address: string; bin: number };
const shelvesOf = (db: Db): Promise<Shelf[]> =>
  query<Shelf>(
    db,
    `SELECT DISTINCT ON (f.bin_id) i.id AS item, i.code, f.address, f.bin_id AS bin
     FROM stock_fact f
     JOIN item i ON i.id = f.item_id
     WHERE f.site_id = 1 AND f.use = 'shelf' AND i.tracking = 'none' AND i.decimals = 0 AND f.qty > 10
     ORDER BY f.bin_id
     LIMIT 50`,
  );

/** Every client moves pieces of the same ten items, in an order of its own: they wait for each other, and never in a circle. */
async function sameTenItems(db: Db, address: string, cookie: string): Promise<void> {
  const shelves = (await shelvesOf(db)).slice(0, 10);
  const deadlocks = async (): Promise<number> =>
    (await query<{ n: number }>(db, `SELECT deadlocks::int AS n FROM pg_stat_database WHERE datname = current_database()`))[0]?.n ?? -1;
  const before = await deadlocks();
  const moveOf = (shelf: Shelf, there: boolean): object => ({
    ...(there ? { from: shelf.address, to: 'QUARANTINE' } : { from: 'QUARANTINE', to: shelf.address }),
    code: shelf.code,
    qty: '1',
  });
  const round = (shelfOf: (w: number, n: number) => number) => async (w: number, n: number) => {
    const shelf = shelves[shelfOf(w, Math.floor(n / 2))] as Shelf;
    const answer = await ask(address, 'POST', '/api/moves', cookie, moveOf(shelf, n % 2 === 0));
    if (answer.status !== 200) throw new Error(`A move was refused: ${answer.text}`);
  };
  const own = round((w) => w);
  const same = round((w, n) => (n * 7 + w * 3) % shelves.length);
  const figures = { own: 0, same: 0 };
  for (let turn = 0; turn < 3; turn += 1) {
    figures.own += (await perSecond(CLIENTS, SECONDS / 3, own)) / 3;
    figures.same += (await perSecond(CLIENTS, SECONDS / 3, same)) / 3;
  }
  rows.push(
    {
      name: `commands of ${CLIENTS} clients on the same ten items / each on an item of its own`,
      value: figures.same / figures.own,
      unit: 'ratio',
    },
    { name: 'deadlocks in that', value: (await deadlocks()) - before, unit: 'deadlocks', aim: '= 0' },
  );
}

async function scanLatencies(address: string, cookie: string, codes: readonly string[], seconds: number): Promise<number[]> {
  const times: number[] = [];
  const start = performance.now();
  // Each handheld scans once a second, begun at its own moment, whether or not the one before was answered.
  await Promise.all(
    Array.from({ length: HANDHELDS * seconds }, async (_, n) => {
      const due = ((n % HANDHELDS) / HANDHELDS + Math.floor(n / HANDHELDS)) * 1000;
      await new Promise((resolve) => setTimeout(resolve, due - (performance.now() - start)));
      const begun = performance.now();
      await ask(address, 'GET', `/api/scan?code=${encodeURIComponent(codes[n % codes.length] ?? '')}`, cookie);
      times.push(performance.now() - begun);
    }),
  );
  return times.sort((a, b) => a - b);
}

/** Fills the ledger up to so many movements: pieces that go back and forth between two bins, so that every balance stays true. */
async function fillLedger(db: Db, upTo: number): Promise<void> {
  const [document] = await query<{ id: number }>(db, `SELECT min(id) AS id FROM document`);
  const [now] = await query<{ n: number }>(db, `SELECT count(*) AS n FROM movement`);
  const pairs = Math.max(0, Math.ceil((upTo - (now?.n ?? 0)) / 2));
  await query(
    db,
    `INSERT INTO movement (document_id, person_id, reason, item_id, qty, from_bin, from_condition, to_bin, to_condition)
     SELECT ?, 1, 'bench', items.id, 1, CASE WHEN way = 0 THEN 1 ELSE 2 END, 'sound', CASE WHEN way = 0 THEN 2 ELSE 1 END, 'sound'
     FROM generate_series(1, ?) n
     CROSS JOIN generate_series(0, 1) way
     JOIN (SELECT id, row_number() OVER (ORDER BY id) - 1 AS r, count(*) OVER () AS c FROM item WHERE tracking = 'none') items
       ON items.r = n % items.c`,
    [document?.id, pairs],
  );
  // The measurement is of the ledger's size, not of the work of filling it.
  await query(db, `VACUUM (ANALYZE) movement`);
  await query(db, `CHECKPOINT`);
}

function residentMegabytes(pid: number): number {
  const status = readFileSync(`/proc/${pid}/status`, 'utf8');
  return Number(/VmRSS:\s+(\d+)/.exec(status)?.[1] ?? 0) / 1024;
}

/** Commands, scans and memory: what every working minute is made of. */
async function stockRows(db: Db, address: string, cookie: string, child: ChildProcess, atRest: number): Promise<void> {
  say('Commands of all clients on the same ten items …');
  await sameTenItems(db, address, cookie);

  say('Scans …');
  const codes = (await query<{ code: string }>(db, `SELECT code FROM barcode ORDER BY code LIMIT 200`))
    .map((c) => c.code)
    .concat((await shelvesOf(db)).map((s) => s.address));
  await fillLedger(db, 10_000);
  await scanLatencies(address, cookie, codes, 3);
  const few = await scanLatencies(address, cookie, codes, 8);
  rows.push(
    { name: `scan answer p50, ${HANDHELDS} handhelds at one scan a second`, value: quantile(few, 0.5), unit: 'ms' },
    { name: `scan answer p95, ${HANDHELDS} handhelds at one scan a second`, value: quantile(few, 0.95), unit: 'ms', aim: '<= 50 ms' },
  );
  const underLoad = residentMegabytes(child.pid ?? 0);
  say('Filling the ledger to 1 million movements …');
  await fillLedger(db, 1_000_000);
  await scanLatencies(address, cookie, codes, 3);
  const many = await scanLatencies(address, cookie, codes, 8);
  rows.push({
    name: 'scan p50 with 1 million movements / with 10 thousand',
    value: quantile(many, 0.5) / quantile(few, 0.5),
    unit: 'ratio',
    aim: '<= 1.3',
  });
  rows.push(
    { name: 'server memory at rest', value: atRest, unit: 'MB', aim: '<= 250 MB' },
    { name: 'server memory under that load', value: Math.max(underLoad, residentMegabytes(child.pid ?? 0)), unit: 'MB', aim: '<= 250 MB' },
  );
}

/** The demo company in a database of this name, and a server on it. */
async function openHouse(name: string): Promise<OpenHouse & { child: ChildProcess }> {
  const url = await makeDatabase(name);
  const db = openDatabase(url, { poolSize: 4 });
  await migrate(db);
  await loadDemo(db);
  const { address, child } = await startServer(url);
  const close = async (): Promise<void> => {
    child.kill('SIGTERM');
    await once(child, 'exit');
    await db.destroy();
  };
  return { db, url, address, child, close, signIn: (person) => signIn(address, person) };
}

async function main(): Promise<void> {
  // Reckoned without a house: nothing else works meanwhile.
  if (process.argv.includes('--rounds')) {
    rows.push(...roundRows());
    return print();
  }
  if (process.argv.includes('--labels')) {
    rows.push(...(await labelRows()));
    return print();
  }
  if (!existsSync('dist/server.mjs')) {
    const built = spawn('node', ['scripts/build.mjs'], { stdio: 'inherit' });
    await once(built, 'exit');
  }
  say('Loading the demo company …');
  const house = await openHouse('dockrow_bench');
  const { db, address, child } = house;
  const cookie = await signIn(address);
  const atRest = residentMegabytes(child.pid ?? 0);

  const end = async (): Promise<void> => {
    await house.close();
    agent.destroy();
    print();
  };
  if (process.argv.includes('--ground')) {
    const named = GROUND_PARTS.filter((part) => process.argv.includes(part));
    rows.push(...(await groundRows(house, openHouse, say, named.length > 0 ? named : GROUND_PARTS)));
    return end();
  }
  if (!['--places', '--hands', '--desk', '--receiving', '--orders', '--walks', '--printing'].some((part) => process.argv.includes(part)))
    await stockRows(db, address, cookie, child, atRest);

  const lead = { db, address, cookie: await signIn(address, DEMO_PEOPLE[0].name) };
  const printing = async (): Promise<void> => {
    say('Two thousand labels …');
    const codes = (await query<{ code: string }>(db, `SELECT code FROM barcode ORDER BY code LIMIT 200`)).map((c) => c.code);
    rows.push(...(await printingRows(lead, (seconds) => scanLatencies(address, cookie, codes, seconds))));
  };
  if (process.argv.includes('--printing')) {
    await printing();
    return end();
  }
  if (process.argv.includes('--receiving')) {
    say('Posting deliveries …');
    rows.push(...(await receivingRows(lead)));
    return end();
  }
  if (process.argv.includes('--orders')) {
    say('Orders …');
    rows.push(...(await orderRows(lead)));
    return end();
  }
  if (process.argv.includes('--walks')) {
    say('A hundred hands on their rounds …');
    rows.push(...(await walkRows({ db, address }, (name) => signIn(address, name))));
    return end();
  }
  say('The desk …');
  rows.push(...(await deskRows(lead)));
  if (process.argv.includes('--desk')) return end();
  say('Posting deliveries …');
  rows.push(...(await receivingRows(lead)));
  say('Imports …');
  rows.push(...(await importRows(lead)));
  say('The floor …');
  rows.push(...(await handsRows({ db, address }, (name) => signIn(address, name))));
  if (process.argv.includes('--hands')) return end();
  await printing();
  say('The plan …');
  rows.push(...(await planRows(lead)));
  say('Search at full size …');
  rows.push(...(await searchRows(lead)));
  say('Orders …');
  rows.push(...(await orderRows(lead)));
  say('A hundred hands on their rounds …');
  rows.push(...(await walkRows({ db, address }, (name) => signIn(address, name))));
  say('Rounds …');
  rows.push(...roundRows());
  say('The ground …');
  rows.push(...(await groundRows(house, openHouse, say)));
  await end();
}

function print(): void {
  const figure = (r: Row): string => (r.unit === 'ratio' ? r.value.toFixed(2) : r.value.toFixed(r.value < 100 ? 1 : 0));
  if (process.argv.includes('--json'))
    console.log(JSON.stringify({ at: new Date().toISOString(), rows: rows.map((r) => ({ ...r, value: Number(figure(r)) })) }));
  else for (const r of rows) console.log(`${figure(r).padStart(9)} ${r.unit.padEnd(11)} ${r.name}${r.aim ? `   (aim ${r.aim})` : ''}`);
}

await main();
