import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { expect, test } from '@playwright/test';
import { DEMO_PEOPLE } from '#server/people';
import { choose, houseForTests, pick, scan, scanFor, workAt } from './house.ts';

const house = houseForTests();

const plainItems = (most: number): Promise<{ id: number; code: string; barcode: string }[]> =>
  house.rows(
    `SELECT i.id, i.code, c.code AS barcode FROM item i JOIN pack p ON p.item_id = i.id AND p.units = 1 JOIN barcode c ON c.pack_id = p.id
     WHERE i.tracking = 'none' AND i.decimals = 0
       AND EXISTS (SELECT 1 FROM stock_fact f WHERE f.item_id = i.id AND f.site_id = 1 AND f.use = 'shelf' AND f.qty > 5)
     ORDER BY i.code
     LIMIT $1`,
    [most],
  );

test('F1 a new order takes scans, blames the line that is wrong, and survives leaving and reload', async ({ browser }) => {
  const office = await house.desk(browser, 'Odile Wrack');
  const [first, second] = await plainItems(2);
  if (!first || !second) throw new Error('The demo has no two plain items on its shelves.');
  await office.goto('/orders/new');
  await expect(office.getByRole('heading', { name: 'New order' })).toBeVisible();
  const qty = (code: string) => office.getByLabel(`How many ${code}`, { exact: true });
  await scan(office, first.barcode);
  await expect(qty(first.code)).toHaveValue('1');
  await scan(office, first.barcode);
  await expect(qty(first.code)).toHaveValue('2');
  await scan(office, second.barcode);
  await expect(qty(second.code)).toHaveValue('1');
  await scan(office, 'A-01-1');
  await expect(office.getByText('That is no goods.')).toBeVisible();
  expect(new URL(office.url()).pathname).toBe('/orders/new');

  const save = office.getByRole('button', { name: 'Save and promise what is free' });
  await pick(office.getByLabel('Customer', { exact: true }), 'Kestrelgarth Bees');
  for (const wrong of ['-3', '0', '1.5', 'lots']) {
    await qty(second.code).fill(wrong);
    await expect(qty(second.code)).toHaveAttribute('aria-invalid', 'true');
    await expect(qty(first.code)).toHaveAttribute('aria-invalid', 'false');
    await expect(save).toBeDisabled();
  }
  await qty(second.code).fill('4');
  await office.goto('/items');
  await office.goto('/orders/new');
  await expect(qty(first.code)).toHaveValue('2');
  await office.reload();
  await expect(qty(second.code)).toHaveValue('4');
  await save.dblclick();
  await expect(office.getByRole('heading', { name: /CO-\d+/ })).toBeVisible();
  const made = await house.rows<{ qty: string }>(
    `SELECT l.qty::int::text AS qty
     FROM order_line l
     JOIN customer_order o ON o.id = l.order_id
     WHERE o.at > now_here() - interval '2 minutes'
     ORDER BY l.qty`,
  );
  expect(made.map((l) => l.qty)).toEqual(['2', '4']);
  await office.goto('/orders/new');
  await expect(office.getByText('0 lines')).toBeVisible();
});

test('L1 home and the row say the same number, and an act on home is done where it stands', async ({ browser }) => {
  const lead = await house.desk(browser, 'Maren Oake');
  await lead.goto('/');
  const told = async (part: string): Promise<number> => Number(await lead.getByTestId(`home-${part}`).textContent());
  await expect(lead.getByTestId('home-late')).toBeVisible();
  const late = (await told('late')) + (await told('overdue'));
  const row = (await lead.getByRole('navigation', { name: 'The row' }).getByRole('link').allTextContents())
    .map((t) => Number(/(\d+) late/.exec(t)?.[1] ?? 0))
    .reduce((a, b) => a + b, 0);
  expect(row).toBe(late);
  const expired = lead.getByRole('region', { name: 'Expired on shelves' });
  const before = Number(await lead.getByTestId('home-expired').textContent());
  const line = expired.getByRole('listitem').first();
  const goods = await line.locator('a').first().textContent();
  await line.getByRole('button', { name: 'Move to quarantine' }).click();
  await expect(lead.getByText(/is in QUARANTINE/)).toBeVisible();
  expect(new URL(lead.url()).pathname).toBe('/');
  await (before > 1 ? expect(lead.getByTestId('home-expired')).toHaveText(String(before - 1)) : expect(expired).toBeHidden());
  await lead.getByRole('button', { name: 'Undo' }).click();
  await expect(lead.getByTestId('home-expired')).toHaveText(String(before));
  await expect(expired).toContainText(goods?.slice(0, 6) ?? '?');
});

