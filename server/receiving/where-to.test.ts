import { beforeAll, describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { emptyBins, lyingOf } from '../testing/goods.ts';
import { openHand } from '../testing/hand.ts';
import { houseForTests } from '../testing/house.ts';

const { house, lead, hand } = houseForTests({ lead: 'Maren Oake', hand: 'Jory Penhale' });
let jory: number;
beforeAll(async () => {
  jory = (await house.rows<{ id: number }>(`SELECT id FROM person WHERE name = 'Jory Penhale'`))[0]?.id ?? 0;
});

let made = 0;
/** A delivery of a new item into which so many were scanned. */
async function arrived(packs: string, more: object = {}, tracking: 'none' | 'lotExpiry' = 'none') {
  made += 1;
  const code = `WHERE-${made}`;
  const { id: item } = (
    await lead.ask('items.make', { body: { code, description: code, group: 'Test', unit: 'each', decimals: 0, tracking } })
  ).reply;
  const { id: delivery } = (await hand.ask('receiving.start', { body: { supplier: 1 } })).reply;
  const scanned = await hand.ask('receiving.scan', { params: { id: delivery }, body: { code, packs, ...more } });
  return { item, code, delivery, entry: scanned.reply.entry.id };
}
type Arrived = Awaited<ReturnType<typeof arrived>>;
const place = (a: Arrived, bin: number | null, qty: string, entry = a.entry, who = hand) =>
  who.ask('receiving.place', { params: { id: a.delivery, entry }, body: { bin, qty } });
const post = (a: Arrived) => lead.ask('receiving.post', { params: { id: a.delivery }, body: {} });
const entries = async (a: Arrived) => (await lead.ask('receiving.delivery', { params: { id: a.delivery } })).reply.entryList;

describe('C10 where goods go that arrived', () => {
  it('a line is split over bins; what nobody placed lies at arrivals; what failed goes to quarantine from where it was put', async () => {
    const [x, y] = await emptyBins(house, 1, 2);
    const a = await arrived('12');
    expect((await place(a, x?.id ?? 0, '5')).status).toBe(200);
    expect((await place(a, y?.id ?? 0, '3')).status).toBe(200);
    const now = await entries(a);
    expect(now.map((e) => [e.qty, e.goesTo?.address ?? null]).sort()).toEqual(
      [
        ['4', null],
        ['5', x?.address],
        ['3', y?.address],
      ].sort(),
    );
    const atX = now.find((e) => e.goesTo?.bin === x?.id)?.id ?? 0;
    const reason = (await hand.ask('receiving.reasons', {})).reply.reasons[0]?.id ?? 0;
    const found = { checked: '5', failed: [{ reason, qty: '2' }], note: '' };
    await hand.ask('receiving.inspect', { params: { id: a.delivery, entry: atX }, body: found });
    expect((await place(a, y?.id ?? 0, '1', atX)).problem.code).toBe('receiving.lookedAt');
    expect((await post(a)).status).toBe(200);
    expect(await lyingOf(house, a.item)).toEqual({ ARRIVALS: 4, [x?.address ?? '']: 3, [y?.address ?? '']: 3, QUARANTINE: 2 });
    const back = await lead.ask('receiving.reverse', { params: { id: a.delivery, entry: atX }, body: { reason: 'Wrong pallet' } });
    expect(back.reply.broughtBack).toEqual([{ bin: 'QUARANTINE', qty: '2' }]);
    expect(await lyingOf(house, a.item)).toEqual({ ARRIVALS: 4, [y?.address ?? '']: 3 });
    await house.expectCleanAudit();
  });

  it('only shelves take goods, of this site, no more than there are, and none that expired; then nothing changes', async () => {
    const a = await arrived('4');
    const bin = async (where: string): Promise<number> =>
      (await house.rows<{ id: number }>(`SELECT id FROM bin WHERE ${where} AND retired_at IS NULL ORDER BY id LIMIT 1`))[0]?.id ?? 0;
    const [shelf] = await emptyBins(house, 1, 1);
    expect((await place(a, await bin(`site_id = 1 AND use = 'packing'`), '4')).problem.code).toBe('receiving.noPlaceFor');
    expect((await place(a, await bin(`site_id = 2 AND use = 'shelf'`), '4')).problem.code).toBe('people.otherSite');
    expect((await place(a, 999_999, '4')).problem.code).toBe('places.unknownBin');
    expect((await place(a, shelf?.id ?? 0, '5')).problem.code).toBe('receiving.moreThanEntry');
    expect((await place(a, shelf?.id ?? 0, '0')).problem.code).toBe('receiving.nothing');
    expect((await place(a, shelf?.id ?? 0, '0.5')).problem.code).toBe('receiving.tooFine');
    expect(await entries(a)).toMatchObject([{ qty: '4', goesTo: null }]);
    const old = await arrived('2', { lot: 'OLD', expires: '2020-01-31' }, 'lotExpiry');
    expect((await place(old, shelf?.id ?? 0, '2')).problem.code).toBe('receiving.expiredStays');
    // Handed in, it is the lead's; posted, it is moved.
    await hand.ask('receiving.finish', { params: { id: a.delivery } });
    expect((await place(a, shelf?.id ?? 0, '4')).problem.code).toBe('receiving.leadsNow');
    expect((await place(a, shelf?.id ?? 0, '4', a.entry, lead)).status).toBe(200);
    await place(a, null, '4', a.entry, lead);
    await post(a);
    expect(await lyingOf(house, a.item)).toEqual({ ARRIVALS: 4 });
    expect((await place(a, shelf?.id ?? 0, '4', a.entry, lead)).problem.code).toBe('receiving.notOpen');
  });

  it('a bin whose rule they break refuses the posting by name; another bin lets it through', async () => {
    const [shelf, other] = await emptyBins(house, 1, 2);
    await house.rows(`UPDATE bin SET capacity = 3 WHERE id = ?`, [shelf?.id]);
    const a = await arrived('5');
    await place(a, shelf?.id ?? 0, '5');
    expect((await post(a)).problem.detail).toContain(shelf?.address ?? '?');
    expect(await lyingOf(house, a.item)).toEqual({});
    await place(a, other?.id ?? 0, '5', a.entry, lead);
    expect((await post(a)).status).toBe(200);
    await house.rows(`UPDATE bin SET capacity = NULL WHERE id = ?`, [shelf?.id]);
  });

  it('is told by a device, whatever was said of the entry meanwhile', async () => {
    const [x] = await emptyBins(house, 1, 1);
    const a = await arrived('1');
    const device = await openHand(hand, jory);
    const enter = { kind: 'receive.enter', delivery: a.delivery, item: a.item, pack: 1, lot: null, expires: null, serial: null };
    const entry = device.does({ ...enter, qty: 9000, takeAnyway: true });
    const part = device.does({ kind: 'receive.where', delivery: a.delivery, entry, bin: x?.id, qty: 4000, stays: 5000 });
    device.does({ kind: 'receive.change', delivery: a.delivery, entry: part, qty: 3000 });
    expect((await device.tell()).map((o) => o.outcome)).toEqual(['done', 'done', 'done']);
    expect((await entries(a)).map((e) => e.qty).sort()).toEqual(['1', '3', '5']);
    // The lead said meanwhile that it is less: what does not add up is a clash, and nothing is invented.
    const own = (await entries(a)).find((e) => e.qty === '5')?.id ?? 0;
    await lead.ask('receiving.change', { params: { id: a.delivery, entry: own }, body: { qty: '2' } });
    device.does({ kind: 'receive.where', delivery: a.delivery, entry, bin: x?.id, qty: 4000, stays: 1000 });
    expect((await device.tell())[0]?.outcome).toBe('clash');
    expect((await entries(a)).map((e) => e.qty).sort()).toEqual(['1', '2', '3']);
  });

  it('however it is split and changed, what is posted is what the entries say, bin by bin', async () => {
    const bins = await emptyBins(house, 1, 3);
    const step = fc.record({ which: fc.nat(5), bin: fc.nat(3), qty: fc.integer({ min: 1, max: 6 }), change: fc.boolean() });
    await fc.assert(
      fc.asyncProperty(fc.array(step, { maxLength: 8 }), async (steps) => {
        const a = await arrived('10');
        for (const { which, bin, qty, change } of steps) {
          const all = await entries(a);
          const entry = all[which % all.length]?.id ?? 0;
          if (change) await hand.ask('receiving.change', { params: { id: a.delivery, entry }, body: { qty: String(qty) } });
          else await place(a, bins[bin]?.id ?? null, String(qty), entry);
        }
        const wanted: Record<string, number> = {};
        for (const e of await entries(a)) {
          const at = e.goesTo?.address ?? 'ARRIVALS';
          wanted[at] = (wanted[at] ?? 0) + Number(e.qty);
        }
        expect((await post(a)).status).toBe(200);
        expect(await lyingOf(house, a.item)).toEqual(wanted);
      }),
      { numRuns: 10 },
    );
    await house.expectCleanAudit();
  }, 60_000);
});
