// npm run screenshots: one current picture of each main view, from the demo data, into docs/screenshots/.
import { spawnSync } from 'node:child_process';
import { existsSync } from 'node:fs';
import { chromium, type Page } from '@playwright/test';
import playwright from '../playwright.config.ts';
import { makeDemoDatabase } from '../server/testing/global-setup.ts';
import { choose, openHouse, scan, scanFor } from './house.ts';

const base = process.env['DATABASE_URL'] ?? '';
const TEMPLATE = 'dockrow_pictures';

await makeDemoDatabase(base, TEMPLATE);
if (!existsSync('dist/server.mjs')) spawnSync('node', ['scripts/build.mjs'], { stdio: 'inherit' });

const house = await openHouse({ base, template: TEMPLATE });
const browser = await chromium.launch(playwright.use?.launchOptions ?? {});
const shoot = async (page: Page, name: string): Promise<void> => {
  await page.waitForLoadState('networkidle', { timeout: 1500 }).catch(() => undefined);
  await page.screenshot({ path: `docs/screenshots/${name}.png` });
  console.log(`docs/screenshots/${name}.png`);
};
const one = async <Row>(sql: string): Promise<Row> => (await house.rows<Row>(sql))[0] as Row;

const lead = await house.desk(browser, 'Maren Oake');
const at = async (path: string, words: string, name: string): Promise<void> => {
  await lead.goto(path);
  await lead.getByText(words).first().waitFor();
  await shoot(lead, name);
};
await at('/', 'On the floor', 'home');
await at('/items?q=jar', 'JR-', 'items');
const busy = await one<{ id: number }>(
  `SELECT p.item_id AS id
   FROM promise p
   JOIN stock_fact f ON f.item_id = p.item_id
   WHERE f.lot IS NOT NULL
   GROUP BY 1
   ORDER BY count(DISTINCT f.bin_id) DESC, count(DISTINCT p.line_id) DESC
   LIMIT 1`,
);
await at(`/items/${busy.id}`, 'on hand', 'item');
const bin = await one<{ id: number }>(
  `SELECT bin_id AS id FROM stock_fact WHERE zone_code = 'COLD' GROUP BY 1 ORDER BY count(*) DESC LIMIT 1`,
);
await at(`/bins/${bin.id}`, 'Last movements', 'bin');
await at('/places', 'Pick face', 'places');
await lead.goto('/places/plan');
// Keys are for a floor that is drawn.
await lead.getByText('Point at a bay').waitFor();
await lead.getByRole('application').focus();
for (let n = 0; n < 5; n += 1) await lead.keyboard.press('ArrowRight');
await lead.getByText('m from the bench').waitFor();
await shoot(lead, 'plan');
await at('/places/build', 'The walk begins', 'builder');
await at('/people', 'Comes in by', 'people');
await at('/stock', 'at cost', 'stock');
const review = await one<{ id: number }>(`SELECT id FROM delivery WHERE state = 'review' LIMIT 1`);
await at(`/deliveries/${review.id}`, 'Post ', 'review');
const order = await one<{ id: number }>(
  `SELECT o.id
   FROM customer_order o
   JOIN order_line l ON l.order_id = o.id
   WHERE o.state = 'open' AND o.held_for IS NULL
   GROUP BY 1
   HAVING count(*) > 3
   ORDER BY 1
   LIMIT 1`,
);
await at(`/orders/${order.id}`, 'Promised', 'order');
const bench = await one<{ id: number }>(
  `SELECT l.order_id AS id FROM picked k JOIN order_line l ON l.id = k.line_id WHERE k.put_down AND NOT k.shipped LIMIT 1`,
);
await at(`/bench/${bench.id}`, 'It is all there', 'bench');