test('B1 opening stock is entered once, however often the button is pressed; onto history it is an adjustment', async ({ browser }) => {
  const office = await house.desk(browser, 'Odile Wrack');
  await office.goto('/items/new');
  await office.getByLabel('Code', { exact: true }).fill('TRUE-1');
  await office.getByLabel('Description').fill('Ledger jar');
  await office.getByLabel('Group').fill('Jars');
  await office.getByRole('button', { name: /Make/ }).click();
  await pick(office.getByLabel('Bin (or UNPLACED)', { exact: true }), 'UNPLACED');
  await office.getByLabel('How many each').fill('6');
  await office.getByRole('button', { name: 'Enter opening stock' }).dblclick();
  await expect(office.getByTestId('figure-on hand').or(office.getByText('UNPLACED').first())).toBeVisible();
  const entered = (): Promise<{ qty: number; documents: number }[]> =>
    house.rows(
      `SELECT sum(m.qty)::int AS qty, count(DISTINCT m.document_id)::int AS documents
       FROM movement m
       JOIN item i ON i.id = m.item_id
       WHERE i.code = 'TRUE-1'`,
    );
  await expect.poll(entered).toEqual([{ qty: 6, documents: 1 }]);
  const [item] = await house.rows<{ id: number }>(`SELECT id FROM item WHERE code = 'TRUE-1'`);
  await office.goto(`/items/${item?.id}?act=opening`);
  await pick(office.getByLabel('Bin (or UNPLACED)', { exact: true }), 'UNPLACED');
  await office.getByLabel('How many each').fill('2');
  const adjust = office.getByRole('button', { name: 'Adjust the stock' });
  await expect(adjust).toBeDisabled();
  await office.getByLabel('Why is it made?').fill('Two were behind the door');
  await adjust.dblclick();
  await expect.poll(entered).toEqual([{ qty: 8, documents: 2 }]);
});

test('B2 two tabs change one record: what only they changed is taken over, the rest is asked field by field', async ({ browser }) => {
  const [item] = await plainItems(1);
  const mine = await house.desk(browser, 'Odile Wrack');
  const theirs = await mine.context().newPage();
  for (const tab of [mine, theirs]) {
    await tab.goto(`/items/${item?.id}`);
    await tab.getByRole('button', { name: 'Change the record' }).click();
  }
  await theirs.getByLabel('Description').fill('As they call it');
  await theirs.getByLabel('Note').fill('They noted this');
  await theirs.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(theirs.getByRole('heading', { name: /As they call it/ })).toBeVisible();
  await mine.getByLabel('Description').fill('As I call it');
  const save = mine.getByRole('button', { name: 'Save', exact: true });
  await save.click();
  await expect(mine.getByRole('alert')).toContainText('Somebody else changed this meanwhile');
  await expect(mine.getByRole('alert')).toContainText('They noted this');
  await expect(save).toBeDisabled();
  await mine.getByRole('button', { name: 'Mine: As I call it' }).click();
  await save.click();
  await expect(mine.getByRole('heading', { name: /As I call it/ })).toBeVisible();
  expect(await house.rows(`SELECT description, note FROM item WHERE id = $1`, [item?.id])).toEqual([
    { description: 'As I call it', note: 'They noted this' },
  ]);
});

test('L4 a tab that works at another site leaves the other tab where it is', async ({ browser }) => {
  const here = await house.desk(browser, 'Maren Oake');
  const there = await here.context().newPage();
  await there.goto('/');
  await workAt(there, 'Shop counter');
  await here.goto('/places');
  await expect(here.getByLabel('Site', { exact: true })).toHaveText('Quillfen Yard');
  await there.reload();
  await expect(there.getByLabel('Site', { exact: true })).toHaveText('Shop counter');
  // Who is asked about unsaved work and stays, stays at their site as well.
  await there.goto('/items/new');
  await there.getByLabel('Description').fill('Half written');
  const asked = there.waitForEvent('dialog').then((dialog) => dialog.dismiss());
  await choose(there.getByLabel('Site', { exact: true }), 'Overflow barn');
  await asked;
  await expect(there.getByLabel('Description')).toHaveValue('Half written');
  expect(await there.evaluate(() => sessionStorage.getItem('dockrow.site'))).toBe('3');
  await there.getByLabel('Description').fill('');
  // Where one worked last is where the next tab begins.
  await workAt(there, 'Quillfen Yard');
});

