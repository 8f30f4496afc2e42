import { expect, test } from '@playwright/test';
import sharp from 'sharp';
import { choose, houseForTests, key, pick, scan, scanFor } from './house.ts';

const house = houseForTests();

type Goods = { id: number; code: string; barcode: string; supplier: number };
/** The goods of a supplier that are tracked in each of these ways, as its price list has them. */
async function goodsOf(trackings: readonly string[]): Promise<{ supplier: { id: number; name: string }; goods: Goods[] }> {
  const [supplier] = await house.rows<{ id: number; name: string }>(
    `SELECT s.id, s.name
     FROM supplier s
     JOIN item_supplier x ON x.supplier_id = s.id
     JOIN item i ON i.id = x.item_id
     WHERE i.tracking = ANY($1) AND i.decimals = 0
     GROUP BY s.id
     ORDER BY count(DISTINCT i.tracking) DESC, s.id
     LIMIT 1`,
    [trackings],
  );
  const goods = [];
  for (const tracking of trackings) {
    const [item] = await house.rows<Goods>(
      `SELECT i.id, i.code, first_barcode(i.id) AS barcode, $2::int AS supplier
       FROM item i
       WHERE i.tracking = $1 AND i.decimals = 0 AND i.retired_at IS NULL
       ORDER BY NOT EXISTS (SELECT 1 FROM item_supplier x WHERE x.item_id = i.id AND x.supplier_id = $2), i.code
       LIMIT 1`,
      [tracking, supplier?.id],
    );
    if (!item) throw new Error(`The demo has nothing that is tracked by ${tracking}.`);
    goods.push(item);
  }
  return { supplier: supplier ?? { id: 0, name: '' }, goods };
}

