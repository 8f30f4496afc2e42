// Many eyes, heavy work beside the scans, and years of history: what the ground of the house bears.
import { execFileSync } from 'node:child_process';
import http from 'node:http';
import { connect, type Socket } from 'node:net';
import { postgresBin } from '../scripts/machine.mjs';
import { query, type Db } from '#server/kernel';
import { isTouched, ReadAgain, restOf, type Change } from '../web/base/touches.ts';
import { agent, ask, quantile } from './ask.ts';
import type { Row } from './places-and-items.ts';
import { Wire } from './wire.ts';

const DESKS = 50;
const HANDS = 50;
const COMMANDS_A_SECOND = 30;
const SECONDS = 15;
const TURNS = 5;
const STREAMS_A_SESSION = 10;
const SHEET_ROWS = 50_000;
const LABELS = 5000;
const DEAF = 50;

type House = { db: Db; url: string; address: string; signIn: (name: string) => Promise<string> };
/** A house that is to be closed again. */
export type OpenHouse = House & { close(): Promise<void> };
type Opens = (database: string) => Promise<OpenHouse>;
type Shelf = { item: number; code: string; address: string; bin: number };
const pause = (ms: number): Promise<void> => new Promise((resolve) => setTimeout(resolve, ms));

async function asked<T>(house: House, method: string, path: string, cookie: string, body?: unknown): Promise<T> {
  const { status, text } = await ask(house.address, method, path, cookie, body);
  if (status !== 200) throw new Error(`${path}: ${text}`);
  return JSON.parse(text) as T;
}

const shelvesOf = (db: Db, most: number): Promise<Shelf[]> =>
  query<Shelf>(
    db,
    `SELECT DISTINCT ON (f.item_id) i.id AS item, i.code, f.address, f.bin_id AS bin FROM stock_fact f JOIN item i ON i.id = f.item_id
     WHERE f.site_id = 1 AND f.use = 'shelf' AND i.tracking = 'none' AND i.decimals = 0 AND f.condition = 'sound' AND f.qty > 10
       AND NOT EXISTS (SELECT 1 FROM hold_line h WHERE h.bin_id = f.bin_id) ORDER BY f.item_id LIMIT ?`,
    [most],
  );

/** Scans of all handhelds, one a second each, while `beside` is going on; returns how long each took, in milliseconds. */
async function scans(house: House, cookie: string, codes: readonly string[], isOver: (elapsed: number) => boolean): Promise<number[]> {
  const times: number[] = [];
  const start = performance.now();
  const open: Promise<void>[] = [];
  for (let n = 0; !isOver(performance.now() - start); n += 1) {
    await pause((n * 1000) / HANDS - (performance.now() - start));
    open.push(
      ask(house.address, 'GET', `/api/scan?code=${encodeURIComponent(codes[n % codes.length] ?? '')}`, cookie).then(
        ({ ms }) => void times.push(ms),
      ),
    );
  }
  await Promise.all(open);
  return times;
}
const forSeconds = (seconds: number) => (elapsed: number) => elapsed > seconds * 1000;

/** Hands that move goods there and back at a steady pace; `done` hears of each. Returns how to stop. */
function commands(house: House, cookie: string, shelves: readonly Shelf[], done: (shelf: Shelf, at: number) => void): () => Promise<void> {
  let isOver = false;
  const away = new Set<Shelf>();
  const open = new Set<Promise<void>>();
  const going = (async () => {
    const start = performance.now();
    for (let n = 0; !isOver; n += 1) {
      await pause((n * 1000) / COMMANDS_A_SECOND - (performance.now() - start));
      const shelf = shelves[n % shelves.length] as Shelf;
      const [from, to] = away.has(shelf) ? ['QUARANTINE', shelf.address] : [shelf.address, 'QUARANTINE'];
      const one: Promise<void> = ask(house.address, 'POST', '/api/moves', cookie, { from, to, code: shelf.code, qty: '1' }).then(
        ({ status }) => {
          open.delete(one);
          if (status !== 200) return;
          if (!away.delete(shelf)) away.add(shelf);
          done(shelf, performance.now());
        },
      );
      open.add(one);
    }
  })();
  return async () => {
    isOver = true;
    await going;
    await Promise.all(open);
  };
}

