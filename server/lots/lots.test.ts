import { describe, expect, it } from '@jest/globals';
import { addDays } from '#core/base';
import type { Client } from '../testing/client.ts';
import { emptyBins as binsOf } from '../testing/goods.ts';
import { houseForTests } from '../testing/house.ts';

const { house, lead, office, hand } = houseForTests({ lead: 'Maren Oake', office: 'Odile Wrack', hand: 'Jory Penhale' });

let made = 0;
type Tracking = 'none' | 'lot' | 'lotExpiry' | 'serial';
async function newItem(tracking: Tracking): Promise<{ id: number; code: string }> {
  made += 1;
  const code = `LOTS-${made}`;
  const { id } = (await lead.ask('items.make', { body: { code, description: code, group: 'Test', unit: 'each', decimals: 0, tracking } }))
    .reply;
  return { id, code };
}
const emptyBins = (most: number): ReturnType<typeof binsOf> => binsOf(house, 1, most);
type Adjust = Parameters<typeof lead.ask<'stock.adjust'>>[1] extends { body?: infer B } | undefined ? Partial<NonNullable<B>> : never;
const adjust = (item: number, body: Adjust, who: Client = office) =>
  who.ask('stock.adjust', { params: { id: item }, body: { bin: '', way: 'plus', qty: '1', reason: 'Found', ...body } as never });
const lying = async (item: number): Promise<unknown> =>
  house.rows(`SELECT address, lot, serial, trim_scale(qty)::text AS qty FROM stock_fact WHERE item_id = ? ORDER BY address, lot, serial`, [
    item,
  ]);