test('B11 C1 C8 C9: two orders are made and approved at the desk, and received as one delivery without a connection', async ({
  browser,
}) => {
  const { supplier, goods } = await goodsOf(['none', 'lotExpiry', 'serial']);
  const [plain, dated, serial] = goods as [Goods, Goods, Goods];
  const office = await house.desk(browser, 'Odile Wrack');
  const numbers: string[] = [];
  for (const items of [[plain], [dated, serial]]) {
    await office.goto('/purchasing/new');
    await pick(office.getByLabel('Supplier', { exact: true }), supplier.name);
    for (const item of items) {
      await scan(office, item.barcode);
      await expect(office.getByLabel(`How many ${item.code}`)).toHaveValue(/^\d+$/);
      await office.getByLabel(`How many ${item.code}`).fill('0');
      await expect(office.getByText('It must be more than 0.')).toBeVisible();
      await office.getByLabel(`How many ${item.code}`).fill('4');
    }
    await office.getByRole('button', { name: 'Save as a draft' }).dblclick();
    await expect(office.getByText('What became of it')).toBeVisible();
    const number = (await office.getByRole('heading', { level: 2 }).locator('.code').textContent()) ?? '';
    numbers.push(number);
    await office.getByRole('button', { name: 'Approve' }).click();
    await expect(office.getByText('approved, not sent')).toBeVisible();
    await office.getByRole('button', { name: 'It is sent' }).click();
    await expect(office.getByText('sent', { exact: true }).first()).toBeVisible();
  }
  expect(new Set(numbers).size).toBe(2);

  const hand = await house.packed(browser, 'Tobin Sallow');
  await expect(hand.getByRole('link', { name: 'New delivery' })).toBeVisible();
  await hand.context().setOffline(true);
  await hand.getByRole('link', { name: 'New delivery' }).click();
  await scanFor(hand, plain.barcode, 'or choose the supplier');
  for (const number of numbers) await scanFor(hand, number, supplier.name);
  await hand.getByRole('button', { name: 'Begin with 2 orders' }).dblclick();
  await expect(hand.getByRole('heading', { name: `Receive ${numbers.join(', ')}` })).toBeVisible();

  // Without a barcode, by the words of its name.
  await hand.getByText('No barcode? Look it up').click();
  await hand.getByLabel('Words of its name').fill(plain.code);
  await hand.getByRole('button', { name: plain.code }).first().click();
  await expect(hand.getByRole('status')).toContainText(`${plain.code}: 1 of 4`);
  await key(hand, '5');
  await expect(hand.getByRole('status')).toContainText('more than expected');

  // A number is the lot that is asked for, and not how many the last scan was.
  await scanFor(hand, dated.barcode, 'Scan or key the lot');
  await key(hand, '4471');
  await expect(hand.getByRole('status')).toContainText('Key the date it expires');
  await expect(hand.getByText('Reckoned from today.')).toBeVisible();
  await hand.getByRole('group', { name: 'By how long it keeps' }).getByRole('button').first().click();
  await expect(hand.getByRole('status')).toContainText(`${dated.code}: 1 of 4, lot 4471`);
  await key(hand, '4');

  await scanFor(hand, serial.barcode, 'Scan the serial');
  await hand.getByRole('button', { name: 'A range' }).click();
  await hand.getByLabel('Begins with').fill('QF-');
  await hand.getByLabel('First number').fill('0098');
  await hand.getByLabel('How many').fill('4');
  await expect(hand.getByText('QF-0098, QF-0099 … QF-0101')).toBeVisible();
  await hand.getByRole('button', { name: 'Enter 4' }).click();
  await expect(hand.getByRole('status')).toContainText(`${serial.code}: 4 of 4`);
  await hand.getByRole('button', { name: 'Enter 4' }).click();
  await expect(hand.getByRole('status')).toContainText('Nothing was entered. These serials');

  await hand.getByText('The supplier’s paper').click();
  await hand.getByLabel('Number of the invoice or delivery note').fill('INV 4410');
  await hand.getByRole('button', { name: 'Keep it' }).click();
  await expect(hand.getByRole('status')).toContainText('INV 4410');
  await hand.reload();
  await expect(hand.getByText('Paper INV 4410')).toBeVisible();
  // An entry that is not the last is changed by itself.
  await hand.getByText(/entries of mine/).click();
  await hand
    .locator('li', { hasText: `5 ${plain.code}` })
    .getByRole('button', { name: 'Change' })
    .click();
  await key(hand, '3');
  await expect(hand.getByRole('status')).toContainText(`${plain.code}: 3 of 4`);
  await hand.getByRole('button', { name: 'All scanned' }).click();
  await hand.context().setOffline(false);
  await expect(hand.getByTestId('waiting')).toBeHidden({ timeout: 40_000 });

  const lead = await house.desk(browser, 'Maren Oake');
  await lead.goto('/deliveries?show=review');
  await lead.getByRole('row', { name: new RegExp(numbers.join(', ')) }).dblclick();
  await expect(lead.getByText('1 of 3 lines differ.')).toBeVisible();
  await expect(lead.getByLabel('Supplier’s invoice or note')).toHaveValue('INV 4410');
  await lead.getByRole('button', { name: 'Post 6 entries to stock' }).click();
  await expect(lead.getByText('Posted. The goods are in stock')).toBeVisible();
  const states = await house.rows(`SELECT number, state FROM purchase_order WHERE number = ANY($1) ORDER BY number`, [numbers]);
  expect(states).toEqual([
    { number: numbers[0], state: 'open' },
    { number: numbers[1], state: 'closed' },
  ]);
  // One line was another pallet’s: it is taken back, and is expected again.
  const entry = lead.getByRole('listitem').filter({ hasText: plain.code });
  await entry.getByRole('button', { name: 'Reverse' }).click();
  await lead.getByLabel(`Why is ${plain.code} reversed?`).fill('It was for the barn');
  await entry.getByRole('button', { name: 'Reverse', exact: true }).click();
  await expect(entry.getByText('It was for the barn')).toBeVisible();
  await expect(lead.getByText(/2 of 3 lines differ|waiting/).first()).toBeVisible();
  expect(await house.rows(`SELECT sum(open)::int AS open FROM expected_line WHERE number = ANY($1)`, [numbers])).toEqual([{ open: 4 }]);
  await office.goto(`/purchasing?q=${numbers[0]}`);
  await expect(office.getByRole('row').filter({ hasText: numbers[0] ?? '' })).toContainText('sent');
});

