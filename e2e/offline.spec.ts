import { randomUUID } from 'node:crypto';
import { expect, test, type Page } from '@playwright/test';
import { houseForTests, key, scan, scanFor, untilKept } from './house.ts';

const house = houseForTests();

const cutOff = (hand: Page): Promise<void> => hand.context().setOffline(true);
const reconnect = (hand: Page): Promise<void> => hand.context().setOffline(false);
const toSend = (hand: Page) => hand.getByTestId('waiting');

/** Sends as the office or the lead does. */
async function post<Reply>(who: Page, path: string, data: object): Promise<Reply> {
  const answer = await who.request.post(path, { headers: { 'Idempotency-Key': randomUUID() }, data });
  if (!answer.ok()) throw new Error(await answer.text());
  return (await answer.json()) as Reply;
}

type Plain = { id: number; code: string; barcode: string; address: string; qty: number };
const plainOnShelves = (most: number): Promise<Plain[]> =>
  house.rows(
    `SELECT DISTINCT ON (f.walk, f.bin_id) i.id, i.code, c.code AS barcode, f.address, f.qty::int AS qty
     FROM stock_fact f
     JOIN item i ON i.id = f.item_id
     JOIN pack p ON p.item_id = i.id AND p.units = 1
     JOIN barcode c ON c.pack_id = p.id
     WHERE f.site_id = 1 AND f.use = 'shelf' AND f.pickable AND i.tracking = 'none' AND i.decimals = 0 AND f.qty BETWEEN 6 AND 400
       AND (SELECT count(*) FROM balance x WHERE x.bin_id = f.bin_id) = 1 ORDER BY f.walk, f.bin_id LIMIT $1`,
    [most],
  );

const jarNotOf = (own: readonly (Plain | undefined)[]): string => (own.some((o) => o?.code === 'HV-10') ? 'HV-11' : 'HV-10');

