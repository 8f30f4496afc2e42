import { describe, expect, it } from '@jest/globals';
import { houseForTests } from '../testing/house.ts';

const { lead, office, hand } = houseForTests({ lead: 'Maren Oake', office: 'Odile Wrack', hand: 'Jory Penhale' }, { jobs: false });

let made = 0;
/** So many of a new item ordered at 4.00, of which `came` came and `failed` failed; posted. */
async function received(came: string, failed: string): Promise<{ delivery: number; item: number; entry: number }> {
  made += 1;
  const code = `INV-${made}`;
  const { id: item } = (
    await lead.ask('items.make', { body: { code, description: code, group: 'Test', unit: 'each', decimals: 0, tracking: 'none' } })
  ).reply;
  const lines = [{ item, qty: '12', cost: '4.00' }];
  const { id: order } = (await office.ask('purchasing.make', { body: { supplier: 1, due: '2030-01-31', lines } })).reply;
  await lead.ask('purchasing.approve', { params: { id: order }, body: { version: 1 } });
  const { id: delivery } = (await lead.ask('receiving.start', { body: { orders: [order] } })).reply;
  const entry = (await hand.ask('receiving.scan', { params: { id: delivery }, body: { code, packs: came } })).reply.entry.id;
  const reason = (await hand.ask('receiving.reasons', {})).reply.reasons[0]?.id ?? 0;
  const parts = failed === '0' ? [] : [{ reason, qty: failed }];
  await hand.ask('receiving.inspect', { params: { id: delivery, entry }, body: { checked: came, failed: parts, note: '' } });
  return { delivery, item, entry };
}
const post = (id: number) => lead.ask('receiving.post', { params: { id }, body: {} });
const invoice = (id: number, who = office) => who.ask('receiving.invoice', { params: { id } });
const key = (id: number, lines: { item: number; qty: string; price?: string }[], who = office) =>
  who.ask('receiving.keyInvoice', { params: { id }, body: { lines } });

describe('C14 a receipt beside the invoice', () => {
  it('says in a line what to query, and what to pay; what is found or reversed later is counted in', async () => {
    const r = await received('10', '3');
    await post(r.delivery);
    expect((await invoice(r.delivery)).reply).toMatchObject({
      keyed: null,
      says: null,
      items: [{ ordered: '12', received: '10', failed: '3' }],
    });
    await key(r.delivery, [{ item: r.item, qty: '12', price: '4.20' }]);
    const { reply } = await invoice(r.delivery);
    expect(reply.says).toMatch(/^Query .22\.40: 2 INV-1 more on the invoice than came; 3 INV-1 failed inspection; 7 INV-1 cost more/);
    expect(reply).toMatchObject({ invoiced: '50.40', toPay: '28.00', keyed: { by: 'Odile Wrack' } });
    await lead.ask('receiving.inspect', {
      params: { id: r.delivery, entry: r.entry },
      body: { checked: '10', failed: [], note: '' },
    });
    expect((await invoice(r.delivery)).reply).toMatchObject({ toPay: '40.00' });
    await lead.ask('receiving.reverse', { params: { id: r.delivery, entry: r.entry }, body: { reason: 'Another pallet' } });
    expect((await invoice(r.delivery)).reply.says).toContain('12 INV-1 on the invoice never came');
  });

  it('is keyed again as a whole; what is not on it, and what nobody ordered, is told', async () => {
    const r = await received('12', '0');
    await post(r.delivery);
    await key(r.delivery, [{ item: r.item, qty: '12' }]);
    // Without a price, what was agreed is taken.
    expect((await invoice(r.delivery)).reply.says).toMatch(/^Nothing to query: pay .48\.00\.$/);
    await key(r.delivery, [{ item: 1, qty: '2', price: '1.50' }]);
    const { reply } = await invoice(r.delivery);
    expect(reply.queries.map((q) => q.words.replace(/\S+-\S+/, 'it'))).toEqual([
      '12 it came and are not on the invoice',
      '2 it on the invoice never came',
    ]);
    expect(reply.items).toHaveLength(2);
    const paper = await office.raw(`/api/deliveries/${r.delivery}/receipt.pdf`);
    expect([paper.status, (await paper.text()).slice(0, 5)]).toEqual([200, '%PDF-']);
  });

  it('is not for hands, not before it is posted, not of what came back; a line twice or half a piece is refused', async () => {
    const r = await received('5', '0');
    expect((await invoice(r.delivery)).problem.code).toBe('receiving.notPosted');
    await post(r.delivery);
    expect((await invoice(r.delivery, hand)).status).toBe(403);
    expect((await hand.raw(`/api/deliveries/${r.delivery}/receipt.pdf`)).status).toBe(403);
    expect((await key(r.delivery, [{ item: r.item, qty: '1' }], hand)).status).toBe(403);
    const twice = [
      { item: r.item, qty: '1' },
      { item: r.item, qty: '2' },
    ];
    expect((await key(r.delivery, twice)).problem.code).toBe('receiving.invoicedTwice');
    expect((await key(r.delivery, [{ item: r.item, qty: '1.5' }])).problem.code).toBe('receiving.tooFine');
    expect((await key(r.delivery, [{ item: r.item, qty: '-1' }])).status).toBe(400);
    expect((await key(r.delivery, [{ item: r.item, qty: '1', price: 'much' }])).status).toBe(400);
    expect((await invoice(r.delivery)).reply.keyed).toBeNull();
    const back = (await hand.ask('receiving.takeBack', { body: {} })).reply.id;
    expect((await key(back, [])).problem.code).toBe('receiving.isReturn');
  });
});
