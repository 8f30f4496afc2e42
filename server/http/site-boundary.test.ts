import { beforeAll, describe, expect, it } from '@jest/globals';
import { ROUTES, type RouteName, type RouteSpec } from '#contract';
import { houseForTests } from '../testing/house.ts';

// Every command on a document belongs to the document's site. The documents of the demo stand at site 1; the lead works at site 2.

const { house, lead } = houseForTests({ lead: 'Maren Oake' }, { jobs: false });
const ids: Record<string, number> = {};
beforeAll(async () => {
  const one = async (sql: string): Promise<number> => (await house.rows<{ id: number }>(sql))[0]?.id ?? 0;
  ids['deliveries'] = await one(`SELECT id FROM delivery WHERE site_id = 1 AND state = 'scanning' LIMIT 1`);
  ids['entry'] = await one(`SELECT id FROM delivery_entry WHERE delivery_id = ${ids['deliveries']} LIMIT 1`);
  ids['notices'] = await one(`SELECT id FROM notice WHERE site_id = 1 AND state = 'coming' LIMIT 1`);
  ids['rounds'] = await one(`SELECT id FROM round WHERE site_id = 1 AND state = 'open' LIMIT 1`);
  ids['pick'] = await one(`SELECT id FROM round_pick WHERE round_id = ${ids['rounds']} ORDER BY picked = qty LIMIT 1`);
  ids['orders'] = await one(`SELECT order_id AS id FROM order_at WHERE site_id = 1 AND station = 'bench' LIMIT 1`);
  const zone = await one(`SELECT id FROM zone WHERE site_id = 1 AND code = 'COLD'`);
  ids['purchasing/orders'] = await one(`SELECT id FROM purchase_order WHERE site_id = 1 AND state = 'draft' LIMIT 1`);
  ids['counts'] = (await lead.ask('counting.make', { body: { zone, blind: false } })).reply.id;
  const item = await one(`SELECT item_id AS id FROM stock_fact WHERE site_id = 1 AND use = 'shelf' AND condition = 'sound' LIMIT 1`);
  ids['carries'] = await one(
    `WITH d AS (INSERT INTO document (kind, number, site_id, person_id) VALUES ('carry', 'CR-900', 1, 1) RETURNING id)
     INSERT INTO carry (number, kind, site_id, made_by, document_id) SELECT 'CR-900', 'putAway', 1, 1, id FROM d RETURNING id`,
  );
  ids['holds'] = (await lead.ask('stock.hold', { body: { item, qty: '1', reason: 'test' } })).reply.id;
  ids['item'] = item;
  ids['jobs'] = await one(
    `INSERT INTO job (kind, title, person_id, site_id, input, state, result)
     VALUES ('places.importBins', 'Bins of the main site', 1, 1, '{"file": 1}', 'checked', '{"faults": 0}')
     RETURNING id`,
  );
});

// What each command needs to be understood at all; the rest is empty.
const BODIES: Readonly<Record<string, () => object>> = {
  'receiving.withdrawNotice': () => ({ withdrawn: true }),
  'receiving.scan': () => ({ code: 'HV-10' }),
  'receiving.change': () => ({ qty: '1' }),
  'receiving.post': () => ({}),
  'receiving.keyInvoice': () => ({ lines: [] }),
  'receiving.place': () => ({ bin: null, qty: '1' }),
  'receiving.customer': () => ({ customer: 1 }),
  'receiving.inspect': () => ({ checked: '1', failed: [] }),
  'receiving.photo': () => ({ file: 1 }),
  'receiving.reverse': () => ({ reason: 'test' }),
  'receiving.paper': () => ({ doc: 'INV 1', date: null }),
  'receiving.supplier': () => ({ supplier: 1 }),
  'purchasing.change': () => ({ version: 1, due: '2030-01-01', lines: [{ line: null, item: ids['item'], qty: '1' }] }),
  'purchasing.approve': () => ({ version: 1 }),
  'purchasing.sent': () => ({ as: 'pdf' }),
  'purchasing.cancel': () => ({ reason: 'test' }),
  'purchasing.close': () => ({ reason: 'test' }),
  'picking.give': () => ({ person: null }),
  'picking.split': () => ({ picks: [1], to: { kind: 'out' } }),
  'picking.pick': () => ({ bin: 'A-01-1', code: 'HV-10' }),
  'picking.trouble': () => ({ kind: 'short' }),
  'picking.keySheet': () => ({ bench: 'BENCH-1', lines: [{ pick: 1, taken: '1' }] }),
  'picking.putDown': () => ({ bin: 'BENCH-1' }),
  'carrying.give': () => ({ person: null }),
  'carrying.keySheet': () => ({ lines: [{ task: 1, put: '1', to: 'A-01-1' }] }),
  'picking.cancelOrder': () => ({ reason: 'test' }),
  'orders.addLine': () => ({ item: ids['item'], qty: '1' }),
  'orders.hold': () => ({ reason: 'test' }),
  'orders.change': () => ({ due: '2030-01-01' }),
  'orders.nameLine': () => ({ line: 1 }),
  'picking.assemble': () => ({ qty: '1' }),
  'picking.changeLine': () => ({ qty: '1' }),
  'shipping.pack': () => ({ parcels: 1 }),
  'counting.tally': () => ({ bin: 'X-01', code: 'QG-10', qty: '1' }),
  'counting.verdict': () => ({ bin: 'X-01', verdict: 'none' }),
  'stock.release': () => ({ reason: 'test' }),
};
const commands = (Object.entries(ROUTES) as [RouteName, RouteSpec][])
  .map(([name, spec]) => ({
    name,
    spec,
    kind: /^\/api\/(deliveries|notices|rounds|carries|orders|counts|holds|jobs|purchasing\/orders)\/:id(\/|$)/.exec(spec.path)?.[1],
  }))
  .filter((r) => r.spec.method === 'POST' && r.kind !== undefined);

