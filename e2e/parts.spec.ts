import { expect, test, type Page } from '@playwright/test';
import { choose, houseForTests, pick, scan, scanAll, workAt } from './house.ts';

const house = houseForTests();

// As slowly as a hand types: a scanner is faster.
const HAND_MS = 70;
const type = (page: Page, text: string): Promise<void> => page.keyboard.type(text, { delay: HAND_MS });

/** Goes on with the Tab key until what has the focus is called so. */
async function tabTo(page: Page, name: string | RegExp): Promise<void> {
  const names: string[] = [];
  for (let n = 0; n < 90; n += 1) {
    const called = await page.evaluate(() => {
      const at = document.activeElement as HTMLInputElement | null;
      if (!at || at === document.body) return '';
      const labels = at.getAttribute('aria-labelledby')?.split(' ') ?? [];
      const named = labels.map((id) => document.getElementById(id)?.textContent ?? '').join(' ');
      const text =
        at.getAttribute('aria-label') ?? (named || at.labels?.[0]?.querySelector('span')?.textContent || at.labels?.[0]?.textContent);
      return (text || at.textContent || '').trim();
    });
    if (typeof name === 'string' ? called === name : name.test(called)) return;
    names.push(called);
    await page.keyboard.press('Tab');
  }
  throw new Error(`Nothing is called ${String(name)} on the way of the Tab key: ${[...new Set(names)].join(' | ')}`);
}

test('an item, a bin, a person and an order are made by the keyboard alone', async ({ browser }) => {
  const lead = await house.desk(browser, 'Maren Oake');
  const shortcut = async (key: string): Promise<void> => {
    await lead.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
    await lead.keyboard.press(key);
  };

  await test.step('B1 an item', async () => {
    await shortcut('i');
    await expect(lead).toHaveURL(/\/items$/);
    await tabTo(lead, 'New item');
    await lead.keyboard.press('Enter');
    await expect(lead.getByLabel('Code', { exact: true })).toBeFocused();
    await type(lead, 'KEY-1');
    await tabTo(lead, 'Description');
    await type(lead, 'Key ring');
    await tabTo(lead, 'Group');
    await type(lead, 'Tools');
    await tabTo(lead, /^Tracked/);
    await lead.keyboard.press('ArrowDown');
    await expect(lead.getByRole('option', { name: 'by lot', exact: true })).toBeVisible();
    await lead.keyboard.press('ArrowDown');
    await lead.keyboard.press('Enter');
    await expect(lead.getByLabel('Tracked')).toHaveText('by lot');
    await tabTo(lead, 'Make the item');
    await lead.keyboard.press('Enter');
    await expect(lead).toHaveURL(/\/items\/\d+/);
    await expect(lead.getByRole('heading', { name: 'KEY-1' })).toBeVisible();
  });

  await test.step('A2 a bin', async () => {
    await shortcut('p');
    await expect(lead).toHaveURL(/\/places$/);
    await tabTo(lead, /^Zone of the new bin/);
    await lead.keyboard.press('Enter');
    await type(lead, 'Store');
    await lead.keyboard.press('Enter');
    await tabTo(lead, 'Address, such as A-11-1');
    await type(lead, 'a-19-1');
    await lead.keyboard.press('Enter');
    await expect(lead.getByText('The bin is empty.')).toBeVisible();
  });

  await test.step('L4 a person', async () => {
    await tabTo(lead, 'People');
    await lead.keyboard.press('Enter');
    await tabTo(lead, 'Add a person');
    await lead.keyboard.press('Enter');
    await tabTo(lead, 'Name');
    await type(lead, 'Perrin Vale');
    await tabTo(lead, 'Badge');
    await type(lead, 'VALE-1');
    await tabTo(lead, 'PIN');
    await type(lead, '4071');
    await tabTo(lead, 'Add Perrin Vale');
    await lead.keyboard.press('Enter');
    await expect(lead.getByRole('row', { name: /Perrin Vale/ })).toContainText('badge VALE-1');
  });

  await test.step('F1 an order', async () => {
    await shortcut('n');
    await expect(lead.getByLabel('Search items to order')).toBeFocused();
    await type(lead, 'HV-10');
    await expect(lead.getByRole('option').first()).toContainText('HV-10');
    await lead.keyboard.press('Enter');
    await expect(lead.getByLabel('How many', { exact: true })).toBeFocused();
    await type(lead, '2');
    await lead.keyboard.press('Enter');
    await expect(lead.getByLabel('How many HV-10')).toHaveValue('2');
    await tabTo(lead, 'Customer');
    await type(lead, 'Kestrel');
    await expect(lead.getByRole('option').filter({ hasText: 'Kestrelgarth Bees' })).toHaveAttribute('data-focus', '');
    await lead.keyboard.press('Enter');
    await expect(lead.getByLabel('Customer', { exact: true })).toHaveValue('Kestrelgarth Bees');
    await tabTo(lead, 'Save and promise what is free');
    await lead.keyboard.press('Enter');
    await expect(lead).toHaveURL(/\/orders\/\d+$/);
    await expect(lead.getByText('Kestrelgarth Bees')).toBeVisible();
  });
});

