import { expect, test } from '@playwright/test';
import { houseForTests, key, scanFor } from './house.ts';

const house = houseForTests();

type Task = { id: number; item: string; barcode: string; from: string; to: string; qty: number };
/** The lines of a round, those without lots and serials, in the order of its way. */
const tasksOf = (round: number): Promise<Task[]> =>
  house.rows(
    `SELECT t.id, i.code AS item, (
         SELECT c.code FROM barcode c JOIN pack p ON p.id = c.pack_id WHERE c.item_id = i.id ORDER BY p.units LIMIT 1) AS barcode,
       f.address AS from, g.address AS to, t.qty::int AS qty
     FROM carry_task t
     JOIN carry c ON c.id = t.carry_id
     JOIN item i ON i.id = t.item_id
     JOIN bin f ON f.id = t.from_bin
     JOIN bin g ON g.id = t.to_bin
     WHERE t.carry_id = $1
     ORDER BY array_position(c.put_way, t.to_bin), t.id`,
    [round],
  );
const roundIn = (url: string): number => Number(/\d+$/.exec(url)?.[0]);
const stateOf = (round: number): Promise<{ state: string }[]> => house.rows(`SELECT state FROM carry WHERE id = $1`, [round]);

test('I2 what lies at arrivals becomes a round: half of it walked without a connection, one thing put elsewhere, a reload between', async ({
  browser,
}) => {
  const lead = await house.desk(browser, 'Maren Oake');
  await lead.goto('/put-away');
  await lead.getByRole('button', { name: 'Make a round of all' }).click();
  await lead.waitForURL(/\/carries\/\d+/);
  const round = roundIn(lead.url());
  const tasks = await tasksOf(round);
  expect(tasks.length).toBeGreaterThan(3);
  const hand = await house.packed(browser, 'Tobin Sallow');
  await hand.goto('/h');
  await hand.getByRole('link', { name: /Take CR-/ }).click();
  await hand.getByTestId('to-carry').waitFor();
  const putAll = async (t: Task, into: string): Promise<void> => {
    await scanFor(hand, t.barcode, t.qty > 1 ? '1 put down' : 'put down');
    if (t.qty > 1) await key(hand, String(t.qty));
    await expect(hand.getByRole('status')).toContainText(/all \d+ put down|The round is done/);
    expect(into).not.toBe('');
  };
  const [empty] = await house.rows<{ address: string }>(
    `SELECT b.address FROM bin b JOIN zone z ON z.id = b.zone_id
     WHERE b.site_id = 1 AND b.use = 'shelf' AND b.retired_at IS NULL AND z.purpose = 'storage' AND b.storage_class IS NULL
       AND NOT EXISTS (SELECT 1 FROM balance x WHERE x.bin_id = b.id) AND NOT EXISTS (SELECT 1 FROM home_bin h WHERE h.bin_id = b.id)
     ORDER BY b.volume_ml DESC NULLS FIRST LIMIT 1`,
  );
  for (const [n, t] of tasks.entries()) {
    if (n === 1) await hand.context().setOffline(true);
    if (n === 2) {
      await hand.reload().catch(() => undefined);
      await hand.getByTestId('to-carry').waitFor();
    }
    if (n === 3) await hand.context().setOffline(false);
    if (n === 2 && empty) {
      // Somewhere else than planned: the other bin, twice.
      await scanFor(hand, empty.address, 'again if it goes here');
      await scanFor(hand, empty.address, 'Right bin');
    } else await scanFor(hand, t.to, 'Right bin');
    await putAll(t, t.to);
  }
  await expect(hand.getByText('This round is done.')).toBeVisible();
  await expect.poll(() => stateOf(round)).toEqual([{ state: 'done' }]);
  await lead.goto('/put-away');
  await expect(lead.getByText('Arrivals are clear.')).toBeVisible();
  const [there] = await house.rows<{ qty: number }>(
    `SELECT coalesce(sum(f.qty), 0)::int AS qty FROM stock_fact f JOIN item i ON i.id = f.item_id WHERE f.address = $1 AND i.code = $2`,
    [empty?.address, tasks[2]?.item],
  );
  expect(there?.qty).toBe(tasks[2]?.qty);
});

test('I5 a refill round: taken out of reserve onto the cart, undone once, put into the faces', async ({ browser }) => {
  const lead = await house.desk(browser, 'Maren Oake');
  await lead.goto('/refill');
  await lead.getByRole('button', { name: 'Make a refill round of all' }).click();
  await lead.waitForURL(/\/carries\/\d+/);
  const round = roundIn(lead.url());
  const tasks = await tasksOf(round);
  const hand = await house.handheld(browser, 'Ines Farrow');
  await hand.goto(`/h/carry/${round}`);
  await hand.getByTestId('to-carry').waitFor();
  await scanFor(hand, tasks[0]?.to ?? '', 'Wrong bin');
  let isUndone = false;
  for (const t of tasks) {
    await scanFor(hand, t.from, 'Right bin');
    await scanFor(hand, t.barcode, 'on the cart');
    if (!isUndone) {
      isUndone = true;
      await hand.getByRole('button', { name: 'Undo' }).click();
      await expect(hand.getByRole('status')).toContainText('goes back into');
      await scanFor(hand, t.barcode, 'on the cart');
    }
    if (t.qty > 1) await key(hand, String(t.qty));
    await expect(hand.getByRole('status')).toContainText(`all ${t.qty.toLocaleString('en')}`);
  }
  await expect(lead.getByText('on the cart').first()).toBeVisible();
  for (const t of tasks) {
    await scanFor(hand, t.to, 'Right bin');
    await scanFor(hand, t.barcode, 'put down');
    if (t.qty > 1) await key(hand, String(t.qty));
    await expect(hand.getByRole('status')).toContainText(/all [\d,]+ put down|The round is done/);
  }
  await expect.poll(() => stateOf(round)).toEqual([{ state: 'done' }]);
  await lead.goto('/refill');
  await expect(lead.getByText(/Every pick face has enough|rows?$/).first()).toBeVisible();
});
