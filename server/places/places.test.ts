import { describe, expect, it } from '@jest/globals';
import ExcelJS from 'exceljs';
import { houseForTests } from '../testing/house.ts';
import { dryRun, goAhead, jobEnd, upload } from '../testing/sheets.ts';

const { house, lead, hand } = houseForTests({ lead: 'Maren Oake', hand: 'Tobin Sallow' });
const zoneOf = async (code: string): Promise<number> =>
  (await house.rows<{ id: number }>(`SELECT id FROM zone WHERE code = ? AND site_id = 1`, [code]))[0]?.id ?? 0;
const binOf = async (address: string): Promise<number> =>
  (await house.rows<{ id: number }>(`SELECT id FROM bin WHERE address = ? AND site_id = 1`, [address]))[0]?.id ?? 0;
/** Changes a bin as its form does: everything as it is, but for what is named. */
async function changeBin(id: number, over: object, version?: number) {
  const { reply: bin } = await lead.ask('places.bin', { params: { id } });
  const body = {
    address: bin.address,
    oldNames: bin.oldNames,
    zone: bin.zoneId,
    walk: bin.walk,
    oneItem: bin.rules.oneItem,
    oneLot: bin.rules.oneLot,
    storageClass: bin.rules.storageClass ?? '',
    units: bin.rules.units,
    litres: bin.rules.litres,
    kilograms: bin.rules.kilograms,
    arrow: bin.arrow,
    version: version ?? bin.version,
    ...over,
  };
  return lead.ask('places.changeBin', { params: { id }, body });
}
const numbers = (from: number, to: number, digits: number) => ({
  kind: 'numbers' as const,
  from,
  to,
  digits,
  step: 1,
  skip: [] as string[],
});
const letters = (from: string, to: string) => ({ kind: 'letters' as const, from, to, skip: [] as string[] });

describe('A1 A2 sites and zones', () => {
  it('a new site is ready to receive: its default bins and a place for what has no bin are there', async () => {
    const made = await lead.ask('places.makeSite', {
      body: { code: 'van', name: 'The van', timeZone: 'Europe/London', address: 'On the road' },
    });
    expect(made.status).toBe(200);
    const { sites } = (await lead.ask('places.sites')).reply;
    const van = sites.find((s) => s.code === 'VAN');
    expect(van?.defaults).toEqual({
      arrivals: 'ARRIVALS',
      packing: 'BENCH-1',
      quarantine: 'QUARANTINE',
      scrap: 'SCRAP',
      transit: 'TRANSIT',
    });
    expect(await house.rows(`SELECT 1 FROM bin WHERE site_id = ? AND use = 'unplaced'`, [made.reply.id])).toHaveLength(1);
    expect((await lead.ask('places.makeSite', { body: { code: 'VAN', name: 'Again', timeZone: 'Europe/London' } })).problem.detail).toBe(
      'There is already a site VAN.',
    );
    expect((await lead.ask('places.makeSite', { body: { code: 'MOON', name: 'Moon', timeZone: 'Moon/Base' } })).problem.detail).toContain(
      'is no time zone',
    );
    expect((await hand.ask('places.makeSite', { body: { code: 'X', name: 'X', timeZone: 'Europe/London' } })).status).toBe(403);
  });
  it('shows what a change of powers does before it does it, and cuts the promises that lose their stock', async () => {
    const zone = await zoneOf('PICK');
    const before = await house.rows<{ n: number }>(`SELECT sum(qty)::float AS n FROM promise WHERE site_id = 1`);
    const effect = (
      await lead.ask('stock.zoneEffect', { params: { id: zone }, query: { promisable: 'no', pickable: 'yes', showsPrice: 'no' } })
    ).reply;
    expect(effect.becomes).toBe('held');
    expect(effect.itemsTotal).toBeGreaterThan(50);
    expect(effect.ordersCut.length).toBeGreaterThan(0);
    const [item] = effect.items;
    const free = async (): Promise<number> =>
      Number((await lead.ask('stock.equation', { params: { id: item?.item ?? 0 } })).reply.sites[0]?.held);
    const heldBefore = await free();
    await lead.ask('stock.zonePowers', { params: { id: zone }, body: { promisable: false, pickable: true, showsPrice: false } });
    expect(await free()).toBe(heldBefore + Number(item?.qty));
    await house.expectCleanAudit();
    await lead.ask('stock.zonePowers', { params: { id: zone }, body: { promisable: true, pickable: true, showsPrice: false } });
    const after = await house.rows<{ n: number }>(`SELECT sum(qty)::float AS n FROM promise WHERE site_id = 1`);
    expect(after[0]?.n).toBeLessThan(before[0]?.n ?? 0);
  });
});

