import { describe, expect, it } from '@jest/globals';
import { lyingOf, shelved } from '../testing/goods.ts';
import { houseForTests } from '../testing/house.ts';

const { house, lead, hand } = houseForTests({ lead: 'Maren Oake', hand: 'Tobin Sallow' }, { jobs: false });

const lineOf = async (order: number): Promise<{ qty: number; shipped: number; state: string }> =>
  (
    await house.rows<{ qty: number; shipped: number; state: string }>(
      `SELECT l.qty::float AS qty, l.shipped::float AS shipped, o.state FROM order_line l JOIN customer_order o ON o.id = l.order_id
       WHERE o.id = ?`,
      [order],
    )
  )[0] ?? { qty: 0, shipped: 0, state: '' };

/** An order of `ordered`, of which `picked` lie at the bench. */
async function atBench(code: string, of: { ordered: string; picked: string; lying?: string }) {
  const { id, bins } = await shelved(house, lead, { code, lying: [{ qty: of.lying ?? '10' }] });
  const bin = bins[0]?.address ?? '';
  const order = (await lead.ask('orders.make', { body: { customer: 1, due: '2027-01-10', lines: [{ item: id, qty: of.ordered }] } })).reply
    .id;
  await lead.ask('orders.promise', { body: { orders: [order], mode: 'free' } });
  const round = (await hand.ask('picking.make', { body: { orders: [order] } })).reply.id;
  const pick = (await hand.ask('picking.round', { params: { id: round } })).reply.stopList[0]?.picks[0]?.id ?? 0;
  await hand.ask('picking.pick', { params: { id: round, pick }, body: { bin, code, qty: of.picked } });
  const down = await hand.ask('picking.putDown', { params: { id: round }, body: { bin: 'BENCH-1' } });
  if (down.status !== 200) throw new Error(down.problem.detail);
  return { item: id, order, bin, round };
}
const pack = (order: number, parcels = 1) => hand.ask('shipping.pack', { params: { id: order }, body: { parcels } });
const ship = (order: number, key?: string) => hand.ask('shipping.ship', { params: { id: order }, ...(key ? { key } : {}) });

