import { readFileSync } from 'node:fs';
import path from 'node:path';
import { gzipSync } from 'node:zlib';
import { chromium, type Page } from '@playwright/test';
import playwright from '../playwright.config.ts';
import { quantile } from './ask.ts';
import type { Row } from './places-and-items.ts';

const THROTTLE = 4;
const TURNS = 4;
type Chunk = { file: string; isEntry?: boolean; imports?: string[] };

/** What is loaded before the first screen of a posture is there, gzipped, in kilobytes: the entry, the posture's own part, and all that
 *  these import. */
function firstLoad(posture: 'desk' | 'handheld'): number {
  const folder = path.resolve('dist/web');
  const manifest = JSON.parse(readFileSync(path.join(folder, '.vite/manifest.json'), 'utf8')) as Record<string, Chunk>;
  const files = new Set<string>();
  const add = (key: string): void => {
    const chunk = manifest[key];
    if (!chunk || files.has(chunk.file)) return;
    files.add(chunk.file);
    chunk.imports?.forEach(add);
  };
  for (const [key, chunk] of Object.entries(manifest)) if (chunk.isEntry || key === `${posture}/index.ts`) add(key);
  const texts = [...files].map((file) => readFileSync(path.join(folder, file)));
  if (texts.some((text) => text.includes('plotly'))) throw new Error(`The ${posture} loads Plotly before anybody asked for a chart.`);
  return texts.reduce((sum, text) => sum + gzipSync(text).length, 0) / 1000;
}

/** Pages by the words of the link that leads there, and what stands on them when they are there. */
const PAGES = [
  ['Expected', '/expected', 'PO-'],
  ['At the dock', '/deliveries', 'DL-'],
  ['To put away', '/put-away', 'ARRIVALS'],
  ['Ordered', '/orders', 'CO-'],
  ['Being picked', '/rounds', 'RD-'],
  ['At the bench', '/bench', 'CO-'],
  ['Being counted', '/counts', 'CT-'],
  ['Items', '/items', 'CL-10'],
  ['Places', '/places', 'New bin'],
  ['Ledger', '/ledger', 'OB-'],
  ['Floor', '/floor', 'Devices'],
  ['People', '/people', 'Maren Oake'],
  ['Dock Row', '/', 'On the floor'],
] as const;

// From the press to the frame in which what the page shows is drawn, in milliseconds.
async function change(page: Page, name: string, to: string, shows: string): Promise<number> {
  return page.evaluate(
    async ([link, there, words]) => {
      const found = [...document.querySelectorAll('a')].find(
        (a) => new URL(a.href).pathname === there && (a.textContent ?? '').startsWith(link),
      );
      if (!found) throw new Error(`No link ${link} leads to ${there}.`);
      const begun = performance.now();
      found.click();
      while (location.pathname !== there || !(document.querySelector('main')?.textContent ?? '').includes(words)) {
        if (performance.now() - begun > 20_000) throw new Error(`${there} never showed “${words}”.`);
        await new Promise(requestAnimationFrame);
      }
      await new Promise((resolve) => requestAnimationFrame(() => setTimeout(resolve, 0)));
      return performance.now() - begun;
    },
    [name, to, shows] as const,
  );
}

/** What the desk costs whoever looks at it: what is loaded first, and how long from one page to another whose data is there. */
export async function deskRows(house: { address: string; cookie: string }): Promise<Row[]> {
  const browser = await chromium.launch(playwright.use?.launchOptions ?? {});
  const context = await browser.newContext({ baseURL: house.address, viewport: { width: 1280, height: 800 } });
  await context.addCookies(
    house.cookie.split('; ').map((c) => ({ name: c.slice(0, c.indexOf('=')), value: c.slice(c.indexOf('=') + 1), url: house.address })),
  );
  const page = await context.newPage();
  await page.goto('/');
  await page.getByText('On the floor').first().waitFor();
  for (const [name, to, shows] of PAGES) await change(page, name, to, shows);
  const cdp = await context.newCDPSession(page);
  await cdp.send('Emulation.setCPUThrottlingRate', { rate: THROTTLE });
  const times: { to: string; ms: number }[] = [];
  for (let turn = 0; turn < TURNS; turn += 1)
    for (const [name, to, shows] of PAGES) times.push({ to, ms: await change(page, name, to, shows) });
  await browser.close();
  const slowest = times.reduce((a, b) => (a.ms > b.ms ? a : b));
  const all = times.map((t) => t.ms);
  return [
    { name: 'JavaScript that a desk loads first, gzipped, Plotly not in it', value: firstLoad('desk'), unit: 'kB', aim: '<= 250 kB' },
    {
      name: 'JavaScript that a handheld loads first, gzipped, Plotly not in it',
      value: firstLoad('handheld'),
      unit: 'kB',
      aim: '<= 220 kB',
    },
    { name: `from page to page, processor slowed ${THROTTLE} times, data there: p50`, value: quantile(all, 0.5), unit: 'ms' },
    { name: `the same, p95`, value: quantile(all, 0.95), unit: 'ms', aim: '<= 100 ms' },
    { name: `the same, slowest of ${all.length} (${slowest.to})`, value: slowest.ms, unit: 'ms' },
  ];
}
