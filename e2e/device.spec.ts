import { appendFile, cp, rm } from 'node:fs/promises';
import path from 'node:path';
import { expect, test, type Page } from '@playwright/test';
import { houseForTests, scan, scanAll, scanFor } from './house.ts';

// A house of its own on a copy of the built application, which is made a newer one while it runs.
const DIST = path.resolve('test-results', 'dist-of-device-spec');
test.beforeAll(async () => {
  await rm(DIST, { recursive: true, force: true });
  await cp('dist', DIST, { recursive: true });
});
const house = houseForTests({ dist: DIST });
test.afterAll(() => rm(DIST, { recursive: true, force: true }));

const toSend = (hand: Page) => hand.getByTestId('waiting');
type Goods = { id: number; code: string; barcode: string; address: string; qty: number };
const goods = async (skip: number): Promise<Goods> => {
  const [g] = await house.rows<Goods>(
    `SELECT i.id, i.code, c.code AS barcode, f.address, f.qty::int AS qty
     FROM stock_fact f
     JOIN item i ON i.id = f.item_id
     JOIN pack p ON p.item_id = i.id AND p.units = 1
     JOIN barcode c ON c.pack_id = p.id
     WHERE f.site_id = 1 AND f.use = 'shelf' AND f.pickable AND i.tracking = 'none' AND i.decimals = 0 AND f.qty BETWEEN 40 AND 400
       AND (SELECT count(*) FROM balance x WHERE x.bin_id = f.bin_id) = 1 ORDER BY f.walk, f.bin_id OFFSET $1 LIMIT 1`,
    [skip],
  );
  if (!g) throw new Error('The demo has no such goods.');
  return g;
};
const inQuarantine = async (item: number): Promise<number> =>
  (
    await house.rows<{ qty: number }>(
      `SELECT coalesce(sum(qty), 0)::int AS qty FROM stock_fact WHERE item_id = $1 AND address = 'QUARANTINE' AND site_id = 1`,
      [item],
    )
  )[0]?.qty ?? -1;
async function carry(hand: Page, g: Goods): Promise<void> {
  await scanFor(hand, g.barcode, `1 ${g.code}`);
  await scanFor(hand, 'QUARANTINE', 'Scan it again');
  await scanFor(hand, 'QUARANTINE', `1 ${g.code} is in QUARANTINE`);
}

test('a device has a name, which the lead sees; its scanner’s own key parts the elements of a code', async ({ browser }) => {
  const hand = await house.packed(browser, 'Tobin Sallow');
  await hand.getByTestId('taken').click();
  await expect(hand.getByRole('heading', { name: 'This device' })).toBeVisible();
  await hand.getByLabel('Name of this device').fill('Cold store 2');
  await hand.getByRole('button', { name: 'Save' }).click();
  await expect(hand.getByRole('status')).toContainText('Cold store 2');
  // Nothing parts the lot, which has no fixed length, from the date behind it.
  const gtin = '0109501101020917';
  await scanFor(hand, `${gtin}10LOT-7~17310131`, 'Plain text');
  await hand.getByRole('button', { name: 'Name a key' }).click();
  await hand.keyboard.press('7');
  await expect(hand.getByRole('status')).toContainText('Codes are made of “7”');
  await hand.getByRole('button', { name: 'Name a key' }).click();
  await hand.keyboard.press('~');
  await expect(hand.getByRole('status')).toContainText('“~” parts the elements');
  await scanFor(hand, `${gtin}10LOT-7~17310131`, '(10) LOT-7 (17) 2031-01-31');
  await hand.reload();
  await expect(hand.getByText('the key ~')).toBeVisible();
  await scanFor(hand, `${gtin}10LOT-8~17310131`, '(10) LOT-8 (17) 2031-01-31');
  await hand.context().setOffline(true);
  await hand.getByLabel('Name of this device').fill('Nowhere');
  await hand.getByRole('button', { name: 'Save' }).click();
  await expect(hand.getByRole('status')).toContainText('a connection is needed', { timeout: 20_000 });
  const lead = await house.desk(browser, 'Maren Oake');
  await lead.goto('/floor');
  await expect(lead.getByRole('row', { name: /Cold store 2/ })).toContainText('Tobin Sallow');
});

test('storage that is full: the scan is refused and said so, nothing that was confirmed is lost, and work goes on later', async ({
  browser,
}) => {
  const g = await goods(2);
  const hand = await house.packed(browser, 'Ines Farrow');
  await hand.goto('/h/move');
  await hand.getByRole('heading', { name: 'Move goods' }).waitFor();
  await scanFor(hand, g.address, `From ${g.address}`);
  await hand.context().setOffline(true);
  await carry(hand, g);
  const storage = await hand.context().newCDPSession(hand);
  const limit = (quotaSize?: number) =>
    storage.send('Storage.overrideQuotaForOrigin', { origin: house.address, ...(quotaSize === undefined ? {} : { quotaSize }) });
  await limit(1);
  // The browser looks at what is left every half a minute.
  await expect(async () => {
    await scan(hand, g.barcode);
    await expect(hand.getByRole('status')).toContainText('could not keep it: its storage is full', { timeout: 1000 });
  }).toPass({ timeout: 60_000, intervals: [3000] });
  await expect(hand.getByRole('status')).toHaveAttribute('data-tone', 'wrong');
  await expect(toSend(hand)).toHaveText(/^1 to send/);
  await hand.reload();
  await expect(toSend(hand)).toHaveText(/^1 to send/);
  // What was refused is not in the hand either.
  const inHand = Number(await hand.getByTestId('number').textContent());
  await limit();
  await scanFor(hand, g.barcode, `${inHand + 1} ${g.code}`);
  await scanFor(hand, 'QUARANTINE', 'Scan it again');
  await scanFor(hand, 'QUARANTINE', `${inHand + 1} ${g.code} is in QUARANTINE`);
  await hand.context().setOffline(false);
  await expect(toSend(hand)).toBeHidden({ timeout: 40_000 });
  expect(await inQuarantine(g.id)).toBe(1 + inHand + 1);
});

