import { beforeAll, describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { randomUUID } from 'node:crypto';
import { lyingOf, shelved } from '../testing/goods.ts';
import { openHand } from '../testing/hand.ts';
import { houseForTests } from '../testing/house.ts';

const { house, lead, hand } = houseForTests({ lead: 'Maren Oake', hand: 'Jory Penhale' });
let jory: number;
beforeAll(async () => {
  jory = (await house.rows<{ id: number }>(`SELECT id FROM person WHERE name = 'Jory Penhale'`))[0]?.id ?? 0;
});

let made = 0;
type Sent = { item: number; code: string; order: number; shipment: string; shipmentId: number };
/** So many of a new item, shipped to a customer. */
async function sent(qty: number, tracking: 'none' | 'serial' = 'none'): Promise<Sent> {
  made += 1;
  const code = `RET-${made}`;
  const serials = tracking === 'serial' ? Array.from({ length: qty }, (_, n) => `S${made}-${n}`) : [];
  const { id: item, bins } = await shelved(house, lead, {
    code,
    tracking,
    lying: [{ qty: String(qty), ...(serials.length > 0 ? { serials } : {}) }],
  });
  const order = (await lead.ask('orders.make', { body: { customer: 1, due: '2030-01-01', lines: [{ item, qty: String(qty) }] } })).reply;
  await lead.ask('orders.promise', { body: { orders: [order.id], mode: 'free' } });
  const round = (await hand.ask('picking.make', { body: { orders: [order.id] } })).reply.id;
  const stop = (await hand.ask('picking.round', { params: { id: round } })).reply.stopList[0];
  for (const serial of serials.length > 0 ? serials : [undefined])
    await hand.ask('picking.pick', {
      params: { id: round, pick: stop?.picks[0]?.id ?? 0 },
      body: { bin: bins[0]?.address ?? '', code, qty: serial ? '1' : String(qty), ...(serial ? { serial } : {}) },
    });
  await hand.ask('picking.putDown', { params: { id: round }, body: { bin: 'BENCH-1' } });
  const packed = await hand.ask('shipping.pack', { params: { id: order.id }, body: { parcels: 1 } });
  if (packed.status !== 200) throw new Error(packed.problem.detail);
  const shipped = await hand.ask('shipping.ship', { params: { id: order.id } });
  if (shipped.status !== 200) throw new Error(shipped.problem.detail);
  const [row] = await house.rows<{ id: number }>(`SELECT id FROM shipment WHERE number = ?`, [shipped.reply.shipment]);
  return { item, code, order: order.id, shipment: shipped.reply.shipment, shipmentId: row?.id ?? 0 };
}
const takeBack = (shipment: string, who = hand) => who.ask('receiving.takeBack', { body: { shipment } });
const scan = (delivery: number, code: string, more: object = {}) =>
  hand.ask('receiving.scan', { params: { id: delivery }, body: { code, ...more } });
const post = (delivery: number) => lead.ask('receiving.post', { params: { id: delivery }, body: {} });
const look = async (delivery: number) => (await lead.ask('receiving.delivery', { params: { id: delivery } })).reply;

describe('C19 goods that a customer brings back', () => {
  it('come in against their shipment, looked at: what passed is free again, what failed is not; the ledger says whence', async () => {
    const s = await sent(6);
    const begun = (await takeBack(s.shipment)).reply;
    expect(begun.number).toMatch(/^RT-/);
    // A second hand, and the order's number, lead to the same.
    expect((await takeBack(s.shipment.toLowerCase(), lead)).reply).toMatchObject({ id: begun.id, joined: true });
    const entry = (await scan(begun.id, s.code, { packs: '3' })).reply.entry.id;
    const reason = (await hand.ask('receiving.reasons', {})).reply.reasons[0]?.id ?? 0;
    await hand.ask('receiving.inspect', {
      params: { id: begun.id, entry },
      body: { checked: '3', failed: [{ reason, qty: '1' }], note: '' },
    });
    const seen = await look(begun.id);
    expect(seen.back).toMatchObject({ shipment: { number: s.shipment } });
    expect(seen.back?.customer).toBeTruthy();
    expect(seen.lines).toMatchObject([{ expected: '6', arrived: '3', standing: 'full' }]);
    expect((await post(begun.id)).reply).toMatchObject({ pieces: '3', failed: '1' });
    expect(await lyingOf(house, s.item)).toEqual({ ARRIVALS: 2, QUARANTINE: 1 });
    expect((await lead.ask('stock.equation', { params: { id: s.item } })).reply.total).toMatchObject({ onHand: '3', free: '2' });
    const [told] = (await lead.ask('stock.movements', { query: { item: s.item } })).reply.movements.filter(
      (m) => m.from.address === 'Customers',
    );
    expect(told?.reason).toBe(`Brought back on ${begun.number}, left with ${s.shipment}`);
    // What came back once cannot come back again: the rest may.
    const rest = (await takeBack(s.shipment)).reply;
    expect(rest.id).not.toBe(begun.id);
    expect((await scan(rest.id, s.code, { packs: '4' })).reply.line).toMatchObject({ expected: '3', standing: 'over' });
    await house.expectCleanAudit();
  });

  it('what did not leave with it is asked about; a serial says with what it left; one that is here cannot come back', async () => {
    const [s, other] = [await sent(2, 'serial'), await sent(1)];
    const { id } = (await takeBack(s.shipment)).reply;
    expect((await scan(id, other.code)).problem.detail).toContain('did not leave with this shipment');
    const first = `S${made - 1}-0`;
    await scan(id, s.code, { serial: first });
    await scan(id, s.code, { serial: 'NEVER-1' });
    expect((await look(id)).entryList.map((e) => [e.serial, e.leftWith])).toEqual([
      ['NEVER-1', null],
      [first, s.shipment],
    ]);
    await post(id);
    const again = (await takeBack(s.shipment)).reply;
    expect((await scan(again.id, s.code, { serial: first })).problem.code).toBe('receiving.serialHere');
    const life = (await lead.ask('lots.serial', { params: { id: s.item, serial: first } })).reply.events;
    expect(life.map((e) => e.what)).toContain('returned');
  });

  it('without a shipment the customer is named now or later; a return has no supplier, a delivery no customer', async () => {
    const s = await sent(1);
    const { id, number } = (await hand.ask('receiving.takeBack', { body: {} })).reply;
    await scan(id, s.code);
    const naming = { params: { id }, body: { supplier: 1 } };
    expect((await hand.ask('receiving.supplier', naming)).problem.detail).toContain(`${number} came back from a customer`);
    expect((await hand.ask('receiving.customer', { params: { id }, body: { customer: 2 } })).status).toBe(200);
    expect((await look(id)).back?.customer).toBeTruthy();
    expect((await post(id)).status).toBe(200);
    const plain = (await hand.ask('receiving.start', { body: { supplier: 1 } })).reply.id;
    const refused = await hand.ask('receiving.customer', { params: { id: plain }, body: { customer: 2 } });
    expect(refused.problem.code).toBe('receiving.isNoReturn');
    expect((await takeBack('SH-99999')).problem.code).toBe('receiving.unknownShipment');
    expect((await hand.ask('receiving.takeBack', { body: { customer: 99_999 } })).problem.code).toBe('orders.unknownCustomer');
    const office = await house.signIn('Odile Wrack');
    expect((await takeBack(s.shipment, office)).status).toBe(403);
  });

  it('a line that is reversed may come back again; a return that was thrown away is taken up only where no other was begun', async () => {
    const s = await sent(4);
    const one = (await takeBack(s.shipment)).reply.id;
    const entry = (await scan(one, s.code, { packs: '4' })).reply.entry.id;
    await post(one);
    await lead.ask('receiving.reverse', { params: { id: one, entry }, body: { reason: 'Another customer’s' } });
    expect(await lyingOf(house, s.item)).toEqual({});
    const two = (await takeBack(s.shipment)).reply.id;
    expect((await scan(two, s.code)).reply.line.expected).toBe('4');
    await lead.ask('receiving.throwAway', { params: { id: two } });
    const three = (await takeBack(s.shipment)).reply;
    expect((await lead.ask('receiving.takeUp', { params: { id: two } })).problem.detail).toContain(`${three.number} was begun since`);
    await house.expectCleanAudit();
  });

  it('two who begin with one shipment at once share one return', async () => {
    const s = await sent(1);
    const begun = await Promise.all(Array.from({ length: 6 }, (_, n) => takeBack(s.shipment, n % 2 ? lead : hand)));
    expect(new Set(begun.map((b) => b.reply.id)).size).toBe(1);
    expect(begun.filter((b) => !b.reply.joined)).toHaveLength(1);
  });

  it('is begun and scanned on a device without a connection; what is told after it was posted is a return of its own', async () => {
    const s = await sent(3);
    const device = await openHand(hand, jory);
    const key = randomUUID();
    device.does({ kind: 'receive.begin', delivery: key, supplier: null, orders: [], back: { shipment: s.shipmentId } });
    const goods = {
      kind: 'receive.enter',
      delivery: key,
      item: s.item,
      pack: 1,
      lot: null,
      expires: null,
      serial: null,
      takeAnyway: false,
    };
    device.does({ ...goods, qty: 2000 });
    expect((await device.tell()).map((o) => o.outcome)).toEqual(['done', 'done']);
    const { id } = (await takeBack(s.shipment)).reply;
    expect((await look(id)).lines).toMatchObject([{ arrived: '2', expected: '3' }]);
    await post(id);
    device.does({ ...goods, qty: 1000 });
    const [late] = await device.tell();
    expect(late?.outcome).toBe('clash');
    const settled = await lead.ask('hands.settle', { params: { key: late?.key ?? '' }, body: { how: 'followUp' } });
    expect(settled.reply.says).toMatch(/RT-/);
    // A shipment of another site is passed over: the goods have come all the same.
    const elsewhere = randomUUID();
    device.does({ kind: 'receive.begin', delivery: elsewhere, supplier: null, orders: [], back: { shipment: 999_999 } });
    expect((await device.tell())[0]?.outcome).toBe('done');
  });

  it('however it is brought back, posted and reversed: never more of it is here than left and came back', async () => {
    const act = fc.record({
      kind: fc.constantFrom('scan' as const, 'post' as const, 'reverse' as const, 'throw' as const),
      qty: fc.integer({ min: 1, max: 4 }),
    });
    await fc.assert(
      fc.asyncProperty(fc.array(act, { maxLength: 10 }), async (acts) => {
        const s = await sent(5);
        const entries: { delivery: number; entry: number }[] = [];
        let open: number | null = null;
        for (const { kind, qty } of acts) {
          open ??= (await takeBack(s.shipment)).reply.id;
          if (kind === 'scan') entries.push({ delivery: open, entry: (await scan(open, s.code, { packs: String(qty) })).reply.entry.id });
          else if (kind === 'post' && (await post(open)).status === 200) open = null;
          else if (kind === 'throw') {
            await lead.ask('receiving.throwAway', { params: { id: open } });
            open = null;
          } else if (kind === 'reverse') {
            const one = entries[qty % Math.max(1, entries.length)];
            if (one) await lead.ask('receiving.reverse', { params: { id: one.delivery, entry: one.entry }, body: { reason: 'back' } });
          }
        }
        const [stands] = await house.rows<{ back: number; left: number }>(
          `SELECT coalesce((SELECT sum(r.qty) FROM returned_line r WHERE r.shipment_id = ?), 0)::int AS back,
             (SELECT qty FROM shipped_line WHERE shipment_id = ?)::int AS left`,
          [s.shipmentId, s.shipmentId],
        );
        expect((await lyingOf(house, s.item))['ARRIVALS'] ?? 0).toBe(stands?.back);
        expect(stands?.left).toBe(5);
        const next = await look((await takeBack(s.shipment)).reply.id);
        const expected = next.lines[0]?.expected;
        if (expected !== undefined) expect(Number(expected)).toBe(5 - (stands?.back ?? 0));
      }),
      { numRuns: 8 },
    );
    await house.expectCleanAudit();
  }, 60_000);
});
