import { describe, expect, it } from '@jest/globals';
import { houseForTests } from '../testing/house.ts';

const { house, lead, hand } = houseForTests({ lead: 'Maren Oake', hand: 'Tobin Sallow' });
const equation = async (item: number) => {
  const { sites } = (await hand.ask('stock.equation', { params: { id: item } })).reply;
  const [main] = sites;
  return { onHand: Number(main?.onHand), free: Number(main?.free), promised: Number(main?.promised), held: Number(main?.held) };
};
const goods = async () =>
  (
    await house.rows<{ item: number; code: string; bin: number; address: string; qty: number }>(
      `SELECT f.item_id AS item, i.code, f.bin_id AS bin, f.address, f.qty::int AS qty FROM stock_fact f JOIN item i ON i.id = f.item_id
       WHERE f.site_id = 1 AND f.use = 'shelf' AND f.condition = 'sound' AND i.tracking = 'none' AND i.decimals = 0 AND f.qty > 20
         AND NOT EXISTS (SELECT 1 FROM round_pick p WHERE p.bin_id = f.bin_id)
       ORDER BY f.address
       LIMIT 1`,
    )
  )[0] as { item: number; code: string; bin: number; address: string; qty: number };

describe('B10 holds', () => {
  it('a quantity in a bin is held on the ledger, is not free, cannot be picked from there, and comes back', async () => {
    const g = await goods();
    const before = await equation(g.item);
    const held = await hand.ask('stock.hold', {
      body: { item: g.item, bin: g.bin, qty: '8', reason: 'Lids look warped', until: '2031-01-31' },
    });
    expect(held.reply).toMatchObject({ qty: '8' });
    const during = await equation(g.item);
    expect(during.held).toBe(before.held + 8);
    expect(during.free + during.promised).toBe(before.free + before.promised - 8);
    expect(during.onHand).toBe(before.onHand);
    const list = (await hand.ask('stock.holds', { query: { item: g.item } })).reply.holds;
    expect(list).toMatchObject([
      { what: `${g.code} in ${g.address}`, qty: '8', reason: 'Lids look warped', until: '2031-01-31', released: null },
    ]);
    expect((await hand.ask('stock.release', { params: { id: held.reply.id }, body: { reason: 'fine' } })).status).toBe(403);
    expect((await lead.ask('stock.release', { params: { id: held.reply.id }, body: { reason: 'They close' } })).reply).toMatchObject({
      qty: '8',
      gone: '0',
    });
    expect((await equation(g.item)).held).toBe(before.held);
    expect((await lead.ask('stock.release', { params: { id: held.reply.id }, body: { reason: 'again' } })).problem.code).toBe(
      'stock.holdReleased',
    );
  });
  it('holding all of an item cuts the promises that it backed', async () => {
    const [p] = await house.rows<{ item: number }>(
      `SELECT p.item_id AS item
       FROM promise p
       JOIN item i ON i.id = p.item_id
       WHERE p.site_id = 1 AND NOT EXISTS (SELECT 1 FROM picked k WHERE k.item_id = p.item_id)
       LIMIT 1`,
    );
    const held = await lead.ask('stock.hold', { body: { item: p?.item ?? 0, reason: 'Recall' } });
    expect(held.reply.promisesCut).toBeGreaterThan(0);
    const now = await equation(p?.item ?? 0);
    expect(now.promised).toBe(0);
    expect(now.free).toBe(0);
    await house.expectCleanAudit();
  });
  it('held goods that were carried elsewhere are released where they are; what was taken away meanwhile is said', async () => {
    const g = await goods();
    const held = await lead.ask('stock.hold', { body: { bin: g.bin, reason: 'Smells of smoke' } });
    const sound = await house.rows(`SELECT 1 FROM balance WHERE bin_id = ? AND condition = 'sound' AND qty > 0`, [g.bin]);
    expect(sound).toHaveLength(0);
    await hand.ask('moves.move', { body: { from: g.address, to: 'QUARANTINE', code: g.code, qty: '3' } });
    expect((await lead.ask('stock.hold', { body: { bin: g.bin, qty: '1', reason: 'Twice' } })).problem.detail).toBe(
      `There is no sound stock of bin ${g.address} to hold.`,
    );
    const released = await lead.ask('stock.release', { params: { id: held.reply.id }, body: { reason: 'Aired' } });
    expect(released.reply).toMatchObject({ qty: held.reply.qty, gone: '0' });
    expect(
      await house.rows(
        `SELECT condition, qty::int AS qty FROM balance b JOIN bin ON bin.id = b.bin_id WHERE bin.address = 'QUARANTINE' AND b.item_id = ?`,
        [g.item],
      ),
    ).toEqual([{ condition: 'sound', qty: 3 }]);
  });
  it('a hold of a lot, a bin or an item holds what comes later too; one of some pieces holds only those', async () => {
    const g = await goods();
    const before = await equation(g.item);
    const all = (await lead.ask('stock.hold', { body: { item: g.item, reason: 'Recalled' } })).reply.id;
    expect((await equation(g.item)).free).toBe(0);
    const more = await lead.ask('stock.opening', {
      params: { id: g.item },
      body: { lines: [{ bin: g.address, qty: '3' }], reason: 'Found behind the shelf' },
    });
    expect(more.status).toBe(200);
    expect(await equation(g.item)).toMatchObject({ onHand: before.onHand + 3, free: 0 });
    await house.expectCleanAudit();
    await lead.ask('stock.release', { params: { id: all }, body: { reason: 'All well' } });
    const some = (await lead.ask('stock.hold', { body: { item: g.item, bin: g.bin, qty: '2', reason: 'Scratched' } })).reply.id;
    const free = (await equation(g.item)).free;
    await lead.ask('stock.opening', { params: { id: g.item }, body: { lines: [{ bin: g.address, qty: '1' }], reason: 'One more' } });
    expect((await equation(g.item)).free).toBe(free + 1);
    await lead.ask('stock.release', { params: { id: some }, body: { reason: 'All well' } });
  });
  it('two who hold the last pieces at once do not hold them twice', async () => {
    const g = await goods();
    const answers = await Promise.all(
      Array.from({ length: 4 }, () => lead.ask('stock.hold', { body: { item: g.item, bin: g.bin, qty: String(g.qty), reason: 'Race' } })),
    );
    expect(answers.filter((a) => a.status === 200)).toHaveLength(1);
  });
});

