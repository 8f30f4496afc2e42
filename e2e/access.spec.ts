import AxeBuilder from '@axe-core/playwright';
import { expect, test, type Page } from '@playwright/test';
import { signIn } from '../server/testing/client.ts';
import { houseForTests, scan, scanFor } from './house.ts';

const house = houseForTests();

/** What axe finds against WCAG 2.2 AA on a screen, said so that one can mend it. */
async function faults(page: Page): Promise<string[]> {
  const { violations } = await new AxeBuilder({ page }).withTags(['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa']).analyze();
  return violations.flatMap((v) => v.nodes.slice(0, 3).map((n) => `${v.id}: ${n.target.join(' ')} ${n.html.slice(0, 120)}`));
}

/** What runs off a page sideways, by the first words of it: nothing has to be scrolled for but tables, which scroll in themselves. */
async function runsOff(page: Page): Promise<string[]> {
  return page.evaluate(() => {
    const scrolls = (element: Element | null): boolean =>
      element !== null &&
      (['auto', 'scroll', 'hidden', 'clip'].includes(getComputedStyle(element).overflowX) || scrolls(element.parentElement));
    const wide = [...document.querySelectorAll('main *, header *, nav *')].filter((e) => {
      const { right, width } = e.getBoundingClientRect();
      return width > 0 && right > window.innerWidth + 1 && !scrolls(e.parentElement);
    });
    return wide.slice(0, 3).map((e) => `${e.tagName} “${(e.textContent ?? '').slice(0, 30)}”`);
  });
}

const DESK = { width: 1280, height: 800 };
// What a desk of 1280 px is where its letters are twice as large.
const LARGE_LETTERS = { width: 640, height: 400 };

const LONG = ' of the very longest kind that anybody ever kept in a warehouse, with everything written out and nothing left away';
const NAMES = new Set([
  'description',
  'name',
  'customer',
  'supplier',
  'reason',
  'zoneName',
  'person',
  'by',
  'what',
  'note',
  'group',
  'title',
]);
/** The same reply with every name in it as long as nobody would give one. */
function lengthened(value: unknown, key = ''): unknown {
  if (Array.isArray(value)) return value.map((v) => lengthened(v, key));
  if (value !== null && typeof value === 'object') return Object.fromEntries(Object.entries(value).map(([k, v]) => [k, lengthened(v, k)]));
  return typeof value === 'string' && NAMES.has(key) && /^[A-Z]/.test(value) && value.length > 2 ? value + LONG : value;
}

async function openPapers(): Promise<Readonly<Record<string, string>>> {
  const first = async (sql: string): Promise<string> => String((await house.rows<{ id: number }>(sql))[0]?.id);
  return {
    delivery: await first(`SELECT id FROM delivery WHERE site_id = 1 AND state = 'review' LIMIT 1`),
    serial: await first(`SELECT item_id || '/serials/' || code AS id FROM serial ORDER BY id LIMIT 1`),
    purchase: await first(`SELECT id FROM purchase_order WHERE site_id = 1 AND state = 'draft' LIMIT 1`),
    order: await first(`SELECT id FROM customer_order WHERE site_id = 1 AND state = 'open' LIMIT 1`),
    round: await first(`SELECT id FROM round WHERE site_id = 1 AND state = 'open' LIMIT 1`),
    count: await first(`SELECT id FROM stock_count WHERE site_id = 1 LIMIT 1`),
  };
}

const SCREENS = [
  ['/', 'On the floor'],
  ['/expected', 'PO-'],
  ['/purchasing', 'PO-'],
  ['/purchasing/new', 'Save as a draft'],
  ['/purchasing/reorder', 'Here and coming'],
  ['/purchasing/suppliers', 'Agreed over and short'],
  ['/purchasing/import', 'Empty sheet'],
  ['/deliveries/import', 'Empty sheet'],
  ['/purchasing/:purchase', 'What became of it'],
  ['/deliveries', 'DL-'],
  ['/deliveries/failures', 'What failed'],
  ['/deliveries/notices', 'Announced'],
  ['/deliveries/return', 'Take back'],
  ['/deliveries/:delivery', 'Entries, newest first'],
  ['/put-away', 'ARRIVALS'],
  ['/refill', 'Pick faces to fill'],
  ['/carries', 'No round is under way.'],
  ['/orders', 'CO-'],
  ['/orders/:order', 'Its way through the house'],
  ['/orders/new', 'New order'],
  ['/orders/import', 'Empty sheet'],
  ['/orders/sent', 'No program sent an order yet.'],
  ['/customers', 'What they take'],
  ['/counter', 'Nothing is on the counter yet'],
  ['/rounds', 'RD-'],
  ['/rounds/propose', 'as they come'],
  ['/rounds/:round', 'Walked by'],
  ['/bench', 'At the bench'],
  ['/counts', 'Counts'],
  ['/counts/:count', 'CT-'],
  ['/ledger', 'Ledger'],
  ['/floor', 'to be settled'],
  ['/printer', 'To be printed'],
  ['/printer/labels', 'Whether everything fits'],
  ['/people', 'Comes in by'],
  ['/me', 'Your password as it is'],
  ['/items', 'CL-10'],
  ['/items/12', 'on hand'],
  ['/items/12?act=opening', 'on hand'],
  ['/lots', 'From'],
  ['/lots?show=expired', 'have expired'],
  ['/items/:serial', 'Its life'],
  ['/items/new', 'Code'],
  ['/items/import', 'Import'],
  ['/items/own-fields', 'Own fields'],
  ['/items/price-lists', 'Saltquill Joinery'],
  ['/items/shelf-labels', 'As prices will be on'],
  ['/stock', 'at cost'],
  ['/holds', 'Kept for the October fair'],
  ['/places', 'Pick face'],
  ['/places/build', 'The walk begins'],
  ['/places/plan', 'Point at a bay for its bins'],
  ['/places/import', 'Home bins of items'],
  ['/places/site', 'Default bins'],
  ['/places/unplaced', 'Unplaced'],
  ['/bins/120', 'Last movements'],
  ['/nowhere', 'nothing at this address'],
] as const;