test('what the server refuses stands at its field, and what was typed stays', async ({ browser }) => {
  const office = await house.desk(browser, 'Odile Wrack');
  await office.goto('/items/new');
  await office.getByLabel('Code', { exact: true }).fill('HV-10');
  await office.getByLabel('Description').fill('A second one');
  await office.getByLabel('Decimals (0 to 3)').fill('seven');
  await office.getByRole('button', { name: 'Make the item' }).click();
  const said = (label: string) =>
    office
      .getByLabel(label, { exact: true })
      .evaluate((field) => document.getElementById(field.getAttribute('aria-describedby') ?? '')?.textContent ?? '');
  await expect.poll(() => said('Decimals (0 to 3)')).toBe('Must be a number.');
  await expect.poll(() => said('Group')).toBe('Must not be empty.');
  await office.getByLabel('Group', { exact: true }).fill('Hives');
  await office.getByLabel('Decimals (0 to 3)').fill('0');
  await office.getByRole('button', { name: 'Make the item' }).click();
  await expect.poll(() => said('Code')).toBe('Another item already has the code HV-10.');
  await expect(office.getByLabel('Code', { exact: true })).toBeFocused();
  await expect(office.getByLabel('Description')).toHaveValue('A second one');
  await expect(office.getByLabel('Group', { exact: true })).toHaveValue('Hives');
  // Nothing was made, and the same form goes through with another code.
  await office.getByLabel('Code', { exact: true }).fill('HV-10-TWO');
  await office.getByRole('button', { name: 'Make the item' }).click();
  await expect(office).toHaveURL(/\/items\/\d+/);
  expect(await house.rows(`SELECT code FROM item WHERE description = 'A second one'`)).toEqual([{ code: 'HV-10-TWO' }]);
});