describe('A3 building, renaming, retiring bins', () => {
  it('builds 20,000 bins at once, in walking order after what is there, and names clashes instead of half a grid', async () => {
    const zone = (await lead.ask('places.makeZone', { body: { code: 'big', name: 'Big hall', purpose: 'storage' } })).reply.id;
    const grid = {
      levels: [letters('G', 'Z'), numbers(1, 50, 2), numbers(1, 5, 1), numbers(1, 4, 1)],
      separators: ['-', '-', '.'],
      walk: 'serpentine' as const,
      turned: [],
    };
    expect((await lead.ask('places.buildGrid', { body: { zone, grid } })).reply).toEqual({ made: 20_000, left: 0 });
    const walk = await house.rows<{ address: string }>(`SELECT address FROM bin WHERE zone_id = ? ORDER BY walk LIMIT 1001`, [zone]);
    expect([walk[0]?.address, walk[999]?.address, walk[1000]?.address]).toEqual(['G-01-1.1', 'G-50-5.4', 'H-50-1.1']);
    const again = await lead.ask('places.buildGrid', {
      body: { zone, grid: { ...grid, levels: [letters('F', 'G'), ...grid.levels.slice(1)] } },
    });
    expect(again.problem).toMatchObject({ code: 'places.binsTaken', count: 1000, first: 'G-50-1.1' });
    expect(await binOf('F-50-5.4')).toBe(0);
    const clashes = (
      await lead.ask('places.clashes', {
        query: { grid: JSON.stringify({ ...grid, levels: [letters('Z', 'Z'), ...grid.levels.slice(1)] }) },
      })
    ).reply;
    expect(clashes).toMatchObject({ count: 1000 });
    expect((await hand.ask('places.buildGrid', { body: { zone, grid } })).status).toBe(403);
  });
  it('a renamed bin still answers to the name on the rack', async () => {
    const id = await binOf('A-01-1');
    expect((await changeBin(id, { address: 'A-01-A' })).status).toBe(200);
    expect((await hand.ask('desk.scan', { query: { code: 'A-01-1' } })).reply).toMatchObject({ kind: 'bin', bin: id, address: 'A-01-A' });
    expect((await changeBin(await binOf('A-01-2'), { address: 'A-01-1' })).problem.detail).toBe('A-01-1 already means bin A-01-A.');
  });
  it('retires only empty bins that nothing hangs on, and puts nothing into a retired one', async () => {
    const [full] = await house.rows<{ id: number; address: string; code: string; barcode: string }>(
      `SELECT f.bin_id AS id, f.address, i.code
       FROM stock_fact f
       JOIN item i ON i.id = f.item_id
       WHERE f.site_id = 1 AND f.use = 'shelf' AND f.qty > 5 AND i.tracking = 'none' AND i.decimals = 0 AND f.condition = 'sound'
       LIMIT 1`,
    );
    const empty = await binOf('G-01-1.1');
    const answer = await lead.ask('places.retireBins', { body: { bins: [empty, full?.id ?? 0] } });
    expect(answer.problem.code).toBe('places.binNotEmpty');
    expect(await house.rows(`SELECT 1 FROM bin WHERE retired_at IS NOT NULL`)).toHaveLength(0);
    expect((await lead.ask('places.retireBins', { body: { bins: [await binOf('ARRIVALS')] } })).problem.code).toMatch(
      /places.bin(InUse|NotEmpty)/,
    );
    expect((await lead.ask('places.retireBins', { body: { bins: [empty] } })).reply).toEqual({ retired: 1 });
    const move = await hand.ask('moves.move', { body: { from: full?.address ?? '', to: 'G-01-1.1', code: full?.code ?? '', qty: '1' } });
    expect(move.problem.detail).toBe('Bin G-01-1.1 is retired. Nothing goes in there.');
    await lead.ask('places.restoreBin', { params: { id: empty } });
  });
});

