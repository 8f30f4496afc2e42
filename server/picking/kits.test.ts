import { beforeAll, beforeEach, describe, expect, it } from '@jest/globals';
import { lyingOf, shelved } from '../testing/goods.ts';
import { openHand, type Hand } from '../testing/hand.ts';
import { houseForTests } from '../testing/house.ts';

const { house, lead, hand } = houseForTests({ lead: 'Maren Oake', hand: 'Tobin Sallow' }, { jobs: false });
let tobin: Hand;
let made = 0;
beforeAll(async () => {
  const [person] = await house.rows<{ id: number }>(`SELECT id FROM person WHERE name = 'Tobin Sallow'`);
  tobin = await openHand(hand, person?.id ?? 0);
});
beforeEach(async () => {
  for (const r of await house.rows<{ id: number }>(`SELECT id FROM round WHERE state = 'open' AND site_id = 1`))
    await lead.ask('picking.throwAway', { params: { id: r.id } });
});

type Tracking = 'none' | 'lot' | 'lotExpiry' | 'serial' | 'serialOut';
type Kit = { kit: number; code: string; a: number; b: number; aCode: string; bCode: string };
/** A kit of two of one thing and one of another, with so many of each on the shelf, and none of the kit. */
async function kitOf(has: { a: string; b: string }, tracking: Tracking = 'none'): Promise<Kit> {
  made += 1;
  const [aCode, bCode, code] = [`KP-${made}A`, `KP-${made}B`, `KIT-T${made}`];
  const a = await shelved(house, lead, { code: aCode, lying: [{ qty: has.a }] });
  const later = { lot: `E${made}`, expires: '2031-03-01', qty: has.b };
  const b = await shelved(house, lead, { code: bCode, tracking: tracking === 'lotExpiry' ? 'lotExpiry' : 'none', lying: [later] });
  const kit = await shelved(house, lead, { code, tracking, lying: [] });
  const parts = [
    { item: a.id, qty: '2' },
    { item: b.id, qty: '1' },
  ];
  const set = await lead.ask('items.setParts', { params: { id: kit.id }, body: { parts } });
  if (set.status !== 200) throw new Error(set.problem.detail);
  return { kit: kit.id, code, a: a.id, b: b.id, aCode, bCode };
}
/** An order for kits, and the line of it. */
async function wanted(k: Kit, qty: string): Promise<{ order: number; line: number; number: string }> {
  const made = (await lead.ask('orders.make', { body: { customer: 1, due: '2030-05-05', lines: [{ item: k.kit, qty }] } })).reply;
  const { lineList } = (await lead.ask('orders.order', { params: { id: made.id } })).reply;
  return { order: made.id, number: made.number, line: lineList[0]?.id ?? 0 };
}
/** A round for an order, with everything of it on its cart. */
async function fetched(order: number): Promise<{ round: number; cart: string }> {
  const { id } = (await lead.ask('picking.make', { body: { orders: [order] } })).reply;
  for (const s of (await lead.ask('picking.round', { params: { id } })).reply.stopList)
    for (const p of s.picks) {
      const body = { bin: s.address, code: p.code, qty: p.qty, ...(p.lot === null ? {} : { lot: p.lot }) };
      const took = await lead.ask('picking.pick', { params: { id, pick: p.id }, body });
      if (took.status !== 200) throw new Error(took.problem.detail);
    }
  return { round: id, cart: (await lead.ask('picking.round', { params: { id } })).reply.cart };
}
const ofOrder = async (id: number) => (await lead.ask('orders.order', { params: { id } })).reply;
const asked = (k: Kit, qty: string, line?: number) =>
  lead.ask('orders.makeKit', { body: { item: k.kit, qty, ...(line === undefined ? {} : { line }) } });
const say = (order: number, qty: string, bin?: string) =>
  lead.ask('picking.assemble', { params: { id: order }, body: { qty, ...(bin === undefined ? {} : { bin }) } });

