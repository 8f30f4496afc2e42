import { describe, expect, it } from '@jest/globals';
import sharp from 'sharp';
import { withCheckDigit } from '#core/items';
import type { Item } from '#contract/items';
import { parseSheet } from '#server/kernel';
import { houseForTests } from '../testing/house.ts';
import { dryRun, goAhead, jobEnd, upload } from '../testing/sheets.ts';

const { house, lead, office, hand } = houseForTests({ lead: 'Maren Oake', office: 'Odile Wrack', hand: 'Tobin Sallow' });
const newItem = async (code: string, over: object = {}): Promise<Item> =>
  (
    await office.ask('items.make', {
      body: { code, description: `${code} of the test`, group: 'Test', unit: 'each', decimals: 0, tracking: 'none', ...over },
    })
  ).reply;
const makeBody = (code: string) => ({ code, description: 'x', group: 'Test', unit: 'each', decimals: 0, tracking: 'none' as const });
const recordOf = (i: Item) => ({
  description: i.description,
  group: i.group,
  decimals: i.decimals,
  shelfLifeMonths: i.shelfLifeMonths,
  storageClass: i.storageClass,
  weightGrams: i.weightGrams,
  volumeMl: i.volumeMl,
  countClass: i.countClass,
  own: i.own,
  version: i.version,
});
const search = async (q: string, over: Record<string, string> = {}) => (await office.ask('items.search', { query: { q, ...over } })).reply;
const iso = (days: number): string => new Date(Date.now() + days * 86_400_000).toISOString().slice(0, 10);

