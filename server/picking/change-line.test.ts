import { describe, expect, it } from '@jest/globals';
import { lyingOf, shelved } from '../testing/goods.ts';
import { houseForTests } from '../testing/house.ts';

const { house, lead, hand } = houseForTests({ lead: 'Maren Oake', hand: 'Tobin Sallow' }, { jobs: false });

/** An order of ten, with so many of them in hand; put down at the bench or still on the cart. */
async function atWork(code: string, of: { picked: number; put?: 'down' | 'packed' }) {
  const { id, bins } = await shelved(house, lead, { code, lying: [{ qty: '10' }] });
  const bin = bins[0]?.address ?? '';
  const order = (await lead.ask('orders.make', { body: { customer: 1, due: '2027-01-10', lines: [{ item: id, qty: '10' }] } })).reply.id;
  await lead.ask('orders.promise', { body: { orders: [order] } });
  const line = (await lead.ask('orders.order', { params: { id: order } })).reply.lineList[0]?.id ?? 0;
  const round = (await hand.ask('picking.make', { body: { orders: [order] } })).reply.id;
  const pick = (await hand.ask('picking.round', { params: { id: round } })).reply.stopList[0]?.picks[0]?.id ?? 0;
  const take = (qty: string) => hand.ask('picking.pick', { params: { id: round, pick }, body: { bin, code, qty } });
  if (of.picked > 0) await take(String(of.picked));
  if (of.put) await hand.ask('picking.putDown', { params: { id: round }, body: { bin: 'BENCH-1' } });
  if (of.put === 'packed') await hand.ask('shipping.pack', { params: { id: order }, body: { parcels: 1 } });
  return { item: id, order, line, round, bin, take };
}
const change = (of: { order: number; line: number }, qty: string) =>
  lead.ask('picking.changeLine', { params: { id: of.order, line: of.line }, body: { qty } });
const promisedTo = async (line: number): Promise<number> =>
  (await house.rows<{ qty: number }>(`SELECT qty::float AS qty FROM promise WHERE line_id = ?`, [line]))[0]?.qty ?? 0;
const orderOf = async (id: number) => (await lead.ask('orders.order', { params: { id } })).reply;

describe('an order that is changed on its way (F)', () => {
  it('on a round: what is on the cart stays, fewer are still to take, and nobody can take more', async () => {
    const at = await atWork('CHG-1', { picked: 3 });
    expect((await change(at, '5')).reply).toEqual({ qty: '5', did: ['5 fewer are taken on the round.', '5 are free again.'] });
    expect(await promisedTo(at.line)).toBe(5);
    expect((await at.take('3')).problem.code).toBe('picking.tooMany');
    expect((await at.take('2')).reply).toMatchObject({ picked: '5', open: '0' });
    await house.expectCleanAudit();
  });
  it('on the cart: what is too many goes back to arrivals, and the cart keeps the rest', async () => {
    const at = await atWork('CHG-2', { picked: 6 });
    const { reply } = await change(at, '4');
    expect(reply.did).toEqual([
      '2 went from cart or bench back to ARRIVALS, to be put away.',
      '4 fewer are taken on the round.',
      '6 are free again.',
    ]);
    const lying = await lyingOf(house, at.item);
    expect(lying).toMatchObject({ [at.bin]: 4, ARRIVALS: 2 });
    expect(Object.values(lying).reduce((a, b) => a + b)).toBe(10);
    expect((await orderOf(at.order)).lineList[0]).toMatchObject({ qty: '4', promised: '4', picked: '4' });
    await hand.ask('picking.putDown', { params: { id: at.round }, body: { bin: 'BENCH-1' } });
    await hand.ask('shipping.pack', { params: { id: at.order }, body: { parcels: 1 } });
    expect((await hand.ask('shipping.ship', { params: { id: at.order } })).reply).toMatchObject({ pieces: '4', left: '0' });
    await house.expectCleanAudit();
  });
  it('packed: fewer reopens the packing, more does too; what has left cannot be taken out', async () => {
    const at = await atWork('CHG-3', { picked: 10, put: 'packed' });
    await change(at, '8');
    expect((await orderOf(at.order)).step).toBe('atBench');
    await hand.ask('shipping.pack', { params: { id: at.order }, body: { parcels: 1 } });
    await change(at, '9');
    expect((await orderOf(at.order)).step).toBe('atBench');
    await hand.ask('shipping.pack', { params: { id: at.order }, body: { parcels: 1 } });
    expect((await hand.ask('shipping.ship', { params: { id: at.order } })).reply.left).toBe('1');
    expect((await change(at, '7')).problem).toMatchObject({
      code: 'orders.fewerThanShipped',
      detail: expect.stringContaining('8 of CHG-3'),
    });
    // What is left over is not wanted any more: then the order is done.
    await change(at, '8');
    expect((await orderOf(at.order)).state).toBe('shipped');
    expect((await change(at, '9')).problem.code).toBe('orders.notOpen');
    await house.expectCleanAudit();
  });
  it('taken out whole at the bench: the goods go back, the promise is free, and the line stands on no paper', async () => {
    const at = await atWork('CHG-4', { picked: 10, put: 'down' });
    await change(at, '0');
    expect(await promisedTo(at.line)).toBe(0);
    expect(await lyingOf(house, at.item)).toEqual({ ARRIVALS: 10 });
    const order = await orderOf(at.order);
    expect([order.lines, order.lineList]).toEqual([0, []]);
    await house.expectCleanAudit();
  });
  it('of another order, half a piece, and while somebody picks the same at once: never more in hand than is wanted', async () => {
    const at = await atWork('CHG-5', { picked: 2 });
    expect((await change({ order: at.order, line: at.line + 999 }, '1')).problem.code).toBe('orders.unknownLine');
    expect((await change(at, '1.5')).problem.code).toBe('stock.finerThanItem');
    const answers = await Promise.all([at.take('4'), change(at, '3'), at.take('4'), change(at, '5'), at.take('1')]);
    expect(answers.every((a) => a.status === 200 || ['picking.tooMany', 'picking.noLongerPromised'].includes(a.problem.code))).toBe(true);
    const [{ wanted = 0, inHand = 0, planned = 0 } = {}] = await house.rows<{ wanted: number; inHand: number; planned: number }>(
      `SELECT l.qty::float AS wanted, coalesce((SELECT sum(qty) FROM in_hand WHERE line_id = l.id), 0)::float AS "inHand",
         (SELECT sum(qty - picked) FROM round_pick WHERE line_id = l.id)::float AS planned
       FROM order_line l WHERE l.id = ?`,
      [at.line],
    );
    expect(inHand + planned).toBeLessThanOrEqual(wanted);
    await house.expectCleanAudit();
  });
});
