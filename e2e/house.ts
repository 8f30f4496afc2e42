import { spawn, type ChildProcess } from 'node:child_process';
import { randomUUID } from 'node:crypto';
import { once } from 'node:events';
import { mkdtemp } from 'node:fs/promises';
import { createServer, type AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { expect, test, type Browser, type BrowserContext, type CDPSession, type Locator, type Page } from '@playwright/test';
import { openDatabase } from '#server/kernel';
import { applicationUrl } from '../server/testing/global-setup.ts';
import { runAudit } from '#server/stock';
import pg from 'pg';

const HANDHELD = { width: 390, height: 844 };
const DESK = { width: 1280, height: 800 };

/** A whole Dock Row on a copy of the demo: the built server, the simulated printer and supplier, and a look into the database. */
export type House = {
  address: string;
  databaseUrl: string;
  printer: string;
  /** What came out of the printers, the newest first, and the strip of the first site's as pictures. */
  printed(): Promise<{ title: string; copies: number }[]>;
  strip(): Promise<{ width: number; height: number; dpi: number; png: Buffer }[]>;
  /** The simulated supplier, which drops notices of what is on its way. */
  supplier: string;
  rows<Row>(sql: string, values?: readonly unknown[]): Promise<Row[]>;
  desk(browser: Browser, who: string): Promise<Page>;
  handheld(browser: Browser, who: string): Promise<Page>;
  /** A handheld that has everything it needs to work without a connection. */
  packed(browser: Browser, who: string): Promise<Page>;
  /** Ends the server as a power cut does, whatever it is doing. */
  kill(): Promise<void>;
  /** Starts it again, where it was. */
  start(): Promise<void>;
  /** Says what each open screen shows: where a test fails only now and then, that is all there is to go by. */
  tell(): Promise<void>;
  /** Closes every screen that was opened; pages left open go on reading and slow the next test down. */
  leave(): Promise<void>;
  close(): Promise<void>;
};

async function freePort(): Promise<number> {
  const probe = createServer().listen(0, '127.0.0.1');
  await once(probe, 'listening');
  const { port } = probe.address() as AddressInfo;
  probe.close();
  return port;
}

async function untilReady(server: ChildProcess): Promise<void> {
  await new Promise<void>((resolve, reject) => {
    server.stdout?.on('data', (chunk: Buffer) => String(chunk).includes('ready') && resolve());
    server.once('exit', () => reject(new Error('The server ended before it was ready.')));
  });
}

/** Opens a house on a clone of the template that the database tests made. `dist`: the built application, where it is not the usual one. */
export async function openHouse({
  base = process.env['TEST_DATABASE_URL'] ?? '',
  template = 'dockrow_template',
  dist = 'dist',
} = {}): Promise<House> {
  const name = `e2e_${randomUUID().replaceAll('-', '').slice(0, 12)}`;
  const admin = async (sql: string): Promise<void> => {
    const client = new pg.Client({ connectionString: new URL('/postgres', base).href });
    await client.connect();
    await client.query(sql);
    await client.end();
  };
  await admin(`CREATE DATABASE ${name} TEMPLATE ${template}`);
  const databaseUrl = new URL(`/${name}`, base).href;
  const [port, printerPort, supplierPort] = [await freePort(), await freePort(), await freePort()];
  const notices = await mkdtemp(path.join(tmpdir(), 'dock-row-notices-'));
  const printer = `http://127.0.0.1:${printerPort}`;
  const env = {
    ...process.env,
    DATABASE_URL: applicationUrl(databaseUrl),
    DATABASE_OWNER_URL: databaseUrl,
    PORT: String(port),
    PRINTER_PORT: String(printerPort),
    DOCKROW_PRINTER_URL: printer,
    SUPPLIER_PORT: String(supplierPort),
    DOCKROW_NOTICES: notices,
    DOCKROW_DEMO: '1',
  };
  const devices = ['printer', 'supplier'].map((name) => spawn('node', [`${dist}/${name}.mjs`], { env, stdio: 'inherit' }));
  const run = async (): Promise<ChildProcess> => {
    const started = spawn('node', [`${dist}/server.mjs`], { env, stdio: ['ignore', 'pipe', 'inherit'] });
    await untilReady(started);
    return started;
  };
  let server = await run();
  const pool = new pg.Pool({ connectionString: databaseUrl, max: 2 });
  const address = `http://127.0.0.1:${port}`;
  const open: BrowserContext[] = [];
  const leave = async (): Promise<void> => {
    await Promise.all(open.splice(0).map((context) => context.close()));
  };
  const enter = async (browser: Browser, who: string, viewport: typeof DESK): Promise<Page> => {
    const context = await browser.newContext({ viewport, baseURL: address });
    open.push(context);
    const page = await context.newPage();
    await page.goto('/');
    await page.locator('li', { hasText: who }).getByRole('button', { name: 'Come in' }).click();
    await page
      .getByRole(viewport === DESK ? 'navigation' : 'heading', { name: viewport === DESK ? 'The row' : 'My work', exact: true })
      .waitFor();
    return page;
  };
  return {
    address,
    databaseUrl,
    printer,
    printed: async () => (await pool.query(`SELECT title, copies FROM print_job WHERE state = 'printed' ORDER BY id DESC`)).rows as never,
    strip: async () => {
      const labels = (await (await fetch(`${printer}/strip/1`)).json()) as { n: number; width: number; height: number; dpi: number }[];
      const pngOf = async (n: number): Promise<Buffer> => Buffer.from(await (await fetch(`${printer}/strip/1/${n}.png`)).arrayBuffer());
      return Promise.all(labels.map(async ({ n, ...label }) => ({ ...label, png: await pngOf(n) })));
    },
    supplier: `http://127.0.0.1:${supplierPort}`,
    rows: async <Row>(sql: string, values: readonly unknown[] = []) => (await pool.query(sql, [...values])).rows as Row[],
    desk: (browser, who) => enter(browser, who, DESK),
    handheld: (browser, who) => enter(browser, who, HANDHELD),
    packed: async (browser, who) => {
      const hand = await enter(browser, who, HANDHELD);
      await untilKept(hand);
      return hand;
    },
    kill: async () => {
      server.kill('SIGKILL');
      await once(server, 'exit');
    },
    start: async () => {
      server = await run();
    },
    tell: async () => {
      for (const page of open.flatMap((context) => context.pages()))
        process.stdout.write(`${page.url()}\n${await page.locator('body').innerText({ timeout: 2000 }).catch(String)}\n`);
    },
    leave,
    close: async () => {
      await leave();
      server.kill('SIGTERM');
      for (const device of devices) device.kill('SIGTERM');
      await once(server, 'exit');
      // A connection that still says goodbye while its database is dropped concerns no test.
      pool.on('error', () => undefined);
      await pool.end();
      await admin(`DROP DATABASE ${name} WITH (FORCE)`);
    },
  };
}

/** The application is kept on the device, so that it opens without a server. On a busy machine keeping it takes its time. */
export async function untilKept(page: Page): Promise<void> {
  await page.waitForFunction(() => navigator.serviceWorker.controller !== null, undefined, { timeout: 60_000 });
}

/** The house of a file's tests: opened before the first, its screens closed after each, its ledger proved after the last. `made`: done
 *  when it is open. */
export function houseForTests({ made, ...how }: Parameters<typeof openHouse>[0] & { made?: (house: House) => Promise<void> } = {}): House {
  const house = {} as House;
  test.beforeAll(async () => {
    Object.assign(house, await openHouse(how));
    await made?.(house);
  });
  test.afterEach(async ({}, { status, expectedStatus }) => {
    if (status !== expectedStatus) await house.tell();
    await house.leave();
  });
  test.afterAll(async () => {
    const db = openDatabase(house.databaseUrl, { poolSize: 2 });
    const { faults } = await runAudit(db);
    await db.destroy();
    await house.close();
    expect(faults).toEqual([]);
  });
  return house;
}

/** Scans as a wedge scanner does: fast keys, then Enter, wherever the focus is. */
export async function scan(page: Page, code: string): Promise<void> {
  const line = lines.get(page) ?? (await page.context().newCDPSession(page));
  lines.set(page, line);
  const beginsAt = Date.now() / 1000;
  const typed = [...code, 'Enter'].flatMap((key, n) => {
    const text = key === 'Enter' ? '\r' : key;
    // With the moment of each key: a busy test machine must not turn a scanner into a slow typist.
    const stroke = { key, text, timestamp: beginsAt + n * KEY_SECONDS, windowsVirtualKeyCode: key === 'Enter' ? 13 : 0 };
    return [
      line.send('Input.dispatchKeyEvent', { type: 'keyDown', ...stroke }),
      line.send('Input.dispatchKeyEvent', { ...stroke, type: 'keyUp', text: '' }),
    ];
  });
  await Promise.all(typed);
}
const lines = new WeakMap<Page, CDPSession>();
const KEY_SECONDS = 0.004;

/** Scans so many codes one after the other, as fast as the page takes keys, without looking at what it answers. */
export async function scanAll(page: Page, codes: readonly string[]): Promise<void> {
  await page.evaluate((all) => {
    for (const code of all)
      for (const key of [...code, 'Enter'])
        document.body.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true }));
  }, codes);
}