describe('B1–B5 the record', () => {
  it('a copy has everything of the item but what is of one item only', async () => {
    const item = await newItem('CP-1', { barcode: withCheckDigit('590000000001'), price: '12.50' });
    await office.ask('items.savePack', {
      params: { id: item.id },
      body: { name: 'case', units: '12', lengthMm: 400, widthMm: 300, heightMm: 200, weightG: 6000 },
    });
    const changed = await office.ask('items.change', {
      params: { id: item.id },
      body: { ...recordOf(item), storageClass: 'cold', volumeMl: 900, note: 'Keep dry.' },
    });
    expect(changed.reply).toMatchObject({ storageClass: 'cold', volumeMl: 900, note: 'Keep dry.' });
    const copy = (await office.ask('items.copy', { params: { id: item.id }, body: { code: 'cp-2', description: 'The other one' } })).reply;
    expect(copy).toMatchObject({ code: 'CP-2', storageClass: 'cold', price: '12.50', homes: [] });
    expect(copy.packs.map((p) => [p.name, p.units, p.weightG, p.barcodes])).toEqual([
      ['each', '1', null, []],
      ['case', '12', 6000, []],
    ]);
  });
  it('a barcode stays where it is, also when it comes with or without its leading zero', async () => {
    const upc = withCheckDigit('03600029145');
    const [one, other] = [await newItem('BC-1', { barcode: upc }), await newItem('BC-2')];
    const tie = await office.ask('items.addBarcode', {
      params: { id: other.id },
      body: { code: `0${upc}`, pack: other.packs[0]?.id ?? 0 },
    });
    expect(tie.problem.detail).toBe(`Barcode 0${upc} already belongs to BC-1. It was left there.`);
    expect((await hand.ask('desk.scan', { query: { code: `0${upc}` } })).reply).toMatchObject({ kind: 'item', item: one.id });
    expect((await hand.ask('desk.scan', { query: { code: `00${upc}` } })).reply).toMatchObject({ kind: 'item', item: one.id });
  });
  it('own fields take only what fits them, and are found by search', async () => {
    await office.ask('items.makeOwnField', { body: { label: 'Fire risk', kind: 'choice', choices: ['none', 'flammable'] } });
    await office.ask('items.makeOwnField', { body: { label: 'Tested on', kind: 'date' } });
    const item = await newItem('OF-1');
    const set = async (own: Record<string, string>) => {
      const { version } = (await office.ask('items.item', { params: { id: item.id } })).reply;
      return office.ask('items.change', { params: { id: item.id }, body: { ...recordOf(item), own, version } });
    };
    expect((await set({ 'Fire risk': 'bees' })).problem.detail).toBe('“bees” does not fit Fire risk: one of none, flammable is wanted.');
    expect((await set({ 'Tested on': '2027-02-30' })).problem.detail).toContain('a date such as');
    expect((await set({ Colour: 'red' })).problem.detail).toBe('There is no own field “Colour”.');
    expect((await set({ 'Fire risk': 'flammable' })).reply.own).toEqual({ 'Fire risk': 'flammable' });
    expect((await search('flammable')).items.map((i) => i.code)).toEqual(['OF-1']);
  });
  it('keeps pictures small and true, and refuses what only says that it is one', async () => {
    const item = await newItem('PX-1');
    const picture = await sharp({ create: { width: 3000, height: 2000, channels: 3, background: '#ffb000' } })
      .jpeg()
      .toBuffer();
    const sent = await upload(office, 'hive.jpg', picture);
    const kept = (await office.ask('items.attach', { params: { id: item.id }, body: { file: sent.id } })).reply.files;
    expect(kept).toMatchObject([{ name: 'hive.jpg', type: 'image/webp' }]);
    const thumb = Buffer.from(await (await hand.raw(`/api/files/${sent.id}?thumb`)).arrayBuffer());
    expect(await sharp(thumb).metadata()).toMatchObject({ width: 240, height: 160, format: 'webp' });
    expect((await upload(office, 'not.png', 'GIF89a, or so it says')).detail).toBe(
      'not.png is not a picture that can be opened, whatever its name says.',
    );
    const sheet = await upload(office, 'a.csv', 'a,b\n1,2');
    expect((await office.ask('items.attach', { params: { id: item.id }, body: { file: sheet.id } })).problem.detail).toContain(
      'an item takes pictures and PDF',
    );
  });
  it('every item looks like something: its first picture, small, else a plain box; asked again it is not sent again', async () => {
    const item = await newItem('<b>-9');
    const look = async (headers: Record<string, string> = {}) => hand.raw(`/api/items/${item.id}/picture`, { headers });
    const plain = await look();
    const drawn = await plain.text();
    expect(plain.headers.get('content-type')).toContain('image/svg+xml');
    expect(drawn).toContain('>B9</text>');
    expect(drawn).not.toMatch(/<b>/i);
    expect(plain.headers.get('content-security-policy')).toContain("default-src 'none'");
    const paper = await upload(office, 'safety.pdf', '%PDF-1.4\n%%EOF');
    const bytes = await sharp({ create: { width: 900, height: 600, channels: 3, background: '#55978f' } })
      .png()
      .toBuffer();
    const picture = await upload(office, 'front.png', bytes);
    for (const file of [paper, picture]) await office.ask('items.attach', { params: { id: item.id }, body: { file: file.id } });
    const shown = await look();
    expect(await sharp(Buffer.from(await shown.arrayBuffer())).metadata()).toMatchObject({ width: 240, format: 'webp' });
    const tag = shown.headers.get('etag') ?? '';
    expect(tag).not.toBe(plain.headers.get('etag'));
    expect((await look({ 'If-None-Match': tag })).status).toBe(304);
    expect((await hand.raw('/api/items/99999999/picture')).status).toBe(404);
  });
  it('retires only what is neither in stock nor in work', async () => {
    const [stocked] = await house.rows<{ id: number; code: string }>(
      `SELECT i.id, i.code FROM item i JOIN balance b ON b.item_id = i.id WHERE b.qty > 0 LIMIT 1`,
    );
    expect((await office.ask('items.retire', { params: { id: stocked?.id ?? 0 }, body: { retired: true } })).problem.code).toBe(
      'items.hasStock',
    );
    const item = await newItem('RT-1');
    expect((await office.ask('items.retire', { params: { id: item.id }, body: { retired: true } })).reply.retired).toBe(true);
    expect((await search('RT-1')).items).toEqual([]);
    expect((await search('RT-1', { retired: 'yes' })).items).toHaveLength(1);
  });
});

