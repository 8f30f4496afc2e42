import { beforeAll, describe, expect, it } from '@jest/globals';
import { openHand } from '../testing/hand.ts';
import { houseForTests } from '../testing/house.ts';

const { house, lead, hand } = houseForTests({ lead: 'Maren Oake', hand: 'Jory Penhale' }, { jobs: false });
let jory: number;
let delivery: number;
const codes = new Map<string, { id: number; code: string }>();
beforeAll(async () => {
  jory = (await house.rows<{ id: number }>(`SELECT id FROM person WHERE name = 'Jory Penhale'`))[0]?.id ?? 0;
  for (const tracking of ['none', 'lotExpiry', 'serial'] as const) {
    const code = `BAD-${tracking.toUpperCase()}`;
    const { id } = (await lead.ask('items.make', { body: { code, description: code, group: 'Test', unit: 'each', decimals: 0, tracking } }))
      .reply;
    codes.set(tracking, { id, code });
  }
  delivery = (await hand.ask('receiving.start', { body: { supplier: 1 } })).reply.id;
});

const codeOf = (tracking: string): string => codes.get(tracking)?.code ?? '';
const scan = (tracking: string, more: object) =>
  hand.ask('receiving.scan', { params: { id: delivery }, body: { code: codeOf(tracking), ...more } as never });
const entries = async (): Promise<unknown[]> => (await lead.ask('receiving.delivery', { params: { id: delivery } })).reply.entryList;