const hand = await house.handheld(browser, 'Tobin Sallow');
await shoot(hand, 'my-work');
const expected = await one<{ number: string; code: string }>(
  `SELECT o.number, c.code
   FROM purchase_order o
   JOIN purchase_line l ON l.purchase_order_id = o.id
   JOIN item i ON i.id = l.item_id AND i.tracking = 'none'
   JOIN pack p ON p.item_id = i.id AND p.units = 1
   JOIN barcode c ON c.pack_id = p.id
   WHERE o.state = 'open'
   ORDER BY o.id
   LIMIT 1`,
);
await scan(hand, expected.number);
await hand.getByText('Scan the first piece.').waitFor();
await scanFor(hand, expected.code, ': 1 of');
await scanFor(hand, expected.code, ': 2 of');
await shoot(hand, 'receive');
const walker = await house.handheld(browser, 'Ines Farrow');
await walker.getByRole('link', { name: /Go on with/ }).click();
await walker.getByTestId('to-take').waitFor();
await walker.getByRole('img', { name: /The way of/ }).waitFor();
await shoot(walker, 'round');
const shelf = await one<{ address: string; code: string }>(
  `SELECT f.address, c.code
   FROM stock_fact f
   JOIN pack p ON p.item_id = f.item_id AND p.units = 1
   JOIN barcode c ON c.pack_id = p.id
   JOIN item i ON i.id = f.item_id AND i.tracking = 'none'
   WHERE f.zone_code = 'PICK' AND f.qty > 5
   ORDER BY f.walk
   LIMIT 1`,
);
const mover = await house.handheld(browser, 'Jory Penhale');
await mover.getByRole('link', { name: /Move goods/ }).click();
await scanFor(mover, shelf.address, 'Scan the goods');
await scanFor(mover, shelf.code, '1 ');
await shoot(mover, 'move');
// What a device told later, and the records know otherwise: as the lead finds it.
const jory = await one<{ id: number }>(`SELECT id FROM person WHERE name = 'Jory Penhale'`);
const lies = await one<{ bin: number; item: number; to: number }>(
  `SELECT f.bin_id AS bin, f.item_id AS item, (SELECT id FROM bin WHERE address = 'QUARANTINE' AND site_id = 1) AS "to"
   FROM stock_fact f
   JOIN item i ON i.id = f.item_id AND i.tracking = 'none'
   WHERE f.zone_code = 'STORE' AND f.qty BETWEEN 4 AND 20
   ORDER BY f.walk
   LIMIT 1`,
);
const scanned = await one<{ id: number }>(`SELECT id FROM delivery WHERE state = 'scanning' AND site_id = 1 ORDER BY id LIMIT 1`);
const told = [
  { kind: 'move.put', from: lies.bin, to: lies.to, item: lies.item, lot: null, serial: null, condition: 'sound', qty: 30_000, over: null },
  { kind: 'receive.unknown', delivery: scanned.id, code: '9526310004418', qty: 12_000 },
];
const acts = told.map((does, n) => ({
  key: crypto.randomUUID(),
  after: null,
  seq: 900 + n,
  person: jory.id,
  site: 1,
  doneAt: Date.now() - 2_520_000 + n * 60_000,
  does,
}));
await mover.request.post('/api/hands/acts', { data: { sentAt: Date.now(), waiting: acts.length, acts } });
await at('/floor', 'Post what the records have there', 'floor');

await lead.goto('/counts');
await choose(lead.getByLabel('Zone to count'), 'Cold room, 12 bins');
await lead.getByRole('button', { name: 'Start the count' }).click();
await lead.getByText('0 of 12 bins counted').waitFor();
const cold = await house.rows<{ address: string; code: string; lot: string; qty: string }>(
  `SELECT f.address, i.code, f.lot, trim_scale(f.qty)::text AS qty
   FROM stock_fact f
   JOIN item i ON i.id = f.item_id
   WHERE f.zone_code = 'COLD'
   ORDER BY f.walk
   LIMIT 7`,
);
const number = lead.url().split('/').at(-1);
for (const [n, c] of cold.entries()) {
  await lead.request.post(`/api/counts/${number}/tallies`, {
    headers: { 'Idempotency-Key': crypto.randomUUID() },
    data: { bin: c.address, code: c.code, lot: c.lot, qty: String(Number(c.qty) + ([0, -1, 0, 2, 0, -3, 0][n] ?? 0)) },
  });
}
await lead.getByText(/Post [1-9]\d* adjustment/).waitFor();
await shoot(lead, 'count-differences');
await fetch(`${house.printer}/do/1/slow`, { method: 'POST' });
const post = async (path: string, data: object): Promise<unknown> =>
  (await lead.request.post(path, { headers: { 'Idempotency-Key': crypto.randomUUID() }, data })).json();
const { id: atBench } = (await post('/api/printers', {
  ...{ name: 'Packing bench', address: `${house.printer}/ipp/bench`, dpi: 300, roll: 'item', zones: [] },
})) as { id: number };
const racks = await house.rows<{ id: number }>(`SELECT id FROM bin WHERE site_id = 1 AND address LIKE 'A-0%' ORDER BY walk LIMIT 12`);
await post('/api/labels', { kind: 'bins', bins: racks.slice(0, 3).map((b) => b.id), size: 'small', printer: atBench });
await post('/api/labels', { kind: 'bins', bins: racks.map((b) => b.id) });
await lead.goto('/printer');
await lead.getByText('3 labels want 51 × 25 mm').waitFor();
await lead.getByText(/Prints, [2-9] of 12 came out/).waitFor();
await shoot(lead, 'printers');
await browser.close();
await house.close();
