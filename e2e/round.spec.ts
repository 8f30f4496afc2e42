import { expect, test } from '@playwright/test';
import { signIn } from '../server/testing/client.ts';
import { houseForTests, key, scan, scanFor } from './house.ts';

const house = houseForTests();

type Goods = { id: number; code: string; address: string };
type Tracking = 'none' | 'lotExpiry' | 'serial';

// A short, another lot by right, serials, kits made on the way; half of it without a connection, with a reload; put down in one place.
test('G1–G10 three orders over two zones in one walk, with whatever can come between', async ({ browser }) => {
  const lead = await signIn(house.address, 'Maren Oake');
  for (const r of await house.rows<{ id: number }>(`SELECT id FROM round WHERE state = 'open' AND site_id = 1`))
    await lead.ask('picking.throwAway', { params: { id: r.id } });
  // Goods of the test's own, in two zones: plain ones, two lots in one bin, serials, and a bin that holds fewer than the records say.
  const zones = await house.rows<{ id: number }>(
    `SELECT DISTINCT ON (purpose) id FROM zone WHERE site_id = 1 AND purpose IN ('storage', 'pickFace') ORDER BY purpose, id`,
  );
  const stocked = async (n: number, tracking: Tracking, lots: readonly object[]): Promise<Goods> => {
    const [code, address] = [`WALK-${n}`, `W-0${n}-1`];
    const body = { code, description: `Goods ${n} of the walk`, group: 'Test', unit: 'each', decimals: 0, tracking };
    const { id } = (await lead.ask('items.make', { body })).reply;
    await lead.ask('places.makeBin', { body: { zone: zones[n % zones.length]?.id ?? 0, address } });
    const lines = lots.map((lot) => ({ bin: address, qty: '9', serials: [], ...lot }));
    const opened = await lead.ask('stock.opening', { params: { id }, body: { lines } });
    if (opened.status !== 200) throw new Error(opened.problem.detail);
    return { id, code, address };
  };
  const plain = await stocked(1, 'none', [{}]);
  const lots = await stocked(2, 'lotExpiry', [
    { lot: 'WALK-A', expires: '2029-01-31' },
    { lot: 'WALK-B', expires: '2029-06-30' },
  ]);
  const serial = await stocked(3, 'serial', [{ qty: '3', serials: ['WS-1', 'WS-2', 'WS-3'] }]);
  const short = await stocked(4, 'none', [{ qty: '5' }]);
  const made = (
    await lead.ask('items.make', {
      body: { code: 'WALK-5', description: 'A kit of the walk', group: 'Test', unit: 'each', decimals: 0, tracking: 'none' },
    })
  ).reply;
  await lead.ask('items.setParts', { params: { id: made.id }, body: { parts: [{ item: plain.id, qty: '1' }] } });
  const [customer] = await house.rows<{ id: number }>(`SELECT id FROM customer ORDER BY id LIMIT 1`);
  const orders: number[] = [];
  for (const lines of [
    [
      { item: plain.id, qty: '3' },
      { item: lots.id, qty: '2' },
    ],
    [
      { item: plain.id, qty: '1' },
      { item: serial.id, qty: '2' },
    ],
    [
      { item: short.id, qty: '5' },
      { item: made.id, qty: '2' },
    ],
  ])
    orders.push((await lead.ask('orders.make', { body: { customer: customer?.id ?? 0, due: '2030-01-01', lines } })).reply.id);
  await lead.ask('orders.promise', { body: { orders } });
  const { lineList } = (await lead.ask('orders.order', { params: { id: orders[2] ?? 0 } })).reply;
  const kits = await lead.ask('orders.makeKit', { body: { item: made.id, qty: '2', line: lineList[1]?.id ?? 0 } });
  expect(kits.reply.missing).toEqual([]);
  const { reply: round } = await lead.ask('picking.make', { body: { orders } });
  expect(round).toMatchObject({ stops: 4, missing: [] });
  const hand = await house.packed(browser, 'Maren Oake');
  await hand.goto('/h');
  await hand.getByRole('link', { name: new RegExp(round.number) }).click();
  await hand.getByTestId('to-take').waitFor();
  const way = await house.rows<{ address: string }>(
    `SELECT b.address
     FROM round r
     CROSS JOIN unnest(r.way) WITH ORDINALITY AS w(bin, n)
     JOIN bin b ON b.id = w.bin
     WHERE r.id = $1
     ORDER BY n`,
    [round.id],
  );
  expect(way).toHaveLength(4);
  for (const [n, { address }] of way.entries()) {
    // The second half is walked where nobody hears it.
    if (n === 2) await hand.context().setOffline(true);
    await scanFor(hand, address, 'Right bin');
    switch (address) {
      case plain.address:
        await scanFor(hand, plain.code, 'taken');
        await key(hand, '3');
        await expect(hand.getByRole('status')).toContainText('all 3 taken');
        await scanFor(hand, plain.code, /Slot 2|slot 2/);
        await scanFor(hand, plain.code, /taken|Round picked/);
        await key(hand, '2');
        await expect(hand.getByRole('status')).toContainText(/all 2 taken|Round picked/);
        break;
      case lots.address:
        await scanFor(hand, lots.code, 'Several lots');
        await scanFor(hand, 'WALK-B', 'Wrong lot');
        await key(hand, '2');
        await hand.getByLabel('Take it all the same, because').fill('the older one stands behind a pallet');
        await hand.getByRole('button', { name: 'Take 2 of it' }).click();
        await expect(hand.getByRole('status')).toContainText(/all 2 taken|Round picked/);
        break;
      case serial.address:
        await scanFor(hand, serial.code, 'leaves by serial');
        await scanFor(hand, 'WS-3', 'taken');
        await scanFor(hand, 'WS-1', /all 2 taken|Round picked/);
        break;
      case short.address:
        await scanFor(hand, short.code, 'taken');
        await key(hand, '3');
        await hand.getByRole('button', { name: 'Trouble here' }).click();
        await hand.getByRole('button', { name: 'Too few there' }).click();
        await expect(hand.getByRole('status')).toContainText('2 are missing');
        break;
    }
    if (n === 2) {
      await hand.reload().catch(() => undefined);
      await hand.getByTestId('to-take').waitFor();
    }
  }
  // Two parts of the kit are on the cart: they become two kits, in the slot of the order that wants them.
  await expect(hand.getByTestId('to-make')).toHaveText('2');
  await scanFor(hand, 'BENCH-1', 'can still be made');
  await hand.getByRole('button', { name: '2 are made' }).click();
  await expect(hand.getByRole('status')).toContainText('into slot 3');
  await expect(hand.getByText('Everything is on the cart.')).toBeVisible();
  await scan(hand, 'BENCH-1');
  await hand.getByRole('heading', { name: 'My work' }).waitFor();
  await hand.context().setOffline(false);
  await expect
    .poll(() => house.rows(`SELECT state FROM round WHERE id = $1`, [round.id]), { timeout: 20_000 })
    .toEqual([{ state: 'putDown' }]);
  const there = await house.rows<{ code: string; what: string; qty: number; at: string }>(
    `SELECT i.code, coalesce(v.code, s.code, '') AS what, sum(k.qty)::int AS qty, min(b.address) AS at
     FROM in_hand k
     JOIN item i ON i.id = k.item_id
     JOIN order_line l ON l.id = k.line_id
     JOIN bin b ON b.id = k.bin_id
     LEFT JOIN lot v ON v.id = k.lot_id
     LEFT JOIN serial s ON s.id = k.serial_id
     WHERE l.order_id = ANY($1::int[])
     GROUP BY 1, 2
     ORDER BY 1, 2`,
    [orders],
  );
  const at = 'BENCH-1';
  expect(there).toEqual([
    { code: plain.code, what: '', qty: 4, at },
    { code: lots.code, what: 'WALK-B', qty: 2, at },
    { code: serial.code, what: 'WS-1', qty: 1, at },
    { code: serial.code, what: 'WS-3', qty: 1, at },
    { code: short.code, what: '', qty: 3, at },
    { code: 'WALK-5', what: '', qty: 2, at },
  ]);
  expect(await house.rows(`SELECT kind FROM trouble WHERE item_id = $1 AND settled_at IS NULL`, [short.id])).toEqual([{ kind: 'short' }]);
});

