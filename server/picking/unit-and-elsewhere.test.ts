import { beforeAll, beforeEach, describe, expect, it } from '@jest/globals';
import { lyingOf, palletOf, shelved } from '../testing/goods.ts';
import { openHand, type Hand } from '../testing/hand.ts';
import { houseForTests } from '../testing/house.ts';

const { house, lead, hand } = houseForTests({ lead: 'Maren Oake', hand: 'Tobin Sallow' }, { jobs: false });
let tobin: Hand;
let made = 0;
const SSCCS = ['395200010000000110', '395200010000000127', '395200010000000134', '395200010000000141', '395200010000000158'];

beforeAll(async () => {
  const [person] = await house.rows<{ id: number }>(`SELECT id FROM person WHERE name = 'Tobin Sallow'`);
  tobin = await openHand(hand, person?.id ?? 0);
});
beforeEach(async () => {
  for (const r of await house.rows<{ id: number }>(`SELECT id FROM round WHERE state = 'open' AND site_id = 1`))
    await lead.ask('picking.throwAway', { params: { id: r.id } });
});

type Planned = { key: string; bin: number; item: number; lot: string | null; qty: number; picked: number; instead_why: string | null };
const picksOf = (round: number): Promise<Planned[]> =>
  house.rows<Planned>(
    `SELECT k.key, k.bin_id AS bin, k.item_id AS item, l.code AS lot, k.qty::int AS qty, k.picked::int AS picked, k.instead_why
     FROM round_pick k LEFT JOIN lot l ON l.id = k.lot_id WHERE k.round_id = ? ORDER BY k.id`,
    [round],
  );

/** An order for so much of each item, promised and on a round; what is planned on it. */
async function roundFor(wants: readonly { item: number; qty: number }[]): Promise<{ round: number; order: number; picks: Planned[] }> {
  const lines = wants.map((w) => ({ item: w.item, qty: String(w.qty) }));
  const { id: order } = (await lead.ask('orders.make', { body: { customer: 1, due: '2030-01-01', lines } })).reply;
  await lead.ask('orders.promise', { body: { orders: [order], mode: 'free' } });
  const { id: round } = (await lead.ask('picking.make', { body: { orders: [order] } })).reply;
  return { round, order, picks: await picksOf(round) };
}
const take = (round: number, p: Planned, qty: number, sscc: string | null): object => ({
  kind: 'pick.take',
  ...{ round, pick: p.key, bin: p.bin, item: p.item, lot: p.lot, serial: null, qty: qty * 1000, sscc },
});
const inUnit = async (sscc: string): Promise<number> =>
  (
    await house.rows<{ n: number }>(
      `SELECT coalesce(sum(b.qty), 0)::int AS n FROM balance b JOIN logistic_unit u ON u.id = b.unit_id WHERE u.sscc = ?`,
      [sscc],
    )
  )[0]?.n ?? 0;
const item = async (tracking: 'none' | 'lot' = 'none', lying: { qty: string }[] = []) => {
  const code = `UN-T${(made += 1)}`;
  return { ...(await shelved(house, lead, { code, tracking, lying })), code };
};