test('a field that names something takes a scan; the wrong kind of thing says what it is and leaves what was chosen', async ({
  browser,
}) => {
  const lead = await house.desk(browser, 'Maren Oake');
  // All keys at once: a busy machine that draws a list after each would turn the scanner into a slow typist.
  const scanned = async (code: string): Promise<void> => {
    await expect(lead.locator('input:focus')).toBeVisible();
    await scanAll(lead, [code]);
  };
  const [item] = await house.rows<{ id: number; code: string; barcode: string; bin: number; address: string }>(
    `SELECT i.id, i.code, c.code AS barcode, b.id AS bin, b.address
     FROM item i
     JOIN pack p ON p.item_id = i.id AND p.units = 1
     JOIN barcode c ON c.pack_id = p.id
     JOIN balance x ON x.item_id = i.id
     JOIN bin b ON b.id = x.bin_id AND b.site_id = 1 AND b.use = 'shelf'
     WHERE i.tracking = 'none'
     ORDER BY i.id
     LIMIT 1`,
  );
  const [document] = await house.rows<{ number: string }>(`SELECT number FROM document WHERE kind = 'shipment' ORDER BY id DESC LIMIT 1`);
  if (!item || !document) throw new Error('The demo has no such goods.');
  await lead.goto('/ledger');
  for (const [label, code, shown] of [
    ['Item', item.barcode, item.code],
    ['Bin', item.address.toLowerCase(), item.address],
    ['Document', document.number, document.number],
  ] as const) {
    const field = lead.getByLabel(label, { exact: true });
    await field.click();
    await scanned(code);
    await expect(field).toHaveValue(new RegExp(`^${shown}`));
  }
  expect(new URL(lead.url()).pathname).toBe('/ledger');
  // The wrong kind at each: it says what it is, and keeps what it had.
  const field = lead.getByLabel('Item', { exact: true });
  await field.click();
  await scanned(item.address);
  await expect(lead.getByText(`That is the bin ${item.address}. Here an item is asked.`)).toBeVisible();
  await expect(field).toHaveValue(new RegExp(`^${item.code}`));
  await lead.getByLabel('Bin', { exact: true }).click();
  await scanned(item.barcode);
  await expect(lead.getByText(`That is the item ${item.code}. Here a bin is asked.`)).toBeVisible();
  await lead.getByLabel('Bin', { exact: true }).click();
  await scanned('NO-SUCH-THING-77');
  await expect(lead.getByText('Nothing here is known by “NO-SUCH-THING-77”.')).toBeVisible();
  // The other fields of their kind: a home bin’s item, a kit’s part, the bin of opening stock.
  await lead.goto(`/bins/${item.bin}`);
  await lead.getByLabel('Item', { exact: true }).click();
  await scanned(item.barcode);
  await expect(lead.getByLabel('Item', { exact: true })).toHaveValue(new RegExp(`^${item.code}`));
  await lead.goto(`/items/${item.id}?act=opening`);
  await lead.getByLabel('Bin (or UNPLACED)', { exact: true }).click();
  await scanned(item.address);
  await expect(lead.getByLabel('Bin (or UNPLACED)', { exact: true })).toHaveValue(item.address);
  await lead.getByLabel('Part', { exact: true }).click();
  await scanned(item.barcode);
  await expect(lead.getByLabel('Part', { exact: true })).toHaveValue(new RegExp(`^${item.code}`));
});

test('filters and drafts are there after back, after a reload, and in a second tab', async ({ browser }) => {
  const lead = await house.desk(browser, 'Maren Oake');
  await lead.goto('/ledger');
  await pick(lead.getByLabel('Item', { exact: true }), 'HV-10');
  await lead.getByLabel('Reason', { exact: true }).fill('put');
  await lead.getByLabel('From', { exact: true }).fill('1.1.2026');
  await lead.getByLabel('From', { exact: true }).press('Tab');
  const isKept = async (page: Page): Promise<void> => {
    await expect(page.getByLabel('Item', { exact: true })).toHaveValue(/^HV-10/);
    await expect(page.getByLabel('Reason', { exact: true })).toHaveValue('put');
    await expect(page.getByLabel('From', { exact: true })).toHaveValue('1 Jan 2026');
  };
  await isKept(lead);
  await lead.reload();
  await isKept(lead);
  await lead.getByRole('row').nth(1).getByRole('link').first().click();
  await expect(lead.getByLabel('Reason', { exact: true })).not.toHaveValue('put');
  await lead.goBack();
  await isKept(lead);
  const second = await lead.context().newPage();
  await second.goto(lead.url());
  await isKept(second);

  await lead.goto('/orders/new');
  await lead.getByLabel('Search items to order').fill('HV-10');
  // What is found is there a moment later; until then the list is that of before.
  await expect(lead.getByRole('option').first()).toContainText('HV-10');
  await lead.getByRole('option').first().click();
  await lead.getByLabel('How many', { exact: true }).fill('7');
  await lead.getByLabel('How many', { exact: true }).press('Enter');
  await pick(lead.getByLabel('Customer', { exact: true }), 'Kestrelgarth Bees');
  await second.goto('/orders/new');
  for (const page of [lead, second]) {
    await page.reload();
    await expect(page.getByLabel('How many HV-10')).toHaveValue('7');
    await expect(page.getByLabel('Customer', { exact: true })).toHaveValue('Kestrelgarth Bees');
  }
});