describe('G9 kits made on the way', () => {
  it('for an order: their parts are promised, picked and used up; the kits ride on the cart and go to the bench with it', async () => {
    const k = await kitOf({ a: '9', b: '9' });
    const o = await wanted(k, '3');
    expect((await ofOrder(o.order)).lineList[0]).toMatchObject({ kits: 4, making: [] });
    const { reply: make } = await asked(k, '3', o.line);
    expect(make.missing).toEqual([]);
    expect((await ofOrder(o.order)).lineList[0]?.making).toEqual([{ id: make.id, number: make.number, left: '3' }]);
    expect(await ofOrder(make.id)).toMatchObject({
      customer: `Kit ${k.code} for ${o.number}`,
      due: '2030-05-05',
      kit: { qty: '3', made: '0', ready: '0' },
    });
    const { round, cart } = await fetched(make.id);
    expect((await ofOrder(make.id)).kit?.ready).toBe('3');
    // Two of them now, on the cart; the third waits.
    expect((await say(make.id, '2')).reply).toMatchObject({ bin: cart, aside: '0' });
    expect(await lyingOf(house, k.kit)).toEqual({ [cart]: 2 });
    expect(await lyingOf(house, k.a)).toMatchObject({ [cart]: 2 });
    expect((await ofOrder(o.order)).lineList[0]).toMatchObject({ promised: '2', picked: '2' });
    expect((await ofOrder(make.id)).state).toBe('open');
    await house.expectCleanAudit();
    expect((await say(make.id, '2')).problem).toMatchObject({
      code: 'picking.kitsMade',
      detail: `1 ${k.code} is still to be made of ${make.number}, not more.`,
    });
    expect((await say(make.id, '1')).status).toBe(200);
    expect(await ofOrder(make.id)).toMatchObject({ state: 'shipped', kit: { made: '3', ready: '0' } });
    expect((await lead.ask('picking.putDown', { params: { id: round }, body: { bin: 'BENCH-1' } })).status).toBe(200);
    expect((await lead.ask('shipping.pack', { params: { id: o.order }, body: { parcels: 1 } })).status).toBe(200);
    expect((await lead.ask('shipping.ship', { params: { id: o.order } })).status).toBe(200);
    expect(await lyingOf(house, k.kit)).toEqual({});
    expect([(await lyingOf(house, k.a))[cart], Object.values(await lyingOf(house, k.a))]).toEqual([undefined, [3]]);
    await house.expectCleanAudit();
  });
  it('for stock: into a bin; never onto a bench or a cart; and what is missing for them is said', async () => {
    const k = await kitOf({ a: '3', b: '9' });
    const { reply: make } = await asked(k, '2');
    expect(make.missing).toMatchObject([{ code: k.aCode, qty: '1' }]);
    const { cart } = await fetched(make.id);
    expect((await say(make.id, '2', 'MIX-NONE')).status).toBe(404);
    expect((await say(make.id, '2')).problem).toMatchObject({
      code: 'picking.partsShort',
      detail: `That takes 4 ${k.aCode}, and 3 are in hand for ${k.code}.`,
    });
    expect((await say(make.id, '1')).problem.code).toBe('picking.kitWhere');
    expect((await say(make.id, '1', 'BENCH-1')).problem.code).toBe('stock.passingThrough');
    expect((await say(make.id, '0.5', 'ARRIVALS')).problem.code).toBe('picking.tooFine');
    expect((await say(make.id, '1', 'ARRIVALS')).status).toBe(200);
    expect(await lyingOf(house, k.kit)).toEqual({ ARRIVALS: 1 });
    // What is left over goes back when the order is cancelled.
    await lead.ask('picking.cancelOrder', { params: { id: make.id }, body: { reason: 'Enough' } });
    expect((await lyingOf(house, k.a))[cart]).toBeUndefined();
    await house.expectCleanAudit();
  });
  it('what nobody wants any more goes to arrivals, and a cancelled order takes its kits along', async () => {
    const k = await kitOf({ a: '8', b: '4' });
    const o = await wanted(k, '3');
    const { reply: make } = await asked(k, '3', o.line);
    const { cart } = await fetched(make.id);
    await lead.ask('picking.changeLine', { params: { id: o.order, line: o.line }, body: { qty: '1' } });
    expect((await say(make.id, '2')).reply).toMatchObject({ bin: cart, aside: '1' });
    expect(await lyingOf(house, k.kit)).toEqual({ [cart]: 1, ARRIVALS: 1 });
    // Cancelled, it takes the order of its kits along: the kit on the cart, and the parts of the third.
    const cancelled = await lead.ask('picking.cancelOrder', { params: { id: o.order }, body: { reason: 'They changed their mind' } });
    expect(cancelled.reply).toEqual({ pieces: '4', bin: 'ARRIVALS', also: [make.number] });
    expect(await lyingOf(house, k.kit)).toEqual({ ARRIVALS: 2 });
    expect(await lyingOf(house, k.a)).toMatchObject({ ARRIVALS: 2 });
    expect((await say(make.id, '1')).problem.code).toBe('orders.notOpen');
    await house.expectCleanAudit();
  });
  it.each(['lot', 'lotExpiry', 'serial', 'serialOut'] as const)(
    'a kit that is counted by %s gets its own labels, and leaves by them',
    async (tracking) => {
      const k = await kitOf({ a: '8', b: '4' }, tracking);
      const o = await wanted(k, '2');
      const { reply: make } = await asked(k, '2', o.line);
      const { round } = await fetched(make.id);
      const { number } = (await say(make.id, '2')).reply;
      const goods = await house.rows<{ lot: string | null; expires: string | null; serial: string | null; qty: number }>(
        `SELECT l.code AS lot, to_char(l.expires, 'YYYY-MM-DD') AS expires, coalesce(s.code, k.serial_out) AS serial, k.qty::int AS qty
       FROM in_hand k LEFT JOIN lot l ON l.id = k.lot_id LEFT JOIN serial s ON s.id = k.serial_id WHERE k.item_id = ?`,
        [k.kit],
      );
      if (tracking === 'lot') expect(goods).toEqual([{ lot: number, expires: null, serial: null, qty: 2 }]);
      else if (tracking === 'lotExpiry') expect(goods).toEqual([{ lot: number, expires: '2031-03-01', serial: null, qty: 2 }]);
      else {
        expect(goods.map((g) => g.qty)).toEqual([1, 1]);
        expect(new Set(goods.map((g) => g.serial)).size).toBe(2);
      }
      await lead.ask('picking.putDown', { params: { id: round }, body: { bin: 'BENCH-1' } });
      await lead.ask('shipping.pack', { params: { id: o.order }, body: { parcels: 1 } });
      expect((await lead.ask('shipping.ship', { params: { id: o.order } })).status).toBe(200);
      await house.expectCleanAudit();
    },
  );
  it('at the bench as well, where its parts were put down; they are packed into no parcel', async () => {
    const k = await kitOf({ a: '8', b: '4' });
    const o = await wanted(k, '2');
    const { reply: make } = await asked(k, '2', o.line);
    const { round } = await fetched(make.id);
    await lead.ask('picking.putDown', { params: { id: round }, body: { bin: 'BENCH-1' } });
    expect((await lead.ask('shipping.pack', { params: { id: make.id }, body: { parcels: 1 } })).problem.code).toBe('shipping.makesKits');
    expect((await say(make.id, '2')).reply).toMatchObject({ bin: 'BENCH-1', aside: '0' });
    expect((await lead.ask('shipping.pack', { params: { id: o.order }, body: { parcels: 1 } })).status).toBe(200);
    await house.expectCleanAudit();
  });
  it('parts that are held, or lie on a cart and at the bench, become none', async () => {
    const k = await kitOf({ a: '8', b: '4' });
    const { reply: make } = await asked(k, '2');
    await fetched(make.id);
    const { reply: hold } = await lead.ask('stock.hold', { body: { item: k.a, reason: 'Cracked' } });
    expect((await say(make.id, '1', 'ARRIVALS')).problem.code).toBe('picking.partHeld');
    await lead.ask('stock.release', { params: { id: hold.id }, body: { reason: 'Looked at' } });
    await house.rows(`UPDATE promise SET qty = qty WHERE item_id = ?`, [k.a]);
    expect((await say(make.id, '1', 'ARRIVALS')).status).toBe(200);
    await house.expectCleanAudit();
  });
  it('not more than the line wants, half a kit, an item without parts, a line of something else, lines added by hand', async () => {
    const k = await kitOf({ a: '8', b: '4' });
    const o = await wanted(k, '2');
    const code = async (qty: string, line: number | undefined, item = k.kit): Promise<string> =>
      (await lead.ask('orders.makeKit', { body: { item, qty, ...(line === undefined ? {} : { line }) } })).problem.code;
    expect(await code('3', o.line)).toBe('orders.kitTooMany');
    expect(await code('0.5', o.line)).toBe('stock.finerThanItem');
    expect(await code('1', undefined, k.a)).toBe('orders.noParts');
    expect(await code('1', o.line, k.a)).toBe('orders.notThatLine');
    expect(await code('1', 999_999)).toBe('orders.unknownLine');
    const { reply: make } = await asked(k, '2', o.line);
    expect(await code('1', o.line)).toBe('orders.kitTooMany');
    expect((await lead.ask('orders.addLine', { params: { id: make.id }, body: { item: k.a, qty: '1' } })).problem.code).toBe(
      'orders.kitLines',
    );
    const [part] = (await ofOrder(make.id)).lineList;
    const change = await lead.ask('picking.changeLine', { params: { id: make.id, line: part?.id ?? 0 }, body: { qty: '1' } });
    expect(change.problem.code).toBe('orders.kitLines');
    expect((await say(o.order, '1')).problem.code).toBe('picking.notAKit');
  });
});