test('a browser that keeps nothing says so, and works with a connection', async ({ browser }) => {
  const g = await goods(4);
  const hand = await house.handheld(browser, 'Jory Penhale');
  await hand.addInitScript(() => {
    Object.defineProperty(window, 'indexedDB', {
      value: {
        open: () => {
          throw new DOMException('Not in a private window.', 'SecurityError');
        },
      },
    });
  });
  await hand.goto('/h/move');
  await expect(hand.getByText('This browser keeps nothing.')).toBeVisible();
  await scanFor(hand, g.address, `From ${g.address}`);
  await carry(hand, g);
  await expect(toSend(hand)).toBeHidden({ timeout: 20_000 });
  await expect.poll(() => inQuarantine(g.id), { timeout: 20_000 }).toBe(1);
});

test('a new version is taken between two jobs and never in one, and what the old one had kept is sent', async ({ browser }) => {
  const g = await goods(6);
  const hand = await house.packed(browser, 'Tobin Sallow');
  await hand.goto('/h/move');
  await hand.getByRole('heading', { name: 'Move goods' }).waitFor();
  await scanFor(hand, g.address, `From ${g.address}`);
  await hand.context().setOffline(true);
  await carry(hand, g);
  await scanFor(hand, g.barcode, `1 ${g.code}`);
  // The house is given a newer program: the page that opens it says so.
  const marked = `<meta name="program" content="newer">`;
  for (const [file, text] of [
    ['index.html', marked],
    ['sw.js', '\n// newer'],
  ] as const)
    await appendFile(path.join(DIST, 'web', file), text);
  const isNew = () => hand.evaluate(() => document.querySelector('meta[name=program]') !== null);
  // Acts are held back, so that they are still there when the new program begins.
  await hand.route('**/api/hands/acts', (route) => route.abort());
  await hand.context().setOffline(false);
  await hand.evaluate(async () => {
    const registration = await navigator.serviceWorker.getRegistration();
    await registration?.update();
  });
  await hand.waitForFunction(async () => (await navigator.serviceWorker.getRegistration())?.waiting !== null);
  await hand.waitForFunction(() => new Promise((resolve) => setTimeout(() => resolve(true), 4000)));
  expect(await isNew()).toBe(false);
  await scanFor(hand, 'QUARANTINE', 'Scan it again');
  await scanFor(hand, 'QUARANTINE', `1 ${g.code} is in QUARANTINE`);
  await expect(toSend(hand)).toHaveText(/^2 to send/);
  const taken = hand.waitForEvent('load', { timeout: 30_000 });
  await hand.getByRole('link', { name: 'Back' }).click();
  await taken;
  await expect(hand.getByRole('heading', { name: 'My work' })).toBeVisible();
  await expect(toSend(hand)).toHaveText(/^2 to send/);
  await hand.unroute('**/api/hands/acts');
  await expect(toSend(hand)).toBeHidden({ timeout: 60_000 });
  expect(await inQuarantine(g.id)).toBe(2);
});

test('what no label says: each has its own sentence, and nothing is entered', async ({ browser }) => {
  const hand = await house.packed(browser, 'Ines Farrow');
  const [order] = await house.rows<{ number: string }>(
    `SELECT o.number
     FROM purchase_order o
     WHERE o.state = 'open' AND o.site_id = 1
       AND NOT EXISTS (SELECT 1 FROM delivery_order d WHERE d.purchase_order_id = o.id AND d.open)
     ORDER BY o.id
     LIMIT 1`,
  );
  await scan(hand, order?.number ?? '');
  await expect(hand.getByRole('heading', { name: `Receive ${order?.number}` })).toBeVisible();
  await expect(toSend(hand)).toBeHidden();
  await hand.context().setOffline(true);
  for (const [code, words] of [
    ['A-01-1', 'That is bin A-01-1'],
    ['(01)09501101020917(17)310231', 'there is no such day'],
    ['Z'.repeat(500), '500'],
    ['(01)09501101020918', 'check digit'],
  ] as const) {
    await scanAll(hand, [code]);
    await expect(hand.getByRole('status')).toContainText(words);
    await expect(hand.getByRole('status')).toHaveAttribute('data-tone', 'wrong');
  }
  await expect(toSend(hand)).toBeHidden();
  // A code in another alphabet is a code like any: nobody knows it, and it is kept with its number.
  await scanAll(hand, ['ЯЩИК-42']);
  await expect(hand.getByRole('status')).toContainText('ЯЩИК-42');
  await expect(hand.getByRole('status')).toHaveAttribute('data-tone', 'look');
});