const state = async (): Promise<unknown> =>
  house.rows(
    `SELECT (SELECT count(*) FROM movement) AS movements, (SELECT sum(qty) FROM promise) AS promised,
       (SELECT json_agg(state ORDER BY id) FROM customer_order) AS orders,
       (SELECT json_agg(state ORDER BY id) FROM round) AS rounds,
       (SELECT json_agg(state ORDER BY id) FROM carry) AS carries,
       (SELECT json_agg(state ORDER BY id) FROM delivery) AS deliveries,
         (SELECT json_agg(state ORDER BY id) FROM notice) AS notices,
         (SELECT json_agg(state || version ORDER BY id) FROM purchase_order) AS purchases,
         (SELECT json_agg(state ORDER BY id) FROM stock_count) AS counts,
         (SELECT count(*) FROM hold WHERE released_at IS NULL) AS holds,
         (SELECT json_agg(state ORDER BY id) FROM job) AS jobs,
         (SELECT sum(qty) FROM delivery_entry WHERE taken_out_at IS NULL) AS scanned`,
  );

describe('A1 a site is a boundary', () => {
  it('knows the commands of which it speaks', () => {
    expect(commands.length).toBeGreaterThan(20);
    expect(Object.keys(BODIES).filter((name) => !commands.some((c) => c.name === name))).toEqual([]);
  });
  it.each(commands.map((c) => [c.name, c] as const))(
    '%s on a document of another site is refused, and nothing changes',
    async (name, { kind }) => {
      const before = await state();
      const params = { id: ids[kind ?? ''], entry: ids['entry'], pick: ids['pick'], tally: 1, line: 1 };
      const answer = await lead.ask(name, { params, body: BODIES[name]?.() ?? {}, site: 2 } as never);
      expect([name, (answer.problem as { code: string }).code]).toEqual([name, 'people.otherSite']);
      expect(await state()).toEqual(before);
    },
  );
  it('what a job found is shown to whoever works at its site, from any of theirs; it stands in the list of its own', async () => {
    const id = ids['jobs'] ?? 0;
    const listed = async (site: number): Promise<number[]> => (await lead.ask('work.jobs', { site })).reply.jobs.map((j) => j.id);
    expect(await listed(2)).not.toContain(id);
    expect(await listed(1)).toContain(id);
    expect((await lead.ask('work.rows', { params: { id }, site: 2 })).status).toBe(200);
    const [far] = await house.rows<{ id: number }>(
      `INSERT INTO job (kind, title, person_id, site_id, input, state)
       VALUES ('places.importBins', 'Bins of the barn', 1, 2, '{"file": 1}', 'done')
       RETURNING id`,
    );
    const jory = await house.signIn('Jory Penhale');
    expect((await jory.ask('work.job', { params: { id: far?.id ?? 0 } })).problem.code).toBe('people.notAtSite');
    expect((await jory.ask('work.job', { params: { id } })).status).toBe(200);
  });
  it('orders of two sites are not promised in one breath, whichever comes first', async () => {
    const item = (
      await lead.ask('items.make', {
        body: { code: 'TWO-1', description: 'Two', group: 'Test', unit: 'each', decimals: 0, tracking: 'none' },
      })
    ).reply.id;
    const bins = await house.rows<{ address: string; site_id: number }>(
      `SELECT DISTINCT ON (site_id) address, site_id
       FROM bin
       WHERE use = 'shelf' AND site_id IN (1, 2) AND NOT EXISTS (SELECT 1 FROM balance b WHERE b.bin_id = bin.id)
       ORDER BY site_id, id`,
    );
    const orders: number[] = [];
    for (const { address, site_id: site } of bins) {
      const qty = site === 1 ? '3' : '5';
      await lead.ask('stock.opening', { params: { id: item }, body: { lines: [{ bin: address, qty }] }, site });
      const lines = [{ item, qty: '8' }];
      orders.push((await lead.ask('orders.make', { body: { customer: 1, due: '2027-01-10', lines }, site })).reply.id);
    }
    for (const asked of [orders, [...orders].reverse()])
      for (const site of [1, 2])
        expect((await lead.ask('orders.promise', { body: { orders: asked, mode: 'free' }, site })).problem.code).toBe('people.otherSite');
    for (const [i, id] of orders.entries()) await lead.ask('orders.promise', { body: { orders: [id], mode: 'free' }, site: i + 1 });
    expect(await house.rows(`SELECT site_id, qty::int AS qty FROM promise WHERE item_id = ? ORDER BY 1`, [item])).toEqual([
      { site_id: 1, qty: 3 },
      { site_id: 2, qty: 5 },
    ]);
    await house.expectCleanAudit();
  });
});