test('G1 the sheets of several orders, scanned one after the other, are one round', async ({ browser }) => {
  const lead = await signIn(house.address, 'Maren Oake');
  for (const r of await house.rows<{ id: number }>(`SELECT id FROM round WHERE state = 'open' AND site_id = 1`))
    await lead.ask('picking.throwAway', { params: { id: r.id } });
  const body = {
    code: 'SHEETS-1',
    description: 'Goods of the sheets',
    group: 'Test',
    unit: 'each',
    decimals: 0,
    tracking: 'none' as const,
  };
  const { id: item } = (await lead.ask('items.make', { body })).reply;
  const [zone] = await house.rows<{ id: number }>(`SELECT id FROM zone WHERE site_id = 1 AND purpose = 'storage' ORDER BY id LIMIT 1`);
  await lead.ask('places.makeBin', { body: { zone: zone?.id ?? 0, address: 'SHEETS-1-1' } });
  await lead.ask('stock.opening', { params: { id: item }, body: { lines: [{ bin: 'SHEETS-1-1', qty: '9', serials: [] }] } });
  const orders: { id: number; number: string }[] = [];
  for (let n = 0; n < 3; n += 1)
    orders.push((await lead.ask('orders.make', { body: { customer: 1, due: '2030-01-01', lines: [{ item, qty: '2' }] } })).reply);
  await lead.ask('orders.promise', { body: { orders: orders.map((o) => o.id) } });
  const [a, b, held] = orders.map((o) => o.number) as [string, string, string];
  await lead.ask('orders.hold', { params: { id: orders[2]?.id ?? 0 }, body: { reason: 'Not paid' } });
  const hand = await house.packed(browser, 'Tobin Sallow');
  await hand.goto('/h');
  await hand.getByRole('heading', { name: 'My work' }).waitFor();
  await scanFor(hand, held, 'is held: Not paid');
  await scanFor(hand, a, `${a}. Scan it again to begin`);
  await expect(hand.getByRole('heading', { name: 'A round' })).toBeVisible();
  await scanFor(hand, 'A-01-1', 'Scan the sheets of orders');
  await scanFor(hand, b, `${b}. Scan it again to begin`);
  await scanFor(hand, a, 'on the list already');
  await scanFor(hand, held, 'is held: Not paid');
  // What is collected survives a reload, and one can be taken off and put on again.
  await hand.reload();
  await hand.getByRole('button', { name: `Take ${b} off the list` }).click();
  await scanFor(hand, b, `${b}. Scan it again to begin`);
  await scan(hand, b);
  await hand.getByTestId('to-take').waitFor();
  const made = await house.rows<{ orders: string[] }>(
    `SELECT array_agg(DISTINCT o.number ORDER BY o.number) AS orders
     FROM round r
     JOIN round_pick k ON k.round_id = r.id
     JOIN order_line l ON l.id = k.line_id
     JOIN customer_order o ON o.id = l.order_id
     WHERE r.state = 'open' AND r.site_id = 1
     GROUP BY r.id`,
  );
  expect(made).toEqual([{ orders: [a, b].toSorted() }]);
});

