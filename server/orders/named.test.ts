import { afterEach, describe, expect, it } from '@jest/globals';
import type { BodyIn, Routes } from '#contract';
import { shelved } from '../testing/goods.ts';
import { houseForTests } from '../testing/house.ts';

const { house, lead, office, hand } = houseForTests({ lead: 'Maren Oake', office: 'Odile Wrack', hand: 'Tobin Sallow' }, { jobs: false });

type LineIn = NonNullable<BodyIn<Routes['orders.make']>['lines']>[number];
const DUE = '2027-02-01';
const orderOf = async (id: number) => (await lead.ask('orders.order', { params: { id } })).reply;
const make = (line: LineIn, more: Partial<BodyIn<Routes['orders.make']>> = {}) =>
  office.ask('orders.make', { body: { customer: 1, due: DUE, ...more, lines: [line] } });
const promise = (...orders: number[]) => lead.ask('orders.promise', { body: { orders } });
async function ordered(line: LineIn, more: Partial<BodyIn<Routes['orders.make']>> = {}): Promise<{ id: number; line: number }> {
  const { id } = (await make(line, more)).reply;
  return { id, line: (await orderOf(id)).lineList[0]?.id ?? 0 };
}
const promisedTo = async (order: number): Promise<string> => (await orderOf(order)).lineList[0]?.promised ?? '';
const name = (of: { id: number; line: number }, named: Omit<BodyIn<Routes['orders.nameLine']>, 'line'>) =>
  office.ask('orders.nameLine', { params: { id: of.id }, body: { line: of.line, ...named } });
/** What a round is told to take, as “3 from A-01 lot L1”. */
async function planned(round: number): Promise<string[]> {
  const rows = await house.rows<{ said: string }>(
    `SELECT trim_scale(k.qty) || ' from ' || b.address || coalesce(' lot ' || l.code, '') AS said
     FROM round_pick k
     JOIN bin b ON b.id = k.bin_id
     LEFT JOIN lot l ON l.id = k.lot_id
     WHERE k.round_id = ? AND k.qty > 0
     ORDER BY 1`,
    [round],
  );
  return rows.map((r) => r.said);
}
const round = async (...orders: number[]) => (await lead.ask('picking.make', { body: { orders } })).reply.id;
const twoLots = (code: string) =>
  shelved(house, lead, {
    code,
    tracking: 'lotExpiry',
    lying: [
      { qty: '5', lot: 'L1', expires: '2027-03-01' },
      { qty: '5', lot: 'L2', expires: '2027-09-01' },
    ],
  });

afterEach(async () => {
  for (const { id } of await house.rows<{ id: number }>(`SELECT id FROM round WHERE state = 'open'`))
    await lead.ask('picking.throwAway', { params: { id } });
});

