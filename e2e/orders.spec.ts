import { expect, test } from '@playwright/test';
import { writeOrder } from '../devices/channel/write-order.ts';
import { signIn } from '../server/testing/client.ts';
import { choose, houseForTests, scan, scanFor } from './house.ts';

const house = houseForTests();

const goods = (most: number): Promise<{ id: number; code: string; barcode: string; bin: string; free: number }[]> =>
  house.rows(
    `SELECT i.id, i.code, c.code AS barcode, (SELECT f.address FROM stock_fact f WHERE f.item_id = i.id AND f.site_id = 1 AND f.usable
         ORDER BY f.walk LIMIT 1) AS bin,
       (SELECT sum(f.qty) FROM stock_fact f WHERE f.item_id = i.id AND f.site_id = 1 AND f.usable)::int
         - coalesce((SELECT sum(p.qty) FROM promise p WHERE p.item_id = i.id AND p.site_id = 1), 0)::int AS free
     FROM item i
     JOIN pack p ON p.item_id = i.id AND p.units = 1
     JOIN barcode c ON c.pack_id = p.id
     WHERE i.tracking = 'none' AND i.decimals = 0 AND NOT EXISTS (SELECT 1 FROM promise x WHERE x.item_id = i.id)
       AND (SELECT count(*) FROM stock_fact f WHERE f.item_id = i.id AND f.site_id = 1 AND f.usable AND f.use = 'shelf') = 1
     ORDER BY i.code
     LIMIT $1`,
    [most],
  );

test('F1 F3 an order of a job by keyboard alone: a line of more than there is says why, and is changed on the spot', async ({
  browser,
}) => {
  const office = await house.desk(browser, 'Odile Wrack');
  const [first, second] = await goods(2);
  if (!first || !second) throw new Error('The demo has no two plain items.');
  await office.goto('/orders/new');
  const search = office.getByRole('combobox', { name: 'Search items to order' });
  for (const [item, qty] of [
    [first, '2'],
    [second, String(second.free + 7)],
  ] as const) {
    await search.fill(item.code);
    await expect(office.getByRole('option').first()).toContainText(item.code);
    // To the first of what is found, whichever had the focus.
    await office.keyboard.press('Home');
    await office.keyboard.press('Enter');
    await expect(office.getByLabel('How many', { exact: true })).toBeFocused();
    // As a hand keys, not as a scanner does.
    await office.getByLabel('How many', { exact: true }).fill(qty);
    await office.keyboard.press('Enter');
    await expect(search).toBeFocused();
  }
  await choose(office.getByRole('button', { name: 'For', exact: false }).first(), 'a job here');
  const save = office.getByRole('button', { name: 'Save and promise what is free' });
  await expect(office.getByText('Say for which job it is.')).toBeVisible();
  await expect(save).toBeDisabled();
  await office.getByLabel('Job', { exact: true }).fill('Mending the gate');
  await save.click();
  await expect(office.getByRole('heading', { name: /CO-\d+/ })).toContainText('Job Mending the gate');
  await expect(office.getByText(/none is on order|on \d+ \w+ \d{4} with PO-/)).toBeVisible();
  await office.getByRole('button', { name: new RegExp(`^${second.free + 7} `) }).click();
  await office.getByLabel(`How many ${second.code} are ordered`).fill(String(second.free));
  await office.keyboard.press('Enter');
  await expect(office.getByText(`${second.free} of ${second.code} are ordered now.`)).toBeVisible();
  await expect(office.getByText('can be picked: ● all')).toBeVisible();
});

test('F3 goods are handed over the counter: scanned, counted up, from the bin that was scanned; once, however often it is pressed', async ({
  browser,
}) => {
  const lead = await house.desk(browser, 'Maren Oake');
  const [item] = await goods(1);
  if (!item) throw new Error('The demo has no plain item.');
  await lead.goto('/counter');
  await expect(lead.getByText('Nothing is on the counter yet.')).toBeVisible();
  await scan(lead, item.bin);
  await expect(lead.getByText('From bin')).toBeVisible();
  await scan(lead, item.barcode);
  const many = lead.getByLabel(`How many ${item.code}`, { exact: true });
  await expect(many).toHaveValue('1');
  await scan(lead, item.barcode);
  await expect(many).toHaveValue('2');
  await scan(lead, 'no such code at all');
  await expect(lead.getByText('Nothing here is known by')).toBeVisible();
  await many.fill('999999');
  await expect(lead.getByText(/^Only \d+ lie in/)).toBeVisible();
  await expect(lead.getByRole('button', { name: /^Hand over/ })).toBeDisabled();
  await many.fill('2');
  await lead.getByRole('button', { name: 'Hand over 1 line' }).dblclick();
  await expect(lead.getByText(/2 pieces left on/)).toBeVisible();
  const left = await house.rows<{ qty: string; bin: string }>(
    `SELECT m.qty::int::text AS qty, b.address AS bin
     FROM movement m
     JOIN bin b ON b.id = m.from_bin
     JOIN shipment s ON s.document_id = m.document_id
     JOIN customer_order o ON o.id = s.order_id AND o.kind = 'counter'`,
  );
  expect(left).toEqual([{ qty: '2', bin: item.bin }]);
});

