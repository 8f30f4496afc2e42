import { expect, test } from '@playwright/test';
import { signIn } from '../server/testing/client.ts';
import { houseForTests } from './house.ts';

const house = houseForTests();

test('G9 kits at the desk: had made for an order, said to be made at the bench, taken apart', async ({ browser }) => {
  const lead = await signIn(house.address, 'Maren Oake');
  for (const r of await house.rows<{ id: number }>(`SELECT id FROM round WHERE state = 'open' AND site_id = 1`))
    await lead.ask('picking.throwAway', { params: { id: r.id } });
  const [zone] = await house.rows<{ id: number }>(`SELECT id FROM zone WHERE site_id = 1 AND purpose = 'storage' ORDER BY id LIMIT 1`);
  const make = async (code: string, bin: string | null): Promise<number> => {
    const body = { code, description: `Goods ${code}`, group: 'Test', unit: 'each', decimals: 0, tracking: 'none' as const };
    const { id } = (await lead.ask('items.make', { body })).reply;
    if (bin === null) return id;
    await lead.ask('places.makeBin', { body: { zone: zone?.id ?? 0, address: bin } });
    await lead.ask('stock.opening', { params: { id }, body: { lines: [{ bin, qty: '7', serials: [] }] } });
    return id;
  };
  const [part, kit] = [await make('DESK-P', 'DESK-1-1'), await make('DESK-K', null)];
  await lead.ask('items.setParts', { params: { id: kit }, body: { parts: [{ item: part, qty: '2' }] } });
  const order = (await lead.ask('orders.make', { body: { customer: 1, due: '2030-01-01', lines: [{ item: kit, qty: '2' }] } })).reply;
  const page = await house.desk(browser, 'Maren Oake');
  await page.goto(`/orders/${order.id}`);
  await page.getByRole('button', { name: 'Make 2 of their parts' }).click();
  await expect(page.getByText('2 to be made on')).toBeVisible();
  const [made] = await house.rows<{ id: number; number: string }>(`SELECT id, number FROM customer_order WHERE kit_id = $1`, [kit]);
  // The round of the order that waits fetches the parts.
  await page.getByRole('button', { name: 'Make a round' }).click();
  await page.waitForURL(/\/rounds\/\d+/);
  const round = Number(/\d+$/.exec(page.url())?.[0]);
  const { stopList } = (await lead.ask('picking.round', { params: { id: round } })).reply;
  const [pick] = stopList[0]?.picks ?? [];
  const body = { bin: 'DESK-1-1', code: 'DESK-P', qty: '4' };
  expect((await lead.ask('picking.pick', { params: { id: round, pick: pick?.id ?? 0 }, body })).status).toBe(200);
  expect((await lead.ask('picking.putDown', { params: { id: round }, body: { bin: 'BENCH-1' } })).status).toBe(200);
  // Nobody packs parts: the bench leads to the page where the kits are made.
  await page.goto(`/bench/${made?.id ?? 0}`);
  await expect(page).toHaveURL(new RegExp(`/orders/${made?.id}$`));
  await page.getByLabel('How many').fill('3');
  await page.getByRole('button', { name: 'They are made' }).click();
  await expect(page.getByText(`2 DESK-K are still to be made of ${made?.number}, not more.`)).toBeVisible();
  await page.getByLabel('How many').fill('2');
  await page.getByRole('button', { name: 'They are made' }).click();
  await expect(page.getByText('2 of 2').first()).toBeVisible();
  const inHand = () => house.rows(`SELECT sum(qty)::int AS qty FROM in_hand WHERE item_id = $1`, [kit]);
  expect(await inHand()).toEqual([{ qty: 2 }]);
  await page.getByRole('button', { name: 'Take apart' }).click();
  await expect(page.getByText('taken apart')).toBeVisible();
  expect(await inHand()).toEqual([{ qty: null }]);
});