test('D2 a scan into a field that takes a code stays there; an unknown code is tied; what is not saved asks', async ({ browser }) => {
  const office = await house.desk(browser, 'Odile Wrack');
  const [item] = await plainItems(1);
  await office.goto('/items/new');
  await office.getByLabel('Description').fill('Half written');
  await office.getByLabel(/^Barcode of one/).focus();
  await scan(office, '2900000000018');
  await expect(office.getByLabel(/^Barcode of one/)).toHaveValue('2900000000018');
  await expect(office.getByLabel('Description')).toHaveValue('Half written');
  await office.getByRole('link', { name: /Expected/ }).click();
  await office.getByRole('button', { name: 'Stay here' }).click();
  await expect(office.getByLabel('Description')).toHaveValue('Half written');
  await office.getByRole('link', { name: /Expected/ }).click();
  await office.getByRole('button', { name: 'Go on without saving' }).click();
  await expect(office).toHaveURL(/\/expected/);

  await scan(office, '2900000000025');
  const dialog = office.getByRole('dialog');
  await expect(dialog).toContainText('Nothing here is known by 2900000000025');
  await dialog.getByLabel('Item to tie it to').fill(item?.code ?? '');
  await dialog
    .getByRole('button', { name: item?.code ?? '' })
    .first()
    .click();
  await dialog.getByRole('button', { name: `Tie 2900000000025 to ${item?.code}` }).click();
  await expect(dialog).toBeHidden();
  await scan(office, '2900000000025');
  await expect(office).toHaveURL(new RegExp(`/items/${item?.id}`));
});

test('A3 A8 old names in any case, bins of another site, and the offer to make a bin goes with the next scan', async ({ browser }) => {
  const lead = await house.handheld(browser, 'Maren Oake');
  const [bin] = await house.rows<{ id: number; address: string; version: number }>(
    `SELECT id, address, version
     FROM bin
     WHERE site_id = 1 AND use = 'shelf' AND NOT EXISTS (SELECT 1 FROM balance b WHERE b.bin_id = bin.id)
     ORDER BY walk
     LIMIT 1`,
  );
  await house.rows(`INSERT INTO bin_name (bin_id, site_id, name) SELECT id, site_id, fold_name('Old Rack 7') FROM bin WHERE id = $1`, [
    bin?.id,
  ]);
  const [goods] = await plainItems(1);
  const [lies] = await house.rows<{ address: string }>(
    `SELECT address FROM stock_fact WHERE item_id = $1 AND site_id = 1 AND use = 'shelf' AND qty > 2 LIMIT 1`,
    [goods?.id],
  );
  const [elsewhere] = await house.rows<{ address: string; name: string }>(
    `SELECT b.address, s.name
     FROM bin b
     JOIN site s ON s.id = b.site_id
     WHERE b.use = 'shelf' AND b.site_id <> 1 AND NOT EXISTS (SELECT 1 FROM bin x WHERE x.site_id = 1 AND x.address = b.address)
     ORDER BY b.id
     LIMIT 1`,
  );
  await lead.goto('/h/move');
  await lead.getByRole('heading', { name: 'Move goods' }).waitFor();
  await scanFor(lead, lies?.address ?? '', `From ${lies?.address}`);
  await scanFor(lead, goods?.barcode ?? '', 'Scan the bin where it goes');
  await scanFor(lead, elsewhere?.address ?? '', `${elsewhere?.address} is a bin of ${elsewhere?.name}`);
  await expect(lead.getByRole('button', { name: 'Make it' })).toBeHidden();
  await scanFor(lead, 'A-01-99', 'Nobody here knows');
  await expect(lead.getByRole('button', { name: 'Make it' })).toBeVisible();
  await scanFor(lead, 'oLD rACK 7', `is in ${bin?.address}`);
  await expect(lead.getByRole('button', { name: 'Make it' })).toBeHidden();
});

