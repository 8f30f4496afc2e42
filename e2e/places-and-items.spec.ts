import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { expect, test } from '@playwright/test';
import { choose, key, houseForTests, scan, scanFor, workAt } from './house.ts';

const folder = mkdtempSync(path.join(tmpdir(), 'dock-row-'));
const file = (name: string, text: string): string => {
  writeFileSync(path.join(folder, name), text);
  return path.join(folder, name);
};
const house = houseForTests();

test('A1–A12 a warehouse of three zones is built, labelled, imported, planned and found again', async ({ browser }) => {
  const lead = await house.desk(browser, 'Maren Oake');

  await test.step('A1 A2 a new site with its default bins, and three zones', async () => {
    await lead.goto('/places/site');
    const form = lead.locator('form', { hasText: 'A new site' });
    await form.getByLabel('Code').fill('ANNEX');
    await form.getByLabel('Name').fill('Riverside annex');
    await form.getByRole('button', { name: 'Make the site' }).click();
    await expect(lead.getByText('Riverside annex is there')).toBeVisible();
    await workAt(lead, 'Riverside annex');
    await lead.goto('/places/site');
    for (const [code, name, purpose] of [
      ['RACK', 'Racks', 'storage'],
      ['FACE', 'Pick faces', 'pick face'],
      ['CHILL', 'Chiller', 'cold'],
    ] as const) {
      const zone = lead.locator('form', { hasText: 'Name of a new zone' });
      await zone.getByLabel('Code').fill(code);
      await zone.getByLabel('Name of a new zone').fill(name);
      await choose(zone.getByLabel('Purpose'), purpose);
      await zone.getByRole('button', { name: 'Make the zone' }).click();
      await expect(lead.getByRole('listitem').filter({ hasText: code })).toBeVisible();
    }
  });

  await test.step('A3 the builder says how many and which before it makes them, and skips bay 13', async () => {
    await lead.goto('/places/build');
    await choose(lead.getByLabel('Zone', { exact: true }), 'Racks');
    const [aisle, bay] = [lead.getByRole('group', { name: 'Aisle' }), lead.getByRole('group', { name: 'Bay' })];
    await aisle.getByLabel('To').fill('K');
    await bay.getByLabel('To').fill('14');
    await expect(lead.getByTestId('grid-total')).toHaveText('280');
    await bay.getByLabel(/Skip/).fill('13');
    await expect(lead.getByTestId('grid-total')).toHaveText('260');
    await aisle.getByLabel('From').fill('Z');
    await expect(lead.getByRole('alert')).toHaveText('Level 1 cannot run from Z to K.');
    await aisle.getByLabel('From').fill('G');
    await lead.getByRole('button', { name: 'Build 260 bins' }).click();
    await expect(lead.getByText('260 bins are there.')).toBeVisible();
    await lead.goto('/places/build');
    await expect(lead.getByText('96 of these are there already')).toBeVisible();
    await expect(lead.getByRole('button', { name: /Build/ })).toBeDisabled();
  });

  await test.step('A4 a sheet is tried, mended, and imported whole', async () => {
    await lead.goto('/places/import');
    const drop = lead.locator('input[type=file]').first();
    await drop.setInputFiles(file('annex.csv', 'Zone,Address,Alias,Room in kg\nCHILL,X-01,,40\nCHILL,X-02,,lots\nFACE,F-01-1,OLD-7,\n'));
    await expect(lead.getByText('1 of 3 rows is wrong')).toBeVisible();
    await expect(lead.getByRole('row', { name: 'X-02' })).toContainText('“lots” under Room in kg is no number above 0.');
    await lead.getByRole('button', { name: 'Choose another file' }).click();
    await drop.setInputFiles(file('annex.csv', 'Zone,Address,Alias,Room in kg\nCHILL,X-01,,40\nCHILL,X-02,,40\nFACE,F-01-1,OLD-7,\n'));
    await lead.getByRole('button', { name: 'Import: 3 new, 0 changed bins' }).click();
    await expect(lead.getByText('3 new, 0 changed')).toBeVisible();
  });

  await test.step('A12 labels of a zone in walking order, at the printer and as PDF', async () => {
    await lead.goto('/places');
    await lead.getByRole('button', { name: /Racks/ }).click();
    await lead.getByRole('button', { name: 'Label those without' }).click();
    await expect(lead.getByText('260 bin labels sent to Label printer, in walking order.')).toBeVisible();
    await expect
      .poll(async () => (await house.printed()).filter((s) => s.title.startsWith('Bin ')).length, { timeout: 30_000 })
      .toBeGreaterThan(30);
    const order = await house.rows<{ title: string }>(`SELECT title FROM print_job WHERE title LIKE 'Bin %' ORDER BY id`);
    expect([order[0]?.title, order[51]?.title, order[52]?.title]).toEqual(['Bin G-01-1', 'Bin G-14-4', 'Bin H-14-1']);
    await lead.getByRole('button', { name: 'all as PDF' }).click();
    const pdf = await lead.request.get(
      (await lead.getByRole('link', { name: /^Open the PDF with \d+ labels$/ }).getAttribute('href')) ?? '',
    );
    expect((await pdf.body()).subarray(0, 5).toString()).toBe('%PDF-');
  });

  await test.step('A10 the plan: arranged, kept, and a bin found on it by search and by keys', async () => {
    await lead.goto('/places/plan');
    await lead.getByRole('button', { name: 'Arrange the floor' }).click();
    await lead.getByRole('button', { name: '+ Wall' }).click();
    await lead.getByLabel('From the left').fill('9');
    await lead.getByLabel('From the front').fill('2');
    const keep = lead.getByRole('button', { name: 'Save', exact: true });
    await lead.getByLabel('From the front').fill('9');
    await lead.getByLabel('Wide', { exact: true }).fill('8');
    await expect(lead.getByRole('alert')).toContainText('would stand on');
    await expect(keep).toBeDisabled();
    await lead.getByRole('button', { name: 'Undo' }).click();
    await lead.getByRole('button', { name: 'Undo' }).click();
    // A whole zone by keyboard, and back again.
    const piece = lead.getByLabel('Piece');
    await piece.click();
    await lead.getByRole('option').nth(1).click();
    const wide = lead.getByLabel('Floor wide');
    const before = Number(await wide.inputValue());
    await lead.getByRole('application').focus();
    for (let n = 0; n < 40; n += 1) await lead.keyboard.press('ArrowRight');
    await expect.poll(async () => Number(await wide.inputValue())).toBeGreaterThan(before);
    for (let n = 0; n < 40; n += 1) await lead.keyboard.press('Control+z');
    await expect(wide).toHaveValue(String(before));
    await keep.click();
    await expect(lead.getByText('The plan is kept.')).toBeVisible();
    // The key to the colours counts, and lists what it counts.
    const empty = lead.getByRole('button', { name: /^empty/ });
    const counted = Number((await empty.innerText()).replace(/\D/g, ''));
    await empty.click();
    await expect(lead.getByRole('region', { name: 'empty' }).getByRole('heading')).toHaveText(`empty ${counted}`);
    await expect(lead.getByRole('region', { name: 'empty' }).getByRole('listitem')).toHaveCount(Math.min(200, counted));
    await empty.click();
    await lead.getByLabel('Light up bins').fill('H-14');
    await expect(lead.getByText('1 bay', { exact: true })).toBeVisible();
    const floor = lead.getByRole('application');
    await floor.focus();
    await floor.press('ArrowRight');
    await expect(lead.getByText(/m from the bench/)).toBeVisible();
    await floor.press('Enter');
    await expect(lead.getByText('The bin is empty.')).toBeVisible();
  });

  await test.step('A3 A9 found again by its old name; rules, then retired only while empty', async () => {
    await scan(lead, 'OLD-7');
    await expect(lead.getByText('old name OLD-7')).toBeVisible();
    await lead.getByRole('button', { name: 'Change', exact: true }).click();
    await lead.getByLabel('Address', { exact: true }).fill('F-01-2');
    await lead.getByLabel('one item only').check();
    await lead.getByRole('button', { name: 'Save', exact: true }).click();
    await expect(lead.getByText('one item only')).toBeVisible();
    await lead.getByRole('button', { name: 'Change', exact: true }).click();
    await lead.getByRole('button', { name: 'Retire the bin' }).click();
    await expect(lead.getByText('retired', { exact: true })).toBeVisible();
  });
  await workAt(lead, 'Quillfen Yard');
});