describe('B1 A7 opening stock', () => {
  it('enters bin by bin as one document, and asks for the lots and serials that the item needs', async () => {
    const lot = await newItem('OS-1', { tracking: 'lotExpiry' });
    const open = (body: { lines: object[] }) => office.ask('stock.opening', { params: { id: lot.id }, body: body as never });
    expect((await open({ lines: [{ bin: 'A-02-1', qty: '5' }] })).problem.code).toBe('receiving.lotWanted');
    expect((await open({ lines: [{ bin: 'A-02-1', qty: '5', lot: 'L1' }] })).problem.code).toBe('receiving.dateWanted');
    const done = await open({
      lines: [
        { bin: 'A-02-1', qty: '5', lot: 'L1', expires: iso(90) },
        { bin: 'A-02-2', qty: '7', lot: 'L1', expires: iso(90) },
      ],
    });
    expect(done.reply.qty).toBe('12');
    const serial = await newItem('OS-2', { tracking: 'serial' });
    const serials = await office.ask('stock.opening', {
      params: { id: serial.id },
      body: { lines: [{ bin: 'A-02-3', qty: '2', serials: ['S1', 'S2'] }] },
    });
    expect(serials.reply.qty).toBe('2');
    const twice = await office.ask('stock.opening', {
      params: { id: serial.id },
      body: { lines: [{ bin: 'A-02-4', qty: '1', serials: ['S2'] }], reason: 'Found one more' },
    });
    expect(twice.problem.detail).toBe('Serial S2 of OS-2 is already in stock, in bin A-02-3.');
  });
  it('K1 onto an item with history it is an adjustment, with its reason; two who enter the same opening make one', async () => {
    const item = await newItem('OS-3');
    const enter = (reason?: string) =>
      office.ask('stock.opening', {
        params: { id: item.id },
        body: { lines: [{ bin: 'A-02-4', qty: '5' }], ...(reason ? { reason } : {}) },
      });
    const both = await Promise.all([enter(), enter()]);
    expect(both.map((a) => a.status).sort()).toEqual([200, 409]);
    expect(both.find((a) => a.status === 409)?.problem.detail).toBe(
      'OS-3 has 1 movement at Quillfen Yard already: this is no opening stock but an adjustment. Say why it is made.',
    );
    const more = await enter('Two were behind the shelf');
    expect(more.reply).toMatchObject({ qty: '5', isAdjustment: true });
    const [movement] = await house.rows<{ from_bin: number; reason: string; kind: string }>(
      `SELECT m.from_bin, m.reason, d.kind
       FROM movement m
       JOIN document d ON d.id = m.document_id
       WHERE m.item_id = ?
       ORDER BY m.id DESC
       LIMIT 1`,
      [item.id],
    );
    expect(movement).toEqual({ from_bin: 3, reason: 'Two were behind the shelf', kind: 'adjustment' });
  });
});

describe('B4 changing how an item is tracked', () => {
  it('names lots for everything that is there, and not a piece is lost or invented', async () => {
    const item = await newItem('TC-1');
    await office.ask('stock.opening', {
      params: { id: item.id },
      body: {
        lines: [
          { bin: 'A-03-1', qty: '10' },
          { bin: 'A-03-2', qty: '4' },
        ],
      },
    });
    const [a, b] = await house.rows<{ id: number }>(`SELECT bin_id AS id FROM balance WHERE item_id = ? ORDER BY bin_id`, [item.id]);
    const change = (lines: object[]) =>
      lead.ask('stock.changeTracking', { params: { id: item.id }, body: { tracking: 'lot', lines: lines as never } });
    const line = (bin: number | undefined, qty: string, lot: string) => ({ bin, qty, lot, condition: 'sound' });
    expect((await change([line(a?.id, '10', 'OLD')])).problem).toMatchObject({ code: 'items.trackingSum', there: '4', given: '0' });
    expect((await change([line(a?.id, '6', 'OLD'), line(a?.id, '4', 'NEW'), line(b?.id, '4', 'NEW')])).reply.lines).toBe(3);
    expect(
      await house.rows(
        `SELECT l.code, sum(b.qty)::int AS n FROM balance b JOIN lot l ON l.id = b.lot_id WHERE b.item_id = ? GROUP BY 1 ORDER BY 1`,
        [item.id],
      ),
    ).toEqual([
      { code: 'NEW', n: 8 },
      { code: 'OLD', n: 6 },
    ]);
    expect((await lead.ask('stock.changeTracking', { params: { id: item.id }, body: { tracking: 'none' } })).reply.lines).toBe(3);
    await house.expectCleanAudit();
  });
  it('E3 sets no expired goods free: they are moved away first', async () => {
    const item = await newItem('TC-9', { tracking: 'lotExpiry' });
    const lines = [{ bin: 'A-03-1', qty: '3', lot: 'L1', expires: iso(90) }];
    await office.ask('stock.opening', { params: { id: item.id }, body: { lines } });
    await house.rows(`UPDATE lot SET expires = today_at(1) - 1 WHERE item_id = ?`, [item.id]);
    const change = () => lead.ask('stock.changeTracking', { params: { id: item.id }, body: { tracking: 'none' } });
    expect((await change()).problem).toMatchObject({ code: 'items.trackingFreesExpired', qty: '3', bin: 'A-03-1' });
    await lead.ask('moves.move', { body: { from: 'A-03-1', to: 'QUARANTINE', code: 'TC-9', lot: 'L1', qty: '3' } });
    expect((await change()).status).toBe(200);
    expect((await office.ask('stock.equation', { params: { id: item.id } })).reply.total).toMatchObject({ onHand: '3', free: '0' });
    await house.expectCleanAudit();
  });
  it('waits until no order is open on it', async () => {
    const [open] = await house.rows<{ id: number }>(
      `SELECT l.item_id AS id FROM order_line l JOIN customer_order o ON o.id = l.order_id WHERE o.state = 'open' LIMIT 1`,
    );
    expect((await lead.ask('stock.changeTracking', { params: { id: open?.id ?? 0 }, body: { tracking: 'lot' } })).problem.code).toBe(
      'items.trackingOpen',
    );
  });
});