describe('K1 stock that is adjusted', () => {
  it('plus makes a lot on the spot, minus takes from it; each is on the ledger with its reason, and is undone as one', async () => {
    const { id } = await newItem('lotExpiry');
    const [bin] = await emptyBins(1);
    const at = bin?.address ?? '';
    const plus = await adjust(id, {
      bin: at,
      qty: '12',
      lot: 'N-1',
      expires: '2031-05-31',
      reference: 'REF 9',
      cost: '2.50',
      day: '2026-11-01',
    });
    expect(plus.reply.number).toMatch(/^AJ-/);
    const minus = await adjust(id, { bin: at, way: 'minus', qty: '5', lot: 'N-1', job: 'Open day', reason: 'Used up' });
    expect(await lying(id)).toEqual([{ address: at, lot: 'N-1', serial: null, qty: '7' }]);
    const ledger = (await lead.ask('stock.movements', { query: { item: id } })).reply.movements;
    expect(ledger.map((m) => [m.from.address, m.to.address, m.reason, m.document.undoable])).toEqual([
      [at, 'Jobs', 'Used up', true],
      ['Adjustments', at, 'Found', true],
    ]);
    expect(
      await house.rows(`SELECT reference, day::text, job, cost::text FROM adjustment WHERE document_id = ?`, [plus.reply.document]),
    ).toEqual([{ reference: 'REF 9', day: '2026-11-01', job: '', cost: '2.5000' }]);
    await lead.ask('stock.undo', { params: { id: minus.reply.document }, body: { reason: 'Miscounted' } });
    expect(await lying(id)).toEqual([{ address: at, lot: 'N-1', serial: null, qty: '12' }]);
    expect((await lead.ask('stock.undo', { params: { id: minus.reply.document }, body: { reason: 'Again' } })).problem.code).toBe(
      'stock.alreadyUndone',
    );
    await house.expectCleanAudit();
  });

  it('serials are named; what is here already or is not here is said, and nothing changes', async () => {
    const { id, code } = await newItem('serial');
    const [bin] = await emptyBins(1);
    const at = bin?.address ?? '';
    await adjust(id, { bin: at, qty: '2', serials: ['A-1', 'A-2'] });
    const before = await lying(id);
    expect((await adjust(id, { bin: at, qty: '2', serials: ['A-3', 'A-2'] })).problem.detail).toContain(
      `Serial A-2 of ${code} is in stock already`,
    );
    expect((await adjust(id, { bin: at, way: 'minus', serials: ['Z-9'] })).problem.detail).toBe(`${code} has no serial Z-9 to take away.`);
    expect((await adjust(id, { bin: at, qty: '3', serials: ['A-7'] })).problem.detail).toContain('1 serial is named');
    expect(await lying(id)).toEqual(before);
    expect((await adjust(id, { bin: at, way: 'minus', serials: ['A-1'] })).status).toBe(200);
    expect(await lying(id)).toMatchObject([{ serial: 'A-2' }]);
    await house.expectCleanAudit();
  });

  it.each([
    [{ way: 'minus', qty: '9' }, 'holds no'],
    [{ qty: '-1' }, 'less than nothing'],
    [{ qty: '0' }, 'must be more than 0'],
    [{ qty: '1.5' }, 'is counted whole'],
    [{ qty: '1e9' }, 'is not a quantity'],
    [{ day: '2027-02-29' }, 'must be a date'],
    [{ day: '2099-01-01' }, 'is still to come'],
    [{ bin: 'NOWHERE-9' }, 'NOWHERE-9'],
    [{ bin: 'CART-1' }, 'CART-1'],
    [{ reason: '' }, 'must not be empty'],
    [{ cost: '-2' }, 'is no amount'],
  ])('refuses what cannot be, in words: %o', async (wrong, words) => {
    const { id } = await newItem('none');
    const [bin] = await emptyBins(1);
    const answer = await adjust(id, { bin: bin?.address ?? '', ...wrong } as Adjust);
    expect([answer.status >= 400 && answer.status < 500, answer.problem.detail]).toEqual([true, expect.stringContaining(words)]);
    expect(await lying(id)).toEqual([]);
  });

  it('L4 is the lead’s and the office’s; promises give way to what is lost, and many at once never go below zero', async () => {
    const { id } = await newItem('none');
    const [bin] = await emptyBins(1);
    const at = bin?.address ?? '';
    expect((await adjust(id, { bin: at }, hand)).status).toBe(403);
    await adjust(id, { bin: at, qty: '10' });
    const order = (await lead.ask('orders.make', { body: { customer: 1, due: '2030-01-01', lines: [{ item: id, qty: '8' }] } })).reply;
    await lead.ask('orders.promise', { body: { orders: [order.id], mode: 'free' } });
    const all = await Promise.all(Array.from({ length: 6 }, () => adjust(id, { bin: at, way: 'minus', qty: '3' })));
    expect(all.filter((a) => a.status === 200)).toHaveLength(3);
    expect(await lying(id)).toMatchObject([{ qty: '1' }]);
    expect(await house.rows(`SELECT qty::int AS qty FROM promise WHERE item_id = ?`, [id])).toEqual([{ qty: 1 }]);
    await house.expectCleanAudit();
  });
});