test('C18 a delivery of three kinds of goods without a connection, with a reload in the middle: every entry is there, once', async ({
  browser,
}) => {
  const hand = await house.packed(browser, 'Tobin Sallow');
  const [order] = await house.rows<{ id: number; number: string }>(
    `SELECT o.id, o.number
     FROM purchase_order o
     WHERE o.state = 'open' AND o.site_id = 1
       AND NOT EXISTS (SELECT 1 FROM delivery_order d WHERE d.purchase_order_id = o.id AND d.open)
       AND (
         SELECT count(DISTINCT i.tracking)
         FROM purchase_line l
         JOIN item i ON i.id = l.item_id
         WHERE l.purchase_order_id = o.id AND i.tracking IN ('none', 'lotExpiry', 'serial')
       ) = 3
       ORDER BY o.id
       LIMIT 1`,
  );
  const goods = await house.rows<{ code: string; tracking: string; barcode: string }>(
    `SELECT i.code, i.tracking,
       (SELECT c.code FROM barcode c JOIN pack p ON p.id = c.pack_id WHERE c.item_id = i.id ORDER BY p.units LIMIT 1) AS barcode
     FROM purchase_line l
     JOIN item i ON i.id = l.item_id
     WHERE l.purchase_order_id = $1`,
    [order?.id],
  );
  const kind = (tracking: string) => goods.find((g) => g.tracking === tracking) as (typeof goods)[number];
  const [plain, dated, serial] = [kind('none'), kind('lotExpiry'), kind('serial')];
  await scan(hand, order?.number ?? '');
  await expect(hand.getByRole('heading', { name: `Receive ${order?.number}` })).toBeVisible();
  await expect(toSend(hand)).toBeHidden();

  await cutOff(hand);
  await scanFor(hand, plain.barcode, `${plain.code}: 1 of`);
  await key(hand, '12');
  await expect(hand.getByTestId('arrived')).toHaveText('12');
  await scanFor(hand, dated.barcode, 'Scan or key the lot');
  await scanFor(hand, 'A-01-1', 'That is bin A-01-1');
  await scanFor(hand, dated.barcode, 'Scan or key the lot');
  await scanFor(hand, 'OFF-1', 'Key the date');
  await expect(toSend(hand)).toHaveText(/^2 to send, no connection/);
  await hand.reload();
  await expect(hand.getByRole('heading', { name: `Receive ${order?.number}` })).toBeVisible();
  await expect(hand.getByRole('list', { name: 'Last scans' })).toContainText(`12 ${plain.code}`);
  // The question that was open is open still.
  await hand.getByLabel('Expires', { exact: true }).fill('2032-02-29');
  await hand.getByRole('button', { name: 'Enter it' }).click();
  await scanFor(hand, dated.barcode, `${dated.code}: 2 of`);
  await hand.getByRole('button', { name: 'Undo' }).click();
  await expect(hand.getByRole('status')).toContainText('Taken out again');
  await scanFor(hand, serial.barcode, 'Scan the serial');
  await scanFor(hand, 'OFF-S-1', `${serial.code}: 1 of`);
  await scanFor(hand, 'OFF-S-1', 'already here');
  await scanFor(hand, 'OFF-S-2', `${serial.code}: 2 of`);
  await hand.getByRole('button', { name: 'All scanned' }).click();
  await expect(hand.getByRole('heading', { name: 'My work' })).toBeVisible();
  await reconnect(hand);
  await expect(toSend(hand)).toBeHidden({ timeout: 40_000 });
  expect(
    await house.rows(
      `SELECT i.code, trim_scale(e.qty)::text AS qty, e.lot, e.expires, e.serial, p.name
       FROM delivery_entry e
       JOIN delivery d ON d.id = e.delivery_id
       JOIN item i ON i.id = e.item_id
       JOIN person p ON p.id = e.person_id
       WHERE d.id IN (SELECT delivery_id FROM delivery_order WHERE purchase_order_id = $1) AND e.taken_out_at IS NULL ORDER BY e.id`,
      [order?.id],
    ),
  ).toEqual([
    { code: plain.code, qty: '12', lot: null, expires: null, serial: null, name: 'Tobin Sallow' },
    { code: dated.code, qty: '1', lot: 'OFF-1', expires: '2032-02-29', serial: null, name: 'Tobin Sallow' },
    { code: serial.code, qty: '1', lot: null, expires: null, serial: 'OFF-S-1', name: 'Tobin Sallow' },
    { code: serial.code, qty: '1', lot: null, expires: null, serial: 'OFF-S-2', name: 'Tobin Sallow' },
  ]);
  expect(
    await house.rows(`SELECT state FROM delivery WHERE id IN (SELECT delivery_id FROM delivery_order WHERE purchase_order_id = $1)`, [
      order?.id,
    ]),
  ).toEqual([{ state: 'review' }]);
});