describe('G9 F3 F10 a line that names its goods, or wants them to keep', () => {
  it('gets no kits that are made: it is refused, or what is made goes to arrivals', async () => {
    const k = await kitOf({ a: '8', b: '4' }, 'lot');
    const o = await wanted(k, '2');
    const { reply: make } = await asked(k, '2', o.line);
    await fetched(make.id);
    await house.rows(`INSERT INTO lot (item_id, code) VALUES (?, 'OLD-KIT')`, [k.kit]);
    const named = await lead.ask('orders.nameLine', { params: { id: o.order }, body: { line: o.line, lot: 'OLD-KIT' } });
    expect(named.status).toBe(200);
    expect((await say(make.id, '1')).reply).toMatchObject({ bin: 'ARRIVALS', aside: '1' });
    expect((await ofOrder(o.order)).lineList[0]).toMatchObject({ promised: '0', picked: '0' });
    await house.expectCleanAudit();
    const other = await wanted(k, '1');
    await lead.ask('orders.nameLine', { params: { id: other.order }, body: { line: other.line, lot: 'OLD-KIT' } });
    expect((await asked(k, '1', other.line)).problem).toMatchObject({
      code: 'orders.kitNamed',
      detail: `${other.number} names which ${k.code} it wants; what is made now is none of those.`,
    });
  });
  it('nor such as do not keep until its customer wants them to', async () => {
    const k = await kitOf({ a: '8', b: '4' }, 'lotExpiry');
    const o = await wanted(k, '2');
    const { reply: make } = await asked(k, '2', o.line);
    const { cart } = await fetched(make.id);
    const life = async (leastLife: number): Promise<void> => {
      const changed = await lead.ask('orders.change', {
        params: { id: o.order },
        body: { due: '2030-05-05', priority: 5, extras: [], leastLife },
      });
      expect(changed.status).toBe(200);
    };
    // Its parts expire on 1 March 2031: 300 days from the due day.
    await life(400);
    expect((await say(make.id, '1')).reply).toMatchObject({ bin: 'ARRIVALS', aside: '1' });
    await life(200);
    expect((await say(make.id, '1')).reply).toMatchObject({ bin: cart, aside: '0' });
    await house.expectCleanAudit();
  });
});

