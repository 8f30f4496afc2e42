import { randomUUID } from 'node:crypto';
import http from 'node:http';
import { query } from '#server/kernel';
import { DEMO_PEOPLE } from '#server/people';
import { Courier } from '../web/hands/courier.ts';
import type { Floor } from '../web/hands/floor.ts';
import { ask, quantile } from './ask.ts';
import { deviceCookie, type FloorHouse } from './hands.ts';
import { enterOrders, promised } from './orders.ts';
import { call, type Row } from './places-and-items.ts';

const HANDS = 100;
const STREAMS_A_SESSION = 10;
const PICKS = 8;
type Pick = { pick: string; bin: number; item: number; lot: string | null };
type Walk = { readonly cookie: string; readonly person: number; readonly round: number; readonly picks: Pick[] };
type Waits = { readonly told: number[]; readonly taken: number[] };

/** One handheld on its round: what it picks it tells soon, what others did it takes along whenever it hears of it. */
async function walk(house: FloorHouse, of: Walk, paceMs: number, startMs: number, waits: Waits): Promise<void> {
  const { cookie, person, round } = of;
  const facts = async (search: string): Promise<string> => {
    const got = await ask(house.address, 'GET', `/api/hands/facts?${search}`, cookie);
    if (got.status !== 200) throw new Error(got.text);
    waits.taken.push(got.ms);
    return /"revision":"([^"]+)"/.exec(got.text)?.[1] ?? '';
  };
  let since = await facts('kind=tally&after=2000000000');
  waits.taken.length = 0;
  let waiting: object[] = [];
  let all = 0;
  const tell = async (): Promise<number> => {
    const acts = waiting;
    waiting = [];
    if (acts.length === 0) return 0;
    const sent = await ask(house.address, 'POST', '/api/hands/acts', cookie, { sentAt: Date.now(), waiting: acts.length, acts });
    const { outcomes } = JSON.parse(sent.text) as { outcomes?: { outcome: string }[] };
    if (!outcomes || outcomes.some((o) => o.outcome !== 'done')) throw new Error(sent.text);
    waits.told.push(sent.ms);
    all += acts.length;
    return acts.length;
  };
  const floor = {
    get: () => ({ me: {}, waiting: waiting.length }),
    greet: () => Promise.resolve(),
    tell: () => tell().catch(stop),
    take: () => facts(`since=${since}`).then((revision) => void (since = revision), stop),
  };
  let fault: unknown = null;
  function stop(error: unknown): number {
    fault ??= error;
    return 0;
  }
  const courier = new Courier(floor as unknown as Floor, { alone: true });
  const stream = listen(house.address, cookie, () => courier.heardOfOthers());
  let after: string | null = null;
  const begun = performance.now();
  for (const [seq, goods] of of.picks.entries()) {
    await wait(startMs + seq * paceMs - (performance.now() - begun));
    const key = randomUUID();
    const does = { kind: 'pick.take', round, ...goods, serial: null, qty: 1000 };
    waiting.push({ key, after, seq, person, site: 1, doneAt: Date.now(), does });
    after = key;
    courier.poke();
  }
  while (all < of.picks.length && fault === null) await wait(100);
  courier.stop();
  stream.destroy();
  if (fault !== null) throw fault as Error;
}

function listen(address: string, cookie: string, onChange: () => void): http.ClientRequest {
  const request = http.get(`${address}/api/events`, { headers: { Cookie: cookie }, agent: false }, (answer) => {
    if (answer.statusCode !== 200) throw new Error(`A stream was refused: ${answer.statusCode}`);
    answer.setEncoding('utf8').on('data', (text: string) => text.includes('event: change') && onChange());
    answer.on('error', () => undefined);
  });
  request.on('error', () => undefined);
  return request;
}
const wait = (ms: number): Promise<void> => new Promise((resolve) => setTimeout(resolve, Math.max(0, ms)));

/** So many rounds of one order each, on carts of their own, each with its handheld. */
async function walks(house: FloorHouse, signIn: (name: string) => Promise<string>): Promise<Walk[]> {
  const { db } = house;
  await query(
    db,
    `INSERT INTO bin (site_id, zone_id, address, use, walk)
     SELECT site_id, zone_id, 'BENCHCART' || (SELECT count(*) FROM bin WHERE use = 'cart') || n, 'cart', walk
     FROM (SELECT * FROM bin WHERE site_id = 1 AND use = 'cart' ORDER BY id LIMIT 1) c, generate_series(1, ?) n`,
    [HANDS],
  );
  const lead = { ...house, cookie: await signIn(DEMO_PEOPLE[0].name) };
  const orders = await enterOrders(db, { orders: HANDS, lines: PICKS, named: false });
  await promised(lead, orders);
  const names = DEMO_PEOPLE.filter((p) => p.role === 'hand').map((p) => p.name);
  const sessions: { cookie: string; person: number }[] = [];
  for (let n = 0; n < HANDS / STREAMS_A_SESSION; n += 1) {
    const name = names[n % names.length] ?? '';
    const [person] = await query<{ id: number }>(db, `SELECT id FROM person WHERE name = ?`, [name]);
    sessions.push({ cookie: await signIn(name), person: person?.id ?? 0 });
  }
  const made: Walk[] = [];
  for (const [n, order] of orders.entries()) {
    const { cookie: session, person } = sessions[n % sessions.length] as { cookie: string; person: number };
    const { id: round } = await call<{ id: number }>(lead, 'POST', '/api/rounds', { orders: [order] });
    const picks = await query<Pick>(
      db,
      `SELECT k.key AS pick, k.bin_id AS bin, k.item_id AS item, l.code AS lot
       FROM round_pick k
       LEFT JOIN lot l ON l.id = k.lot_id
       WHERE k.round_id = ?
       ORDER BY k.id`,
      [round],
    );
    made.push({ cookie: await deviceCookie(house, session), person, round, picks });
  }
  return made;
}

/** A hundred hands who pick at so many milliseconds from one pick to the next. */
async function atPace(house: FloorHouse, signIn: (name: string) => Promise<string>, paceMs: number): Promise<Waits> {
  const waits: Waits = { told: [], taken: [] };
  await Promise.all((await walks(house, signIn)).map((w, n) => walk(house, w, paceMs, (n * paceMs) / HANDS, waits)));
  return waits;
}

/** What hands wait for at the server on their rounds. A hand walks from stop to stop, and scans bin and goods there: one pick in twenty
 *  seconds is quick (180 lines an hour), one in five nobody keeps up. One a second is asked to see what the server does when it is too
 *  much. */
export async function walkRows(house: FloorHouse, signIn: (name: string) => Promise<string>): Promise<Row[]> {
  const rows: Row[] = [];
  for (const [seconds, aim] of [
    [20, '<= 50 ms'],
    [5, undefined],
    [1, undefined],
  ] as const) {
    const { told, taken } = await atPace(house, signIn, seconds * 1000);
    const who = `${HANDS} hands, each a pick every ${seconds} s`;
    rows.push(
      { name: `${who}: told to the server, p50`, value: quantile(told, 0.5), unit: 'ms' },
      { name: `${who}: told to the server, p95`, value: quantile(told, 0.95), unit: 'ms', ...(aim ? { aim } : {}) },
      { name: `${who}: what others did taken along, p95`, value: quantile(taken, 0.95), unit: 'ms' },
      { name: `${who}: answers of what others did`, value: taken.length, unit: 'answers' },
    );
  }
  return rows;
}
