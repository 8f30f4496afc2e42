import { expect, test } from '@playwright/test';
import { clashCases } from '../server/testing/clash-cases.ts';
import { signIn } from '../server/testing/client.ts';
import { openHand, type Hand } from '../server/testing/hand.ts';
import { houseForTests } from './house.ts';

const house = houseForTests();

test('every clash of the table is seen by the lead on the floor’s page and settled there in each way', async ({ browser }) => {
  test.setTimeout(300_000);
  const hand = async (name: string): Promise<Hand> => {
    const [person] = await house.rows<{ id: number }>(`SELECT id FROM person WHERE name = $1`, [name]);
    return openHand(await signIn(house.address, name), person?.id ?? 0);
  };
  const asker = await signIn(house.address, 'Maren Oake');
  const cases = clashCases({ lead: asker, tobin: await hand('Tobin Sallow'), ines: await hand('Ines Farrow'), rows: house.rows });
  const lead = await house.desk(browser, 'Maren Oake');
  await lead.goto('/floor');
  const list = lead.getByRole('region', { name: 'From the floor, for the lead' });
  for (const { name, make, before, ways } of cases)
    for (const { how, label, after, first } of ways)
      await test.step(`${name}: ${how}`, async () => {
        const { act, gives, state } = await make();
        const { clashes } = (await asker.ask('hands.clashes', { query: { show: 'open' } })).reply;
        const clash = clashes.find((c) => c.key === act);
        // It comes to the open page by itself, with what was done, by whom, and what stands against it.
        const line = list
          .getByRole('listitem')
          .filter({ hasText: clash?.what ?? '' })
          .filter({ hasText: clash?.against ?? '' });
        await expect(line).toBeVisible({ timeout: 20_000 });
        await expect(line).toContainText(`${clash?.by}, `);
        expect({ name, state: await state() }).toEqual({ name, state: before });
        await first?.();
        await line.getByRole('button', { name: label }).click();
        if (how === 'tie' && gives?.item) {
          await line.getByLabel('The item', { exact: true }).fill(gives.item.code);
          await lead.getByRole('option', { name: gives.item.code }).first().click();
        }
        if (how === 'serial' && gives?.serial) {
          await line.getByLabel('Its serial').fill(gives.serial);
          await line.getByRole('button', { name: 'Enter it' }).click();
        }
        await expect(line).toBeHidden({ timeout: 20_000 });
        expect({ name, how, state: await state() }).toEqual({ name, how, state: after });
      });
  await lead.getByRole('button', { name: 'Also what was settled' }).click();
  await expect(list.getByText(/by Maren Oake/)).toHaveCount(cases.reduce((n, c) => n + c.ways.length, 0));
});
