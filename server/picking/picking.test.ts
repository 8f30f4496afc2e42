import { beforeAll, beforeEach, describe, expect, it } from '@jest/globals';
import type { Client } from '../testing/client.ts';
import { houseForTests } from '../testing/house.ts';

const { house, lead } = houseForTests({ lead: 'Maren Oake' });
let hands: Client[];
beforeAll(async () => {
  hands = [await house.signIn('Tobin Sallow'), await house.signIn('Ines Farrow'), await house.signIn('Jory Penhale')];
});

const one = async <Row>(sql: string, values: readonly unknown[] = []): Promise<Row> => (await house.rows<Row>(sql, values))[0] as Row;
/** A new item with so many in one bin of the pick face. */
async function jars(code: string, amount: number): Promise<{ id: number; bin: string }> {
  const item = (
    await lead.ask('items.make', { body: { code, description: `Jar ${code}`, group: 'Test', unit: 'each', decimals: 0, tracking: 'none' } })
  ).reply;
  const bin = await one<{ id: number; address: string }>(
    `SELECT id, address FROM bin WHERE site_id = 1 AND use = 'shelf' AND id NOT IN (SELECT bin_id FROM balance) ORDER BY id LIMIT 1`,
  );
  await house.rows(
    `WITH d AS (INSERT INTO document (kind, number, site_id, person_id) VALUES ('opening', 'OB-' || ?, 1, 1) RETURNING id), m AS (
       INSERT INTO movement (document_id, person_id, reason, item_id, qty, from_bin, from_condition, to_bin, to_condition)
       SELECT id, 1, 'test', ?, ?, 7, 'sound', ?, 'sound'
       FROM d
     )
     INSERT INTO balance (item_id, bin_id, condition, qty) VALUES (?, ?, 'sound', ?)`,
    [code, item.id, amount, bin.id, item.id, bin.id, amount],
  );
  return { id: item.id, bin: bin.address };
}
const order = async (item: number, qty: string): Promise<number> =>
  (await lead.ask('orders.make', { body: { customer: 1, due: '2027-01-10', lines: [{ item, qty }] } })).reply.id;