test('B6 A6 an item goes from a price list to its shelf on the handheld, with its label; then a second home by scan', async ({
  browser,
}) => {
  const hand = await house.handheld(browser, 'Tobin Sallow');
  const [row] = await house.rows<{ barcode: string; part_no: string; description: string }>(
    `SELECT barcode, part_no, description FROM price_row WHERE item_id IS NULL ORDER BY id LIMIT 1`,
  );
  await scan(hand, row?.barcode ?? '');
  await expect(hand.getByText(row?.description ?? '?')).toBeVisible();
  await key(hand, '7');
  await hand.getByRole('button', { name: 'one for each' }).click();
  await scanFor(hand, 'NO-SUCH-BIN', 'is on no supplier’s list');
  await scan(hand, row?.barcode ?? '');
  await hand.keyboard.press('7', { delay: 110 });
  // Not closed by a button: the next scan saves the number.
  await scanFor(hand, 'A-05-2', `${row?.part_no} is stocked: 7 in A-05-2.`);
  await expect.poll(async () => (await house.printed()).find((s) => s.title === row?.part_no)?.copies, { timeout: 30_000 }).toBe(7);
  expect(
    await house.rows(
      `SELECT f.qty::int AS qty FROM stock_fact f JOIN item i ON i.id = f.item_id WHERE i.code = $1 AND f.address = 'A-05-2'`,
      [row?.part_no],
    ),
  ).toEqual([{ qty: 7 }]);
  await scanFor(hand, row?.barcode ?? '', 'is stocked already');

  await hand.goto('/h/assign');
  await hand.getByRole('heading', { name: 'Home bins' }).waitFor();
  await scanFor(hand, 'A-05-3', 'now its items');
  await scanFor(hand, row?.barcode ?? '', `${row?.part_no} lives in A-05-3.`);
  await scanFor(hand, 'NONSENSE', 'Nothing here is known');
  await hand.getByRole('button', { name: 'Undo' }).click();
  await expect(hand.getByRole('status')).toContainText('no longer lives in A-05-3');
});

