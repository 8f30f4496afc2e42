import { describe, expect, it } from '@jest/globals';
import { XMLParser } from 'fast-xml-parser';
import { houseForTests } from '../testing/house.ts';
import { dryRun, goAhead } from '../testing/sheets.ts';

const { house, lead, office, hand } = houseForTests({ lead: 'Maren Oake', office: 'Odile Wrack', hand: 'Jory Penhale' });

let made = 0;
/** An item that nobody has any of, bought of the first supplier for 2.50. */
async function newItem(): Promise<{ id: number; code: string }> {
  made += 1;
  const code = `BUY-${made}`;
  const { id } = (
    await lead.ask('items.make', {
      body: { code, description: `Bought ${made}`, group: 'Test', unit: 'each', decimals: 0, tracking: 'none' },
    })
  ).reply;
  await house.rows(`INSERT INTO item_supplier (item_id, supplier_id, part_no, cost, lead_days) VALUES (?, 1, ?, 2.5, 10)`, [id, `P${id}`]);
  return { id, code };
}
const onOrder = async (item: number): Promise<string> => (await lead.ask('stock.equation', { params: { id: item } })).reply.total.onOrder;
async function newOrder(qty: string, more: { item?: number } = {}): Promise<{ id: number; number: string; item: number }> {
  const item = more.item ?? (await newItem()).id;
  const { id, number } = (await office.ask('purchasing.make', { body: { supplier: 1, due: '2030-01-31', lines: [{ item, qty }] } })).reply;
  return { id, number, item };
}
async function open(id: number) {
  const order = (await office.ask('purchasing.order', { params: { id } })).reply;
  await lead.ask('purchasing.approve', { params: { id }, body: { version: order.version } });
  return (await office.ask('purchasing.order', { params: { id } })).reply;
}

