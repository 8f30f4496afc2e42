import AxeBuilder from '@axe-core/playwright';
import { expect, test, type Page } from '@playwright/test';
import { openHouse, type House } from './house.ts';

let house: House;
test.beforeAll(async () => {
  house = await openHouse();
});
test.afterAll(() => house.close());

/** What axe finds against WCAG 2.2 AA on a screen, said so that one can mend it. */
async function faults(page: Page): Promise<string[]> {
  const { violations } = await new AxeBuilder({ page }).withTags(['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa']).analyze();
  return violations.flatMap((v) => v.nodes.slice(0, 3).map((n) => `${v.id}: ${n.target.join(' ')} ${n.html.slice(0, 120)}`));
}

test('the screens of places and items can be used by everybody: axe finds nothing against WCAG 2.2 AA', async ({ browser }) => {
  const lead = await house.desk(browser, 'Maren Oake');
  for (const [path, words] of [
    ['/places', 'Pick face'],
    ['/places/build', 'The walk begins'],
    ['/places/plan', 'Point at a bay.'],
    ['/places/import', 'Home bins of items'],
    ['/places/site', 'Default bins'],
    ['/items', 'CL-10'],
    ['/items/12', 'on hand'],
    ['/items/price-lists', 'Saltquill Joinery'],
    ['/items/shelf-labels', 'As prices will be on'],
    ['/stock', 'at cost'],
    ['/holds', 'Kept for the October fair'],
  ] as const) {
    await lead.goto(path);
    await lead.getByText(words).first().waitFor();
    expect(await faults(lead), path).toEqual([]);
  }
  const hand = await house.handheld(browser, 'Tobin Sallow');
  for (const [path, words] of [
    ['/h', 'New item by scan'],
    ['/h/quick-add', 'Scan the goods.'],
    ['/h/assign', 'Scan a bin, then its items.'],
  ] as const) {
    await hand.goto(path);
    await hand.getByText(words).first().waitFor();
    expect(await faults(hand), path).toEqual([]);
  }
});
