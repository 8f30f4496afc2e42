import { describe, expect, it } from '@jest/globals';
import type { Client } from '../testing/client.ts';
import { houseForTests } from '../testing/house.ts';

const { house, lead, hand } = houseForTests({ lead: 'Maren Oake', hand: 'Jory Penhale' });

describe('a delivery', () => {
  it('C3 C8 C14 is no stock until it is posted; an expired lot goes to quarantine; posting twice is refused', async () => {
    const [order] = await house.rows<{ number: string; id: number }>(
      `SELECT number, id FROM purchase_order WHERE state = 'open' ORDER BY id LIMIT 1`,
    );
    const lines = await house.rows<{ code: string; tracking: string; item: number }>(
      `SELECT i.code, i.tracking, i.id AS item FROM purchase_line l JOIN item i ON i.id = l.item_id WHERE l.purchase_order_id = ?`,
      [order?.id],
    );
    const dated = lines.find((l) => l.tracking === 'lotExpiry') ?? { code: '', item: 0 };
    const delivery = (await hand.ask('receiving.start', { body: { purchaseOrder: order?.number ?? '' } })).reply;
    expect((await lead.ask('receiving.start', { body: { purchaseOrder: order?.number ?? '' } })).reply.id).toBe(delivery.id);
    const scan = (body: { code: string; lot?: string; expires?: string; packs?: string; serial?: string }) =>
      hand.ask('receiving.scan', { params: { id: delivery.id }, body });
    expect((await scan({ code: dated.code, lot: 'OLD1' })).problem.code).toBe('receiving.dateWanted');
    expect((await scan({ code: dated.code, lot: 'OLD1', expires: '2020-01-31' })).reply.entry.expired).toBe(true);
    expect((await scan({ code: dated.code, lot: 'NEW1', expires: '2030-01-31', packs: '3' })).reply.line.arrived).toBe('4');
    const before = (await lead.ask('stock.equation', { params: { id: dated.item } })).reply.total;
    await hand.ask('receiving.finish', { params: { id: delivery.id } });
    expect((await hand.ask('receiving.post', { params: { id: delivery.id }, body: {} })).status).toBe(403);
    expect((await lead.ask('receiving.post', { params: { id: delivery.id }, body: {} })).reply).toMatchObject({
      pieces: '4',
      movements: 2,
      toQuarantine: 1,
    });
    expect((await lead.ask('receiving.post', { params: { id: delivery.id }, body: {} })).problem.code).toBe('receiving.notOpen');
    const after = (await lead.ask('stock.equation', { params: { id: dated.item } })).reply;
    expect(Number(after.total.onHand) - Number(before.onHand)).toBe(4);
    expect(Number(after.total.free) - Number(before.free)).toBe(3);
    expect(after.bins.filter((b) => b.lot === 'OLD1').map((b) => [b.address, b.part])).toEqual([['QUARANTINE', 'expired']]);
    await house.expectCleanAudit();
  });

  const day = (daysOn: number): string => new Date(Date.now() + daysOn * 86_400_000).toISOString().slice(0, 10);
  let made = 0;
  /** A purchase order of one new item, and a delivery of it that is being scanned. */
  async function arriving(tracking: 'none' | 'lotExpiry', ordered: number) {
    made += 1;
    const code = `ARR-${made}`;
    const { id } = (await lead.ask('items.make', { body: { code, description: code, group: 'Test', unit: 'each', decimals: 0, tracking } }))
      .reply;
    const [order] = await house.rows<{ id: number; number: string }>(
      `WITH o AS (
         INSERT INTO purchase_order (number, supplier_id, site_id, due)
         VALUES ('PO-T${made}', 1, 1, today_at(1) + 3)
         RETURNING id, number
       ), l AS (INSERT INTO purchase_line (purchase_order_id, item_id, qty) SELECT o.id, ?, ? FROM o)
       SELECT id, number
       FROM o`,
      [id, ordered],
    );
    const delivery = (await hand.ask('receiving.start', { body: { purchaseOrder: order?.number ?? '' } })).reply.id;
    const scan = (who: Client, more: { packs?: string; lot?: string; expires?: string; code?: string; takeAnyway?: boolean } = {}) =>
      who.ask('receiving.scan', { params: { id: delivery }, body: { code, ...more } });
    return { id, code, delivery, scan };
  }

  it('C7 C14 the receipt shows for ever what was expected when it was posted, and what was not ordered as that', async () => {
    const a = await arriving('none', 6);
    const b = await arriving('none', 5);
    await a.scan(hand, { packs: '4' });
    await a.scan(hand, { code: b.code, takeAnyway: true });
    await hand.ask('receiving.finish', { params: { id: a.delivery } });
    await lead.ask('receiving.post', { params: { id: a.delivery }, body: {} });
    const lines = async () =>
      (await lead.ask('receiving.delivery', { params: { id: a.delivery } })).reply.lines
        .map((l) => [l.code, l.expected, l.arrived, l.standing])
        .sort();
    const then = [
      [a.code, '6', '4', 'short'],
      [b.code, '0', '1', 'notOrdered'],
    ];
    expect(await lines()).toEqual(then);
    await house.rows(`UPDATE purchase_line SET qty = 40 WHERE item_id = ?`, [a.id]);
    expect(await lines()).toEqual(then);
    await house.rows(`UPDATE purchase_line SET qty = 6 WHERE item_id = ?`, [a.id]);
    await house.expectCleanAudit();
  });
  it('C8 one lot has one date: a second one is asked about where it is keyed, and again at posting', async () => {
    const first = await arriving('lotExpiry', 9);
    const [order] = await house.rows<{ number: string }>(
      `WITH o AS (
         INSERT INTO purchase_order (number, supplier_id, site_id, due)
         VALUES ('PO-T2ND', 1, 1, today_at(1) + 3)
         RETURNING id, number
       ), l AS (INSERT INTO purchase_line (purchase_order_id, item_id, qty) SELECT o.id, ?, 9 FROM o)
       SELECT number
       FROM o`,
      [first.id],
    );
    const second = (await hand.ask('receiving.start', { body: { purchaseOrder: order?.number ?? '' } })).reply.id;
    const scan = (delivery: number, expires: string) =>
      hand.ask('receiving.scan', { params: { id: delivery }, body: { code: first.code, lot: 'L9', expires } });
    expect((await scan(first.delivery, day(200))).status).toBe(200);
    expect((await scan(second, day(300))).problem).toMatchObject({ code: 'receiving.dateDiffers', known: day(200), given: day(300) });
    // Two who key at the same moment, or a fault of old: posting asks again.
    await house.rows(
      `INSERT INTO delivery_entry (delivery_id, item_id, qty, lot, expires, person_id, pack_id)
       SELECT ?, item_id, qty, lot, ?::date, person_id, pack_id
       FROM delivery_entry
       WHERE delivery_id = ?`,
      [second, day(300), first.delivery],
    );
    await hand.ask('receiving.finish', { params: { id: first.delivery } });
    await hand.ask('receiving.finish', { params: { id: second } });
    expect((await lead.ask('receiving.post', { params: { id: first.delivery }, body: {} })).status).toBe(200);
    expect((await lead.ask('receiving.post', { params: { id: second }, body: {} })).problem.code).toBe('receiving.dateDiffers');
    await lead.ask('receiving.lotDate', { body: { item: first.id, lot: 'L9', expires: day(200) } });
    expect((await lead.ask('receiving.post', { params: { id: second }, body: {} })).status).toBe(200);
    expect(await house.rows(`SELECT expires::text FROM lot WHERE item_id = ?`, [first.id])).toEqual([{ expires: day(200) }]);
    await house.expectCleanAudit();
  });
  it('C5 C6 an entry keeps what it was and who changed it; after hand-in it is the lead’s', async () => {
    const a = await arriving('none', 6);
    const { entry } = (await a.scan(hand, { packs: '4' })).reply;
    const change = (who: Client, qty: string) =>
      who.ask('receiving.change', { params: { id: a.delivery, entry: entry.id }, body: { qty } });
    expect((await change(hand, '5')).status).toBe(200);
    await hand.ask('receiving.finish', { params: { id: a.delivery } });
    expect((await change(hand, '6')).problem.code).toBe('receiving.leadsNow');
    expect((await hand.ask('receiving.takeOut', { params: { id: a.delivery, entry: entry.id } })).problem.code).toBe('receiving.leadsNow');
    expect((await change(lead, '6')).status).toBe(200);
    const [kept] = (await lead.ask('receiving.delivery', { params: { id: a.delivery } })).reply.entryList;
    expect(kept?.qty).toBe('6');
    expect(kept?.changes.map((c) => [c.by, c.was, c.now])).toEqual([
      ['Jory Penhale', '4', '5'],
      ['Maren Oake', '5', '6'],
    ]);
  });
  it('C5 a delivery that is thrown away is no stock, and can be taken up again', async () => {
    const a = await arriving('none', 3);
    await a.scan(hand, { packs: '3' });
    expect((await hand.ask('receiving.throwAway', { params: { id: a.delivery } })).problem.code).toBe('people.noRight');
    expect((await lead.ask('receiving.throwAway', { params: { id: a.delivery } })).status).toBe(200);
    expect((await lead.ask('receiving.post', { params: { id: a.delivery }, body: {} })).problem.code).toBe('receiving.notOpen');
    expect((await hand.ask('receiving.takeUp', { params: { id: a.delivery } })).status).toBe(200);
    expect((await a.scan(hand)).reply.line.arrived).toBe('4');
  });
});
