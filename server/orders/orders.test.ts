import { describe, expect, it } from '@jest/globals';
import type { BodyIn, Routes } from '#contract';
import { shelved } from '../testing/goods.ts';
import { houseForTests } from '../testing/house.ts';
import { dryRun, goAhead } from '../testing/sheets.ts';

const { house, lead, office, hand } = houseForTests({ lead: 'Maren Oake', office: 'Odile Wrack', hand: 'Tobin Sallow' });

const DUE = '2027-02-01';
const orderOf = async (id: number) => (await lead.ask('orders.order', { params: { id } })).reply;
const make = (body: Partial<BodyIn<Routes['orders.make']>>) => office.ask('orders.make', { body: { customer: 1, due: DUE, ...body } });
let made = 0;
async function customer(more: { wholeOnly?: boolean; leastLife?: number } = {}): Promise<number> {
  made += 1;
  const kept = await office.ask('orders.saveCustomer', { body: { code: `T-${made}`, name: `Test customer ${made}`, ...more } });
  return kept.reply.id;
}

describe('kinds of orders (F3)', () => {
  it('a job and a transfer are called by what they are for; each says what it lacks', async () => {
    const job = await make({ kind: 'job', job: 'Shelf repair 12' });
    expect(await orderOf(job.reply.id)).toMatchObject({ kind: 'job', customer: 'Job Shelf repair 12' });
    const away = await make({ kind: 'transfer', toSite: 2 });
    expect((await orderOf(away.reply.id)).customer).toMatch(/^To /);
    expect((await make({ kind: 'job' })).problem).toMatchObject({ code: 'orders.whoFor', detail: 'Say for which job it is.' });
    expect((await make({ kind: 'transfer' })).problem.code).toBe('orders.whoFor');
    expect((await make({ kind: 'transfer', toSite: 1 })).problem.code).toBe('orders.toItself');
    expect((await make({ kind: 'transfer', toSite: 999 })).problem.code).toBe('orders.unknownSite');
    expect((await office.ask('orders.make', { body: { due: DUE } })).problem.code).toBe('orders.whoFor');
    expect((await make({ customer: 9999 })).problem.code).toBe('orders.unknownCustomer');
  });

  it.each<['job' | 'transfer', { job?: string; toSite?: number }, string]>([
    ['job', { job: 'Repair' }, 'jobs'],
    ['transfer', { toSite: 2 }, 'transit'],
  ])('what leaves for a %s goes there, and not to customers', async (kind, who, where) => {
    const { id, bins } = await shelved(house, lead, { code: `KIND-${kind}`, lying: [{ qty: '5' }] });
    const order = (await office.ask('orders.make', { body: { kind, ...who, due: DUE, lines: [{ item: id, qty: '3' }] } })).reply.id;
    await lead.ask('orders.promise', { body: { orders: [order] } });
    const round = (await lead.ask('picking.make', { body: { orders: [order] } })).reply.id;
    const pick = (await lead.ask('picking.round', { params: { id: round } })).reply.stopList[0]?.picks[0]?.id ?? 0;
    await lead.ask('picking.pick', { params: { id: round, pick }, body: { bin: bins[0]?.address ?? '', code: `KIND-${kind}`, qty: '3' } });
    await lead.ask('picking.putDown', { params: { id: round }, body: { bin: 'BENCH-1' } });
    await lead.ask('shipping.pack', { params: { id: order }, body: { parcels: 1 } });
    if (kind === 'transfer') {
      const promising = (may: boolean) =>
        house.rows(
          `UPDATE zone SET promisable = ? WHERE id = (SELECT zone_id FROM bin WHERE id = (SELECT transit_bin FROM site WHERE id = 1))`,
          [may],
        );
      await promising(true);
      expect((await lead.ask('shipping.ship', { params: { id: order } })).problem.code).toBe('shipping.transitPromised');
      await promising(false);
    }
    expect((await lead.ask('shipping.ship', { params: { id: order } })).status).toBe(200);
    const [went] = await house.rows<{ to: number; transit: number }>(
      `SELECT m.to_bin AS to, (SELECT transit_bin FROM site WHERE id = 1) AS transit
       FROM movement m WHERE m.item_id = ? ORDER BY m.id DESC LIMIT 1`,
      [id],
    );
    expect(went?.to).toBe(where === 'jobs' ? 5 : went?.transit);
    const number = (await orderOf(order)).shipments[0]?.number ?? '';
    const back = await lead.ask('receiving.takeBack', { body: { shipment: number, customer: null } });
    expect(back.status).toBe(kind === 'job' ? 200 : 404);
    await house.expectCleanAudit();
  });
});