test('B7 D4 a price import leads to the labels of each site with one press, and its changes open again', async ({ browser }) => {
  const office = await house.desk(browser, 'Odile Wrack');
  const rows = await house.rows<{ supplier: string; part: string; description: string; barcode: string; cost: string; price: string }>(
    `SELECT s.name AS supplier, r.part_no AS part, r.description, r.barcode, r.cost::text,
       round(amount_on(i.id, 'price', today_at(1)) + 1, 2)::text AS price
     FROM price_row r JOIN supplier s ON s.id = r.supplier_id JOIN item i ON i.id = r.item_id JOIN shelf_label l ON l.item_id = i.id
     WHERE r.supplier_id = (SELECT min(supplier_id) FROM price_row p JOIN shelf_label x ON x.item_id = p.item_id) ORDER BY i.code LIMIT 2`,
  );
  const text = [
    'Part no;Description;EAN;Net;Retail',
    ...rows.map((r) => [r.part, `"${r.description}"`, r.barcode, r.cost, r.price].join(';')),
  ].join('\n');
  const file = path.join(mkdtempSync(path.join(tmpdir(), 'dock-row-')), 'prices.csv');
  writeFileSync(file, text);
  await office.goto('/items/price-lists');
  await office.getByText(rows[0]?.supplier ?? '').click();
  await office.locator('input[type=file]').setInputFiles(file);
  await office.getByRole('button', { name: 'Compare with what is known' }).click();
  await office.getByRole('button', { name: /Import: 0 new, 2 changed articles/ }).click();
  await expect(office.getByText('is done')).toBeVisible();
  const wrong = office.getByRole('region', { name: 'Wrong shelf labels' }).getByRole('listitem').filter({ hasText: 'Shop counter' });
  await wrong.getByRole('button', { name: 'Look' }).click();
  await expect(office.getByLabel('Site', { exact: true })).toHaveText('Shop counter');
  await expect(office.getByRole('button', { name: /Print all \d+ labels/ })).toBeVisible();
  expect(await office.getByRole('grid', { name: 'Wrong labels' }).textContent()).toContain(rows[0]?.price);
  await office.goto('/items/price-lists');
  await office.getByText(rows[0]?.supplier ?? '').click();
  await office
    .getByRole('button', { name: 'prices.csv' })
    .or(office.getByRole('link', { name: 'prices.csv' }))
    .first()
    .click();
  await expect(office.getByText(rows[0]?.part ?? '?', { exact: true }).first()).toBeVisible();
});

test('C5 two hands on one delivery: last scans and undo are one’s own', async ({ browser }) => {
  const [first, second] = await house.rows<{ code: string; barcode: string; order: string }>(
    `SELECT i.code, c.code AS barcode, o.number AS "order"
     FROM purchase_order o
     JOIN purchase_line l ON l.purchase_order_id = o.id
     JOIN item i ON i.id = l.item_id
     JOIN pack p ON p.item_id = i.id AND p.units = 1
     JOIN barcode c ON c.pack_id = p.id
     WHERE o.site_id = 1 AND o.state = 'open' AND i.tracking = 'none'
       AND o.id = (SELECT x.purchase_order_id FROM purchase_line x JOIN item y ON y.id = x.item_id
         JOIN purchase_order z ON z.id = x.purchase_order_id
       WHERE y.tracking = 'none' AND z.state = 'open' AND z.site_id = 1
         AND NOT EXISTS (SELECT 1 FROM delivery_order d WHERE d.purchase_order_id = z.id AND d.open)
       GROUP BY 1
       HAVING count(*) > 1
       LIMIT 1) ORDER BY i.code LIMIT 2`,
  );
  const [tobin, ines] = [await house.handheld(browser, 'Tobin Sallow'), await house.handheld(browser, 'Ines Farrow')];
  for (const hand of [tobin, ines]) {
    await scan(hand, first?.order ?? '');
    await expect(hand.getByRole('heading', { name: `Receive ${first?.order}` })).toBeVisible();
  }
  await scanFor(tobin, first?.barcode ?? '', first?.code ?? '?');
  await scanFor(ines, second?.barcode ?? '', second?.code ?? '?');
  await expect(tobin.getByRole('button', { name: 'Undo' })).toHaveCount(1);
  await tobin.getByRole('button', { name: 'Undo' }).click();
  await expect(tobin.getByRole('status')).toContainText('Taken out again');
  await expect(tobin.getByRole('button', { name: 'Undo' })).toHaveCount(0);
  await expect
    .poll(() =>
      house.rows(
        `SELECT i.code, p.name
         FROM delivery_entry e
         JOIN delivery d ON d.id = e.delivery_id
         JOIN delivery_order x ON x.delivery_id = d.id JOIN purchase_order o ON o.id = x.purchase_order_id
         JOIN item i ON i.id = e.item_id
         JOIN person p ON p.id = e.person_id
         WHERE o.number = $1 AND d.state = 'scanning' AND e.taken_out_at IS NULL`,
        [first?.order],
      ),
    )
    .toEqual([{ code: second?.code, name: 'Ines Farrow' }]);
});