describe('promising and picking by many at once', () => {
  it('F4 ten people promise the last 5 at once: exactly 5 are promised', async () => {
    const { id } = await jars('RUSH-1', 5);
    const orders = await Promise.all(Array.from({ length: 10 }, () => order(id, '1')));
    await Promise.all(orders.map((o) => lead.ask('orders.promise', { body: { orders: [o], mode: 'free' } })));
    expect(await one(`SELECT sum(qty) AS n FROM promise WHERE item_id = ?`, [id])).toEqual({ n: '5.000' });
    await house.expectCleanAudit();
  });
  it('G1 20 clients pick the last 5 pieces: 5 succeed, nobody else gets one', async () => {
    const { id, bin } = await jars('RUSH-2', 5);
    const orderId = await order(id, '5');
    await lead.ask('orders.promise', { body: { orders: [orderId], mode: 'whole' } });
    const round = (await hands[0]?.ask('picking.make', { body: { orders: [orderId] } }))?.reply;
    const { stopList } = (await lead.ask('picking.round', { params: { id: round?.id ?? 0 } })).reply;
    const pick = stopList[0]?.picks[0]?.id ?? 0;
    const answers = await Promise.all(
      Array.from({ length: 20 }, () =>
        (hands[0] as Client).ask('picking.pick', { params: { id: round?.id ?? 0, pick }, body: { bin, code: 'RUSH-2', qty: '1' } }),
      ),
    );
    expect(answers.filter((a) => a.status === 200)).toHaveLength(5);
    expect(new Set(answers.filter((a) => a.status !== 200).map((a) => a.problem.code))).toEqual(new Set(['picking.tooMany']));
    await house.expectCleanAudit();
  });
  it('G1 two people cannot make rounds for the same stock', async () => {
    const { id } = await jars('RUSH-3', 4);
    const orderId = await order(id, '4');
    await lead.ask('orders.promise', { body: { orders: [orderId], mode: 'whole' } });
    const answers = await Promise.all([1, 2].map((n) => (hands[n] as Client).ask('picking.make', { body: { orders: [orderId] } })));
    expect(answers.map((a) => a.status).sort()).toEqual([200, 409]);
    expect(answers.find((a) => a.status === 409)?.problem.code).toBe('picking.onRound');
  });
  it('G4 the wrong bin and the wrong item are stopped; another hand’s round is theirs', async () => {
    const { id, bin } = await jars('WRONG-1', 3);
    const orderId = await order(id, '2');
    await lead.ask('orders.promise', { body: { orders: [orderId], mode: 'whole' } });
    const round = (await hands[0]?.ask('picking.make', { body: { orders: [orderId] } }))?.reply.id ?? 0;
    const pick = (await lead.ask('picking.round', { params: { id: round } })).reply.stopList[0]?.picks[0]?.id ?? 0;
    const attempt = async (who: Client, body: { bin: string; code: string; qty: string }): Promise<string> =>
      (await who.ask('picking.pick', { params: { id: round, pick }, body })).problem.code;
    expect(await attempt(hands[0] as Client, { bin: 'QUARANTINE', code: 'WRONG-1', qty: '1' })).toBe('picking.wrongBin');
    expect(await attempt(hands[0] as Client, { bin, code: 'HV-10', qty: '1' })).toBe('picking.wrongItem');
    expect(await attempt(hands[1] as Client, { bin, code: 'WRONG-1', qty: '1' })).toBe('picking.othersRound');
    expect((await hands[0]?.ask('picking.putDown', { params: { id: round }, body: { bin: 'BENCH-1' } }))?.problem.code).toBe(
      'picking.stillOpen',
    );
  });
  it('H6 a held order neither goes on a round nor ships; H7 what ships leaves stock with its promise', async () => {
    const { id, bin } = await jars('SHIP-1', 6);
    const orderId = await order(id, '2');
    await lead.ask('orders.promise', { body: { orders: [orderId], mode: 'whole' } });
    await lead.ask('orders.hold', { params: { id: orderId }, body: { reason: 'unpaid' } });
    expect((await lead.ask('picking.make', { body: { orders: [orderId] } })).problem).toMatchObject({
      code: 'orders.held',
      reason: 'unpaid',
    });
    await lead.ask('orders.release', { params: { id: orderId } });
    const round = (await lead.ask('picking.make', { body: { orders: [orderId] } })).reply.id;
    const pick = (await lead.ask('picking.round', { params: { id: round } })).reply.stopList[0]?.picks[0]?.id ?? 0;
    await lead.ask('picking.pick', { params: { id: round, pick }, body: { bin, code: 'SHIP-1', qty: '2' } });
    expect((await lead.ask('shipping.pack', { params: { id: orderId }, body: { parcels: 1 } })).problem.code).toBe('shipping.onCart');
    expect((await lead.ask('picking.putDown', { params: { id: round }, body: { bin: 'A-01-1' } })).problem.code).toBe(
      'picking.notAPackingBin',
    );
    await lead.ask('picking.putDown', { params: { id: round }, body: { bin: 'BENCH-2' } });
    expect((await lead.ask('shipping.ship', { params: { id: orderId } })).problem.code).toBe('shipping.notPacked');
    await lead.ask('shipping.pack', { params: { id: orderId }, body: { parcels: 1 } });
    expect((await lead.ask('shipping.ship', { params: { id: orderId } })).reply).toMatchObject({ pieces: '2', left: '0' });
    expect((await lead.ask('stock.equation', { params: { id } })).reply.total).toMatchObject({ onHand: '4', free: '4', promised: '0' });
    await house.expectCleanAudit();
  });
  it('F4 a promise that was cut while its round is walked cannot be picked any more', async () => {
    const { id, bin } = await jars('CUT-1', 5);
    const orderId = await order(id, '5');
    await lead.ask('orders.promise', { body: { orders: [orderId], mode: 'whole' } });
    const round = (await lead.ask('picking.make', { body: { orders: [orderId] } })).reply.id;
    const pick = (await lead.ask('picking.round', { params: { id: round } })).reply.stopList[0]?.picks[0]?.id ?? 0;
    await lead.ask('moves.move', { body: { from: bin, to: 'QUARANTINE', code: 'CUT-1', qty: '3' } });
    await lead.ask('moves.move', { body: { from: 'QUARANTINE', to: bin, code: 'CUT-1', qty: '3' } });
    const attempt = (qty: string) => lead.ask('picking.pick', { params: { id: round, pick }, body: { bin, code: 'CUT-1', qty } });
    expect((await attempt('3')).problem.code).toBe('picking.noLongerPromised');
    expect((await attempt('2')).status).toBe(200);
    await house.expectCleanAudit();
  });
  it('G6 what is not found is planned from another bin, and the office sees it', async () => {
    const { id, bin } = await jars('LOST-1', 3);
    const [spare] = await house.rows<{ address: string }>(
      `SELECT address FROM bin WHERE site_id = 1 AND use = 'shelf' AND id NOT IN (SELECT bin_id FROM balance) ORDER BY id LIMIT 1`,
    );
    await lead.ask('moves.move', { body: { from: bin, to: spare?.address ?? '', code: 'LOST-1', qty: '1' } });
    const orderId = await order(id, '2');
    await lead.ask('orders.promise', { body: { orders: [orderId], mode: 'whole' } });
    const round = (await lead.ask('picking.make', { body: { orders: [orderId] } })).reply.id;
    const pick = (await lead.ask('picking.round', { params: { id: round } })).reply.stopList[0]?.picks[0]?.id ?? 0;
    expect((await lead.ask('picking.trouble', { params: { id: round, pick }, body: { kind: 'notFound' } })).reply).toEqual({
      replanned: '1',
      missing: '1',
      bins: [spare?.address],
    });
    expect((await lead.ask('desk.home')).reply.trouble.rows[0]?.address).toBe(bin);
  });
});

