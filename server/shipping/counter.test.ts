import { describe, expect, it } from '@jest/globals';
import { lyingOf, shelved } from '../testing/goods.ts';
import { houseForTests } from '../testing/house.ts';

const { house, lead, hand, office } = houseForTests({ lead: 'Maren Oake', hand: 'Tobin Sallow', office: 'Odile Wrack' }, { jobs: false });
type Line = { bin: string; code: string; qty: string; lot?: string; serial?: string };
const handOver = (lines: readonly Line[], more: { customer?: number; anyway?: boolean } = {}, who = hand, key?: string) =>
  who.ask('shipping.handOver', { body: { lines: [...lines], ...more }, ...(key ? { key } : {}) });

describe('over the counter (F3)', () => {
  it('goods leave at once, with bin, lot and serials on record, on an order that is done', async () => {
    const plain = await shelved(house, lead, { code: 'CTR-1', lying: [{ qty: '6' }] });
    const dated = await shelved(house, lead, {
      code: 'CTR-2',
      tracking: 'lotExpiry',
      lying: [
        { qty: '4', lot: 'A', expires: '2031-01-01' },
        { qty: '4', lot: 'B', expires: '2032-01-01' },
      ],
    });
    const serial = await shelved(house, lead, { code: 'CTR-3', tracking: 'serial', lying: [{ qty: '2', serials: ['S1', 'S2'] }] });
    const bin = (of: { bins: { address: string }[] }, n = 0): string => of.bins[n]?.address ?? '';
    const { reply } = await handOver(
      [
        { bin: bin(plain), code: 'CTR-1', qty: '2' },
        { bin: bin(plain), code: 'CTR-1', qty: '1' },
        { bin: bin(dated, 1), code: 'CTR-2', qty: '3', lot: 'B' },
        { bin: bin(serial), code: 'CTR-3', qty: '1', serial: 'S2' },
      ],
      { customer: 1 },
    );
    expect(reply.pieces).toBe('7');
    const order = (await lead.ask('orders.order', { params: { id: reply.order } })).reply;
    expect(order).toMatchObject({ kind: 'counter', state: 'shipped', lines: 3 });
    expect(order.lineList.map((l) => [l.code, l.qty, l.shipped])).toEqual([
      ['CTR-1', '3', '3'],
      ['CTR-2', '3', '3'],
      ['CTR-3', '1', '1'],
    ]);
    expect(await lyingOf(house, plain.id)).toEqual({ [bin(plain)]: 3 });
    expect(await lyingOf(house, dated.id)).toEqual({ [bin(dated)]: 4, [bin(dated, 1)]: 1 });
    const life = await house.rows(
      `SELECT s.code
       FROM movement m
       JOIN serial s ON s.id = m.serial_id
       JOIN shipment h ON h.document_id = m.document_id
       WHERE h.number = ?`,
      [reply.shipment],
    );
    expect(life).toEqual([{ code: 'S2' }]);
    const note = await lead.raw(`/api/shipments/${reply.shipment}/note.pdf`);
    expect([note.status, note.headers.get('content-type')]).toEqual([200, 'application/pdf']);
    await house.expectCleanAudit();
  });

  it('what is promised to orders stays theirs; a lead may say otherwise, and then their promise goes', async () => {
    const { id, bins } = await shelved(house, lead, { code: 'CTR-4', lying: [{ qty: '5' }] });
    const bin = bins[0]?.address ?? '';
    const order = (await lead.ask('orders.make', { body: { customer: 1, due: '2027-01-10', lines: [{ item: id, qty: '4' }] } })).reply.id;
    await lead.ask('orders.promise', { body: { orders: [order] } });
    const two = [{ bin, code: 'CTR-4', qty: '2' }];
    expect((await handOver(two)).problem).toMatchObject({ code: 'shipping.promisedToOthers', free: '1' });
    expect((await handOver(two, { anyway: true })).problem.code).toBe('people.noRight');
    expect((await handOver(two, { anyway: true }, lead)).status).toBe(200);
    expect(await house.rows(`SELECT qty::int FROM promise WHERE item_id = ?`, [id])).toEqual([{ qty: 3 }]);
    await house.expectCleanAudit();
  });

  it('ten clicks under one key, and two clerks for the last piece: it leaves once', async () => {
    const { id, bins } = await shelved(house, lead, { code: 'CTR-5', lying: [{ qty: '3' }] });
    const line = { bin: bins[0]?.address ?? '', code: 'CTR-5', qty: '2' };
    const key = crypto.randomUUID();
    const same = await Promise.all(Array.from({ length: 10 }, () => handOver([line], {}, hand, key)));
    expect(new Set(same.map((a) => a.reply?.shipment)).size).toBe(1);
    const last = await Promise.all([hand, lead].map((who) => handOver([{ ...line, qty: '1' }], {}, who)));
    expect(last.map((a) => a.status).sort()).toEqual([200, 409]);
    expect(await lyingOf(house, id)).toEqual({});
  });

  it.each<[string, Partial<Line>, string]>([
    ['a bin that is none', { bin: 'NOWHERE' }, 'places.unknownBin'],
    ['goods that do not lie there', { bin: 'ARRIVALS' }, 'moves.notThere'],
    ['a code that is none', { code: 'NO-SUCH' }, 'items.unknownCode'],
    ['a lot that must be said', { code: 'CTR-7' }, 'moves.whichLot'],
    ['half a piece', { qty: '0.5' }, 'stock.finerThanItem'],
    ['more than there is', { qty: '7' }, 'shipping.promisedToOthers'],
  ])('%s is refused, and nothing leaves', async (_, wrong, code) => {
    const [{ n = 0 } = {}] = await house.rows<{ n: number }>(`SELECT count(*)::int AS n FROM item WHERE code LIKE 'CTR-6%'`);
    const { id, bins } = await shelved(house, lead, { code: `CTR-6${n}`, lying: [{ qty: '5' }] });
    const bin = bins[0]?.address ?? '';
    if (wrong.code === 'CTR-7') {
      const lots = await shelved(house, lead, {
        code: 'CTR-7',
        tracking: 'lot',
        lying: [
          { qty: '1', lot: 'X' },
          { qty: '1', lot: 'Y' },
        ],
      });
      const [to = '', from = ''] = lots.bins.map((b) => b.address);
      await lead.ask('moves.move', { body: { from, to, code: 'CTR-7', qty: '1' } });
      wrong = { ...wrong, bin: lots.bins[0]?.address ?? '' };
    }
    const shipments = await house.rows(`SELECT count(*) AS n FROM shipment`);
    const answer = await handOver([
      { bin, code: `CTR-6${n}`, qty: '1' },
      { bin, code: `CTR-6${n}`, qty: '1', ...wrong },
    ]);
    expect(answer.problem.code).toBe(code);
    expect(await lyingOf(house, id)).toEqual({ [bin]: 5 });
    expect(await house.rows(`SELECT count(*) AS n FROM shipment`)).toEqual(shipments);
  });

  it('the office does not stand at the counter', async () => {
    expect((await handOver([{ bin: 'X', code: 'X', qty: '1' }], {}, office)).status).toBe(403);
  });
});
