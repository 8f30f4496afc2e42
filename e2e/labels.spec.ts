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
  const read = await reader.read(strip[0]?.png ?? Buffer.alloc(0), { symbology: 'gs1datamatrix', module: 6 });
  expect(read).toContain(`10${lot.lot}`);
  reader.close();

  const hand = await house.handheld(browser, 'Tobin Sallow');
  await scan(hand, `]d2${read}`);
  await expect(hand.getByText(`${lot.code} `).first()).toBeVisible();
});

test('D6 a printer jams, wants another roll and is switched off: its page says what to do, and every label comes out once', async ({
  browser,
}) => {
  const lead = await house.desk(browser, 'Maren Oake');
  const at = (deed: string): Promise<unknown> => fetch(`${house.printer}/do/bench/${deed}`, { method: 'POST' });
  const strip = async (): Promise<{ isHalf: boolean }[]> => (await (await fetch(`${house.printer}/strip/bench`)).json()) as never;
  await lead.goto('/printer');
  await lead.getByRole('button', { name: 'Add a printer' }).click();
  const form = lead.getByRole('form', { name: 'Add a printer' });
  await form.getByLabel('What it is called').fill('Bench');
  await form.getByLabel('Its address').fill('http://127.0.0.1:9/ipp');
  await form.getByRole('button', { name: 'Ask it' }).click();
  await expect(form.getByText('It does not answer.')).toBeVisible();
  await form.getByLabel('Its address').fill(`${house.printer}/ipp/bench`);
  await form.getByRole('button', { name: 'Ask it' }).click();
  await expect(form.getByText('It is ready.')).toBeVisible();
  await form.getByRole('button', { name: 'Add it' }).click();
  const card = lead.getByRole('article', { name: 'Bench' });
  await expect(card.getByRole('status')).toHaveText('Ready');

  const [bench] = await house.rows<{ id: number }>(`SELECT id FROM printer WHERE name = 'Bench'`);
  const bins = await house.rows<{ id: number }>(`SELECT id FROM bin WHERE site_id = 1 AND use = 'shelf' ORDER BY walk LIMIT 6`);
  const print = (body: object): Promise<number> =>
    lead.evaluate(
      async (asked) =>
        (
          await fetch('/api/labels', {
            method: 'POST',
            headers: { 'Content-Type': 'application/json', 'Idempotency-Key': crypto.randomUUID() },
            body: JSON.stringify(asked),
          })
        ).status,
      { kind: 'bins', bins: bins.map((b) => b.id), printer: bench?.id, ...body },
    );
  await at('jam?after=2');
  expect(await print({})).toBe(200);
  await expect(card.getByRole('status')).toHaveText('Labels are jammed in it.');
  await expect(card.getByText('2 of 6 came out')).toBeVisible();
  await at('mend');
  await expect(card.getByRole('status')).toHaveText('Ready');
  expect(await strip()).toHaveLength(6);

  await choose(card.getByLabel('In it'), '102 × 51');
  expect(await print({ size: 'small' })).toBe(200);
  await expect(card.getByText('6 labels want 51 × 25 mm')).toBeVisible();
  await at('run-out?after=4');
  await card.getByRole('button', { name: 'That roll is in now' }).click();
  await expect(card.getByRole('status')).toHaveText('The roll is at its end.');
  await at('off-and-on');
  await expect(card.getByRole('status')).toHaveText('Somebody must look what came out');
  // The page knew of four; whoever stands before it counts.
  await card.getByLabel('How many of them came out').fill('7');
  await expect(card.getByText('Key a number from 0 to 6.')).toBeVisible();
  await card.getByLabel('How many of them came out').fill('4');
  await card.getByRole('button', { name: 'That is so' }).click();
  await expect(card.getByRole('status')).toHaveText('Ready');
  expect(await strip()).toHaveLength(12);
  await lead.getByRole('tab', { name: 'Came out' }).click();
  await expect(lead.getByRole('region', { name: 'Labels' }).getByRole('listitem').filter({ hasText: 'Bench' })).toHaveCount(12);
  await house.leave();
});