// Some at a time: axe looks long, and a test may take three minutes.
const AT_A_TIME = 8;
for (let first = 0; first < SCREENS.length; first += AT_A_TIME) {
  const some = SCREENS.slice(first, first + AT_A_TIME);
  test(`screens of the desk, from ${some[0]?.[0]} on: axe finds nothing, and nothing runs off, with letters twice as large too`, async ({
    browser,
  }) => {
    const lead = await house.desk(browser, 'Maren Oake');
    await lead.emulateMedia({ reducedMotion: 'reduce' });
    const papers = await openPapers();
    for (const [path, words] of some) {
      await lead.goto(path.replace(/:(\w+)/, (_, paper: string) => papers[paper] ?? ''));
      await lead.getByText(words).first().waitFor();
      expect.soft({ path, faults: await faults(lead) }).toEqual({ path, faults: [] });
      expect.soft({ path, off: await runsOff(lead) }).toEqual({ path, off: [] });
      await lead.setViewportSize(LARGE_LETTERS);
      expect.soft({ path, large: await runsOff(lead) }).toEqual({ path, large: [] });
      // Whoever asked for rest gets rest.
      expect.soft({ path, moving: await lead.evaluate(() => document.getAnimations().length) }).toEqual({ path, moving: 0 });
      await lead.setViewportSize(DESK);
    }
  });
}

for (let first = 0; first < SCREENS.length; first += 3 * AT_A_TIME) {
  test(`a name may be as long as somebody makes it: no screen of the desk from ${SCREENS[first]?.[0]} on runs off for it`, async ({
    browser,
  }) => {
    const lead = await house.desk(browser, 'Maren Oake');
    const papers = await openPapers();
    await lead.route(/\/api\/(?!events|items\/\d+\/picture)/, async (route) => {
      if (route.request().method() !== 'GET') return route.fallback();
      const answer = await route.fetch();
      if (!(answer.headers()['content-type'] ?? '').includes('json')) return route.fulfill({ response: answer });
      return route.fulfill({ response: answer, json: lengthened(await answer.json()) });
    });
    for (const [path, words] of SCREENS.slice(first, first + 3 * AT_A_TIME)) {
      await lead.goto(path.replace(/:(\w+)/, (_, paper: string) => papers[paper] ?? ''));
      await lead.getByText(words).first().waitFor();
      expect.soft({ path, off: await runsOff(lead) }).toEqual({ path, off: [] });
    }
  });
}