describe('a purchase order', () => {
  it('B11 is expected by nobody until it is approved; then at the dock and in the equation, and no longer when it ends', async () => {
    const { id, number, item } = await newOrder('12');
    expect(await onOrder(item)).toBe('0');
    expect((await hand.ask('receiving.start', { body: { purchaseOrder: number } })).problem.code).toBe('receiving.unknownOrder');
    const order = await open(id);
    expect(order).toMatchObject({
      state: 'open',
      total: '30.00',
      approved: { by: 'Maren Oake' },
      lineList: [{ cost: '2.50', partNo: `P${item}` }],
    });
    expect(await onOrder(item)).toBe('12');
    expect((await office.ask('purchasing.cancel', { params: { id }, body: { reason: 'Ordered twice' } })).status).toBe(200);
    expect(await onOrder(item)).toBe('0');
    expect((await hand.ask('receiving.start', { body: { purchaseOrder: number } })).problem.code).toBe('receiving.unknownOrder');
    await office.ask('purchasing.takeUp', { params: { id } });
    expect(await onOrder(item)).toBe('12');
    const ended = (await office.ask('purchasing.order', { params: { id } })).reply;
    expect(ended).toMatchObject({ state: 'open', ended: null });
  });

  it('is changed by one person at a time, and never below what has come', async () => {
    const { id, number, item } = await newOrder('10');
    const order = await open(id);
    const { id: delivery } = (await hand.ask('receiving.start', { body: { purchaseOrder: number } })).reply;
    const [row] = order.lineList;
    const line = { line: row?.id ?? 0, item, qty: '8' };
    expect((await office.ask('purchasing.close', { params: { id }, body: { reason: 'Enough' } })).problem.detail).toContain(
      'is being received in DL-',
    );
    await hand.ask('receiving.scan', { params: { id: delivery }, body: { code: row?.code ?? '', packs: '4' } });
    await hand.ask('receiving.finish', { params: { id: delivery } });
    const both = await Promise.all(
      ['9', '8'].map((qty) =>
        office.ask('purchasing.change', { params: { id }, body: { version: order.version, due: order.due, lines: [{ ...line, qty }] } }),
      ),
    );
    expect(both.map((b) => b.status).sort()).toEqual([200, 409]);
    expect(both.find((b) => b.status === 409)?.problem.detail).toContain('was changed by somebody else meanwhile');
    await lead.ask('receiving.post', { params: { id: delivery }, body: {} });
    const now = (await office.ask('purchasing.order', { params: { id } })).reply;
    const save = (qty: string) =>
      office.ask('purchasing.change', { params: { id }, body: { version: now.version, due: now.due, lines: [{ ...line, qty }] } });
    expect((await save('3')).problem.detail).toContain('4 BUY-');
    expect((await save('4')).reply.state).toBe('closed');
    expect((await office.ask('purchasing.takeUp', { params: { id } })).problem.code).toBe('purchasing.notNow');
    await house.expectCleanAudit();
  });

  it('law: lines change while goods of them are scanned and posted, by many at once: what came is never lost', async () => {
    const orders = await Promise.all([1, 2, 3, 4].map(() => newOrder('20')));
    for (const o of orders) await open(o.id);
    const work = orders.map(async (o, n) => {
      const code = `BUY-${made - 3 + n}`;
      const [known] = await house.rows<{ code: string }>(`SELECT code FROM item WHERE id = ?`, [o.item]);
      const { id } = (await hand.ask('receiving.start', { body: { purchaseOrder: o.number } })).reply;
      const scans = [3, 5, 7].map((packs) =>
        hand.ask('receiving.scan', { params: { id }, body: { code: known?.code ?? code, packs: String(packs), takeAnyway: true } }),
      );
      const changes = ['16', '9', '30'].map(async (qty) => {
        const now = (await office.ask('purchasing.order', { params: { id: o.id } })).reply;
        return office.ask('purchasing.change', {
          params: { id: o.id },
          body: { version: now.version, due: now.due, lines: [{ line: now.lineList[0]?.id ?? 0, item: o.item, qty }] },
        });
      });
      const post = Promise.all(scans).then(async () => {
        await hand.ask('receiving.finish', { params: { id } });
        return lead.ask('receiving.post', { params: { id }, body: {} });
      });
      const all = [await post, ...(await Promise.all(changes))];
      expect(all.every((a) => [200, 409].includes(a.status))).toBe(true);
    });
    await Promise.all(work);
    for (const o of orders) {
      const [line] = await house.rows<{ qty: string; received: string }>(
        `SELECT qty::int::text AS qty, received::int::text AS received FROM purchase_line WHERE purchase_order_id = ?`,
        [o.id],
      );
      expect(line?.received).toBe('15');
    }
    await house.expectCleanAudit();
  }, 60_000);

  it('L4 is read and made by the lead and the office alone, and at its own site', async () => {
    const { id } = await newOrder('1');
    expect((await hand.ask('purchasing.order', { params: { id } })).status).toBe(403);
    expect((await hand.ask('purchasing.draft', { body: { lines: [{ item: 1, supplier: 1, qty: '1' }] } })).status).toBe(403);
    const elsewhere = await lead.ask('purchasing.approve', { params: { id }, body: { version: 1 }, site: 2 });
    expect(elsewhere.problem.code).toBe('people.otherSite');
  });

  it.each([
    [{ supplier: 9999, due: '2030-01-01', lines: [{ item: 1, qty: '1' }] }, 'There is no supplier 9999.'],
    [{ supplier: 1, due: '2030-02-31', lines: [{ item: 1, qty: '1' }] }, 'must be a date'],
    [{ supplier: 1, due: '2030-01-01', lines: [] }, 'one line at least'],
    [{ supplier: 1, due: '2030-01-01', lines: [{ item: 999999, qty: '1' }] }, 'There is no item 999999'],
    [{ supplier: 1, due: '2030-01-01', lines: [{ item: 1, qty: '0' }] }, 'it must be more than 0'],
    [{ supplier: 1, due: '2030-01-01', lines: [{ item: 1, qty: '1e9' }] }, 'is not a quantity'],
    [{ supplier: 1, due: '2030-01-01', lines: [{ item: 1, qty: '1', cost: '1.234' }] }, 'can be read in two ways'],
  ])('refuses what cannot be ordered, in words: %#', async (body, words) => {
    const before = await house.rows(`SELECT count(*) FROM purchase_order`);
    expect((await office.ask('purchasing.make', { body })).problem.detail).toContain(words);
    expect(await house.rows(`SELECT count(*) FROM purchase_order`)).toEqual(before);
  });
});

