import { beforeAll, describe, expect, it } from '@jest/globals';
import { randomUUID } from 'node:crypto';
import fc from 'fast-check';
import { openHand, type Hand } from '../testing/hand.ts';
import { houseForTests } from '../testing/house.ts';

const { house, lead } = houseForTests({ lead: 'Maren Oake' });
let hand: Hand;
beforeAll(async () => {
  const [tobin] = await house.rows<{ id: number }>(`SELECT id FROM person WHERE name = 'Tobin Sallow'`);
  hand = await openHand(await house.signIn('Tobin Sallow'), tobin?.id ?? 0);
});

const openClash = async (key: string) =>
  (await lead.ask('hands.clashes', { query: { show: 'open' } })).reply.clashes.find((c) => c.key === key);

describe('C18 what another program told', () => {
  it('waits for the lead as it was told, and holds up nothing that comes after it', async () => {
    const [shelf, quarantine] = await house.rows<{ id: number; item: number }>(
      `(SELECT f.bin_id AS id, f.item_id AS item FROM stock_fact f JOIN item i ON i.id = f.item_id
        WHERE f.site_id = 1 AND f.use = 'shelf' AND i.tracking = 'none' AND i.decimals = 0 AND f.condition = 'sound' AND f.qty > 5
        ORDER BY f.bin_id
        LIMIT 1)
       UNION ALL SELECT id, 0 FROM bin WHERE site_id = 1 AND address = 'QUARANTINE'`,
    );
    const put = { kind: 'move.put', from: shelf?.id, to: quarantine?.id, item: shelf?.item, qty: 1000, over: null };
    const old = hand.does({ kind: 'move.carry', what: 'HV-10', many: 1 });
    // Of the very same job, and after it: a move with nothing missing.
    const next = hand.does({ ...put, lot: null, serial: null, condition: 'sound' });
    expect(await hand.tell()).toMatchObject([
      { key: old, outcome: 'clash', says: expect.stringContaining('cannot read') },
      { key: next, outcome: 'done', says: null },
    ]);
    const clash = await openClash(old);
    expect(clash).toMatchObject({ what: expect.stringContaining('"what":"HV-10"'), settlements: [{ how: 'again' }, { how: 'drop' }] });
    const again = await lead.ask('hands.settle', { params: { key: old }, body: { how: 'again' } });
    expect([again.status, again.problem.code]).toEqual([409, 'hands.unreadable']);
    expect((await lead.ask('hands.settle', { params: { key: old }, body: { how: 'drop' } })).status).toBe(200);
    expect(await openClash(old)).toBeUndefined();
  });

  it('is done when the program that runs then can read it', async () => {
    const key = hand.does({ kind: 'receive.finish' });
    await hand.tell();
    expect(await openClash(key)).toBeDefined();
    const [delivery] = await house.rows<{ id: number }>(
      `SELECT d.id FROM delivery d WHERE d.state = 'scanning' AND d.site_id = 1 ORDER BY d.id LIMIT 1`,
    );
    // As a program that knows these words would have kept it.
    const told = JSON.stringify({ kind: 'receive.finish', delivery: delivery?.id });
    await house.rows(`UPDATE hand_act SET does = jsonb_build_object('kind', 'unreadable', 'told', ?::text) WHERE key = ?`, [told, key]);
    expect((await lead.ask('hands.settle', { params: { key }, body: { how: 'again' } })).status).toBe(200);
    expect(await house.rows(`SELECT state FROM delivery WHERE id = ?`, [delivery?.id])).toEqual([{ state: 'review' }]);
  });

  it('property: whatever a device tells, each act is answered for, once, and none holds up the queue', async () => {
    const id = fc.oneof(fc.integer({ min: -1, max: 400 }), fc.constant(2 ** 40), fc.constant(null), fc.constant('7'));
    const word = fc.oneof(
      fc.string({ unit: 'binary', maxLength: 50 }),
      fc.constantFrom(null, '', '\u0000', 'A\u0000B', '\ud800', 'x'.repeat(400), '2031-02-31', '2031-01-31', randomUUID()),
    );
    const steps = fc.oneof(fc.integer({ min: -5, max: 5_000_000 }), fc.constantFrom(0.5, 1e300, '1000', 1_000_000_000_000));
    const kind = fc.constantFrom(
      ...['receive.enter', 'receive.unknown', 'receive.change', 'receive.takeOut', 'receive.finish', 'move.put', 'move.undo', 'pick.take'],
      ...['pick.undo', 'pick.trouble', 'pick.putDown', 'count.tally', 'count.change', 'count.takeOut', 'count.verdict', 'count.again'],
      ...['pack.order', 'pack.undo', 'pack.ship', 'constructor', ''],
    );
    const told = fc.record(
      {
        kind,
        ...Object.fromEntries(['delivery', 'item', 'pack', 'from', 'to', 'round', 'bin', 'count', 'order'].map((k) => [k, id])),
        ...Object.fromEntries(['lot', 'serial', 'expires', 'code', 'over', 'act', 'entry', 'pick', 'taken', 'tally'].map((k) => [k, word])),
        qty: steps,
        condition: fc.constantFrom('sound', 'held', 'constructor'),
        verdict: fc.constantFrom('none', 'asExpected', 'maybe'),
        trouble: fc.constantFrom('short', 'damaged', 'wet'),
        takeAnyway: fc.boolean(),
        adds: fc.boolean(),
        parcels: fc.integer({ min: -1, max: 120 }),
        pieces: fc.array(word, { maxLength: 3 }),
        instead: fc.array(fc.object(), { maxLength: 2 }),
      },
      { requiredKeys: ['kind'] },
    );
    const all = fc.sample(fc.oneof(told, fc.object({ maxDepth: 4 })), { numRuns: 400, seed: 81 });
    const keys = all.map((does) => hand.does(does));
    const outcomes = [];
    for (let n = 0; n < all.length; n += 100) outcomes.push(...(await hand.tell()));
    expect(outcomes.map((o) => o.key)).toEqual(keys);
    expect(outcomes.filter((o) => o.outcome !== 'done' && o.outcome !== 'clash')).toEqual([]);
    expect(hand.waiting()).toEqual([]);
    // No act broke the server: what it did not foresee would be a fault of its own making.
    const faults = outcomes.filter((o) => /went wrong|incident/i.test(o.says ?? ''));
    expect(faults).toEqual([]);
    // The lead can read the list of all of them, and let any be.
    const { status, reply } = await lead.ask('hands.clashes', { query: { show: 'open' } });
    expect(status).toBe(200);
    for (const clash of reply.clashes.slice(0, 40)) expect(clash.settlements.length).toBeGreaterThan(1);
  }, 60_000);
});
