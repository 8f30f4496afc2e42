import { randomUUID } from 'node:crypto';
import { chromium, type Page } from '@playwright/test';
import { withCheckDigit } from '#core/items';
import { DEMO_PEOPLE } from '#server/people';
import { query, type Db } from '#server/kernel';
import playwright from '../playwright.config.ts';
import { ask, quantile, type Answer } from './ask.ts';
import type { Row } from './places-and-items.ts';

const ITEMS = 20_000;
const LINES = 500;
const DEVICES = 10;
const SCANS_A_SECOND = 5;
const SECONDS = 10;
const THROTTLE = 4;
const SCANS = 120;
export type FloorHouse = { readonly db: Db; readonly address: string };
/** Twenty thousand items with two packs and two barcodes each, and something in every bin. */
async function fill(db: Db): Promise<void> {
  const codes = Array.from({ length: ITEMS }, (_, n) => withCheckDigit(String(540000000000 + n)));
  await query(
    db,
    `WITH made AS (
       INSERT INTO item (code, description, item_group)
       SELECT 'HB-' || n, 'Bench goods for hands no ' || n, 'Bench'
       FROM generate_series(1, ?) n
       RETURNING id, code
     ),
     each AS (INSERT INTO pack (item_id, name, units) SELECT id, 'each', 1 FROM made RETURNING id, item_id),
     cases AS (INSERT INTO pack (item_id, name, units) SELECT id, 'case', 12 FROM made RETURNING id, item_id),
     ean AS (INSERT INTO barcode (code, gtin, item_id, pack_id) SELECT c.code, lpad(c.code, 14, '0'), e.item_id, e.id
       FROM unnest(?::text[]) WITH ORDINALITY AS c(code, n) JOIN made m ON m.code = 'HB-' || c.n JOIN each e ON e.item_id = m.id)
     INSERT INTO barcode (code, item_id, pack_id) SELECT 'CS' || c.item_id, c.item_id, c.id FROM cases c`,
    [ITEMS, codes],
  );
  await query(
    db,
    `INSERT INTO balance (bin_id, item_id, condition, qty) SELECT b.id, i.id, 'sound', 10
     FROM (SELECT id, row_number() OVER (ORDER BY id) AS n FROM bin WHERE site_id = ? AND use = 'shelf' AND retired_at IS NULL) b
     JOIN (SELECT id, row_number() OVER (ORDER BY id) AS n FROM item WHERE code LIKE 'HB-%') i ON i.n = b.n ON CONFLICT DO NOTHING`,
    [1],
  );
}

async function factsRows(house: FloorHouse, cookie: string): Promise<{ rows: Row[]; revision: string }> {
  let [bytes, revision] = [0, ''];
  const begun = performance.now();
  let next: { kind?: string; after?: number } | null = {};
  while (next) {
    const search: string = new URLSearchParams(Object.entries(next).map(([k, v]) => [k, String(v)])).toString();
    const page: Answer = await ask(house.address, 'GET', `/api/hands/facts?${search}`, cookie);
    const read = JSON.parse(page.text) as { revision: string; next: { kind: string; after: number } | null };
    bytes += page.bytes;
    revision ||= read.revision;
    next = read.next;
  }
  const seconds = (performance.now() - begun) / 1000;
  const [g] = await query<{ address: string; code: string }>(
    house.db,
    `SELECT f.address, i.code
     FROM stock_fact f
     JOIN item i ON i.id = f.item_id
     WHERE f.site_id = 1 AND f.use = 'shelf' AND i.tracking = ? AND i.code NOT LIKE 'HB-%' AND f.qty > 5
     LIMIT 1`,
    ['none'],
  );
  await ask(house.address, 'POST', '/api/moves', cookie, { from: g?.address, to: 'QUARANTINE', code: g?.code, qty: '1' });
  const change = await ask(house.address, 'GET', `/api/hands/facts?since=${revision}`, cookie);
  const told = JSON.parse(change.text) as { parts: { rows: unknown[]; gone: unknown[] }[] };
  return {
    revision,
    rows: [
      {
        name: `facts for a device, first time: ${ITEMS} items, 20,000 bins and what is in them`,
        value: seconds,
        unit: 's',
        aim: '<= 10 s',
      },
      { name: 'facts, first time, as compressed', value: bytes / 1000, unit: 'kB', aim: '<= 3000 kB' },
      { name: 'facts after one move', value: told.parts.reduce((sum, p) => sum + p.rows.length + p.gone.length, 0), unit: 'rows' },
      { name: 'facts after one move, as compressed', value: change.bytes / 1000, unit: 'kB' },
    ],
  };
}

/** A session's cookies with those of a handheld of its own. */
export async function deviceCookie(house: FloorHouse, session: string): Promise<string> {
  const greeted = await ask(house.address, 'POST', '/api/hands/device', session, {});
  return `${session}; ${greeted.cookies.join('; ')}`;
}

