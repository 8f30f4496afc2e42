import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import path from 'node:path';
import bwip from 'bwip-js/node';
import { chromium, expect, test, type Browser } from '@playwright/test';
import sharp from 'sharp';
import { houseForTests } from './house.ts';

const WIDTH = 640;
const HEIGHT = 360;
const FRAMES_A_SECOND = 5;

type Label = { readonly bcid: string; readonly text: string; readonly scale?: number };
let folder: string;
const house = houseForTests();
test.beforeAll(async () => {
  folder = await mkdtemp(path.join(tmpdir(), 'dock-row-camera-'));
});
test.afterAll(() => rm(folder, { recursive: true }));

/** One picture of the camera as YUV 4:2:0: labels side by side on a grey shelf. */
async function picture(labels: readonly Label[]): Promise<Buffer> {
  const drawn = await Promise.all(
    labels.map((l) => bwip.toBuffer({ ...l, scale: l.scale ?? 2, height: 16, padding: 8, backgroundcolor: 'FFFFFF' })),
  );
  const grey = await sharp({ create: { width: WIDTH, height: HEIGHT, channels: 3, background: '#8a8a8a' } })
    .composite(
      await Promise.all(
        drawn.map(async (input, n) => {
          const { width = 0, height = 0 } = await sharp(input).metadata();
          const left = Math.round(((n + 0.5) * WIDTH) / drawn.length - width / 2);
          return { input, left, top: Math.round((HEIGHT - height) / 2) };
        }),
      ),
    )
    .greyscale()
    .raw()
    .toBuffer();
  return Buffer.concat([grey, Buffer.alloc((WIDTH * HEIGHT) / 2, 128)]);
}

/** A browser whose camera sees these pictures, each for so many seconds, again and again. */
async function seeing(name: string, pictures: readonly { labels: readonly Label[]; seconds: number }[], granted = true): Promise<Browser> {
  const parts = [Buffer.from(`YUV4MPEG2 W${WIDTH} H${HEIGHT} F${FRAMES_A_SECOND}:1 Ip C420jpeg\n`)];
  for (const { labels, seconds } of pictures) {
    const frame = Buffer.concat([Buffer.from('FRAME\n'), await picture(labels)]);
    for (let n = 0; n < seconds * FRAMES_A_SECOND; n += 1) parts.push(frame);
  }
  const file = path.join(folder, `${name}.y4m`);
  await writeFile(file, Buffer.concat(parts));
  const { launchOptions } = test.info().project.use;
  return chromium.launch({
    ...launchOptions,
    args: [
      ...(launchOptions?.args ?? []),
      '--use-fake-device-for-media-stream',
      `--use-file-for-fake-video-capture=${file}`,
      granted ? '--use-fake-ui-for-media-stream' : '--deny-permission-prompts',
    ],
  });
}

type Goods = { address: string; code: string; id: number; barcode: string; qty: number };
/** Goods that lie in one bin and carry an EAN-13. */
async function goodsOnShelf(): Promise<Goods> {
  const [g] = await house.rows<Goods>(
    `SELECT i.id, i.code, c.code AS barcode, f.address, f.qty::int AS qty FROM stock_fact f JOIN item i ON i.id = f.item_id
       JOIN pack p ON p.item_id = i.id AND p.units = 1 JOIN barcode c ON c.pack_id = p.id
     WHERE f.site_id = 1 AND f.use = 'shelf' AND f.pickable AND i.tracking = 'none' AND i.decimals = 0 AND f.qty BETWEEN 6 AND 400
       AND c.code ~ '^\\d{13}$'
       AND (SELECT count(*) FROM balance x WHERE x.item_id = i.id) = 1 ORDER BY f.walk LIMIT 1`,
  );
  if (!g) throw new Error('The demo has no such goods.');
  return g;
}
const NOTHING = { labels: [], seconds: 2 };
const bin = (text: string): Label => ({ bcid: 'code128', text });