describe('E1 the list of lots', () => {
  it('says where each lies, how long it lasts and from whom it came; filters count days at the site', async () => {
    const item = await newItem('lotExpiry');
    const [one, two] = await emptyBins(2);
    const day = async (n: number): Promise<string> =>
      (await house.rows<{ d: string }>(`SELECT (today_at(1) + ?::int)::text AS d`, [n]))[0]?.d ?? '';
    await adjust(item.id, { bin: one?.address ?? '', qty: '4', lot: 'SOON', expires: await day(5) });
    await adjust(item.id, { bin: two?.address ?? '', qty: '6', lot: 'LATER', expires: await day(50) });
    await adjust(item.id, { bin: two?.address ?? '', qty: '1', lot: 'GONE', expires: await day(-1) });
    const listed = async (query: Record<string, string | number>) =>
      (await lead.ask('lots.list', { query: { q: item.code, ...query } })).reply.lots.map((l) => [l.lot, l.daysLeft, l.qty]);
    expect(await listed({})).toEqual([
      ['GONE', -1, '1'],
      ['SOON', 5, '4'],
      ['LATER', 50, '6'],
    ]);
    expect(await listed({ show: 'soon', within: 30 })).toEqual([['SOON', 5, '4']]);
    expect(await listed({ show: 'soon', within: 5 })).toEqual([['SOON', 5, '4']]);
    expect(await listed({ show: 'expired' })).toEqual([['GONE', -1, '1']]);
    expect((await lead.ask('lots.list', { query: { q: item.code }, site: 2 })).reply.lots).toEqual([]);
    expect((await lead.ask('lots.list', { query: { q: item.code, site: 'all' }, site: 2 })).reply.lots).toHaveLength(3);
    const received = (await lead.ask('lots.list', { query: { limit: 200 } })).reply.lots.filter((l) => l.receipt !== null);
    expect(received.length).toBeGreaterThan(5);
  });

  it('E2 home warns at the distances of its site, which a lead says', async () => {
    const within = async (site: number) => (await lead.ask('desk.home', { site })).reply.expiring.within;
    const before = await within(1);
    expect(before.map((w) => w.days)).toEqual([14, 30, 60]);
    for (const { days, lots } of before) {
      const [plain] = await house.rows<{ n: number }>(
        `SELECT count(DISTINCT lot_id) AS n FROM stock_fact
         WHERE site_id = 1 AND expires BETWEEN today_at(1) AND today_at(1) + ?::int AND purpose NOT IN ('quarantine', 'scrap')`,
        [days],
      );
      expect(lots).toBe(plain?.n);
    }
    expect((await hand.ask('lots.warn', { body: { days: [1] } })).status).toBe(403);
    for (const days of [[], [0], [1.5], [4000], [1, 2, 3, 4, 5, 6, 7]])
      expect((await lead.ask('lots.warn', { body: { days } })).problem.code).toBe('request.fields');
    await lead.ask('lots.warn', { body: { days: [90, 7, 90] } });
    expect((await lead.ask('lots.warnings')).reply.days).toEqual([7, 90]);
    expect((await within(1)).map((w) => w.days)).toEqual([7, 90]);
    expect((await within(2)).map((w) => w.days)).toEqual([14, 30, 60]);
  });

  it('E3 K4 expired ones go to quarantine, to scrap or off the books, all or none, with a reason; it is undone as one', async () => {
    const item = await newItem('lotExpiry');
    const bins = await emptyBins(2);
    for (const [n, bin] of bins.entries()) await adjust(item.id, { bin: bin.address, qty: '3', lot: `X-${n}`, expires: '2026-01-31' });
    await adjust(item.id, { bin: bins[0]?.address ?? '', qty: '2', lot: 'GOOD', expires: '2032-01-31' });
    const balances = async (): Promise<Record<string, number>> =>
      Object.fromEntries((await lead.ask('lots.list', { query: { q: item.code } })).reply.lots.map((l) => [l.lot, l.id]));
    const all = await balances();
    const work = (ids: readonly (number | undefined)[], to: 'quarantine' | 'scrap' | 'writeOff', who = lead) =>
      who.ask('lots.workOff', { body: { balances: ids.map((i) => i ?? 0), to, reason: 'Out of date' } });
    expect((await work([all['X-0'], all['GOOD']], 'scrap')).problem.detail).toContain('is good until 31 Jan 2032');
    expect((await work([all['X-0']], 'scrap', hand)).status).toBe(403);
    const done = await work([all['X-0'], all['X-1']], 'quarantine');
    expect(done.reply).toMatchObject({ lots: 2, bin: 'QUARANTINE' });
    expect((await work([all['X-0']], 'scrap')).problem.code).toBe('lots.gone');
    await lead.ask('stock.undo', { params: { id: done.reply.document }, body: { reason: 'Wrong lots' } });
    const again = await balances();
    const off = await work([again['X-0'], again['X-1']], 'writeOff');
    expect(off.reply.bin).toBeNull();
    expect(await lying(item.id)).toMatchObject([{ lot: 'GOOD', qty: '2' }]);
    expect(
      (await lead.ask('lots.workOff', { body: { balances: [again['GOOD'] ?? 0], to: 'scrap', reason: 'x' }, site: 2 })).problem.code,
    ).toBe('lots.gone');
    await house.expectCleanAudit();
  });
});