test('F2 orders from a sheet come in whole; G1 rounds are proposed, stopped at the best so far, and made', async ({ browser }) => {
  test.slow();
  const lead = await house.desk(browser, 'Maren Oake');
  const items = await goods(6);
  const rows = Array.from({ length: 8 }, (_, n) =>
    [0, 1].map((l) => `WEB-${n},Kestrelgarth Bees,${items[(n + l * 3) % items.length]?.code},1`),
  ).flat();
  await lead.goto('/orders/import');
  const file = (lines: string[]) => ({
    name: 'web.csv',
    mimeType: 'text/csv',
    buffer: Buffer.from(['Reference,Customer,Item,Quantity', ...lines].join('\n')),
  });
  await lead.locator('input[type=file]').setInputFiles(file([...rows, 'WEB-9,Nobody here,AN-1,1']));
  await expect(lead.getByText('There is no customer “Nobody here”.')).toBeVisible();
  await lead.getByRole('button', { name: 'Choose another file' }).click();
  await lead.locator('input[type=file]').setInputFiles(file(rows));
  await lead.getByRole('button', { name: /^Import: 16 new/ }).click();
  await lead.getByRole('link', { name: 'Look at the 8 orders and promise them' }).click();
  await lead.getByRole('searchbox', { name: 'Search orders' }).fill('WEB-');
  await expect(lead.getByText('8 rows')).toBeVisible();
  const orders = await house.rows<{ id: number }>(`SELECT id FROM customer_order WHERE source = 'sheet'`);
  const answer = await lead.request.post('/api/orders/promise', {
    data: { orders: orders.map((o) => o.id) },
    headers: { 'Idempotency-Key': crypto.randomUUID() },
  });
  expect(answer.status()).toBe(200);

  await lead.goto('/rounds/propose');
  await expect(lead.getByRole('list', { name: 'Proposed rounds' }).getByRole('listitem').first()).toBeVisible();
  const stop = lead.getByRole('button', { name: /^Stop here/ });
  if (await stop.isVisible()) await stop.click({ timeout: 2000 }).catch(() => undefined);
  const make = lead.getByRole('button', { name: /^Make / });
  await expect(make).toBeEnabled({ timeout: 20_000 });
  const before = await house.rows<{ n: number }>(`SELECT count(*)::int AS n FROM round WHERE state = 'open'`);
  await lead.getByRole('checkbox', { name: 'Round 2', exact: true }).uncheck();
  await make.dblclick();
  await expect(lead.getByRole('link', { name: 'To the rounds' })).toBeVisible({ timeout: 20_000 });
  const after = await house.rows<{ n: number; most: number }>(
    `SELECT count(*)::int AS n, max((SELECT count(DISTINCT l.order_id) FROM round_pick k JOIN order_line l ON l.id = k.line_id
       WHERE k.round_id = r.id))::int AS most
     FROM round r WHERE state = 'open'`,
  );
  expect(after[0]?.n).toBeGreaterThan(before[0]?.n ?? 0);
  expect(after[0]?.most).toBeLessThanOrEqual(6);
  await lead.getByRole('link', { name: 'To the rounds' }).click();
  await expect(lead.getByRole('img', { name: /^The way of RD-\d+: \d+ stops, then the bench$/ })).toBeVisible();
});