// As a page asks that reads itself again. What a desk makes of the answer is not the server's time, nor this program's.
const glance = (url: string, cookie: string): Promise<void> =>
  new Promise((resolve, reject) => {
    const headers = { Cookie: cookie, 'Accept-Encoding': 'gzip', 'Dock-Row-Again': '1' };
    http.get(url, { agent, headers }, (answer) => answer.on('end', resolve).resume()).on('error', reject);
  });

type Desk = { close(): void; took: readonly number[] };
/** A desk as the web makes one: it listens, takes the row and home as they are told, and reads again what its page shows. */
function desk(
  house: House,
  cookie: string,
  page: { name: string; path: string; params?: { id: number } },
  heard: (item: number) => void,
): Desk {
  const took: number[] = [];
  const again = new ReadAgain(async () => {
    const from = performance.now();
    await glance(house.address + page.path, cookie);
    took.push(performance.now() - from);
  });
  const request = http.get(`${house.address}/api/events?figures`, { headers: { Cookie: cookie } }, (answer) => {
    let text = '';
    answer.on('data', (part) => {
      const events = (text + String(part)).split('\n\n');
      text = events.pop() ?? '';
      for (const event of events) {
        if (!event.startsWith('event: change')) continue;
        const change = JSON.parse(event.slice(event.indexOf('data: ') + 6)) as Change;
        for (const item of (change.facts['items'] as number[] | undefined) ?? []) heard(item);
        if (isTouched(change, { name: page.name, input: page.params ? { params: page.params } : {}, data: undefined }))
          again.ask(page.name, restOf(page.name));
      }
    });
    answer.on('error', () => undefined);
  });
  request.on('error', () => undefined);
  return {
    took,
    close: () => {
      again.stop();
      request.destroy();
    },
  };
}

async function manyEyes(house: House, codes: readonly string[]): Promise<Row[]> {
  const [lead, hand] = [await house.signIn('Maren Oake'), await house.signIn('Tobin Sallow')];
  const shelves = await shelvesOf(house.db, 120);
  const first = shelves[0] as Shelf;
  const pages = [
    { name: 'desk.home', path: '/api/home' },
    { name: 'orders.list', path: '/api/orders?limit=500' },
    { name: 'stock.list', path: '/api/stock?limit=300' },
    { name: 'items.search', path: '/api/items?limit=300' },
    { name: 'items.item', path: `/api/items/${first.item}`, params: { id: first.item } },
    { name: 'places.bin', path: `/api/bins/${first.bin}`, params: { id: first.bin } },
    { name: 'stock.movements', path: '/api/movements?limit=100' },
    { name: 'shipping.bench', path: '/api/bench' },
  ];
  const sessions = [lead];
  while (sessions.length * STREAMS_A_SESSION < DESKS) sessions.push(await house.signIn('Maren Oake'));
  // How long after its reply each change was heard at each desk.
  const lags: number[] = [];
  const told = new Map<number, number>();
  const open = (): Desk[] =>
    Array.from({ length: DESKS }, (_, n) =>
      desk(house, sessions[Math.floor(n / STREAMS_A_SESSION)] as string, pages[n % pages.length] as (typeof pages)[number], (item) => {
        const at = told.get(item);
        if (at !== undefined) lags.push(performance.now() - at);
      }),
    );
  const stop = commands(house, hand, shelves, (shelf, at) => told.set(shelf.item, at));
  const without: number[] = [];
  const watched: number[] = [];
  const took: number[] = [];
  await scans(house, hand, codes, forSeconds(3));
  // In turns: what else the machine does befalls both alike.
  for (let turn = 0; turn < TURNS; turn += 1) {
    without.push(...(await scans(house, hand, codes, forSeconds(SECONDS / TURNS))));
    const desks = open();
    await scans(house, hand, codes, forSeconds(1.5));
    lags.length = turn === 0 ? 0 : lags.length;
    watched.push(...(await scans(house, hand, codes, forSeconds(SECONDS / TURNS))));
    for (const d of desks) d.close();
    took.push(...desks.flatMap((d) => d.took));
    await pause(500);
  }
  await stop();
  return [
    { name: `scan p95, ${HANDS} hands, ${COMMANDS_A_SECOND} commands a second, no desk`, value: quantile(without, 0.95), unit: 'ms' },
    { name: `the same with ${DESKS} desks open`, value: quantile(watched, 0.95), unit: 'ms' },
    {
      name: `scan p95 with ${DESKS} desks / without`,
      value: quantile(watched, 0.95) / quantile(without, 0.95),
      unit: 'ratio',
      aim: '<= 1.5',
    },
    { name: 'a change at a desk after its reply, p99', value: quantile(lags, 0.99), unit: 'ms', aim: '<= 1000 ms' },
    { name: 'a page that reads itself again, p95', value: quantile(took, 0.95), unit: 'ms' },
    { name: `pages read again by ${DESKS} desks`, value: took.length / (SECONDS + 1.5 * TURNS), unit: 'a second' },
  ];
}

