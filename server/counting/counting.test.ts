import { describe, expect, it } from '@jest/globals';
import { houseForTests } from '../testing/house.ts';

const { house, lead, hand } = houseForTests({ lead: 'Maren Oake', hand: 'Jory Penhale' });

describe('a count while work goes on', () => {
  it('J3 J5 J9 goods moved out before and after their bin was counted do not become differences; a missing one does', async () => {
    const [zone] = await house.rows<{ id: number }>(`SELECT id FROM zone WHERE code = 'PICK'`);
    const shelves = await house.rows<{ address: string; bin: number; code: string; qty: string }>(
      `SELECT f.address, f.bin_id AS bin, i.code, trim_scale(f.qty)::text AS qty
       FROM stock_fact f
       JOIN item i ON i.id = f.item_id
       WHERE f.zone_code = 'PICK' AND i.tracking = 'none' AND i.decimals = 0 AND f.qty > 6
         AND (SELECT count(*) FROM balance b WHERE b.bin_id = f.bin_id) = 1 ORDER BY f.walk LIMIT 3`,
    );
    const [first, second, third] = shelves as [(typeof shelves)[0], (typeof shelves)[0], (typeof shelves)[0]];
    const count = (await lead.ask('counting.make', { body: { zone: zone?.id ?? 0, blind: false } })).reply;
    expect((await lead.ask('counting.make', { body: { zone: zone?.id ?? 0, blind: true } })).problem.code).toBe('counting.zoneOpen');
    const move = (from: string, code: string, qty: string) => hand.ask('moves.move', { body: { from, to: 'QUARANTINE', code, qty } });
    const tally = (bin: string, code: string, qty: string) =>
      hand.ask('counting.tally', { params: { id: count.id }, body: { bin, code, qty } });
    await move(first.address, first.code, '2');
    await tally(first.address, first.code, String(Number(first.qty) - 2));
    await move(first.address, first.code, '1');
    await tally(second.address, second.code, String(Number(second.qty) - 3));
    await hand.ask('counting.verdict', { params: { id: count.id }, body: { bin: third.address, verdict: 'asExpected' } });
    expect((await tally('A-01-1', second.code, '1')).problem.code).toBe('counting.binNotInCount');
    const { rows } = (await lead.ask('counting.differences', { params: { id: count.id } })).reply;
    expect(rows.filter((r) => r.found !== null).map((r) => [r.address, r.difference])).toEqual(
      expect.arrayContaining([
        [first.address, '0'],
        [second.address, '-3'],
        [third.address, '0'],
      ]),
    );
    expect((await hand.ask('counting.post', { params: { id: count.id } })).status).toBe(403);
    expect((await lead.ask('counting.post', { params: { id: count.id } })).reply).toMatchObject({ adjusted: 1 });
    const [now] = await house.rows<{ n: string }>(`SELECT trim_scale(sum(qty))::text AS n FROM balance WHERE bin_id = ?`, [second.bin]);
    expect(now?.n).toBe(String(Number(second.qty) - 3));
    expect((await lead.ask('counting.post', { params: { id: count.id } })).problem.code).toBe('counting.notOpen');
    await house.expectCleanAudit();
  });
});

