import type { Client } from './client.ts';
import type { Hand } from './hand.ts';

/** Who takes part: a lead who asks, two hands whose handhelds tell later, and a look into the database. */
export type ClashWorld = {
  readonly lead: Client;
  readonly tobin: Hand;
  readonly ines: Hand;
  rows<Row>(sql: string, values?: readonly unknown[]): Promise<Row[]>;
};

/** What a clash was made of. `state`: what the house says of the matter, to be compared before and after. */
export type MadeClash = {
  readonly act: string;
  /** What the lead gives with the settlement, where it wants something. */
  readonly gives?: { readonly item?: { readonly id: number; readonly code: string }; readonly serial?: string };
  state(): Promise<unknown>;
};

/** One clash of the table: made to happen, and each way to settle it with what the house says afterwards. */
export type ClashCase = {
  readonly name: string;
  make(): Promise<MadeClash>;
  readonly before: unknown;
  readonly ways: readonly { readonly how: string; readonly label: RegExp; readonly after: unknown; first?(): Promise<unknown> }[];
};

type Goods = { readonly item: number; readonly code: string; readonly pack: number; readonly bin: number; readonly address: string };

/** Every clash that the merge can come to, each made anew for each of its settlements. All goods and bins are the case's own. */
export function clashCases({ lead, tobin, ines, rows }: ClashWorld): ClashCase[] {
  const one = async <Row>(sql: string, values: readonly unknown[] = []): Promise<Row> => {
    const [row] = await rows<Row>(sql, values);
    if (!row) throw new Error(`Nothing found by ${sql}`);
    return row;
  };
  const asked = async <T>(answer: Promise<{ status: number; reply: T; problem: { detail: string } }>): Promise<T> => {
    const { status, reply, problem } = await answer;
    if (status >= 400) throw new Error(problem.detail);
    return reply;
  };
  const idOf = (table: 'bin' | 'zone', sql: string, values: readonly unknown[] = []): Promise<number> =>
    one<{ id: number }>(`SELECT id FROM ${table} WHERE site_id = 1 AND ${sql} ORDER BY id LIMIT 1`, values).then((r) => r.id);
  let made = 0;
  async function goods(qty = 0, more: { tracking?: string; lines?: object } = {}): Promise<Goods> {
    made += 1;
    const name = `CLASH-${made}`;
    const address = `K-${String(made).padStart(2, '0')}-1`;
    const tracking = (more.tracking ?? 'none') as 'none';
    const body = { code: name, description: `Goods of clash ${made}`, group: 'Test', unit: 'each', decimals: 0, tracking };
    const { id } = await asked(lead.ask('items.make', { body }));
    await asked(lead.ask('places.makeBin', { body: { zone: await idOf('zone', `purpose = 'storage'`), address } }));
    if (qty > 0) {
      const lines = [{ bin: address, qty: String(qty), ...more.lines }];
      await asked(lead.ask('stock.opening', { params: { id }, body: { lines } } as never));
    }
    const { pack } = await one<{ pack: number }>(`SELECT id AS pack FROM pack WHERE item_id = $1`, [id]);
    return { item: id, code: name, pack, bin: await idOf('bin', 'address = $1', [address]), address };
  }
  const lying = async (g: Goods): Promise<Record<string, number>> =>
    Object.fromEntries(
      (
        await rows<{ place: string; qty: number }>(
          `SELECT CASE WHEN f.address = $1 THEN 'shelf' WHEN f.use = 'shelf' THEN 'aside' ELSE f.use END AS place,
             sum(f.qty)::int AS qty
           FROM stock_fact f
           WHERE f.item_id = $2
           GROUP BY 1
           ORDER BY 1`,
          [g.address, g.item],
        )
      ).map((r) => [r.place, r.qty]),
    );
  const toCount = async (g: Goods): Promise<number> =>
    (await rows(`SELECT 1 FROM trouble WHERE item_id = $1 AND settled_at IS NULL`, [g.item])).length;
  /** Tells what must go through. */
  const done = async (hand: Hand, ...acts: readonly object[]): Promise<string[]> => {
    const keys: string[] = [];
    for (const act of acts) {
      const told = await hand.tells(act);
      if (told.outcome !== 'done' || told.says !== null) throw new Error(`It should have gone through: ${told.says ?? told.outcome}`);
      keys.push(told.act);
    }
    return keys;
  };
  /** Tells what must clash. */
  const clash = async (hand: Hand, act: object): Promise<string> => {
    const told = await hand.tells(act);
    if (told.outcome !== 'clash') throw new Error('It should have clashed.');
    return told.act;
  };

  // At the dock

  const delivery = async (): Promise<number> => {
    const { number } = await one<{ number: string }>(
      `SELECT o.number FROM purchase_order o WHERE o.state = 'open' AND o.site_id = 1
         AND NOT EXISTS (SELECT 1 FROM delivery_order d WHERE d.purchase_order_id = o.id AND d.open)
         ORDER BY o.id
         LIMIT 1`,
    );
    return (await asked(lead.ask('receiving.start', { body: { purchaseOrder: number } }))).id;
  };
  let shared: Promise<number> | null = null;
  const sharedDelivery = (): Promise<number> => (shared ??= delivery());
  const enter = (d: number, g: Goods, qty: number, more: object = {}): object => ({
    kind: 'receive.enter',
    delivery: d,
    item: g.item,
    pack: g.pack,
    qty: qty * 1000,
    lot: null,
    expires: null,
    serial: null,
    takeAnyway: true,
    ...more,
  });
  const entered = (g: Goods): Promise<unknown> =>
    rows(
      `SELECT trim_scale(qty)::text AS qty, lot, expires, serial FROM delivery_entry WHERE item_id = $1 AND taken_out_at IS NULL
        ORDER BY id`,
      [g.item],
    );
  const entry = (qty: string, more: object = {}): object => ({ qty, lot: null, expires: null, serial: null, ...more });
  let posted: Promise<number> | null = null;
  const postedDelivery = (): Promise<number> =>
    (posted ??= (async () => {
      const id = await delivery();
      await done(tobin, enter(id, await goods(), 1), { kind: 'receive.finish', delivery: id });
      await asked(lead.ask('receiving.post', { params: { id }, body: {} }));
      return id;
    })());

  // On the way

  const put = (g: Goods, to: number, qty: number): object => ({
    kind: 'move.put',
    from: g.bin,
    to,
    item: g.item,
    lot: null,
    serial: null,
    condition: 'sound',
    qty: qty * 1000,
    over: null,
  });
  const quarantine = (): Promise<number> => idOf('bin', `address = 'QUARANTINE'`);

  // At the shelf and the bench

  const rounds: number[] = [];
  type Picked = { order: number; round: number; pick: string };
  async function round(g: Goods, qty: number): Promise<Picked> {
    const { id: customer, today } = await one<{ id: number; today: string }>(
      `SELECT id, to_char(now_here(), 'YYYY-MM-DD') AS today FROM customer ORDER BY id LIMIT 1`,
    );
    const lines = [{ item: g.item, qty: String(qty) }];
    // A round of an earlier case that nothing was taken on gives its cart back.
    for (const earlier of rounds) await lead.ask('picking.throwAway', { params: { id: earlier } });
    const { id } = await asked(lead.ask('orders.make', { body: { customer, due: today, lines } }));
    await asked(lead.ask('orders.promise', { body: { orders: [id], mode: 'free' } }));
    const { id: roundId } = await asked(lead.ask('picking.make', { body: { orders: [id] } }));
    const { key } = await one<{ key: string }>(`SELECT key FROM round_pick WHERE round_id = $1`, [roundId]);
    rounds.push(roundId);
    return { order: id, round: roundId, pick: key };
  }
  const take = (r: Picked, g: Goods, qty: number, more: object = {}): object => ({
    kind: 'pick.take',
    round: r.round,
    pick: r.pick,
    bin: g.bin,
    item: g.item,
    lot: null,
    serial: null,
    qty: qty * 1000,
    ...more,
  });
  const hold = (order: number): Promise<unknown> =>
    asked(lead.ask('orders.hold', { params: { id: order }, body: { reason: 'Not paid yet' } }));
  const release = (order: number): Promise<unknown> => asked(lead.ask('orders.release', { params: { id: order } }));
  let lastOrder = 0;
  let backAgain = (): Promise<unknown> => Promise.resolve();

  // In a count

  const found = (count: number, g: Goods, qty: number): object => ({
    kind: 'count.tally',
    count,
    bin: g.bin,
    item: g.item,
    lot: null,
    expires: null,
    serial: null,
    qty: qty * 1000,
    adds: false,
  });
  /** A count that holds these goods' bin: one that began before the bin was made does not. */
  async function countOf(g: Goods): Promise<number> {
    const { zone } = await one<{ zone: number }>(`SELECT zone_id AS zone FROM bin WHERE id = $1`, [g.bin]);
    for (const open of await rows<{ id: number }>(`SELECT id FROM stock_count WHERE zone_id = $1 AND state = 'open'`, [zone]))
      await asked(lead.ask('counting.throwAway', { params: { id: open.id } }));
    return (await asked(lead.ask('counting.make', { body: { zone } }))).id;
  }
  const tallied = (g: Goods): Promise<unknown> =>
    rows(
      `SELECT c.state, sum(t.qty)::int AS qty
       FROM tally t
       JOIN stock_count c ON c.id = t.count_id
       WHERE t.bin_id = $1 AND t.taken_out_at IS NULL
       GROUP BY c.id
       ORDER BY c.id`,
      [g.bin],
    );

  return [
    {
      name: 'C the delivery was posted meanwhile',
      make: async () => {
        const [id, g] = [await postedDelivery(), await goods()];
        return { act: await clash(tobin, enter(id, g, 3)), state: () => entered(g) };
      },
      before: [],
      ways: [
        { how: 'followUp', label: /follow-up delivery/, after: [entry('3')] },
        { how: 'drop', label: /Drop it/, after: [] },
      ],
    },
    {
      name: 'C6 a code that nobody knows',
      make: async () => {
        const g = await goods();
        const act = await clash(tobin, { kind: 'receive.unknown', delivery: await sharedDelivery(), code: `NOBODY-${g.code}`, qty: 2000 });
        return { act, gives: { item: { id: g.item, code: g.code } }, state: () => entered(g) };
      },
      before: [],
      ways: [
        { how: 'tie', label: /Tie the code/, after: [entry('2')] },
        { how: 'drop', label: /Drop it/, after: [] },
      ],
    },
    {
      name: 'C9 a serial that is here',
      make: async () => {
        const [id, g] = [await sharedDelivery(), await goods(0, { tracking: 'serial' })];
        await done(tobin, enter(id, g, 1, { serial: 'S-1' }));
        return { act: await clash(ines, enter(id, g, 1, { serial: 'S-1' })), gives: { serial: 'S-2' }, state: () => entered(g) };
      },
      before: [entry('1', { serial: 'S-1' })],
      ways: [
        { how: 'serial', label: /another serial/, after: [entry('1', { serial: 'S-1' }), entry('1', { serial: 'S-2' })] },
        { how: 'drop', label: /Drop it/, after: [entry('1', { serial: 'S-1' })] },
      ],
    },
    {
      name: 'C8 one new lot with two dates',
      make: async () => {
        const [id, g] = [await sharedDelivery(), await goods(0, { tracking: 'lotExpiry' })];
        await done(tobin, enter(id, g, 1, { lot: 'L1', expires: '2031-01-31' }));
        return { act: await clash(ines, enter(id, g, 2, { lot: 'L1', expires: '2031-03-31' })), state: () => entered(g) };
      },
      before: [entry('1', { lot: 'L1', expires: '2031-01-31' })],
      ways: [
        {
          how: 'known',
          label: /expires on 31 Jan 2031/,
          after: [entry('1', { lot: 'L1', expires: '2031-01-31' }), entry('2', { lot: 'L1', expires: '2031-01-31' })],
        },
        {
          how: 'date',
          label: /expires on 31 Mar 2031/,
          after: [entry('1', { lot: 'L1', expires: '2031-03-31' }), entry('2', { lot: 'L1', expires: '2031-03-31' })],
        },
      ],
    },
    {
      name: 'I1 the source holds less on record',
      make: async () => {
        const g = await goods(3);
        const act = await clash(tobin, put(g, await quarantine(), 5));
        return { act, state: async () => ({ lying: await lying(g), toCount: await toCount(g) }) };
      },
      before: { lying: { shelf: 3 }, toCount: 0 },
      ways: [
        { how: 'post', label: /Post what the records have/, after: { lying: { quarantine: 3 }, toCount: 2 } },
        { how: 'count', label: /^Drop it; count both bins/, after: { lying: { shelf: 3 }, toCount: 2 } },
      ],
    },
    {
      name: 'A5 a rule of the bin is broken',
      make: async () => {
        const [g, other] = [await goods(4), await goods(1)];
        await rows(`UPDATE bin SET one_item = true WHERE id = $1 AND 1 = $2`, [other.bin, 1]);
        const act = await clash(tobin, put(g, other.bin, 1));
        return { act, state: async () => lyingBy(g, other) };
      },
      before: { here: 4, there: 0 },
      ways: [
        { how: 'accept', label: /it lies there/, after: { here: 3, there: 1 } },
        { how: 'back', label: /carried back/, after: { here: 4, there: 0 } },
      ],
    },
    {
      name: 'A4 the bin was retired',
      make: async () => {
        const [g, gone] = [await goods(4), await goods(0)];
        await rows(`UPDATE bin SET retired_at = now() WHERE id = $1 AND 1 = $2`, [gone.bin, 1]);
        const act = await clash(tobin, put(g, gone.bin, 2));
        return { act, state: () => lyingBy(g, gone) };
      },
      before: { here: 4, there: 0 },
      ways: [
        { how: 'bringBack', label: /into use again/, after: { here: 2, there: 2 } },
        { how: 'back', label: /carried back/, after: { here: 4, there: 0 } },
      ],
    },
    {
      name: 'H6 the order was held meanwhile',
      make: async () => {
        const g = await goods(8);
        const r = await round(g, 4);
        await hold((lastOrder = r.order));
        return { act: await clash(tobin, take(r, g, 2)), state: () => lying(g) };
      },
      before: { shelf: 8 },
      ways: [
        { how: 'putBack', label: /put back/, after: { arrivals: 2, shelf: 6 } },
        { how: 'again', label: /once more/, after: { cart: 2, shelf: 6 }, first: () => release(lastOrder) },
      ],
    },
    {
      name: 'F2 the promise was cut meanwhile, and the bin holds less than was taken',
      make: async () => {
        const g = await goods(5);
        const r = await round(g, 5);
        const away = (from: string, to: string) => asked(lead.ask('moves.move', { body: { from, to, code: g.code, qty: '4' } }));
        await away(g.address, 'QUARANTINE');
        const act = await clash(tobin, take(r, g, 2));
        backAgain = async () => {
          await away('QUARANTINE', g.address);
          await asked(lead.ask('orders.promise', { body: { orders: [r.order], mode: 'free' } }));
        };
        return { act, state: async () => ({ lying: await lying(g), toCount: await toCount(g) }) };
      },
      before: { lying: { quarantine: 4, shelf: 1 }, toCount: 0 },
      ways: [
        { how: 'putBack', label: /put back/, after: { lying: { arrivals: 1, quarantine: 4 }, toCount: 1 } },
        { how: 'again', label: /once more/, after: { lying: { cart: 2, shelf: 3 }, toCount: 0 }, first: () => backAgain() },
      ],
    },
    {
      name: 'G6 the record was short',
      make: async () => {
        const g = await goods(5);
        const r = await round(g, 5);
        // It lies in the next bin: the promise stands, and this bin holds less than the round was planned with.
        const { address: aside } = await goods();
        await asked(lead.ask('moves.move', { body: { from: g.address, to: aside, code: g.code, qty: '2' } }));
        const act = await clash(tobin, take(r, g, 5));
        return { act, state: async () => ({ lying: await lying(g), toCount: await toCount(g) }) };
      },
      before: { lying: { aside: 2, shelf: 3 }, toCount: 0 },
      ways: [
        { how: 'asFound', label: /as found/, after: { lying: { aside: 2, cart: 5 }, toCount: 1 } },
        { how: 'count', label: /put back there/, after: { lying: { aside: 2, shelf: 3 }, toCount: 1 } },
      ],
    },
    {
      name: 'G6 another serial than the records have there',
      make: async () => {
        const g = await goods(1, { tracking: 'serial', lines: { serials: ['HERE-1'] } });
        const r = await round(g, 1);
        return {
          act: await clash(tobin, take(r, g, 1, { serial: 'FOUND-1' })),
          state: () => rows(`SELECT f.serial, f.use FROM stock_fact f WHERE f.item_id = $1 ORDER BY f.serial`, [g.item]),
        };
      },
      before: [{ serial: 'HERE-1', use: 'shelf' }],
      ways: [
        {
          how: 'asFound',
          label: /as found/,
          after: [
            { serial: 'FOUND-1', use: 'cart' },
            { serial: 'HERE-1', use: 'shelf' },
          ],
        },
        { how: 'count', label: /put back there/, after: [{ serial: 'HERE-1', use: 'shelf' }] },
      ],
    },
    {
      name: 'H1 the order was held before its packing was told',
      make: async () => {
        const g = await goods(6);
        const r = await round(g, 2);
        const [taken] = await done(tobin, take(r, g, 2));
        await done(tobin, { kind: 'pick.putDown', round: r.round, bin: await idOf('bin', `address = 'BENCH-1'`) });
        await hold((lastOrder = r.order));
        const act = await clash(tobin, { kind: 'pack.order', order: r.order, pieces: [taken], parcels: 2 });
        return { act, state: () => one(`SELECT parcels FROM customer_order WHERE id = $1`, [r.order]) };
      },
      before: { parcels: null },
      ways: [
        { how: 'seen', label: /packed again/, after: { parcels: null } },
        { how: 'again', label: /once more/, after: { parcels: 2 }, first: () => release(lastOrder) },
      ],
    },
    {
      name: 'J2 two visits to one bin',
      make: async () => {
        const g = await goods(5);
        const count = await countOf(g);
        await done(tobin, found(count, g, 3));
        return { act: await clash(ines, found(count, g, 1)), state: () => tallied(g) };
      },
      before: [{ state: 'open', qty: 3 }],
      ways: [
        { how: 'add', label: /Add it/, after: [{ state: 'open', qty: 4 }] },
        { how: 'instead', label: /stand instead/, after: [{ state: 'open', qty: 1 }] },
      ],
    },
    {
      name: 'J5 the count was thrown away',
      make: async () => {
        const g = await goods(5);
        const count = await countOf(g);
        await asked(lead.ask('counting.throwAway', { params: { id: count } }));
        return { act: await clash(tobin, found(count, g, 2)), state: () => tallied(g) };
      },
      before: [],
      ways: [
        { how: 'followUp', label: /Count the zone again/, after: [{ state: 'open', qty: 2 }] },
        { how: 'drop', label: /Drop it/, after: [] },
      ],
    },
  ];

  async function lyingBy(g: Goods, other: Goods): Promise<{ here: number; there: number }> {
    const at = async (bin: number): Promise<number> =>
      (
        await one<{ qty: number }>(`SELECT coalesce(sum(qty), 0)::int AS qty FROM balance WHERE item_id = $1 AND bin_id = $2`, [
          g.item,
          bin,
        ])
      ).qty;
    return { here: await at(g.bin), there: await at(other.bin) };
  }
}