describe('what an order bears (F8, F10)', () => {
  it('a customer’s own number comes once, whatever its case, until its order is cancelled; two at once are one', async () => {
    const who = await customer();
    const first = await make({ customer: who, reference: 'PO 77' });
    expect((await make({ customer: who, reference: ' po 77 ' })).problem).toMatchObject({
      code: 'orders.referenceKnown',
      number: first.reply.number,
    });
    expect((await make({ reference: 'PO 77' })).status).toBe(200);
    const [a, b] = await Promise.all([make({ customer: who, reference: 'AT ONCE' }), make({ customer: who, reference: 'AT ONCE' })]);
    expect([a.status, b.status].sort()).toEqual([200, 409]);
    await lead.ask('picking.cancelOrder', { params: { id: first.reply.id }, body: { reason: 'twice' } });
    expect((await make({ customer: who, reference: 'PO 77' })).status).toBe(200);
  });

  it('its head and what is no stock can be changed while it is open; a reference of another order of theirs cannot be taken', async () => {
    const who = await customer({ leastLife: 30 });
    const { id } = (await make({ customer: who, reference: 'A', extras: [{ text: 'Setting up', qty: '1.5' }] })).reply;
    expect(await orderOf(id)).toMatchObject({ leastLife: 30, reference: 'A', extras: [{ text: 'Setting up', qty: '1.5' }] });
    await make({ customer: who, reference: 'B' });
    const change = (reference: string) =>
      office.ask('orders.change', {
        params: { id },
        body: { due: '2027-03-01', priority: 2, reference, carrier: 'Own van', note: 'ring first', leastLife: null, extras: [] },
      });
    expect((await change('b')).problem.code).toBe('orders.referenceKnown');
    expect((await change('A')).status).toBe(200);
    expect(await orderOf(id)).toMatchObject({ due: '2027-03-01', priority: 2, carrier: 'Own van', leastLife: null, extras: [] });
    await lead.ask('picking.cancelOrder', { params: { id }, body: { reason: 'gone' } });
    expect((await change('A')).problem.code).toBe('orders.notOpen');
  });

  it('bad lines are refused by name and nothing is written: an unknown item, nothing, too fine, more than an order may have', async () => {
    const before = await house.rows(`SELECT count(*) AS n FROM customer_order`);
    const { id } = await shelved(house, lead, { code: 'LINE-1', lying: [] });
    expect((await make({ lines: [{ item: 99999, qty: '1' }] })).problem.code).toBe('orders.unknownItem');
    expect((await make({ lines: [{ item: id, qty: '0' }] })).problem.code).toBe('orders.nothing');
    expect((await make({ lines: [{ item: id, qty: '1.5' }] })).problem.code).toBe('stock.finerThanItem');
    const many = Array.from({ length: 5000 }, () => ({ item: id, qty: '1' }));
    expect((await make({ lines: many })).problem.detail).toContain('at most 1000 lines');
    expect(await house.rows(`SELECT count(*) AS n FROM customer_order`)).toEqual(before);
    const large = await make({ lines: many.slice(0, 1000) });
    expect((await orderOf(large.reply.id)).lines).toBe(1000);
  });
});

describe('customers', () => {
  it('have a code of their own; one that was changed meanwhile is not overwritten', async () => {
    const id = await customer();
    const { reply } = await office.ask('orders.customers', { query: { q: `T-${made}` } });
    expect(reply.customers.map((c) => c.id)).toEqual([id]);
    const again = await office.ask('orders.saveCustomer', { body: { code: `t-${made}`, name: 'Somebody' } });
    expect(again.problem).toMatchObject({ code: 'orders.customerCodeTaken' });
    const change = (name: string) => office.ask('orders.saveCustomer', { body: { id, version: 1, code: `T-${made}`, name } });
    expect((await change('First')).status).toBe(200);
    expect((await change('Second')).problem.code).toBe('orders.customerChanged');
    expect((await hand.ask('orders.customers', { query: {} })).status).toBe(403);
  });
});