test('G3 G6 a round of six stops with a short one, without a connection and with a reload in the middle', async ({ browser }) => {
  const lead = await house.desk(browser, 'Maren Oake');
  const goods = await plainOnShelves(14);
  const [customer] = await house.rows<{ id: number; today: string }>(
    `SELECT id, to_char(now_here(), 'YYYY-MM-DD') AS today FROM customer LIMIT 1`,
  );
  const lines = goods.slice(0, 6).map((g) => ({ item: g.id, qty: '2' }));
  const order = await post<{ id: number; number: string }>(lead, '/api/orders', { customer: customer?.id, due: customer?.today, lines });
  await post(lead, '/api/orders/promise', { orders: [order.id], mode: 'free' });
  const round = await post<{ id: number; number: string }>(lead, '/api/rounds', { orders: [order.id] });
  const hand = await house.packed(browser, 'Ines Farrow');
  await scan(hand, round.number);
  await expect(hand.getByRole('heading', { name: round.number })).toBeVisible();
  await cutOff(hand);
  const plate = async (): Promise<string> => (await hand.locator('main [role=img]').first().getAttribute('aria-label')) ?? '';
  let short = '';
  for (let stop = 0; stop < 12 && !(await hand.getByText('Everything is on the cart.').isVisible()); stop += 1) {
    const bin = await plate();
    await scanFor(hand, bin, 'Right bin');
    const code = (await hand.getByTestId('item-code').textContent()) ?? '';
    if (stop === 1) {
      short = code;
      await scanFor(hand, code, '1 taken, 1 to go');
      await hand.getByRole('button', { name: 'Trouble here' }).click();
      await hand.getByRole('button', { name: 'Too few there' }).click();
      await expect(hand.getByRole('status')).toContainText('Noted.');
      continue;
    }
    await scanFor(hand, code, /taken|Round picked/);
    if (stop === 2) await hand.reload();
    const left = hand.getByTestId('to-take');
    if (
      !(await hand.getByText('Everything is on the cart.').isVisible()) &&
      (await hand.getByTestId('item-code').textContent()) === code &&
      (await left.textContent()) === '1'
    )
      await scanFor(hand, code, /all 2 taken|Round picked/);
  }
  await scanFor(hand, 'SCRAP', 'not at a bench');
  await scan(hand, 'BENCH-1');
  await expect(hand.getByRole('heading', { name: 'My work' })).toBeVisible();
  await reconnect(hand);
  await expect(toSend(hand)).toBeHidden({ timeout: 40_000 });
  expect(await house.rows(`SELECT state FROM round WHERE id = $1`, [round.id])).toEqual([{ state: 'putDown' }]);
  const down = await house.rows<{ code: string; qty: number }>(
    `SELECT i.code, sum(h.qty)::int AS qty
     FROM in_hand h
     JOIN order_line l ON l.id = h.line_id
     JOIN item i ON i.id = h.item_id
     WHERE l.order_id = $1 AND h.put_down
     GROUP BY 1`,
    [order.id],
  );
  for (const g of goods.slice(0, 6)) if (g.code !== short) expect(down).toContainEqual({ code: g.code, qty: 2 });
  expect(
    await house.rows(
      `SELECT count(*)::int AS n FROM trouble t JOIN item i ON i.id = t.item_id WHERE i.code = $1 AND t.settled_at IS NULL`,
      [short],
    ),
  ).toEqual([{ n: 1 }]);
  expect(
    await house.rows(`SELECT outcome, count(*)::int AS n FROM hand_act WHERE job = $1 GROUP BY 1`, [`round:${round.id}`]),
  ).toMatchObject([{ outcome: 'done' }]);
});

test('J2 a count of ten bins without a connection, one of them visited twice, with a reload in the middle', async ({ browser }) => {
  const lead = await house.desk(browser, 'Maren Oake');
  const [zone] = await house.rows<{ id: number; name: string }>(
    `SELECT z.id, z.name
     FROM zone z
     WHERE z.site_id = 1 AND (SELECT count(*) FROM bin b WHERE b.zone_id = z.id AND b.retired_at IS NULL) BETWEEN 10 AND 60
       AND z.purpose IN ('storage', 'pickFace', 'cold', 'cage')
     ORDER BY z.id
     LIMIT 1`,
  );
  const count = await post<{ id: number; number: string }>(lead, '/api/counts', { zone: zone?.id });
  const bins = await house.rows<{ address: string }>(
    `SELECT address FROM bin WHERE zone_id = $1 AND retired_at IS NULL ORDER BY walk, id LIMIT 10`,
    [zone?.id],
  );
  const [jar] = await plainOnShelves(1);
  const hand = await house.packed(browser, 'Jory Penhale');
  await scan(hand, count.number);
  await expect(hand.getByRole('heading', { name: `Count ${zone?.name}` })).toBeVisible();
  await cutOff(hand);
  for (const [n, { address }] of bins.entries()) {
    await scanFor(hand, address, `Counting ${address}`);
    await scanFor(hand, jar?.barcode ?? '', `${jar?.code}: 1 in ${address}`);
    if (n === 4) {
      await key(hand, '7');
      // Only what was said is kept: a hand reloads after that.
      await expect(hand.getByTestId('found')).toHaveText('7');
      await hand.reload();
      await expect(hand.getByTestId('found')).toHaveText('7');
    }
  }
  await scanFor(hand, bins[2]?.address ?? '', 'was counted already: 1 pieces');
  await scanFor(hand, jar?.barcode ?? '', 'Scan the bin first');
  await hand.getByRole('button', { name: 'Begin it again' }).click();
  await scanFor(hand, jar?.barcode ?? '', `${jar?.code}: 1 in ${bins[2]?.address}`);
  await scanFor(hand, jar?.barcode ?? '', `${jar?.code}: 2 in ${bins[2]?.address}`);
  await reconnect(hand);
  await expect(toSend(hand)).toBeHidden({ timeout: 40_000 });
  const told = await house.rows<{ address: string; qty: number }>(
    `SELECT b.address, sum(t.qty)::int AS qty
     FROM tally t
     JOIN bin b ON b.id = t.bin_id
     WHERE t.count_id = $1 AND t.taken_out_at IS NULL
     GROUP BY b.address, b.walk, b.id
     ORDER BY b.walk, b.id`,
    [count.id],
  );
  expect(told).toEqual(bins.map(({ address }, n) => ({ address, qty: n === 4 ? 7 : n === 2 ? 2 : 1 })));
  await post(lead, `/api/counts/${count.id}/throw-away`, {});
});