describe('B12 kits', () => {
  it('refuses a circle with the way round, and says how many can be made at each site', async () => {
    const [kit, inner, nail] = [await newItem('KT-1'), await newItem('KT-2'), await newItem('KT-3')];
    const parts = (id: number, list: [number, string][]) =>
      lead.ask('items.setParts', { params: { id }, body: { parts: list.map(([item, qty]) => ({ item, qty })) } });
    expect(
      (
        await parts(kit.id, [
          [inner.id, '2'],
          [nail.id, '10'],
        ])
      ).reply.parts.map((p) => [p.code, p.qty]),
    ).toEqual([
      ['KT-2', '2'],
      ['KT-3', '10'],
    ]);
    expect((await parts(inner.id, [[kit.id, '1']])).problem.detail).toBe('A kit cannot contain itself: KT-2 → KT-1 → KT-2.');
    await office.ask('stock.opening', { params: { id: nail.id }, body: { lines: [{ bin: 'A-03-3', qty: '35' }] } });
    await office.ask('stock.opening', { params: { id: inner.id }, body: { lines: [{ bin: 'A-03-4', qty: '9' }] } });
    const { sites } = (await hand.ask('stock.kit', { params: { id: kit.id } })).reply;
    expect(sites[0]).toMatchObject({ kits: 3, scarcest: 'KT-3' });
    expect(sites[1]?.kits).toBe(0);
  });
});

