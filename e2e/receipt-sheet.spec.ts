import { expect, test } from '@playwright/test';
import { houseForTests, key, scanFor } from './house.ts';

const house = houseForTests();
const ROWS = 2000;

test('C12 a receipt by sheet of 2,000 rows: a wrong last row keeps all out, the mended one is posted', async ({ browser }) => {
  test.setTimeout(180_000);
  const goods = await house.rows<{ id: number; code: string }>(
    `SELECT id, code FROM item WHERE tracking = 'none' AND decimals = 0 AND retired_at IS NULL ORDER BY code LIMIT 40`,
  );
  const onHand = async (): Promise<number> =>
    (
      await house.rows<{ n: number }>(`SELECT coalesce(sum(qty), 0)::int AS n FROM balance WHERE item_id = ANY($1)`, [
        goods.map((g) => g.id),
      ])
    )[0]?.n ?? 0;
  const before = await onHand();
  const lines = Array.from({ length: ROWS }, (_, n) => `${goods[n % goods.length]?.code},${1 + (n % 7)}`);
  const pieces = Array.from({ length: ROWS }, (_, n) => 1 + (n % 7)).reduce((sum, n) => sum + n, 0);
  const file = (rows: readonly string[]) => ({
    name: 'came.csv',
    mimeType: 'text/csv',
    buffer: Buffer.from(`Item,Quantity\n${rows.join('\n')}\n`),
  });
  const lead = await house.desk(browser, 'Maren Oake');
  await lead.goto('/deliveries/import');
  const drop = lead.locator('input[type=file]').first();
  await drop.setInputFiles(file([...lines.slice(0, -1), 'NOBODY-MAKES-IT,1']));
  await expect(lead.getByText('1 of 2,000 rows is wrong')).toBeVisible({ timeout: 60_000 });
  await expect(lead.getByRole('row', { name: /NOBODY-MAKES-IT/ })).toBeVisible();
  expect(await onHand()).toBe(before);
  await lead.getByRole('button', { name: 'Choose another file' }).click();
  await drop.setInputFiles(file(lines));
  await lead.getByRole('button', { name: /^Import: 2,000 new/ }).click({ timeout: 60_000 });
  await lead.getByRole('link', { name: 'Look at the delivery and post it' }).click({ timeout: 60_000 });
  // Nothing is stock before a lead has looked at it.
  expect(await onHand()).toBe(before);
  // A hundred are drawn at once; any of them is found.
  const entries = lead.getByRole('listitem').filter({ has: lead.getByRole('button', { name: 'Take out' }) });
  await expect(entries).toHaveCount(100);
  await lead.getByRole('button', { name: 'Show 100 more' }).click();
  await expect(entries).toHaveCount(200);
  const one = goods.at(-1)?.code ?? '';
  await lead.getByLabel('Search entries').fill(one);
  await expect(entries).toHaveCount(ROWS / goods.length);
  await expect(entries.first()).toContainText(one);
  await lead.getByLabel('Search entries').fill('nobody entered this');
  await expect(lead.getByText('No entry has “nobody entered this” in it.')).toBeVisible();
  await lead.getByRole('button', { name: /Post 2,?000 entries to stock/ }).dblclick({ timeout: 60_000 });
  await expect(lead.getByText('Posted. The goods are in stock')).toBeVisible({ timeout: 60_000 });
  expect(await onHand()).toBe(before + pieces);
});

test('C8 two lots of one code, one after the other, without a connection', async ({ browser }) => {
  const [item] = await house.rows<{ id: number; code: string; barcode: string; gtin: string }>(
    `SELECT i.id, i.code, first_barcode(i.id) AS barcode, c.gtin
     FROM item i
     JOIN pack p ON p.item_id = i.id AND p.units = 1
     JOIN barcode c ON c.pack_id = p.id AND c.gtin IS NOT NULL
     WHERE i.tracking = 'lotExpiry' AND i.decimals = 0 AND i.retired_at IS NULL
     ORDER BY i.code
     LIMIT 1`,
  );
  const hand = await house.packed(browser, 'Ines Farrow');
  await hand.getByRole('link', { name: 'New delivery' }).click();
  await hand.getByRole('button', { name: 'Nobody knows from whom' }).click();
  await expect(hand.getByTestId('waiting')).toBeHidden({ timeout: 40_000 });
  await hand.context().setOffline(true);
  // The same plain code for both; the lot is what differs. Then a label that says its lot by itself.
  await scanFor(hand, item?.barcode ?? '', 'Scan or key the lot');
  await scanFor(hand, 'TWO-A', 'Key the date');
  await hand.getByLabel('Expires', { exact: true }).fill('2031-05-31');
  await hand.getByRole('button', { name: 'Enter it' }).click();
  await expect(hand.getByRole('status')).toContainText(`${item?.code}: 1, lot TWO-A`);
  await key(hand, '5');
  await hand.getByRole('button', { name: /^Not lot TWO-A/ }).click();
  await scanFor(hand, 'TWO-B', 'Key the date');
  await hand.getByLabel('Expires', { exact: true }).fill('2031-08-31');
  await hand.getByRole('button', { name: 'Enter it' }).click();
  await scanFor(hand, `]C101${item?.gtin.padStart(14, '0')}17310531` + '10TWO-A', 'lot TWO-A');
  await hand.getByRole('button', { name: 'All scanned' }).click();
  await hand.context().setOffline(false);
  await expect(hand.getByTestId('waiting')).toBeHidden({ timeout: 40_000 });
  const lots = await house.rows(
    `SELECT e.lot, max(e.expires)::text AS expires, sum(e.qty)::int AS qty FROM delivery_entry e
     WHERE e.item_id = $1 AND e.lot LIKE 'TWO-%' AND e.taken_out_at IS NULL GROUP BY e.lot ORDER BY e.lot`,
    [item?.id],
  );
  expect(lots).toEqual([
    { lot: 'TWO-A', expires: '2031-05-31', qty: 6 },
    { lot: 'TWO-B', expires: '2031-08-31', qty: 1 },
  ]);
});