test('a code that stands for several things is asked about, and each of them is one press away', async ({ browser }) => {
  const lead = await house.desk(browser, 'Maren Oake');
  const [lot] = await house.rows<{ code: string; item: string; id: number }>(
    `SELECT l.code, i.code AS item, i.id FROM lot l JOIN item i ON i.id = l.item_id WHERE l.code ~ '^L\\d+$' ORDER BY l.id LIMIT 1`,
  );
  await house.rows(`UPDATE customer_order SET number = '${lot?.code}' WHERE id = (SELECT max(id) FROM customer_order WHERE site_id = 1)`);
  await lead.goto('/');
  await lead.getByText('On the floor').first().waitFor();
  await scan(lead, lot?.code ?? '');
  await expect(lead.getByText('This code stands for several things. Which is meant?')).toBeVisible();
  await expect(lead.getByRole('link', { name: `order ${lot?.code}` })).toBeVisible();
  await lead.getByRole('link', { name: `lot ${lot?.code} of ${lot?.item}` }).click();
  await expect(lead).toHaveURL(`/lots?q=${lot?.code}`);
  await expect(
    lead
      .getByRole('row')
      .filter({ hasText: lot?.item ?? '' })
      .first(),
  ).toBeVisible();
  await expect(lead.getByText('This code stands for several things. Which is meant?')).toBeHidden();
});

test('a title orders the whole list, not what is loaded of it; the order stays with the address', async ({ browser }) => {
  const lead = await house.desk(browser, 'Maren Oake');
  const [most] = await house.rows<{ code: string }>(
    `SELECT i.code FROM stock_fact f JOIN item i ON i.id = f.item_id WHERE f.site_id = 1 GROUP BY i.id ORDER BY sum(f.qty) DESC LIMIT 1`,
  );
  const first = lead.getByRole('grid', { name: 'Items' }).getByRole('row').nth(1);
  await lead.goto('/items?items-without=');
  await expect(lead.getByText('rows so far')).toBeVisible();
  await lead.getByRole('columnheader', { name: 'On hand' }).click();
  await expect(first).toContainText(most?.code ?? '');
  await expect(lead.getByRole('columnheader', { name: 'On hand' })).toHaveAttribute('aria-sort', 'descending');
  await lead.reload();
  await expect(first).toContainText(most?.code ?? '');
  // A column that the server does not know is no title to press while a part is loaded.
  await expect(lead.getByRole('columnheader', { name: 'Hazard' })).toBeDisabled();
  await lead.getByLabel('Search items').fill('jar');
  await expect(lead.getByText('rows so far')).toBeHidden();
  const amounts = await lead.getByRole('grid', { name: 'Items' }).evaluate((grid) => {
    const at = [...grid.querySelectorAll('[role=columnheader]')].findIndex((h) => (h.textContent ?? '').startsWith('On hand'));
    const rows = [...grid.querySelectorAll('[role=row]')].slice(1);
    return rows.map((row) => Number(row.querySelectorAll('[role=gridcell]')[at]?.textContent));
  });
  expect(amounts.length).toBeGreaterThan(4);
  expect(amounts).toEqual([...amounts].sort((a, b) => b - a));
  await expect(lead.getByRole('columnheader', { name: 'On hand' })).toHaveAttribute('aria-sort', 'descending');
  await expect(lead.getByRole('columnheader', { name: 'Hazard' })).toBeEnabled();
});

test('what leads to a page is a link: it opens beside, and the page where one was stays', async ({ browser }) => {
  const lead = await house.desk(browser, 'Maren Oake');
  const links = [
    ['/', 'Ledger', /\/ledger$/],
    ['/orders', 'New order', /\/orders\/new$/],
    ['/items', 'New item', /\/items\/new$/],
    ['/rounds', /^RD-\d+/, /\/rounds\/\d+$/],
    ['/counts', /^CT-\d+/, /\/counts\/\d+$/],
    ['/', /Ordered/, /\/orders/],
  ] as const;
  for (const [from, name, to] of links) {
    await lead.goto(from);
    const link = lead.getByRole('link', { name }).first();
    await expect(link).toBeVisible();
    const [beside] = await Promise.all([lead.context().waitForEvent('page'), link.click({ button: 'middle' })]);
    await expect(beside).toHaveURL(to);
    await expect(beside.getByRole('main')).toBeVisible();
    expect(new URL(lead.url()).pathname).toBe(from);
    await beside.close();
  }
});

