import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import type { Client } from '../testing/client.ts';
import { openHouse, type TestHouse } from '../testing/house.ts';

let house: TestHouse;
let lead: Client;
beforeAll(async () => {
  house = await openHouse();
  lead = await house.signIn('Maren Oake');
});
afterAll(() => house.close());

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
    if (first?.mend.kind !== 'quarantine') throw new Error('The demo has nothing expired on its shelves.');
    const { from, to, code, lot, qty } = first.mend;
    expect((await lead.ask('moves.move', { body: { from, to, code, lot, qty, reason: 'Expired' } })).status).toBe(200);
    const after = (await home(1)).expired;
    expect(after.total).toBe(before.total - 1);
    expect(after.rows.map((r) => r.key)).not.toContain(first.key);
    await house.expectCleanAudit();
  });

  it('a delivery that is handed in is to review and no longer at the dock', async () => {
    const [order] = await house.rows<{ number: string; code: string }>(
      `SELECT o.number, i.code FROM purchase_order o JOIN purchase_line l ON l.purchase_order_id = o.id JOIN item i ON i.id = l.item_id
       WHERE o.site_id = 1 AND o.state = 'open' AND i.tracking = 'none' AND NOT EXISTS (SELECT 1 FROM delivery d WHERE d.purchase_order_id = o.id AND d.state <> 'posted') LIMIT 1`,
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
});