// The elements of an Order that are written here, in the order in which the standard has them.
// Source: OASIS, Universal Business Language 2.1, UBL-Order-2.1 and its common components.
const ORDER_OF: Readonly<Record<string, readonly string[]>> = {
  Order: [
    'cbc:UBLVersionID',
    'cbc:ID',
    'cbc:IssueDate',
    'cbc:Note',
    'cbc:DocumentCurrencyCode',
    'cbc:CustomerReference',
    'cbc:LineCountNumeric',
    'cac:BuyerCustomerParty',
    'cac:SellerSupplierParty',
    'cac:Delivery',
    'cac:AnticipatedMonetaryTotal',
    'cac:OrderLine',
  ],
  'cac:Party': ['cac:PartyIdentification', 'cac:PartyName', 'cac:PostalAddress'],
  'cac:Delivery': ['cac:DeliveryLocation', 'cac:RequestedDeliveryPeriod'],
  'cac:DeliveryLocation': ['cbc:Name', 'cac:Address'],
  'cac:AnticipatedMonetaryTotal': ['cbc:LineExtensionAmount', 'cbc:PayableAmount'],
  'cac:LineItem': ['cbc:ID', 'cbc:Quantity', 'cbc:LineExtensionAmount', 'cac:Price', 'cac:Item'],
  'cac:Price': ['cbc:PriceAmount', 'cbc:BaseQuantity'],
  'cac:Item': ['cbc:Name', 'cac:BuyersItemIdentification', 'cac:SellersItemIdentification', 'cac:StandardItemIdentification'],
};
type Ordered = Record<string, unknown>[];
function outOfOrder(nodes: Ordered, name: string): string[] {
  const own = ORDER_OF[name];
  const names = nodes.map((n) => Object.keys(n).find((k) => k !== ':@' && k !== '#text') ?? '').filter(Boolean);
  const wrong = own
    ? names.filter((n, i) => !own.includes(n) || (i > 0 && own.indexOf(n) < own.indexOf(names[i - 1] ?? ''))).map((n) => `${name}/${n}`)
    : [];
  return [...wrong, ...nodes.flatMap((n) => names.filter((k) => k in n).flatMap((k) => outOfOrder(n[k] as Ordered, k)))];
}

describe('the papers of a purchase order', () => {
  it('L7 is written as UBL 2.1: elements in the standard’s order, amounts that add up, letters that XML would stumble over', async () => {
    const { id, item } = await newOrder('12');
    await house.rows(`UPDATE item SET description = ? WHERE id = ?`, ['Jar <500 ml> & "lid" ÅŻ', item]);
    const order = (await office.ask('purchasing.order', { params: { id } })).reply;
    await office.ask('purchasing.change', {
      params: { id },
      body: {
        version: order.version,
        due: order.due,
        note: 'Before noon ]]> please',
        lines: [
          { line: order.lineList[0]?.id ?? 0, item, qty: '12', cost: '2,5750' },
          { line: null, item: 1, qty: '3', cost: '0.10' },
        ],
      },
    });
    const answer = await office.raw(`/api/purchasing/orders/${id}/order.xml`);
    const text = await answer.text();
    expect(answer.headers.get('content-type')).toContain('application/xml');
    const nodes = new XMLParser({ preserveOrder: true, ignoreAttributes: false, parseTagValue: false }).parse(text) as Ordered;
    expect(outOfOrder(nodes, '')).toEqual([]);
    const { Order } = new XMLParser({ ignoreAttributes: false, attributeNamePrefix: '@', parseTagValue: false }).parse(text) as {
      Order: Record<string, never>;
    };
    expect(Order).toMatchObject({
      'cbc:ID': order.number,
      'cbc:Note': 'Before noon ]]> please',
      'cbc:LineCountNumeric': '2',
      'cac:AnticipatedMonetaryTotal': { 'cbc:PayableAmount': { '#text': '31.20', '@currencyID': 'EUR' } },
      'cac:OrderLine': [
        {
          'cac:LineItem': {
            'cbc:Quantity': { '#text': '12', '@unitCode': 'EA' },
            'cbc:LineExtensionAmount': { '#text': '30.90' },
            'cac:Item': { 'cbc:Name': 'Jar <500 ml> & "lid" ÅŻ', 'cac:SellersItemIdentification': { 'cbc:ID': `P${item}` } },
          },
        },
        { 'cac:LineItem': { 'cbc:LineExtensionAmount': { '#text': '0.30' } } },
      ],
    });
  });

  it('is printed as PDF, as many pages as it needs', async () => {
    const lines = (await house.rows<{ item: number }>(`SELECT id AS item FROM item WHERE retired_at IS NULL LIMIT 90`)).map((r) => ({
      ...r,
      qty: '1',
    }));
    const { id } = (await office.ask('purchasing.make', { body: { supplier: 1, due: '2030-01-31', lines } })).reply;
    const pdf = Buffer.from(await (await office.raw(`/api/purchasing/orders/${id}/order.pdf`)).arrayBuffer());
    expect(pdf.subarray(0, 5).toString()).toBe('%PDF-');
    expect(pdf.toString('latin1').match(/\/Type \/Page\b/g)?.length).toBeGreaterThan(2);
  });
});