describe('B7 D4 price lists', () => {
  let supplier = 0;
  const list = (rows: string[]): string => ['Art. no;Text;EAN;Net;Retail', ...rows].join('\r\n');
  const importList = async (csv: string, holdsFrom = iso(0)) => {
    const file = await upload(office, 'prices.csv', csv);
    const columns = (await office.ask('items.priceColumns', { params: { id: supplier }, query: { file: file.id } })).reply;
    const mapping = columns.remembered
      ? columns.mapping
      : { partNo: 'Art. no', description: 'Text', barcode: 'EAN', cost: 'Net', price: 'Retail' };
    const { reply } = await office.ask('items.importPrices', { params: { id: supplier }, body: { file: file.id, mapping, holdsFrom } });
    return { job: reply.job, remembered: columns.remembered, ...(await jobEnd(house, office, reply.job)) };
  };
  const [e1, e2] = [withCheckDigit('591000000001'), withCheckDigit('591000000002')];

  it('says what is new, changed and gone, remembers the columns, and carries prices to stocked items from their day on', async () => {
    supplier = (await office.ask('items.makeSupplier', { body: { code: 'TST', name: 'Test Wares' } })).reply.id;
    const first = await importList(list([`W-1;Wick large;${e1};1,20;2,40`, `W-2;Wick small;${e2};0,80;1,60`]));
    expect(first).toMatchObject({ state: 'checked', remembered: false, result: { rows: 2, new: 2, faults: 0 } });
    expect((await search('wick', { over: 'lists' })).listRows).toEqual([]);
    expect((await goAhead(house, office, first.job)).state).toBe('done');
    expect((await search('wick larg', { over: 'both' })).listRows.map((r) => [r.partNo, r.cost, r.price])).toEqual([
      ['W-1', '1.2', '2.40'],
    ]);

    const [shelf] = await house.rows<{ id: number; address: string }>(
      `SELECT b.id, b.address FROM bin b JOIN site s ON s.id = b.site_id WHERE s.code = 'SHOP' AND b.use = 'shelf' ORDER BY b.walk LIMIT 1`,
    );
    const shop = (await lead.ask('places.sites')).reply.sites.find((s) => s.code === 'SHOP');
    await office.ask('people.workAt', { body: { site: shop?.id ?? 0 } });
    const rowId = (await search(e1, { over: 'lists' })).listRows[0]?.id ?? 0;
    const added = await office.ask('stock.quickAdd', { body: { row: rowId, bin: shelf?.address ?? '', qty: '6', labels: 'all' } });
    expect(added.reply).toMatchObject({ code: 'W-1', description: 'Wick large', qty: '6', labels: 6 });
    expect((await office.ask('stock.quickAdd', { body: { row: rowId, bin: shelf?.address ?? '', qty: '1' } })).problem.detail).toBe(
      'W-1 is already stocked, as W-1.',
    );
    const wrong = async (day?: string) =>
      (await office.ask('labels.wrong', { query: { limit: 500, ...(day ? { day } : {}) } })).reply.labels
        .filter((l) => l.code === 'W-1')
        .map((l) => [l.onLabel, l.now]);
    expect(await wrong()).toEqual([]);

    const second = await importList(list([`W-1;Wick large;${e1};1,30;2,60`, 'W-3;Wick tin;;5;9']), iso(3));
    expect(second).toMatchObject({ remembered: true, result: { rows: 2, new: 1, changed: 1, gone: 1 } });
    await goAhead(house, office, second.job);
    const item = (await office.ask('items.item', { params: { id: added.reply.item } })).reply;
    expect(item).toMatchObject({ price: '2.40', cost: '1.2' });
    expect(await wrong()).toEqual([]);
    expect(await wrong(iso(3))).toEqual([['2.40', '2.60']]);

    await office.ask('items.setAmount', { params: { id: item.id }, body: { kind: 'price', amount: '2.50', from: iso(0) } });
    expect(await wrong()).toEqual([['2.40', '2.50']]);
    await office.ask('labels.print', { body: { kind: 'shelf', pairs: [{ bin: shelf?.id ?? 0, item: item.id }] } });
    expect(await wrong()).toEqual([]);
    await office.ask('people.workAt', { body: { site: 1 } });
  });
  it('refuses duplicates, wrong check digits and barcodes of other items with the row, and imports nothing', async () => {
    const other = await newItem('PL-9', { barcode: withCheckDigit('591000000009') });
    await office.ask('items.setSupplier', { params: { id: other.id }, body: { supplier, partNo: 'W-9', cost: '1', leadDays: 3 } });
    const run = await importList(
      list([
        `W-4;A;${other.packs[0]?.barcodes[0]};1;1`,
        'W-5;B;;1;1',
        'W-5;C;;1;1',
        'W-6;D;4006381333932;1;1',
        'W-7;E;;a lot;1',
        ';F;;1;1',
      ]),
    );
    const rows = (await office.ask('work.rows', { params: { id: run.job }, query: { verdict: 'fault' } })).reply.rows;
    expect(rows.map((r) => [r.row, r.says])).toEqual([
      [2, `Barcode ${other.packs[0]?.barcodes[0]} already belongs to PL-9, which is part number W-9 of this supplier.`],
      [4, 'Part number W-5 stands in row 3 too.'],
      [5, 'Barcode 4006381333932 has a wrong check digit.'],
      [6, '“a lot” is no cost.'],
      [7, 'The part number is empty.'],
    ]);
    expect((await office.ask('work.goAhead', { params: { id: run.job } })).status).toBe(409);
    expect(await house.rows(`SELECT 1 FROM price_row WHERE part_no = 'W-5'`)).toHaveLength(0);
  });
  it('a job that is cancelled while it works changes nothing', async () => {
    const rows = Array.from({ length: 20_000 }, (_, i) => `C-${i};Cork ${i};;1;2`);
    const run = await importList(list(rows));
    expect(run.result).toMatchObject({ new: 20_000 });
    const began = house.nextChange('jobs');
    await office.ask('work.goAhead', { params: { id: run.job } });
    await began;
    await office.ask('work.cancel', { params: { id: run.job } });
    expect((await jobEnd(house, office, run.job)).state).toBe('cancelled');
    expect(await house.rows(`SELECT 1 FROM price_row WHERE part_no LIKE 'C-%'`)).toHaveLength(0);
  }, 30_000);
});

describe('B8 search', () => {
  it('finds by code, words in any order, half words, part numbers, and in spite of a small slip', async () => {
    const [some] = await house.rows<{ code: string; description: string; part: string }>(
      `SELECT i.code, i.description, x.part_no AS part
       FROM item i
       JOIN item_supplier x ON x.item_id = i.id
       WHERE i.description ~ '^[A-Z][a-z]{5,} [a-z]{5,}'
       ORDER BY i.id
       LIMIT 1`,
    );
    const [first = '', second = ''] = some?.description.toLowerCase().split(/[^a-z]+/) ?? [];
    const codes = async (q: string): Promise<string[]> => (await search(q)).items.map((i) => i.code);
    expect((await codes(some?.code.toLowerCase() ?? ''))[0]).toBe(some?.code);
    expect(await codes(`${second} ${first.slice(0, 4)}`)).toContain(some?.code);
    expect((await codes(some?.part ?? ''))[0]).toBe(some?.code);
    const slip = `${first.slice(0, 2)}${first.slice(3)}`;
    const mended = await search(slip);
    expect(mended.items.length).toBeGreaterThan(0);
    expect(mended.insteadOf).toBe(first);
    expect(await search('qqqzzzxx')).toMatchObject({ items: [], insteadOf: null });
    expect((await search("%_'; DROP TABLE item; --")).items).toEqual([]);
  });
  it('browses page by page without leaving anything out or showing it twice', async () => {
    const seen: string[] = [];
    let after: string | null = null;
    do {
      const { reply }: { reply: { items: { code: string }[]; next: string | null } } = await hand.ask('items.search', {
        query: { limit: 37, ...(after ? { after } : {}) },
      });
      seen.push(...reply.items.map((i) => i.code));
      after = reply.next;
    } while (after);
    const all = await house.rows<{ code: string }>(`SELECT code FROM item WHERE retired_at IS NULL ORDER BY code`);
    expect(seen).toEqual(all.map((r) => r.code));
  });
});

