import { randomUUID } from 'node:crypto';
import { chmodSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { chromium } from '@playwright/test';
import { withCheckDigit } from '#core/items';
import { query, type Db } from '#server/kernel';
import playwright from '../playwright.config.ts';

export type Row = { name: string; value: number; unit: string; aim?: string };
type House = { db: Db; address: string; cookie: string };

const BINS = 20_000;
const LIST_ROWS = 50_000;
const ITEMS = 200_000;
const PRICE_ROWS = 500_000;

/** Asks the house something. */
export async function call<T>(house: House, method: string, url: string, body?: unknown): Promise<T> {
  const answer = await fetch(house.address + url, {
    method,
    headers: {
      Cookie: house.cookie,
      ...(method === 'POST' ? { 'Content-Type': 'application/json', 'Idempotency-Key': randomUUID() } : {}),
    },
    ...(method === 'POST' ? { body: JSON.stringify(body ?? {}) } : {}),
  });
  if (!answer.ok) throw new Error(`${url}: ${await answer.text()}`);
  return (await answer.json()) as T;
}

/** Sends a file; returns its number. */
export async function upload(house: House, name: string, text: string): Promise<number> {
  const answer = await fetch(`${house.address}/api/files?name=${name}`, { method: 'POST', headers: { Cookie: house.cookie }, body: text });
  return ((await answer.json()) as { id: number }).id;
}

/** Waits for a job; returns the seconds that it took. */
export async function jobSeconds(house: House, job: number, wanted: string): Promise<number> {
  const begun = performance.now();
  for (;;) {
    const { state, said } = await call<{ state: string; said: string | null }>(house, 'GET', `/api/jobs/${job}`);
    if (state === wanted) return (performance.now() - begun) / 1000;
    if (!['waiting', 'running'].includes(state)) throw new Error(`The job is ${state}: ${said}`);
    await new Promise((resolve) => setTimeout(resolve, 50));
  }
}

/** Seconds for PostgreSQL alone to COPY the same file into an unindexed table of texts: the floor that nothing can be under. */
async function copySeconds(db: Db, text: string): Promise<number> {
  const folder = mkdtempSync(path.join(tmpdir(), 'dock-row-bench-'));
  const file = path.join(folder, 'rows.csv');
  writeFileSync(file, text);
  chmodSync(folder, 0o755);
  const columns = (text.slice(0, text.indexOf('\n')).match(/,/g) ?? []).length + 1;
  await query(db, `CREATE UNLOGGED TABLE bench_copy (${Array.from({ length: columns }, (_, i) => `c${i} text`).join(', ')})`);
  const begun = performance.now();
  await query(db, `COPY bench_copy FROM '${file}' CSV HEADER`);
  const seconds = (performance.now() - begun) / 1000;
  await query(db, `DROP TABLE bench_copy`);
  rmSync(folder, { recursive: true });
  return seconds;
}

function addressOf(bin: number): string {
  const aisle = String.fromCharCode(71 + Math.floor(bin / 4000)) + String.fromCharCode(65 + (Math.floor(bin / 200) % 20));
  return `${aisle}-${String(1 + (Math.floor(bin / 4) % 50)).padStart(2, '0')}-${1 + (bin % 4)}`;
}

/** Imports of 20,000 bins and of a list of 50,000 articles, through the interface, against a plain COPY of the same file. */
export async function importRows(house: House): Promise<Row[]> {
  const bins = ['Zone,Address,Alias,Walk,Room in kg'];
  for (let i = 0; i < BINS; i += 1)
    // 100 aisles of 50 bays of 4 shelves: as many bays to draw as such a floor has.
    bins.push(`STORE,${addressOf(i)},,${1000 + i},250`);
  const binCsv = bins.join('\n');
  const binJob = (await call<{ job: number }>(house, 'POST', '/api/bin-imports', { file: await upload(house, 'bins.csv', binCsv) })).job;
  const binDry = await jobSeconds(house, binJob, 'checked');
  await call(house, 'POST', `/api/jobs/${binJob}/go`);
  const binApply = await jobSeconds(house, binJob, 'done');
  const binCopy = await copySeconds(house.db, binCsv);
  const list = ['Part,Text,EAN,Net,Retail'];
  for (let i = 0; i < LIST_ROWS; i += 1)
    list.push(
      `BX-${100000 + i},${WORDS[i % WORDS.length]} ${WORDS[(i * 7 + 3) % WORDS.length]} no ` +
        `${i},${withCheckDigit(String(520000000000 + i))},${(1 + (i % 900) / 10).toFixed(2)},${(2 + (i % 900) / 6).toFixed(2)}`,
    );
  const csv = list.join('\n');
  const file = await upload(house, 'list.csv', csv);
  const mapping = { partNo: 'Part', description: 'Text', barcode: 'EAN', cost: 'Net', price: 'Retail' };
  const { job } = await call<{ job: number }>(house, 'POST', '/api/price-lists/1/imports', { file, mapping, holdsFrom: '2026-01-01' });
  const dry = await jobSeconds(house, job, 'checked');
  await call(house, 'POST', `/api/jobs/${job}/go`);
  const apply = await jobSeconds(house, job, 'done');
  const copy = await copySeconds(house.db, csv);
  return [
    { name: `import of ${BINS} bins: dry run`, value: binDry, unit: 's' },
    { name: `import of ${BINS} bins: going ahead`, value: binApply, unit: 's' },
    { name: 'bin import, both steps / plain COPY of the file', value: (binDry + binApply) / binCopy, unit: 'ratio' },
    { name: `price list of ${LIST_ROWS} rows: dry run`, value: dry, unit: 's' },
    { name: `price list of ${LIST_ROWS} rows: going ahead`, value: apply, unit: 's' },
    { name: 'price-list import, rows a second, both steps', value: LIST_ROWS / (dry + apply), unit: 'per second' },
    { name: 'price-list import, both steps / plain COPY of the file', value: (dry + apply) / copy, unit: 'ratio' },
  ];
}

const WORDS = [
  'hive frame wax foundation smoker veil glove strap jar tray lid queen cage feeder syrup pollen board floor roof super excluder',
  'gate tap sieve spinner honey comb candle wick mould rope mesh sapling pruner ladder crate press barrel bottle label',
].flatMap((line) => line.split(' '));

/** Search as one types, at 200,000 items and 500,000 rows of price lists: quantiles over codes, barcodes, words, half words and slips. */
export async function searchRows(house: House): Promise<Row[]> {
  await query(
    house.db,
    `INSERT INTO item (code, description, item_group, search, words)
     SELECT code, d, 'Bench', lower(code || ' ' || d), search_words(code || ' ' || d) FROM (
       SELECT 'IT-' || (100000 + n) AS code,
         w[1 + n % ?] || ' ' || w[1 + (n * 13 / 7) % ?] || ' ' || w[1 + (n / 41) % ?] || ' ' || (n % 977) AS d
       FROM generate_series(1, ?) n, (SELECT ?::text[] AS w) words) x ON CONFLICT DO NOTHING`,
    [WORDS.length, WORDS.length, WORDS.length, ITEMS, WORDS],
  );
  await query(
    house.db,
    `INSERT INTO price_row (supplier_id, part_no, description, gtin, cost, holds_from, words)
     SELECT 1 + n % 8, 'PX' || n, d, lpad((530000000000 + n)::text, 14, '0'), 1, current_date, search_words('PX' || n || ' ' || d) FROM (
       SELECT n, w[1 + (n * 3) % ?] || ' ' || w[1 + (n * 17 / 5) % ?] || ' ' || (n % 1291) AS d
       FROM generate_series(1, ?) n, (SELECT ?::text[] AS w) words) x ON CONFLICT DO NOTHING`,
    [WORDS.length, WORDS.length, PRICE_ROWS, WORDS],
  );
  await query(house.db, `VACUUM (ANALYZE) item`);
  await query(house.db, `VACUUM (ANALYZE) price_row`);
  const texts: string[] = [];
  for (let n = 0; n < 300; n += 1) {
    const [a, b] = [WORDS[(n * 5) % WORDS.length] ?? '', WORDS[(n * 11 + 2) % WORDS.length] ?? ''];
    texts.push(
      [
        `IT-${100000 + n * 613}`,
        `PX${n * 1601}`,
        String(530000000000 + n * 1601),
        a,
        `${a} ${b}`,
        `${b} ${a.slice(0, 3)} ${n % 977}`,
        a.slice(0, 3),
        `${a.slice(0, 2)}${a.slice(3)} ${b}`,
      ][n % 8] ?? a,
    );
  }
  const times: number[] = [];
  const ask = async (text: string, over: string): Promise<void> => {
    const begun = performance.now();
    await call(house, 'GET', `/api/items?q=${encodeURIComponent(text)}&over=${over}&limit=50`);
    times.push(performance.now() - begun);
  };
  for (const text of texts.slice(0, 60)) await ask(text, 'both');
  times.length = 0;
  for (const text of texts) await ask(text, 'both');
  const sorted = times.sort((x, y) => x - y);
  return [
    {
      name: `search over ${ITEMS} items and ${PRICE_ROWS} list rows, p50`,
      value: sorted[Math.floor(sorted.length * 0.5)] ?? 0,
      unit: 'ms',
    },
    {
      name: `search over ${ITEMS} items and ${PRICE_ROWS} list rows, p95`,
      value: sorted[Math.floor(sorted.length * 0.95)] ?? 0,
      unit: 'ms',
      aim: '<= 50 ms',
    },
    { name: 'the same, slowest of 300', value: sorted.at(-1) ?? 0, unit: 'ms' },
  ];
}

/** Frames a second while the plan of more than 20,000 bins is panned, whole and close by. In a browser without a graphics card: software
 *  draws. */
export async function planRows(house: House): Promise<Row[]> {
  const browser = await chromium.launch(playwright.use?.launchOptions ?? {});
  const context = await browser.newContext({ baseURL: house.address, viewport: { width: 1280, height: 800 } });
  await context.addCookies(
    house.cookie.split('; ').map((c) => ({ name: c.slice(0, c.indexOf('=')), value: c.slice(c.indexOf('=') + 1), url: house.address })),
  );
  const page = await context.newPage();
  const measured = page.waitForResponse((answer) => answer.url().endsWith('/api/plan/measures'));
  await page.goto('/places/plan');
  await (await measured).finished();
  await page.getByText('Point at a bay').waitFor();
  const frames = (zoom: number): Promise<number> =>
    page.evaluate(async (factor) => {
      const box = document.querySelector('[role=application]') as HTMLElement & {
        floor: { pan(x: number, y: number): void; fit(): void; zoom(f: number): void };
      };
      box.floor.fit();
      box.floor.zoom(factor);
      await new Promise((resolve) => setTimeout(resolve, 500));
      const begun = performance.now();
      let n = 0;
      while (performance.now() - begun < 3000) {
        box.floor.pan(n % 40 < 20 ? 6 : -6, n % 30 < 15 ? 3 : -3);
        await new Promise(requestAnimationFrame);
        n += 1;
      }
      return n / 3;
    }, zoom);
  const rows: Row[] = [
    { name: 'plan of 20,000 bins, panned whole', value: await frames(1), unit: 'frames/s', aim: '>= 50' },
    { name: 'plan of 20,000 bins, panned at 4 times', value: await frames(4), unit: 'frames/s', aim: '>= 50' },
    { name: 'plan of 20,000 bins, panned at 12 times', value: await frames(12), unit: 'frames/s', aim: '>= 50' },
  ];
  await browser.close();
  return rows;
}