/** Ten devices scan into one delivery of five hundred lines, and take along what the others did. */
async function deliveryRows(house: FloorHouse, sessions: readonly { cookie: string; person: number }[]): Promise<Row[]> {
  const [order] = await query<{ id: number; number: string }>(
    house.db,
    `INSERT INTO purchase_order (number, supplier_id, site_id, due)
     SELECT 'PO-95001', id, 1, DATE '2030-01-01'
     FROM supplier
     ORDER BY id
     LIMIT ?
     RETURNING id, number`,
    [1],
  );
  const items = await query<{ item: number; pack: number }>(
    house.db,
    `INSERT INTO purchase_line (purchase_order_id, item_id, qty)
     SELECT ?, id, 100
     FROM item
     WHERE code LIKE 'HB-%'
     ORDER BY id
     LIMIT ${LINES}
     RETURNING item_id AS item, (SELECT min(id) FROM pack WHERE item_id = purchase_line.item_id) AS pack`,
    [order?.id],
  );
  const first = sessions[0] as { cookie: string };
  const started = await ask(house.address, 'POST', '/api/deliveries', first.cookie, { purchaseOrder: order?.number });
  const delivery = (JSON.parse(started.text) as { id: number }).id;
  let most = 0;
  const times: number[] = [];
  let told = 0;
  const begun = performance.now();
  await Promise.all(
    Array.from({ length: DEVICES }, async (_, n) => {
      const { cookie: session, person } = sessions[n % sessions.length] as { cookie: string; person: number };
      const cookie = await deviceCookie(house, session);
      let since = (
        JSON.parse((await ask(house.address, 'GET', '/api/hands/facts?kind=tally&after=2000000000', cookie)).text) as { revision: string }
      ).revision;
      let after: string | null = null;
      let seq = 0;
      for (let second = 0; second < SECONDS; second += 1) {
        const due = begun + second * 1000;
        if (performance.now() < due) await new Promise((resolve) => setTimeout(resolve, due - performance.now()));
        const acts = Array.from({ length: SCANS_A_SECOND }, () => {
          seq += 1;
          const goods = items[(n * 50 + seq * 7) % items.length] as { item: number; pack: number };
          const key = randomUUID();
          const does = { kind: 'receive.enter', delivery, ...goods, qty: 1000, lot: null, expires: null, serial: null, takeAnyway: false };
          const act = { key, after, seq, person, site: 1, doneAt: Date.now(), does };
          after = key;
          return act;
        });
        const sent = await ask(house.address, 'POST', '/api/hands/acts', cookie, { sentAt: Date.now(), waiting: acts.length, acts });
        const outcomes = (JSON.parse(sent.text) as { outcomes: { outcome: string }[] }).outcomes;
        if (outcomes.some((o) => o.outcome !== 'done')) throw new Error(sent.text);
        told += outcomes.length;
        times.push(sent.ms);
        const got = await ask(house.address, 'GET', `/api/hands/facts?since=${since}`, cookie);
        const read = JSON.parse(got.text) as { revision: string; parts: { kind: string; rows: unknown[] }[] };
        since = read.revision;
        most = Math.max(most, read.parts.find((p) => p.kind === 'entry')?.rows.length ?? 0);
      }
    }),
  );
  return [
    {
      name: `${DEVICES} devices at ${SCANS_A_SECOND} scans a second into a delivery of ${LINES} lines: acts merged`,
      value: told / ((performance.now() - begun) / 1000),
      unit: 'per second',
    },
    { name: `the same: five scans told, p95`, value: quantile(times, 0.95), unit: 'ms' },
    { name: 'the same: most entries in any answer / entries of the delivery', value: most / told, unit: 'ratio', aim: '<= 0.3' },
  ];
}

/** One device comes back with a thousand acts while others scan at the desk. */
async function mergeRows(house: FloorHouse, session: { cookie: string; person: number }): Promise<Row[]> {
  const cookie = await deviceCookie(house, session.cookie);
  const bins = await query<{ bin: number; item: number }>(
    house.db,
    `SELECT b.bin_id AS bin, b.item_id AS item FROM balance b JOIN item i ON i.id = b.item_id WHERE i.code LIKE 'HB-%' ORDER BY b.id
      LIMIT ?`,
    [200],
  );
  const [quarantine] = await query<{ id: number }>(house.db, `SELECT id FROM bin WHERE site_id = ? AND use = 'quarantine' LIMIT 1`, [1]);
  let after: string | null = null;
  const acts = Array.from({ length: 1000 }, (_, n) => {
    const { bin, item } = bins[n % bins.length] as { bin: number; item: number };
    const key = randomUUID();
    const does = {
      kind: 'move.put',
      from: bin,
      to: quarantine?.id,
      item,
      lot: null,
      serial: null,
      condition: 'sound',
      qty: 1000,
      over: null,
    };
    const act = { key, after, seq: n, person: session.person, site: 1, doneAt: Date.now(), does };
    after = key;
    return act;
  });
  const scans: number[] = [];
  let ended = false;
  const scanning = Array.from({ length: 5 }, async (_, n) => {
    for (let k = 0; !ended; k += 1) {
      scans.push((await ask(house.address, 'GET', `/api/scan?code=HB-${1 + ((n * 997 + k * 13) % ITEMS)}`, session.cookie)).ms);
      await new Promise((resolve) => setTimeout(resolve, 100));
    }
  });
  const begun = performance.now();
  for (let n = 0; n < acts.length; n += 100) {
    const sent = await ask(house.address, 'POST', '/api/hands/acts', cookie, {
      sentAt: Date.now(),
      waiting: acts.length - n,
      acts: acts.slice(n, n + 100),
    });
    if (/failed|clash/.test(sent.text)) throw new Error(sent.text.slice(0, 300));
  }
  const seconds = (performance.now() - begun) / 1000;
  ended = true;
  await Promise.all(scanning);
  return [
    { name: 'acts of one device that comes back with 1,000: merged', value: acts.length / seconds, unit: 'per second' },
    { name: 'scans of others meanwhile, p95', value: quantile(scans, 0.95), unit: 'ms', aim: '<= 50 ms' },
  ];
}

