import { expect, test, type Page } from '@playwright/test';
import { signIn, type Client } from '../server/testing/client.ts';
import { houseForTests, scan, scanAll, scanFor } from './house.ts';

let lead: Client;
const house = houseForTests({
  made: async (it) => {
    lead = await signIn(it.address, 'Maren Oake');
  },
});

const toSend = (hand: Page) => hand.getByTestId('waiting');

/** Scans fifty at a time, and waits until the device has kept as many as must wait by then. */
async function scansAway(hand: Page, codes: readonly string[], keptAfter: (scans: number) => number): Promise<void> {
  for (let n = 0; n < codes.length; n += 50) {
    await scanAll(hand, codes.slice(n, n + 50));
    await expect(toSend(hand)).toHaveText(new RegExp(`^${keptAfter(Math.min(codes.length, n + 50))} to send`), { timeout: 30_000 });
  }
}

type Counted = { count: number; number: string; zone: string; bins: string[]; code: string; barcode: string };
/** A count of a zone with that many bins at least, and goods to be found there. */
async function countOf(bins: number): Promise<Counted> {
  const [zone] = await house.rows<{ id: number; name: string }>(
    `SELECT z.id, z.name FROM zone z WHERE z.site_id = 1 AND z.purpose IN ('storage', 'pickFace', 'cold', 'cage')
       AND NOT EXISTS (SELECT 1 FROM stock_count c WHERE c.zone_id = z.id AND c.state = 'open')
       AND (SELECT count(*) FROM bin b WHERE b.zone_id = z.id AND b.retired_at IS NULL) BETWEEN $1 AND 60 ORDER BY z.id LIMIT 1`,
    [bins],
  );
  const { reply } = await lead.ask('counting.make', { body: { zone: zone?.id ?? 0 } });
  const addresses = await house.rows<{ address: string }>(
    `SELECT address FROM bin WHERE zone_id = $1 AND retired_at IS NULL ORDER BY walk, id LIMIT $2`,
    [zone?.id, bins],
  );
  const [jar] = await house.rows<{ code: string; barcode: string }>(
    `SELECT i.code, c.code AS barcode
     FROM item i
     JOIN pack p ON p.item_id = i.id AND p.units = 1
     JOIN barcode c ON c.pack_id = p.id
     WHERE i.tracking = 'none' AND i.decimals = 0
     ORDER BY i.id
     LIMIT 1`,
  );
  if (!jar) throw new Error('The demo has no plain goods with a barcode.');
  return { count: reply.id, number: reply.number, zone: zone?.name ?? '', bins: addresses.map((b) => b.address), ...jar };
}
const tallies = (count: number): Promise<{ address: string; qty: number; scans: number }[]> =>
  house.rows(
    `SELECT b.address, sum(t.qty)::int AS qty, count(*)::int AS scans
     FROM tally t
     JOIN bin b ON b.id = t.bin_id
     WHERE t.count_id = $1 AND t.taken_out_at IS NULL
     GROUP BY b.id
     ORDER BY b.walk, b.id`,
    [count],
  );