test('B13 what is saved as CSV is everything that the filter means, not what happened to be loaded', async ({ browser }) => {
  const office = await house.desk(browser, 'Odile Wrack');
  const [{ n } = { n: 0 }] = await house.rows<{ n: number }>(`SELECT count(*)::int AS n FROM item WHERE retired_at IS NULL`);
  await office.goto('/items');
  await expect(office.getByText(/\d+ rows? so far/)).toBeVisible();
  const [download] = await Promise.all([office.waitForEvent('download'), office.getByRole('button', { name: 'Save as CSV' }).click()]);
  const lines = readFileSync(await download.path(), 'utf8')
    .trim()
    .split('\n');
  expect(lines).toHaveLength(n + 1);
  await expect(office.getByText(`${n.toLocaleString('en-GB')} rows`).last()).toBeVisible();
});

test('H1 a number of parcels belongs to the order it was keyed for; what is short is packed as what is here', async ({ browser }) => {
  const lead = await house.desk(browser, 'Maren Oake');
  const [item] = await plainItems(1);
  const [customer] = await house.rows<{ id: number; today: string }>(
    `SELECT id, to_char(now_here(), 'YYYY-MM-DD') AS today FROM customer ORDER BY id LIMIT 1`,
  );
  const free = await house.rows<{ free: number }>(
    `SELECT (sum(f.qty) - coalesce((SELECT sum(p.qty) FROM promise p WHERE p.item_id = f.item_id AND p.site_id = 1), 0))::int AS free
     FROM stock_fact f WHERE f.item_id = $1 AND f.site_id = 1 AND f.promisable GROUP BY f.item_id`,
    [item?.id],
  );
  const post = async <Reply>(path: string, data: object): Promise<Reply> => {
    const answer = await lead.request.post(path, { headers: { 'Idempotency-Key': crypto.randomUUID() }, data });
    if (!answer.ok()) throw new Error(await answer.text());
    return (await answer.json()) as Reply;
  };
  const atBench = async (qty: number): Promise<{ id: number; number: string }> => {
    const lines = [{ item: item?.id, qty: String(qty) }];
    const order = await post<{ id: number; number: string }>('/api/orders', { customer: customer?.id, due: customer?.today, lines });
    await post('/api/orders/promise', { orders: [order.id], mode: 'free' });
    const round = await post<{ id: number }>('/api/rounds', { orders: [order.id] });
    const { stopList } = (await (await lead.request.get(`/api/rounds/${round.id}`)).json()) as {
      stopList: { address: string; picks: { id: number; code: string; qty: string }[] }[];
    };
    for (const { address: bin, picks } of stopList)
      for (const { id, code, qty: wanted } of picks) await post(`/api/rounds/${round.id}/picks/${id}`, { bin, code, qty: wanted });
    await post(`/api/rounds/${round.id}/put-down`, { bin: 'BENCH-1' });
    return order;
  };
  const whole = await atBench(1);
  const most = (free[0]?.free ?? 0) - 1;
  const short = await atBench(most + 3);

  await lead.goto(`/bench/${whole.id}`);
  await lead.getByLabel('Parcels').fill('7');
  await lead.getByRole('button', { name: new RegExp(short.number) }).click();
  await expect(lead.getByRole('heading', { name: short.number })).toBeVisible();
  await expect(lead.getByLabel('Parcels')).toHaveValue('1');
  await expect(lead.getByText(`short: ${most + 3} ordered`)).toBeVisible();
  await lead.getByLabel('Parcels').fill('0');
  const packShort = lead.getByRole('button', { name: `Pack what is here: ${most} pieces; the rest stays open` });
  await expect(packShort).toBeDisabled();
  await lead.getByLabel('Parcels').fill('2');
  await packShort.click();
  await expect(lead.getByRole('button', { name: `Ship ${short.number}` })).toBeVisible();
  await lead.getByRole('button', { name: new RegExp(whole.number) }).click();
  await expect(lead.getByRole('button', { name: 'It is all there: packed' })).toBeVisible();
  await expect(lead.getByLabel('Parcels')).not.toHaveValue('2');
  await expect.poll(() => house.rows(`SELECT parcels FROM customer_order WHERE id = $1`, [short.id])).toEqual([{ parcels: 2 }]);
});