test('I1 I2 goods moved and put away without a connection; a colleague signs in on the device while twenty acts wait', async ({
  browser,
}) => {
  const [g] = await plainOnShelves(3);
  const hand = await house.packed(browser, 'Tobin Sallow');
  await hand.goto('/h/put-away');
  const first = hand.getByRole('list', { name: 'What lies here' }).getByRole('button').first();
  await expect(first).toBeVisible();
  await cutOff(hand);
  await first.click();
  const to = (await hand.locator('main [role=img]').first().getAttribute('aria-label')) ?? '';
  await scanFor(hand, to, `is in ${to}`);
  await hand.reload();
  await hand.getByRole('link', { name: 'Back' }).click();
  await hand.getByRole('link', { name: /Move goods/ }).click();
  await scanFor(hand, g?.address ?? '', `From ${g?.address}`);
  for (let n = 0; n < 19; n += 1) {
    await scanFor(hand, g?.barcode ?? '', `1 ${g?.code}`);
    await scanFor(hand, 'QUARANTINE', 'Scan it again if it goes there');
    await scanFor(hand, 'QUARANTINE', `1 ${g?.code} is in QUARANTINE`);
    await hand.getByRole('button', { name: 'Undo' }).click();
    await expect(hand.getByRole('status')).toContainText('Undone');
  }
  await expect(toSend(hand)).toHaveText(/^39 to send/);
  // Nobody can sign out without a connection: the device stays whose it is.
  await hand.getByRole('link', { name: 'Back' }).click();
  await hand.getByRole('button', { name: 'Sign out' }).click();
  await expect(hand.getByText('39 scans wait to be sent')).toBeVisible();
  await hand.getByRole('button', { name: 'Sign out all the same' }).click();
  await expect(hand.getByText('a connection is needed')).toBeVisible();
  // The session runs out while nobody can be asked; then a colleague takes the device.
  await hand.context().clearCookies({ name: 'dockrow' });
  await reconnect(hand);
  await hand.goto('/h');
  await expect(hand.getByTestId('kept')).toContainText('39 scans are kept on this device');
  await hand.locator('li', { hasText: 'Ines Farrow' }).getByRole('button', { name: 'Come in' }).click();
  await expect(hand.getByText('Ines Farrow, ')).toBeVisible();
  await expect(toSend(hand)).toBeHidden({ timeout: 40_000 });
  // Each once, under the name of whoever did it. One that was on its way when the line was cut may have come with its author's session;
  // its answer was lost, and it was told again.
  const moved = await house.rows<{ name: string; outcome: string; n: number; carried: number }>(
    `SELECT p.name, a.outcome, count(*)::int AS n, count(*) FILTER (WHERE c.name = 'Ines Farrow')::int AS carried
     FROM hand_act a JOIN person p ON p.id = a.person_id JOIN person c ON c.id = a.carried_by WHERE a.kind LIKE 'move.%' GROUP BY 1, 2`,
  );
  expect(moved).toMatchObject([{ name: 'Tobin Sallow', outcome: 'done', n: 39 }]);
  expect(moved[0]?.carried).toBeGreaterThan(30);
  // What the colleague does there herself is hers, and is believed as well.
  await hand.getByRole('link', { name: /Move goods/ }).click();
  await scanFor(hand, g?.address ?? '', `From ${g?.address}`);
  await scanFor(hand, g?.barcode ?? '', `1 ${g?.code}`);
  await scanFor(hand, 'QUARANTINE', 'Scan it again if it goes there');
  await scanFor(hand, 'QUARANTINE', `1 ${g?.code} is in QUARANTINE`);
  await hand.getByRole('button', { name: 'Undo' }).click();
  await expect(hand.getByRole('status')).toContainText('Undone');
  await expect(toSend(hand)).toBeHidden({ timeout: 40_000 });
  expect(
    await house.rows(
      `SELECT a.outcome, count(*)::int AS n
       FROM hand_act a
       JOIN person p ON p.id = a.person_id
       WHERE a.kind LIKE 'move.%' AND p.name = 'Ines Farrow'
       GROUP BY 1`,
    ),
  ).toEqual([{ outcome: 'done', n: 2 }]);
  expect(await house.rows(`SELECT qty::int AS qty FROM stock_fact WHERE item_id = $1 AND address = $2`, [g?.id, g?.address])).toEqual([
    { qty: g?.qty },
  ]);
});