test('A7 A8 I2 unplaced stock is worked off on the handheld; the lead overrides a rule, with a reason, and makes a bin on the fly', async ({
  browser,
}) => {
  const [goods] = await house.rows<{ code: string; qty: string; bin: number; address: string }>(
    `SELECT i.code, trim_scale(f.qty)::text AS qty, b.id AS bin, b.address
     FROM stock_fact f
     JOIN item i ON i.id = f.item_id, bin b
     WHERE f.use = 'unplaced' AND f.qty > 3 AND b.site_id = 2 AND b.use = 'shelf'
       AND NOT EXISTS (SELECT 1 FROM balance x WHERE x.bin_id = b.id)
     ORDER BY i.code, b.walk
     LIMIT 1`,
  );
  // Before the device reads that site: what the database is told behind the server's back, no device is told.
  await house.rows(`UPDATE bin SET capacity = 2 WHERE id = $1`, [goods?.bin]);
  const lead = await house.handheld(browser, 'Maren Oake');
  await workAt(lead, 'Overflow barn', 'You work at');
  await lead.goto('/h/unplaced');
  await lead.getByText('9 without a bin').waitFor();
  await scanFor(lead, goods?.code ?? '', /To |No bin has room/);
  await scanFor(lead, goods?.address ?? '', 'has room for 2 more');
  await lead.getByLabel('Put it there all the same, because').fill('Stacked on the floor in front');
  await lead.getByRole('button', { name: 'It lies there all the same' }).click();
  await expect(lead.getByRole('status')).toContainText(`is in ${goods?.address}`);
  await expect
    .poll(() => house.rows(`SELECT reason FROM movement WHERE to_bin = $1 ORDER BY id DESC LIMIT 1`, [goods?.bin]))
    .toEqual([{ reason: 'Put away, rule overridden: Stacked on the floor in front' }]);
  const [other] = await house.rows<{ code: string }>(
    `SELECT i.code FROM stock_fact f JOIN item i ON i.id = f.item_id WHERE f.use = 'unplaced' AND f.qty > 0 ORDER BY i.code DESC LIMIT 1`,
  );
  await scanFor(lead, other?.code ?? '', /To |No bin has room/);
  await scanFor(lead, 'Q-01-1', 'Nobody here knows');
  await lead.getByRole('button', { name: 'Make it' }).click();
  await expect(lead.getByRole('status')).toContainText('is in Q-01-1');
  await lead.goto('/h');
  await workAt(lead, 'Quillfen Yard', 'You work at');
});