test('L4 a lead adds a hand who comes in by badge, and locks them out: every device of theirs is at the door at once', async ({
  browser,
}) => {
  const lead = await house.desk(browser, 'Maren Oake');
  await lead.getByRole('link', { name: 'People', exact: true }).click();
  await lead.getByRole('button', { name: 'Add a person' }).click();
  await lead.getByLabel('Name', { exact: true }).fill('Wren Okoro');
  await lead.getByLabel('Badge', { exact: true }).fill('WREN-1');
  await lead.getByLabel('PIN', { exact: true }).fill('1234');
  await lead.getByRole('button', { name: 'Add Wren Okoro' }).click();
  await expect(lead.getByText('neither one digit throughout nor a run')).toBeVisible();
  await lead.getByLabel('PIN', { exact: true }).fill('4071');
  await lead.getByRole('button', { name: 'Add Wren Okoro' }).click();
  await expect(lead.getByRole('row', { name: /Wren Okoro/ })).toContainText('badge WREN-1');

  const context = await browser.newContext({ viewport: { width: 390, height: 844 }, baseURL: house.address });
  const hand = await context.newPage();
  await hand.goto('/h');
  await hand.getByLabel('Badge').fill('WREN-1');
  await hand.getByLabel('PIN', { exact: true }).fill('4071');
  await hand.getByRole('button', { name: 'Sign in' }).click();
  await expect(hand.getByText('Wren Okoro, ')).toBeVisible();
  const row = lead.getByRole('row', { name: /Wren Okoro/ });
  await lead.reload();
  await expect(row.getByRole('cell').last()).toHaveText('1');
  await row.getByRole('button', { name: 'Wren Okoro' }).click();
  await lead.getByRole('button', { name: /^Lock .+ out$/ }).click();
  await expect(row).toContainText('locked');
  await expect(row.getByRole('cell').last()).toHaveText('0');
  await expect(lead.getByRole('region', { name: 'What happened' })).toContainText('was locked out, by Maren Oake');
  await hand.reload();
  await expect(hand.getByRole('button', { name: 'Sign in' })).toBeVisible();
  await context.close();
  // Nobody locks oneself out.
  await lead
    .getByRole('row', { name: /Maren Oake/ })
    .getByRole('button', { name: 'Maren Oake' })
    .click();
  await lead.getByRole('button', { name: /^Lock .+ out$/ }).click();
  await expect(lead.getByText('Nobody locks oneself out')).toBeVisible();
});

test('L4 a hand at the desk sees no cost, as a column, a figure or a sheet; the office sees them', async ({ browser }) => {
  const looks = async (who: string): Promise<boolean[]> => {
    const page = await house.desk(browser, who);
    const seen: boolean[] = [];
    await page.goto('/stock');
    await page.getByRole('columnheader', { name: 'Quantity' }).waitFor();
    seen.push(
      await page.getByRole('columnheader', { name: 'Value' }).isVisible(),
      await page.getByRole('link', { name: 'as XLSX' }).isVisible(),
    );
    await page.goto('/items');
    await page.getByRole('columnheader', { name: 'Price' }).waitFor();
    await page.getByText('Columns', { exact: true }).click();
    seen.push(
      await page.getByLabel('Cost', { exact: true }).isVisible(),
      await page.getByRole('link', { name: 'all as XLSX' }).isVisible(),
    );
    return seen;
  };
  expect(await looks('Odile Wrack')).toEqual([true, true, true, true]);
  expect(await looks('Jory Penhale')).toEqual([false, false, false, false]);
});

