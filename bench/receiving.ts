import { query, type Db } from '#server/kernel';
import { ask } from './ask.ts';
import { call, jobSeconds, upload, type Row } from './places-and-items.ts';

type House = { readonly db: Db; readonly address: string; readonly cookie: string };
const PIECES_A_LINE = 10;

/** A delivery of an order of so many lines, each of ten pieces, handed in for review; one piece in a hundred failed. */
async function arrived(db: Db, lines: number): Promise<number> {
  const [made] = await query<{ id: number }>(
    db,
    `WITH goods AS (
       SELECT i.id AS item, (SELECT min(p.id) FROM pack p WHERE p.item_id = i.id) AS pack,
         row_number() OVER (ORDER BY i.id) - 1 AS n, count(*) OVER () AS many
       FROM item i
       WHERE i.tracking = 'none' AND i.retired_at IS NULL
     ), wanted AS (SELECT g.item, g.pack, s FROM generate_series(1, ?) s JOIN goods g ON g.n = s % g.many),
     ordered AS (
       INSERT INTO purchase_order (number, supplier_id, site_id, due, approved_at)
       SELECT 'PO-9' || ?, min(id), 1, DATE '2030-01-01', now()
       FROM supplier
       RETURNING id, supplier_id
     ), lines AS (
       INSERT INTO purchase_line (purchase_order_id, item_id, qty) SELECT o.id, w.item, ${PIECES_A_LINE} FROM ordered o, wanted w
     ), came AS (
       INSERT INTO delivery (number, site_id, supplier_id, state, started_by)
       SELECT 'DL-9' || ?, 1, supplier_id, 'review', 1
       FROM ordered
       RETURNING id
     ), tied AS (INSERT INTO delivery_order (delivery_id, purchase_order_id) SELECT c.id, o.id FROM came c, ordered o),
     entered AS (
       INSERT INTO delivery_entry (delivery_id, item_id, pack_id, qty, person_id, handed_in_at)
       SELECT c.id, w.item, w.pack, ${PIECES_A_LINE}, 1, now()
       FROM came c, wanted w
       RETURNING id
     ), looked AS (
       INSERT INTO inspection (key, entry_id, checked, person_id)
       SELECT gen_random_uuid(), id, ${PIECES_A_LINE}, 1
       FROM entered
       WHERE id % 10 = 0
       RETURNING id
     ), failed AS (
       INSERT INTO inspection_failure (inspection_id, reason_id, qty) SELECT l.id, (SELECT min(id) FROM failure_reason), 1 FROM looked l)
     SELECT id FROM came`,
    [lines, `${lines}${Date.now() % 100_000}`, `${lines}${Date.now() % 100_000}`],
  );
  return made?.id ?? 0;
}

/** Posts one such delivery and returns how long that took, in milliseconds. */
async function posted({ db, address, cookie }: House, lines: number): Promise<number> {
  const delivery = await arrived(db, lines);
  await query(db, `ANALYZE delivery_entry`);
  const answer = await ask(address, 'POST', `/api/deliveries/${delivery}/post`, cookie, {});
  if (answer.status !== 200) throw new Error(answer.text);
  return answer.ms;
}

const TURNS = 3;

const SHEET_ROWS = 2000;
/** Seconds to judge a sheet of received goods, and to write it into a delivery. */
async function receivedBySheet(house: House): Promise<{ dry: number; apply: number }> {
  const goods = await query<{ code: string }>(
    house.db,
    `SELECT code FROM item WHERE tracking = 'none' AND retired_at IS NULL ORDER BY id LIMIT 300`,
  );
  const rows = Array.from({ length: SHEET_ROWS }, (_, n) => `${goods[n % goods.length]?.code},${1 + (n % 9)}`);
  const file = await upload(house, 'came.csv', `Item,Quantity\n${rows.join('\n')}\n`);
  const { job } = await call<{ job: number }>(house, 'POST', '/api/deliveries/import', { file, supplier: null, orders: [] });
  const dry = await jobSeconds(house, job, 'checked');
  await call(house, 'POST', `/api/jobs/${job}/go`);
  return { dry, apply: await jobSeconds(house, job, 'done') };
}

/** What a lead waits for who posts a delivery, and how that grows with it; and who receives by sheet. */
export async function receivingRows(house: House): Promise<Row[]> {
  const best = { 200: Infinity, 500: Infinity, 2000: Infinity };
  // In turns, so that all are measured by the same machine in the same moment; the best of each, which says least of its neighbours.
  for (let turn = 0; turn < TURNS; turn += 1)
    for (const lines of [200, 500, 2000] as const) best[lines] = Math.min(best[lines], await posted(house, lines));
  const sheet = await receivedBySheet(house);
  return [
    { name: `a receipt by sheet of ${SHEET_ROWS} rows, judged and written`, value: sheet.dry + sheet.apply, unit: 's', aim: '<= 10 s' },
    { name: `a delivery of 500 lines and ${500 * PIECES_A_LINE} pieces, posted`, value: best[500], unit: 'ms', aim: '<= 1500 ms' },
    { name: 'posting 2,000 lines / 200 lines', value: best[2000] / best[200], unit: 'ratio', aim: '<= 12' },
  ];
}
