import { OUTSIDE } from '#core/stock';
import { query, runInternal, workAlone, type Db, type Trx } from '#server/kernel';
import { makeRound, pickAtStop, putDownRound } from '#server/picking';
import { promiseOrders, trimAllPromises } from '#server/orders';
import { announce } from './announce.ts';
import { fitOut } from './fittings.ts';
import { History } from './history.ts';
import { lookAt } from './looked-at.ts';
import { makeMasters, type Company, type DemoItem } from './masters.ts';
import { seeded, type Random } from '#core/base';

const SEED = 20260711;

/** Loads the made-up company into an empty, migrated database. Returns a sentence about what there is now. */
export async function loadDemo(db: Db, now = new Date()): Promise<string> {
  const random = seeded(SEED);
  await runInternal(db, async (trx) => {
    workAlone(trx);
    // Everything in it is as of this moment, whatever day it is loaded on: the same moment gives the same company.
    await query(trx, `SELECT set_config('dockrow.now', ?, true)`, [now.toISOString()]);
    const company = await makeMasters(trx, random);
    const history = new History(trx, company, random, now);
    await history.run({ 60: () => datedLots(history, company, random) });
    await makeToday(trx, company, history, random);
    await fitOut(trx, company, random);
    await trimAllPromises(trx);
    await query(trx, `SELECT tie_entries_to_movements()`);
    await lookAt(trx, company, history);
    await announce(trx, company, history);
  });
  // Planning is only as good as what the planner knows of tables that were filled a moment ago.
  await query(db, `ANALYZE`);
  const [n] = await query<Record<string, number>>(
    db,
    `SELECT (SELECT count(*) FROM bin WHERE id >= 100) AS bins, (SELECT count(*) FROM item) AS items,
       (SELECT count(*) FROM movement) AS movements, (SELECT count(*) FROM customer_order WHERE state = 'open') AS orders`,
  );
  return `${n?.['bins']} bins, ${n?.['items']} items, ${n?.['movements']} movements and ${n?.['orders']} open orders`;
}

async function makeToday(trx: Trx, company: Company, history: History, random: Random): Promise<void> {
  await expect(trx, company, history, random);
  await arriveToday(trx, company, history, random);
  const orders = await enterOrders(trx, company, history, random);
  await promiseOrders(trx, { orders: orders.slice(0, 26), site: company.site, mode: 'free' });
  await query(trx, `UPDATE customer_order SET held_for = 'Customer asked to wait for the new address' WHERE id = ?`, [orders[4]]);
  await workRounds(trx, company, orders);
}

// Open purchase orders: some late, some due, one of which a part has come.
async function expect(trx: Trx, company: Company, history: History, random: Random): Promise<void> {
  for (let n = 0; n < 12; n += 1) {
    const supplierIndex = n % company.suppliers.length;
    // The first is one that shows every kind of tracking on one order.
    const items =
      n === 0
        ? ['none', 'lotExpiry', 'serial', 'lot'].map((t) => company.items.find((i) => i.tracking === t) as DemoItem)
        : company.items
            .filter((i) => i.supplier === supplierIndex)
            .filter(() => random.chance(0.2))
            .slice(0, 8);
    if (items.length === 0) continue;
    const [order] = await query<{ id: number }>(
      trx,
      `INSERT INTO purchase_order (number, supplier_id, site_id, due, at, made_by, approved_at, approved_by, sent_at, sent_by, sent_as)
       VALUES ('PO-' || nextval('number_po'), ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)
       RETURNING id`,
      [
        company.suppliers[supplierIndex],
        company.site,
        history.date(n - 3),
        history.at(10 - Math.min(n, 9), 10),
        company.people['Odile Wrack'],
        history.at(10 - Math.min(n, 9), 11),
        company.people['Maren Oake'],
        // The newest one is still to be sent.
        n === 11 ? null : history.at(9 - Math.min(n, 9), 9),
        n === 11 ? null : company.people['Odile Wrack'],
        n === 11 ? null : n % 2 === 0 ? 'pdf' : 'ubl',
      ],
    );
    await query(
      trx,
      `INSERT INTO purchase_line (purchase_order_id, item_id, qty, cost, part_no)
       SELECT ?, x.i, x.q, coalesce(s.cost, 0), coalesce(s.part_no, '')
       FROM unnest(?::int[], ?::numeric[]) AS x(i, q)
       LEFT JOIN item_supplier s ON s.item_id = x.i AND s.supplier_id = ?`,
      [
        order?.id,
        items.map((i) => i.id),
        items.map((i) => (i.tracking === 'serial' ? 2 : Math.max(6, Math.round(i.max * 0.4)))),
        company.suppliers[supplierIndex],
      ],
    );
    const plain = items.find((i) => i.tracking === 'none');
    if (n === 2 && plain) await receivePart(trx, company, history, { order: order?.id ?? 0, supplier: supplierIndex, item: plain });
  }
  await draft(trx, company, history);
}

