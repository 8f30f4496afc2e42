import { mkdtemp, readdir, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { beforeAll, describe, expect, it } from '@jest/globals';
import { PAPER_WAITS } from '#core/orders';
import { dripFrom } from '../../devices/channel/drip.ts';
import { writeOrder, type WantedOrder } from '../../devices/channel/write-order.ts';
import { readUblPaper } from '#server/orders';
import { lyingOf, shelved } from '../testing/goods.ts';
import { houseForTests } from '../testing/house.ts';
import { upload } from '../testing/sheets.ts';
import { takeDroppedOrders } from './drop-folder.ts';

const { house, lead, office, hand } = houseForTests({ lead: 'Maren Oake', office: 'Odile Wrack', hand: 'Tobin Sallow' });

let made = 0;
let customer = { code: '', name: '' };
beforeAll(async () => {
  customer = { code: 'SHOP', name: 'The corner shop' };
  await office.ask('orders.saveCustomer', { body: customer });
});
/** An order of five of one item and two of another, of which ten and four lie here. */
async function wanted() {
  made += 1;
  const codes = [`CHN-${made}A`, `CHN-${made}B`] as const;
  const [first, second] = [
    await shelved(house, lead, { code: codes[0], lying: [{ qty: '10' }] }),
    await shelved(house, lead, { code: codes[1], lying: [{ qty: '4' }] }),
  ];
  const line = (n: 0 | 1, qty: number, more: object = {}) => ({
    no: String(n + 1),
    qty: String(qty),
    name: codes[n],
    sellerCode: codes[n],
    ...more,
  });
  const order: WantedOrder = {
    ...{ kind: 'order', reference: `WEB-${made}`, issued: '2026-11-20', due: '2027-01-20', customer, note: 'Ring first' },
    lines: [line(0, 5), line(1, 2)],
  };
  return { order, line, codes, items: [first.id, second.id], bins: first.bins };
}
const take = async (order: WantedOrder | string, who = office) => {
  const { id } = await upload(who, 'order.xml', typeof order === 'string' ? order : writeOrder(order));
  return who.ask('channel.take', { body: { file: id } });
};
const orderOf = async (id: number) => (await lead.ask('orders.order', { params: { id } })).reply;
const linesOf = async (id: number): Promise<[string, string][]> => (await orderOf(id)).lineList.map((l) => [l.code, l.qty]);
const papers = async () => (await office.ask('channel.papers', {})).reply;

describe('F2 an order that another’s program wrote', () => {
  it('is entered as it stands; the same file again is the same paper; another one under its number is refused', async () => {
    const { order, codes } = await wanted();
    const first = (await take(order)).reply;
    expect(first).toMatchObject({ isNew: true, says: `Entered as ${first.number}.` });
    expect(await orderOf(first.order)).toMatchObject({
      ...{ customer: customer.name, reference: order.reference, due: '2027-01-20', note: 'Ring first', state: 'open' },
      lineList: [
        { code: codes[0], qty: '5', promised: '0' },
        { code: codes[1], qty: '2' },
      ],
    });
    expect((await take(order)).reply).toEqual({ ...first, isNew: false });
    expect((await take({ ...order, note: 'Other words' })).problem.detail).toContain(`is here already, as ${first.number}`);
    const [a, b] = [await wanted(), order.issued];
    const twice = await Promise.all([take({ ...a.order, issued: b }), take({ ...a.order, issued: b })]);
    expect(twice.map((t) => t.status)).toEqual([200, 200]);
    expect(new Set(twice.map((t) => t.reply.order)).size).toBe(1);
  });
  it('that is wrong anywhere is not entered at all, and all that is wrong is said', async () => {
    const before = await house.rows(`SELECT count(*) AS n FROM customer_order`);
    const { order, line } = await wanted();
    const { problem } = await take({ ...order, lines: [line(0, 5, { sellerCode: 'NOBODY' }), line(1, 1, { unitCode: 'KGM' })] });
    expect(problem).toMatchObject({ code: 'channel.paperFaults', status: 422 });
    expect(problem.detail).toContain('There is no item “NOBODY”.');
    expect(problem.detail).toContain('“KGM” is no unit');
    expect((await take({ ...order, customer: { name: 'Unheard Of' } })).problem.detail).toContain('There is no customer “Unheard Of”.');
    expect(await house.rows(`SELECT count(*) AS n FROM customer_order`)).toEqual(before);
  });
  it.each<[string, string, string]>([
    ['nothing', '', 'it is empty'],
    ['words', 'hello', 'it is no XML'],
    [
      'another paper',
      writeOrder({ kind: 'order', reference: 'a', issued: 'b', customer: { name: 'c' } }).replaceAll('Order-2', 'Quote-2'),
      'it is no UBL',
    ],
    ['a bomb', '<!DOCTYPE a [<!ENTITY b "c">]><Order/>', 'it declares a document type'],
    ['half a file', '<Order><cac:OrderLine>', 'it is no XML'],
  ])('%s is refused in words', (_, text, says) => {
    expect(() => readUblPaper('x.xml', Buffer.from(text))).toThrow(
      expect.objectContaining({ error: expect.objectContaining({ code: 'channel.badPaper', says: expect.stringContaining(says) }) }),
    );
  });
});

describe('an order that is changed or cancelled by who sent it', () => {
  it('before anybody is at it: lines are as the change says, what it does not name stays', async () => {
    const { order, line, codes } = await wanted();
    const { order: id } = (await take(order)).reply;
    await lead.ask('orders.promise', { body: { orders: [id] } });
    const change = { ...order, kind: 'change', paper: `${order.reference}-1` } as const;
    expect((await take({ ...change, lines: [line(0, 3)] })).reply.says).toContain(`is changed: 3 ${codes[0]}. 2 are free again.`);
    expect(await linesOf(id)).toEqual([
      [codes[0], '3'],
      [codes[1], '2'],
    ]);
    await take({ ...change, paper: `${order.reference}-2`, lines: [line(1, 2, { cancelled: true })] });
    expect(await linesOf(id)).toEqual([[codes[0], '3']]);
    const later = await take({ ...change, paper: `${order.reference}-due`, due: '2027-02-20', lines: [line(0, 3)] });
    expect(later.reply.says).toContain('It is due on 20 Feb 2027.');
    expect(await orderOf(id)).toMatchObject({ due: '2027-02-20', note: 'Ring first' });
    const other = await wanted();
    await take({ ...change, paper: `${order.reference}-3`, lines: [{ ...other.line(0, 4), no: '9' }] });
    expect(await linesOf(id)).toEqual([
      [codes[0], '3'],
      [other.codes[0], '4'],
    ]);
    const gone = await take({ ...order, kind: 'cancellation', note: 'Not wanted' });
    expect(gone.reply.says).toMatch(/is cancelled./);
    expect(await orderOf(id)).toMatchObject({ state: 'cancelled', cancelledFor: 'Its customer: Not wanted' });
    // A cancelled order is nobody's any more: its number may come again, and it cannot be changed.
    expect((await take({ ...change, paper: 'late', lines: [line(0, 1)] })).problem.code).toBe('channel.noSuchOrder');
    await house.expectCleanAudit();
  });

  /** The same, with three of five on a cart. */
  async function onCart() {
    const at = await wanted();
    const { order: id } = (await take(at.order)).reply;
    await lead.ask('orders.promise', { body: { orders: [id] } });
    const round = (await hand.ask('picking.make', { body: { orders: [id] } })).reply.id;
    const stops = (await hand.ask('picking.round', { params: { id: round } })).reply.stopList;
    const stop = stops.find((s) => s.picks.some((p) => p.code === at.codes[0]));
    const pick = stop?.picks.find((p) => p.code === at.codes[0])?.id ?? 0;
    const picking = () =>
      hand.ask('picking.pick', { params: { id: round, pick }, body: { bin: at.bins[0]?.address ?? '', code: at.codes[0], qty: '3' } });
    expect((await picking()).status).toBe(200);
    return { ...at, id, round, picking };
  }
  it('while somebody is at it: it is held, nobody goes on, and a lead says what happens', async () => {
    const { order, id, items, picking } = await onCart();
    const cancelling = (await take({ ...order, kind: 'cancellation', note: 'Too late' })).reply;
    expect(cancelling.says).toContain('It is held until somebody says what happens.');
    expect((await orderOf(id)).heldFor).toBe(PAPER_WAITS.cancellation);
    expect((await picking()).problem.code).toBe('orders.held');
    expect((await papers()).open.filter((p) => p.order?.id === id)).toMatchObject([{ kind: 'cancellation', state: 'waiting' }]);
    const settle = (how: 'do' | 'aside') => office.ask('channel.settle', { params: { id: cancelling.paper }, body: { how } });
    expect((await hand.ask('channel.settle', { params: { id: cancelling.paper }, body: { how: 'do' } })).status).toBe(403);
    const [one, two] = await Promise.all([settle('do'), settle('do')]);
    expect([one.status, two.status].sort()).toEqual([200, 409]);
    expect((one.status === 200 ? one : two).reply.says).toMatch(/is cancelled. 3 pieces went back to ARRIVALS/);
    expect(await lyingOf(house, items[0] ?? 0)).toMatchObject({ ARRIVALS: 3 });
    await house.expectCleanAudit();
  });
  it('while somebody is at its kits: the same, and what was to become kits is put back with it', async () => {
    const { order, line, items } = await wanted();
    const parts = [{ item: items[1] ?? 0, qty: '2' }];
    const code = `CHN-${made}K`;
    const { id: kit } = await shelved(house, lead, { code, lying: [] });
    await lead.ask('items.setParts', { params: { id: kit }, body: { parts } });
    const { order: id } = (await take({ ...order, lines: [line(0, 1, { name: code, sellerCode: code })] })).reply;
    const { lineList } = await orderOf(id);
    const { reply: make } = await lead.ask('orders.makeKit', { body: { item: kit, qty: '1', line: lineList[0]?.id ?? 0 } });
    const { id: round } = (await hand.ask('picking.make', { body: { orders: [make.id] } })).reply;
    const [stop] = (await hand.ask('picking.round', { params: { id: round } })).reply.stopList;
    const body = { bin: stop?.address ?? '', code: stop?.picks[0]?.code ?? '', qty: '2' };
    expect((await hand.ask('picking.pick', { params: { id: round, pick: stop?.picks[0]?.id ?? 0 }, body })).status).toBe(200);
    const cancelling = (await take({ ...order, kind: 'cancellation' })).reply;
    expect(cancelling.says).toContain('It is held until somebody says what happens.');
    const { says } = (await office.ask('channel.settle', { params: { id: cancelling.paper }, body: { how: 'do' } })).reply;
    expect(says).toMatch(new RegExp(`is cancelled, and ${make.number} with it. 2 pieces went back to ARRIVALS`));
    expect((await orderOf(make.id)).state).toBe('cancelled');
    await house.expectCleanAudit();
  });
  it('that is put aside leaves the order as it is, and it goes on', async () => {
    const { order, id, line, picking, codes } = await onCart();
    const changing = (await take({ ...order, kind: 'change', lines: [line(0, 1)] })).reply;
    expect((await orderOf(id)).heldFor).toBe(PAPER_WAITS.change);
    await office.ask('channel.settle', { params: { id: changing.paper }, body: { how: 'aside' } });
    expect((await orderOf(id)).heldFor).toBeNull();
    expect((await linesOf(id))[0]).toEqual([codes[0], '5']);
    expect((await picking()).problem.code).toBe('picking.tooMany');
    await house.expectCleanAudit();
  });
});

describe('the folder of a sales channel', () => {
  it('is emptied in order; what cannot be taken in is told, and put aside by a person; a file found again is known', async () => {
    const folder = await mkdtemp(path.join(tmpdir(), 'orders-'));
    const { order, line } = await wanted();
    await writeFile(path.join(folder, '1.xml'), writeOrder(order));
    await writeFile(path.join(folder, '2.xml'), writeOrder({ ...order, kind: 'change', lines: [line(0, 1)] }));
    await writeFile(path.join(folder, '3.xml'), 'not an order');
    await writeFile(path.join(folder, '4.part'), 'half');
    expect(await takeDroppedOrders(house.db, folder)).toBe(true);
    expect((await readdir(folder)).sort()).toEqual(['4.part', 'refused', 'taken']);
    expect((await readdir(path.join(folder, 'taken'))).sort()).toEqual(['1.xml', '2.xml']);
    const refused = (await papers()).open.find((p) => p.fileName === '3.xml');
    expect(refused).toMatchObject({ state: 'refused', by: null, says: expect.stringContaining('3.xml cannot be taken in') as unknown });
    await office.ask('channel.settle', { params: { id: refused?.id ?? 0 }, body: { how: 'aside' } });
    expect((await papers()).open.find((p) => p.fileName === '3.xml')).toBeUndefined();
    // The server ended after it had taken the file in and before it had put it away.
    await writeFile(path.join(folder, '1.xml'), writeOrder(order));
    await takeDroppedOrders(house.db, folder);
    const same = (await papers()).past.filter((p) => p.reference === order.reference && p.kind === 'order');
    expect(same).toHaveLength(1);
    await house.expectCleanAudit();
  });
  it('drips sixty papers, some of them changes and cancellations: each is done once; and the audit is clean', async () => {
    const { codes } = await wanted();
    const next = dripFrom({
      ...{ seed: 7, issued: '2026-11-20', due: '2027-01-20', customers: [customer] },
      items: codes.map((code) => ({ code, name: code })),
    });
    const sent = Array.from({ length: 60 }, () => next());
    const folder = await mkdtemp(path.join(tmpdir(), 'drip-'));
    for (const [n, order] of sent.entries()) await writeFile(path.join(folder, `${String(n).padStart(3, '0')}.xml`), writeOrder(order));
    while (await takeDroppedOrders(house.db, folder));
    expect(await readdir(folder)).toEqual(['taken']);
    const kinds = (kind: WantedOrder['kind']): number => sent.filter((s) => s.kind === kind).length;
    expect([kinds('change'), kinds('cancellation')].every((n) => n > 2)).toBe(true);
    const [count] = await house.rows<{ orders: number; cancelled: number }>(
      `SELECT count(*) AS orders, count(*) FILTER (WHERE state = 'cancelled') AS cancelled
       FROM customer_order WHERE reference LIKE 'SHOP-7-%' AND source = 'channel'`,
    );
    expect(count).toEqual({ orders: kinds('order'), cancelled: kinds('cancellation') });
    await house.expectCleanAudit();
  });
});