describe('items and homes by sheet', () => {
  it('L7 B5 export gives back what import reads, own fields included; formulas come back as text', async () => {
    const item = await newItem('EX-1');
    await office.ask('items.change', {
      params: { id: item.id },
      body: { ...recordOf(item), description: '=HYPERLINK("http://x.example")', own: { 'Fire risk': 'none' } },
    });
    const csv = await (await office.raw('/api/download/items.csv')).text();
    expect(csv).toContain(`EX-1,"'=HYPERLINK(""http://x.example"")",`);
    const run = await dryRun(house, office, 'items.importItems', 'items.csv', csv);
    expect(run.result).toMatchObject({ new: 0, changed: 0, faults: 0 });
    const change = await dryRun(
      house,
      office,
      'items.importItems',
      'more.csv',
      'Code,Description,Sell price,Fire risk\nEX-1,Plain,3.20,flammable\nEX-2,Another,1,none\nTC-1,x,1,perhaps',
    );
    expect(change.rows.map((r) => [r.verdict, r.says])).toEqual([
      ['changed', 'description =HYPERLINK("http://x.example") → Plain, sell price 0 → 3.20, Fire risk none → flammable.'],
      ['new', 'A new item.'],
      ['fault', '“perhaps” does not fit Fire risk: one of none, flammable is wanted.'],
    ]);
    expect((await hand.raw('/api/download/items.csv')).status).toBe(403);
    const rowsOf = async (path: string) =>
      (await parseSheet(Buffer.from(await (await office.raw(path)).arrayBuffer()), path.replace(/\?.*/, ''))).rows;
    for (const format of ['csv', 'xlsx']) {
      const some = await rowsOf(`/api/download/items.${format}?q=EX-1`);
      expect(some.map((r) => r.cells[0])).toEqual(['EX-1']);
      const stock = await rowsOf(`/api/download/stock.${format}?by=place`);
      const [{ n } = { n: 0 }] = await house.rows<{ n: number }>(`SELECT count(*)::int AS n FROM stock_fact WHERE qty > 0`);
      expect([format, stock.length]).toEqual([format, n]);
    }
  });
  it('A6 a home of another site is taken away by who works there', async () => {
    const item = await newItem('HM-FAR');
    const [far] = await house.rows<{ id: number; address: string }>(
      `SELECT id, address FROM bin WHERE site_id = 2 AND use = 'shelf' ORDER BY id LIMIT 1`,
    );
    await house.rows(`INSERT INTO home_bin (item_id, bin_id, role) VALUES (?, ?, 'face')`, [item.id, far?.id]);
    const pairs = [{ bin: far?.id ?? 0, item: item.id }];
    expect((await hand.ask('items.unassign', { body: { pairs } })).problem).toMatchObject({ code: 'people.otherSite' });
    expect(await house.rows(`SELECT 1 FROM home_bin WHERE item_id = ?`, [item.id])).toHaveLength(1);
    expect((await hand.ask('items.unassign', { site: 2, body: { pairs } })).reply).toEqual({ removed: 1 });
  });
  it('A6 homes by scan and by sheet; a minimum above the maximum is refused', async () => {
    const item = await newItem('HM-1');
    const assign = (min: string, max: string) =>
      hand.ask('items.assign', {
        body: {
          pairs: [
            { bin: 'A-04-1', item: 'HM-1' },
            { bin: 'A-04-2', item: 'hm-1' },
          ],
          role: 'reserve',
          min,
          max,
        },
      });
    expect((await assign('9', '4')).problem.detail).toBe('In bin A-04-1 the minimum 9 is more than the maximum 4.');
    expect((await assign('2', '8')).reply.assigned).toBe(2);
    expect((await office.ask('items.item', { params: { id: item.id } })).reply.homes).toMatchObject([
      { address: 'A-04-1', role: 'reserve', min: '2', max: '8' },
      { address: 'A-04-2' },
    ]);
    const csv = await (await lead.raw('/api/download/homes.csv')).text();
    const run = await dryRun(house, lead, 'items.importHomes', 'homes.csv', `${csv}A-04-3,HM-1,face,1,5\r\nNOPE,HM-1,face,,\r\n`);
    expect(run.result).toMatchObject({ new: 1, changed: 0, faults: 1 });
    const good = await dryRun(house, lead, 'items.importHomes', 'homes.csv', `${csv}A-04-3,HM-1,face,1,5\r\n`);
    expect((await goAhead(house, lead, good.job)).state).toBe('done');
    expect((await office.ask('items.item', { params: { id: item.id } })).reply.homes).toHaveLength(3);
  });
});