// What the office has begun to order, and nobody has approved.
async function draft(trx: Trx, company: Company, history: History): Promise<void> {
  for (const n of [1, 3]) {
    const items = company.items.filter((i) => i.supplier === n && i.tracking !== 'serial').slice(4, 8);
    await query(
      trx,
      `WITH made AS (
         INSERT INTO purchase_order (number, supplier_id, site_id, due, state, at, made_by)
         VALUES ('PO-' || nextval('number_po'), ?, ?, ?, 'draft', ?, ?)
         RETURNING id, supplier_id)
       INSERT INTO purchase_line (purchase_order_id, item_id, qty, cost, part_no)
       SELECT made.id, x.i, x.q, s.cost, s.part_no
       FROM made, unnest(?::int[], ?::numeric[]) AS x(i, q)
       JOIN item_supplier s ON s.item_id = x.i
       WHERE s.supplier_id = made.supplier_id`,
      [
        company.suppliers[n],
        company.site,
        history.date(n + 9),
        history.at(0, 9 + n),
        company.people['Odile Wrack'],
        items.map((i) => i.id),
        items.map((i) => Math.max(6, Math.round(i.max * 0.3))),
      ],
    );
  }
}

// Four pieces of one line came yesterday evening; the rest is still expected.
async function receivePart(
  trx: Trx,
  company: Company,
  history: History,
  part: { order: number; supplier: number; item: DemoItem },
): Promise<void> {
  const hand = company.people['Tobin Sallow'] ?? 0;
  const [delivery] = await query<{ id: number }>(
    trx,
    `WITH made AS (
       INSERT INTO delivery (number, site_id, supplier_id, supplier_doc, state, started_by, at, touched)
       VALUES ('DL-' || nextval('number_dl'), ?, ?, 'INV 20117', 'posted', ?, ?, ?)
       RETURNING id)
     INSERT INTO delivery_order (delivery_id, purchase_order_id, open) SELECT id, ?, false FROM made RETURNING delivery_id AS id`,
    [company.site, company.suppliers[part.supplier], hand, history.at(1, 17), history.at(1, 18), part.order],
  );
  await query(trx, `INSERT INTO delivery_entry (delivery_id, item_id, pack_id, qty, person_id, at) VALUES (?, ?, ?, 4, ?, ?)`, [
    delivery?.id,
    part.item.id,
    part.item.basePack,
    hand,
    history.at(1, 17),
  ]);
  const movements = await history.arrive(part.item, 4, company.arrivals, OUTSIDE.suppliers, 'Received in part', 300);
  const receipt = await history.post('receipt', 1, 18, movements, delivery?.id);
  await query(trx, `UPDATE delivery SET receipt_id = ? WHERE id = ?`, [receipt, delivery?.id]);
  await history.settle(delivery?.id ?? 0, part.order);
}

// Goods that came this morning still lie at arrivals; one delivery waits for review, one is being scanned.
async function arriveToday(trx: Trx, company: Company, history: History, random: Random): Promise<void> {
  const some = company.items
    .filter((i) => i.storage !== 'cold')
    .filter(() => random.chance(0.025))
    .slice(0, 8);
  const movements = [];
  for (const item of some)
    movements.push(
      ...(await history.arrive(
        item,
        item.tracking === 'serial' ? 1 : Math.ceil(item.max * 0.3),
        company.arrivals,
        OUTSIDE.suppliers,
        'Received this morning',
        300,
      )),
    );
  await history.post('receipt', 0, 9, movements);
  const orders = await query<{ id: number; supplier_id: number }>(
    trx,
    `SELECT id, supplier_id FROM purchase_order WHERE state = 'open' ORDER BY id LIMIT 2 OFFSET 5`,
  );
  for (const [n, order] of orders.entries()) {
    const [delivery] = await query<{ id: number }>(
      trx,
      `WITH made AS (
         INSERT INTO delivery (number, site_id, supplier_id, supplier_doc, state, started_by, at, touched)
         VALUES ('DL-' || nextval('number_dl'), ?, ?, ?, ?, ?, ?, ?)
         RETURNING id)
       INSERT INTO delivery_order (delivery_id, purchase_order_id) SELECT id, ? FROM made RETURNING delivery_id AS id`,
      [
        company.site,
        order.supplier_id,
        'INV 20131',
        n === 0 ? 'review' : 'scanning',
        company.people['Tobin Sallow'],
        history.at(0, 10),
        history.at(0, 11),
        order.id,
      ],
    );
    await query(
      trx,
      `INSERT INTO delivery_entry (delivery_id, item_id, pack_id, qty, lot, expires, person_id, at)
       SELECT ?, l.item_id, (SELECT id FROM pack WHERE item_id = l.item_id ORDER BY units LIMIT 1), CASE
         WHEN row_number() OVER (ORDER BY l.id) = 2 THEN greatest(l.qty - 3, 1) ELSE l.qty END,
         CASE WHEN i.tracking LIKE 'lot%' THEN 'N' || l.id END, CASE WHEN i.tracking = 'lotExpiry' THEN ?::date END, ?, ?
       FROM purchase_line l JOIN item i ON i.id = l.item_id WHERE l.purchase_order_id = ? AND i.tracking <> 'serial' ORDER BY l.id LIMIT ?`,
      [delivery?.id, history.date(420), company.people['Tobin Sallow'], history.at(0, 11), order.id, n === 0 ? 6 : 2],
    );
  }
}