test('G8 F4 a round handed over at the desk, an order on it changed, and the round thrown away', async ({ browser }) => {
  const lead = await signIn(house.address, 'Maren Oake');
  for (const r of await house.rows<{ id: number }>(`SELECT id FROM round WHERE state = 'open' AND site_id = 1`))
    await lead.ask('picking.throwAway', { params: { id: r.id } });
  const body = {
    code: 'OVER-1',
    description: 'Goods that change hands',
    group: 'Test',
    unit: 'each',
    decimals: 0,
    tracking: 'none' as const,
  };
  const { id: item } = (await lead.ask('items.make', { body })).reply;
  const [zone] = await house.rows<{ id: number }>(`SELECT id FROM zone WHERE site_id = 1 AND purpose = 'storage' ORDER BY id LIMIT 1`);
  await lead.ask('places.makeBin', { body: { zone: zone?.id ?? 0, address: 'OVER-1-1' } });
  await lead.ask('stock.opening', { params: { id: item }, body: { lines: [{ bin: 'OVER-1-1', qty: '20', serials: [] }] } });
  const order = (await lead.ask('orders.make', { body: { customer: 1, due: '2030-01-01', lines: [{ item, qty: '8' }] } })).reply;
  await lead.ask('orders.promise', { body: { orders: [order.id] } });
  const { reply: round } = await lead.ask('picking.make', { body: { orders: [order.id] } });
  const lying = async (): Promise<Record<string, number>> => {
    const there = await house.rows<{ address: string; qty: number }>(
      `SELECT b.address, sum(x.qty)::int AS qty FROM balance x JOIN bin b ON b.id = x.bin_id WHERE x.item_id = $1 GROUP BY 1`,
      [item],
    );
    return Object.fromEntries(there.map((t) => [t.address, t.qty]));
  };
  const cart = (await lead.ask('picking.round', { params: { id: round.id } })).reply.cart;
  // Tobin takes five of eight.
  const tobin = await house.packed(browser, 'Tobin Sallow');
  await tobin.goto('/h');
  await tobin.getByRole('link', { name: new RegExp(round.number) }).click();
  await tobin.getByTestId('to-take').waitFor();
  await scanFor(tobin, 'OVER-1-1', 'Right bin');
  await scanFor(tobin, 'OVER-1', 'taken');
  await key(tobin, '5');
  await expect(tobin.getByRole('status')).toContainText('5 taken, 3 to go');
  await expect.poll(lying).toEqual({ 'OVER-1-1': 15, [cart]: 5 });
  // The lead gives it to Ines, who finds what is left of it.
  const desk = await house.desk(browser, 'Maren Oake');
  await desk.goto(`/rounds/${round.id}`);
  await desk.getByLabel('Walked by').click();
  await desk.getByRole('option', { name: 'Ines Farrow' }).click();
  await expect
    .poll(() => house.rows(`SELECT p.name FROM round r JOIN person p ON p.id = r.person_id WHERE r.id = $1`, [round.id]))
    .toEqual([{ name: 'Ines Farrow' }]);
  const ines = await house.packed(browser, 'Ines Farrow');
  await ines.goto('/h');
  await ines.getByRole('link', { name: new RegExp(round.number) }).click();
  await expect(ines.getByTestId('to-take')).toHaveText('3');
  // Only four are ordered now: one of the five on the cart goes to arrivals, and nothing is left to take.
  await desk.goto(`/orders/${order.id}`);
  await desk.getByTitle('Change how many are ordered').click();
  await desk.getByLabel('How many OVER-1 are ordered').fill('4');
  await desk.getByRole('button', { name: 'Set' }).click();
  await expect(desk.getByText(/4 of OVER-1 are ordered now/)).toBeVisible();
  await expect.poll(lying).toEqual({ 'OVER-1-1': 15, [cart]: 4, ARRIVALS: 1 });
  await expect(ines.getByText('Everything is on the cart.')).toBeVisible({ timeout: 20_000 });
  // Thrown away: the cart is empty and free, what lay on it is put away from arrivals, and the order keeps its promise.
  await desk.goto(`/rounds/${round.id}`);
  await desk.getByRole('button', { name: 'Throw the round away' }).click();
  await expect.poll(lying).toEqual({ 'OVER-1-1': 15, ARRIVALS: 5 });
  expect(
    await house.rows(`SELECT p.qty::int AS qty FROM promise p JOIN order_line l ON l.id = p.line_id WHERE l.order_id = $1`, [order.id]),
  ).toEqual([{ qty: 4 }]);
});
