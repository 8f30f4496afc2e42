import { describe, expect, it } from '@jest/globals';
import { shelved } from '../testing/goods.ts';
import { houseForTests } from '../testing/house.ts';

const { house, lead, office } = houseForTests({ lead: 'Maren Oake', office: 'Odile Wrack' }, { jobs: false });
const toJoin = async () => (await lead.ask('picking.toJoin', {})).reply;
async function promised(item: number, qty: string): Promise<number> {
  const { reply } = await lead.ask('orders.make', { body: { customer: 1, due: '2027-01-10', lines: [{ item, qty }] } });
  await lead.ask('orders.promise', { body: { orders: [reply.id] } });
  return reply.id;
}

describe('what can be joined into rounds (G1)', () => {
  it('is what is promised and nobody is at; with where one stops for it, and what is not known of its size', async () => {
    const { id, bins } = await shelved(house, lead, { code: 'JOIN-1', lying: [{ qty: '9' }] });
    const [a, b, held] = [await promised(id, '2'), await promised(id, '3'), await promised(id, '1')];
    await lead.ask('orders.hold', { params: { id: held }, body: { reason: 'unpaid' } });
    const { orders, bins: stops, bench, slots, freeCarts } = await toJoin();
    const own = orders.filter((o) => [a, b, held].includes(o.id));
    expect(own).toMatchObject([
      { id: a, lines: 1, bins: [bins[0]?.id], unsized: 1, missing: 0 },
      { id: b, bins: [bins[0]?.id] },
    ]);
    expect(stops.find((s) => s.id === bins[0]?.id)?.address).toBe(bins[0]?.address);
    expect(bench?.address).toBe('BENCH-1');
    const round = await lead.ask('picking.make', { body: { orders: [a, b] } });
    expect(round.reply.stops).toBe(1);
    const after = await toJoin();
    expect(after.orders.some((o) => [a, b].includes(o.id))).toBe(false);
    expect(after.freeCarts).toBe(freeCarts - 1);
    expect(slots).toBe(6);
    expect((await office.ask('picking.toJoin', {})).status).toBe(403);
  });
  it('the slots of a cart are the site’s; none and too many are refused at the field', async () => {
    const site = async () => (await lead.ask('places.sites', {})).reply.sites.find((s) => s.id === 1);
    const change = async (cartSlots: number) => {
      const { name = '', timeZone = '', address = '', version = 0 } = (await site()) ?? {};
      return lead.ask('places.changeSite', { params: { id: 1 }, body: { name, timeZone, address, version, cartSlots } });
    };
    expect((await change(0)).problem.detail).toContain('must be at least 1');
    expect((await change(41)).status).toBe(400);
    expect((await change(9)).status).toBe(200);
    expect((await site())?.cartSlots).toBe(9);
    expect((await toJoin()).slots).toBe(9);
  });
});
