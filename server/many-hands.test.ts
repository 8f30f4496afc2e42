import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { seeded, type Random } from '#core/base';
import { signIn, type Client } from './testing/client.ts';
import { openHouse, type TestHouse } from './testing/house.ts';
import { freePort, startServer } from './testing/program.ts';

// A busy morning: thirty hands on two hundred orders over the same fifty items, and the server is killed in the middle of it.

const HANDS = 30;
const ORDERS = 200;
const ITEMS = 50;
const ACTS = 900;

let house: TestHouse;
beforeAll(async () => {
  house = await openHouse({ jobs: false });
});
afterAll(() => house.close());

type Answer = { status: number; problem: { code: string } };
type Asked = { ask: Client['ask']; random: Random; orders: readonly number[] };
type OpenPick = { round: number; pick: number; bin: string; code: string; lot: string | null; left: number };

/** What is open on rounds of these orders, whoever made them. */
const openPicks = (orders: readonly number[]): Promise<OpenPick[]> =>
  house.rows(
    `SELECT k.round_id AS round, k.id AS pick, b.address AS bin, i.code, l.code AS lot, (k.qty - k.picked)::float AS left
     FROM round_pick k
     JOIN round r ON r.id = k.round_id AND r.state = 'open'
     JOIN order_line o ON o.id = k.line_id AND o.order_id = ANY(?::int[])
     JOIN bin b ON b.id = k.bin_id
     JOIN item i ON i.id = k.item_id
     LEFT JOIN lot l ON l.id = k.lot_id
     WHERE k.picked < k.qty
     ORDER BY k.id`,
    [orders],
  );
const openRounds = (orders: readonly number[]): Promise<{ id: number }[]> =>
  house.rows(
    `SELECT DISTINCT r.id
     FROM round r
     JOIN round_pick k ON k.round_id = r.id
     JOIN order_line o ON o.id = k.line_id AND o.order_id = ANY(?::int[])
     WHERE r.state = 'open'
     ORDER BY r.id`,
    [orders],
  );

/** One of these orders of which this is so; whichever, where it is so of none. */
async function one({ orders, random }: Asked, condition: string): Promise<number> {
  const found = await house.rows<{ id: number }>(
    `SELECT o.id FROM customer_order o WHERE o.id = ANY(?::int[]) AND o.state = 'open' AND ${condition} ORDER BY o.id`,
    [orders],
  );
  return found.length > 0 ? random.pick(found).id : random.pick(orders);
}
const AT_BENCH = `o.packed_at IS NULL AND EXISTS (SELECT 1 FROM in_hand h JOIN order_line l ON l.id = h.line_id
  WHERE l.order_id = o.id AND h.put_down)`;

const ACTIONS = {
  promise: ({ ask, random, orders }: Asked) =>
    ask('orders.promise', {
      body: { orders: Array.from({ length: 8 }, () => random.pick(orders)), mode: random.chance(0.2) ? 'whole' : 'free' },
    }),
  round: ({ ask, random, orders }: Asked) =>
    ask('picking.make', { body: { orders: Array.from({ length: random.int(1, 4) }, () => random.pick(orders)) } }),
  pick: async ({ ask, random, orders }: Asked) => {
    const picks = await openPicks(orders);
    if (picks.length === 0) return null;
    const { round, pick, bin, code, lot, left } = random.pick(picks);
    const qty = String(random.chance(0.8) ? left : 1);
    return ask('picking.pick', { params: { id: round, pick }, body: { bin, code, qty, ...(lot === null ? {} : { lot }) } });
  },
  trouble: async ({ ask, random, orders }: Asked) => {
    const picks = await openPicks(orders);
    if (picks.length === 0) return null;
    const { round, pick } = random.pick(picks);
    return ask('picking.trouble', { params: { id: round, pick }, body: { kind: random.pick(['short', 'damaged', 'notFound'] as const) } });
  },
  putDown: async ({ ask, random, orders }: Asked) => {
    const rounds = await openRounds(orders);
    return rounds.length === 0 ? null : ask('picking.putDown', { params: { id: random.pick(rounds).id }, body: { bin: 'BENCH-1' } });
  },
  keySheet: async ({ ask, random, orders }: Asked) => {
    const picks = await openPicks(orders);
    if (picks.length === 0) return null;
    const { round } = random.pick(picks);
    const own = picks.filter((p) => p.round === round);
    const lines = own.map((p) => ({ pick: p.pick, taken: String(random.chance(0.9) ? p.left : 0) }));
    return ask('picking.keySheet', { params: { id: round }, body: { bench: 'BENCH-1', lines } });
  },
  throwAway: async ({ ask, random, orders }: Asked) => {
    const rounds = await openRounds(orders);
    return rounds.length === 0 ? null : ask('picking.throwAway', { params: { id: random.pick(rounds).id } });
  },
  putBack: ({ ask, random, orders }: Asked) => ask('picking.putBack', { params: { id: random.pick(orders) } }),
  pack: async (of: Asked) => of.ask('shipping.pack', { params: { id: await one(of, AT_BENCH) }, body: { parcels: 1 } }),
  ship: async (of: Asked) => of.ask('shipping.ship', { params: { id: await one(of, 'o.packed_at IS NOT NULL') } }),
  hold: ({ ask, random, orders }: Asked) => ask('orders.hold', { params: { id: random.pick(orders) }, body: { reason: 'Ring first' } }),
  release: async (of: Asked) => of.ask('orders.release', { params: { id: await one(of, 'o.held_for IS NOT NULL') } }),
  cancel: ({ ask, random, orders }: Asked) =>
    ask('picking.cancelOrder', { params: { id: random.pick(orders) }, body: { reason: 'Not wanted' } }),
  changeLine: async ({ ask, random, orders }: Asked) => {
    const id = random.pick(orders);
    const lines = await house.rows<{ id: number }>(`SELECT id FROM order_line WHERE order_id = ? ORDER BY id`, [id]);
    return ask('picking.changeLine', { params: { id, line: random.pick(lines).id }, body: { qty: String(random.int(0, 5)) } });
  },
} satisfies Record<string, (of: Asked) => Promise<Answer | null>>;
type Action = keyof typeof ACTIONS;
// What brings goods to the lorry comes more often than what crosses it.
const WEIGHTED: readonly Action[] = [
  ...Array<Action>(3).fill('promise'),
  ...Array<Action>(4).fill('round'),
  ...Array<Action>(10).fill('pick'),
  ...Array<Action>(4).fill('putDown'),
  ...Array<Action>(2).fill('keySheet'),
  ...Array<Action>(4).fill('pack'),
  ...Array<Action>(4).fill('ship'),
  ...(['trouble', 'throwAway', 'putBack', 'hold', 'release', 'cancel', 'changeLine'] as const),
];