describe('A5 rules of a bin, wherever stock comes in', () => {
  it('the hand is refused in words, the lead may override with a reason that the ledger keeps', async () => {
    const [goods] = await house.rows<{ item: number; code: string; address: string; volume: number }>(
      `SELECT i.id AS item, i.code, f.address
       FROM stock_fact f
       JOIN item i ON i.id = f.item_id
       WHERE f.site_id = 1 AND f.use = 'shelf' AND f.qty > 10 AND i.tracking = 'none' AND i.decimals = 0 AND f.condition = 'sound'
         AND i.storage_class = 'dry'
       ORDER BY f.address
       LIMIT 1`,
    );
    const id = await binOf('H-01-1.1');
    await house.rows(`UPDATE item SET volume_ml = 3000, weight_g = 500 WHERE id = ?`, [goods?.item]);
    await changeBin(id, { oneItem: true, storageClass: 'dry', units: '50', litres: '12', arrow: 'up' });
    const put = (qty: string, override?: string) => ({
      from: goods?.address ?? '',
      to: 'H-01-1.1',
      code: goods?.code ?? '',
      qty,
      ...(override ? { override } : {}),
    });
    expect((await hand.ask('moves.move', { body: put('5') })).problem.detail).toBe('Bin H-01-1.1 has 12 litres left; this needs 15.');
    expect((await hand.ask('moves.move', { body: put('4') })).status).toBe(200);
    expect((await hand.ask('moves.move', { body: put('1', 'it fits') })).status).toBe(403);
    const over = await lead.ask('moves.move', { body: put('1', 'pressed flat') });
    expect(over.status).toBe(200);
    const [movement] = await house.rows<{ reason: string }>(`SELECT reason FROM movement WHERE document_id = ?`, [over.reply.document]);
    expect(movement?.reason).toBe('Moved, rule overridden: pressed flat');
    expect((await lead.ask('places.bins', { query: { show: 'overfull' } })).reply.bins.map((b) => [b.address, b.fill])).toContainEqual([
      'H-01-1.1',
      125,
    ]);
  });
  it('two hands who fill the last room at once do not both get it', async () => {
    const [goods] = await house.rows<{ code: string; address: string }>(
      `SELECT i.code, f.address
       FROM stock_fact f
       JOIN item i ON i.id = f.item_id
       WHERE f.site_id = 1 AND f.use = 'shelf' AND f.qty > 20 AND i.tracking = 'none' AND i.decimals = 0 AND f.condition = 'sound'
       ORDER BY f.address DESC
       LIMIT 1`,
    );
    const id = await binOf('H-02-1.1');
    await changeBin(id, { units: '6' });
    const answers = await Promise.all(
      Array.from({ length: 4 }, () =>
        hand.ask('moves.move', { body: { from: goods?.address ?? '', to: 'H-02-1.1', code: goods?.code ?? '', qty: '4' } }),
      ),
    );
    expect(answers.map((a) => a.status).sort()).toEqual([200, 409, 409, 409]);
  });
});