describe('packing and shipping (H1, H2)', () => {
  it('what was picked whole is packed, leaves, and is the customer’s: the order is done', async () => {
    const { order, item, bin } = await atBench('SH-1', { ordered: '4', picked: '4' });
    expect((await ship(order)).problem.code).toBe('shipping.notPacked');
    await pack(order, 2);
    const { reply } = await ship(order);
    expect(reply).toMatchObject({ pieces: '4', left: '0' });
    expect(await lineOf(order)).toEqual({ qty: 4, shipped: 4, state: 'shipped' });
    expect(await lyingOf(house, item)).toEqual({ [bin]: 6 });
    expect((await ship(order)).problem.code).toBe('orders.notOpen');
  });

  it('what is short leaves as far as it is there; the rest stays ordered and open, and nothing is promised for it', async () => {
    const { order, item } = await atBench('SH-2', { ordered: '6', picked: '2', lying: '2' });
    await pack(order);
    expect((await ship(order)).reply).toMatchObject({ pieces: '2', left: '4' });
    expect(await lineOf(order)).toEqual({ qty: 6, shipped: 2, state: 'open' });
    expect(await house.rows(`SELECT 1 FROM promise WHERE item_id = ?`, [item])).toEqual([]);
    expect(await lyingOf(house, item)).toEqual({});
  });

  it('shipped ten times at once, under keys of their own and under one, it leaves once', async () => {
    const { order, item, bin } = await atBench('SH-3', { ordered: '3', picked: '3' });
    await pack(order);
    const key = crypto.randomUUID();
    const answers = await Promise.all([
      ...Array.from({ length: 6 }, () => ship(order)),
      ...Array.from({ length: 4 }, () => ship(order, key)),
    ]);
    const done = answers.filter((a) => a.status === 200);
    expect(new Set(done.map((a) => a.reply.shipment)).size).toBe(1);
    expect(new Set(answers.filter((a) => a.status !== 200).map((a) => a.problem.code))).toEqual(new Set(['orders.notOpen']));
    expect(await lyingOf(house, item)).toEqual({ [bin]: 7 });
    expect(await lineOf(order)).toMatchObject({ shipped: 3 });
  });

  it('a packing that is taken back, and goods that came after it: they are looked at before they leave', async () => {
    const { order, item } = await atBench('SH-4', { ordered: '3', picked: '3' });
    await pack(order);
    await lead.ask('orders.addLine', { params: { id: order }, body: { item, qty: '1' } });
    await lead.ask('orders.promise', { body: { orders: [order], mode: 'free' } });
    const round = (await hand.ask('picking.make', { body: { orders: [order] } })).reply.id;
    const stops = (await hand.ask('picking.round', { params: { id: round } })).reply.stopList;
    const [bin, pick] = [stops[0]?.address ?? '', stops[0]?.picks[0]?.id ?? 0];
    await hand.ask('picking.pick', { params: { id: round, pick }, body: { bin, code: 'SH-4', qty: '1' } });
    // On the cart it is nobody's parcel yet; put down it is, and was not looked at.
    expect((await ship(order)).status).toBe(409);
    await hand.ask('picking.putDown', { params: { id: round }, body: { bin: 'BENCH-1' } });
    expect((await ship(order)).problem.code).toBe('shipping.notPacked');
    await pack(order);
    await hand.ask('shipping.unpack', { params: { id: order } });
    expect((await ship(order)).problem.code).toBe('shipping.notPacked');
    await pack(order);
    expect((await ship(order)).reply).toMatchObject({ pieces: '4', left: '0' });
  });

  it('a held order does not leave until it is released; a cancelled one never, and its goods come back', async () => {
    const { order, item, bin } = await atBench('SH-5', { ordered: '3', picked: '3' });
    await pack(order);
    await lead.ask('orders.hold', { params: { id: order }, body: { reason: 'address' } });
    const held = await ship(order);
    expect([held.status, held.problem.code]).toEqual([409, expect.stringContaining('held')]);
    await lead.ask('orders.release', { params: { id: order } });
    expect(await lineOf(order)).toMatchObject({ shipped: 0, state: 'open' });
    await lead.ask('picking.cancelOrder', { params: { id: order }, body: { reason: 'not wanted' } });
    expect((await ship(order)).problem.code).toBe('orders.notOpen');
    const lying = await lyingOf(house, item);
    expect(Object.values(lying).reduce((a, b) => a + b, 0)).toBe(10);
    expect(lying[bin]).toBe(7);
  });

  it('goods that expired on the bench do not leave', async () => {
    const { id, bins } = await shelved(house, lead, {
      code: 'SH-6',
      tracking: 'lotExpiry',
      lying: [{ qty: '5', lot: 'B1', expires: '2030-01-31' }],
    });
    const order = (await lead.ask('orders.make', { body: { customer: 1, due: '2027-01-10', lines: [{ item: id, qty: '2' }] } })).reply.id;
    await lead.ask('orders.promise', { body: { orders: [order], mode: 'free' } });
    const round = (await hand.ask('picking.make', { body: { orders: [order] } })).reply.id;
    const pick = (await hand.ask('picking.round', { params: { id: round } })).reply.stopList[0]?.picks[0]?.id ?? 0;
    await hand.ask('picking.pick', {
      params: { id: round, pick },
      body: { bin: bins[0]?.address ?? '', code: 'SH-6', lot: 'B1', qty: '2' },
    });
    await hand.ask('picking.putDown', { params: { id: round }, body: { bin: 'BENCH-1' } });
    await pack(order);
    await house.rows(`UPDATE lot SET expires = '2020-01-01' WHERE item_id = ?`, [id]);
    const answer = await ship(order);
    expect([answer.status, answer.problem.code]).toEqual([409, expect.stringMatching(/^shipping\./)]);
    expect(await lineOf(order)).toMatchObject({ shipped: 0 });
    await house.rows(`UPDATE lot SET expires = '2030-01-31' WHERE item_id = ?`, [id]);
    expect((await ship(order)).status).toBe(200);
  });
});
