import { mkdtemp, readdir, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { beforeAll, describe, expect, it } from '@jest/globals';
import { withCheckDigit } from '#core/items';
import { writeAdvice, type SentAdvice, type SentGoods } from '../../devices/supplier/write-advice.ts';
import { lyingOf } from '../testing/goods.ts';
import { openHand, type Hand } from '../testing/hand.ts';
import { houseForTests } from '../testing/house.ts';
import { upload } from '../testing/sheets.ts';
import { takeDropped } from './drop-folder.ts';
import { readUblAdvice } from './ubl-advice.ts';

const { house, lead, office, hand } = houseForTests({ lead: 'Maren Oake', office: 'Odile Wrack', hand: 'Jory Penhale' });
let jory: Hand;
beforeAll(async () => {
  const [person] = await house.rows<{ id: number }>(`SELECT id FROM person WHERE name = 'Jory Penhale'`);
  jory = await openHand(hand, person?.id ?? 0);
});

let made = 0;
const next = (): number => (made += 1);
const newSscc = (): string => withCheckDigit(`39520002${String(next()).padStart(9, '0')}`);
const newItem = async (tracking: 'none' | 'lotExpiry' | 'serial' = 'none'): Promise<{ id: number; code: string }> => {
  const code = `ADV-${next()}`;
  const body = { code, description: `Advised ${code}`, group: 'Test', unit: 'each', decimals: 0, tracking };
  return { id: (await lead.ask('items.make', { body })).reply.id, code };
};
const sent = (no: string, item: { code: string }, qty: number, more: Partial<SentGoods> = {}): SentGoods => ({
  ...{ no, qty: String(qty), unitCode: 'EA', name: item.code, buyerCode: item.code },
  ...more,
});
/** An order of three things that is open, and what the supplier announces of it: two pallets. */
async function announced() {
  const [plain, dated, serial] = [await newItem(), await newItem('lotExpiry'), await newItem('serial')];
  const lines = [plain, dated, serial].map((i, n) => ({ item: i.id, qty: String([20, 12, 2][n]), cost: '1.50' }));
  const order = (await office.ask('purchasing.make', { body: { supplier: 1, due: '2026-12-24', lines } })).reply;
  await lead.ask('purchasing.approve', { params: { id: order.id }, body: { version: 1 } });
  const [supplier] = await house.rows<{ code: string; name: string }>(`SELECT code, name FROM supplier WHERE id = 1`);
  if (!supplier) throw new Error('The demo has suppliers.');
  const [first, second] = [newSscc(), newSscc()];
  const advice: SentAdvice = {
    ...{ reference: `DN-${next()}`, issued: '2026-11-20', due: '2026-12-20', supplier, buyer: 'Us', order: order.number },
    units: [
      { sscc: first, goods: [sent('1', plain, 15), sent('2', dated, 12, { lot: 'L-1', expires: '2031-05-31' })] },
      { sscc: second, goods: [sent('3', serial, 2, { serials: [`S${made}a`, `S${made}b`] }), sent('1', plain, 5)] },
    ],
  };
  return { plain, dated, serial, order, advice, first, second };
}
const take = async (advice: SentAdvice | string, who = office) => {
  const text = typeof advice === 'string' ? advice : writeAdvice(advice);
  const { id } = await upload(who, 'advice.xml', text);
  return who.ask('receiving.takeNotice', { body: { file: id } });
};
type Fact = { kind: string; rows: unknown[][] };
const unitsKnown = async (): Promise<Record<string, unknown[][]>> => {
  const { reply } = await hand.ask('hands.facts', { query: { kind: 'notice' } });
  const rows = (reply.parts as Fact[]).flatMap((p) => (p.kind === 'notice' ? p.rows : []));
  return Object.fromEntries(rows.flatMap((r) => r[5] as [string, unknown[][]][]));
};
const scanUnit = (delivery: number, sscc: string, goods: readonly unknown[][]) =>
  jory.tells({
    ...{ kind: 'receive.unit', delivery, sscc },
    goods: goods.map(([item, pack, qty, lot, expires, made_, serial]) => ({ item, pack, qty, lot, expires, made: made_, serial })),
  });
const start = async (order: number): Promise<number> => (await hand.ask('receiving.start', { body: { orders: [order] } })).reply.id;

describe('C1, C15 notices of what is on its way', () => {
  it('a pallet that was announced is received by one scan, with lots and serials; the notice is over when all has come', async () => {
    const { plain, dated, serial, order, advice, first, second } = await announced();
    const taken = await take(advice);
    expect(taken.reply).toMatchObject({ isNew: true });
    const known = await unitsKnown();
    const delivery = await start(order.id);
    expect((await scanUnit(delivery, first, known[first] ?? [])).outcome).toBe('done');
    const { unitList } = (await lead.ask('receiving.notice', { params: { id: taken.reply.id } })).reply;
    expect(unitList.map((u) => [u.sscc, u.state, u.byScan]).sort()).toEqual(
      [
        [first, 'scanned', true],
        [second, 'coming', true],
      ].sort(),
    );
    const review = (await lead.ask('receiving.delivery', { params: { id: delivery } })).reply;
    expect(review.lines.map((l) => l.standing)).toEqual(['short', 'full', 'waiting']);
    await lead.ask('receiving.post', { params: { id: delivery }, body: {} });
    expect(await lyingOf(house, dated.id)).toEqual({ ARRIVALS: 12 });
    // What has come is announced to nobody any more.
    expect(Object.keys(await unitsKnown())).not.toContain(first);
    expect((await lead.ask('receiving.notice', { params: { id: taken.reply.id } })).reply).toMatchObject({ state: 'coming', come: 1 });
    const later = await start(order.id);
    expect((await scanUnit(later, second, known[second] ?? [])).outcome).toBe('done');
    const posted = await lead.ask('receiving.post', { params: { id: later }, body: {} });
    expect(posted.status).toBe(200);
    expect(await lyingOf(house, plain.id)).toEqual({ ARRIVALS: 20 });
    expect(await lyingOf(house, serial.id)).toEqual({ ARRIVALS: 2 });
    expect((await lead.ask('receiving.notice', { params: { id: taken.reply.id } })).reply.state).toBe('arrived');
    // A line that is reversed is expected again, and so is its pallet's notice.
    const entry = (await lead.ask('receiving.delivery', { params: { id: later } })).reply.entryList.find((e) => e.item === plain.id);
    await lead.ask('receiving.reverse', { params: { id: later, entry: entry?.id ?? 0 }, body: { reason: 'Not there' } });
    await house.expectCleanAudit();
  });

  it('the same file again is the same notice; a correction stands instead, until something has come', async () => {
    const { plain, order, advice, first } = await announced();
    const one = (await take(advice)).reply;
    expect((await take(advice)).reply).toEqual({ ...one, isNew: false });
    const corrected = { ...advice, units: [{ sscc: first, goods: [sent('1', plain, 7)] }] };
    expect((await take(corrected)).reply).toMatchObject({ id: one.id, number: one.number, isNew: true });
    const known = await unitsKnown();
    expect(known[first]?.map((g) => g[2])).toEqual([7000]);
    await scanUnit(await start(order.id), first, known[first] ?? []);
    expect((await take(advice)).problem.code).toBe('receiving.noticeBegun');
    expect((await lead.ask('receiving.withdrawNotice', { params: { id: one.id }, body: { withdrawn: true } })).problem.code).toBe(
      'receiving.noticeBegun',
    );
    expect((await unitsKnown())[first]?.map((g) => g[2])).toEqual([7000]);
  });

  it('one that is withdrawn is announced to nobody, and may be taken up again', async () => {
    const { advice, first } = await announced();
    const { id } = (await take(advice)).reply;
    const withdraw = (withdrawn: boolean) => lead.ask('receiving.withdrawNotice', { params: { id }, body: { withdrawn } });
    await withdraw(true);
    expect(Object.keys(await unitsKnown())).not.toContain(first);
    expect((await lead.ask('receiving.notices', { query: { state: 'withdrawn' } })).reply.notices.map((n) => n.id)).toContain(id);
    await withdraw(false);
    expect(Object.keys(await unitsKnown())).toContain(first);
    expect((await hand.ask('receiving.withdrawNotice', { params: { id }, body: { withdrawn: true } })).status).toBe(403);
  });

  it('a pallet of which a lot is not told is not proposed: it is scanned thing by thing', async () => {
    const { dated, advice, first, second } = await announced();
    const lotless = { ...advice, units: [{ sscc: first, goods: [sent('2', dated, 12)] }, ...advice.units.slice(1)] };
    const { id } = (await take(lotless)).reply;
    expect(Object.keys(await unitsKnown())).toEqual(expect.arrayContaining([second]));
    expect(Object.keys(await unitsKnown())).not.toContain(first);
    const { unitList } = (await lead.ask('receiving.notice', { params: { id } })).reply;
    expect(unitList.find((u) => u.sscc === first)?.byScan).toBe(false);
  });

  it('two leads who post the last two pallets at once leave no notice open', async () => {
    const { order, advice, first, second, plain } = await announced();
    const { id } = (await take(advice)).reply;
    const known = await unitsKnown();
    const one = await start(order.id);
    const other = (await hand.ask('receiving.start', { body: { supplier: 1 } })).reply.id;
    await scanUnit(one, first, known[first] ?? []);
    await scanUnit(other, second, known[second] ?? []);
    const posted = await Promise.all([one, other].map((d) => lead.ask('receiving.post', { params: { id: d }, body: {} })));
    expect(posted.map((p) => p.status)).toEqual([200, 200]);
    expect((await lead.ask('receiving.notice', { params: { id } })).reply.state).toBe('arrived');
    expect(await lyingOf(house, plain.id)).toEqual({ ARRIVALS: 20 });
    await house.expectCleanAudit();
  });

  it.each<[string, (xml: string) => string, string]>([
    [
      'an entity bomb',
      (x) => x.replace('<DespatchAdvice', '<!DOCTYPE x [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;">]>\n<DespatchAdvice'),
      'document type',
    ],
    ['half a file', (x) => x.slice(0, x.length / 2), 'no XML that can be read'],
    ['another paper', (x) => x.replaceAll('DespatchAdvice', 'Invoice'), 'no UBL 2.1 DespatchAdvice'],
    ['no XML at all', () => 'Dear Sirs,', 'cannot be read'],
    ['an unknown unit', (x) => x.replaceAll('unitCode="EA"', 'unitCode="ZZZ"'), '“ZZZ” is no unit'],
    ['29 February 2027', (x) => x.replaceAll('2031-05-31', '2027-02-29'), 'there is no day “2027-02-29”'],
    ['a quantity of 1e9', (x) => x.replaceAll('>15<', '>1000000000<'), 'is no quantity'],
  ])('refuses %s in words, at the desk and from the folder, and changes nothing', async (name, spoil, says) => {
    const { advice, first } = await announced();
    const spoilt = spoil(writeAdvice(advice));
    const refused = await take(spoilt);
    expect(refused.status).toBe(422);
    expect(refused.problem.detail).toContain(says);
    const folder = await mkdtemp(path.join(tmpdir(), 'notices-'));
    await writeFile(path.join(folder, `${name}.xml`), spoilt);
    await takeDropped(house.db, folder);
    expect(await readdir(path.join(folder, 'refused'))).toEqual([`${name}.xml`]);
    const told = (await lead.ask('receiving.notices', { query: {} })).reply.refused.find((r) => r.fileName === `${name}.xml`);
    expect(told?.says).toContain(says);
    await office.ask('receiving.seenRefused', { params: { id: told?.id ?? 0 } });
    expect((await lead.ask('receiving.notices', { query: {} })).reply.refused.map((r) => r.id)).not.toContain(told?.id);
    expect(Object.keys(await unitsKnown())).not.toContain(first);
  });

  it('what is dropped is taken in once, whole files only; a hand may not bring one, nor an order of another site', async () => {
    const { advice, first } = await announced();
    const folder = await mkdtemp(path.join(tmpdir(), 'notices-'));
    const xml = writeAdvice(advice);
    await writeFile(path.join(folder, 'a.xml'), xml);
    await writeFile(path.join(folder, 'b.xml.part'), xml.slice(0, 100));
    await takeDropped(house.db, folder);
    // As after a kill between the taking in and the putting aside.
    await writeFile(path.join(folder, 'a.xml'), xml);
    await takeDropped(house.db, folder);
    expect((await readdir(folder)).sort()).toEqual(['b.xml.part', 'taken']);
    expect(Object.keys(await unitsKnown())).toContain(first);
    const { notices } = (await lead.ask('receiving.notices', { query: {} })).reply;
    expect(notices.filter((n) => n.reference === advice.reference)).toMatchObject([{ by: null, units: 2, come: 0 }]);
    expect((await upload(hand, 'advice.xml', xml)).status).toBe(403);
    const { id } = await upload(office, 'advice.xml', writeAdvice({ ...advice, reference: 'X-1' }));
    const elsewhere = await lead.ask('receiving.takeNotice', { body: { file: id }, site: 2 });
    expect(elsewhere.status).toBe(422);
  });
});

describe('the file itself', () => {
  // Of the standard's own schema, the children of each aggregate in their order, as far as they are used here.
  const ORDER: Readonly<Record<string, readonly string[]>> = {
    DespatchAdvice: (
      'UBLVersionID CustomizationID ProfileID ProfileExecutionID ID CopyIndicator UUID IssueDate IssueTime DocumentStatusCode ' +
      'DespatchAdviceTypeCode Note LineCountNumeric OrderReference AdditionalDocumentReference Signature DespatchSupplierParty ' +
      'DeliveryCustomerParty BuyerCustomerParty SellerSupplierParty OriginatorCustomerParty Shipment DespatchLine'
    ).split(' '),
    Party: ['PartyIdentification', 'PartyName'],
    Shipment: 'ID TotalTransportHandlingUnitQuantity Consignment GoodsItem ShipmentStage Delivery TransportHandlingUnit'.split(' '),
    TransportHandlingUnit: ['ID', 'TransportHandlingUnitTypeCode', 'HandlingUnitDespatchLine', 'ActualPackage'],
    DespatchLine:
      'ID UUID Note LineStatusCode DeliveredQuantity BackorderQuantity OrderLineReference DocumentReference Item Shipment'.split(' '),
    OrderLineReference: ['LineID', 'SalesOrderLineID', 'UUID', 'LineStatusCode', 'OrderReference'],
    Item: (
      'Description Name BuyersItemIdentification SellersItemIdentification ManufacturersItemIdentification ' +
      'StandardItemIdentification ItemInstance'
    ).split(' '),
    ItemInstance: (
      'ProductTraceID ManufactureDate ManufactureTime BestBeforeDate RegistrationID SerialID AdditionalItemProperty ' + 'LotIdentification'
    ).split(' '),
    LotIdentification: ['LotNumberID', 'ExpiryDate'],
  };
  it('has its elements in the order of the standard, with what the standard requires', async () => {
    const { advice, plain } = await announced();
    const xml = writeAdvice({ ...advice, loose: [sent('9', plain, 1, { gtin: '09520000000011', sellerCode: 'T-1' })] });
    const { XMLParser } = await import('fast-xml-parser');
    type Tree = Record<string, unknown>;
    const tree = new XMLParser({ preserveOrder: true, removeNSPrefix: true }).parse(xml) as Tree[];
    const walk = (name: string, children: readonly Tree[]): void => {
      const names = children.flatMap((c) => Object.keys(c)).filter((n) => n !== '#text' && n !== ':@');
      const order = ORDER[name === 'HandlingUnitDespatchLine' ? 'DespatchLine' : name];
      if (order) {
        const places = names.map((n) => order.indexOf(n));
        expect([name, names.filter((n) => !order.includes(n))]).toEqual([name, []]);
        expect([name, places]).toEqual([name, [...places].sort((a, b) => a - b)]);
      }
      if (name.endsWith('DespatchLine'))
        for (const must of ['ID', 'DeliveredQuantity', 'OrderLineReference', 'Item']) expect(names).toContain(must);
      for (const child of children) for (const [n, inner] of Object.entries(child)) if (Array.isArray(inner)) walk(n, inner as Tree[]);
    };
    const root = tree.find((t) => 'DespatchAdvice' in t)?.['DespatchAdvice'] as Tree[];
    walk('DespatchAdvice', root);
  });
  it('says back what it was written from, with units at the lines as well as at the shipment', async () => {
    const { advice, first, second, plain } = await announced();
    const read = readUblAdvice('a.xml', Buffer.from(writeAdvice({ ...advice, loose: [sent('9', plain, 4)] })));
    expect(read.lines.map((l) => [l.no, l.sscc, l.qty, l.lot, l.serials.length])).toEqual([
      ['1', first, '15', null, 0],
      ['2', first, '12', 'L-1', 0],
      ['3', second, '2', null, 2],
      ['1', second, '5', null, 0],
      ['9', null, '4', null, 0],
    ]);
    const atLine = `<DespatchAdvice xmlns="urn:oasis:names:specification:ubl:schema:xsd:DespatchAdvice-2"
      xmlns:b="urn:oasis:names:specification:ubl:schema:xsd:CommonBasicComponents-2"><b:ID>DN-1</b:ID>
      <DespatchLine><b:ID>1</b:ID><b:DeliveredQuantity unitCode="C62">3</b:DeliveredQuantity>
        <Item><b:Name>Jar</b:Name></Item>
        <Shipment><b:ID>1</b:ID><TransportHandlingUnit><b:ID>00${first}</b:ID></TransportHandlingUnit></Shipment></DespatchLine>
      </DespatchAdvice>`;
    expect(readUblAdvice('a.xml', Buffer.from(atLine)).lines).toMatchObject([
      { no: '1', sscc: first, qty: '3', unitCode: 'C62', name: 'Jar' },
    ]);
  });
});