test('prices are told in the currency of the house, which a lead chooses', async ({ browser }) => {
  const lead = await house.desk(browser, 'Maren Oake');
  await lead.goto('/items?q=HV-10');
  await expect(lead.getByRole('gridcell', { name: /^€\d/ }).first()).toBeVisible();
  await lead.goto('/items/price-lists');
  await Promise.all([lead.waitForEvent('load'), choose(lead.getByLabel('Prices and costs are in'), 'GBP, British Pound')]);
  await lead.goto('/items?q=HV-10');
  await expect(lead.getByRole('gridcell', { name: /^£\d/ }).first()).toBeVisible();
});

test('the commonest jobs of the desk take as few acts as they can', async ({ browser }) => {
  const lead = await house.desk(browser, 'Maren Oake');
  const counted = new Map<string, number>();
  // An act is a scan, or one press.
  const job = async (name: string, acts: readonly (() => Promise<unknown>)[], shows: () => Promise<unknown>): Promise<void> => {
    for (const act of acts) await act();
    await shows();
    counted.set(name, acts.length);
  };
  const [item] = await house.rows<{ code: string; barcode: string }>(
    `SELECT i.code, c.code AS barcode FROM item i JOIN pack p ON p.item_id = i.id AND p.units = 1 JOIN barcode c ON c.pack_id = p.id
     JOIN balance x ON x.item_id = i.id JOIN bin b ON b.id = x.bin_id AND b.site_id = 1 AND b.use = 'shelf'
       WHERE i.tracking = 'none' ORDER BY i.id LIMIT 1`,
  );
  await lead.goto('/');
  await lead.getByText('On the floor').first().waitFor();
  await job('find an item’s stock', [() => scan(lead, item?.barcode ?? '')], () => lead.getByTestId('figure-onHand').waitFor());
  await job('open what a number is made of', [() => lead.getByTestId('figure-onHand').click()], () =>
    expect(
      lead
        .getByRole('link', { name: /^[A-Z]-/ })
        .or(lead.getByRole('img', { name: /^[A-Z]-/ }))
        .first(),
    ).toBeVisible(),
  );

  // A clean delivery, as hands leave it.
  await house.rows(
    `UPDATE delivery SET state = 'thrown' WHERE site_id = 1 AND state = 'review' AND id <> (SELECT min(id) FROM delivery
      WHERE site_id = 1 AND state = 'review')`,
  );
  await lead.goto('/');
  await job(
    'post a clean delivery',
    [
      () => lead.getByRole('link', { name: 'Review', exact: true }).first().click(),
      () => lead.getByRole('button', { name: /^Post \d+ entr/ }).click(),
    ],
    () => expect(lead.getByText('Posted. The goods are in stock')).toBeVisible(),
  );

  await lead.goto('/');
  const held = lead.getByRole('region', { name: 'Held orders' });
  const before = await held.getByRole('listitem').count();
  await job('release a held order', [() => held.getByRole('button', { name: 'Release' }).first().click()], async () => {
    if (before > 1) await expect(held.getByRole('listitem')).toHaveCount(before - 1);
    else await expect(held).toBeHidden();
  });
  // Prices are looked at in the shop.
  await workAt(lead, 'Shop counter');
  await lead.getByTestId('home-wrongLabels').waitFor();
  await job(
    'print what is wrongly labelled',
    [
      () =>
        lead
          .getByRole('button', { name: /^Print (it|\d+)$/ })
          .first()
          .click(),
    ],
    () => expect(lead.getByTestId('home-wrongLabels')).toBeHidden(),
  );
  const said = Object.fromEntries(counted);
  test.info().annotations.push({ type: 'acts', description: JSON.stringify(said) });
  process.stdout.write(
    `${Object.entries(said)
      .map(([name, acts]) => `      ${acts}  ${name}`)
      .join('\n')}\n`,
  );
  expect(said).toEqual({
    'find an item’s stock': 1,
    'open what a number is made of': 1,
    'post a clean delivery': 2,
    'release a held order': 1,
    'print what is wrongly labelled': 1,
  });
});