describe('promises (F4)', () => {
  it('say of what is missing why, and what would mend it', async () => {
    const { id, bins } = await shelved(house, lead, { code: 'WHY-1', lying: [{ qty: '4' }, { qty: '12' }] });
    await lead.ask('stock.hold', { body: { item: id, bin: bins[1]?.id ?? 0, reason: 'lids warped' } as never });
    await shelved(house, lead, { code: 'WHY-2', lying: [] });
    await house.rows(
      `WITH o AS (
         INSERT INTO purchase_order (number, supplier_id, site_id, due) VALUES ('PO-WHY', 1, 1, '2027-01-12') RETURNING id
       ) INSERT INTO purchase_line (purchase_order_id, item_id, qty) SELECT id, ?, 50 FROM o`,
      [id],
    );
    const order = (await make({ lines: [{ item: id, qty: '20' }] })).reply.id;
    const { reply } = await lead.ask('orders.promise', { body: { orders: [order] } });
    expect(reply.promised).toBe(1);
    expect(reply.missing).toMatchObject([{ orderId: order, code: 'WHY-1', qty: '16' }]);
    expect(reply.missing[0]?.why).toContain('50 on 12 Jan 2027 with PO-WHY');
    const { lineList, blocked, ready } = await orderOf(order);
    expect(lineList[0]?.why).toEqual(reply.missing[0]?.why);
    expect({ blocked, ready }).toEqual({ blocked: { code: 'WHY-1', qty: '16' }, ready: 'part' });
  });

  it('a customer who takes all or nothing gets all or nothing; one line by itself is promised alone', async () => {
    const [a, b] = [
      await shelved(house, lead, { code: 'ALL-1', lying: [{ qty: '5' }] }),
      await shelved(house, lead, { code: 'ALL-2', lying: [{ qty: '1' }] }),
    ];
    const lines = [
      { item: a.id, qty: '2' },
      { item: b.id, qty: '2' },
    ];
    const whole = (await make({ customer: await customer({ wholeOnly: true }), lines })).reply.id;
    const some = (await make({ lines })).reply.id;
    const { reply } = await lead.ask('orders.promise', { body: { orders: [whole], mode: 'free' } });
    expect(reply.promised).toBe(0);
    expect((await orderOf(whole)).lineList.map((l) => l.promised)).toEqual(['0', '0']);
    const [first] = (await orderOf(some)).lineList;
    await lead.ask('orders.promise', { body: { orders: [some], lines: [first?.id ?? 0], mode: 'free' } });
    expect((await orderOf(some)).lineList.map((l) => l.promised)).toEqual(['2', '0']);
  });

  it('the list answers what can go: by readiness, kind, step and day, with the line that blocks', async () => {
    const numbers = async (query: Record<string, string>): Promise<string[]> =>
      (await lead.ask('orders.list', { query: { ...query, limit: 500 } })).reply.orders.map((o) => o.number);
    const { id } = await shelved(house, lead, { code: 'LIST-1', lying: [{ qty: '9' }] });
    const full = (await make({ kind: 'job', job: 'List', lines: [{ item: id, qty: '4' }] })).reply;
    const part = (await make({ reference: 'LISTED-REF', lines: [{ item: id, qty: '9' }] })).reply;
    await lead.ask('orders.promise', { body: { orders: [full.id, part.id] } });
    expect(await numbers({ ready: 'all', kind: 'job' })).toEqual([full.number]);
    expect(await numbers({ q: 'listed-ref' })).toEqual([part.number]);
    expect(await numbers({ ready: 'part' })).toContain(part.number);
    expect(await numbers({ ready: 'all' })).not.toContain(part.number);
    expect(await numbers({ step: 'promised', kind: 'job' })).toEqual([full.number]);
    expect(await numbers({ due: 'late' })).not.toContain(full.number);
  });
});

describe('F2 orders from a sheet', () => {
  const csv = (...rows: string[]): string => ['Reference;Customer;Item;Quantity;Due', ...rows].join('\n');
  it('all come in or none; the same sheet a second time is refused row by row', async () => {
    const { id } = await shelved(house, lead, { code: 'SHEET-1', lying: [] });
    await customer();
    const code = `T-${made}`;
    const rows = [`S1;${code};SHEET-1;2;2027-01-05`, `S1;${code};SHEET-1;1;`, `S2;${code};SHEET-1;4;2027-01-06`];
    const wrong = await dryRun(house, office, 'orders.import', 'orders.csv', csv(...rows, `S3;nobody at all;SHEET-1;1;`));
    expect(wrong.rows.filter((r) => r.verdict === 'fault')).toMatchObject([{ row: 5, says: 'There is no customer “nobody at all”.' }]);
    const run = await dryRun(house, office, 'orders.import', 'orders.csv', csv(...rows));
    expect(run.rows.map((r) => r.verdict)).toEqual(['new', 'new', 'new']);
    expect(await goAhead(house, office, run.job)).toMatchObject({ state: 'done', result: { orders: 2 } });
    expect(await house.rows(`SELECT qty::int FROM order_line WHERE item_id = ? ORDER BY id`, [id])).toEqual([{ qty: 3 }, { qty: 4 }]);
    const again = await dryRun(house, office, 'orders.import', 'orders.csv', csv(...rows));
    expect(again.rows.every((r) => r.verdict === 'fault' && r.says.includes('is here already'))).toBe(true);
  }, 60_000);

  it('of 1,000 orders with one customer who does not exist nothing comes in, and that row is named', async () => {
    await shelved(house, lead, { code: 'SHEET-2', lying: [] });
    await customer();
    const rows = Array.from({ length: 1000 }, (_, n) => `BIG-${n};${n === 737 ? 'NOBODY' : `T-${made}`};SHEET-2;1;2027-01-05`);
    const run = await dryRun(house, office, 'orders.import', 'orders.csv', csv(...rows));
    const wrong = await office.ask('work.rows', { params: { id: run.job }, query: { verdict: 'fault' } });
    expect(wrong.reply.rows).toMatchObject([{ row: 739, name: 'BIG-737' }]);
    rows[737] = `BIG-737;T-${made};SHEET-2;1;2027-01-05`;
    const good = await dryRun(house, office, 'orders.import', 'orders.csv', csv(...rows));
    expect(await goAhead(house, office, good.job)).toMatchObject({ state: 'done', result: { orders: 1000 } });
  }, 120_000);
});
