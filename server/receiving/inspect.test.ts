import { beforeAll, describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import sharp from 'sharp';
import { withCheckDigit } from '#core/items';
import { deleteWhatIsPast } from '#server/kernel';
import { emptyBins, lyingOf } from '../testing/goods.ts';
import { openHand } from '../testing/hand.ts';
import { houseForTests } from '../testing/house.ts';

const { house, lead, hand } = houseForTests({ lead: 'Maren Oake', hand: 'Jory Penhale' });
let jory: number;
const reasons = new Map<string, number>();
beforeAll(async () => {
  jory = (await house.rows<{ id: number }>(`SELECT id FROM person WHERE name = 'Jory Penhale'`))[0]?.id ?? 0;
  for (const r of (await hand.ask('receiving.reasons', {})).reply.reasons) reasons.set(r.name, r.id);
});

let made = 0;
type Arrived = { item: number; code: string; delivery: number; entry: number };
/** A delivery into which so many of a new item were scanned. */
async function arrived(packs: string, more: object = {}, tracking: 'none' | 'lotExpiry' | 'serial' = 'none'): Promise<Arrived> {
  made += 1;
  const code = `SEEN-${made}`;
  const { id: item } = (
    await lead.ask('items.make', { body: { code, description: code, group: 'Test', unit: 'each', decimals: 0, tracking } })
  ).reply;
  const { id: delivery } = (await hand.ask('receiving.start', { body: { supplier: 1 } })).reply;
  const scanned = await hand.ask('receiving.scan', { params: { id: delivery }, body: { code, packs, ...more } });
  return { item, code, delivery, entry: scanned.reply.entry.id };
}
const looked = (a: Arrived, checked: string, failed: Record<string, string> = {}, who = hand) =>
  who.ask('receiving.inspect', {
    params: { id: a.delivery, entry: a.entry },
    body: {
      checked,
      failed: Object.entries(failed).map(([name, qty]) => ({ reason: reasons.get(name) ?? 9999, qty })),
      note: '',
    },
  });
const post = (a: Arrived) => lead.ask('receiving.post', { params: { id: a.delivery }, body: {} });
const parts = async (a: Arrived) =>
  Object.fromEntries(
    (
      await house.rows<{ address: string; condition: string; qty: number }>(
        `SELECT address, condition, qty::int AS qty FROM stock_fact WHERE item_id = ? AND qty <> 0 ORDER BY address, condition`,
        [a.item],
      )
    ).map((r) => [`${r.address} ${r.condition}`, r.qty]),
  );

describe('C11 goods that are looked at before they are stock', () => {
  it('what failed comes in with the rest and goes to quarantine on the same receipt, with its reason; it is not free', async () => {
    const a = await arrived('10');
    expect((await looked(a, '10', { damaged: '2', dirty: '1' })).reply).toEqual({ document: null, failed: '3' });
    expect((await post(a)).reply).toMatchObject({ pieces: '10', movements: 1, failed: '3' });
    expect(await parts(a)).toEqual({ 'ARRIVALS sound': 7, 'QUARANTINE failed': 3 });
    expect((await lead.ask('stock.equation', { params: { id: a.item } })).reply.total).toMatchObject({ onHand: '10', free: '7' });
    const told = await house.rows<{ reason: string }>(`SELECT reason FROM movement WHERE item_id = ? AND to_condition = 'failed'`, [
      a.item,
    ]);
    expect(told[0]?.reason).toMatch(/^Failed on DL-\d+: damaged 2, dirty 1$/);
    const [entry] = (await lead.ask('receiving.delivery', { params: { id: a.delivery } })).reply.entryList;
    expect(entry?.finding).toMatchObject({ checked: '10', by: 'Jory Penhale' });
    await house.expectCleanAudit();
  });

  it('goods under a hold that stands come in held; what failed of them fails all the same, and a reversal takes both back', async () => {
    const a = await arrived('9');
    await looked(a, '9', { damaged: '2' });
    const hold = await lead.ask('stock.hold', { body: { item: a.item, reason: 'Recalled' } });
    expect(hold.status).toBe(200);
    expect((await post(a)).reply).toMatchObject({ pieces: '9', failed: '2' });
    expect(await parts(a)).toEqual({ 'ARRIVALS held': 7, 'QUARANTINE failed': 2 });
    await house.expectCleanAudit();
    const back = { params: { id: a.delivery, entry: a.entry }, body: { reason: 'Another pallet' } };
    expect((await lead.ask('receiving.reverse', back)).reply.broughtBack).toEqual([{ bin: 'QUARANTINE', qty: '2' }]);
    expect(await lyingOf(house, a.item)).toEqual({});
    await house.expectCleanAudit();
  });

  it('the last finding stands; a serial fails whole; what expired lies in quarantine anyhow', async () => {
    const a = await arrived('6');
    await looked(a, '6', { damaged: '4' });
    await looked(a, '6', { 'wrong size': '1' });
    await post(a);
    expect(await parts(a)).toEqual({ 'ARRIVALS sound': 5, 'QUARANTINE failed': 1 });
    const s = await arrived('1', { serial: `SN-${made}` }, 'serial');
    await looked(s, '1', { dirty: '1' });
    await post(s);
    expect(await parts(s)).toEqual({ 'QUARANTINE failed': 1 });
    const old = await arrived('3', { lot: 'OLD', expires: '2020-01-31' }, 'lotExpiry');
    await looked(old, '3', { damaged: '2' });
    expect((await post(old)).reply.failed).toBe('0');
    expect(await parts(old)).toEqual({ 'QUARANTINE failed': 3 });
    await house.expectCleanAudit();
  });

  it('whichever of several goods failed, also in a pallet: the delivery is posted, and each lies where it belongs', async () => {
    for (const bad of [[0], [1], [2], [0, 2], [1, 2], [0, 1, 2]]) {
      const goods = [await arrived('5'), await arrived('5'), await arrived('5')];
      const [into] = goods as [Arrived, ...Arrived[]];
      const all: Arrived[] = [into];
      for (const g of goods.slice(1)) {
        const scanned = await hand.ask('receiving.scan', { params: { id: into.delivery }, body: { code: g.code, packs: '5' } });
        all.push({ ...g, delivery: into.delivery, entry: scanned.reply.entry.id });
      }
      const sscc = withCheckDigit(`39520005${String(made).padStart(9, '0')}`);
      await house.rows(`UPDATE delivery_entry SET sscc = ? WHERE delivery_id = ? AND item_id >= ?`, [sscc, into.delivery, all[1]?.item]);
      for (const n of bad) expect((await looked(all[n] as Arrived, '5', { damaged: '2' })).status).toBe(200);
      expect((await post(into)).status).toBe(200);
      for (const [n, g] of all.entries())
        expect(await parts(g)).toEqual(bad.includes(n) ? { 'ARRIVALS sound': 3, 'QUARANTINE failed': 2 } : { 'ARRIVALS sound': 5 });
    }
    await house.expectCleanAudit();
  });
  it('cannot be what it cannot be, and then nothing changes', async () => {
    const a = await arrived('4');
    expect((await looked(a, '5')).problem.detail).toContain('4 arrived here, so 5 cannot');
    expect((await looked(a, '2', { damaged: '3' })).problem.code).toBe('receiving.failedTooMany');
    expect((await looked(a, '4', { damaged: '0.5' })).problem.code).toBe('receiving.tooFine');
    expect((await looked(a, '4', { invented: '1' })).problem.code).toBe('receiving.unknownReason');
    await looked(a, '4', { damaged: '3' });
    const change = await hand.ask('receiving.change', { params: { id: a.delivery, entry: a.entry }, body: { qty: '2' } });
    expect(change.problem.code).toBe('receiving.failedTooMany');
    const office = await house.signIn('Odile Wrack');
    expect((await looked(a, '4', {}, office)).status).toBe(403);
    await lead.ask('receiving.throwAway', { params: { id: a.delivery } });
    expect((await looked(a, '4')).problem.code).toBe('receiving.notOpen');
  });
});

describe('C11 goods that are looked at when they are stock', () => {
  it('go to quarantine from wherever they were put, and come back when they were sound after all', async () => {
    const a = await arrived('10');
    await post(a);
    const [bin] = await emptyBins(house, 1, 1);
    await lead.ask('moves.move', { body: { from: 'ARRIVALS', to: bin?.address ?? '', code: a.code, qty: '7' } as never });
    const found = await looked(a, '10', { damaged: '5' });
    expect(found.reply.document).toMatch(/^IN-/);
    expect(await parts(a)).toEqual({ [`${bin?.address} sound`]: 5, 'QUARANTINE failed': 5 });
    await looked(a, '10', { damaged: '2' });
    expect(await parts(a)).toEqual({ 'ARRIVALS sound': 3, [`${bin?.address} sound`]: 5, 'QUARANTINE failed': 2 });
    // The document is not undone: another finding is said.
    const [row] = await house.rows<{ id: number }>(`SELECT id FROM document WHERE number = ?`, [found.reply.document]);
    expect((await lead.ask('stock.undo', { params: { id: row?.id ?? 0 }, body: { reason: 'no' } })).status).toBe(403);
    await house.expectCleanAudit();
  });

  it('do not fail when they are picked, held or gone: then nothing changes', async () => {
    const a = await arrived('4');
    await post(a);
    await lead.ask('stock.hold', { body: { item: a.item, qty: '3', reason: 'Dented' } });
    const refused = await looked(a, '4', { damaged: '2' });
    expect(refused.problem.code).toBe('receiving.notAllHere');
    const [entry] = (await lead.ask('receiving.delivery', { params: { id: a.delivery } })).reply.entryList;
    expect(entry?.finding).toBeNull();
  });

  it('a line that is reversed takes what failed of it back too; what was thrown out meanwhile stands against it', async () => {
    const reverse = (x: Arrived) =>
      lead.ask('receiving.reverse', { params: { id: x.delivery, entry: x.entry }, body: { reason: 'Another pallet' } });
    const a = await arrived('5');
    await looked(a, '5', { damaged: '2' });
    await post(a);
    expect((await reverse(a)).reply.broughtBack).toEqual([{ bin: 'QUARANTINE', qty: '2' }]);
    expect(await lyingOf(house, a.item)).toEqual({});
    expect((await looked(a, '5')).problem.code).toBe('receiving.reversed');
    const b = await arrived('5');
    await looked(b, '5', { damaged: '2' });
    await post(b);
    const gone = await lead.ask('stock.adjust', {
      params: { id: b.item },
      body: { bin: 'QUARANTINE', way: 'minus', qty: '2', condition: 'failed', reason: 'Thrown out' },
    });
    expect(gone.status).toBe(200);
    expect((await reverse(b)).problem.detail).toContain('only 3 are free to go back');
    await house.expectCleanAudit();
  });

  it('whatever is found, put away and reversed in whatever order: as many lie failed as the findings that stand say', async () => {
    const [bin] = await emptyBins(house, 1, 1);
    const step = fc.oneof(
      fc.record({ kind: fc.constant('look' as const), which: fc.nat(2), failed: fc.nat(6) }),
      fc.record({ kind: fc.constant('put' as const), which: fc.constant(0), failed: fc.integer({ min: 1, max: 4 }) }),
      fc.record({ kind: fc.constant('post' as const), which: fc.nat(2), failed: fc.constant(0) }),
      fc.record({ kind: fc.constant('reverse' as const), which: fc.nat(2), failed: fc.constant(0) }),
    );
    await fc.assert(
      fc.asyncProperty(fc.array(step, { maxLength: 12 }), async (steps) => {
        const first = await arrived('4');
        const all = [first];
        for (const packs of ['5', '3']) {
          const { id } = (await hand.ask('receiving.start', { body: { supplier: 1 } })).reply;
          const scanned = await hand.ask('receiving.scan', { params: { id }, body: { code: first.code, packs } });
          all.push({ ...first, delivery: id, entry: scanned.reply.entry.id });
        }
        for (const { kind, which, failed } of steps) {
          const a = all[which] as Arrived;
          if (kind === 'look') await looked(a, String(failed), failed > 0 ? { damaged: String(failed) } : {});
          else if (kind === 'post') await post(a);
          else if (kind === 'put')
            await lead.ask('moves.move', {
              body: { from: 'ARRIVALS', to: bin?.address ?? '', code: a.code, qty: String(failed) } as never,
            });
          else await lead.ask('receiving.reverse', { params: { id: a.delivery, entry: a.entry }, body: { reason: 'back' } });
        }
        const [stands] = await house.rows<{ failed: number; onhand: number }>(
          `SELECT coalesce(sum(f.failed), 0)::int AS failed, sum(e.qty)::int AS onhand
           FROM delivery_entry e LEFT JOIN finding f ON f.entry_id = e.id
           WHERE e.item_id = ? AND e.movement_id IS NOT NULL AND e.reversal_id IS NULL`,
          [first.item],
        );
        const lying = await parts(first);
        expect(lying['QUARANTINE failed'] ?? 0).toBe(stands?.failed ?? 0);
        expect(Object.values(lying).reduce((x, y) => x + y, 0)).toBe(stands?.onhand ?? 0);
      }),
      { numRuns: 15 },
    );
    await house.expectCleanAudit();
  }, 60_000);
});

describe('C11 told by a device', () => {
  it('a finding and its pictures follow their entry, whenever they are told; the journal keeps no bytes', async () => {
    const a = await arrived('1');
    const device = await openHand(hand, jory);
    const entry = device.does({
      kind: 'receive.enter',
      delivery: a.delivery,
      item: a.item,
      pack: 1,
      qty: 6000,
      lot: null,
      expires: null,
      serial: null,
      takeAnyway: true,
    });
    const failed = [{ reason: reasons.get('damaged') ?? 0, qty: 2000 }];
    device.does({ kind: 'receive.inspect', delivery: a.delivery, entry, checked: 6000, failed, note: 'lids bent' });
    const picture = await sharp({ create: { width: 300, height: 200, channels: 3, background: '#804000' } })
      .jpeg()
      .toBuffer();
    const photo = device.does({ kind: 'receive.photo', delivery: a.delivery, entry, jpeg: picture.toString('base64') });
    expect((await device.tell()).map((o) => o.outcome)).toEqual(['done', 'done', 'done']);
    const told = (await lead.ask('receiving.delivery', { params: { id: a.delivery } })).reply.entryList.find((e) => e.qty === '6');
    expect(told?.finding).toMatchObject({ note: 'lids bent', failed: [{ qty: '2' }] });
    expect(told?.photos).toHaveLength(1);
    expect((await hand.raw(`/api/files/${told?.photos[0]}`)).headers.get('content-type')).toBe('image/webp');
    expect(await house.rows(`SELECT does ? 'jpeg' AS held FROM hand_act WHERE key = ?`.replace('?', '\\?'), [photo])).toEqual([
      { held: false },
    ]);
    // The house is tidied; pictures of goods stay, and what is past goes all the same.
    await house.rows(`UPDATE file SET at = now() - interval '20 days'`);
    await house.rows(
      `INSERT INTO file (name, type, size, sha256, bytes, person_id, at)
       VALUES ('x.csv', 'text/csv', 1, 'x', 'x', 1, now() - interval '20 days')`,
    );
    await deleteWhatIsPast(house.db);
    expect((await hand.raw(`/api/files/${told?.photos[0]}`)).status).toBe(200);
    expect(await house.rows(`SELECT 1 FROM file WHERE sha256 = 'x'`)).toEqual([]);
    const text = device.does({ kind: 'receive.photo', delivery: a.delivery, entry, jpeg: Buffer.from('no picture').toString('base64') });
    const [outcome] = await device.tell();
    expect(outcome?.outcome).toBe('clash');
    expect(outcome?.says).toContain('is not a picture that can be opened');
    device.forget(text);
  });
});

describe('C11 what was looked at after the delivery was posted', () => {
  it('is found in the delivery that follows it, once the lead has entered the goods there', async () => {
    const a = await arrived('1');
    const device = await openHand(hand, jory);
    const entry = device.does({
      kind: 'receive.enter',
      delivery: a.delivery,
      item: a.item,
      pack: 1,
      qty: 3000,
      lot: null,
      expires: null,
      serial: null,
      takeAnyway: true,
    });
    const failed = [{ reason: reasons.get('damaged') ?? 0, qty: 1000 }];
    const found = device.does({ kind: 'receive.inspect', delivery: a.delivery, entry, checked: 3000, failed, note: '' });
    await post(a);
    expect((await device.tell()).map((o) => o.outcome)).toEqual(['clash', 'clash']);
    await lead.ask('hands.settle', { params: { key: entry }, body: { how: 'followUp' } });
    expect((await lead.ask('hands.settle', { params: { key: found }, body: { how: 'again' } })).status).toBe(200);
    const [follows] = await house.rows<{ id: number }>(`SELECT id FROM delivery WHERE follows = ?`, [a.delivery]);
    const { entryList } = (await lead.ask('receiving.delivery', { params: { id: follows?.id ?? 0 } })).reply;
    expect(entryList).toMatchObject([{ qty: '3', finding: { checked: '3', failed: [{ qty: '1' }] } }]);
  });
});

describe('C11 the report of what failed', () => {
  it('is by supplier, item and reason, of the findings that stand; reasons are the lead’s to name', async () => {
    const a = await arrived('9');
    await looked(a, '9', { damaged: '1' });
    await looked(a, '9', { dirty: '2', damaged: '3' });
    const today = new Date().toISOString().slice(0, 10);
    const day = (n: number): string => new Date(Date.parse(today) + n * 86_400_000).toISOString().slice(0, 10);
    const { reply } = await lead.ask('receiving.failures', { query: { from: day(-1), to: day(1) } });
    expect(reply.failures.filter((f) => f.code === a.code).map((f) => [f.reason, f.qty, f.arrived])).toEqual([
      ['damaged', '3', '9'],
      ['dirty', '2', '9'],
    ]);
    expect(reply.byItem.filter((f) => f.name === a.code)).toHaveLength(2);
    expect(reply.bySupplier.length).toBeGreaterThan(0);
    const before = (await lead.ask('receiving.failures', { query: { from: day(-9), to: day(-8) } })).reply.failures;
    expect(before.filter((f) => f.code === a.code)).toEqual([]);
    expect((await hand.ask('receiving.setReason', { body: { name: 'torn' } })).status).toBe(403);
    expect((await lead.ask('receiving.setReason', { body: { name: 'Damaged' } })).problem.code).toBe('receiving.reasonTwice');
    await lead.ask('receiving.setReason', { body: { name: 'torn' } });
    const torn = (await lead.ask('receiving.reasons', {})).reply.reasons.find((r) => r.name === 'torn');
    reasons.set('torn', torn?.id ?? 0);
    await looked(a, '9', { torn: '1' });
    await lead.ask('receiving.setReason', { body: { id: torn?.id ?? 0, name: 'torn', retired: true } });
    // Where it was said it may be said again; elsewhere it is used no more.
    expect((await looked(a, '9', { torn: '2' })).status).toBe(200);
    expect((await looked(await arrived('2'), '2', { torn: '1' })).problem.code).toBe('receiving.unknownReason');
  });
});