test('H1 an order is packed and leaves at a bench without a connection, by the scanner alone, with a reload in the middle', async ({
  browser,
}) => {
  const lead = await house.desk(browser, 'Maren Oake');
  const [g, other] = (await plainOnShelves(12)).slice(10);
  const [customer] = await house.rows<{ id: number; today: string }>(
    `SELECT id, to_char(now_here(), 'YYYY-MM-DD') AS today FROM customer LIMIT 1`,
  );
  const lines = [g, other].map((x) => ({ item: x?.id, qty: '2' }));
  const order = await post<{ id: number; number: string }>(lead, '/api/orders', { customer: customer?.id, due: customer?.today, lines });
  await post(lead, '/api/orders/promise', { orders: [order.id], mode: 'free' });
  const round = await post<{ id: number; number: string }>(lead, '/api/rounds', { orders: [order.id] });
  const hand = await house.packed(browser, 'Ines Farrow');
  await scan(hand, round.number);
  await expect(hand.getByRole('heading', { name: round.number })).toBeVisible();
  for (let stop = 0; stop < 4 && !(await hand.getByText('Everything is on the cart.').isVisible()); stop += 1) {
    await scanFor(hand, (await hand.locator('main [role=img]').first().getAttribute('aria-label')) ?? '', 'Right bin');
    await scanFor(hand, (await hand.getByTestId('item-code').textContent()) ?? '', '1 taken');
    await scanFor(hand, (await hand.getByTestId('item-code').textContent()) ?? '', /all 2 taken|Round picked/);
  }
  await scan(hand, 'BENCH-1');
  await expect(hand.getByRole('heading', { name: 'My work' })).toBeVisible();
  await expect(toSend(hand)).toBeHidden({ timeout: 40_000 });

  const bench = await house.desk(browser, 'Tobin Sallow');
  await bench.goto('/bench');
  await untilKept(bench);
  await expect(bench.getByText(order.number)).toBeVisible({ timeout: 30_000 });
  await cutOff(bench);
  await scanFor(bench, order.number, '4 pieces. Scan each');
  await scanFor(bench, g?.barcode ?? '', `${g?.code}: 1 of 2`);
  await bench.reload();
  await expect(bench.getByText('1 seen')).toBeVisible({ timeout: 30_000 });
  await scanFor(bench, g?.barcode ?? '', `${g?.code}: 2 of 2`);
  await scanFor(bench, order.number, `2 ${other?.code} not scanned yet`);
  await scanFor(bench, jarNotOf([g, other]), /does not belong to|Nobody here knows/);
  await scanFor(bench, other?.barcode ?? '', `${other?.code}: 1 of 2`);
  await key(bench, '2');
  await expect(bench.getByRole('status')).toContainText('All seen');
  await scanFor(bench, order.number, 'is packed in 1 parcel');
  await scanFor(bench, order.number, '4 pieces have left');
  await expect(bench.getByText('2 to send, no connection')).toBeVisible();
  await reconnect(bench);
  await expect(bench.getByText('to send')).toBeHidden({ timeout: 40_000 });
  expect(await house.rows(`SELECT state, parcels FROM customer_order WHERE id = $1`, [order.id])).toEqual([
    { state: 'shipped', parcels: 1 },
  ]);
});

