import { randomUUID } from 'node:crypto';
import { beforeAll, describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { openHand, type Hand } from '../testing/hand.ts';
import { houseForTests } from '../testing/house.ts';

const { house, lead, office } = houseForTests({ lead: 'Maren Oake', office: 'Odile Wrack' });
let tobin: Hand;
let ines: Hand;
beforeAll(async () => {
  const person = async (name: string): Promise<number> =>
    (await house.rows<{ id: number }>(`SELECT id FROM person WHERE name = ?`, [name]))[0]?.id ?? 0;
  tobin = await openHand(await house.signIn('Tobin Sallow'), await person('Tobin Sallow'));
  ines = await openHand(await house.signIn('Ines Farrow'), await person('Ines Farrow'));
});

let made = 0;
type Ordered = { order: number; number: string; item: number; code: string; pack: number };
/** An approved order of `qty` of one new item. */
async function ordered(qty: string, supplier = 1): Promise<Ordered> {
  made += 1;
  const code = `DOCK-${made}`;
  const body = { code, description: code, group: 'Test', unit: 'each', decimals: 0, tracking: 'lotExpiry' as const };
  const { id: item } = (await lead.ask('items.make', { body })).reply;
  const { id, number } = (await office.ask('purchasing.make', { body: { supplier, due: '2030-01-31', lines: [{ item, qty }] } })).reply;
  await lead.ask('purchasing.approve', { params: { id }, body: { version: 1 } });
  const [pack] = await house.rows<{ id: number }>(`SELECT id FROM pack WHERE item_id = ?`, [item]);
  return { order: id, number, item, code, pack: pack?.id ?? 0 };
}
const begin = (key: string, orders: readonly number[], supplier: number | null = null): object => ({
  kind: 'receive.begin',
  delivery: key,
  supplier,
  orders,
});
const enter = (delivery: string | number, of: Ordered, qty: number, more: object = {}): object => ({
  kind: 'receive.enter',
  delivery,
  item: of.item,
  pack: of.pack,
  qty: qty * 1000,
  lot: 'L1',
  expires: '2030-06-30',
  made: '2029-06-30',
  serial: null,
  takeAnyway: false,
  ...more,
});
const deliveryOf = async (key: string): Promise<number> =>
  (await house.rows<{ id: number }>(`SELECT delivery_id AS id FROM delivery_key WHERE key = ?`, [key]))[0]?.id ?? 0;
const read = async (id: number) => (await lead.ask('receiving.delivery', { params: { id } })).reply;
const received = async (order: number): Promise<string | undefined> =>
  (await house.rows<{ n: string }>(`SELECT sum(received)::int::text AS n FROM purchase_line WHERE purchase_order_id = ?`, [order]))[0]?.n;

describe('C1 a delivery that is begun on the floor', () => {
  it('of several orders is received as one; what came is handed to each, and both dates stay with the lot', async () => {
    const [a, b] = [await ordered('4'), await ordered('6')];
    const key = randomUUID();
    tobin.does(begin(key, [a.order, b.order]));
    tobin.does({ kind: 'receive.paper', delivery: key, doc: 'INV 77', date: '2029-12-01' });
    tobin.does(enter(key, a, 4));
    tobin.does(enter(key, b, 5));
    tobin.does({ kind: 'receive.finish', delivery: key });
    expect((await tobin.tell()).map((o) => o.outcome)).toEqual(Array(5).fill('done'));
    const id = await deliveryOf(key);
    expect(await read(id)).toMatchObject({
      state: 'review',
      orders: [{ number: a.number }, { number: b.number }],
      supplierDoc: 'INV 77',
      supplierDocDate: '2029-12-01',
      lines: [{ standing: 'full' }, { expected: '6', arrived: '5', standing: 'short' }],
      entryList: [{ made: '2029-06-30' }, { made: '2029-06-30' }],
    });
    expect((await lead.ask('receiving.post', { params: { id }, body: {} })).status).toBe(200);
    expect([await received(a.order), await received(b.order)]).toEqual(['4', '5']);
    const states = [a, b].map(async (o) => (await office.ask('purchasing.order', { params: { id: o.order } })).reply.state);
    expect(await Promise.all(states)).toEqual(['closed', 'open']);
    expect(await house.rows(`SELECT made::text, expires::text FROM lot WHERE item_id = ?`, [a.item])).toEqual([
      { made: '2029-06-30', expires: '2030-06-30' },
    ]);
    await house.expectCleanAudit();
  });

  it('by two who did not know of each other is one delivery, known to each by their own key', async () => {
    const o = await ordered('9');
    const [one, two] = [randomUUID(), randomUUID()];
    tobin.does(begin(one, [o.order]));
    tobin.does(enter(one, o, 4));
    ines.does(begin(two, [o.order]));
    const hers = ines.does(enter(two, o, 3));
    ines.does({ kind: 'receive.change', delivery: two, entry: hers, qty: 5000 });
    const told = [...(await tobin.tell()), ...(await ines.tell())];
    expect(told.map((t) => t.outcome)).toEqual(Array(5).fill('done'));
    expect(await deliveryOf(one)).toBe(await deliveryOf(two));
    const delivery = await read(await deliveryOf(one));
    expect(delivery.lines).toMatchObject([{ expected: '9', arrived: '9', standing: 'full' }]);
    expect([...delivery.refs].sort()).toEqual([one, two].sort());
  });

  it('of an order that was posted meanwhile begins without it: what came is there for the lead, and nothing clashes', async () => {
    const o = await ordered('2');
    const { id } = (await lead.ask('receiving.start', { body: { purchaseOrder: o.number } })).reply;
    await lead.ask('receiving.scan', { params: { id }, body: { code: o.code, packs: '2', lot: 'L1', expires: '2030-06-30' } });
    await lead.ask('receiving.finish', { params: { id } });
    await lead.ask('receiving.post', { params: { id }, body: {} });
    const key = randomUUID();
    ines.does(begin(key, [o.order], 1));
    ines.does(enter(key, o, 1));
    expect((await ines.tell()).map((t) => t.outcome)).toEqual(['done', 'done']);
    expect(await read(await deliveryOf(key))).toMatchObject({ orders: [], entries: 1, lines: [{ standing: 'notOrdered' }] });
  });

  it('of nobody yet gets its supplier at the desk; one that is of orders keeps theirs', async () => {
    const o = await ordered('5', 2);
    const key = randomUUID();
    await tobin.tells(begin(key, []));
    await tobin.tells(enter(key, o, 1));
    const id = await deliveryOf(key);
    expect(await read(id)).toMatchObject({ supplier: null, orders: [] });
    expect((await lead.ask('receiving.supplier', { params: { id }, body: { supplier: 2 } })).status).toBe(200);
    expect((await read(id)).supplierId).toBe(2);
    const of = (await lead.ask('receiving.start', { body: { orders: [o.order] } })).reply.id;
    const refused = await lead.ask('receiving.supplier', { params: { id: of }, body: { supplier: 1 } });
    expect(refused.problem.detail).toBe(`${o.number} is of another supplier. A delivery is of one.`);
  });

  it('what is told of a delivery that nobody began is kept for the lead', async () => {
    const o = await ordered('1');
    expect(await tobin.tells(enter(randomUUID(), o, 1))).toMatchObject({ outcome: 'clash', says: expect.stringContaining('no delivery') });
  });

  it('its clashes stand on its page, whichever key they were told under', async () => {
    const o = await ordered('3');
    const key = randomUUID();
    await ines.tells(begin(key, [o.order]));
    await ines.tells(enter(key, o, 1));
    const id = await deliveryOf(key);
    await ines.tells({ kind: 'receive.finish', delivery: key });
    await lead.ask('receiving.post', { params: { id }, body: {} });
    const late = await ines.tells(enter(key, o, 1));
    expect(late.outcome).toBe('clash');
    const { clashes } = (await lead.ask('hands.clashes', { query: { job: `delivery:${id}` } })).reply;
    expect(clashes).toMatchObject([{ key: late.act, document: { path: `/deliveries/${id}` } }]);
    await lead.ask('hands.settle', { params: { key: late.act }, body: { how: 'followUp' } });
    const [follow] = await house.rows<{ id: number }>(`SELECT id FROM delivery WHERE follows = ?`, [id]);
    expect((await read(follow?.id ?? 0)).entries).toBe(1);
  });

  it('law: whoever begins what at once, every order is in one open delivery, and every key finds one that has it', async () => {
    const orders = [await ordered('2'), await ordered('2'), await ordered('2'), await ordered('2')];
    const wish = fc.uniqueArray(fc.integer({ min: 0, max: 3 }), { minLength: 1, maxLength: 3 });
    await fc.assert(
      fc.asyncProperty(fc.array(wish, { minLength: 2, maxLength: 5 }), async (wishes) => {
        const keys = wishes.map(() => randomUUID());
        const told = wishes.map((w, n) => {
          const hand = n % 2 === 0 ? tobin : ines;
          const act = hand.does(
            begin(
              keys[n] ?? '',
              w.map((i) => orders[i]?.order ?? 0),
            ),
          );
          return hand.tell(hand.waiting().filter((a) => a.key === act));
        });
        expect((await Promise.all(told)).flat().map((t) => t.outcome)).toEqual(wishes.map(() => 'done'));
        const open = await house.rows<{ order: number; delivery: number }>(
          `SELECT purchase_order_id AS "order", delivery_id AS delivery
           FROM delivery_order
           WHERE open AND purchase_order_id = ANY(?::int[])`,
          [orders.map((o) => o.order)],
        );
        // Each in one at most, by the index; each that somebody wished for alone in one at least.
        const inOne = new Map(open.map((o) => [o.order, o.delivery]));
        expect(inOne.size).toBe(open.length);
        for (const [n, w] of wishes.entries()) {
          const own = await deliveryOf(keys[n] ?? '');
          const firsts = w.map((i) => inOne.get(orders[i]?.order ?? 0));
          expect(firsts).toContain(own);
        }
        for (const id of new Set(inOne.values())) await lead.ask('receiving.throwAway', { params: { id } });
        const rest = await house.rows<{ id: number }>(`SELECT delivery_id AS id FROM delivery_key WHERE key = ANY(?::uuid[])`, [keys]);
        for (const { id } of rest) await lead.ask('receiving.throwAway', { params: { id } });
      }),
      { numRuns: 12 },
    );
    await house.expectCleanAudit();
  }, 60_000);
});
