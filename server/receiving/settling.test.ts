import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import type { Client } from '../testing/client.ts';
import { shelved } from '../testing/goods.ts';
import { houseForTests } from '../testing/house.ts';

const { house, lead } = houseForTests({ lead: 'Maren Oake' }, { jobs: false });
let hands: Client[];
let items: { id: number; code: string }[];
beforeAll(async () => {
  hands = [await house.signIn('Tobin Sallow'), await house.signIn('Jory Penhale')];
  items = [];
  for (const code of ['RX-1', 'RX-2']) items.push({ code, id: (await shelved(house, lead, { code, lying: [] })).id });
});

let orders = 0;
type Line = { item: number; qty: number };
async function purchase(lines: readonly Line[]): Promise<{ id: number; number: string; lines: number[] }> {
  const number = `PO-T${(orders += 1)}`;
  const [order] = await house.rows<{ id: number }>(
    `INSERT INTO purchase_order (number, supplier_id, site_id, due) VALUES (?, 1, 1, '2027-01-10') RETURNING id`,
    [number],
  );
  const ids: number[] = [];
  for (const line of lines) {
    const [made] = await house.rows<{ id: number }>(
      `INSERT INTO purchase_line (purchase_order_id, item_id, qty) VALUES (?, ?, ?) RETURNING id`,
      [order?.id, items[line.item]?.id, line.qty],
    );
    ids.push(made?.id ?? 0);
  }
  return { id: order?.id ?? 0, number, lines: ids };
}
const begin = async (number: string): Promise<number> => (await lead.ask('receiving.start', { body: { purchaseOrder: number } })).reply.id;
const scan = (delivery: number, item: number, packs: number, who = hands[0] as Client) =>
  who.ask('receiving.scan', {
    params: { id: delivery },
    body: { code: items[item]?.code ?? '', packs: String(packs), takeAnyway: true },
  });
const post = (delivery: number, closeShort = false) => lead.ask('receiving.post', { params: { id: delivery }, body: { closeShort } });
const received = async (order: number): Promise<number[]> =>
  (await house.rows<{ n: number }>(`SELECT received::int AS n FROM purchase_line WHERE purchase_order_id = ? ORDER BY id`, [order])).map(
    (r) => r.n,
  );
const stateOf = async (order: number): Promise<string | undefined> =>
  (await house.rows<{ state: string }>(`SELECT state FROM purchase_order WHERE id = ?`, [order]))[0]?.state;
const onHand = async (): Promise<number[]> => {
  const of = (item: number) => house.rows<{ n: number }>(`SELECT coalesce(sum(qty), 0)::int AS n FROM balance WHERE item_id = ?`, [item]);
  return Promise.all(items.map(async (i) => (await of(i.id))[0]?.n ?? 0));
};

