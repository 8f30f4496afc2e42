import { expect, test } from '@playwright/test';
import { LabelReader } from '../server/testing/read-label.ts';
import { choose, houseForTests, scan } from './house.ts';

const house = houseForTests();

test('D1 D2 a label is seen, printed as a square, read by a stranger’s reader, and scanned', async ({ browser }) => {
  const reader = new LabelReader();
  const lead = await house.desk(browser, 'Maren Oake');
  const [lot] = await house.rows<{ item: number; code: string; lot: string; pieces: number }>(
    `SELECT i.id AS item, i.code, l.code AS lot, ceil(sum(b.qty))::int AS pieces
     FROM balance b
     JOIN bin ON bin.id = b.bin_id AND bin.site_id = 1
     JOIN item i ON i.id = b.item_id
     JOIN lot l ON l.id = b.lot_id
     WHERE i.retired_at IS NULL AND length(first_barcode(i.id)) = 13
     GROUP BY i.id, l.id
     HAVING sum(b.qty) BETWEEN 2 AND 900
     ORDER BY i.id, l.id
     LIMIT 1`,
  );
  if (!lot) throw new Error('The demo has no lot of goods with a retail code.');
  await lead.goto(`/items/${lot.item}`);
  await lead.getByRole('button', { name: 'Labels', exact: true }).click();
  const form = lead.getByRole('form', { name: 'Labels' });
  await expect(form.getByAltText(/as it will be printed/)).toBeVisible();

  await form.getByLabel('Lot, if it is of one').fill('LOT 7');
  await expect(form.getByText('Lot LOT 7 has a space in it, which a code cannot hold: the code names the item only.')).toBeVisible();
  await expect(form.getByText('None of lot LOT 7 lies here.')).toBeVisible();
  await form.getByLabel('Lot, if it is of one').fill(lot.lot);
  await expect(form.getByText('lies here.')).toBeHidden();
  await choose(form.getByLabel('Code'), 'a square');
  await expect(form.getByText('The finest square is')).toBeVisible();
  await form.getByLabel('How many').fill('0');
  await expect(form.getByRole('button', { name: /^Print/ })).toBeDisabled();
  await form.getByRole('button', { name: `As many as lie here: ${lot.pieces}` }).click();
  await form.getByRole('button', { name: `Print ${lot.pieces} labels` }).click();
  await expect(form).toBeHidden();

  const title = `${lot.code} lot ${lot.lot}`;
  await expect.poll(async () => (await house.printed()).find((s) => s.title === title)?.copies, { timeout: 30_000 }).toBe(lot.pieces);
  // Off the strip, dot by dot.
  const strip = await house.strip();
  expect(strip).toHaveLength(lot.pieces);
  const read = await reader.read(strip[0]?.png ?? Buffer.alloc(0), 6);
  expect(read).toContain(`10${lot.lot}`);
  reader.close();

  const hand = await house.handheld(browser, 'Tobin Sallow');
  await scan(hand, `]d2${read}`);
  await expect(hand.getByText(`${lot.code} `).first()).toBeVisible();
});