describe('goods in hand belong to their order', () => {
  // There are six carts: what a test before left on its walk goes back.
  beforeEach(async () => {
    for (const r of (await lead.ask('picking.rounds')).reply.rounds) await lead.ask('picking.throwAway', { params: { id: r.id } });
  });
  const [hand, other] = [() => hands[0] as Client, () => hands[1] as Client];
  /** A promised order of so many jars on a round of the first hand, picked as far as said. */
  async function onCart(code: string, ordered: number, picked: number) {
    const { id, bin } = await jars(code, ordered + 2);
    const orderId = await order(id, String(ordered));
    await lead.ask('orders.promise', { body: { orders: [orderId], mode: 'whole' } });
    const round = (await hand().ask('picking.make', { body: { orders: [orderId] } })).reply.id;
    const pick = (await lead.ask('picking.round', { params: { id: round } })).reply.stopList[0]?.picks[0]?.id ?? 0;
    const take = (qty: string) => hand().ask('picking.pick', { params: { id: round, pick }, body: { bin, code, qty } });
    if (picked > 0) expect((await take(String(picked))).status).toBe(200);
    return { id, bin, orderId, round, pick, take };
  }
  const bench = (round: number) => hand().ask('picking.putDown', { params: { id: round }, body: { bin: 'BENCH-1' } });
  const pack = (orderId: number) => lead.ask('shipping.pack', { params: { id: orderId }, body: { parcels: 1 } });
  const ship = (orderId: number) => lead.ask('shipping.ship', { params: { id: orderId } });
  const left = async (id: number) => (await lead.ask('stock.equation', { params: { id } })).reply.total;

  it('B4 half of a whole item is picked by nobody', async () => {
    const { take } = await onCart('HALF-1', 2, 0);
    expect((await take('0.5')).problem).toMatchObject({ code: 'picking.tooFine', asked: '0.5' });
    await house.expectCleanAudit();
  });
  it('I1 what lies in a cart or at a bench is not moved away: a move says whose it is, and the way', async () => {
    const g = await onCart('MINE-1', 2, 2);
    const [cart] = await house.rows<{ address: string }>(`SELECT b.address FROM round r JOIN bin b ON b.id = r.cart_bin WHERE r.id = ?`, [
      g.round,
    ]);
    const move = (from: string) => lead.ask('moves.move', { body: { from, to: g.bin, code: 'MINE-1', qty: '1' } });
    expect((await move(cart?.address ?? '')).problem).toMatchObject({ code: 'stock.ordersGoods', orderId: g.orderId, roundId: g.round });
    await bench(g.round);
    expect((await move('BENCH-1')).problem).toMatchObject({ code: 'stock.ordersGoods', orderId: g.orderId });
    expect((await lead.ask('picking.putBack', { params: { id: g.orderId } })).status).toBe(200);
    expect(await left(g.id)).toMatchObject({ onHand: '4', promised: '2', free: '2' });
    await house.expectCleanAudit();
  });
  it('H1 what comes to the bench after packing, or a line that is added, is looked at before it ships', async () => {
    const { id, bin } = await jars('LATE-1', 5);
    const spare = await jars('LATE-2', 1);
    const orderId = (
      await lead.ask('orders.make', {
        body: {
          customer: 1,
          due: '2027-01-10',
          lines: [
            { item: id, qty: '2' },
            { item: spare.id, qty: '1' },
          ],
        },
      })
    ).reply.id;
    await lead.ask('orders.promise', { body: { orders: [orderId], mode: 'free' } });
    const walk = async (code: string, from: string): Promise<void> => {
      const made = await hand().ask('picking.make', { body: { orders: [orderId] } });
      const { stopList } = (await lead.ask('picking.round', { params: { id: made.reply.id } })).reply;
      for (const p of stopList.flatMap((s) => s.picks))
        if (p.code === code)
          await hand().ask('picking.pick', { params: { id: made.reply.id, pick: p.id }, body: { bin: from, code, qty: p.qty } });
        else await hand().ask('picking.trouble', { params: { id: made.reply.id, pick: p.id }, body: { kind: 'short' } });
      expect((await bench(made.reply.id)).status).toBe(200);
    };
    await walk('LATE-1', bin);
    const looked = (await lead.ask('shipping.look', { params: { id: orderId } })).reply;
    expect(looked.lines.map((l) => [l.code, l.picked, l.ordered])).toEqual([
      ['LATE-1', '2', '2'],
      ['LATE-2', '0', '1'],
    ]);
    expect(looked.complete).toBe(false);
    expect((await pack(orderId)).status).toBe(200);
    await house.rows(`UPDATE trouble SET settled_at = now_here() WHERE settled_at IS NULL`);
    await walk('LATE-2', spare.bin);
    expect((await ship(orderId)).problem.code).toMatch(/shipping\.(cameSince|notPacked)/);
    expect((await pack(orderId)).status).toBe(200);
    expect((await ship(orderId)).reply).toMatchObject({ pieces: '3', left: '0' });
    await house.expectCleanAudit();
  });
  it('F4 shipping and promising one order at once never promises what has gone', async () => {
    for (let n = 0; n < 8; n += 1) {
      const g = await onCart(`GONE-${n}`, 2, 2);
      await bench(g.round);
      await pack(g.orderId);
      const [shipped] = await Promise.all([ship(g.orderId), lead.ask('orders.promise', { body: { orders: [g.orderId], mode: 'free' } })]);
      expect(shipped.status).toBe(200);
      expect(await left(g.id)).toMatchObject({ onHand: '2', promised: '0', free: '2' });
    }
    await house.expectCleanAudit();
  });
  it('G8 a round is given to somebody, thrown away with its goods going back, and its cart is free again', async () => {
    const g = await onCart('GIVE-1', 3, 2);
    const tobin = await one<{ id: number }>(`SELECT id FROM person WHERE name = 'Ines Farrow'`);
    expect((await hand().ask('picking.give', { params: { id: g.round }, body: { person: tobin.id } })).status).toBe(200);
    expect((await g.take('1')).problem.code).toBe('picking.othersRound');
    const before = (await lead.ask('picking.rounds')).reply.rounds.length;
    expect((await other().ask('picking.throwAway', { params: { id: g.round } })).status).toBe(403);
    expect((await lead.ask('picking.throwAway', { params: { id: g.round } })).status).toBe(200);
    expect((await lead.ask('picking.rounds')).reply.rounds).toHaveLength(before - 1);
    expect(await left(g.id)).toMatchObject({ onHand: '5', promised: '3' });
    expect((await lead.ask('picking.cancelOrder', { params: { id: g.orderId }, body: { reason: 'Changed their mind' } })).status).toBe(200);
    expect(await left(g.id)).toMatchObject({ onHand: '5', promised: '0', free: '5' });
    expect((await lead.ask('orders.order', { params: { id: g.orderId } })).reply).toMatchObject({
      state: 'cancelled',
      cancelledFor: 'Changed their mind',
    });
    await house.expectCleanAudit();
  });
  it('F6 what was looked for in vain is no longer “all”, and the sheet of an order on a walk opens that walk', async () => {
    const g = await onCart('VAIN-1', 3, 0);
    const again = await hand().ask('picking.make', { body: { orders: [g.orderId] } });
    expect(again.problem).toMatchObject({ code: 'picking.onRound', round: g.round });
    expect((await lead.ask('orders.order', { params: { id: g.orderId } })).reply.ready).toBe('all');
    await hand().ask('picking.trouble', { params: { id: g.round, pick: g.pick }, body: { kind: 'notFound' } });
    const after = (await lead.ask('orders.order', { params: { id: g.orderId } })).reply;
    expect(after.ready).not.toBe('all');
    expect(after.lineList[0]?.notFound).toBe('3');
  });
  it('E4 where several lots lie in one bin, the lot is asked, the first to expire proposed', async () => {
    const item = (
      await lead.ask('items.make', {
        body: { code: 'LOTS-1', description: 'Lots', group: 'Test', unit: 'each', decimals: 0, tracking: 'lot' },
      })
    ).reply;
    const { address } = await one<{ address: string }>(
      `SELECT address
       FROM bin
       WHERE site_id = 1 AND use = 'shelf' AND NOT one_lot AND id NOT IN (SELECT bin_id FROM balance)
       ORDER BY id
       LIMIT 1`,
    );
    await lead.ask('stock.opening', {
      params: { id: item.id },
      body: {
        lines: [
          { bin: address, qty: '2', lot: 'LA' },
          { bin: address, qty: '2', lot: 'LB' },
        ],
      },
    });
    const orderId = await order(item.id, '2');
    await lead.ask('orders.promise', { body: { orders: [orderId], mode: 'whole' } });
    const round = (await hand().ask('picking.make', { body: { orders: [orderId] } })).reply.id;
    const [pick] = (await lead.ask('picking.round', { params: { id: round } })).reply.stopList[0]?.picks ?? [];
    const take = (lot?: string) =>
      hand().ask('picking.pick', {
        params: { id: round, pick: pick?.id ?? 0 },
        body: { bin: address, code: 'LOTS-1', qty: '1', ...(lot ? { lot } : {}) },
      });
    expect((await take()).problem).toMatchObject({ code: 'picking.whichLot', wanted: pick?.lot });
    expect((await take(pick?.lot === 'LA' ? 'LB' : 'LA')).problem.code).toBe('picking.wrongLot');
    expect((await take(pick?.lot ?? '')).status).toBe(200);
  });
  it('B10 G4 picks and holds of the same goods at once neither wait in a circle nor break', async () => {
    const { id, bin } = await jars('STORM-1', 30);
    const walks: { round: number; pick: number }[] = [];
    for (let n = 0; n < 5; n += 1) {
      const orderId = await order(id, '4');
      await lead.ask('orders.promise', { body: { orders: [orderId], mode: 'whole' } });
      const round = (await hand().ask('picking.make', { body: { orders: [orderId] } })).reply.id;
      const { stopList } = (await lead.ask('picking.round', { params: { id: round } })).reply;
      walks.push({ round, pick: stopList[0]?.picks[0]?.id ?? 0 });
    }
    const answers: { status: number }[] = [];
    for (let wave = 0; wave < 4; wave += 1)
      answers.push(
        ...(await Promise.all(
          walks.flatMap((w) => [
            hand().ask('picking.pick', { params: { id: w.round, pick: w.pick }, body: { bin, code: 'STORM-1', qty: '1' } }),
            lead.ask('stock.hold', { body: { item: id, qty: '1', reason: 'test' } }),
          ]),
        )),
      );
    expect(answers.filter((a) => a.status >= 500)).toEqual([]);
    expect(answers.filter((a) => a.status === 200).length).toBeGreaterThan(20);
    expect(await one(`SELECT deadlocks::int AS n FROM pg_stat_database WHERE datname = current_database()`)).toEqual({ n: 0 });
    await house.expectCleanAudit();
  });
});