describe('a lot that is named (F3)', () => {
  it('is kept for the line: whoever takes anything gets the rest, in whichever order they are promised', async () => {
    const { id: item, bins } = await twoLots('NAM-1');
    const any = await ordered({ item, qty: '7' });
    const named = await ordered({ item, qty: '5', lot: 'L1' });
    expect(await orderOf(named.id)).toMatchObject({ lineList: [{ named: { lot: 'L1', serials: [], bin: null }, asks: 'lot L1' }] });
    await promise(named.id);
    const { missing } = (await promise(any.id)).reply;
    expect([await promisedTo(named.id), await promisedTo(any.id)]).toEqual(['5', '5']);
    expect(missing).toMatchObject([{ qty: '2' }]);
    // The lot that expires first is somebody’s: the round of the other goes for the later one.
    expect(await planned(await round(any.id))).toEqual([`5 from ${bins[1]?.address} lot L2`]);
    expect(await planned(await round(named.id))).toEqual([`5 from ${bins[0]?.address} lot L1`]);
    await house.expectCleanAudit();
  });
  it('of which a round takes some already is promised no more than the rest, and says why', async () => {
    const { id: item } = await twoLots('NAM-2');
    const any = await ordered({ item, qty: '4' });
    await promise(any.id);
    await round(any.id);
    const named = await ordered({ item, qty: '5', lot: 'L1' });
    const { missing } = (await promise(named.id)).reply;
    expect(missing).toMatchObject([{ qty: '4', why: expect.arrayContaining(['5 free, but not as asked: lot L1']) }]);
    expect((await orderOf(named.id)).lineList[0]?.why).toEqual(missing[0]?.why);
  });
  it('that is lost leaves the line short, whatever there is of others; a word that comes too late takes it from nobody else', async () => {
    const { id: item, bins } = await twoLots('NAM-3');
    const any = await ordered({ item, qty: '5' });
    const named = await ordered({ item, qty: '5', lot: 'L2' });
    await promise(any.id, named.id);
    const adjusted = await lead.ask('stock.adjust', {
      params: { id: item },
      body: { bin: bins[1]?.address ?? '', way: 'minus', qty: '2', lot: 'L2', reason: 'Damaged' },
    });
    if (adjusted.status !== 200) throw new Error(adjusted.problem.detail);
    expect([await promisedTo(named.id), await promisedTo(any.id)]).toEqual(['3', '5']);
    await house.expectCleanAudit();
  });
});

describe('a bin that is named', () => {
  it('goods that leave it are promised no more; what is named anew is promised anew', async () => {
    const { id: item, bins } = await shelved(house, lead, { code: 'NAM-4', lying: [{ qty: '4' }, { qty: '6' }] });
    const named = await ordered({ item, qty: '6', bin: bins[1]?.address ?? '' });
    await promise(named.id);
    expect(await promisedTo(named.id)).toBe('6');
    await lead.ask('moves.move', {
      body: { from: bins[1]?.address ?? '', to: bins[0]?.address ?? '', code: 'NAM-4', qty: '2' },
    });
    expect(await promisedTo(named.id)).toBe('4');
    await house.expectCleanAudit();
    expect((await name(named, { bin: bins[0]?.address ?? '' })).reply).toEqual({ promised: '6', was: '4' });
    expect((await name(named, {})).reply).toEqual({ promised: '6', was: '6' });
    expect(await planned(await round(named.id))).toHaveLength(1);
    expect((await name(named, { bin: bins[0]?.address ?? '' })).problem).toMatchObject({ code: 'orders.lineOnItsWay' });
    await house.expectCleanAudit();
  });
});