describe('what a posted delivery settles (C8, C13, C14)', () => {
  it('however often, in what order and how much is delivered: every piece is on a line, and on none twice', async () => {
    const line = fc.record({ item: fc.integer({ min: 0, max: 1 }), qty: fc.integer({ min: 1, max: 6 }) });
    const arrival = fc.record({
      scans: fc.array(fc.record({ item: fc.integer({ min: 0, max: 1 }), packs: fc.integer({ min: 1, max: 4 }) }), {
        minLength: 1,
        maxLength: 3,
      }),
      closeShort: fc.boolean(),
    });
    await fc.assert(
      fc.asyncProperty(
        fc.array(line, { minLength: 1, maxLength: 4 }),
        fc.array(arrival, { minLength: 1, maxLength: 3 }),
        async (lines, arrivals) => {
          const order = await purchase(lines);
          const before = await onHand();
          const came = [0, 0];
          for (const { scans, closeShort } of arrivals) {
            // Nothing is begun on an order that is closed.
            if ((await stateOf(order.id)) === 'closed') break;
            const open = await received(order.id);
            const delivery = await begin(order.number);
            for (const { item, packs } of scans) {
              expect((await scan(delivery, item, packs)).status).toBe(200);
              came[item] = (came[item] ?? 0) + packs;
            }
            expect((await post(delivery, closeShort)).status).toBe(200);
            const now = await received(order.id);
            // A line only ever gets more, and only the last open one of an item gets more than it was for.
            for (const [i, was] of open.entries()) expect(now[i]).toBeGreaterThanOrEqual(was);
            for (const item of [0, 1]) {
              const mine = lines.map((l, i) => ({ ...l, got: now[i] ?? 0 })).filter((l) => l.item === item);
              expect(mine.slice(0, -1).every((l) => l.got <= l.qty)).toBe(true);
              if (mine.length > 0 && !closeShort && (await stateOf(order.id)) === 'open')
                expect(mine.reduce((sum, l) => sum + l.got, 0)).toBe(came[item]);
            }
            const isAllHere = lines.every((l, i) => (now[i] ?? 0) >= l.qty);
            expect(await stateOf(order.id)).toBe(isAllHere || closeShort ? 'closed' : 'open');
          }
          const after = await onHand();
          expect(after.map((n, i) => n - (before[i] ?? 0))).toEqual(came);
        },
      ),
      { numRuns: 20 },
    );
  }, 120_000);

  it('posted by five at once while a hand scans on: it is posted once, and what was scanned later is in no stock', async () => {
    for (let turn = 0; turn < 5; turn += 1) {
      const order = await purchase([{ item: 0, qty: 50 }]);
      const before = (await onHand())[0] ?? 0;
      const delivery = await begin(order.number);
      await scan(delivery, 0, 5);
      const [posts, scans] = await Promise.all([
        Promise.all(Array.from({ length: 5 }, () => post(delivery))),
        Promise.all(Array.from({ length: 6 }, (_, i) => scan(delivery, 0, 1, hands[i % 2]))),
      ]);
      expect(posts.filter((p) => p.status === 200)).toHaveLength(1);
      expect(new Set(posts.filter((p) => p.status !== 200).map((p) => p.problem.code))).toEqual(new Set(['receiving.notOpen']));
      const taken = 5 + scans.filter((s) => s.status === 200).length;
      for (const refused of scans.filter((s) => s.status !== 200)) expect(refused.problem.code).toBe('receiving.notOpen');
      expect((await onHand())[0]).toBe(before + taken);
      expect(await received(order.id)).toEqual([taken]);
    }
  });

  it('what nobody ordered comes in too, on no line, and the review says so', async () => {
    const order = await purchase([{ item: 0, qty: 2 }]);
    const delivery = await begin(order.number);
    await scan(delivery, 1, 3);
    const { lines } = (await lead.ask('receiving.delivery', { params: { id: delivery } })).reply;
    expect(lines.map((l) => [l.code, l.expected, l.arrived])).toEqual(
      expect.arrayContaining([['RX-1', '2', '0'], ['RX-2', '0', '3']]), // prettier-ignore
    );
    expect((await post(delivery)).reply).toMatchObject({ pieces: '3' });
    expect([await received(order.id), await stateOf(order.id)]).toEqual([[0], 'open']);
  });

  it('nothing is posted that is empty, or of another site, or that was thrown away', async () => {
    const order = await purchase([{ item: 0, qty: 2 }]);
    const delivery = await begin(order.number);
    expect((await post(delivery)).problem.code).toBe('receiving.empty');
    await scan(delivery, 0, 1);
    expect((await lead.ask('receiving.post', { params: { id: delivery }, body: {}, site: 2 })).problem.code).toBe('people.otherSite');
    await lead.ask('receiving.throwAway', { params: { id: delivery } });
    expect((await post(delivery)).problem.code).toBe('receiving.notOpen');
    expect(await received(order.id)).toEqual([0]);
  });
});

describe('C13 over and short as agreed', () => {
  const agree = (over: string, short: string) => lead.ask('purchasing.agree', { params: { id: 1 }, body: { over, short } });
  const standing = async (delivery: number): Promise<string[]> =>
    (await lead.ask('receiving.delivery', { params: { id: delivery } })).reply.lines.map((l) => l.standing);
  afterAll(() => agree('0', '0'));
  it('what is missing within it is not expected any more; a line that is reversed is expected again', async () => {
    await agree('5', '2,5');
    const order = await purchase([
      { item: 0, qty: 200 },
      { item: 1, qty: 200 },
    ]);
    const delivery = await begin(order.number);
    await scan(delivery, 0, 195);
    await scan(delivery, 1, 210);
    expect(await standing(delivery)).toEqual(['full', 'full']);
    expect((await post(delivery)).status).toBe(200);
    expect(await stateOf(order.id)).toBe('closed');
    const entry = (await lead.ask('receiving.delivery', { params: { id: delivery } })).reply.entryList.find((e) => e.qty === '195');
    const back = await lead.ask('receiving.reverse', { params: { id: delivery, entry: entry?.id ?? 0 }, body: { reason: 'Not here' } });
    expect(back.status).toBe(200);
    expect(await stateOf(order.id)).toBe('open');
    const again = await begin(order.number);
    expect((await lead.ask('receiving.delivery', { params: { id: again } })).reply.lines).toMatchObject([{ expected: '200' }]);
    await lead.ask('receiving.throwAway', { params: { id: again } });
  });
  it('one piece beyond it differs, and the rest stays expected', async () => {
    await agree('5', '2.5');
    const order = await purchase([{ item: 0, qty: 200 }]);
    const delivery = await begin(order.number);
    await scan(delivery, 0, 194);
    expect(await standing(delivery)).toEqual(['short']);
    await post(delivery);
    expect(await stateOf(order.id)).toBe('open');
    expect(await received(order.id)).toEqual([194]);
  });
  it('is said in percent, by whoever buys; an unknown supplier and a percentage that is none are refused', async () => {
    expect((await agree('101', '0')).status).toBe(400);
    expect((await agree('-1', '0')).status).toBe(400);
    expect((await lead.ask('purchasing.agree', { params: { id: 999_999 }, body: { over: '1', short: '1' } })).problem.code).toBe(
      'items.unknownSupplier',
    );
    expect((await (hands[0] as Client).ask('purchasing.agree', { params: { id: 1 }, body: { over: '1', short: '1' } })).status).toBe(403);
    const { suppliers } = (await lead.ask('purchasing.suppliers', {})).reply;
    expect(suppliers.find((s) => s.id === 1)).toMatchObject({ over: '5', short: '2.5' });
  });
});