describe('bad input at the dock is a clear sentence that names the thing, and nothing changes', () => {
  it.each([
    ['made after it expires', 'lotExpiry', { lot: 'A', made: '2027-06-01', expires: '2027-05-31' }, 'BAD-LOTEXPIRY cannot be made on'],
    ['31 February', 'lotExpiry', { lot: 'A', expires: '2027-02-31' }, 'must be a date such as 2027-03-31'],
    ['29 February of a year that has none', 'lotExpiry', { lot: 'A', expires: '2027-02-29' }, 'must be a date'],
    ['a lot of 200 letters', 'lotExpiry', { lot: 'L'.repeat(200), expires: '2030-01-31' }, '40'],
    ['a thousand million', 'none', { packs: '1000000000' }, '1000000000 BAD-NONE at once cannot be'],
    ['less than none', 'none', { packs: '-1' }, '-1 is less than nothing'],
    ['none', 'none', { packs: '0' }, 'must be more than 0'],
    ['half a whole one', 'none', { packs: '1.5' }, 'BAD-NONE is counted whole'],
    ['no number', 'none', { packs: 'many' }, '“many” is not a quantity'],
    ['two of one serial', 'serial', { serial: 'S-1', packs: '2' }, 'Serial S-1 is one BAD-SERIAL'],
    ['a serial of 200 letters', 'serial', { serial: 'S'.repeat(200) }, '40'],
    ['a code of 5,000 letters', 'none', { code: 'x'.repeat(5000) }, ''],
  ])('%s', async (_, tracking, more, says) => {
    const before = await entries();
    const answer = await scan(tracking, more);
    expect(answer.status).toBeGreaterThanOrEqual(400);
    expect(answer.status).toBeLessThan(500);
    const told = JSON.stringify(answer.problem);
    expect(told).toContain(says);
    expect(told).not.toMatch(/NaN|undefined|ZodError|expected string/);
    expect(await entries()).toEqual(before);
  });

  it('29 February is a day in a year that has one', async () => {
    expect((await scan('lotExpiry', { lot: 'LEAP', expires: '2028-02-29' })).status).toBe(200);
  });

  it('a serial or lot with marks that nobody sees is the one that everybody sees, at the desk as from a handheld', async () => {
    expect((await scan('serial', { serial: ' SEEN-1\u200b' })).status).toBe(200);
    expect((await scan('serial', { serial: 'SEEN\u00ad-1' })).problem.code).toBe('receiving.serialHere');
    const told = await openHand(hand, jory);
    const item = codes.get('serial')?.id;
    const [pack] = await house.rows<{ id: number }>(`SELECT id FROM pack WHERE item_id = ?`, [item]);
    const dates = { lot: null, expires: null, made: null };
    const enter = { kind: 'receive.enter', delivery, item, pack: pack?.id, qty: 1000, ...dates, serial: '\ufeffSEEN-1', takeAnyway: true };
    expect(await told.tells(enter)).toMatchObject({
      outcome: 'clash',
      says: expect.stringContaining('SEEN-1 of BAD-SERIAL is already here'),
    });
    expect((await scan('lotExpiry', { lot: '\u202eSEEN', expires: '2030-01-31' })).status).toBe(200);
    expect((await scan('lotExpiry', { lot: 'SEEN', expires: '2031-01-31' })).problem.code).toBe('receiving.dateDiffers');
    expect((await scan('serial', { serial: '\u200b' })).status).toBeGreaterThanOrEqual(400);
  });
  it('one serial from two hands at once: one is entered, the other is told', async () => {
    const both = await Promise.all([scan('serial', { serial: 'ONE' }), scan('serial', { serial: 'ONE' })]);
    expect(both.map((b) => b.status).sort()).toEqual([200, 409]);
    expect(both.find((b) => b.status === 409)?.problem.detail).toContain('ONE');
  });

  it('two leads post one delivery at once: one receipt; who scans on then has a delivery of their own', async () => {
    const { id, number } = (await hand.ask('receiving.start', { body: { supplier: 2 } })).reply;
    await hand.ask('receiving.scan', { params: { id }, body: { code: codeOf('none'), packs: '3' } });
    const device = await openHand(hand, jory);
    const late = device.does({
      kind: 'receive.enter',
      delivery: id,
      item: codes.get('none')?.id,
      pack: 1,
      qty: 1000,
      lot: null,
      expires: null,
      serial: null,
      takeAnyway: true,
    });
    const posts = await Promise.all(Array.from({ length: 4 }, () => lead.ask('receiving.post', { params: { id }, body: {} })));
    expect(posts.filter((p) => p.status === 200)).toHaveLength(1);
    expect(posts.filter((p) => p.status !== 200).every((p) => p.problem.code === 'receiving.notOpen')).toBe(true);
    expect(await house.rows(`SELECT 1 FROM document WHERE kind = 'receipt' AND subject_id = ?`, [id])).toHaveLength(1);
    expect((await device.tell())[0]?.outcome).toBe('clash');
    const settled = await lead.ask('hands.settle', { params: { key: late }, body: { how: 'followUp' } });
    expect(settled.reply.says).toMatch(/DL-/);
    expect(settled.reply.says).not.toContain(number);
    await house.expectCleanAudit();
  });

  it('a photo of 60 MB is refused before it is read, one that is none by what it is; the findings stay', async () => {
    const huge = await hand.raw('/api/files?name=pallet.jpg', {
      method: 'POST',
      headers: { 'Content-Type': 'application/octet-stream' },
      body: Buffer.alloc(60_000_000),
    });
    expect([huge.status, ((await huge.json()) as { detail: string }).detail]).toEqual([413, expect.stringContaining('60 MB')]);
    const [entry] = await house.rows<{ id: number }>(`SELECT min(id) AS id FROM delivery_entry WHERE delivery_id = ?`, [delivery]);
    const sheet = await lead.raw('/api/files?name=sheet.csv', {
      method: 'POST',
      headers: { 'Content-Type': 'application/octet-stream' },
      body: 'a,b\n1,2\n',
    });
    const file = ((await sheet.json()) as { id: number }).id;
    const params = { id: delivery, entry: entry?.id ?? 0 };
    expect((await hand.ask('receiving.photo', { params, body: { file } })).problem.code).toBe('file.wrongKind');
    expect((await hand.ask('receiving.photo', { params, body: { file: 999_999 } })).problem.code).toBe('file.unknown');
  });
});