test('L4 a desk with nobody at it closes over what was typed; its author comes back to it, another person does not', async ({
  browser,
}) => {
  const desk = await house.desk(browser, 'Odile Wrack');
  await desk.goto('/orders/new');
  await desk.getByLabel('Search items to order').fill('half a tho');
  const idle = (): Promise<unknown> =>
    house.rows(
      `UPDATE session SET seen = now() - interval '31 minutes' WHERE sess->>'person' = (SELECT id::text FROM person WHERE name = $1)`,
      ['Odile Wrack'],
    );
  // With a dialog open over it, too: the door is in front of everything, and takes the keys.
  await desk.getByRole('heading').first().click();
  await desk.keyboard.press('?');
  await expect(desk.getByRole('dialog').getByRole('heading')).toBeVisible();
  await idle();
  await desk.evaluate(() => window.dispatchEvent(new Event('dockrow:signedOut')));
  await expect(desk.getByRole('dialog').getByRole('heading')).toBeHidden();
  await expect(desk.getByText('Nobody was at this desk for 30 minutes')).toBeVisible();
  await expect(desk.getByLabel('Search items to order')).toBeHidden();
  await expect(desk.getByLabel('Name', { exact: true })).toHaveValue('Odile Wrack');
  await desk.getByLabel('Password').fill('comb-and-frame');
  await desk.getByRole('button', { name: 'Sign in' }).click();
  await expect(desk.getByLabel('Search items to order')).toBeVisible();
  await expect(desk.getByLabel('Search items to order')).toHaveValue('half a tho');
  await idle();
  await desk.evaluate(() => window.dispatchEvent(new Event('dockrow:signedOut')));
  await desk.getByLabel('Name', { exact: true }).fill('Maren Oake');
  await desk.getByLabel('Password').fill('comb-and-frame');
  await desk.getByRole('button', { name: 'Sign in' }).click();
  await expect(desk.getByRole('link', { name: 'People', exact: true })).toBeVisible();
  await expect(desk.getByLabel('Search items to order')).toHaveValue('');

  // The lead sees where everybody is signed in, ends one of them, and sets the limits.
  await house.rows(`DELETE FROM session WHERE sess->>'person' = (SELECT id::text FROM person WHERE name = $1)`, ['Tobin Sallow']);
  const hand = await house.handheld(browser, 'Tobin Sallow');
  await desk.goto('/people');
  await desk.getByRole('button', { name: 'Tobin Sallow' }).click();
  const sessions = desk.getByRole('region', { name: 'Open sessions' });
  await expect(sessions.getByText('Chrome on Linux')).toBeVisible();
  await sessions.getByRole('button', { name: 'End', exact: true }).first().click();
  await expect(sessions.getByText('No device just now.')).toBeVisible();
  await expect(hand.getByRole('button', { name: 'Sign in' })).toBeVisible();
  await desk.getByLabel('A desk with nobody at it closes after, minutes').fill('3');
  const limits = desk.getByRole('form', { name: 'How long a sign-in lasts' });
  await limits.getByRole('button', { name: 'Save' }).click();
  await expect(limits.getByText('must be 5 minutes at least')).toBeVisible();
});

test('L4 a hand changes their own PIN on the handheld', async ({ browser }) => {
  const hand = await house.handheld(browser, 'Ines Farrow');
  await hand.goto('/h/device');
  await hand.getByRole('button', { name: 'Change your PIN' }).click();
  const [ines] = await house.rows<{ badge: string }>(`SELECT badge FROM person WHERE name = $1`, ['Ines Farrow']);
  const fill = async (now: string, next: string, again: string): Promise<void> => {
    await hand.getByLabel('Your PIN now').fill(now);
    await hand.getByLabel('A new PIN, four to eight digits').fill(next);
    await hand.getByLabel('The new PIN again').fill(again);
    await hand.getByRole('button', { name: 'Change it' }).click();
  };
  const pin = DEMO_PEOPLE.find((p) => p.name === 'Ines Farrow')?.pin ?? '';
  await fill(pin, '9021', '9012');
  await expect(hand.getByText('typed in two ways')).toBeVisible();
  await fill(pin, '9021', '9021');
  await expect(hand.getByText('Your PIN is changed')).toBeVisible();
  await hand.context().clearCookies();
  await hand.goto('/h');
  await hand.getByLabel('Badge').fill(ines?.badge ?? '');
  await hand.getByLabel('PIN').fill('9021');
  await hand.getByRole('button', { name: 'Sign in' }).click();
  await expect(hand.getByText('Ines Farrow, ')).toBeVisible();
});