/** Scans and waits for the answer of that scan, told by its words. */
export async function scanFor(page: Page, code: string, words: string | RegExp): Promise<void> {
  await scan(page, code);
  const status = page.getByRole('status');
  await status
    .filter({ hasText: words })
    .waitFor({ timeout: 6000 })
    .catch(async () => {
      throw new Error(
        `Scanned ${code} and waited for “${String(words)}”; the screen said “${(await status.allTextContents()).join(' | ')}”.`,
      );
    });
}

/** Chooses one of the options that a field opens. */
export async function choose(field: Locator, option: string): Promise<void> {
  await field.click();
  await field.page().getByRole('option', { name: option, exact: true }).click();
}

/** Names something in a field that finds it by words: the first that is found. */
export async function pick(field: Locator, words: string): Promise<void> {
  await field.click();
  await field.fill(words);
  await field.page().getByRole('option').filter({ hasText: words }).first().click();
  await expect(field).toHaveValue(new RegExp(words.replace(/[.*+?^${}()|[\]\\]/g, '\\$&')));
}

/** Lets this screen work at another site, by the choice that is named so; the page is loaded anew for it. */
export async function workAt(page: Page, site: string, label = 'Site'): Promise<void> {
  const choice = page.getByLabel(label, { exact: true });
  await Promise.all([page.waitForRequest((r) => r.isNavigationRequest()), choose(choice, site)]);
  await page.waitForLoadState();
  await expect(choice).toHaveText(site);
}

/** Keys a number as a hand does, wherever the focus is, and closes it with Enter. */
export async function key(page: Page, number: string): Promise<void> {
  await page.keyboard.type(number, { delay: 110 });
  await page.keyboard.press('Enter');
}