test(
  'a move by camera alone: each label once, the same again after it was out of sight, a keyed number with the next; on from ' +
    'screen to screen',
  async () => {
    const g = await goodsOnShelf();
    const browser = await seeing('move', [
      { labels: [bin(g.address)], seconds: 2 },
      NOTHING,
      { labels: [{ bcid: 'gs1datamatrix', text: `(01)0${g.barcode}`, scale: 4 }], seconds: 2 },
      { labels: [], seconds: 6 },
      { labels: [bin('QUARANTINE')], seconds: 2 },
      NOTHING,
      { labels: [bin('QUARANTINE')], seconds: 2 },
      NOTHING,
    ]);
    const hand = await house.handheld(browser, 'Tobin Sallow');
    const decoders: string[] = [];
    hand.context().on('request', (r) => r.url().endsWith('.wasm') && decoders.push(r.url()));
    expect(decoders).toEqual([]);
    await hand.getByRole('button', { name: 'Scan by camera' }).click();
    await expect(hand.getByRole('heading', { name: 'Move goods' })).toBeVisible({ timeout: 30_000 });
    await expect(hand.getByTestId('camera-says')).toHaveText('Hold one code on the line.');
    await expect(hand.getByRole('status')).toContainText(`1 ${g.code}`, { timeout: 20_000 });
    await hand.keyboard.press('3');
    await expect(hand.getByRole('status')).toContainText('Scan it again if it goes there', { timeout: 20_000 });
    await expect(hand.getByRole('status')).toContainText(`3 ${g.code} is in QUARANTINE`, { timeout: 20_000 });
    expect(decoders.length).toBeGreaterThan(0);
    await hand.getByRole('button', { name: 'Close the camera' }).click();
    await expect(hand.getByRole('region', { name: 'Camera' })).toBeHidden();
    await expect(hand.getByTestId('waiting')).toBeHidden({ timeout: 20_000 });
    expect(
      await house.rows(`SELECT address, qty::int AS qty FROM stock_fact WHERE item_id = $1 AND site_id = 1 ORDER BY qty`, [g.id]),
    ).toEqual([
      { address: 'QUARANTINE', qty: 3 },
      { address: g.address, qty: g.qty - 3 },
    ]);
    await browser.close();
  },
);

test('two labels side by side are none; after a reload the camera is on as it was', async () => {
  const browser = await seeing('two', [{ labels: [bin('A-01-1'), bin('A-01-2')], seconds: 2 }]);
  const hand = await house.handheld(browser, 'Ines Farrow');
  await hand.getByRole('button', { name: 'Scan by camera' }).click();
  await expect(hand.getByTestId('camera-says')).toContainText('Several codes in sight', { timeout: 20_000 });
  await hand.reload();
  await expect(hand.getByTestId('camera-says')).toContainText('Several codes in sight', { timeout: 20_000 });
  await expect(hand.getByRole('heading', { name: 'My work' })).toBeVisible();
  await browser.close();
});

test('a camera that the browser refuses says so and can be tried again', async () => {
  const browser = await seeing('refused', [NOTHING], false);
  const hand = await house.handheld(browser, 'Ines Farrow');
  await hand.getByRole('button', { name: 'Scan by camera' }).click();
  await expect(hand.getByRole('alert')).toContainText('Allow it beside the address', { timeout: 20_000 });
  await hand.getByRole('button', { name: 'Try again' }).click();
  await expect(hand.getByRole('alert')).toContainText('Allow it beside the address', { timeout: 20_000 });
  await hand.getByRole('button', { name: 'Close', exact: true }).click();
  await expect(hand.getByRole('region', { name: 'Camera' })).toBeHidden();
  await browser.close();
});

test('the browser’s own detector is taken where there is one that reads what goods carry; no decoder is loaded', async () => {
  const browser = await seeing('own', [NOTHING]);
  const hand = await house.handheld(browser, 'Jory Penhale');
  await hand.addInitScript(() => {
    class BarcodeDetector {
      static getSupportedFormats = () => Promise.resolve(['ean_13', 'ean_8', 'upc_a', 'code_128', 'data_matrix', 'qr_code']);
      detect({ width, height }: HTMLCanvasElement) {
        const cornerPoints = [{ x: width / 2, y: height / 2 }];
        return Promise.resolve([{ rawValue: 'A-01-1', format: 'code_128', cornerPoints }]);
      }
    }
    Object.assign(window, { BarcodeDetector });
  });
  const decoders: string[] = [];
  hand.context().on('request', (r) => r.url().includes('decoder') && decoders.push(r.url()));
  await hand.reload();
  await hand.getByRole('button', { name: 'Scan by camera' }).click();
  await expect(hand.getByRole('heading', { name: 'Move goods' })).toBeVisible({ timeout: 20_000 });
  expect(decoders).toEqual([]);
  await browser.close();
});
