import { afterEach, describe, expect, it } from '@jest/globals';
import { lyingOf, shelved } from '../testing/goods.ts';
import { houseForTests } from '../testing/house.ts';

const { house, lead, hand, office } = houseForTests({ lead: 'Maren Oake', hand: 'Tobin Sallow', office: 'Odile Wrack' }, { jobs: false });

let made = 0;
/** A round on paper: five of one item for two orders, and two of another that has serials. */
async function onPaper() {
  made += 1;
  const [plain, serial] = [`KEY-${made}P`, `KEY-${made}S`];
  const goods = await shelved(house, lead, { code: plain, lying: [{ qty: '10' }] });
  const serials = [`${serial}-1`, `${serial}-2`, `${serial}-3`];
  const tracked = await shelved(house, lead, { code: serial, tracking: 'serial', lying: [{ qty: '3', serials }] });
  const make = async (lines: { item: number; qty: string }[]): Promise<number> =>
    (await lead.ask('orders.make', { body: { customer: 1, due: '2027-01-10', lines } })).reply.id;
  const orders = [
    await make([
      { item: goods.id, qty: '3' },
      { item: tracked.id, qty: '2' },
    ]),
    await make([{ item: goods.id, qty: '2' }]),
  ];
  await lead.ask('orders.promise', { body: { orders } });
  const round = (await lead.ask('picking.make', { body: { orders } })).reply.id;
  const picks = (await lead.ask('picking.round', { params: { id: round } })).reply.stopList.flatMap((s) => s.picks);
  const key = (taken: (p: (typeof picks)[number]) => string, more: { serials?: string[]; bench?: string } = {}) =>
    lead.ask('picking.keySheet', {
      params: { id: round },
      body: {
        bench: more.bench ?? 'BENCH-1',
        lines: picks.map((p) => ({ pick: p.id, taken: taken(p), ...(p.tracking === 'serial' ? { serials: more.serials ?? [] } : {}) })),
      },
    });
  return { goods, tracked, serials, orders, round, picks, key };
}
const orderOf = async (id: number) => (await lead.ask('orders.order', { params: { id } })).reply;
const lyingAt = async (item: number): Promise<Readonly<Record<string, number>>> => lyingOf(house, item);

afterEach(async () => {
  await house.expectCleanAudit();
  for (const { id } of await house.rows<{ id: number }>(`SELECT id FROM round WHERE state = 'open'`))
    await lead.ask('picking.throwAway', { params: { id } });
});

describe('a pick sheet that came back is keyed in one go (G12)', () => {
  it('all of it lies at the bench, with its serials, for its orders; a second press finds the round ended', async () => {
    const { goods, tracked, serials, orders, key } = await onPaper();
    const [one, two] = await Promise.all([1, 2].map(() => key((p) => p.qty, { serials: serials.slice(0, 2) })));
    expect([one?.status, two?.status].sort()).toEqual([200, 409]);
    expect((one?.status === 200 ? one : two)?.reply).toEqual({ pieces: '7', bin: 'BENCH-1', short: 0 });
    expect(await lyingAt(goods.id)).toEqual({ 'BENCH-1': 5, [goods.bins[0]?.address ?? '']: 5 });
    expect(await lyingAt(tracked.id)).toMatchObject({ 'BENCH-1': 2 });
    expect((await orderOf(orders[0] ?? 0)).lineList.map((l) => l.picked)).toEqual(['3', '2']);
    await lead.ask('shipping.pack', { params: { id: orders[0] ?? 0 }, body: { parcels: 1 } });
    expect((await lead.ask('shipping.ship', { params: { id: orders[0] ?? 0 } })).status).toBe(200);
  });
  it('what was not brought is short: the order says so, its bin is to be counted, and the rest lies at the bench', async () => {
    const { goods, orders, key } = await onPaper();
    const { reply } = await key((p) => (p.tracking === 'serial' ? '0' : '1'));
    expect(reply).toMatchObject({ pieces: '2', short: 3 });
    expect((await orderOf(orders[0] ?? 0)).lineList.map((l) => [l.picked, l.notFound])).toEqual([
      ['1', '2'],
      ['0', '2'],
    ]);
    const troubles = await house.rows(`SELECT kind FROM trouble WHERE item_id = ? AND settled_at IS NULL`, [goods.id]);
    expect(troubles).toHaveLength(2);
  });
  it('one wrong line, and nothing of it is posted', async () => {
    const { goods, serials, round, picks, key } = await onPaper();
    const before = await lyingAt(goods.id);
    expect((await key(() => '9')).problem.code).toBe('picking.tooMany');
    expect((await key((p) => p.qty, { serials: [serials[0] ?? ''] })).problem.code).toBe('picking.serialsKeyed');
    expect((await key((p) => p.qty, { serials: [serials[0] ?? '', 'NOBODY'] })).problem.code).toBe('picking.serialNotHere');
    expect((await key((p) => p.qty, { serials: serials.slice(0, 2), bench: goods.bins[0]?.address ?? '' })).problem.code).toBe(
      'picking.notAPackingBin',
    );
    expect((await key((p) => (p.tracking === 'serial' ? p.qty : '1.5'), { serials: serials.slice(0, 2) })).problem.code).toBe(
      'picking.tooFine',
    );
    const left = await lead.ask('picking.keySheet', {
      params: { id: round },
      body: { bench: 'BENCH-1', lines: [{ pick: picks[0]?.id ?? 0, taken: '1' }] },
    });
    expect(left.problem.code).toMatch(/picking\.(notKeyed|serialsKeyed)/);
    expect(await lyingAt(goods.id)).toEqual(before);
    expect((await lead.ask('picking.round', { params: { id: round } })).reply.state).toBe('open');
    expect(
      (await office.ask('picking.keySheet', { params: { id: round }, body: { bench: 'x', lines: [{ pick: 1, taken: '1' }] } })).status,
    ).toBe(403);
  });
  it('what a hand scanned of it already stays, and only the rest is keyed; a held order keeps the sheet from being posted', async () => {
    const { goods, serials, orders, round, picks } = await onPaper();
    const first = picks.find((p) => p.tracking === 'none');
    const body = { bin: goods.bins[0]?.address ?? '', code: first?.code ?? '', qty: '1' };
    await hand.ask('picking.pick', { params: { id: round, pick: first?.id ?? 0 }, body });
    const rest = picks.map((p) => ({
      pick: p.id,
      taken: p.id === first?.id ? String(Number(p.qty) - 1) : p.qty,
      ...(p.tracking === 'serial' ? { serials: serials.slice(1) } : {}),
    }));
    await lead.ask('orders.hold', { params: { id: orders[1] ?? 0 }, body: { reason: 'Ring first' } });
    const key = () => lead.ask('picking.keySheet', { params: { id: round }, body: { bench: 'BENCH-1', lines: rest } });
    expect((await key()).problem.code).toBe('orders.held');
    await lead.ask('orders.release', { params: { id: orders[1] ?? 0 } });
    expect((await key()).reply).toMatchObject({ pieces: '7', short: 0 });
  });
});