test('a device whose clock is two hours wrong tells when it happened', async ({ browser }) => {
  const [g] = await plainOnShelves(5);
  const hand = await house.handheld(browser, 'Jory Penhale');
  await hand.addInitScript(() => {
    const now = Date.now.bind(Date);
    Date.now = () => now() + 7_200_000;
  });
  await hand.goto('/h/move');
  await hand.getByRole('heading', { name: 'Move goods' }).waitFor();
  await untilKept(hand);
  await scanFor(hand, g?.address ?? '', `From ${g?.address}`);
  await cutOff(hand);
  await scanFor(hand, g?.barcode ?? '', `1 ${g?.code}`);
  await scanFor(hand, 'SCRAP', 'Scan it again if it goes there');
  await scanFor(hand, 'SCRAP', 'is in SCRAP');
  await reconnect(hand);
  await expect(toSend(hand)).toBeHidden({ timeout: 40_000 });
  const [moved] = await house.rows<{ seconds: number }>(
    `SELECT abs(extract(epoch FROM now() - m.at))::int AS seconds
     FROM movement m
     JOIN bin b ON b.id = m.to_bin
     WHERE b.address = 'SCRAP' AND m.item_id = $1
     ORDER BY m.id DESC
     LIMIT 1`,
    [g?.id],
  );
  expect(moved?.seconds).toBeLessThan(120);
});

test('a clash is seen by the lead on home and on its paper, and settled there; the hand is told', async ({ browser }) => {
  const lead = await house.desk(browser, 'Maren Oake');
  const [g] = await plainOnShelves(7);
  const hand = await house.packed(browser, 'Ines Farrow');
  await hand.goto('/h/move');
  await hand.getByRole('heading', { name: 'Move goods' }).waitFor();
  await scanFor(hand, g?.address ?? '', `From ${g?.address}`);
  await cutOff(hand);
  await scanFor(hand, g?.barcode ?? '', `1 ${g?.code}`);
  await key(hand, '3');
  await scanFor(hand, 'QUARANTINE', 'Scan it again');
  await scanFor(hand, 'QUARANTINE', 'is in QUARANTINE');
  // Meanwhile somebody else takes nearly all of it.
  await post(lead, '/api/moves', { from: g?.address, to: 'SCRAP', code: g?.code, qty: String((g?.qty ?? 0) - 1) });
  await reconnect(hand);
  await expect(hand.getByRole('alert')).toContainText('For the lead:', { timeout: 40_000 });
  await lead.goto('/');
  await expect(lead.getByTestId('home-clashes')).toHaveText('1');
  await lead.getByRole('region', { name: 'From the floor, to be settled' }).getByRole('link').first().click();
  await expect(lead.getByText(`Put 3 ${g?.code} from ${g?.address} into QUARANTINE`)).toBeVisible();
  await lead.getByRole('button', { name: 'Post what the records have there' }).click();
  await expect(lead.getByText('Nothing to settle.')).toBeVisible();
  expect(
    await house.rows(`SELECT qty::int AS qty FROM stock_fact WHERE item_id = $1 AND address = 'QUARANTINE' AND site_id = 1`, [g?.id]),
  ).toEqual([{ qty: 1 }]);
  await hand.getByRole('button', { name: 'Seen' }).click();
  await expect(hand.getByRole('alert')).toBeHidden();
});