test('C1 goods come without an order: nobody knows from whom, and the lead says it at the review', async ({ browser }) => {
  const { supplier, goods } = await goodsOf(['none']);
  const [plain] = goods as [Goods];
  const hand = await house.handheld(browser, 'Tobin Sallow');
  await hand.getByRole('link', { name: 'New delivery' }).click();
  await hand.getByRole('button', { name: 'Nobody knows from whom' }).click();
  await expect(hand.getByRole('heading', { name: 'Receive new delivery' })).toBeVisible();
  await scanFor(hand, plain.barcode, `${plain.code}: 1`);
  await hand.getByRole('button', { name: 'All scanned' }).click();
  await expect(hand.getByTestId('waiting')).toBeHidden();
  const lead = await house.desk(browser, 'Maren Oake');
  await lead.goto('/deliveries?show=review');
  await lead.getByRole('row', { name: /not said yet/ }).dblclick();
  await lead.getByLabel('From which supplier?', { exact: true }).fill(supplier.name);
  await lead.getByRole('option', { name: supplier.name }).click();
  await expect(lead.getByRole('heading', { name: supplier.name })).toBeVisible();
  await lead.getByRole('button', { name: 'Post 1 entry to stock' }).click();
  await expect(lead.getByText('Posted. The goods are in stock')).toBeVisible();
});

test('B11 what to buy becomes drafts, one for each supplier, and is proposed no more', async ({ browser }) => {
  const office = await house.desk(browser, 'Odile Wrack');
  await office.goto('/purchasing/reorder');
  const row = office.getByRole('row').filter({ hasText: 'below the least' }).first();
  const code = (await row.locator('.code').first().textContent()) ?? '';
  await row.dblclick();
  const panel = office.getByRole('complementary', { name: 'Detail' });
  await expect(panel.getByRole('table', { name: 'What there should be' })).toContainText('the least');
  await panel.getByLabel(/^Most/).fill('0');
  await panel.getByRole('button', { name: 'Save' }).click();
  await expect(panel.getByRole('alert')).toContainText(code);
  await panel.getByRole('button', { name: 'Close' }).click();
  await row.getByRole('checkbox').check();
  await office.getByRole('button', { name: 'Make drafts of 1' }).click();
  await expect(office.getByText('draft', { exact: true }).first()).toBeVisible();
  await expect(office.getByRole('link', { name: new RegExp(code) })).toBeVisible();
  await office.goto('/purchasing/reorder');
  await expect(office.getByRole('row').filter({ hasText: code })).toHaveCount(0);
  await office.goto('/purchasing');
  await choose(office.getByLabel('State', { exact: true }), 'draft');
  await expect(office.getByRole('row').filter({ hasText: 'draft' }).first()).toBeVisible();
});

/** A photo of 1200 × 900, as a phone takes it. */
const photo = async (): Promise<Buffer> =>
  sharp({ create: { width: 1200, height: 900, channels: 3, background: '#7a4b12' } })
    .jpeg()
    .toBuffer();