describe('A4 import and export of bins', () => {
  const csv = async (path: string): Promise<string> => (await lead.raw(path)).text();
  it('export gives back exactly what import reads: nothing would change', async () => {
    await lead.ask('people.workAt', { body: { site: 2 } });
    const bytes = Buffer.from(await (await lead.raw('/api/download/bins.xlsx')).arrayBuffer());
    const run = await dryRun(house, lead, 'places.importBins', 'bins.xlsx', bytes);
    await lead.ask('people.workAt', { body: { site: 1 } });
    expect(run.result?.['rows']).toBeGreaterThan(70);
    expect(run).toMatchObject({ state: 'checked', result: { new: 0, changed: 0, faults: 0 } });
    expect(await csv('/api/download/bins.csv?template')).toBe(
      'Zone,Address,Old names,Walk,One item,One lot,Storage class,Room in units,Room in litres,Room in kg,Arrow\r\n',
    );
  });
  it('a dry run says what each row does; nothing happens until somebody says go, and then all of it', async () => {
    const sheet = 'Zone;Address;Alias;Room in kg\nSTORE;N-01-1;=OLD 1;12,5\nSTORE;A-01-2;;';
    const run = await dryRun(house, lead, 'places.importBins', 'new bins.csv', sheet);
    expect(run.rows).toMatchObject([
      { row: 2, verdict: 'new' },
      { row: 3, verdict: 'same' },
    ]);
    expect(await binOf('N-01-1')).toBe(0);
    expect((await goAhead(house, lead, run.job)).state).toBe('done');
    expect(await house.rows(`SELECT weight_g FROM bin WHERE address = 'N-01-1' AND site_id = 1`)).toEqual([{ weight_g: 12_500 }]);
    expect(await csv('/api/download/bins.csv')).toContain("N-01-1,'=OLD 1,");
  });
  it('one fault and nothing is imported, not even what a second person let go ahead meanwhile', async () => {
    const run = await dryRun(house, lead, 'places.importBins', 'faulty.csv', 'Zone,Address\nSTORE,N-02-1\nNOWHERE,N-02-2\nSTORE,N-02-1');
    expect(run.rows.filter((r) => r.verdict === 'fault').map((r) => r.says)).toEqual([
      'There is no zone NOWHERE at this site.',
      'N-02-1 stands in row 2 too.',
    ]);
    expect((await lead.ask('work.goAhead', { params: { id: run.job } })).problem.code).toBe('work.notChecked');
    expect(await binOf('N-02-1')).toBe(0);
    const good = await dryRun(house, lead, 'places.importBins', 'good.csv', 'Zone,Address,Alias\nSTORE,N-03-1,TWICE');
    await lead.ask('places.makeBin', { body: { zone: await zoneOf('STORE'), address: 'N-03-2', oldNames: ['TWICE'] } });
    expect(await goAhead(house, lead, good.job)).toMatchObject({
      state: 'failed',
      said: 'Row 2: The old name TWICE already means bin N-03-2. Nothing was imported.',
    });
    expect(await binOf('N-03-1')).toBe(0);
  });
  it.each([
    ['empty.csv', '', 'empty.csv is empty.'],
    ['header.csv', 'Zone,Address\n', 'header.csv has a header but no rows below it.'],
    ['columns.csv', 'Zone,Colour\nSTORE,red', 'The sheet lacks “Address”. Nothing here is called “Colour”.'],
    ['quote.csv', 'Zone,Address\nSTORE,"N-04-1', 'a quotation mark is opened and never closed'],
    ['broken.xlsx', 'PK not really', 'cannot be opened'],
  ])('says what is wrong with %s', async (name, text, says) => {
    const sent = await upload(lead, name, text);
    if (sent.status !== 200) return expect(sent.detail).toBe(says);
    const { reply } = await lead.ask('places.importBins', { body: { file: sent.id } });
    const ended = await jobEnd(house, lead, reply.job);
    expect(ended.state).toBe('failed');
    expect(ended.said).toContain(says);
  });
  it('refuses 300 MB before reading it, and files of other kinds', async () => {
    const { request } = await import('node:http');
    const cookie = lead.cookie;
    const answer = await new Promise<string>((resolve, reject) => {
      const req = request(
        `${house.address}/api/files?name=huge.csv`,
        { method: 'POST', headers: { Cookie: cookie, 'Content-Length': 300_000_000 } },
        (res) => {
          let text = '';
          res.on('data', (c) => (text += String(c)));
          res.on('end', () => (req.destroy(), resolve(text)));
        },
      );
      req.on('error', reject);
      req.flushHeaders();
    });
    expect(JSON.parse(answer)).toMatchObject({
      code: 'file.tooLarge',
      detail: 'huge.csv has 300 MB; at most 50 MB are taken. Nothing of it was kept.',
    });
    expect((await upload(lead, 'run.exe', 'MZ')).detail).toContain('only pictures');
    expect((await house.stranger.raw('/api/files?name=a.csv', { method: 'POST', body: 'a' })).status).toBe(401);
  });
  it('reads values, never formulas, out of XLSX', async () => {
    const book = new ExcelJS.Workbook();
    const page = book.addWorksheet('p');
    page.addRow(['Zone', 'Address', 'Room in units']);
    page.addRow(['STORE', { formula: 'CONCATENATE("N-","05-1")', result: 'N-05-1' }, 7]);
    const run = await dryRun(house, lead, 'places.importBins', 'f.xlsx', Buffer.from((await book.xlsx.writeBuffer()) as ArrayBuffer));
    expect(run).toMatchObject({ state: 'checked', result: { new: 1 } });
  });
});