describe('G1 G9 rounds that are proposed', () => {
  it('fetch the parts of kits with the order that waits for them, as its round does', async () => {
    const k = await kitOf({ a: '8', b: '4' });
    const other = await shelved(house, lead, { code: `KO-${made}`, lying: [{ qty: '5' }] });
    const lines = [
      { item: k.kit, qty: '2' },
      { item: other.id, qty: '1' },
    ];
    const { id } = (await lead.ask('orders.make', { body: { customer: 1, due: '2030-05-05', lines } })).reply;
    await lead.ask('orders.promise', { body: { orders: [id], mode: 'free' } });
    const { reply: make } = await asked(k, '2', (await ofOrder(id)).lineList[0]?.id);
    const alone = await asked(await kitOf({ a: '8', b: '4' }), '1');
    const { orders } = (await lead.ask('picking.toJoin', {})).reply;
    expect(orders.find((o) => o.id === id)?.lines).toBe(3);
    expect(orders.find((o) => o.id === make.id)).toBeUndefined();
    expect(orders.find((o) => o.id === alone.reply.id)?.lines).toBe(2);
    const { id: round } = (await lead.ask('picking.make', { body: { orders: [id] } })).reply;
    expect((await lead.ask('picking.round', { params: { id: round } })).reply.orders.toSorted()).toEqual(
      [(await ofOrder(id)).number, make.number].toSorted(),
    );
  });
});

