import { beforeAll, describe, expect, it } from '@jest/globals';
import { lyingOf, shelved } from '../testing/goods.ts';
import { openHand, type Hand } from '../testing/hand.ts';
import { houseForTests } from '../testing/house.ts';

const { house, lead } = houseForTests({ lead: 'Maren Oake' }, { jobs: false });
let maren: Hand;
let jory: Hand;
beforeAll(async () => {
  const idOf = async (name: string): Promise<number> =>
    (await house.rows<{ id: number }>(`SELECT id FROM person WHERE name = ?`, [name]))[0]?.id ?? 0;
  maren = await openHand(lead, await idOf('Maren Oake'));
  jory = await openHand(await house.signIn('Jory Penhale'), await idOf('Jory Penhale'));
});

const says = (bin: number, item: number, way: 'plus' | 'minus', qty: number, more: object = {}) => ({
  ...{ kind: 'adjust.say', bin, item, way, qty: qty * 1000, lot: null, expires: null, serial: null, reason: 'Said on the floor' },
  ...more,
});

describe('K1 an adjustment that a hand told', () => {
  it('is posted for a lead, at the time and on the device of the telling, and taken back by its hand', async () => {
    const { id, bins } = await shelved(house, lead, { code: 'ADJ-1', lying: [{ qty: '10' }] });
    const [bin] = bins;
    const told = await maren.tells(says(bin?.id ?? 0, id, 'minus', 3, { reason: 'Broken' }), { ago: 600_000 });
    expect(told.outcome).toBe('done');
    expect(await lyingOf(house, id)).toEqual({ [bin?.address ?? '']: 7 });
    const [movement] = await house.rows<{ reason: string; device: string; late: boolean }>(
      `SELECT reason, device, told IS NOT NULL AND told - at > interval '5 minutes' AS late
       FROM movement WHERE item_id = ? ORDER BY id DESC LIMIT 1`,
      [id],
    );
    expect(movement).toMatchObject({ reason: 'Broken', late: true });
    expect(movement?.device).toBeTruthy();
    const noted = { reference: 'RF-9', job: '', day: '2026-01-31', cost: '1.25' };
    expect((await maren.tells(says(bin?.id ?? 0, id, 'plus', 1, noted))).outcome).toBe('done');
    const [kept] = await house.rows(
      `SELECT reference, day::text AS day, cost::text AS cost FROM adjustment ORDER BY document_id DESC LIMIT 1`,
    );
    expect(kept).toEqual({ reference: 'RF-9', day: '2026-01-31', cost: '1.2500' });
    expect((await maren.tells(says(bin?.id ?? 0, id, 'minus', 1, { reference: 'RF-9', job: 'Shed 4' }))).outcome).toBe('done');
    expect((await maren.tells({ kind: 'move.undo', act: told.act })).outcome).toBe('done');
    expect(await lyingOf(house, id)).toEqual({ [bin?.address ?? '']: 10 });
  });
  it('of goods that failed takes what failed, and leaves what is sound', async () => {
    const { id, bins } = await shelved(house, lead, { code: 'ADJ-5', lying: [{ qty: '4' }] });
    const [bin] = bins;
    const failed = { condition: 'failed' };
    expect(await maren.tells(says(bin?.id ?? 0, id, 'minus', 1, failed))).toMatchObject({ outcome: 'clash' });
    const [lying] = await house.rows<{ item: number; bin: number; balance: number; qty: number }>(
      `SELECT f.item_id AS item, f.bin_id AS bin, f.balance_id AS balance, f.qty::int AS qty
       FROM stock_fact f
       JOIN item i ON i.id = f.item_id
       WHERE f.site_id = 1 AND f.condition = 'failed' AND i.tracking = 'none' AND f.qty >= 1 ORDER BY f.balance_id LIMIT 1`,
    );
    if (!lying) throw new Error('Nothing failed in the demo.');
    expect((await maren.tells(says(lying.bin, lying.item, 'minus', 1, failed))).outcome).toBe('done');
    expect(await house.rows(`SELECT coalesce(sum(qty), 0)::int AS qty FROM balance WHERE id = ?`, [lying.balance])).toEqual([
      { qty: lying.qty - 1 },
    ]);
  });
  it('of somebody who may not is for the lead, who posts it with one press; dropped, or taken back first, it changes nothing', async () => {
    const { id, bins } = await shelved(house, lead, { code: 'ADJ-2', lying: [{ qty: '10' }] });
    const [bin] = bins;
    const tell = () => jory.tells(says(bin?.id ?? 0, id, 'plus', 2, { reason: 'Found', job: 'Shed 4' }));
    const [posted, dropped, back] = [await tell(), await tell(), await tell()];
    expect([posted, dropped, back].map((t) => t.outcome)).toEqual(['clash', 'clash', 'clash']);
    expect(posted.says).toBe(`2 more ADJ-2 in ${bin?.address}: the lead looks at it and posts it.`);
    expect(await lyingOf(house, id)).toEqual({ [bin?.address ?? '']: 10 });
    const { clashes } = (await lead.ask('hands.clashes', { query: {} })).reply;
    const own = clashes.find((c) => c.key === posted.act);
    expect(own).toMatchObject({
      what: expect.stringMatching(/2 ADJ-2 more.*Found, for job Shed 4/),
      settlements: [{ how: 'again', label: 'Post it' }, { how: 'count' }, { how: 'drop' }],
    });
    expect((await lead.ask('hands.settle', { params: { key: posted.act }, body: { how: 'again' } })).status).toBe(200);
    await lead.ask('hands.settle', { params: { key: dropped.act }, body: { how: 'drop' } });
    expect((await jory.tells({ kind: 'move.undo', act: back.act })).outcome).toBe('done');
    expect(await lyingOf(house, id)).toEqual({ [bin?.address ?? '']: 12 });
    expect((await lead.ask('hands.settle', { params: { key: back.act }, body: { how: 'again' } })).status).toBe(409);
    // A word that is doubted: somebody looks at the bin, and the word changes nothing.
    const doubted = await tell();
    expect((await lead.ask('hands.settle', { params: { key: doubted.act }, body: { how: 'count' } })).status).toBe(200);
    expect(await house.rows(`SELECT bin_id AS bin FROM trouble WHERE bin_id = ? AND item_id = ?`, [bin?.id, id])).toHaveLength(1);
    expect(await lyingOf(house, id)).toEqual({ [bin?.address ?? '']: 12 });
  });
  it('makes a lot on the spot, takes a serial, and is a clash where the records have fewer; a bin of another site is one too', async () => {
    const lot = await shelved(house, lead, {
      code: 'ADJ-3',
      tracking: 'lotExpiry',
      lying: [{ qty: '4', lot: 'L-1', expires: '2031-05-31' }],
    });
    const at = lot.bins[0]?.id ?? 0;
    expect((await maren.tells(says(at, lot.id, 'plus', 2, { lot: 'L-2', expires: '2031-06-30' }))).outcome).toBe('done');
    expect(await maren.tells(says(at, lot.id, 'plus', 2, { lot: 'L-1', expires: '2031-06-30' }))).toMatchObject({ outcome: 'clash' });
    expect(await maren.tells(says(at, lot.id, 'minus', 5, { lot: 'L-1' }))).toMatchObject({
      outcome: 'clash',
      says: expect.stringContaining('holds 4'),
    });
    const serial = await shelved(house, lead, { code: 'ADJ-4', tracking: 'serial', lying: [{ qty: '1', serials: ['AS-1'] }] });
    expect((await maren.tells(says(serial.bins[0]?.id ?? 0, serial.id, 'minus', 1, { serial: 'AS-1' }))).outcome).toBe('done');
    expect(await lyingOf(house, serial.id)).toEqual({});
    const [far] = await house.rows<{ id: number }>(`SELECT id FROM bin WHERE site_id = 2 AND use = 'shelf' LIMIT 1`);
    expect(await maren.tells(says(far?.id ?? 0, lot.id, 'plus', 1, { lot: 'L-1' }))).toMatchObject({ outcome: 'clash' });
    expect(await lyingOf(house, lot.id)).toEqual({ [lot.bins[0]?.address ?? '']: 6 });
  });
});