describe('A10 the plan', () => {
  it('is drawn, kept as arranged, and refused when somebody else changed it meanwhile', async () => {
    const plan = (await hand.ask('places.plan')).reply;
    expect(plan).toMatchObject({ drawn: true, revision: 0 });
    expect((await hand.ask('places.savePlan', { body: { revision: 0, layout: plan.layout } })).status).toBe(403);
    const wider = { ...plan.layout, width: plan.layout.width + 5 };
    expect((await lead.ask('places.savePlan', { body: { revision: 0, layout: wider } })).reply).toEqual({ revision: 1 });
    expect((await lead.ask('places.savePlan', { body: { revision: 0, layout: plan.layout } })).problem.detail).toContain(
      'changed the plan meanwhile',
    );
    const [first, second] = plan.layout.aisles;
    const pushed = {
      ...wider,
      aisles: wider.aisles.map((a) => (a.key === second?.key ? { ...a, x: first?.x ?? 0, y: first?.y ?? 0 } : a)),
    };
    expect((await lead.ask('places.savePlan', { body: { revision: 1, layout: pushed } })).problem.code).toBe('places.planOverlap');
    const measures = (await hand.ask('places.planMeasures')).reply;
    expect(measures.id.length).toBeGreaterThan(20_000);
    expect(measures.touches.some((t) => t > 0)).toBe(true);
  });
});