describe('B3 a code means one item', () => {
  it('a barcode cannot be another item’s code, nor a code another item’s barcode, by hand or by sheet', async () => {
    const [one, two] = [await newItem('NS-1', { barcode: 'PLAIN-77' }), await newItem('NS-2')];
    const tie = await office.ask('items.addBarcode', { params: { id: one.id }, body: { code: 'ns-2', pack: one.packs[0]?.id ?? 0 } });
    expect(tie.problem.detail).toBe('ns-2 is the code of item NS-2. A code may mean one item only.');
    expect((await office.ask('items.make', { body: { ...makeBody('plain-77') } })).problem.detail).toBe(
      'PLAIN-77 is a barcode of NS-1 already. A code may mean one item only.',
    );
    const run = await dryRun(house, office, 'items.importItems', 'i.csv', 'Code,Description\nPLAIN-77,x');
    expect(run.rows[0]?.says).toBe('PLAIN-77 is a barcode of NS-1 already. A code may mean one item only.');
    expect((await hand.ask('desk.scan', { query: { code: 'NS-2' } })).reply).toMatchObject({ kind: 'item', item: two.id });
  });
  it('where an old record answers twice, the scan is asked about, not guessed', async () => {
    const [one] = [await newItem('NS-3'), await newItem('NS-4')];
    await house.rows(`INSERT INTO barcode (code, item_id, pack_id) VALUES ('NS-4', ?, ?)`, [one.id, one.packs[0]?.id]);
    const scan = await hand.ask('moves.move', { body: { from: 'ARRIVALS', to: 'QUARANTINE', code: 'NS-4', qty: '1' } });
    expect(scan.problem.code).toBe('items.ambiguousCode');
    await house.rows(`DELETE FROM barcode WHERE code = 'NS-4'`);
  });
  it('two people who give one code at once: one gets it', async () => {
    const one = await newItem('NS-5');
    const answers = await Promise.all([
      office.ask('items.addBarcode', { params: { id: one.id }, body: { code: 'NS-RACE', pack: one.packs[0]?.id ?? 0 } }),
      lead.ask('items.make', { body: makeBody('NS-RACE') }),
    ]);
    expect(answers.map((a) => a.status).filter((n) => n === 200)).toHaveLength(1);
  });
  it('packs are told apart without regard to case, and neither pack nor part is half a whole item', async () => {
    const item = await newItem('NS-6');
    const pack = (name: string, units: string) =>
      office.ask('items.savePack', {
        params: { id: item.id },
        body: { name, units, lengthMm: null, widthMm: null, heightMm: null, weightG: null },
      });
    expect((await pack('Case', '12')).status).toBe(200);
    expect((await pack('CASE', '6')).problem.code).toBe('items.packTaken');
    expect((await pack('half', '0.5')).problem.detail).toBe('A pack “half” of 0.5 is not possible: NS-6 is counted whole.');
    const parts = await office.ask('items.setParts', {
      params: { id: (await newItem('NS-7')).id },
      body: { parts: [{ item: item.id, qty: '1.5' }] },
    });
    expect(parts.problem.detail).toBe('A part of 1.5 is not possible: NS-6 is counted whole.');
    const fine = await newItem('NS-8', { decimals: 2 });
    await office.ask('items.savePack', {
      params: { id: fine.id },
      body: { name: 'cut', units: '0.25', lengthMm: null, widthMm: null, heightMm: null, weightG: null },
    });
    const coarse = await office.ask('items.change', { params: { id: fine.id }, body: { ...recordOf(fine), decimals: 0 } });
    expect(coarse.problem.code).toBe('items.partTooFine');
  });
});