describe('E8 the life of a serial', () => {
  it('is told event by event: whence it came, where it lay, what was taken back; one that never was is said', async () => {
    const item = await newItem('serial');
    const [one, two] = await emptyBins(2);
    await adjust(item.id, { bin: one?.address ?? '', serials: ['LIFE-1'], reason: 'Found in the loft' });
    const moved = await lead.ask('moves.move', {
      body: { from: one?.address ?? '', to: two?.address ?? '', code: item.code, qty: '1', serial: 'LIFE-1' } as never,
    });
    expect(moved.status).toBe(200);
    const life = (await hand.ask('lots.serial', { params: { id: item.id, serial: 'LIFE-1' } })).reply;
    expect(life.where).toMatchObject({ address: two?.address, condition: 'sound', heldFor: null });
    expect(life.events.map((e) => [e.what, e.from, e.to, e.undone])).toEqual([
      ['adjusted', 'Adjustments', one?.address, false],
      ['moved', one?.address, two?.address, false],
    ]);
    await lead.ask('stock.hold', { body: { item: item.id, serial: 'LIFE-1', reason: 'Rattles' } });
    expect((await hand.ask('lots.serial', { params: { id: item.id, serial: 'LIFE-1' } })).reply.where).toMatchObject({
      condition: 'held',
      heldFor: 'Rattles',
    });
    const none = await hand.ask('lots.serial', { params: { id: item.id, serial: 'NEVER' } });
    expect([none.status, none.problem.detail]).toEqual([404, `${item.code} never had a serial NEVER.`]);
  });
});

describe('E2 what expires by week', () => {
  it('is counted by seven days from today; what has expired stands apart, and so does what nobody sells', async () => {
    const { id } = await newItem('lotExpiry');
    const [a, b] = await emptyBins(2);
    const before = (await hand.ask('lots.weeks', { query: {} })).reply;
    const day = (days: number): string => addDays(before.weeks[0]?.from ?? '', days);
    for (const [lot, days, bin] of [
      ['W0', 6, a],
      ['W1', 7, a],
      ['W1B', 13, b],
      ['FAR', 26 * 7, b],
      ['GONE', -1, b],
    ] as const)
      await adjust(id, { bin: bin?.address ?? '', qty: '3', lot, expires: day(days) });
    await lead.ask('moves.move', {
      body: { from: a?.address ?? '', to: 'QUARANTINE', code: `LOTS-${made}`, lot: 'W1', qty: '1' } as never,
    });
    const { weeks, expired } = (await hand.ask('lots.weeks', { query: {} })).reply;
    const more = (n: number, part: 'sound' | 'apart' | 'lots'): number => Number(weeks[n]?.[part]) - Number(before.weeks[n]?.[part]);
    expect([more(0, 'sound'), more(1, 'sound'), more(1, 'apart'), more(1, 'lots'), more(2, 'lots')]).toEqual([3, 5, 1, 2, 0]);
    expect(Number(expired.qty) - Number(before.expired.qty)).toBe(3);
    expect(weeks).toHaveLength(26);
    expect(weeks.at(-1)?.days).toBe(26 * 7 - 1);
  });
});