test('F4 a customer who takes all or nothing is kept, and what others changed meanwhile is shown', async ({ browser }) => {
  const [one, two] = [await house.desk(browser, 'Maren Oake'), await house.desk(browser, 'Odile Wrack')];
  for (const page of [one, two]) {
    await page.goto('/customers');
    await page.getByRole('button', { name: 'Greywick Hives' }).click();
  }
  await one.getByLabel('Takes an order whole or not at all').check();
  await one.getByRole('button', { name: 'Keep Greywick Hives' }).click();
  await expect(one.getByText('whole orders only')).toBeVisible();
  await two.getByLabel('Address').fill('1 New Lane');
  await two.getByRole('button', { name: 'Keep Greywick Hives' }).click();
  await expect(two.getByText('Taken over from them: Whole orders only')).toBeVisible();
  await two.getByRole('button', { name: 'Keep Greywick Hives' }).click();
  await expect
    .poll(() => house.rows(`SELECT whole_only, address FROM customer WHERE name = 'Greywick Hives'`))
    .toEqual([{ whole_only: true, address: '1 New Lane' }]);
  await one.getByRole('button', { name: 'Add a customer' }).click();
  await one.getByRole('textbox', { name: 'Code', exact: true }).fill('c1007');
  await one.getByRole('textbox', { name: 'Name', exact: true }).fill('Somebody');
  await one.getByRole('button', { name: 'Keep Somebody' }).click();
  await expect(one.getByText('The code c1007 is that of Greywick Hives already.')).toBeVisible();
});

/** Rounds of the tests before have every cart; what lies on them goes back. */
async function freeCarts(): Promise<void> {
  const asker = await signIn(house.address, 'Maren Oake');
  for (const { id } of await house.rows<{ id: number }>(`SELECT id FROM round WHERE site_id = 1 AND state = 'open'`))
    await asker.ask('picking.throwAway', { params: { id } });
}

test('F3 a line names one serial: the hand is shown it, another is refused, and it is what leaves', async ({ browser }) => {
  const [item] = await house.rows<{ id: number; code: string; barcode: string; bin: string; serials: string[] }>(
    `SELECT i.id, i.code, first_barcode(i.id) AS barcode, f.address AS bin, array_agg(f.serial ORDER BY f.serial) AS serials
     FROM stock_fact f
     JOIN item i ON i.id = f.item_id
     WHERE i.tracking = 'serial' AND f.site_id = 1 AND f.usable AND f.use = 'shelf' AND f.pickable AND first_barcode(i.id) IS NOT NULL
       AND NOT EXISTS (SELECT 1 FROM promise p WHERE p.item_id = i.id)
     GROUP BY i.id, i.code, f.address
     HAVING count(*) >= 2
     ORDER BY i.code
     LIMIT 1`,
  );
  if (!item) throw new Error('The demo has no serials that are free.');
  const [other = '', wanted = ''] = item.serials;
  await freeCarts();
  const lead = await house.desk(browser, 'Maren Oake');
  const { reply: made } = await (
    await signIn(house.address, 'Maren Oake')
  ).ask('orders.make', {
    body: { customer: 1, due: '2030-01-01', lines: [{ item: item.id, qty: '1' }] },
  });
  await lead.goto(`/orders/${made.id}`);
  await lead.getByRole('button', { name: 'Promise what is free' }).click();
  await lead.getByRole('button', { name: 'any serial' }).click();
  const panel = lead.getByRole('complementary', { name: 'Detail' });
  await panel.getByRole('checkbox', { name: wanted }).check();
  await panel.getByRole('button', { name: 'Keep these for it' }).click();
  await expect(lead.getByRole('button', { name: `only serial ${wanted}` })).toBeVisible();
  await lead.getByRole('button', { name: 'Make a round' }).click();
  await lead.waitForURL(/\/rounds\/\d+/);
  const round = Number(/\d+$/.exec(lead.url())?.[0]);
  const hand = await house.handheld(browser, 'Jory Penhale');
  await hand.goto(`/h/round/${round}`);
  await hand.getByTestId('to-take').waitFor();
  await scanFor(hand, item.bin, 'Right bin');
  await expect(hand.getByText(wanted)).toBeVisible();
  await scanFor(hand, item.barcode, 'leaves by serial');
  await scanFor(hand, other, `Take ${wanted}.`);
  await scanFor(hand, wanted, 'Round picked');
  await expect
    .poll(() =>
      house.rows(
        `SELECT s.code FROM picked k JOIN serial s ON s.id = k.serial_id JOIN order_line l ON l.id = k.line_id WHERE l.order_id = $1`,
        [made.id],
      ),
    )
    .toEqual([{ code: wanted }]);
});