test('C11 C19: what left comes back without a connection, is looked at and photographed; what failed lies in quarantine', async ({
  browser,
}) => {
  const [sent] = await house.rows<{ number: string; code: string; barcode: string; item: number; qty: number }>(
    `SELECT s.number, i.code, first_barcode(i.id) AS barcode, i.id AS item, l.qty::int AS qty
     FROM shipment s
     JOIN customer_order o ON o.id = s.order_id AND o.site_id = 1
     JOIN shipped_line l ON l.shipment_id = s.id AND l.qty > 4
     JOIN item i ON i.id = l.item_id AND i.tracking = 'none' AND i.decimals = 0
     ORDER BY s.id DESC
     LIMIT 1`,
  );
  const [other] = await house.rows<{ code: string; barcode: string }>(
    `SELECT i.code, first_barcode(i.id) AS barcode
     FROM item i
     WHERE i.tracking = 'none' AND first_barcode(i.id) IS NOT NULL
       AND i.id NOT IN (SELECT item_id FROM shipped_line l JOIN shipment s ON s.id = l.shipment_id WHERE s.number = $1)
     ORDER BY i.id
     LIMIT 1`,
    [sent?.number],
  );
  if (!sent || !other) throw new Error('The demo has shipped nothing.');
  const hand = await house.packed(browser, 'Tobin Sallow');
  await hand.context().setOffline(true);
  await scan(hand, sent.number);
  await expect(hand.getByRole('heading', { name: `Take back ${sent.number}` })).toBeVisible();
  await scanFor(hand, other.barcode, 'did not leave with this shipment');
  await hand.getByRole('button', { name: 'Not this one' }).click();
  await scanFor(hand, sent.barcode, `${sent.code}: 1 of ${sent.qty}`);
  await key(hand, '4');
  await expect(hand.getByRole('status')).toContainText(`${sent.code}: 4 of ${sent.qty}`);

  await hand.getByRole('button', { name: 'Inspect these' }).click();
  await hand.getByRole('button', { name: 'damaged' }).click();
  await hand.getByRole('button', { name: 'dirty' }).click();
  await key(hand, '9');
  await expect(hand.getByRole('status')).toContainText('cannot have failed of 4');
  await key(hand, '2');
  await expect(hand.getByRole('status')).toContainText('3 of 4 failed');
  await hand
    .getByLabel('Picture of the goods')
    .setInputFiles({ name: 'no.jpg', mimeType: 'image/jpeg', buffer: Buffer.from('no picture') });
  await expect(hand.getByText('no.jpg is not a picture that can be opened here.')).toBeVisible();
  await hand.getByLabel('Picture of the goods').setInputFiles({ name: 'came.jpg', mimeType: 'image/jpeg', buffer: await photo() });
  await expect(hand.getByRole('button', { name: 'Take another picture (1 kept)' })).toBeVisible();
  // A reload in the middle leaves the finding where it was.
  await hand.reload();
  await expect(hand.getByRole('button', { name: 'Keep: 3 failed' })).toBeVisible();
  await hand.getByRole('button', { name: 'Keep: 3 failed' }).click();
  await expect(hand.getByText('3 of 4 failed: to quarantine').first()).toBeVisible();
  await hand.getByRole('button', { name: 'All scanned' }).click();
  await hand.context().setOffline(false);
  await expect(hand.getByTestId('waiting')).toBeHidden({ timeout: 40_000 });

  const lead = await house.desk(browser, 'Maren Oake');
  await lead.goto('/deliveries?show=review');
  await lead.getByRole('row', { name: new RegExp(sent.number) }).dblclick();
  await expect(lead.getByText(`All of it left with ${sent.number}.`)).toBeVisible();
  await expect(lead.getByText('failed: 1 damaged, 2 dirty')).toBeVisible();
  await expect(lead.getByRole('img', { name: 'Picture 1 of the goods' })).toBeVisible();
  const before = await house.rows<{ qty: number }>(`SELECT coalesce(sum(qty), 0)::int AS qty FROM stock_fact WHERE item_id = $1`, [
    sent.item,
  ]);
  await lead.getByRole('button', { name: 'Post 1 entry to stock' }).dblclick();
  await expect(lead.getByText('3 that failed are in quarantine')).toBeVisible();
  const lying = await house.rows<{ address: string; condition: string; qty: number }>(
    `SELECT address, condition, qty::int AS qty FROM stock_fact WHERE item_id = $1 AND use IN ('arrivals', 'quarantine') ORDER BY address`,
    [sent.item],
  );
  expect(lying).toContainEqual({ address: 'ARRIVALS', condition: 'sound', qty: 1 });
  expect(lying.find((l) => l.address === 'QUARANTINE')).toMatchObject({ condition: 'failed' });
  const after = await house.rows<{ qty: number }>(`SELECT sum(qty)::int AS qty FROM stock_fact WHERE item_id = $1`, [sent.item]);
  expect((after[0]?.qty ?? 0) - (before[0]?.qty ?? 0)).toBe(4);

  // The lead looks again: one of them was sound after all.
  const entry = lead.getByRole('listitem').filter({ hasText: sent.code });
  await entry.getByRole('button', { name: 'Inspect' }).click();
  await entry.getByLabel('dirty').fill('1');
  await entry.getByRole('button', { name: 'Failed: to quarantine' }).click();
  await expect(lead.getByText('failed: 1 damaged, 1 dirty')).toBeVisible();
  await lead.goto('/deliveries/failures');
  await expect(lead.getByRole('img', { name: 'How many failed, by supplier and reason' })).toContainText('brought back');
  await expect(lead.getByRole('row').filter({ hasText: sent.code }).first()).toBeVisible();
});