describe('A3 a name that scans means one bin', () => {
  const scan = async (code: string) => (await hand.ask('desk.scan', { query: { code } })).reply;
  it('old names stay through any number of renames, whatever their case, and nobody else may have them', async () => {
    const id = await binOf('H-03-1.1');
    for (const address of ['H-03-X', 'H-03-Y', 'H-03-Z']) expect((await changeBin(id, { address })).status).toBe(200);
    for (const name of ['H-03-1.1', 'h-03-x', 'H-03-y', 'H-03-Z'])
      expect(await scan(name)).toMatchObject({ kind: 'bin', bin: id, address: 'H-03-Z' });
    const zone = await zoneOf('STORE');
    for (const address of ['H-03-X', 'H-03-1.1'])
      expect((await lead.ask('places.makeBin', { body: { zone, address } })).problem.detail).toBe(`${address} already means bin H-03-Z.`);
    expect((await lead.ask('places.makeBin', { body: { zone, address: 'H-03-Q', oldNames: ['h-03-y'] } })).problem.code).toBe(
      'places.nameTaken',
    );
    const grid = {
      levels: [letters('H', 'H'), numbers(3, 3, 2), letters('X', 'Y')],
      separators: ['-', '-'],
      walk: 'serpentine' as const,
      turned: [],
    };
    expect((await lead.ask('places.buildGrid', { body: { zone, grid } })).problem.detail).toContain('2 of these bins are there already');
    const run = await dryRun(
      house,
      lead,
      'places.importBins',
      'bins.csv',
      'Zone,Address,Old names\nSTORE,H-03-Y,\nSTORE,H-77-1,h-03-x; H-77-0',
    );
    expect(run.rows.map((r) => r.says)).toEqual(['H-03-Y is an old name of bin H-03-Z.', 'The old name H-03-X already means bin H-03-Z.']);
    expect((await changeBin(id, { oldNames: [] })).status).toBe(200);
    expect(await scan('H-03-X')).toMatchObject({ kind: 'unknown' });
  });
  it('two people who give one name at once: one gets it', async () => {
    const [a, b] = [await binOf('H-03-1.2'), await binOf('H-03-2.1')];
    const zone = await zoneOf('STORE');
    const answers = await Promise.all([
      changeBin(a, { oldNames: ['RACE-1'] }),
      changeBin(b, { address: 'RACE-1' }),
      lead.ask('places.makeBin', { body: { zone, address: 'RACE-1' } }),
      lead.ask('places.makeBin', { body: { zone, address: 'RACE-2', oldNames: ['race-1'] } }),
    ]);
    expect(answers.filter((x) => x.status === 200)).toHaveLength(1);
    expect(answers.filter((x) => x.status >= 500)).toHaveLength(0);
    expect(await house.rows(`SELECT 1 FROM bin_name WHERE name = 'RACE-1'`)).toHaveLength(1);
  });
  it('a bin of another site is said to be there', async () => {
    const [far] = await house.rows<{ address: string }>(
      `SELECT address FROM bin WHERE site_id = 2 AND address NOT IN (SELECT name FROM bin_name WHERE site_id = 1) AND use = 'shelf'
        LIMIT 1`,
    );
    const move = await hand.ask('moves.move', { body: { from: far?.address ?? '', to: 'QUARANTINE', code: 'x', qty: '1' } });
    expect(move.problem.code).toBe('places.binElsewhere');
    expect(move.problem.detail).toContain('it is a bin of');
  });
});

