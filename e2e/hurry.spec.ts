import { expect, test, type Page } from '@playwright/test';
import { seeded } from '#core/base';
import { houseForTests, scanAll } from './house.ts';

// Two hands in a hurry: whatever is scanned, pressed, keyed, reloaded or cut off, no screen breaks, the server answers, all is told, the
// ledger holds.
const SEED = Number(process.env['HURRY_SEED'] ?? 7);
const STEPS = Number(process.env['HURRY_STEPS'] ?? 160);

const house = houseForTests();

async function codes(): Promise<string[]> {
  const found = await house.rows<{ code: string }>(
    `(SELECT address AS code FROM bin WHERE site_id = 1 AND retired_at IS NULL ORDER BY md5(address) LIMIT 14)
     UNION ALL (SELECT c.code FROM barcode c JOIN item i ON i.id = c.item_id ORDER BY md5(c.code) LIMIT 14)
     UNION ALL (SELECT address FROM bin WHERE site_id = 1 AND use IN ('scrap', 'quarantine', 'packing', 'arrivals', 'cart'))
     UNION ALL (SELECT number FROM purchase_order WHERE state = 'open' AND site_id = 1 ORDER BY id LIMIT 3)
     UNION ALL (SELECT number FROM customer_order WHERE state = 'open' AND site_id = 1 ORDER BY id LIMIT 4)
     UNION ALL (SELECT number FROM round WHERE state <> 'done' LIMIT 2)
     UNION ALL (SELECT code FROM lot ORDER BY id LIMIT 4) UNION ALL (SELECT code FROM serial ORDER BY id LIMIT 4)`,
  );
  const odd = [
    '0',
    '  ',
    'Ω≈ç',
    'constructor',
    '<b>x</b>',
    '(01)09501101020917(17)310231',
    '4006381333931',
    '🐝',
    'NEW-LOT-1',
    'A'.repeat(400),
  ];
  return [...found.map((f) => f.code), ...odd];
}

test(`two hands in a hurry (seed ${SEED}): nothing breaks, everything is told, the ledger holds`, async ({ browser }) => {
  test.setTimeout(400_000);
  const hands = [await house.packed(browser, 'Tobin Sallow'), await house.packed(browser, 'Ines Farrow')];
  const broken: string[] = [];
  for (const hand of hands) {
    hand.on('pageerror', (error) => broken.push(error.message));
    hand.on('response', (r) => r.status() >= 500 && broken.push(`${r.status()} ${r.url()}`));
  }
  const all = await codes();
  const lying = await house.rows<{ address: string; barcode: string }>(
    `SELECT f.address, c.code AS barcode
     FROM stock_fact f
     JOIN barcode c ON c.item_id = f.item_id
     WHERE f.site_id = 1 AND f.use = 'shelf'
     ORDER BY md5(f.address || c.code)
     LIMIT 20`,
  );
  const next = seeded(SEED).next;
  const pick = <T>(from: readonly T[]): T => from[Math.floor(next() * from.length)] as T;
  const trail: string[] = [];
  const act = async (hand: Page): Promise<void> => {
    const dice = next();
    if (dice < 0.3) {
      // What the screen asks for, or goods from where they lie to somewhere else.
      const plate = hand.locator('main [role=img]').first();
      const code = hand.getByTestId('item-code');
      const asked = [
        (await plate.isVisible()) ? await plate.getAttribute('aria-label') : null,
        (await code.isVisible()) ? await code.textContent() : null,
      ].filter((c) => c !== null);
      const { address, barcode } = pick(lying);
      const some = asked.length > 0 && next() < 0.7 ? asked : [address, barcode, pick(lying).address];
      trail.push(`do ${some.join(', ')}`);
      return scanAll(hand, some);
    }
    if (dice < 0.55) {
      const some = Array.from({ length: 1 + Math.floor(next() * 3) }, () => pick(all));
      trail.push(`scan ${some.map((s) => s.slice(0, 30)).join(', ')}`);
      return scanAll(hand, some);
    }
    if (dice < 0.78) {
      // Whatever can be pressed but signing out, changing the site and the camera.
      const what = hand.locator('main button:enabled, main a, footer button:enabled').filter({ hasNotText: /Sign out/ });
      const n = await what.count();
      if (n === 0) return;
      const one = what.nth(Math.floor(next() * n));
      const label = (await one.textContent({ timeout: 2000 }).catch(() => null)) ?? '';
      if ((await one.getAttribute('aria-label', { timeout: 2000 }).catch(() => null))?.includes('camera')) return;
      trail.push(`press ${label.slice(0, 40)}`);
      return one.click({ timeout: 2000, clickCount: next() < 0.2 ? 2 : 1 }).catch(() => undefined);
    }
    if (dice < 0.88) {
      const number = pick(['1', '2', '3', '12', '0', '99999']);
      trail.push(`key ${number}`);
      for (const digit of number) await hand.keyboard.press(digit, { delay: 5 });
      return hand.keyboard.press('Enter');
    }
    if (dice < 0.93) {
      trail.push('reload or back');
      if (next() < 0.5) await hand.reload();
      else await hand.goBack({ timeout: 3000 }).catch(() => undefined);
      if (!new URL(hand.url()).pathname.startsWith('/h')) await hand.goto('/h');
      return;
    }
    const off = next() < 0.5;
    trail.push(off ? 'cut off' : 'reconnect');
    return hand.context().setOffline(off);
  };
  for (let n = 0; n < STEPS; n += 1) {
    await act(hands[n % 2] as Page);
    for (const hand of hands)
      if (await hand.getByText('This screen cannot be shown.').isVisible())
        broken.push(`a broken screen after ${trail.slice(-6).join(' | ')}`);
    expect(broken, trail.slice(-8).join(' | ')).toEqual([]);
  }
  for (const hand of hands) {
    await hand.context().setOffline(false);
    await hand.goto('/h');
    await expect(hand.getByRole('heading', { name: 'My work' })).toBeVisible({ timeout: 20_000 });
  }
  for (const hand of hands) await expect(hand.getByTestId('waiting')).toBeHidden({ timeout: 90_000 });
  expect(broken).toEqual([]);
  const outcomes = await house.rows<{ outcome: string; n: number }>(`SELECT outcome, count(*)::int AS n FROM hand_act GROUP BY 1`);
  expect(outcomes.reduce((sum, o) => sum + o.n, 0)).toBeGreaterThan(STEPS / 40);
  // What clashed did so for a reason of the floor, never because something broke.
  expect(await house.rows(`SELECT refusal FROM hand_clash WHERE refusal->>'code' IN ('server.fault', 'hands.unreadable')`)).toEqual([]);
});