describe('a count of which one bin was counted', () => {
  it('J5 J9 leaves trouble, “last counted” and the zone’s turn of the others as they were; no verdict is taken blind', async () => {
    const [zone] = await house.rows<{ id: number }>(`SELECT id FROM zone WHERE code = 'STORE' AND site_id = 1`);
    const bins = await house.rows<{ id: number; address: string; code: string; item: number; qty: string }>(
      `SELECT DISTINCT ON (f.bin_id) f.bin_id AS id, f.address, i.code, i.id AS item, trim_scale(f.qty)::text AS qty
       FROM stock_fact f
       JOIN item i ON i.id = f.item_id
       WHERE f.zone_code = 'STORE' AND f.site_id = 1
         AND i.tracking = 'none' AND i.decimals = 0 AND (SELECT count(*) FROM balance b WHERE b.bin_id = f.bin_id) = 1
         ORDER BY f.bin_id
         LIMIT 2`,
    );
    const [looked, left] = bins;
    for (const b of bins)
      await house.rows(`INSERT INTO trouble (kind, bin_id, item_id, qty, person_id) VALUES ('short', ?, ?, 1, 1)`, [b.id, b.item]);
    const due = (): Promise<boolean> => lead.ask('desk.home').then((h) => h.reply.counts.rows.some((r) => r.zone === zone?.id));
    const wasDue = await due();
    const count = (await lead.ask('counting.make', { body: { zone: zone?.id ?? 0, blind: true } })).reply;
    const verdict = await hand.ask('counting.verdict', {
      params: { id: count.id },
      body: { bin: left?.address ?? '', verdict: 'asExpected' },
    });
    expect(verdict.problem.code).toBe('counting.blind');
    expect((await hand.ask('counting.takeOut', { params: { id: count.id, tally: 999_999 } })).problem.code).toBe('counting.unknownTally');
    await hand.ask('counting.tally', {
      params: { id: count.id },
      body: { bin: looked?.address ?? '', code: looked?.code ?? '', qty: looked?.qty ?? '0' },
    });
    const posted = (await lead.ask('counting.post', { params: { id: count.id }, body: {} })).reply;
    expect(posted).toMatchObject({ adjusted: 0 });
    expect(posted.uncounted).toBeGreaterThan(0);
    const open = await house.rows<{ bin_id: number }>(`SELECT bin_id FROM trouble WHERE settled_at IS NULL AND bin_id = ANY(?::int[])`, [
      bins.map((b) => b.id),
    ]);
    expect(open.map((t) => t.bin_id)).toEqual([left?.id]);
    const neverCounted = async (address: string): Promise<boolean> =>
      (await lead.ask('places.bins', { query: { q: address, show: 'neverCounted' } })).reply.bins.some((x) => x.address === address);
    expect(await neverCounted(looked?.address ?? '')).toBe(false);
    expect(await neverCounted(left?.address ?? '')).toBe(true);
    expect(await due()).toBe(wasDue);
  });
  it('A5 J9 what lies there against a rule is posted with a reason, and the ledger keeps it', async () => {
    const zone = (await lead.ask('places.makeZone', { body: { code: 'RULED', name: 'Ruled', purpose: 'storage' } })).reply.id;
    const bin = (await lead.ask('places.makeBin', { body: { zone, address: 'RULED1' } })).reply;
    await house.rows(`UPDATE bin SET capacity = 2 WHERE id = ?`, [bin.id]);
    const count = (await lead.ask('counting.make', { body: { zone, blind: true } })).reply;
    await hand.ask('counting.tally', { params: { id: count.id }, body: { bin: 'RULED1', code: 'HV-10', qty: '5' } });
    const post = (override?: string) => lead.ask('counting.post', { params: { id: count.id }, body: override ? { override } : {} });
    expect((await post()).status).toBe(409);
    const posted = (await post('It stands on the floor before it')).reply;
    const [movement] = await house.rows<{ reason: string; qty: number }>(
      `SELECT m.reason, m.qty::int AS qty FROM movement m JOIN document d ON d.id = m.document_id WHERE d.number = ?`,
      [posted.document],
    );
    expect(movement).toEqual({ reason: `Counted in ${count.number}, rule overridden: It stands on the floor before it`, qty: 5 });
    await house.expectCleanAudit();
  });
  it('J9 a count that is thrown away can be taken up again', async () => {
    const [zone] = await house.rows<{ id: number }>(`SELECT id FROM zone WHERE code = 'COLD' AND site_id = 1`);
    const count = (await lead.ask('counting.make', { body: { zone: zone?.id ?? 0, blind: true } })).reply;
    expect((await hand.ask('counting.throwAway', { params: { id: count.id } })).status).toBe(403);
    expect((await lead.ask('counting.throwAway', { params: { id: count.id } })).status).toBe(200);
    expect((await lead.ask('counting.post', { params: { id: count.id }, body: {} })).problem.code).toBe('counting.notOpen');
    expect((await lead.ask('counting.takeUp', { params: { id: count.id } })).status).toBe(200);
    expect((await lead.ask('counting.takeUp', { params: { id: count.id } })).problem.code).toBe('counting.notThrown');
  });
});