async function untilEnded(house: House, cookie: string, job: number): Promise<string> {
  for (;;) {
    const { state, said } = await asked<{ state: string; said: string | null }>(house, 'GET', `/api/jobs/${job}`, cookie);
    if (!['waiting', 'running'].includes(state)) return state === 'failed' ? `failed: ${said}` : state;
    await pause(100);
  }
}

async function heavyWork(house: House, codes: readonly string[]): Promise<Row[]> {
  const [lead, hand] = [await house.signIn('Maren Oake'), await house.signIn('Tobin Sallow')];
  const quiet = quantile(await scans(house, hand, codes, forSeconds(SECONDS)), 0.95);
  const rows: Row[] = [{ name: 'scan p95 in quiet', value: quiet, unit: 'ms' }];
  const beside = async (name: string, work: () => Promise<string>): Promise<void> => {
    let ended = '';
    const going = work().then((state) => (ended = state));
    const times = await scans(house, hand, codes, (elapsed) => ended !== '' && elapsed > 2000);
    await going;
    if (ended.startsWith('failed')) throw new Error(`${name}: ${ended}`);
    rows.push({ name: `scan p95 while ${name} / in quiet`, value: quantile(times, 0.95) / quiet, unit: 'ratio', aim: '<= 2' });
  };
  await beside(`a sheet of ${SHEET_ROWS} rows is read`, async () => {
    const sheet = `Zone,Address\n${Array.from({ length: SHEET_ROWS }, (_, n) => `STORE,GR-${n}`).join('\n')}`;
    const sent = await fetch(`${house.address}/api/files?name=ground.csv`, { method: 'POST', headers: { Cookie: lead }, body: sheet });
    const { id } = (await sent.json()) as { id: number };
    return untilEnded(house, lead, (await asked<{ job: number }>(house, 'POST', '/api/bin-imports', lead, { file: id })).job);
  });
  const bins = await query<{ id: number }>(
    house.db,
    `SELECT id FROM bin WHERE site_id = 1 AND id >= 100 AND retired_at IS NULL ORDER BY id LIMIT ${LABELS}`,
  );
  const wanted = Array.from({ length: LABELS }, (_, n) => bins[n % bins.length]?.id ?? 0);
  await beside(`labels of ${new Set(wanted).size} bins are drawn ${Math.ceil(LABELS / bins.length)} times`, async () => {
    let state = '';
    for (let n = 0; n < Math.ceil(LABELS / bins.length); n += 1)
      state = await untilEnded(
        house,
        lead,
        (
          await asked<{ job: number }>(house, 'POST', '/api/labels/pdf', lead, {
            wanted: { kind: 'bins', bins: [...new Set(wanted)], size: 'shelf' },
          })
        ).job,
      );
    return state;
  });
  const sessions = await Promise.all(Array.from({ length: Math.ceil(DEAF / STREAMS_A_SESSION) }, () => house.signIn('Maren Oake')));
  const { hostname, port } = new URL(house.address);
  const deaf = Array.from({ length: DEAF }, (_, n): Socket => {
    const socket = connect({ host: hostname, port: Number(port) });
    socket.on('error', () => undefined);
    socket.pause();
    socket.write(`GET /api/events?figures HTTP/1.1\r\nHost: ${hostname}\r\nCookie: ${sessions[Math.floor(n / STREAMS_A_SESSION)]}\r\n\r\n`);
    return socket;
  });
  const stop = commands(house, hand, await shelvesOf(house.db, 60), () => undefined);
  await beside(`${DEAF} readers do not read, with ${COMMANDS_A_SECOND} commands a second`, () => pause(SECONDS * 1000).then(() => 'done'));
  await stop();
  for (const socket of deaf) socket.destroy();
  return rows;
}