describe('B13 stock as of a past moment', () => {
  it('equals the plain sum of the ledger up to then, at every moment tried, by place and in all', async () => {
    const moments = await house.rows<{ at: Date }>(`SELECT at FROM movement ORDER BY random() LIMIT 6`);
    for (const { at } of moments) {
      const then = at.toISOString();
      const sum = await house.rows<{ code: string; bin: string; qty: string }>(
        `SELECT i.code, b.address AS bin, trim_scale(sum(m.qty))::text AS qty
         FROM (
           SELECT item_id, to_bin AS bin, qty
           FROM movement
           WHERE at <= ?
           UNION ALL SELECT item_id, from_bin, -qty
           FROM movement
           WHERE at <= ?
         ) m
           JOIN item i ON i.id = m.item_id
           JOIN bin b ON b.id = m.bin
           WHERE m.bin >= 100
           GROUP BY 1, 2, b.id
           HAVING sum(m.qty) <> 0
           ORDER BY 1, 2`,
        [then, then],
      );
      const listed = new Map<string, number>();
      let after: string | null = null;
      do {
        const {
          reply,
        }: { reply: { rows: { code: string; site: string | null; bin: string | null; qty: string }[]; next: string | null } } =
          await lead.ask('stock.list', {
            query: { at: then, by: 'place', limit: 200, ...(after ? { after } : {}) },
          });
        for (const r of reply.rows) listed.set(`${r.code}|${r.bin}`, (listed.get(`${r.code}|${r.bin}`) ?? 0) + Number(r.qty));
        after = reply.next;
      } while (after);
      expect(Object.fromEntries(listed)).toEqual(Object.fromEntries(sum.map((s) => [`${s.code}|${s.bin}`, Number(s.qty)])));
    }
  }, 30_000);
  it('the value by group, supplier and site is one and the same total, and each row of the list times its cost', async () => {
    const totals = await Promise.all(
      (['group', 'supplier', 'site'] as const).map(async (by) => (await lead.ask('stock.value', { query: { by } })).reply.total),
    );
    expect(new Set(totals).size).toBe(1);
    const [sum] = await house.rows<{ v: string }>(
      `SELECT sum(round(b.qty * amount_on(b.item_id, 'cost', current_date), 2))::text AS v FROM balance b`,
    );
    expect(totals[0]).toBe(sum?.v);
    expect((await hand.ask('stock.value', { query: {} })).status).toBe(403);
  });
});
