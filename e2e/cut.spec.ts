import { expect, test } from '@playwright/test';
import { signIn } from '../server/testing/client.ts';
import { houseForTests } from './house.ts';

const house = houseForTests();

test('without a connection the desk says so, and what was never read; with one again it is read by itself', async ({ browser }) => {
  const lead = await house.desk(browser, 'Maren Oake');
  await lead.goto('/orders');
  await lead.getByText('CO-').first().waitFor();
  // The code of the pages is there before they are opened.
  await expect
    .poll(() => lead.evaluate(() => performance.getEntriesByType('resource').filter((r) => /receiving/.test(r.name)).length))
    .toBeGreaterThan(0);
  await lead.context().setOffline(true);
  await expect(lead.getByTestId('connection')).toContainText('what stands here may be old');
  await expect(lead.getByText('CO-').first()).toBeVisible();
  await lead.getByRole('link', { name: /^Expected/ }).click();
  await expect(lead.getByRole('alert')).toContainText('No connection to the server. This is read as soon as there is one again.');
  await lead.getByRole('button', { name: 'Try again' }).click();
  await expect(lead.getByRole('alert')).toBeVisible();
  await lead.context().setOffline(false);
  await expect(lead.getByText('PO-').first()).toBeVisible();
  await expect(lead.getByRole('alert')).toBeHidden();
  await expect(lead.getByText('what stands here may be old')).toBeHidden();
});

test('what is pressed without a connection is kept, told so, and done once when there is one', async ({ browser }) => {
  const lead = await house.desk(browser, 'Maren Oake');
  const [held] = await house.rows<{ id: number; number: string }>(
    `SELECT id, number FROM customer_order WHERE site_id = 1 AND state = 'open' AND held_for IS NOT NULL LIMIT 1`,
  );
  await lead.goto(`/orders/${held?.id}`);
  const release = lead.getByRole('button', { name: 'Release' });
  await release.waitFor();
  await lead.context().setOffline(true);
  await release.click();
  await expect(lead.getByTestId('connection')).toContainText('kept, sending again');
  await lead.context().setOffline(false);
  await expect.poll(() => house.rows(`SELECT held_for FROM customer_order WHERE id = ${held?.id}`)).toEqual([{ held_for: null }]);
  await expect(release).toBeHidden();
  expect(await house.rows(`SELECT 1 FROM command WHERE route = 'orders.release'`)).toHaveLength(1);
});

test('the server is killed under an open desk: it says so, and hears what happens after the next one has begun', async ({ browser }) => {
  const lead = await house.desk(browser, 'Maren Oake');
  await lead.goto('/orders');
  const rows = lead.getByRole('grid', { name: 'Orders' }).getByRole('row');
  await expect(rows.nth(1)).toContainText('CO-');
  const number = /CO-\d+/.exec((await rows.nth(3).textContent()) ?? '')?.[0] ?? '';
  await house.kill();
  await expect(lead.getByTestId('connection')).toContainText('what stands here may be old');
  await house.start();
  const asker = await signIn(house.address, 'Maren Oake');
  const [order] = await house.rows<{ id: number }>(`SELECT id FROM customer_order WHERE number = '${number}'`);
  const held = await asker.ask('orders.hold', { params: { id: order?.id ?? 0 }, body: { reason: 'after the fall' } });
  expect(held.status).toBe(200);
  await expect(rows.filter({ hasText: number })).toContainText('held', { timeout: 30_000 });
  await expect(lead.getByText('what stands here may be old')).toBeHidden();
});

test('a page that is loaded while the server cannot be reached is no door, and opens by itself', async ({ browser }) => {
  const lead = await house.desk(browser, 'Maren Oake');
  await lead.route('**/api/**', (route) => route.abort());
  await lead.goto('/orders');
  await expect(lead.getByRole('alert')).toContainText('The server cannot be reached.');
  await expect(lead.getByLabel('Password')).toBeHidden();
  await lead.unroute('**/api/**');
  await expect(lead.getByText('CO-').first()).toBeVisible({ timeout: 15_000 });
});