describe('G9 kits taken apart', () => {
  it('the parts are at arrivals, the kits nobody’s, and the order wants its parts again', async () => {
    const k = await kitOf({ a: '8', b: '4' });
    const o = await wanted(k, '2');
    const { reply: make } = await asked(k, '2', o.line);
    const { round } = await fetched(make.id);
    await say(make.id, '2');
    const apart = async (order: number) => {
      const [newest] = (await ofOrder(order)).kit?.assemblies ?? [];
      return lead.ask('picking.takeApart', { params: { id: newest?.id ?? 0 } });
    };
    // Carried to the bench meanwhile: they are found where they are.
    await lead.ask('picking.putDown', { params: { id: round }, body: { bin: 'BENCH-1' } });
    await lead.ask('shipping.pack', { params: { id: o.order }, body: { parcels: 1 } });
    expect((await apart(make.id)).problem.code).toBe('picking.kitsOnTheirWay');
    await lead.ask('shipping.unpack', { params: { id: o.order } });
    expect((await apart(make.id)).reply).toMatchObject({ bin: 'ARRIVALS' });
    expect([await lyingOf(house, k.kit), (await lyingOf(house, k.a))['ARRIVALS'], (await lyingOf(house, k.b))['ARRIVALS']]).toEqual([
      {},
      4,
      2,
    ]);
    expect((await ofOrder(o.order)).lineList[0]).toMatchObject({ promised: '0', picked: '0' });
    expect(await ofOrder(make.id)).toMatchObject({ state: 'open', kit: { made: '0', assemblies: [{ apart: true }] } });
    expect((await apart(make.id)).problem.code).toBe('picking.apartAlready');
    await house.expectCleanAudit();
    // And once more from the beginning.
    await lead.ask('orders.promise', { body: { orders: [make.id], mode: 'free' } });
    await house.expectCleanAudit();
  });
  it('kits that went to stock are taken from where they were put, and from nowhere else', async () => {
    const k = await kitOf({ a: '8', b: '4' });
    const { reply: make } = await asked(k, '2');
    await fetched(make.id);
    await say(make.id, '2', 'ARRIVALS');
    await lead.ask('moves.move', { body: { from: 'ARRIVALS', to: 'QUARANTINE', code: k.code, qty: '1' } });
    const [newest] = (await ofOrder(make.id)).kit?.assemblies ?? [];
    const params = { id: newest?.id ?? 0 };
    expect((await lead.ask('picking.takeApart', { params })).problem.code).toBe('stock.binShort');
    await lead.ask('moves.move', { body: { from: 'QUARANTINE', to: 'ARRIVALS', code: k.code, qty: '1' } });
    expect((await lead.ask('picking.takeApart', { params })).status).toBe(200);
    expect(await lyingOf(house, k.kit)).toEqual({});
    await house.expectCleanAudit();
  });
  it('by whoever said it, while its parts are on the cart: they are in hand again, and promised; by a colleague not', async () => {
    const k = await kitOf({ a: '8', b: '4' });
    const o = await wanted(k, '2');
    const { reply: make } = await asked(k, '2', o.line);
    const { round, cart } = await fetched(make.id);
    const first = await tobin.tells({ kind: 'pick.assemble', round, order: make.id, qty: 1000, to: null });
    const [own] = (await ofOrder(make.id)).kit?.assemblies ?? [];
    const second = await tobin.tells({ kind: 'pick.assemble', round, order: make.id, qty: 1000, to: null });
    await house.rows(`UPDATE assembly SET person_id = (SELECT id FROM person WHERE name = 'Ines Farrow') WHERE key = ?`, [second.act]);
    const others = await tobin.tells({ kind: 'pick.undo', round, taken: second.act });
    expect(others).toMatchObject({ outcome: 'clash', says: expect.stringMatching(/^Ines Farrow made the kits of AS-/) });
    expect((await tobin.tells({ kind: 'pick.undo', round, taken: first.act })).outcome).toBe('done');
    expect([await lyingOf(house, k.kit), (await lyingOf(house, k.a))[cart], (await lyingOf(house, k.b))[cart]]).toEqual([
      { [cart]: 1 },
      2,
      1,
    ]);
    const { lineList, kit, state } = await ofOrder(make.id);
    expect([state, kit?.made, kit?.ready]).toEqual(['open', '1', '1']);
    expect(lineList.map((l) => [l.promised, l.picked, l.shipped])).toEqual([
      ['2', '2', '2'],
      ['1', '1', '1'],
    ]);
    expect((await lead.ask('picking.takeApart', { params: { id: own?.id ?? 0 } })).problem.code).toBe('picking.apartAlready');
    await house.expectCleanAudit();
    // Made once more, put down, packed and gone.
    expect((await tobin.tells({ kind: 'pick.assemble', round, order: make.id, qty: 1000, to: null })).outcome).toBe('done');
    await lead.ask('picking.putDown', { params: { id: round }, body: { bin: 'BENCH-1' } });
    await lead.ask('shipping.pack', { params: { id: o.order }, body: { parcels: 1 } });
    expect((await lead.ask('shipping.ship', { params: { id: o.order } })).status).toBe(200);
    await house.expectCleanAudit();
  });
  it('what is told from a device is done once, on the cart', async () => {
    const k = await kitOf({ a: '8', b: '4' });
    const o = await wanted(k, '2');
    const { reply: make } = await asked(k, '2', o.line);
    const { round, cart } = await fetched(make.id);
    const does = { kind: 'pick.assemble', round, order: make.id, qty: 1000, to: null };
    const first = await tobin.tells(does);
    expect(first).toMatchObject({ outcome: 'done', says: null });
    expect((await tobin.tells(does, { key: first.act })).outcome).toBe('repeated');
    expect(await lyingOf(house, k.kit)).toEqual({ [cart]: 1 });
    expect(await tobin.tells({ ...does, qty: 2000 })).toMatchObject({ outcome: 'clash', says: expect.stringMatching(/still to be made/) });
    // What nobody wants any more is for a lead: the hand stands there with it.
    await lead.ask('picking.changeLine', { params: { id: o.order, line: o.line }, body: { qty: '1' } });
    const late = await tobin.tells(does);
    expect(late).toMatchObject({ outcome: 'clash', says: `${o.number} wants 0 ${k.code} by now, and 1 are made.` });
    expect(await lyingOf(house, k.kit)).toEqual({ [cart]: 1 });
    const settled = await lead.ask('hands.settle', { params: { key: late.act }, body: { how: 'accept' } });
    expect(settled.reply.says).toMatch(/at arrivals: tell the hand/);
    expect(await lyingOf(house, k.kit)).toEqual({ [cart]: 1, ARRIVALS: 1 });
    await house.expectCleanAudit();
  });
});