test('C3 C9 C10 acts are counted: a scan each, or a scan and a number; a labelled case is one scan, a bin one more', async ({
  browser,
}) => {
  const { goods } = await goodsOf(['none']);
  const [plain] = goods as [Goods];
  const [dated] = await house.rows<{ code: string; gtin: string; units: number }>(
    `SELECT i.code, c.code AS gtin, p.units::int AS units
     FROM item i
     JOIN pack p ON p.item_id = i.id AND p.units > 1
     JOIN barcode c ON c.pack_id = p.id AND c.code ~ '^\\d{14}$'
     WHERE i.tracking = 'lotExpiry'
     ORDER BY i.code
     LIMIT 1`,
  );
  const [bin] = await house.rows<{ address: string }>(
    `SELECT b.address
     FROM bin b
     JOIN zone z ON z.id = b.zone_id AND z.pickable AND z.promisable
     WHERE b.site_id = 1 AND b.use = 'shelf' AND b.storage_class IS NULL AND NOT b.one_item AND b.capacity IS NULL
       AND NOT EXISTS (SELECT 1 FROM balance x WHERE x.bin_id = b.id AND x.qty > 0)
     ORDER BY b.walk
     LIMIT 1`,
  );
  const hand = await house.packed(browser, 'Tobin Sallow');
  await hand.getByRole('link', { name: 'New delivery' }).click();
  await hand.getByRole('button', { name: 'Nobody knows from whom' }).click();
  await expect(hand.getByTestId('waiting')).toBeHidden();
  await hand.context().setOffline(true);
  const acts = { scans: 0, numbers: 0, presses: 0 };
  const scanned = async (code: string, words: string): Promise<void> => {
    acts.scans += 1;
    await scanFor(hand, code, words);
  };
  const told = (what: string): void => {
    process.stdout.write(`acts: ${what}: ${acts.scans} scans, ${acts.numbers} numbers, ${acts.presses} presses\n`);
    Object.assign(acts, { scans: 0, numbers: 0, presses: 0 });
  };
  for (let n = 1; n <= 5; n += 1) await scanned(plain.barcode, `${plain.code}: ${n}`);
  expect(acts).toEqual({ scans: 5, numbers: 0, presses: 0 });
  told('5 pieces of one line');
  await scanned(plain.barcode, `${plain.code}: 6`);
  await key(hand, '40');
  acts.numbers += 1;
  await expect(hand.getByRole('status')).toContainText(`${plain.code}: 45`);
  expect(acts).toEqual({ scans: 1, numbers: 1, presses: 0 });
  told('40 pieces of one line');
  // A bin after goods is where they go: walked past on the way, no second round through put-away.
  await scanned(bin?.address ?? '', `40 ${plain.code} go into ${bin?.address}`);
  told('40 pieces into their bin');
  await scanned(`]C101${dated?.gtin}17291231` + '10L-77', `${dated?.code}: ${dated?.units}, lot L-77`);
  expect(acts).toEqual({ scans: 1, numbers: 0, presses: 0 });
  told('a labelled case, with lot and date');
  await hand.getByRole('button', { name: 'All scanned' }).click();
  await hand.context().setOffline(false);
  await expect(hand.getByTestId('waiting')).toBeHidden({ timeout: 40_000 });
  const lead = await house.desk(browser, 'Maren Oake');
  await lead.goto('/deliveries?show=review');
  await lead
    .getByRole('row', { name: /not said yet/ })
    .first()
    .dblclick();
  await lead.getByRole('button', { name: 'Post 7 entries to stock' }).click();
  await expect(lead.getByText('Posted. The goods are in stock')).toBeVisible();
  const [lies] = await house.rows<{ qty: number }>(
    `SELECT sum(f.qty)::int AS qty FROM stock_fact f JOIN item i ON i.id = f.item_id WHERE i.code = $1 AND f.address = $2`,
    [plain.code, bin?.address],
  );
  expect(lies?.qty).toBe(40);
});

