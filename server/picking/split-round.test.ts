import { beforeEach, describe, expect, it } from '@jest/globals';
import { lyingOf, shelved } from '../testing/goods.ts';
import { houseForTests } from '../testing/house.ts';

const { house, lead, hand, other } = houseForTests({ lead: 'Maren Oake', hand: 'Tobin Sallow', other: 'Ines Farrow' }, { jobs: false });
beforeEach(async () => {
  for (const r of await house.rows<{ id: number }>(`SELECT id FROM round WHERE state = 'open' AND site_id = 1`))
    await lead.ask('picking.throwAway', { params: { id: r.id } });
});

let made = 0;
type Pick = { id: number; bin: string; code: string; qty: number; picked: number; order: number; slot: number };
const picksOf = (round: number): Promise<Pick[]> =>
  house.rows<Pick>(
    `SELECT k.id, b.address AS bin, i.code, k.qty::int AS qty, k.picked::int AS picked, l.order_id AS order, k.slot
     FROM round_pick k JOIN bin b ON b.id = k.bin_id JOIN item i ON i.id = k.item_id JOIN order_line l ON l.id = k.line_id
     WHERE k.round_id = ? ORDER BY k.id`,
    [round],
  );
/** A round of two orders that want four each of two items. */
async function roundOfTwo(): Promise<{ round: number; orders: [number, number]; items: number[]; picks: Pick[] }> {
  const goods = [];
  for (const n of [1, 2]) goods.push(await shelved(house, lead, { code: `SPLIT-${(made += 1)}-${n}`, lying: [{ qty: '20' }] }));
  const orders: number[] = [];
  for (let n = 0; n < 2; n += 1) {
    const lines = goods.map((g) => ({ item: g.id, qty: '4' }));
    orders.push((await lead.ask('orders.make', { body: { customer: 1, due: '2027-01-10', lines } })).reply.id);
  }
  await lead.ask('orders.promise', { body: { orders, mode: 'whole' } });
  const round = (await lead.ask('picking.make', { body: { orders } })).reply.id;
  return { round, orders: orders as [number, number], items: goods.map((g) => g.id), picks: await picksOf(round) };
}
const split = (round: number, picks: readonly number[], to: object, who = lead) =>
  who.ask('picking.split', { params: { id: round }, body: { picks: [...picks], to } } as never);
const stateOf = async (round: number): Promise<string> =>
  (await house.rows<{ state: string }>(`SELECT state FROM round WHERE id = ?`, [round]))[0]?.state ?? '';

describe('G8 lines of a round that go elsewhere', () => {
  it('taken out: nobody is on their way for it, its order can be picked anew, what was picked stays on the cart', async () => {
    const r = await roundOfTwo();
    const [first] = r.picks as [Pick];
    await lead.ask('picking.pick', { params: { id: r.round, pick: first.id }, body: { bin: first.bin, code: first.code, qty: '1' } });
    const own = r.picks.filter((p) => p.order === first.order);
    const { reply } = await split(
      r.round,
      own.map((p) => p.id),
      { kind: 'out' },
    );
    expect(reply).toEqual({ id: null, number: null, picks: 2, ended: false });
    expect((await picksOf(r.round)).filter((p) => p.order === first.order).map((p) => p.qty)).toEqual([1, 0]);
    const again = await lead.ask('picking.make', { body: { orders: [first.order] } });
    expect((await picksOf(again.reply.id)).reduce((sum, p) => sum + p.qty, 0)).toBe(7);
    await house.expectCleanAudit();
  });
  it('given to a new round of somebody else, with a cart of its own; a round of which nothing is left ends', async () => {
    const r = await roundOfTwo();
    const [{ id: ines } = { id: 0 }] = await house.rows<{ id: number }>(`SELECT id FROM person WHERE name = 'Ines Farrow'`);
    const half = r.picks.filter((p) => p.order === r.orders[1]);
    const made = (
      await split(
        r.round,
        half.map((p) => p.id),
        { kind: 'new', person: ines },
      )
    ).reply as { id: number; ended: boolean };
    expect(made.ended).toBe(false);
    const theirs = await picksOf(made.id);
    expect(theirs.map((p) => [p.qty, p.slot])).toEqual([
      [4, 1],
      [4, 1],
    ]);
    const [a, b] = [
      await lead.ask('picking.round', { params: { id: r.round } }),
      await lead.ask('picking.round', { params: { id: made.id } }),
    ];
    expect(b.reply).toMatchObject({ person: 'Ines Farrow', picks: 2 });
    expect(a.reply.orders).toHaveLength(1);
    expect(a.reply.cart).not.toBe(b.reply.cart);
    const [p] = theirs as [Pick];
    expect(
      (await other.ask('picking.pick', { params: { id: made.id, pick: p.id }, body: { bin: p.bin, code: p.code, qty: '4' } })).status,
    ).toBe(200);
    // The rest of theirs comes back to the first, into the slot of a new order there.
    const back = await split(
      made.id,
      theirs.map((x) => x.id),
      { kind: 'round', round: r.round },
    );
    expect(back.reply).toMatchObject({ id: r.round, picks: 1, ended: false });
    const rest = (await picksOf(r.round)).filter((x) => x.qty > 0);
    await split(
      r.round,
      rest.map((x) => x.id),
      { kind: 'round', round: made.id },
    );
    expect(await stateOf(r.round)).toBe('thrown');
    await house.expectCleanAudit();
  });
  it('says what is wrong and changes nothing: itself, what is picked, another hand’s, a round that has ended', async () => {
    const r = await roundOfTwo();
    const ids = r.picks.map((p) => p.id);
    const code = async (answer: ReturnType<typeof split>): Promise<string> => (await answer).problem.code;
    expect(await code(split(r.round, ids, { kind: 'round', round: r.round }))).toBe('picking.sameRound');
    expect(await code(split(r.round, [999_999], { kind: 'out' }))).toBe('picking.unknownPick');
    await hand.ask('picking.take', { params: { id: r.round } });
    expect(await code(split(r.round, ids, { kind: 'out' }, other))).toBe('picking.othersRound');
    const [first] = r.picks as [Pick];
    await hand.ask('picking.pick', { params: { id: r.round, pick: first.id }, body: { bin: first.bin, code: first.code, qty: '4' } });
    expect(await code(split(r.round, [first.id], { kind: 'out' }))).toBe('picking.nothingOpen');
    await lead.ask('picking.throwAway', { params: { id: r.round } });
    expect(await code(split(r.round, ids, { kind: 'out' }))).toBe('picking.roundDone');
    expect(await picksOf(r.round)).toHaveLength(4);
    expect((await lyingOf(house, r.items[0] ?? 0))['ARRIVALS']).toBe(4);
  });
  it('two who split one round at one moment move each line once', async () => {
    const r = await roundOfTwo();
    const ids = r.picks.map((p) => p.id);
    const answers = await Promise.all([
      split(r.round, ids, { kind: 'new', person: null }),
      split(r.round, ids, { kind: 'new', person: null }),
    ]);
    expect(answers.filter((a) => a.status === 200)).toHaveLength(1);
    const rounds = await house.rows<{ qty: number }>(
      `SELECT sum(k.qty)::int AS qty FROM round_pick k JOIN order_line l ON l.id = k.line_id WHERE l.order_id = ANY(?::int[])`,
      [r.orders],
    );
    expect(rounds[0]?.qty).toBe(16);
    await house.expectCleanAudit();
  });
});
