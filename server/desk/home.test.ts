import { describe, expect, it } from '@jest/globals';
import type { Topic } from '#server/kernel';
import { houseForTests } from '../testing/house.ts';
import { homeReader } from './home.ts';

const { house, lead } = houseForTests({ lead: 'Maren Oake' });

const home = async (site: number) => (await lead.ask('desk.home', { site })).reply;
const row = async (site: number) =>
  Object.fromEntries((await lead.ask('desk.row', { site })).reply.stations.map((s) => [s.station, s] as const));

describe('L1 home and the row', () => {
  it('say the same numbers, counted exactly, at every site', async () => {
    // More than a page shows is late, here and there, at each station that an order can wait at.
    await house.rows(`UPDATE customer_order SET due = today_at(site_id) - 2 WHERE state = 'open' AND id % 3 <> 0`);
    await house.rows(`UPDATE purchase_order SET due = today_at(site_id) - 1 WHERE state = 'open' AND id % 2 = 0`);
    for (const site of [1, 2, 3]) {
      const [said, stations] = [await home(site), await row(site)];
      expect(said.late.total).toBe(['orders', 'rounds', 'bench'].reduce((sum, s) => sum + (stations[s]?.late ?? 0), 0));
      expect(said.overdue.total).toBe(stations['expected']?.late);
      const [counted] = await house.rows<{ late: number; overdue: number }>(
        `SELECT (SELECT count(*)::int FROM customer_order WHERE site_id = ? AND state = 'open' AND due < today_at(site_id)) AS late,
           (SELECT count(*)::int FROM purchase_order WHERE site_id = ? AND state = 'open' AND due < today_at(site_id)) AS overdue`,
        [site, site],
      );
      expect([said.late.total, said.overdue.total]).toEqual([counted?.late, counted?.overdue]);
      expect(said.late.rows.length).toBe(Math.min(12, said.late.total));
    }
    expect((await home(1)).late.total).toBeGreaterThan(12);
  });

  it('C9 what has expired is named until it is in quarantine; the act of the line moves it there', async () => {
    const before = (await home(1)).expired;
    const [first] = before.rows;
    if (!first?.to) throw new Error('The demo has nothing expired on its shelves.');
    const { address, to, code, lot, qty } = first;
    expect((await lead.ask('moves.move', { body: { from: address, to, code, lot, qty, reason: 'Expired' } })).status).toBe(200);
    const after = (await home(1)).expired;
    expect(after.total).toBe(before.total - 1);
    expect(after.rows.map((r) => r.balance)).not.toContain(first.balance);
    await house.expectCleanAudit();
  });

  it('a delivery that is handed in is to review and no longer at the dock', async () => {
    const [order] = await house.rows<{ number: string; code: string }>(
      `SELECT o.number, i.code FROM purchase_order o JOIN purchase_line l ON l.purchase_order_id = o.id JOIN item i ON i.id = l.item_id
       WHERE o.site_id = 1 AND o.state = 'open' AND i.tracking = 'none'
         AND NOT EXISTS (SELECT 1 FROM delivery_order d WHERE d.purchase_order_id = o.id AND d.open)
       LIMIT 1`,
    );
    const before = await row(1);
    const delivery = (await lead.ask('receiving.start', { body: { purchaseOrder: order?.number ?? '' } })).reply;
    expect((await row(1))['dock']?.waiting).toBe((before['dock']?.waiting ?? 0) + 1);
    await lead.ask('receiving.scan', { params: { id: delivery.id }, body: { code: order?.code ?? '' } });
    await lead.ask('receiving.finish', { params: { id: delivery.id } });
    const after = await row(1);
    expect(after['dock']?.waiting).toBe(before['dock']?.waiting);
    expect(after['review']?.waiting).toBe((before['review']?.waiting ?? 0) + 1);
  });

  it('what can be done now is ranked, and doing it takes it away', async () => {
    const act = async (name: string) => (await home(1)).now.find((n) => n.act === name);
    const { now, expired } = await home(1);
    expect(now.every((n) => n.count > 0)).toBe(true);
    // What is late at the bench is told before anything that is not late.
    expect(now.map((n) => n.act).indexOf('pack')).toBe(0);
    expect((await act('quarantine'))?.count).toBe(expired.total === 0 ? undefined : expired.total);
    const pick = await act('pick');
    const orders = pick?.of.map((o) => o.id) ?? [];
    const [open] = await house.rows<{ n: number }>(
      `SELECT count(*)::int AS n FROM order_line l LEFT JOIN promise p ON p.line_id = l.id JOIN customer_order o ON o.id = l.order_id
       WHERE o.id = ANY(?::int[]) AND (l.qty > l.shipped + coalesce(p.qty, 0) OR o.held_for IS NOT NULL OR o.due > today_at(o.site_id))`,
      [orders],
    );
    expect(orders.length).toBeGreaterThan(0);
    expect(open?.n).toBe(0);
    const made = await lead.ask('picking.make', { body: { orders: orders.slice(0, 1) } });
    expect([made.status, made.reply.missing]).toEqual([200, []]);
    expect((await act('pick'))?.count ?? 0).toBe((pick?.count ?? 0) - 1);
    const promise = await act('promise');
    await lead.ask('orders.promise', { body: { orders: promise?.of.map((o) => o.id) ?? [], mode: 'free' } });
    expect((await act('promise'))?.count ?? 0).toBeLessThan(promise?.count ?? 0);
  });

  it('B10 a hold past its day, A7 goods without a place and D4 a wrong label are told, each where it is wrong', async () => {
    const before = await home(1);
    const [item] = await house.rows<{ id: number; code: string; bin: number; address: string }>(
      `SELECT i.id, i.code, f.bin_id AS bin, f.address FROM stock_fact f JOIN item i ON i.id = f.item_id JOIN zone z ON z.id = f.zone_id
       WHERE f.site_id = 1 AND f.use = 'shelf' AND i.tracking = 'none' AND f.condition = 'sound' AND f.qty > 5 AND i.decimals = 0 LIMIT 1`,
    );
    const hold = await lead.ask('stock.hold', {
      body: { item: item?.id ?? 0, bin: item?.bin ?? 0, qty: '1', reason: 'Box is wet' } as never,
    });
    expect(hold.status).toBe(200);
    await house.rows(`UPDATE hold SET until = today_at(site_id) - 1 WHERE reason = 'Box is wet'`);
    expect(
      (await lead.ask('moves.move', { body: { from: item?.address ?? '', to: 'UNPLACED', code: item?.code ?? '', qty: '2' } })).status,
    ).toBe(200);
    await house.rows(`UPDATE zone SET shows_price = true WHERE id = (SELECT zone_id FROM bin WHERE id = ?)`, [item?.bin]);
    const after = await home(1);
    expect(after.pastHolds.total).toBe(before.pastHolds.total + 1);
    expect(after.pastHolds.rows.find((h) => h.reason === 'Box is wet')).toMatchObject({ by: 'Maren Oake' });
    expect(after.unplaced.rows).toContainEqual(expect.objectContaining({ code: item?.code, qty: '2' }));
    expect(after.wrongLabels.total).toBeGreaterThan(before.wrongLabels.total);
    expect(after.now.find((n) => n.act === 'label')?.count).toBe(after.wrongLabels.total);
    const told = await lead.ask('labels.wrong', { query: { limit: 500 } });
    expect(told.reply.total).toBe(after.wrongLabels.total);
  });

  it('the day so far is what the ledger says of it by the clock of the site, and what is undone is not counted', async () => {
    const day = async () => (await lead.ask('desk.day', {})).reply;
    const sum = (hours: readonly { kind: string; pieces: number }[], kind: string): number =>
      hours.filter((h) => h.kind === kind).reduce((n, h) => n + h.pieces, 0);
    const before = await day();
    const [ledger] = await house.rows<{ gone: number; received: number }>(
      `SELECT coalesce(sum(m.qty) FILTER (WHERE d.kind = 'shipment'), 0)::float AS gone,
         coalesce(sum(m.qty) FILTER (WHERE d.kind = 'receipt'), 0)::float AS received
       FROM movement m JOIN document d ON d.id = m.document_id JOIN site s ON s.id = d.site_id
       WHERE d.site_id = 1 AND (m.at AT TIME ZONE s.time_zone)::date = today_at(1) AND m.reverses IS NULL`,
    );
    expect([sum(before.hours, 'gone'), sum(before.hours, 'in')]).toEqual([ledger?.gone, ledger?.received]);
    expect(before.hours.every((h) => h.hour >= 0 && h.hour < 24)).toBe(true);
    expect(sum(before.usual, 'in')).toBeGreaterThan(0);
  });

  it('after any act, what its topics make home read again is all that the act has changed', async () => {
    const read = homeReader(house.db);
    const told = async (): Promise<number> =>
      (await house.rows<{ id: number }>(`SELECT coalesce(max(id), 0)::int AS id FROM outbox`))[0]?.id ?? 0;
    const one = async <Row>(sql: string): Promise<Row> => (await house.rows<Row>(sql))[0] as Row;
    const ask = async (...asked: Parameters<typeof lead.ask>) => {
      const answer = await lead.ask(...asked);
      expect([asked[0], answer.status]).toEqual([asked[0], 200]);
      return answer.reply as never as { id: number };
    };
    const shelf = await one<{ item: number; bin: number; zone: number; code: string; address: string }>(
      `SELECT f.item_id AS item, f.bin_id AS bin, f.zone_id AS zone, i.code, f.address FROM stock_fact f JOIN item i ON i.id = f.item_id
       WHERE f.site_id = 1 AND f.use = 'shelf' AND i.tracking = 'none' AND f.condition = 'sound' AND f.qty > 20 AND i.decimals = 0
         AND NOT EXISTS (SELECT 1 FROM hold_line h WHERE h.bin_id = f.bin_id) ORDER BY f.bin_id DESC LIMIT 1`,
    );
    const order = await one<{ id: number }>(
      `SELECT o.id
       FROM customer_order o
       JOIN order_at a ON a.order_id = o.id
       WHERE o.site_id = 1 AND a.station = 'orders' AND o.held_for IS NULL
         AND EXISTS (SELECT 1 FROM order_line l JOIN promise p ON p.line_id = l.id WHERE l.order_id = o.id) ORDER BY o.id DESC LIMIT 1`,
    );
    const bench = await one<{ id: number }>(`SELECT order_id AS id FROM order_at WHERE site_id = 1 AND station = 'bench' LIMIT 1`);
    const purchase = await one<{ number: string; code: string }>(
      `SELECT o.number, i.code FROM purchase_order o JOIN purchase_line l ON l.purchase_order_id = o.id JOIN item i ON i.id = l.item_id
       WHERE o.site_id = 1 AND o.state = 'open' AND i.tracking = 'none' AND l.qty > l.received
         AND NOT EXISTS (SELECT 1 FROM delivery_order d WHERE d.purchase_order_id = o.id AND d.open) LIMIT 1`,
    );
    const made: Record<string, number> = {};
    const pick = async () =>
      one<{ id: number; code: string }>(`SELECT k.id FROM round_pick k WHERE k.round_id = ${made['round']} ORDER BY k.id LIMIT 1`);
    const acts: Readonly<Record<string, () => Promise<unknown>>> = {
      move: () => ask('moves.move', { body: { from: shelf.address, to: 'UNPLACED', code: shelf.code, qty: '2' } }),
      price: () => ask('items.setAmount', { params: { id: shelf.item }, body: { kind: 'price', amount: '77.70', from: '2020-01-01' } }),
      hold: async () =>
        (made['hold'] = (await ask('stock.hold', { body: { item: shelf.item, bin: shelf.bin, qty: '1', reason: 'Wet' } })).id),
      release: () => ask('stock.release', { params: { id: made['hold'] ?? 0 }, body: { reason: 'Dry' } }),
      'hold an order': () => ask('orders.hold', { params: { id: order.id }, body: { reason: 'Unpaid' } }),
      'release an order': () => ask('orders.release', { params: { id: order.id } }),
      promise: () => ask('orders.promise', { body: { orders: [order.id], mode: 'free' } }),
      'make a round': async () => (made['round'] = (await ask('picking.make', { body: { orders: [order.id] } })).id),
      'take it': () => ask('picking.take', { params: { id: made['round'] ?? 0 } }),
      trouble: async () =>
        ask('picking.trouble', {
          params: { id: made['round'] ?? 0, pick: (await pick()).id } as never,
          body: { kind: 'notFound' } as never,
        }),
      settle: async () =>
        ask('picking.settle', {
          params: { id: (await one<{ id: number }>(`SELECT max(id) AS id FROM trouble WHERE settled_at IS NULL`)).id },
        }),
      'throw the round away': () => ask('picking.throwAway', { params: { id: made['round'] ?? 0 } }),
      pack: () => ask('shipping.pack', { params: { id: bench.id }, body: { parcels: 1 } }),
      ship: () => ask('shipping.ship', { params: { id: bench.id } }),
      'begin a delivery': async () => (made['delivery'] = (await ask('receiving.start', { body: { purchaseOrder: purchase.number } })).id),
      scan: () => ask('receiving.scan', { params: { id: made['delivery'] ?? 0 }, body: { code: purchase.code } }),
      'hand it in': () => ask('receiving.finish', { params: { id: made['delivery'] ?? 0 } }),
      'post it': () => ask('receiving.post', { params: { id: made['delivery'] ?? 0 } }),
      'plan a count': async () => (made['count'] = (await ask('counting.make', { body: { zone: shelf.zone, blind: true } })).id),
      'throw the count away': () => ask('counting.throwAway', { params: { id: made['count'] ?? 0 } }),
      'print a wrong label': async () => {
        const { labels } = (await lead.ask('labels.wrong', { query: { limit: 5 } })).reply;
        await ask('labels.print', { body: { kind: 'shelf', pairs: labels.map(({ bin, item }) => ({ bin, item })) } as never });
      },
    };
    await read(1, null);
    for (const [what, act] of Object.entries(acts)) {
      const since = await told();
      await act();
      const topics = await house.rows<{ topic: Topic }>(`SELECT DISTINCT topic FROM outbox WHERE id > ?`, [since]);
      const [byTopics, whole] = [await read(1, new Set(topics.map((t) => t.topic))), await homeReader(house.db)(1, null)];
      expect({ what, ...byTopics }).toEqual({ what, ...whole });
    }
    await house.expectCleanAudit();
  }, 60_000);
});