test('D5 C16 a hand prints what it has just received, one or as many, and with each scan', async ({ browser }) => {
  const [goods] = await house.rows<{ code: string; barcode: string; order: string }>(
    `SELECT i.code, c.code AS barcode, o.number AS "order"
     FROM purchase_order o
     JOIN purchase_line l ON l.purchase_order_id = o.id
     JOIN item i ON i.id = l.item_id
     JOIN pack p ON p.item_id = i.id AND p.units = 1
     JOIN barcode c ON c.pack_id = p.id
     WHERE o.site_id = 1 AND o.state = 'open' AND i.tracking = 'none' AND i.decimals = 0
       AND NOT EXISTS (SELECT 1 FROM delivery_order d WHERE d.purchase_order_id = o.id AND d.open)
     ORDER BY o.id, l.id
     LIMIT 1`,
  );
  const labelsOf = async (): Promise<number> =>
    (await house.rows<{ n: number }>(`SELECT coalesce(sum(copies), 0)::int AS n FROM print_job WHERE title = $1`, [goods?.code]))[0]?.n ??
    0;
  const hand = await house.handheld(browser, 'Ines Farrow');
  // Its clock is two hours wrong, which must be no matter of labels.
  await hand.addInitScript(() => {
    const now = Date.now.bind(Date);
    Date.now = () => now() + 7_200_000;
  });
  await hand.reload();
  await hand.getByRole('link', { name: 'New delivery' }).click();
  await scan(hand, goods?.order ?? '');
  await hand.getByRole('button', { name: 'Begin with 1 order' }).click();
  await expect(hand.getByRole('heading', { name: /^Receive/ })).toBeVisible();
  await scan(hand, goods?.barcode ?? '');
  await expect(hand.getByTestId('arrived')).toHaveText('1');
  await hand.getByRole('button', { name: 'Print its label' }).click();
  await expect(hand.getByText(/^It comes out of /)).toBeVisible();
  expect(await labelsOf()).toBe(1);
  await hand.getByLabel('Labels with each scan').check();
  await scan(hand, goods?.barcode ?? '');
  await expect(hand.getByTestId('arrived')).toHaveText('2');
  await expect.poll(labelsOf).toBe(2);
  // It is kept: another visit of the screen prints nothing by itself, and another scan does.
  await hand.reload();
  await expect(hand.getByTestId('arrived')).toHaveText('2');
  await expect(hand.getByLabel('Labels with each scan')).toBeChecked();
  expect(await labelsOf()).toBe(2);
  await scan(hand, goods?.barcode ?? '');
  await expect.poll(labelsOf).toBe(3);
  // What stands there again after an undo was labelled when it was scanned.
  await scan(hand, goods?.barcode ?? '');
  await expect.poll(labelsOf).toBe(4);
  await hand.getByRole('button', { name: 'Undo' }).first().click();
  await expect(hand.getByTestId('arrived')).toHaveText('3');
  expect(await labelsOf()).toBe(4);
  await hand.context().setOffline(true);
  await hand.getByRole('button', { name: '3 labels' }).click();
  // It is sent until it arrives, once.
  expect(await labelsOf()).toBe(4);
  await hand.context().setOffline(false);
  await expect.poll(labelsOf, { timeout: 30_000 }).toBe(7);
  await house.leave();
});