const HERE_OR_GONE = `SELECT i.id AS item, (SELECT coalesce(sum(b.qty), 0) FROM balance b WHERE b.item_id = i.id)
  + (SELECT coalesce(sum(l.shipped), 0) FROM order_line l WHERE l.item_id = i.id) AS qty
  FROM item i WHERE i.id = ANY(?::int[]) ORDER BY i.id`;

describe('thirty hands on two hundred orders, and the server is killed', () => {
  it('F4 G6 the audit is clean, no piece is lost or doubled, nothing on a cart is nobody’s, no deadlock', async () => {
    const goods = await house.rows<{ item: number }>(
      `SELECT f.item_id AS item
       FROM stock_fact f
       JOIN item i ON i.id = f.item_id AND i.tracking IN ('none', 'lot') AND i.decimals = 0
       WHERE f.site_id = 1 AND f.usable AND f.use = 'shelf' AND f.pickable
       GROUP BY f.item_id
       ORDER BY f.item_id
       LIMIT ${ITEMS}`,
    );
    const items = goods.map((g) => g.item);
    await house.rows(
      `INSERT INTO bin (site_id, zone_id, address, use, walk)
       SELECT site_id, zone_id, 'MANYCART' || n, 'cart', walk
       FROM (SELECT * FROM bin WHERE site_id = 1 AND use = 'cart' ORDER BY id LIMIT 1) c, generate_series(1, ${HANDS}) n`,
    );
    const random = seeded(11);
    const setUp = await house.signIn('Maren Oake');
    const orders: number[] = [];
    for (let n = 0; n < ORDERS; n += 1) {
      const wanted = new Set(Array.from({ length: 3 }, () => random.pick(items)));
      const lines = [...wanted].map((item) => ({ item, qty: String(random.int(1, 4)) }));
      orders.push((await setUp.ask('orders.make', { body: { customer: 1, due: '2027-01-10', lines } })).reply.id);
    }
    const before = await house.rows(HERE_OR_GONE, [items]);

    const port = await freePort();
    let server = await startServer(house, port);
    let lead = await signIn(server.address, 'Maren Oake');
    const seen = new Map<string, number>();
    let [acts, broken] = [0, 0];
    let back: Promise<void> = Promise.resolve();
    const work = async (hand: number): Promise<void> => {
      const own = seeded(1000 + hand);
      while (acts < ACTS) {
        acts += 1;
        const what = own.pick(WEIGHTED);
        try {
          const answer: Answer | null = await ACTIONS[what]({ ask: lead.ask.bind(lead), random: own, orders });
          if (!answer) continue;
          seen.set(`${what} ${answer.status}`, (seen.get(`${what} ${answer.status}`) ?? 0) + 1);
          if (answer.status >= 500) throw new Error(`${what} broke: ${JSON.stringify(answer.problem)}`);
        } catch (error) {
          if ((error as Error).message.includes('broke:')) throw error;
          // The server is gone under this hand: what it asked for is done or not, and it goes on with the next one.
          broken += 1;
          await back;
        }
      }
    };
    const hands = Promise.all(Array.from({ length: HANDS }, (_, n) => work(n)));
    while (acts < ACTS / 2) await new Promise((resolve) => setImmediate(resolve));
    back = (async () => {
      await server.kill();
      server = await startServer(house, port);
      lead = await signIn(server.address, 'Maren Oake');
    })();
    await back;
    await hands;
    await server.stop();

    process.stdout.write(`${JSON.stringify(Object.fromEntries([...seen].sort()))}, ${broken} cut off\n`);
    expect(broken).toBeGreaterThan(0);
    await house.expectCleanAudit();
    expect(await house.rows(HERE_OR_GONE, [items])).toEqual(before);
    const [lost] = await house.rows<{ n: number }>(
      `SELECT count(*) AS n
       FROM balance b
       JOIN bin ON bin.id = b.bin_id AND bin.use = 'cart' AND bin.address LIKE 'MANYCART%'
       WHERE b.qty > coalesce((SELECT sum(h.qty) FROM in_hand h WHERE h.bin_id = b.bin_id AND h.item_id = b.item_id), 0)`,
    );
    expect(lost).toEqual({ n: 0 });
    const [{ deadlocks } = { deadlocks: -1 }] = await house.rows<{ deadlocks: number }>(
      `SELECT deadlocks FROM pg_stat_database WHERE datname = current_database()`,
    );
    expect(deadlocks).toBe(0);
    // A morning in which nothing was done proves nothing.
    for (const what of ['promise', 'round', 'pick', 'putDown', 'pack', 'cancel', 'changeLine'])
      expect(seen.get(`${what} 200`) ?? 0).toBeGreaterThan(0);
  }, 300_000);
});