test('C1–C14, B9: a delivery as it is on a bad day, from the first scan to the line that is reversed', async ({ browser }) => {
  test.setTimeout(180_000);
  const { supplier, goods } = await goodsOf(['none', 'lotExpiry', 'serial']);
  const [plain, dated, serial] = goods as [Goods, Goods, Goods];
  const [gtin] = await house.rows<{ code: string }>(
    `SELECT c.gtin AS code FROM barcode c JOIN pack p ON p.id = c.pack_id
     WHERE c.item_id = $1 AND c.gtin IS NOT NULL AND p.units = 1 LIMIT 1`,
    [dated.id],
  );
  const [order] = await house.rows<{ id: number; number: string }>(
    `WITH made AS (
       INSERT INTO purchase_order (number, supplier_id, site_id, due, approved_at, approved_by)
       SELECT 'PO-9900', $1, 1, today_at(1), now(), min(id) FROM person RETURNING id, number),
     lines AS (
       INSERT INTO purchase_line (purchase_order_id, item_id, qty)
       SELECT made.id, x.item, x.qty FROM made, unnest($2::int[], $3::int[]) AS x(item, qty))
     SELECT id, number FROM made`,
    [supplier.id, [plain.id, dated.id, serial.id], [6, 4, 5]],
  );
  if (!order || !gtin) throw new Error('The order was made, and dated goods have a GTIN.');
  const equation = async (item: number): Promise<{ onHand: string; free: string }> =>
    ((await (await lead.request.get(`/api/items/${item}/equation`)).json()) as { total: { onHand: string; free: string } }).total;
  const lead = await house.desk(browser, 'Maren Oake');
  const [wasPlain, wasDated] = [Number((await equation(plain.id)).onHand), Number((await equation(dated.id)).onHand)];

  const hand = await house.packed(browser, 'Tobin Sallow');
  await scan(hand, order.number);
  await expect(hand.getByRole('heading', { name: `Receive ${order.number}` })).toBeVisible();
  await expect(hand.getByTestId('waiting')).toBeHidden({ timeout: 40_000 });
  await hand.context().setOffline(true);
  await hand.clock.install();
  // One over.
  for (let n = 1; n <= 2; n += 1) await scanFor(hand, plain.barcode, `${plain.code}: ${n} of 6`);
  await key(hand, '6');
  await expect(hand.getByRole('status')).toContainText(`${plain.code}: 7 of 6, more than expected`);
  // Lot and expiry by one scan; one short.
  await scanFor(hand, `]C101${gtin.code.padStart(14, '0')}17310531` + '10BAD-DAY', `${dated.code}: 1 of 4, lot BAD-DAY`);
  await key(hand, '3');
  await expect(hand.getByRole('status')).toContainText(`${dated.code}: 3 of 4, lot BAD-DAY`);
  // A code that nobody knows is kept, and stops nobody.
  await scanFor(hand, 'NOBODYS-9911', 'Nobody here knows NOBODYS-9911');
  await hand.clock.fastForward('10:00');
  await scanFor(hand, serial.barcode, 'Scan the serial');
  for (let n = 1; n <= 3; n += 1) await scanFor(hand, `BD-${n}`, `${serial.code}: ${n} of 5`);
  await hand.reload();
  await expect(hand.getByLabel('Last entry')).toContainText(`${serial.code}`);
  for (let n = 4; n <= 5; n += 1) await scanFor(hand, `BD-${n}`, `${serial.code}: ${n} of 5`);
  await scanFor(hand, 'BD-2', 'delivery');
  // One of the plain ones is damaged.
  await hand.getByText(/Inspect: 0 of/).click();
  await hand
    .getByRole('listitem')
    .filter({ hasText: `6 ${plain.code}` })
    .getByRole('button', { name: 'Inspect' })
    .click();
  await hand.getByRole('button', { name: 'damaged' }).click();
  await hand.getByRole('button', { name: 'Keep: 1 failed' }).click();
  await hand.getByRole('button', { name: 'All scanned' }).click();
  await hand.context().setOffline(false);
  await hand.clock.fastForward('01:00');
  await expect(hand.getByTestId('waiting')).toBeHidden({ timeout: 40_000 });

  await lead.goto('/deliveries?show=review');
  await lead.getByRole('row', { name: new RegExp(order.number) }).dblclick();
  // What nobody knew is settled where it is reviewed: it is one more of the plain ones’ supplier, or nobody’s.
  await expect(lead.getByText('NOBODYS-9911').first()).toBeVisible();
  await lead.getByRole('button', { name: 'Drop it' }).click();
  await expect(lead.getByText('2 of 3 lines differ.')).toBeVisible();
  await lead.getByRole('button', { name: 'Print labels for all' }).click();
  await expect
    .poll(async () => (await house.printed()).map((s) => s.title))
    .toEqual(expect.arrayContaining([plain.code, `${dated.code} lot BAD-DAY`, `${serial.code} BD-5`]));
  await lead.getByRole('button', { name: /^Post \d+ entries to stock/ }).click();
  await expect(lead.getByText('Posted. The goods are in stock')).toBeVisible();
  expect(Number((await equation(plain.id)).onHand)).toBe(wasPlain + 7);
  expect(Number((await equation(dated.id)).onHand)).toBe(wasDated + 3);
  const [failed] = await house.rows<{ qty: number }>(
    `SELECT sum(qty)::int AS qty FROM stock_fact WHERE item_id = $1 AND condition = 'failed' AND use = 'quarantine'`,
    [plain.id],
  );
  expect(failed?.qty).toBeGreaterThanOrEqual(1);
  const serials = await house.rows<{ code: string }>(
    `SELECT s.code FROM stock_fact f JOIN serial s ON s.id = f.serial_id WHERE f.item_id = $1 AND s.code LIKE 'BD-%' ORDER BY s.code`,
    [serial.id],
  );
  expect(serials.map((s) => s.code)).toEqual(['BD-1', 'BD-2', 'BD-3', 'BD-4', 'BD-5']);

  // The dated ones were another’s: the line is reversed, and is expected again.
  const entry = lead.getByRole('listitem').filter({ hasText: dated.code });
  await entry.getByRole('button', { name: 'Reverse' }).click();
  await lead.getByLabel(`Why is ${dated.code} reversed?`).fill('Not ours');
  await entry.getByRole('button', { name: 'Reverse', exact: true }).click();
  await expect(entry.getByText('Not ours')).toBeVisible();
  expect(Number((await equation(dated.id)).onHand)).toBe(wasDated);
  expect(await house.rows(`SELECT sum(open)::int AS open FROM expected_line WHERE number = $1`, [order.number])).toEqual([{ open: 4 }]);
});