describe('G11 a pallet onto the cart by its label', () => {
  it('all that is in it, and nothing beside it; undo puts it back into the unit', async () => {
    const [sscc = ''] = SSCCS;
    const [a, b] = [await item('none', [{ qty: '3' }]), await item('lot')];
    const place = await palletOf(house, lead, tobin, {
      sscc,
      goods: [
        { item: a.id, qty: 6 },
        { item: b.id, qty: 4, lot: 'P-1' },
      ],
    });
    // The same goods lie loose beside it, fewer: what is opened first is not what was scanned.
    const move = { from: a.bins[0]?.address ?? '', to: place.address, code: a.code, qty: '3' };
    expect((await lead.ask('moves.move', { body: move })).status).toBe(200);
    const { round, picks } = await roundFor([
      { item: a.id, qty: 7 },
      { item: b.id, qty: 4 },
    ]);
    const [first, second] = picks as [Planned, Planned];
    const keys = [tobin.does(take(round, first, 6, sscc)), tobin.does(take(round, second, 4, sscc))];
    expect((await tobin.tell()).map((o) => o.outcome)).toEqual(['done', 'done']);
    expect(await inUnit(sscc)).toBe(0);
    expect(await lyingOf(house, a.id)).toMatchObject({ [place.address]: 3 });
    for (const taken of keys) tobin.does({ kind: 'pick.undo', round, taken });
    expect((await tobin.tell()).map((o) => o.outcome)).toEqual(['done', 'done']);
    expect(await inUnit(sscc)).toBe(10);
    expect(await lyingOf(house, a.id)).toEqual({ [place.address]: 9 });
    // And again, to the end: the round is put down with it.
    tobin.does(take(round, first, 6, sscc));
    tobin.does(take(round, first, 1, null));
    tobin.does(take(round, second, 4, sscc));
    const [bench] = await house.rows<{ id: number }>(`SELECT id FROM bin WHERE address = 'BENCH-1'`);
    tobin.does({ kind: 'pick.putDown', round, bin: bench?.id ?? 0 });
    expect((await tobin.tell()).map((o) => o.outcome)).toEqual(['done', 'done', 'done', 'done']);
    expect(await lyingOf(house, a.id)).toEqual({ [place.address]: 2, 'BENCH-1': 7 });
    await house.expectCleanAudit();
  });
  it('told late, when somebody has opened it or carried it on: from the bin, or a clash, and none is invented', async () => {
    const [, sscc = '', moved = ''] = SSCCS;
    const [a, b] = [await item(), await item()];
    const place = await palletOf(house, lead, tobin, { sscc, goods: [{ item: a.id, qty: 6 }] });
    const other = await palletOf(house, lead, tobin, { sscc: moved, goods: [{ item: b.id, qty: 5 }] });
    const { round, picks } = await roundFor([
      { item: a.id, qty: 6 },
      { item: b.id, qty: 5 },
    ]);
    const [first, second] = picks as [Planned, Planned];
    // Two came out of it and lie beside it: the bin still has six.
    await lead.ask('moves.move', { body: { from: place.address, to: 'ARRIVALS', code: a.code, qty: '2' } });
    await lead.ask('moves.move', { body: { from: 'ARRIVALS', to: place.address, code: a.code, qty: '2' } });
    expect(await inUnit(sscc)).toBe(4);
    const told = await tobin.tells(take(round, first, 6, sscc));
    expect([told.outcome, await inUnit(sscc)]).toEqual(['done', 0]);
    // What was taken loose goes back loose: nobody can say how much of it was in the unit.
    expect((await tobin.tells({ kind: 'pick.undo', round, taken: told.act })).outcome).toBe('done');
    expect([await inUnit(sscc), await lyingOf(house, a.id)]).toEqual([0, { [place.address]: 6 }]);
    await lead.ask('moves.unit', { params: { sscc: moved }, body: { to: 'ARRIVALS' } });
    expect(await tobin.tells(take(round, second, 5, moved))).toMatchObject({
      outcome: 'clash',
      says: expect.stringContaining(other.address),
    });
    expect(await lyingOf(house, b.id)).toEqual({ ARRIVALS: 5 });
    await house.expectCleanAudit();
  });
  it('undone when the rest of it was carried on: it goes back loose, where it lay', async () => {
    const [, , , sscc = ''] = SSCCS;
    const a = await item('lot');
    const place = await palletOf(house, lead, tobin, {
      sscc,
      goods: [
        { item: a.id, qty: 3, lot: 'P-1' },
        { item: a.id, qty: 2, lot: 'P-2' },
      ],
    });
    const { round, picks } = await roundFor([{ item: a.id, qty: 3 }]);
    const [first] = picks as [Planned];
    const told = await tobin.tells(take(round, first, first.qty, sscc));
    expect(told.outcome).toBe('done');
    expect((await lead.ask('moves.unit', { params: { sscc }, body: { to: 'ARRIVALS' } })).status).toBe(200);
    expect((await tobin.tells({ kind: 'pick.undo', round, taken: told.act })).outcome).toBe('done');
    expect(await lyingOf(house, a.id)).toEqual({ [place.address]: first.qty, ARRIVALS: 5 - first.qty });
    await house.expectCleanAudit();
  });
});