describe('B1 the record, by two people and by sheet', () => {
  it('who changes what somebody else changed meanwhile is told', async () => {
    const item = await newItem('VR-1');
    expect((await office.ask('items.change', { params: { id: item.id }, body: { ...recordOf(item), note: 'first' } })).status).toBe(200);
    const second = await lead.ask('items.change', { params: { id: item.id }, body: { ...recordOf(item), description: 'second' } });
    expect(second.problem).toMatchObject({ status: 409, code: 'items.changedMeanwhile' });
    expect((await office.ask('items.item', { params: { id: item.id } })).reply).toMatchObject({
      note: 'first',
      description: 'VR-1 of the test',
    });
  });
  it('a row of a sheet says everything that is wrong with it', async () => {
    const run = await dryRun(house, office, 'items.importItems', 'i.csv', 'Code,Description,Decimals,Sell price,Count class\n,,9,free,AB');
    expect(run.rows[0]?.says).toBe(
      'The code is empty. The item has no description. “9” is no whole number up to 3. “AB” under Count class is not one character. ' +
        '“free” is no price, or can be read in two ways: write 1234 or 1.2340.',
    );
  });
  it('a field cannot be called like a column of the sheet', async () => {
    for (const label of ['Code', 'sell price', 'Unit'])
      expect((await office.ask('items.makeOwnField', { body: { label, kind: 'text', choices: [] } })).problem.code).toBe(
        'items.fieldIsColumn',
      );
  });
  it('a price may be typed with a comma, and floating point’s noise is no price of its own', async () => {
    const item = await newItem('AM-1', { price: '12,50' });
    expect(item.price).toBe('12.50');
    const set = (amount: string) =>
      office.ask('items.setAmount', { params: { id: item.id }, body: { kind: 'cost', amount, from: iso(-1) } });
    expect((await set('3.3000000000000003')).reply.cost).toBe('3.3');
    expect((await set('1,234')).problem.detail).toContain('can be read in two ways');
    expect((await set('abc')).problem.detail).toContain('is no amount such as 12.50');
  });
});

describe('B7 a list whose commas are decimals', () => {
  it('is read by its column, and asked about where nothing shows it', async () => {
    const supplier = (await office.ask('items.makeSupplier', { body: { code: 'COMMA', name: 'Comma & Sons' } })).reply.id;
    const list = async (csv: string, decimal?: ',') => {
      const { id } = await upload(office, 'list.csv', csv);
      const { reply } = await office.ask('items.importPrices', {
        params: { id: supplier },
        body: { file: id, mapping: { partNo: 'No', description: 'Text', cost: 'Net' }, holdsFrom: iso(0), ...(decimal ? { decimal } : {}) },
      });
      return { job: reply.job, ...(await jobEnd(house, office, reply.job)) };
    };
    const shown = await list('No;Text;Net\nC-1;Wax;1,234\nC-2;Pins;0,125');
    expect(shown.state).toBe('checked');
    await goAhead(house, office, shown.job);
    expect(
      await house.rows(`SELECT part_no, trim_scale(cost)::text AS cost FROM price_row WHERE supplier_id = ? ORDER BY 1`, [supplier]),
    ).toEqual([
      { part_no: 'C-1', cost: '1.234' },
      { part_no: 'C-2', cost: '0.125' },
    ]);
    const unclear = await list('No;Text;Net\nC-1;Wax;2,500');
    expect(unclear).toMatchObject({ state: 'failed' });
    expect(unclear.said).toContain('“2,500” can be read as 2500 or as 2.500');
    expect((await list('No;Text;Net\nC-1;Wax;2,500', ',')).state).toBe('checked');
  });
});

describe('A10 where an item lies', () => {
  it('is asked by its very code, or by what begins so', async () => {
    const [one, more] = [await newItem('WH-1'), await newItem('WH-10')];
    const where = async (q: string) => (await hand.ask('stock.where', { query: { q } })).reply.items.map((i) => i.id);
    expect(await where('WH-1')).toEqual([one.id]);
    expect(await where('WH')).toEqual([one.id, more.id]);
  });
});

describe('B8 search forgives', () => {
  it('one slip in a word, letters and digits written together, accents and width', async () => {
    const item = await newItem('SF-1', { description: 'Crème jar for honey 454 ml, hexagonal' });
    const finds = async (q: string) => (await search(q)).items.map((i) => i.id);
    for (const q of [
      'hexagnoal',
      'hexgonal',
      'hexaagonal',
      'hexabonal',
      '454ml hexagonal',
      'CREME hexagonal',
      'ｈｅｘａｇｏｎａｌ',
      'crème hexagnoal',
    ])
      expect([q, (await finds(q)).includes(item.id)]).toEqual([q, true]);
  });
});