describe('serials that are named', () => {
  const three = (code: string) =>
    shelved(house, lead, { code, tracking: 'serial', lying: [{ qty: '3', serials: ['A', 'B', 'C'].map((s) => `${code}-${s}`) }] });

  it('are these and no others: the hand who scans another is told so, and nobody else may take them', async () => {
    const { id: item, bins } = await three('NAM-5');
    const named = await ordered({ item, qty: '1', serials: ['NAM-5-B'] });
    const any = await ordered({ item, qty: '2' });
    await promise(any.id, named.id);
    const walk = await round(any.id, named.id);
    const stops = (await hand.ask('picking.round', { params: { id: walk } })).reply.stopList[0]?.picks ?? [];
    const numberOf = async (order: number): Promise<string> => (await orderOf(order)).number;
    const pickOf = async (order: number) => {
      const number = await numberOf(order);
      return stops.find((p) => p.order === number)?.id ?? 0;
    };
    const take = async (order: number, serial: string) =>
      hand.ask('picking.pick', {
        params: { id: walk, pick: await pickOf(order) },
        body: { bin: bins[0]?.address ?? '', code: 'NAM-5', serial, qty: '1' },
      });
    expect((await take(named.id, 'NAM-5-A')).problem).toMatchObject({
      code: 'picking.serialNotNamed',
      detail: 'Serial NAM-5-A of NAM-5 is not one that the order names. Take NAM-5-B.',
    });
    expect((await take(any.id, 'NAM-5-B')).problem.code).toBe('picking.serialKept');
    expect((await take(any.id, 'NAM-5-A')).status).toBe(200);
    expect((await take(named.id, 'NAM-5-B')).status).toBe(200);
    expect((await take(any.id, 'NAM-5-C')).status).toBe(200);
    await house.expectCleanAudit();
  });
  it('are each named once, all or none, and are on record', async () => {
    const { id: item } = await three('NAM-6');
    const codeOf = async (line: Partial<LineIn>) => (await make({ item, qty: '2', ...line })).problem.code;
    expect(await codeOf({ serials: ['NAM-6-A'] })).toBe('orders.serialsForPieces');
    expect(await codeOf({ serials: ['NAM-6-A', 'NAM-6-A'] })).toBe('orders.serialTwice');
    expect(await codeOf({ serials: ['NAM-6-A', 'NAM-6-Z'] })).toBe('orders.unknownSerial');
    expect(await codeOf({ lot: 'L1' })).toBe('orders.noLots');
    expect(await codeOf({ bin: 'NOWHERE-9' })).toBe('places.unknownBin');
    const first = await ordered({ item, qty: '2', serials: ['NAM-6-A', 'NAM-6-B'] });
    expect((await make({ item, qty: '1', serials: ['NAM-6-B'] })).problem).toMatchObject({
      code: 'orders.serialNamed',
      number: (await orderOf(first.id)).number,
    });
    const params = { id: first.id, line: first.line };
    expect((await lead.ask('picking.changeLine', { params, body: { qty: '1' } })).problem.code).toBe('orders.serialsForPieces');
    await lead.ask('picking.cancelOrder', { params: { id: first.id }, body: { reason: 'not wanted' } });
    expect((await make({ item, qty: '1', serials: ['NAM-6-B'] })).status).toBe(200);
  });
  it('over the counter nobody takes a piece that an order names', async () => {
    const { id: item, bins } = await three('NAM-7');
    const named = await ordered({ item, qty: '1', serials: ['NAM-7-A'] });
    await promise(named.id);
    const over = (serial: string) =>
      lead.ask('shipping.handOver', {
        body: { lines: [{ bin: bins[0]?.address ?? '', code: 'NAM-7', serial, qty: '1' }] },
      });
    expect((await over('NAM-7-A')).problem.code).toBe('shipping.promisedToOthers');
    expect((await over('NAM-7-B')).status).toBe(200);
    expect(await promisedTo(named.id)).toBe('1');
    await house.expectCleanAudit();
  });
});

describe('the life that goods must have left (F10)', () => {
  it('counts from the day it is due: only what keeps so long is promised and fetched', async () => {
    const { id: item, bins } = await twoLots('NAM-8');
    const long = await ordered({ item, qty: '8' }, { leastLife: 60 });
    await promise(long.id);
    // Due on 1 Feb, sixty days later is 2 April: only L2 keeps until then.
    expect((await orderOf(long.id)).lineList[0]).toMatchObject({ promised: '5', asks: 'good until 2 Apr 2027' });
    const any = await ordered({ item, qty: '9' });
    await promise(any.id);
    expect(await promisedTo(any.id)).toBe('5');
    expect(await planned(await round(long.id))).toEqual([`5 from ${bins[1]?.address} lot L2`]);
    await house.expectCleanAudit();
  });
  it('that is asked for later cuts what is promised; once it is on a round it cannot be asked for', async () => {
    const { id: item } = await twoLots('NAM-9');
    const order = await ordered({ item, qty: '9' });
    await promise(order.id);
    const change = (leastLife: number | null) =>
      office.ask('orders.change', { params: { id: order.id }, body: { due: DUE, priority: 5, leastLife, extras: [] } });
    expect((await change(60)).status).toBe(200);
    expect(await promisedTo(order.id)).toBe('5');
    await round(order.id);
    expect((await change(90)).problem.code).toBe('orders.lifeOnItsWay');
    expect((await change(60)).status).toBe(200);
    await house.expectCleanAudit();
  });
});