/** Milliseconds from the last key of a scan to its tone, in a real browser with a slow processor. */
async function tones(page: Page, codes: readonly string[]): Promise<number[]> {
  const times: number[] = [];
  for (const code of codes) {
    times.push(
      await page.evaluate((text) => {
        return new Promise<number>((resolve) => {
          const begun = performance.now();
          navigator.vibrate = () => {
            resolve(performance.now() - begun);
            return true;
          };
          for (const key of [...text, 'Enter'])
            document.body.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true }));
        });
      }, code),
    );
  }
  return times;
}

async function browserRows(house: FloorHouse): Promise<Row[]> {
  const browser = await chromium.launch(playwright.use?.launchOptions ?? {});
  const context = await browser.newContext({ viewport: { width: 390, height: 844 }, baseURL: house.address });
  const page = await context.newPage();
  await page.goto('/');
  await page.locator('input').first().waitFor();
  const person = DEMO_PEOPLE[1];
  await page.request.post('/api/sign-in', { data: { name: person.name, password: person.password } });
  const begun = performance.now();
  await page.goto('/h');
  await page.getByRole('heading', { name: 'My work', exact: true }).waitFor({ timeout: 60_000 });
  const first = (performance.now() - begun) / 1000;
  await page.waitForFunction(() => navigator.serviceWorker.controller !== null);
  const reloaded = performance.now();
  await page.reload();
  await page.getByRole('heading', { name: 'My work', exact: true }).waitFor();
  const again = (performance.now() - reloaded) / 1000;
  await page.keyboard.type('PO-95001', { delay: 2 });
  await page.keyboard.press('Enter');
  await page.getByRole('heading', { name: /^Receive/ }).waitFor();
  const cdp = await context.newCDPSession(page);
  await cdp.send('Emulation.setCPUThrottlingRate', { rate: THROTTLE });
  const codes = Array.from({ length: SCANS }, (_, n) => withCheckDigit(String(540000000000 + (n % LINES))));
  await tones(page, codes.slice(0, 10));
  const online = await tones(page, codes);
  await context.setOffline(true);
  const offline = await tones(page, codes);
  await browser.close();
  return [
    { name: 'a handheld that was never here: from its address to My work', value: first, unit: 's', aim: '<= 10 s' },
    { name: 'the same, reloaded', value: again, unit: 's' },
    { name: `scan to tone, processor slowed ${THROTTLE} times, with a connection: p50`, value: quantile(online, 0.5), unit: 'ms' },
    {
      name: `scan to tone, processor slowed ${THROTTLE} times, with a connection: p95`,
      value: quantile(online, 0.95),
      unit: 'ms',
      aim: '<= 50 ms',
    },
    {
      name: `scan to tone, processor slowed ${THROTTLE} times, without a connection: p95`,
      value: quantile(offline, 0.95),
      unit: 'ms',
      aim: '<= 50 ms',
    },
  ];
}

/** Everything about the floor: facts, scans on the device, and the merge. */
export async function handsRows(house: FloorHouse, signIn: (name: string) => Promise<string>): Promise<Row[]> {
  await fill(house.db);
  const names = DEMO_PEOPLE.filter((p) => p.role === 'hand').map((p) => p.name);
  const sessions: { cookie: string; person: number }[] = [];
  for (const name of names) {
    const [row] = await query<{ id: number }>(house.db, `SELECT id FROM person WHERE name = ?`, [name]);
    sessions.push({ cookie: await signIn(name), person: row?.id ?? 0 });
  }
  const [some] = sessions;
  if (!some) throw new Error('The demo has no hands.');
  const { rows } = await factsRows(house, some.cookie);
  rows.push(...(await deliveryRows(house, sessions)));
  rows.push(...(await mergeRows(house, some)));
  rows.push(...(await browserRows(house)));
  return rows;
}
