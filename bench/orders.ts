import { query, type Db } from '#server/kernel';
import { ask, quantile } from './ask.ts';
import { call, type Row } from './places-and-items.ts';

type House = { readonly db: Db; readonly address: string; readonly cookie: string };

const ORDERS = 1000;
const LINES = 5;
const HANDS = 100;
const PICKS = 12;

/** So many open orders of as many lines, over all items; of every tenth line the lot is named, and every tenth order wants life left. */
async function enter(db: Db, of: { orders: number; lines: number; named: boolean }): Promise<number[]> {
  const made = await query<{ id: number }>(
    db,
    `WITH goods AS (
       SELECT f.item_id AS item, min(f.lot_id) AS lot, row_number() OVER (ORDER BY f.item_id) - 1 AS n, count(*) OVER () AS many
       FROM stock_fact f
       JOIN item i ON i.id = f.item_id AND i.tracking IN ('none', 'lot', 'lotExpiry') AND i.decimals = 0
       WHERE f.site_id = 1 AND f.usable AND f.use = 'shelf'
       GROUP BY f.item_id
     ), made AS (
       INSERT INTO customer_order (number, site_id, customer_id, due, least_life)
       SELECT 'CO-B' || nextval('number_co'), 1, (SELECT min(id) FROM customer), current_date + (o % 9)::int,
         CASE WHEN ? AND o % 10 = 0 THEN 30 END
       FROM generate_series(1, ?) o
       RETURNING id
     ), lined AS (
       INSERT INTO order_line (order_id, item_id, qty, lot_id)
       SELECT m.id, g.item, 1, CASE WHEN ? AND (m.id * 7 + l) % 10 = 0 THEN g.lot END
       FROM made m
       CROSS JOIN generate_series(1, ?) l
       JOIN goods g ON g.n = (m.id * 7 + l * 3) % g.many
     )
     SELECT id FROM made ORDER BY id`,
    [of.named, of.orders, of.named, of.lines],
  );
  return made.map((m) => m.id);
}

async function promised(house: House, orders: readonly number[]): Promise<number> {
  const answer = await ask(house.address, 'POST', '/api/orders/promise', house.cookie, { orders, mode: 'free' });
  if (answer.status !== 200) throw new Error(answer.text);
  return answer.ms;
}

/** Many hands at once, each on a round of its own, one scan a second: how long each waits for the answer, in milliseconds. */
async function picking(house: House): Promise<number[]> {
  await query(
    house.db,
    `INSERT INTO bin (site_id, zone_id, address, use, walk)
     SELECT site_id, zone_id, 'BENCHCART' || n, 'cart', walk
     FROM (SELECT * FROM bin WHERE site_id = 1 AND use = 'cart' ORDER BY id LIMIT 1) c, generate_series(1, ?) n`,
    [HANDS],
  );
  const orders = await enter(house.db, { orders: HANDS, lines: PICKS, named: false });
  await promised(house, orders);
  const walks: { round: number; picks: { id: number; bin: string; code: string; lot: string | null }[] }[] = [];
  for (const order of orders) {
    const round = await call<{ id: number }>(house, 'POST', '/api/rounds', { orders: [order] });
    const picks = await query<{ id: number; bin: string; code: string; lot: string | null }>(
      house.db,
      `SELECT k.id, b.address AS bin, i.code, l.code AS lot
       FROM round_pick k
       JOIN bin b ON b.id = k.bin_id
       JOIN item i ON i.id = k.item_id
       LEFT JOIN lot l ON l.id = k.lot_id
       WHERE k.round_id = ?
       ORDER BY k.id`,
      [round.id],
    );
    walks.push({ round: round.id, picks });
  }
  const waits: number[] = [];
  await Promise.all(
    walks.map(async ({ round, picks }, hand) => {
      // They do not all scan in the same moment.
      await wait((hand * 1000) / HANDS);
      for (const { id, lot, ...body } of picks) {
        const answer = await ask(house.address, 'POST', `/api/rounds/${round}/picks/${id}`, house.cookie, {
          ...body,
          qty: '1',
          ...(lot === null ? {} : { lot }),
        });
        if (answer.status !== 200) throw new Error(answer.text);
        waits.push(answer.ms);
        await wait(Math.max(0, 1000 - answer.ms));
      }
    }),
  );
  return waits;
}
const wait = (ms: number): Promise<void> => new Promise((resolve) => setTimeout(resolve, ms));

/** What a lead waits for who promises a day's orders, with and without named goods; what hands wait for on their rounds. */
export async function orderRows(house: House): Promise<Row[]> {
  const plain = await promised(house, await enter(house.db, { orders: ORDERS, lines: LINES, named: false }));
  const named = await promised(house, await enter(house.db, { orders: ORDERS, lines: LINES, named: true }));
  const waits = await picking(house);
  return [
    { name: `${ORDERS * LINES} lines of ${ORDERS} orders promised`, value: plain / 1000, unit: 's', aim: '<= 5 s' },
    { name: 'the same, a tenth of them with lots named and life wanted / without', value: named / plain, unit: 'ratio', aim: '<= 2' },
    { name: `a pick at the server, ${HANDS} hands at one scan a second, p50`, value: quantile(waits, 0.5), unit: 'ms' },
    { name: `a pick at the server, ${HANDS} hands at one scan a second, p95`, value: quantile(waits, 0.95), unit: 'ms', aim: '<= 50 ms' },
  ];
}