const READS = [
  ['row', '/api/row'],
  ['home', '/api/home'],
  ['orders', '/api/orders?limit=500'],
  ['bench', '/api/bench'],
  ['rounds', '/api/rounds?state=open'],
  ['an item', '/api/items/ITEM'],
  ['its equation', '/api/items/ITEM/equation'],
  ['a bin', '/api/bins/BIN'],
  ['ledger', '/api/movements?limit=100'],
  ['value a month ago', `/api/stock/value?at=${encodeURIComponent(new Date(Date.now() - 30 * 86_400_000).toISOString())}`],
] as const;

const ROUNDS = 40;

/** How long each read takes in each of these houses, in milliseconds, asked in turns: what else the machine does befalls all alike. */
async function readTimes(houses: readonly House[]): Promise<ReadonlyMap<string, readonly number[]>> {
  const asks = await Promise.all(
    houses.map(async (house) => {
      const [shelf] = await shelvesOf(house.db, 1);
      return { house, cookie: await house.signIn('Maren Oake'), item: String(shelf?.item), bin: String(shelf?.bin) };
    }),
  );
  const times = new Map(READS.map(([name]) => [name as string, houses.map((): number[] => [])]));
  for (let round = 0; round < ROUNDS; round += 1)
    for (const [name, path] of READS)
      for (const [n, { house, cookie, item, bin }] of asks.entries()) {
        const at = path.replace('ITEM', item).replace('BIN', bin);
        const { status, text, ms } = await ask(house.address, 'GET', at, cookie);
        if (status !== 200) throw new Error(`${at}: ${text}`);
        // The first ones find nothing at hand.
        if (round > ROUNDS / 4) times.get(name)?.[n]?.push(ms);
      }
  return new Map([...times].map(([name, of]) => [name, of.map((some) => quantile(some, 0.5))]));
}

/** Years of shipped orders, their lines, shipments and movements, so many lines in all; past days only. Guards off: it is the bench's own
 *  history, and goods only pass from supplier to customer. */
async function makeHistory(db: Db, lines: number): Promise<void> {
  const orders = Math.ceil(lines / 4);
  await db.transaction(async (trx) => {
    await query(trx, `SET LOCAL session_replication_role = replica`);
    const [before] = await query<{ n: number }>(trx, `SELECT count(*) AS n FROM customer_order WHERE number LIKE 'HIST-%'`);
    const from = (before?.n ?? 0) + 1;
    const days = `(n % 1800 + 1) * interval '1 day'`;
    await query(
      trx,
      `INSERT INTO customer_order (number, site_id, customer_id, state, due, at, changed)
       SELECT 'HIST-' || n, 1, (SELECT min(id) FROM customer), 'shipped', (now() - ${days})::date, now() - ${days}, now() - ${days}
       FROM generate_series(?::int, ?::int) n`,
      [from, orders],
    );
    await query(
      trx,
      `INSERT INTO order_line (order_id, item_id, qty, shipped)
       SELECT o.id, i.id, 1, 1
       FROM customer_order o
       CROSS JOIN generate_series(1, 4) k
       JOIN (SELECT id, row_number() OVER (ORDER BY id) - 1 AS r, count(*) OVER () AS c FROM item WHERE tracking = 'none') i
         ON i.r = (o.id * 4 + k) % i.c
       WHERE o.number LIKE 'HIST-%' AND substr(o.number, 6)::int >= ?`,
      [from],
    );
    await query(
      trx,
      `INSERT INTO document (kind, number, site_id, person_id, at)
       SELECT 'shipment', 'HISTD-' || n, 1, 1, now() - ${days}
       FROM generate_series(?::int, ?::int) n`,
      [from, orders],
    );
    await query(
      trx,
      `INSERT INTO shipment (number, order_id, document_id, at)
       SELECT 'HISTS-' || o.id, o.id, d.id, o.at
       FROM customer_order o
       JOIN document d ON d.number = 'HISTD-' || substr(o.number, 6)
       WHERE o.number LIKE 'HIST-%' AND substr(o.number, 6)::int >= ?`,
      [from],
    );
    await query(
      trx,
      `INSERT INTO movement (document_id, person_id, reason, item_id, qty, from_bin, from_condition, to_bin, to_condition, at)
       SELECT s.document_id, 1, 'Shipped', l.item_id, 1, 1, 'sound', 2, 'sound', s.at
       FROM shipment s
       JOIN order_line l ON l.order_id = s.order_id
       WHERE s.number LIKE 'HISTS-%' AND (SELECT substr(number, 6)::int FROM customer_order WHERE id = s.order_id) >= ? ORDER BY s.at`,
      [from],
    );
  });
  await query(db, `VACUUM (ANALYZE)`);
  await query(db, `CHECKPOINT`);
}