describe('A1 A5 A6 changing places', () => {
  it('a default bin is a pointer: set to another and back, the other is a shelf again', async () => {
    const shelf = await binOf('H-03-2.2');
    const useOf = async (id: number) => (await house.rows<{ use: string }>(`SELECT use FROM bin WHERE id = ?`, [id]))[0]?.use;
    const point = async (arrivals: string) => {
      const site = (await lead.ask('places.sites')).reply.sites.find((s) => s.id === 1);
      const { name = '', timeZone = '', address = '', version = 0 } = site ?? {};
      return lead.ask('places.changeSite', { params: { id: 1 }, body: { name, timeZone, address, version, defaults: { arrivals } } });
    };
    expect((await point('H-03-2.2')).status).toBe(200);
    expect([await useOf(shelf), await useOf(await binOf('ARRIVALS'))]).toEqual(['arrivals', 'arrivals']);
    expect((await point('BENCH-1')).problem.detail).toBe('BENCH-1 cannot be the arrivals bin: it is the packing bin.');
    expect((await point('ARRIVALS')).status).toBe(200);
    expect([await useOf(shelf), await useOf(await binOf('ARRIVALS'))]).toEqual(['shelf', 'arrivals']);
  });
  it('goods live on shelves, not where they pass through', async () => {
    const assign = (bin: string) => lead.ask('items.assign', { body: { pairs: [{ bin, item: 'HV-10' }], role: 'face' } });
    for (const bin of ['ARRIVALS', 'BENCH-1', 'QUARANTINE']) expect((await assign(bin)).problem.code).toBe('places.notAHome');
    const run = await dryRun(house, lead, 'items.importHomes', 'homes.csv', 'Bin,Item,Role\nARRIVALS,HV-10,shop');
    expect(run.rows[0]?.says).toBe('ARRIVALS is no home: goods pass through there. “shop” under Role is neither face nor reserve.');
  });
  it('two people who change one bin: the second is told, and nothing of theirs is written', async () => {
    const id = await binOf('H-03-2.2');
    const { version } = (await lead.ask('places.bin', { params: { id } })).reply;
    expect((await changeBin(id, { walk: 77 }, version)).status).toBe(200);
    const second = await changeBin(id, { units: '9' }, version);
    expect(second.problem).toMatchObject({ code: 'places.changedMeanwhile', status: 409 });
    expect((await lead.ask('places.bin', { params: { id } })).reply).toMatchObject({ walk: 77, rules: { units: null } });
  });
  it('zone and place on the walk can be changed, but not the powers over stock that lies there', async () => {
    const [full] = await house.rows<{ id: number }>(
      `SELECT bin_id AS id FROM stock_fact WHERE site_id = 1 AND zone_code = 'STORE' AND qty > 0 LIMIT 1`,
    );
    const [quarantine, face] = [await zoneOf('QUAR'), await zoneOf('PICK')];
    expect((await changeBin(full?.id ?? 0, { zone: quarantine })).problem.code).toBe('places.zoneHoldsOthers');
    expect((await changeBin(full?.id ?? 0, { zone: face, walk: 5 })).status).toBe(200);
    expect((await lead.ask('places.bin', { params: { id: full?.id ?? 0 } })).reply).toMatchObject({ zoneId: face, walk: 5 });
    await changeBin(full?.id ?? 0, { zone: await zoneOf('STORE') });
  });
  it('a rule that what lies there breaks already is said when it is set', async () => {
    const [full] = await house.rows<{ id: number; qty: string }>(
      `SELECT bin_id AS id, sum(qty) AS qty FROM stock_fact WHERE site_id = 1 AND zone_code = 'STORE' GROUP BY 1 HAVING sum(qty) > 5
        LIMIT 1`,
    );
    const changed = await changeBin(full?.id ?? 0, { units: '1' });
    expect(changed.reply.broken).toEqual([{ rule: 'units', says: `Room for 1 units, and it holds ${Number(full?.qty)} units.` }]);
    await changeBin(full?.id ?? 0, { units: null });
  });
  it('A1 what belongs to another site is changed by who works there', async () => {
    const [far] = await house.rows<{ id: number; zone: number }>(
      `SELECT id, zone_id AS zone FROM bin WHERE site_id = 2 AND use = 'shelf' LIMIT 1`,
    );
    const codes = [
      await changeBin(far?.id ?? 0, { walk: 1 }),
      await lead.ask('places.retireBins', { body: { bins: [far?.id ?? 0] } }),
      await lead.ask('places.makeBin', { body: { zone: far?.zone ?? 0, address: 'FAR-1' } }),
      await lead.ask('places.renameZone', { params: { id: far?.zone ?? 0 }, body: { name: 'Taken over' } }),
    ].map((a) => a.problem.code);
    expect(codes).toEqual(['people.otherSite', 'people.otherSite', 'people.otherSite', 'people.otherSite']);
    expect(await house.rows(`SELECT 1 FROM zone WHERE name = 'Taken over'`)).toEqual([]);
    expect((await lead.ask('places.renameZone', { params: { id: 999_999 }, body: { name: 'None' } })).problem.code).toBe(
      'places.unknownZone',
    );
  });
});