describe('what to buy', () => {
  it('B11 is the items that fall short, each with its reckoning; a draft of it is not proposed again', async () => {
    const { id: item, code } = await newItem();
    const row = async () => (await office.ask('purchasing.reorder', { query: { item } })).reply.rows[0];
    expect(await row()).toBeUndefined();
    expect((await office.ask('purchasing.setLevel', { body: { item, least: '20', most: '10', pack: null } })).problem.detail).toBe(
      `${code}: the least, 20, is more than the most, 10.`,
    );
    expect((await office.ask('purchasing.setLevel', { body: { item, least: '1.5', most: null, pack: null } })).status).toBe(422);
    await office.ask('purchasing.setLevel', { body: { item, least: '20', most: '50', pack: null } });
    expect(await row()).toMatchObject({ reason: 'least', buy: '50', position: '0', supplier: { id: 1, partNo: `P${item}` } });
    const { orders } = (await office.ask('purchasing.draft', { body: { lines: [{ item, supplier: null, qty: '50' }] } })).reply;
    expect(orders).toMatchObject([{ lines: 1 }]);
    expect(await row()).toMatchObject({ reason: null, buy: '0', drafted: '50' });
    await open(orders[0]?.id ?? 0);
    expect(await row()).toMatchObject({ reason: null, coming: '50', drafted: '0' });
  });

  it('B11 what orders wait for is bought without any level, and what nobody sells is said', async () => {
    const { id: item, code } = await newItem();
    await lead.ask('orders.make', { body: { customer: 1, due: '2030-01-01', lines: [{ item, qty: '7' }] } });
    expect((await office.ask('purchasing.reorder', { query: { item } })).reply.rows).toMatchObject([
      { reason: 'waiting', waiting: '7', buy: '7' },
    ]);
    await house.rows(`DELETE FROM item_supplier WHERE item_id = ?`, [item]);
    const refused = await office.ask('purchasing.draft', { body: { lines: [{ item, supplier: null, qty: '7' }] } });
    expect(refused.problem.detail).toBe(`No supplier is known for ${code}. Say on its page who sells it.`);
  });

  it('B11 counts what can be used and what waits for inspection, not what has failed; what left and came back was not used', async () => {
    const { rows } = (await office.ask('purchasing.reorder', {})).reply;
    expect(rows.length).toBeGreaterThan(5);
    for (const row of rows.slice(0, 20)) {
      const [plain] = await house.rows<{ here: string; promised: string }>(
        `SELECT trim_scale(coalesce(sum(qty) FILTER (WHERE usable OR (condition = 'inspect' AND NOT expired)), 0))::text AS here,
           (SELECT trim_scale(coalesce(sum(p.qty), 0))::text FROM promise p WHERE p.item_id = ? AND p.site_id = 1) AS promised
         FROM stock_fact WHERE item_id = ? AND site_id = 1`,
        [row.item, row.item],
      );
      expect({ here: row.here, promised: row.promised }).toEqual(plain);
      const sum = Number(row.here) + Number(row.coming) + Number(row.drafted) - Number(row.promised) - Number(row.waiting);
      expect(Number(row.position)).toBeCloseTo(sum, 3);
    }
  });
});

describe('purchase orders from a sheet', () => {
  it('become drafts, all or none; the same sheet a second time is seen', async () => {
    const { code } = await newItem();
    const [supplier] = await house.rows<{ code: string }>(`SELECT code FROM supplier WHERE id = 1`);
    const csv = (ref: string, qty: string): string => `Supplier,Item,Quantity,Order\n${supplier?.code},${code},${qty},${ref}\n`;
    const bad = await dryRun(house, office, 'purchasing.import', 'week.csv', csv('W1', 'some'));
    expect(bad.rows).toMatchObject([{ verdict: 'fault', says: '“some” is no quantity.' }]);
    const good = await dryRun(house, office, 'purchasing.import', 'week.csv', csv('W1', '24'));
    expect((await goAhead(house, office, good.job)).state).toBe('done');
    const { orders } = (await office.ask('purchasing.list', { query: { q: 'W1', state: 'draft' } })).reply;
    expect(orders).toMatchObject([{ state: 'draft', lines: 1, total: '60.00' }]);
    const again = await dryRun(house, office, 'purchasing.import', 'week.csv', csv('w1', '24'));
    expect(again.rows[0]?.says).toContain(`Order w1 was imported before, as ${orders[0]?.number}`);
  });

  it('two people let the same sheet go ahead at once: it is imported once', async () => {
    const { code } = await newItem();
    const [supplier] = await house.rows<{ code: string }>(`SELECT code FROM supplier WHERE id = 1`);
    const csv = `Supplier,Item,Quantity,Order\n${supplier?.code},${code},24,TWICE\n`;
    const runs = [
      await dryRun(house, office, 'purchasing.import', 'a.csv', csv),
      await dryRun(house, lead, 'purchasing.import', 'b.csv', csv),
    ];
    const ends = await Promise.all([goAhead(house, office, runs[0]?.job ?? 0), goAhead(house, lead, runs[1]?.job ?? 0)]);
    expect(ends.map((e) => e.state).sort()).toEqual(['done', 'failed']);
    expect((await office.ask('purchasing.list', { query: { q: 'TWICE' } })).reply.orders).toHaveLength(1);
  }, 60_000);
});