test('C18 J2 a thousand scans on three devices without a connection; two come back at once: every one is there, none twice', async ({
  browser,
}) => {
  test.setTimeout(400_000);
  const [order] = await house.rows<{ id: number; number: string }>(
    `SELECT o.id, o.number
     FROM purchase_order o
     WHERE o.state = 'open' AND o.site_id = 1
       AND NOT EXISTS (SELECT 1 FROM delivery_order d WHERE d.purchase_order_id = o.id AND d.open)
       AND (
         SELECT count(*)
         FROM purchase_line l
         JOIN item i ON i.id = l.item_id
         WHERE l.purchase_order_id = o.id AND i.tracking = 'none'
       ) >= 2
       ORDER BY o.id
       LIMIT 1`,
  );
  const goods = await house.rows<{ code: string; barcode: string; units: number }>(
    `SELECT DISTINCT ON (i.id) i.code, c.code AS barcode, p.units::int AS units
     FROM purchase_line l
     JOIN item i ON i.id = l.item_id
     JOIN pack p ON p.item_id = i.id
     JOIN barcode c ON c.pack_id = p.id
     WHERE l.purchase_order_id = $1 AND i.tracking = 'none' AND i.decimals = 0 ORDER BY i.id, p.units`,
    [order?.id],
  );
  const { reply: delivery } = await lead.ask('receiving.start', { body: { purchaseOrder: order?.number ?? '' } });
  const count = await countOf(9);
  const [tobin, ines, jory] = [
    await house.packed(browser, 'Tobin Sallow'),
    await house.packed(browser, 'Ines Farrow'),
    await house.packed(browser, 'Jory Penhale'),
  ];
  await scan(tobin, delivery.number);
  await scan(ines, delivery.number);
  await scan(jory, count.number);
  for (const hand of [tobin, ines]) await expect(hand.getByRole('heading', { name: `Receive ${order?.number}` })).toBeVisible();
  await expect(jory.getByRole('heading', { name: `Count ${count.zone}` })).toBeVisible();
  for (const hand of [tobin, ines, jory]) await hand.context().setOffline(true);

  const arriving = (scans: number, first: number): string[] =>
    Array.from({ length: scans }, (_, n) => goods[(n + first) % goods.length]?.barcode ?? '');
  const [byTobin, byInes] = [arriving(334, 0), arriving(333, 1)];
  // Nine bins, each scanned once and then 36 times its goods.
  const byJory = count.bins.flatMap((bin) => [bin, ...Array.from({ length: 36 }, () => count.barcode)]);
  expect(byTobin.length + byInes.length + byJory.length).toBe(1000);
  await Promise.all([
    scansAway(tobin, byTobin, (n) => n),
    scansAway(ines, byInes, (n) => n),
    scansAway(jory, byJory, (n) => n - Math.ceil(n / 37)),
  ]);

  await Promise.all([tobin, ines].map((hand) => hand.context().setOffline(false)));
  for (const hand of [tobin, ines]) await expect(toSend(hand)).toBeHidden({ timeout: 120_000 });
  await jory.context().setOffline(false);
  await expect(toSend(jory)).toBeHidden({ timeout: 90_000 });

  const units = new Map(goods.map((g) => [g.barcode, g]));
  const expected = [
    ['Tobin Sallow', byTobin],
    ['Ines Farrow', byInes],
  ].flatMap(([name, scans]) =>
    goods.map((g) => {
      const times = (scans as string[]).filter((code) => code === g.barcode).length;
      return { name, code: g.code, scans: times, qty: times * (units.get(g.barcode)?.units ?? 0) };
    }),
  );
  const entered = await house.rows(
    `SELECT p.name, i.code, count(*)::int AS scans, sum(e.qty)::int AS qty
     FROM delivery_entry e
     JOIN item i ON i.id = e.item_id
     JOIN person p ON p.id = e.person_id
     WHERE e.delivery_id = $1 AND e.taken_out_at IS NULL GROUP BY 1, 2`,
    [delivery.id],
  );
  expect(entered).toHaveLength(expected.length);
  expect(entered).toEqual(expect.arrayContaining(expected));
  expect(await tallies(count.count)).toEqual(count.bins.map((address) => ({ address, qty: 36, scans: 36 })));
  expect(await house.rows(`SELECT outcome, count(*)::int AS n FROM hand_act GROUP BY 1`)).toEqual([
    { outcome: 'done', n: 334 + 333 + 9 * 36 },
  ]);
  // Each device shows what all of them did.
  const all = goods.slice(0, 1).map((g) => expected.filter((e) => e.code === g.code).reduce((sum, e) => sum + e.qty, 0));
  await scanFor(tobin, goods[0]?.barcode ?? '', new RegExp(`${goods[0]?.code}: ${(all[0] ?? 0) + (goods[0]?.units ?? 0)} of`));
  await lead.ask('counting.throwAway', { params: { id: count.count } });
});

test('the server is killed twice while a device tells it of 240 scans: all of them are there, once', async ({ browser }) => {
  test.setTimeout(300_000);
  const { count, number, zone, bins, barcode } = await countOf(4);
  const hand = await house.packed(browser, 'Jory Penhale');
  await scan(hand, number);
  await expect(hand.getByRole('heading', { name: `Count ${zone}` })).toBeVisible();
  await hand.context().setOffline(true);
  const codes = bins.flatMap((bin) => [bin, ...Array.from({ length: 60 }, () => barcode)]);
  await scansAway(hand, codes, (n) => n - Math.ceil(n / 61));
  await hand.context().setOffline(false);
  const told = async (): Promise<number> =>
    (await house.rows<{ n: number }>(`SELECT count(*)::int AS n FROM hand_act WHERE job = $1`, [`count:${count}`]))[0]?.n ?? 0;
  const seen: number[] = [];
  for (const least of [20, 140]) {
    await expect.poll(told, { timeout: 60_000, intervals: [50] }).toBeGreaterThan(least);
    await house.kill();
    seen.push(await told());
    // What was begun and not ended is nowhere: an act and its tally are there together or not at all.
    expect((await tallies(count)).reduce((sum, t) => sum + t.scans, 0)).toBe(seen.at(-1));
    await house.start();
  }
  await expect(toSend(hand)).toBeHidden({ timeout: 120_000 });
  expect(seen.every((n) => n < 240)).toBe(true);
  expect(await tallies(count)).toEqual(bins.map((address) => ({ address, qty: 60, scans: 60 })));
  await lead.ask('counting.throwAway', { params: { id: count } });
});