test('the handheld can be used by everybody, at each step of its jobs: axe finds nothing against WCAG 2.2 AA', async ({ browser }) => {
  const asker = await signIn(house.address, 'Maren Oake');
  const hand = await house.handheld(browser, 'Tobin Sallow');
  const clean = async (where: string): Promise<void> => {
    // As tall as what is on it: what lies half under the foot of a screen is small only until somebody scrolls.
    const { width, height } = hand.viewportSize() ?? { width: 390, height: 844 };
    await hand.setViewportSize({ width, height: Math.max(height, await hand.evaluate(() => document.documentElement.scrollHeight)) });
    expect({ where, faults: await faults(hand), off: await runsOff(hand) }).toEqual({ where, faults: [], off: [] });
    await hand.setViewportSize({ width, height });
  };
  for (const [path, words] of [
    ['/h', 'New item by scan'],
    ['/h/quick-add', 'Scan the goods.'],
    ['/h/assign', 'Scan a bin, then its items.'],
    ['/h/device', 'To be sent'],
    ['/h/put-away', 'Put away'],
  ] as const) {
    await hand.goto(path);
    await hand.getByText(words).first().waitFor();
    await clean(path);
  }
  const [g] = await house.rows<{ id: number; code: string; address: string; zone: number }>(
    `SELECT i.id, i.code, f.address, b.zone_id AS zone FROM stock_fact f JOIN item i ON i.id = f.item_id JOIN bin b ON b.id = f.bin_id
     WHERE f.site_id = 1 AND f.use = 'shelf' AND f.pickable AND i.tracking = 'none' AND i.decimals = 0 AND f.qty BETWEEN 6 AND 400
     ORDER BY f.walk
     LIMIT 1`,
  );
  if (!g) throw new Error('The demo has no plain goods on a shelf.');
  // Move: the goods in hand, a bin that is no place for goods, the pad of keys.
  await hand.goto(`/h/move?from=${g.address}`);
  await hand.getByRole('img', { name: g.address }).first().waitFor();
  await scanFor(hand, g.code, `1 ${g.code}`);
  await clean('move, with goods in hand');
  await scanFor(hand, 'SCRAP', 'Scan it again');
  await hand.getByRole('button', { name: /Key another number/ }).click();
  await clean('move, doubted, with the pad');
  await hand.getByRole('button', { name: /Key another number/ }).click();
  await scanFor(hand, 'SCRAP', 'is in SCRAP');
  await clean('move, done');
  // More or fewer: at the bin, the goods, why.
  await hand.goto('/h/adjust');
  await hand.getByText('Scan the bin in which something').waitFor();
  await scanFor(hand, g.address, 'Scan what is not as it should be');
  await clean('adjust, at the bin');
  await scanFor(hand, g.code, 'More, or fewer?');
  await clean('adjust, which way');
  await hand.getByRole('button', { name: 'fewer' }).click();
  await clean('adjust, why');
  await hand.getByRole('button', { name: 'broken' }).click();
  await hand.getByText(`1 fewer ${g.code}`).waitFor();
  // Receive: goods, a question for a lot, an unknown code.
  const [order] = await house.rows<{ number: string; dated: string }>(
    `SELECT o.number, min(i.code) AS dated
     FROM purchase_order o
     JOIN purchase_line l ON l.purchase_order_id = o.id
     JOIN item i ON i.id = l.item_id AND i.tracking = 'lotExpiry'
     WHERE o.state = 'open' AND o.site_id = 1
       AND NOT EXISTS (SELECT 1 FROM delivery_order d WHERE d.purchase_order_id = o.id AND d.open)
     GROUP BY o.id
     ORDER BY o.id
     LIMIT 1`,
  );
  await hand.goto('/h');
  await hand.getByRole('heading', { name: 'My work' }).waitFor();
  await scan(hand, order?.number ?? '');
  await hand.getByRole('heading', { name: `Receive ${order?.number}` }).waitFor();
  await clean('receive, begun');
  await scanFor(hand, order?.dated ?? '', 'Scan or key the lot');
  await clean('receive, the lot is asked');
  await scanFor(hand, 'AXE-1', 'Key the date');
  await clean('receive, the date is asked');
  await hand.getByLabel('Expires', { exact: true }).fill('2033-01-31');
  await hand.getByRole('button', { name: 'Enter it' }).click();
  await scanFor(hand, 'NOBODY-KNOWS-IT', 'NOBODY-KNOWS-IT');
  await clean('receive, an unknown code');
  // Pick: a stop, the goods, trouble.
  const [customer] = await house.rows<{ id: number; today: string }>(
    `SELECT id, to_char(now_here(), 'YYYY-MM-DD') AS today FROM customer LIMIT 1`,
  );
  const lines = [{ item: g.id, qty: '2' }];
  const { reply: made } = await asker.ask('orders.make', { body: { customer: customer?.id ?? 0, due: customer?.today ?? '', lines } });
  await asker.ask('orders.promise', { body: { orders: [made.id], mode: 'free' } });
  const { reply: round } = await asker.ask('picking.make', { body: { orders: [made.id] } });
  await hand.goto('/h');
  await hand.getByRole('heading', { name: 'My work' }).waitFor();
  await scan(hand, round.number);
  await hand.getByRole('heading', { name: round.number }).waitFor();
  await clean('pick, at the stop');
  await scanFor(hand, (await hand.locator('main [role=img]').first().getAttribute('aria-label')) ?? '', 'Right bin');
  await clean('pick, the goods are asked');
  await hand.getByRole('button', { name: 'Trouble here' }).click();
  await clean('pick, trouble');
  // Count: a bin, goods in it.
  const { reply: count } = await asker.ask('counting.make', { body: { zone: g.zone } });
  await hand.goto('/h');
  await hand.getByRole('heading', { name: 'My work' }).waitFor();
  await scan(hand, count.number);
  await hand.getByRole('heading', { name: /^Count/ }).waitFor();
  await clean('count, begun');
  await scanFor(hand, g.address, `Counting ${g.address}`);
  await scanFor(hand, g.code, `${g.code}: 1 in`);
  await clean('count, goods in a bin');
  // The bench and the floor's page.
  const lead = await house.desk(browser, 'Maren Oake');
  for (const path of ['/bench', '/floor']) {
    await lead.goto(path);
    await lead.getByRole('heading').first().waitFor();
    expect({ path, faults: await faults(lead) }).toEqual({ path, faults: [] });
  }
});