// Three lots that expire within ten days, and one that has.
async function datedLots(history: History, company: Company, random: Random): Promise<void> {
  const dated = company.items.filter((i) => i.tracking === 'lotExpiry');
  const movements = [];
  for (const life of [3, 6, 10, -2]) {
    const item = random.pick(dated);
    const arrived = await history.arrive(item, 12, item.home, OUTSIDE.suppliers, 'Received', life);
    for (const { lot } of arrived) history.kept.add(lot ?? 0);
    movements.push(...arrived);
  }
  await history.post('receipt', 60, 9, movements);
}

async function enterOrders(trx: Trx, company: Company, history: History, random: Random): Promise<number[]> {
  const ids: number[] = [];
  for (let n = 0; n < 40; n += 1) {
    const [order] = await query<{ id: number }>(
      trx,
      `INSERT INTO customer_order (number, site_id, customer_id, due, priority, at)
       VALUES ('CO-' || nextval('number_co'), ?, ?, ?, ?, ?)
       RETURNING id`,
      [
        company.site,
        random.pick(company.customers),
        history.date(Math.floor(n / 6) - 1),
        n % 9 === 0 ? 2 : 5,
        history.at(Math.max(0, 3 - n / 12), 9 + (n % 6)),
      ],
    );
    const id = order?.id ?? 0;
    const lines = new Map<number, number>();
    while (lines.size < 1 + (n % 5)) {
      const item = random.pick(company.items);
      // A few orders ask for more than there is.
      lines.set(
        item.id,
        item.tracking === 'serial' ? 1 : n % 11 === 5 ? item.max * 4 : random.int(1, Math.max(1, Math.round(item.max * 0.1))),
      );
    }
    await query(trx, `INSERT INTO order_line (order_id, item_id, qty) SELECT ?, i, q FROM unnest(?::int[], ?::numeric[]) AS x(i, q)`, [
      id,
      [...lines.keys()],
      [...lines.values()],
    ]);
    ids.push(id);
  }
  return ids;
}

// One round is half walked, one is put down and its orders wait at the bench.
async function workRounds(trx: Trx, company: Company, orders: readonly number[]): Promise<void> {
  const hand = company.people['Ines Farrow'] ?? 0;
  const ready = await query<{ id: number }>(
    trx,
    `SELECT o.id
     FROM customer_order o
     WHERE o.id = ANY(?::int[]) AND o.held_for IS NULL AND NOT EXISTS (
       SELECT 1
       FROM order_line l
       JOIN item i ON i.id = l.item_id
       LEFT JOIN promise p ON p.line_id = l.id
       WHERE l.order_id = o.id AND (p.qty IS NULL OR p.qty < l.qty OR i.tracking IN ('serial', 'serialOut'))
     )
     ORDER BY o.due, o.id`,
    [orders],
  );
  for (const [n, pair] of [ready.slice(0, 2), ready.slice(2, 4)].entries()) {
    if (pair.length === 0) continue;
    const round = await makeRound(trx, {
      orders: pair.map((o) => o.id),
      site: company.site,
      siteName: 'Quillfen Yard',
      person: hand,
      takenBy: hand,
    });
    const picks = await query<{ id: number; qty: string; address: string; code: string; lot: string | null }>(
      trx,
      `SELECT k.id, k.qty, b.address, i.code, t.code AS lot
       FROM round_pick k
       JOIN bin b ON b.id = k.bin_id
       JOIN item i ON i.id = k.item_id
       LEFT JOIN lot t ON t.id = k.lot_id
       WHERE k.round_id = ?
       ORDER BY b.walk, k.id`,
      [round.id],
    );
    const walked = n === 0 ? picks : picks.slice(0, Math.ceil(picks.length / 2));
    for (const p of walked)
      await pickAtStop(trx, {
        round: round.id,
        pick: p.id,
        site: company.site,
        person: hand,
        bin: p.address,
        code: p.code,
        ...(p.lot === null ? {} : { lot: p.lot }),
        qty: (Number(p.qty) * 1000) as never,
      });
    if (n === 0) await putDownRound(trx, { round: round.id, bin: 'BENCH-1', site: company.site, person: hand, told: false });
  }
}