describe('E6 goods that get a new lot number', () => {
  const balanceOf = async (item: number, lot: string): Promise<number> =>
    (await lead.ask('lots.list', { query: { q: lot } })).reply.lots.find((l) => l.item === item && l.lot === lot)?.id ?? 0;
  const relabel = async (item: number, from: string, lot: string, qty: string, more: object = {}, who = lead) =>
    who.ask('lots.relabel', { body: { balance: await balanceOf(item, from), lot, qty, reason: 'Repacked', ...more } });
  const ties = async (id: number, lot: string) => (await hand.ask('lots.ties', { params: { id, lot } })).reply;

  it('lie where they lay, as many as before, and the tie is walked both ways, near and far', async () => {
    const { id } = await newItem('lotExpiry');
    const [bin] = await emptyBins(1);
    await adjust(id, { bin: bin?.address ?? '', qty: '12', lot: 'A', expires: '2031-05-31' });
    expect((await relabel(id, 'A', 'B', '8')).reply.number).toMatch(/^MV-/);
    expect((await relabel(id, 'B', 'C', '3', { expires: '2031-01-31' })).status).toBe(200);
    expect(await lying(id)).toEqual([
      { address: bin?.address, lot: 'A', serial: null, qty: '4' },
      { address: bin?.address, lot: 'B', serial: null, qty: '5' },
      { address: bin?.address, lot: 'C', serial: null, qty: '3' },
    ]);
    expect((await ties(id, 'C')).cameFrom.map((t) => [t.lot, t.of, t.steps, t.qty])).toEqual([
      ['B', 'C', 1, '3'],
      ['A', 'B', 2, '8'],
    ]);
    expect((await ties(id, 'A')).became.map((t) => [t.lot, t.steps])).toEqual([
      ['B', 1],
      ['C', 2],
    ]);
    expect((await ties(id, 'B')).became.map((t) => t.lot)).toEqual(['C']);
    expect((await lead.ask('stock.equation', { params: { id } })).reply.total.onHand).toBe('12');
    await house.expectCleanAudit();
  });

  it('a circle of numbers ends; what is undone is tied no more', async () => {
    const { id } = await newItem('lot');
    const [bin] = await emptyBins(1);
    await adjust(id, { bin: bin?.address ?? '', qty: '5', lot: 'X' });
    await relabel(id, 'X', 'Y', '5');
    const back = await relabel(id, 'Y', 'X', '2');
    expect((await ties(id, 'X')).cameFrom.map((t) => t.lot)).toEqual(['Y', 'X']);
    await lead.ask('stock.undo', { params: { id: back.reply.document }, body: { reason: 'No' } });
    expect((await ties(id, 'X')).cameFrom).toEqual([]);
    expect(await lying(id)).toEqual([{ address: bin?.address, lot: 'Y', serial: null, qty: '5' }]);
    await house.expectCleanAudit();
  });

  it('is the lead’s; one lot has one date; what lies in an order’s hand, is gone or is not so many keeps its number', async () => {
    const { id } = await newItem('lotExpiry');
    const [bin] = await emptyBins(1);
    await adjust(id, { bin: bin?.address ?? '', qty: '4', lot: 'P', expires: '2031-05-31' });
    await adjust(id, { bin: bin?.address ?? '', qty: '1', lot: 'Q', expires: '2030-05-31' });
    expect((await relabel(id, 'P', 'R', '1', {}, hand)).status).toBe(403);
    expect((await relabel(id, 'P', 'P', '1')).problem.code).toBe('lots.sameLot');
    expect((await relabel(id, 'P', 'R', '5')).problem.code).toBe('lots.notSoMany');
    expect((await relabel(id, 'P', 'R', '0.5')).problem.code).toBe('lots.badQuantity');
    expect((await relabel(id, 'P', 'Q', '1', { expires: '2031-05-31' })).problem.code).toBe('lots.otherDate');
    // Without a date said, they get that of the lot that they join.
    expect((await relabel(id, 'P', 'Q', '1')).status).toBe(200);
    const gone = await lead.ask('lots.relabel', { body: { balance: 999_999_999, lot: 'R', qty: '1', reason: 'x' } });
    expect(gone.problem.code).toBe('lots.gone');
    await lead.ask('stock.hold', { body: { item: id, lot: 'Q', reason: 'Recalled' } as never });
    expect((await relabel(id, 'Q', 'U', '1')).problem.code).toBe('lots.held');
    // Twice at once: only so many as there are.
    const both = await Promise.all([relabel(id, 'P', 'S', '3'), relabel(id, 'P', 'T', '3')]);
    expect(both.map((b) => b.status).sort()).toEqual([200, 409]);
    await house.expectCleanAudit();
  });
});