test('B7 D4 a price change ends in the right list of labels, and printing them empties it', async ({ browser }) => {
  const office = await house.desk(browser, 'Odile Wrack');
  await workAt(office, 'Shop counter');
  const wrong = async (): Promise<string[]> => {
    await office.goto('/items/shelf-labels');
    await expect(office.getByRole('grid', { name: 'Wrong labels' }).or(office.getByText('Every shelf label is right.'))).toBeVisible();
    return office.getByRole('grid', { name: 'Wrong labels' }).getByRole('row').allTextContents();
  };
  await office.goto('/items/shelf-labels');
  await office.getByRole('button', { name: /Print all \d+ labels/ }).click();
  await expect(office.getByText('Every shelf label is right.')).toBeVisible();

  const shown = await house.rows<{
    supplier: number;
    name: string;
    part: string;
    description: string;
    barcode: string;
    cost: string;
    price: string;
    code: string;
  }>(
    `SELECT r.supplier_id AS supplier, s.name, r.part_no AS part, r.description, r.barcode, r.cost::text,
       round(amount_on(i.id, 'price', current_date) + 1, 2)::text AS price, i.code
     FROM price_row r
     JOIN supplier s ON s.id = r.supplier_id
     JOIN item i ON i.id = r.item_id
     JOIN shelf_label l ON l.item_id = i.id
     WHERE r.supplier_id = (SELECT min(supplier_id) FROM price_row p JOIN shelf_label x ON x.item_id = p.item_id)
     ORDER BY i.code
     LIMIT 3`,
  );
  const list = [
    'Part no;Description;EAN;Net;Retail',
    ...shown.map((r) => [r.part, `"${r.description}"`, r.barcode, r.cost, r.price].join(';')),
  ].join('\n');
  await office.goto('/items/price-lists');
  await office.getByText(shown[0]?.name ?? '').click();
  await office.locator('input[type=file]').setInputFiles(file('new-prices.csv', list));
  await expect(office.getByText('The columns are those of this supplier’s last list.')).toBeVisible();
  await office.getByRole('button', { name: 'Compare with what is known' }).click();
  await expect(office.getByText('is checked; nothing has changed yet')).toBeVisible();
  expect(await wrong()).toEqual([]);
  await office.goBack();
  await office.getByRole('button', { name: /Import: 0 new, 3 changed articles, \d+ gone/ }).click();
  await expect(office.getByText('is done')).toBeVisible();

  const rows = (await wrong()).slice(1);
  expect(rows).toHaveLength(new Set(shown.map((r) => r.code)).size);
  for (const r of shown) expect(rows.find((text) => text.includes(r.code))).toContain(r.price);
  await office.getByRole('button', { name: 'Print all 3 labels' }).click();
  await expect(office.getByText('Every shelf label is right.')).toBeVisible();
  await workAt(office, 'Quillfen Yard');
});

test('B9 B10 B13 a hold is laid and released; each figure opens; stock as it was yesterday', async ({ browser }) => {
  const lead = await house.desk(browser, 'Maren Oake');
  const [goods] = await house.rows<{ item: number; code: string }>(
    `SELECT i.id AS item, i.code
     FROM stock_fact f
     JOIN item i ON i.id = f.item_id
     WHERE f.site_id = 1 AND f.use = 'shelf' AND f.condition = 'sound' AND i.tracking = 'none' AND i.decimals = 0 AND f.qty > 30
       AND NOT EXISTS (SELECT 1 FROM hold_line h WHERE h.item_id = i.id)
     ORDER BY i.code
     LIMIT 1`,
  );
  await lead.goto(`/items/${goods?.item}`);
  const held = lead.getByTestId('figure-held');
  await expect(held).toHaveText('0');
  await lead.getByRole('button', { name: 'Hold', exact: true }).first().click();
  await lead.getByLabel('How many (empty: all)').fill('5');
  await lead.getByLabel('Because').fill('Wrong colour');
  await lead.locator('form').getByRole('button', { name: 'Hold', exact: true }).click();
  await expect(held).toHaveText('5');
  await held.click();
  await expect(lead.getByText('under a hold')).toBeVisible();
  await lead.goto('/holds');
  await lead.getByRole('row', { name: 'Wrong colour' }).click();
  await lead.getByLabel('Release, because').fill('It is the right one');
  await lead.getByRole('button', { name: 'Release the hold' }).click();
  await expect(lead.getByText('5 are free again')).toBeVisible();
  await lead.goto('/stock');
  const now = await lead.getByTestId('stock-value').textContent();
  await lead
    .getByLabel('As it was on (empty: now)', { exact: true })
    .fill(new Date(Date.now() - 40 * 86_400_000).toISOString().slice(0, 10));
  await expect(lead.getByTestId('stock-value')).not.toHaveText(now ?? '');
});