test('F2 a customer cancels an order that is on a cart: it is held, the lead sees it, and lets the goods go back', async ({ browser }) => {
  const asker = await signIn(house.address, 'Maren Oake');
  await freeCarts();
  const item = (await goods(3))[2];
  if (!item) throw new Error('The demo has no third plain item.');
  const [customer] = await house.rows<{ id: number; name: string }>(`SELECT id, name FROM customer ORDER BY id LIMIT 1`);
  const { reply: made } = await asker.ask('orders.make', {
    body: { customer: customer?.id ?? 0, due: '2030-01-01', reference: 'WEB-77', lines: [{ item: item.id, qty: '1' }] },
  });
  await asker.ask('orders.promise', { body: { orders: [made.id] } });
  const { reply: round } = await asker.ask('picking.make', { body: { orders: [made.id] } });
  const hand = await house.handheld(browser, 'Tobin Sallow');
  await hand.goto(`/h/round/${round.id}`);
  await hand.getByTestId('to-take').waitFor();
  await scanFor(hand, item.bin, 'Right bin');
  await scanFor(hand, item.barcode, 'Round picked');

  const office = await house.desk(browser, 'Odile Wrack');
  await office.goto('/orders/sent');
  await office.locator('input[type=file]').setInputFiles({
    name: 'cancel.xml',
    mimeType: 'application/xml',
    buffer: Buffer.from(
      writeOrder({
        ...{ kind: 'cancellation', reference: 'WEB-77', issued: '2026-11-28', note: 'Changed our mind' },
        customer: { name: customer?.name ?? '' },
      }),
    ),
  });
  await expect(office.getByText('1 change waits for you')).toBeVisible();
  await office.getByRole('link', { name: made.number }).first().click();
  await expect(office.getByText('held: Its customer cancels it')).toBeVisible();
  await office.getByRole('link', { name: 'See what was sent' }).click();
  await office.getByRole('button', { name: 'Cancel it, goods go back' }).click();
  await expect(office.getByText(/is cancelled\. 1 pieces? went back to/).first()).toBeVisible();
  await expect(office.getByText('1 change waits for you')).toBeHidden();
  await expect.poll(() => house.rows(`SELECT state FROM customer_order WHERE id = $1`, [made.id])).toEqual([{ state: 'cancelled' }]);
});

test('G12 a round on paper: the sheet is keyed by keyboard alone, one pick is short, the rest lies at the bench', async ({ browser }) => {
  const asker = await signIn(house.address, 'Maren Oake');
  await freeCarts();
  const items = (await goods(5)).slice(3);
  const { reply: made } = await asker.ask('orders.make', {
    body: { customer: 1, due: '2030-01-01', lines: items.map((i) => ({ item: i.id, qty: '2' })) },
  });
  await asker.ask('orders.promise', { body: { orders: [made.id] } });
  const { reply: round } = await asker.ask('picking.make', { body: { orders: [made.id] } });
  const lead = await house.desk(browser, 'Maren Oake');
  await lead.goto(`/rounds/${round.id}`);
  await lead.getByRole('button', { name: 'Key the sheet that came back' }).click();
  const sheet = lead.getByRole('form', { name: 'The sheet' });
  const taken = sheet.getByLabel(/^Taken of/);
  await expect(taken).toHaveCount(2);
  await taken.first().fill('3');
  await expect(sheet.getByText('At most 2.')).toBeVisible();
  await expect(sheet.getByRole('button', { name: 'Post the sheet' })).toBeDisabled();
  await taken.first().fill('1');
  await expect(sheet.getByRole('button', { name: /Why fewer/ })).toBeVisible();
  await lead.keyboard.press('Enter');
  await expect(taken.nth(1)).toBeFocused();
  await lead.keyboard.press('Enter');
  await expect(sheet.getByLabel('It lies at the bench')).toBeFocused();
  await lead.keyboard.press('Enter');
  await expect(lead.getByText(/3 pieces lie at BENCH-1\. 1 pick was short/)).toBeVisible();
  await expect(lead.getByText('put down at the bench')).toBeVisible();
  await expect
    .poll(() =>
      house.rows(
        `SELECT sum(k.qty)::int AS qty, bool_and(k.put_down) AS down
         FROM in_hand k
         JOIN order_line l ON l.id = k.line_id
         WHERE l.order_id = $1`,
        [made.id],
      ),
    )
    .toEqual([{ qty: 3, down: true }]);
});