describe('G4 from another bin than planned', () => {
  it('is done and noted: with the pick, in the ledger; the rest stays planned where it was', async () => {
    const a = await item('none', [{ qty: '9' }, { qty: '5' }]);
    const [near, far] = a.bins as [{ id: number; address: string }, { id: number; address: string }];
    const { round, picks } = await roundFor([{ item: a.id, qty: 8 }]);
    const [first] = picks as [Planned];
    const [planned, instead] = first.bin === near.id ? [near, far] : [far, near];
    const key = crypto.randomUUID();
    const elsewhere = {
      kind: 'pick.elsewhere',
      round,
      pick: first.key,
      instead: { key, bin: instead.id, lot: null, qty: 3000 },
      reason: 'On my way',
    };
    tobin.does(elsewhere);
    tobin.does({ ...take(round, { ...first, key, bin: instead.id }, 3, null) });
    tobin.does(take(round, first, 5, null));
    expect((await tobin.tell()).map((o) => o.outcome)).toEqual(['done', 'done', 'done']);
    expect(await picksOf(round)).toMatchObject([
      { bin: planned.id, qty: 5, picked: 5, instead_why: null },
      { bin: instead.id, qty: 3, picked: 3, instead_why: 'On my way' },
    ]);
    const [said] = await house.rows<{ reason: string }>(`SELECT reason FROM movement WHERE item_id = ? AND from_bin = ?`, [
      a.id,
      instead.id,
    ]);
    expect(said?.reason).toMatch(new RegExp(`, instead of from ${planned.address}: On my way$`));
    const { stopList } = (await lead.ask('picking.round', { params: { id: round } })).reply;
    expect(stopList.flatMap((s) => s.picks.map((p) => p.instead)).filter(Boolean)).toEqual([`from ${planned.address}: On my way`]);
    await house.expectCleanAudit();
  });
  it('more than is open of it stays nobody’s; twice is once; nothing is taken that is set apart', async () => {
    const a = await item('none', [{ qty: '9' }, { qty: '9' }]);
    const { round, picks } = await roundFor([{ item: a.id, qty: 4 }]);
    const [first] = picks as [Planned];
    const other = a.bins.find((b) => b.id !== first.bin);
    const key = crypto.randomUUID();
    const does = {
      kind: 'pick.elsewhere',
      round,
      pick: first.key,
      instead: { key, bin: other?.id, lot: null, qty: 9000 },
      reason: 'Nearer',
    };
    const told = await tobin.tells(does);
    expect(told.outcome).toBe('done');
    await tobin.tells(does, { key: told.act });
    expect((await picksOf(round)).map((p) => p.qty)).toEqual([0, 4]);
    const [quarantine] = await house.rows<{ id: number }>(`SELECT id FROM bin WHERE address = 'QUARANTINE'`);
    const [, plan] = (await picksOf(round)) as [Planned, Planned];
    const crafted = { ...does, pick: plan.key, instead: { ...does.instead, key: crypto.randomUUID(), bin: quarantine?.id } };
    expect(await tobin.tells(crafted)).toMatchObject({
      outcome: 'clash',
      says: expect.stringMatching(/Nothing is picked out of QUARANTINE/),
    });
    const trouble = { kind: 'pick.trouble', round, pick: plan.key, trouble: 'notFound', instead: [crafted.instead] };
    expect((await tobin.tells(trouble)).outcome).toBe('done');
    const from = take(round, { ...plan, key: crafted.instead.key, bin: quarantine?.id ?? 0 }, 1, null);
    expect(await tobin.tells(from)).toMatchObject({ outcome: 'clash', says: expect.stringMatching(/Nothing is picked out of QUARANTINE/) });
  });
  it('what names its bin is taken there, or there is trouble', async () => {
    const a = await item('none', [{ qty: '9' }, { qty: '9' }]);
    const { round, picks } = await roundFor([{ item: a.id, qty: 4 }]);
    const [first] = picks as [Planned];
    const other = a.bins.find((b) => b.id !== first.bin);
    const does = { kind: 'pick.elsewhere', round, pick: first.key, reason: 'Nearer' };
    await house.rows(`UPDATE order_line SET bin_id = ? WHERE item_id = ?`, [other?.id, a.id]);
    const named = await tobin.tells({ ...does, instead: { key: crypto.randomUUID(), bin: other?.id, lot: null, qty: 4000 } });
    expect(named).toMatchObject({ outcome: 'clash', says: expect.stringMatching(/names bin .* for its UN-T/) });
  });
});
