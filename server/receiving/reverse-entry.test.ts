import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { emptyBins, lyingOf } from '../testing/goods.ts';
import { houseForTests } from '../testing/house.ts';

const { house, lead, hand } = houseForTests({ lead: 'Maren Oake', hand: 'Jory Penhale' });

let made = 0;
type Posted = { item: number; code: string; order: number; delivery: number; entries: number[] };
/** An order of `ordered` of a new item, of which so many were received in these entries and posted. */
async function posted(ordered: string, entries: readonly object[], tracking: 'none' | 'lotExpiry' | 'serial' = 'none'): Promise<Posted> {
  made += 1;
  const code = `BACK-${made}`;
  const { id: item } = (
    await lead.ask('items.make', { body: { code, description: code, group: 'Test', unit: 'each', decimals: 0, tracking } })
  ).reply;
  const { id: order } = (await lead.ask('purchasing.make', { body: { supplier: 1, due: '2030-01-31', lines: [{ item, qty: ordered }] } }))
    .reply;
  await lead.ask('purchasing.approve', { params: { id: order }, body: { version: 1 } });
  const { id: delivery } = (await lead.ask('receiving.start', { body: { orders: [order] } })).reply;
  const ids = [];
  for (const entry of entries) {
    const scanned = await hand.ask('receiving.scan', { params: { id: delivery }, body: { code, ...entry } });
    ids.push(scanned.reply.entry.id);
  }
  await hand.ask('receiving.finish', { params: { id: delivery } });
  await lead.ask('receiving.post', { params: { id: delivery }, body: {} });
  return { item, code, order, delivery, entries: ids };
}
const reverse = (p: Posted, n: number, who = lead) =>
  who.ask('receiving.reverse', { params: { id: p.delivery, entry: p.entries[n] ?? 0 }, body: { reason: 'Another pallet' } });
const line = async (p: Posted): Promise<unknown> =>
  (
    await house.rows(
      `SELECT l.received::int AS received, o.state FROM purchase_line l JOIN purchase_order o ON o.id = l.purchase_order_id WHERE o.id = ?`,
      [p.order],
    )
  )[0];