async function asYearsGoBy(house: House, _codes: readonly string[], opens: Opens): Promise<Row[]> {
  const young = await opens('dockrow_bench_young');
  await makeHistory(young.db, 10_000);
  await makeHistory(house.db, 1_000_000);
  const times = await readTimes([young, house]);
  await young.close();
  return READS.map(([name]) => {
    const [few = NaN, many = NaN] = times.get(name) ?? [];
    return { name: `${name}: 1 million order lines and movements / 10 thousand`, value: many / few, unit: 'ratio', aim: '<= 1.3' };
  });
}

/** Commands a second against what this machine's database does of its own benchmark's transactions (TPC-B-like, durable), in turns. */
async function againstPgbench(house: House): Promise<Row[]> {
  const hand = await house.signIn('Tobin Sallow');
  const program = `${postgresBin()}/pgbench`;
  const target = new URL(house.url);
  const env = { ...process.env, PGPASSWORD: decodeURIComponent(target.password) };
  const at = ['-h', target.hostname, '-p', target.port, '-U', decodeURIComponent(target.username)];
  const name = target.pathname.slice(1);
  execFileSync(program, [...at, '-i', '-q', '-s', '10', name], { env, stdio: 'ignore' });
  const shelves = await shelvesOf(house.db, 8);
  const wires = shelves.map(() => new Wire(house.address, hand));
  const moves = async (seconds: number): Promise<number> => {
    const end = performance.now() + seconds * 1000;
    let done = 0;
    await Promise.all(
      shelves.map(async (s, w) => {
        // An even number each: what was moved lies where it lay.
        for (let n = 0; performance.now() < end || n % 2 === 1; n += 1) {
          const [from, to] = n % 2 === 0 ? [s.address, 'QUARANTINE'] : ['QUARANTINE', s.address];
          await (wires[w] as Wire).command('/api/moves', { from, to, code: s.code, qty: '1' });
          done += 1;
        }
      }),
    );
    return done / seconds;
  };
  let [ours, theirs] = [0, 0];
  // Short turns and many: what else this machine does meets both alike.
  const turns = 12;
  const seconds = 3;
  // A server that was just begun has not learnt yet how its own code is run best.
  await moves(25);
  for (let turn = 0; turn < turns; turn += 1) {
    ours += (await moves(seconds)) / turns;
    const said = execFileSync(program, [...at, '-n', '-c', '8', '-j', '2', '-T', String(seconds), name], {
      env,
      encoding: 'utf8',
      stdio: ['ignore', 'pipe', 'ignore'],
    });
    theirs += Number(/tps = ([\d.]+)/.exec(said)?.[1] ?? NaN) / turns;
  }
  for (const wire of wires) wire.close();
  await query(house.db, `DROP TABLE pgbench_accounts, pgbench_branches, pgbench_history, pgbench_tellers`);
  return [
    { name: 'commands through HTTP, 8 clients', value: ours, unit: 'per second' },
    { name: 'pgbench’s own transaction, 8 clients', value: theirs, unit: 'per second' },
    { name: 'commands through HTTP / pgbench', value: ours / theirs, unit: 'ratio', aim: '>= 0.08' },
  ];
}

const PARTS = {
  commands: { says: 'Against the database’s own benchmark …', rows: againstPgbench },
  eyes: { says: 'Many eyes …', rows: manyEyes },
  heavy: { says: 'Heavy work beside the scans …', rows: heavyWork },
  years: { says: 'As years go by …', rows: asYearsGoBy },
};
export type GroundPart = keyof typeof PARTS;
export const GROUND_PARTS = Object.keys(PARTS) as GroundPart[];

/** The figures of these parts of the ground, in their order. */
export async function groundRows(
  house: House,
  opens: Opens,
  say: (text: string) => void,
  parts: readonly GroundPart[] = GROUND_PARTS,
): Promise<Row[]> {
  const codes = (await query<{ code: string }>(house.db, `SELECT code FROM barcode ORDER BY code LIMIT 200`)).map((c) => c.code);
  const rows: Row[] = [];
  for (const part of GROUND_PARTS.filter((p) => parts.includes(p))) {
    say(PARTS[part].says);
    rows.push(...(await PARTS[part].rows(house, codes, opens)));
  }
  return rows;
}
