import { query, type Db } from '#server/kernel';
import { ask } from './ask.ts';
import { type Row } from './places-and-items.ts';

type House = { readonly db: Db; readonly address: string; readonly cookie: string };

const ORDERS = 1000;
const LINES = 5;

/** So many open orders of as many lines, over all items; of every tenth line the lot is named, and every tenth order wants life left. */
export async function enterOrders(db: Db, of: { orders: number; lines: number; named: boolean }): Promise<number[]> {
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

/** Promises orders; returns how long that took, in milliseconds. */
export async function promised(house: House, orders: readonly number[]): Promise<number> {
  const answer = await ask(house.address, 'POST', '/api/orders/promise', house.cookie, { orders, mode: 'free' });
  if (answer.status !== 200) throw new Error(answer.text);
  return answer.ms;
}

/** What a lead waits for who promises a day's orders, with and without named goods. */
export async function orderRows(house: House): Promise<Row[]> {
  const plain = await promised(house, await enterOrders(house.db, { orders: ORDERS, lines: LINES, named: false }));
  const named = await promised(house, await enterOrders(house.db, { orders: ORDERS, lines: LINES, named: true }));
  return [
    { name: `${ORDERS * LINES} lines of ${ORDERS} orders promised`, value: plain / 1000, unit: 's', aim: '<= 5 s' },
    { name: 'the same, a tenth of them with lots named and life wanted / without', value: named / plain, unit: 'ratio', aim: '<= 2' },
  ];
}