describe('C13 a line of a posted receipt', () => {
  it('is reversed alone: stock, what the order got, and what is expected again; the receipt says so', async () => {
    const p = await posted('10', [{ packs: '4' }, { packs: '6' }]);
    expect(await line(p)).toEqual({ received: 10, state: 'closed' });
    const done = await reverse(p, 1);
    expect(done.reply).toMatchObject({ broughtBack: [] });
    expect(await lyingOf(house, p.item)).toEqual({ ARRIVALS: 4 });
    expect(await line(p)).toEqual({ received: 4, state: 'open' });
    const { entryList, lines } = (await lead.ask('receiving.delivery', { params: { id: p.delivery } })).reply;
    expect(lines).toMatchObject([{ expected: '10', arrived: '4', standing: 'short' }]);
    expect(entryList.map((e) => [e.qty, e.reversed?.why ?? null])).toEqual([
      ['6', 'Another pallet'],
      ['4', null],
    ]);
    expect((await reverse(p, 1)).problem.detail).toContain(`was reversed before, by ${done.reply.number}`);
    expect((await lead.ask('stock.equation', { params: { id: p.item } })).reply.total).toMatchObject({ onHand: '4', onOrder: '6' });
    await house.expectCleanAudit();
  });

  it('comes back from where it was put away; from what was picked, held or gone it does not', async () => {
    const p = await posted('9', [{ packs: '9' }]);
    const [a, b] = await emptyBins(house, 1, 2);
    for (const [to, qty] of [
      [a?.address, '5'],
      [b?.address, '3'],
    ] as const)
      await lead.ask('moves.move', { body: { from: 'ARRIVALS', to: to ?? '', code: p.code, qty } as never });
    const { number } = (await reverse(p, 0)).reply;
    expect(await lyingOf(house, p.item)).toEqual({});
    const movements = await house.rows(
      `SELECT f.address AS from, t.address AS to, m.qty::int AS qty, m.reverses IS NOT NULL AS reverses
       FROM movement m JOIN document d ON d.id = m.document_id JOIN bin f ON f.id = m.from_bin JOIN bin t ON t.id = m.to_bin
       WHERE d.number = ? ORDER BY m.id`,
      [number],
    );
    expect(movements).toEqual([
      { from: a?.address, to: 'ARRIVALS', qty: 5, reverses: false },
      { from: b?.address, to: 'ARRIVALS', qty: 3, reverses: false },
      { from: 'ARRIVALS', to: 'Suppliers', qty: 9, reverses: true },
    ]);
    const held = await posted('4', [{ packs: '4' }]);
    await lead.ask('stock.hold', { body: { item: held.item, qty: '1', reason: 'Dented' } });
    const refused = await reverse(held, 0);
    expect(refused.problem.detail).toContain('only 3 are free to go back');
    expect(await lyingOf(house, held.item)).toEqual({ ARRIVALS: 4 });
    expect(await line(held)).toEqual({ received: 4, state: 'closed' });
    await house.expectCleanAudit();
  });

  it('takes promises with it, and is the lead’s alone', async () => {
    const p = await posted('5', [{ packs: '5' }]);
    const [a] = await emptyBins(house, 1, 1);
    await lead.ask('moves.move', { body: { from: 'ARRIVALS', to: a?.address ?? '', code: p.code, qty: '5' } as never });
    const order = (await lead.ask('orders.make', { body: { customer: 1, due: '2030-01-01', lines: [{ item: p.item, qty: '5' }] } })).reply;
    await lead.ask('orders.promise', { body: { orders: [order.id], mode: 'free' } });
    expect((await reverse(p, 0, hand)).status).toBe(403);
    expect((await reverse(p, 0)).status).toBe(200);
    expect(await house.rows(`SELECT 1 FROM promise WHERE item_id = ?`, [p.item])).toEqual([]);
    await house.expectCleanAudit();
  });

  it('serials and expired lots go back from where each was received', async () => {
    const s = await posted('2', [{ serial: 'BK-1' }, { serial: 'BK-2' }], 'serial');
    await reverse(s, 0);
    expect(await house.rows(`SELECT serial FROM stock_fact WHERE item_id = ?`, [s.item])).toEqual([{ serial: 'BK-2' }]);
    const x = await posted('3', [{ packs: '3', lot: 'OLD', expires: '2020-01-31' }], 'lotExpiry');
    expect(await lyingOf(house, x.item)).toEqual({ QUARANTINE: 3 });
    expect((await reverse(x, 0)).status).toBe(200);
    expect(await lyingOf(house, x.item)).toEqual({});
    // What went back may come again.
    const again = await posted('1', [{ serial: 'BK-9' }], 'serial');
    await reverse(again, 0);
    const { id } = (await lead.ask('receiving.start', { body: { orders: [again.order] } })).reply;
    expect((await hand.ask('receiving.scan', { params: { id }, body: { code: again.code, serial: 'BK-9' } })).status).toBe(200);
    await house.expectCleanAudit();
  });

  it('law: lines are reversed while others put away, move and reverse too: each once, and the order got what stands', async () => {
    const act = fc.oneof(
      fc.record({ kind: fc.constant('reverse' as const), n: fc.integer({ min: 0, max: 3 }) }),
      fc.record({ kind: fc.constant('move' as const), qty: fc.integer({ min: 1, max: 6 }) }),
    );
    await fc.assert(
      fc.asyncProperty(fc.array(fc.array(act, { minLength: 2, maxLength: 4 }), { minLength: 1, maxLength: 3 }), async (rounds) => {
        const sizes = [3, 5, 2, 4];
        const p = await posted(
          '12',
          sizes.map((n) => ({ packs: String(n), takeAnyway: true })),
        );
        const [bin] = await emptyBins(house, 1, 1);
        const reversed = new Set<number>();
        for (const acts of rounds) {
          const answers = await Promise.all(
            acts.map(async (a) => {
              if (a.kind === 'move')
                await lead.ask('moves.move', {
                  body: { from: 'ARRIVALS', to: bin?.address ?? '', code: p.code, qty: String(a.qty) } as never,
                });
              return a.kind === 'reverse' && (await reverse(p, a.n)).status === 200 ? [a.n] : [];
            }),
          );
          for (const n of answers.flat()) {
            expect(reversed.has(n)).toBe(false);
            reversed.add(n);
          }
          // What could be reversed at all was reversed by somebody.
          for (const a of acts) if (a.kind === 'reverse') expect(reversed.has(a.n)).toBe(true);
        }
        const stands = sizes.reduce((sum, n, i) => sum + (reversed.has(i) ? 0 : n), 0);
        const lying = Object.values(await lyingOf(house, p.item)).reduce((a, b) => a + b, 0);
        expect(lying).toBe(stands);
        expect(await line(p)).toMatchObject({ received: stands, state: stands >= 12 ? 'closed' : 'open' });
      }),
      { numRuns: 10 },
    );
    await house.expectCleanAudit();
  }, 60_000);
});
