import { expect, test } from '@playwright/test';
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
  await expect(lead.getByText('No connection: what stands here may be old.')).toBeVisible();
  await expect(lead.getByText('CO-').first()).toBeVisible();
  await lead.getByRole('link', { name: /^Expected/ }).click();
  await expect(lead.getByRole('alert')).toContainText('No connection to the server. This is read as soon as there is one again.');
  await lead.getByRole('button', { name: 'Try again' }).click();
  await expect(lead.getByRole('alert')).toBeVisible();
  await lead.context().setOffline(false);
  await expect(lead.getByText('PO-').first()).toBeVisible();
  await expect(lead.getByRole('alert')).toBeHidden();
  await expect(lead.getByText('No connection: what stands here may be old.')).toBeHidden();
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
  await expect(lead.getByText('No connection: kept, sending again …')).toBeVisible();
  await lead.context().setOffline(false);
  await expect.poll(() => house.rows(`SELECT held_for FROM customer_order WHERE id = ${held?.id}`)).toEqual([{ held_for: null }]);
  await expect(release).toBeHidden();
  expect(await house.rows(`SELECT 1 FROM command WHERE route = 'orders.release'`)).toHaveLength(1);
});