test('D2 a lead puts supplier and logo onto bin and item labels, arranges them by hand and by keys, and they print so', async ({
  browser,
}) => {
  const lead = await house.desk(browser, 'Maren Oake');
  await lead.goto('/printer');
  await lead.getByRole('link', { name: 'See and arrange' }).click();
  await lead.getByRole('checkbox', { name: 'Supplier' }).check();
  await lead.locator('input[type=file]').evaluate((input: HTMLInputElement) => {
    const held = new DataTransfer();
    held.items.add(new File([new Uint8Array(40_000_000)], 'large.png', { type: 'image/png' }));
    input.files = held.files;
    input.dispatchEvent(new Event('change', { bubbles: true }));
  });
  await expect(lead.getByText('large.png has 40 MB; a logo has at most 8 MB. Nothing of it was sent.')).toBeVisible();
  await lead.locator('input[type=file]').setInputFiles({ name: 'text.png', mimeType: 'image/png', buffer: Buffer.from('no picture') });
  await expect(lead.getByText('text.png is not a picture that can be opened')).toBeVisible();
  await lead.locator('input[type=file]').setInputFiles('docs/screenshots/item.png');
  // It is opened and written anew by a helper.
  await expect(lead.getByAltText('The logo')).toBeVisible({ timeout: 30_000 });
  await lead.getByRole('button', { name: 'Arrange these labels' }).click();
  const part = (name: string) => lead.getByRole('button', { name: new RegExp(`^${name}: column`) });
  await expect(part('Logo')).toBeVisible();

  // With keys: over another part it does not go, and says what is there.
  await part('Lot').focus();
  await lead.keyboard.press('ArrowUp');
  await expect(lead.getByText('There is Item code.')).toBeVisible();
  await lead.keyboard.press('Shift+ArrowLeft');
  const before = await part('Lot').getAttribute('aria-label');
  // By hand: into the room that the lot left.
  const held = await part('Expiry').boundingBox();
  if (!held) throw new Error('The expiry is there.');
  await lead.mouse.move(held.x + 30, held.y + 10);
  await lead.mouse.down();
  await lead.mouse.move(held.x - 5, held.y + 10, { steps: 4 });
  await lead.mouse.up();
  await expect(part('Expiry')).toHaveAttribute('aria-label', /column 7,/);
  // Too small for what it says: it is said at once, and cannot be kept.
  for (let n = 0; n < 6; n += 1) await part('Lot').press('Shift+ArrowLeft');
  await expect(lead.getByRole('listitem').filter({ hasText: 'With a lot: Lot' })).toBeVisible();
  await expect(lead.getByRole('button', { name: 'Keep it' })).toBeDisabled();
  for (let n = 0; n < 6; n += 1) await lead.getByRole('button', { name: 'Undo' }).click();
  await expect(part('Lot')).toHaveAttribute('aria-label', before ?? '');
  await lead.getByRole('button', { name: 'Keep it' }).click();
  await expect(lead.getByText('Last changed by Maren Oake')).toBeVisible();

  const [item] = await house.rows<{ id: number; supplier: string }>(
    `SELECT i.id, min(s.name) AS supplier
     FROM item i
     JOIN item_supplier x ON x.item_id = i.id
     JOIN supplier s ON s.id = x.supplier_id
     WHERE i.tracking = 'none' AND i.retired_at IS NULL
     GROUP BY i.id
     HAVING count(*) = 1
     ORDER BY i.id
     LIMIT 1`,
  );
  await lead.goto(`/items/${item?.id}`);
  await lead.getByRole('button', { name: 'Labels', exact: true }).click();
  const form = lead.getByRole('form', { name: 'Labels' });
  await choose(form.getByLabel('On which labels'), '76 × 51');
  const seen = form.getByAltText(/as it will be printed/);
  await expect.poll(async () => decodeURIComponent((await seen.getAttribute('src')) ?? '')).toContain(`From ${item?.supplier}`);
  expect(decodeURIComponent((await seen.getAttribute('src')) ?? '')).toContain('<image ');

  const hand = await house.desk(browser, 'Tobin Sallow');
  await hand.goto('/printer/labels');
  await expect(hand.getByRole('button', { name: /^Lot: column/ })).toBeVisible();
  await expect(hand.getByRole('button', { name: 'Keep it' })).toHaveCount(0);
  await expect(hand.getByRole('checkbox', { name: 'Supplier' })).toBeDisabled();
});
