import { beforeAll, describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { lyingOf } from '../testing/goods.ts';
import { houseForTests } from '../testing/house.ts';

const { house, lead, hand } = houseForTests({ lead: 'Maren Oake', hand: 'Jory Penhale' }, { jobs: false });
beforeAll(async () => {
  // The demo's carts are its own: here every round needs one.
  for (const round of await house.rows<{ id: number }>(`SELECT id FROM round WHERE state = 'open' AND site_id = 1`))
    await lead.ask('picking.throwAway', { params: { id: round.id } });
});

let made = 0;
const newItem = async (): Promise<{ id: number; code: string }> => {
  const code = `XD-${(made += 1)}`;
  const body = { code, description: code, group: 'Test', unit: 'each', decimals: 0, tracking: 'none' as const };
  return { id: (await lead.ask('items.make', { body })).reply.id, code };
};
/** An order of a customer that wants so many of each. */
async function ordered(
  lines: readonly { item: number; qty: number }[],
  more: { held?: string; due?: string } = {},
): Promise<{ id: number; number: string }> {
  const [order] = await house.rows<{ id: number; number: string }>(
    `WITH o AS (
       INSERT INTO customer_order (number, site_id, customer_id, due, held_for)
       VALUES ('CO-' || nextval('number_co'), 1, 1, ?::date, ?) RETURNING id, number),
     l AS (INSERT INTO order_line (order_id, item_id, qty) SELECT o.id, x.item, x.qty FROM o, unnest(?::int[], ?::int[]) AS x(item, qty))
     SELECT id, number FROM o`,
    [more.due ?? '2026-12-01', more.held ?? null, lines.map((l) => l.item), lines.map((l) => l.qty)],
  );
  return order ?? { id: 0, number: '' };
}
async function came(goods: readonly { code: string; qty: number }[]): Promise<number> {
  const { id } = (await hand.ask('receiving.start', { body: { supplier: 1 } })).reply;
  for (const g of goods) await hand.ask('receiving.scan', { params: { id }, body: { code: g.code, packs: String(g.qty) } });
  expect((await lead.ask('receiving.post', { params: { id }, body: {} })).status).toBe(200);
  return id;
}
const toBench = (delivery: number, who = lead) => who.ask('picking.fromDock', { params: { id: delivery }, body: {} });
const promised = async (order: number): Promise<number> =>
  Number(
    (
      await house.rows<{ n: string }>(
        `SELECT coalesce(sum(p.qty), 0) AS n FROM promise p JOIN order_line l ON l.id = p.line_id WHERE l.order_id = ?`,
        [order],
      )
    )[0]?.n,
  );
const stops = (round: number) =>
  house.rows<{ address: string; qty: number; order: string }>(
    `SELECT b.address, k.qty::int AS qty, o.number AS order
     FROM round_pick k JOIN bin b ON b.id = k.bin_id JOIN order_line l ON l.id = k.line_id JOIN customer_order o ON o.id = l.order_id
     WHERE k.round_id = ? ORDER BY o.id`,
    [round],
  );

describe('C17 what somebody waits for goes straight to the bench', () => {
  it('one press promises it, the most urgent first, and makes a round that fetches it at arrivals', async () => {
    const item = await newItem();
    const late = await ordered([{ item: item.id, qty: 4 }], { due: '2026-12-05' });
    const first = await ordered([{ item: item.id, qty: 6 }], { due: '2026-12-01' });
    const held = await ordered([{ item: item.id, qty: 2 }], { held: 'Waits for its address' });
    const delivery = await came([{ code: item.code, qty: 8 }]);
    const sent = await toBench(delivery, hand);
    expect(sent.status).toBe(200);
    expect(sent.reply.orders).toEqual([first.number, late.number]);
    expect(await Promise.all([promised(first.id), promised(late.id), promised(held.id)])).toEqual([6, 2, 0]);
    expect((await stops(sent.reply.id)).toSorted((a, b) => b.qty - a.qty)).toEqual([
      { address: 'ARRIVALS', qty: 6, order: first.number },
      { address: 'ARRIVALS', qty: 2, order: late.number },
    ]);
    const picks = await house.rows<{ id: number; qty: string }>(`SELECT id, qty::int::text AS qty FROM round_pick WHERE round_id = ?`, [
      sent.reply.id,
    ]);
    for (const pick of picks) {
      const body = { bin: 'ARRIVALS', code: item.code, qty: pick.qty };
      expect((await hand.ask('picking.pick', { params: { id: sent.reply.id, pick: pick.id }, body })).status).toBe(200);
    }
    expect(await lyingOf(house, item.id)).not.toHaveProperty('ARRIVALS');
    expect((await toBench(delivery)).problem.code).toBe('picking.nobodyWaits');
    await house.expectCleanAudit();
  });
  it('only what came is promised and fetched: another line of the order keeps waiting for its own goods', async () => {
    const [here, elsewhere] = [await newItem(), await newItem()];
    const order = await ordered([
      { item: here.id, qty: 3 },
      { item: elsewhere.id, qty: 5 },
    ]);
    const sent = await toBench(await came([{ code: here.code, qty: 10 }]));
    expect(await promised(order.id)).toBe(3);
    expect(await stops(sent.reply.id)).toEqual([{ address: 'ARRIVALS', qty: 3, order: order.number }]);
    await lead.ask('picking.throwAway', { params: { id: sent.reply.id } });
  });
  it('is refused where nobody waits, before it is posted, when all is put away, and at another site', async () => {
    const item = await newItem();
    const delivery = await came([{ code: item.code, qty: 5 }]);
    expect((await toBench(delivery)).problem.code).toBe('picking.nobodyWaits');
    const order = await ordered([{ item: item.id, qty: 5 }]);
    const { id: open } = (await hand.ask('receiving.start', { body: { supplier: 1 } })).reply;
    expect((await toBench(open)).problem.code).toBe('receiving.notPosted');
    expect((await toBench(999_999)).problem.code).toBe('receiving.unknownDelivery');
    expect((await lead.ask('picking.fromDock', { params: { id: delivery }, body: {}, site: 2 })).problem.code).toBe('people.otherSite');
    const [shelf] = await house.rows<{ address: string }>(
      `SELECT b.address FROM bin b JOIN zone z ON z.id = b.zone_id WHERE b.site_id = 1 AND b.use = 'shelf' AND z.pickable AND NOT b.one_item
         AND b.storage_class IS NULL AND b.capacity IS NULL AND NOT EXISTS (SELECT 1 FROM balance x WHERE x.bin_id = b.id) LIMIT 1`,
    );
    await lead.ask('moves.move', { body: { code: item.code, from: 'ARRIVALS', to: shelf?.address ?? '', qty: '5' } });
    expect((await toBench(delivery)).status).toBe(409);
    expect(await promised(order.id)).toBe(0);
  });
  it('law: two who send it at once promise no piece twice, whatever waits and whatever came', async () => {
    const wants = fc.array(fc.integer({ min: 1, max: 9 }), { minLength: 1, maxLength: 3 });
    await fc.assert(
      fc.asyncProperty(wants, fc.integer({ min: 1, max: 15 }), async (quantities, arrived) => {
        const item = await newItem();
        const orders = [];
        for (const qty of quantities) orders.push(await ordered([{ item: item.id, qty }]));
        const delivery = await came([{ code: item.code, qty: arrived }]);
        const both = await Promise.all([toBench(delivery), toBench(delivery, hand)]);
        const wanted = quantities.reduce((s, n) => s + n, 0);
        const sums = await Promise.all(orders.map((o) => promised(o.id)));
        expect(sums.reduce((s, n) => s + n, 0)).toBe(Math.min(wanted, arrived));
        const planned = (await Promise.all(both.filter((b) => b.status === 200).map((b) => stops(b.reply.id)))).flat();
        expect(planned.reduce((s, p) => s + p.qty, 0)).toBe(Math.min(wanted, arrived));
        for (const b of both) if (b.status === 200) await lead.ask('picking.throwAway', { params: { id: b.reply.id } });
      }),
      { numRuns: 8 },
    );
    await house.expectCleanAudit();
  }, 60_000);
});
