import { execFileSync, spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { afterAll, beforeAll, describe, expect, it, jest } from '@jest/globals';
import fc from 'fast-check';
import { readScan, withCheckDigit } from '#core/items';
import { composeLabel, LABEL_SIZES, type LabelRequest, type LabelSize } from '#core/labels';
import type { Client } from '../testing/client.ts';
import { jobEnd } from '../testing/sheets.ts';
import { openHouse, type TestHouse } from '../testing/house.ts';
import { LabelReader } from '../testing/read-label.ts';
import { drawLabel, drawPng } from './draw.ts';
import { drawingOf, isFault } from './drawing.ts';

// Two programs are started for every label; a busy machine takes its time.
jest.setTimeout(60_000);
const folder = mkdtempSync(path.join(tmpdir(), 'dock-row-labels-'));
let house: TestHouse;
let lead: Client;
beforeAll(async () => {
  house = await openHouse();
  lead = await house.signIn('Maren Oake');
});
afterAll(async () => {
  reader.close();
  rmSync(folder, { recursive: true });
  await house.close();
});

const reader = new LabelReader();
const decode = async (request: LabelRequest): Promise<string> => {
  const drawing = drawingOf(composeLabel(request));
  if (isFault(drawing)) return `no label: ${drawing.code}`;
  return (await reader.read(await drawPng(drawing), drawing.symbol)) ?? 'unread';
};
const drawn = (request: LabelRequest): string => {
  const made = drawLabel(composeLabel(request));
  return 'svg' in made ? made.svg : `no label: ${made.fault.code}`;
};
const item = (over: object): LabelRequest =>
  ({
    kind: 'item',
    code: 'HV-10',
    barcode: null,
    description: 'Brood box, national',
    company: 'Quillfen',
    price: null,
    lot: null,
    expires: null,
    serial: null,
    ...over,
  }) as LabelRequest;

describe('A12 D2 what is printed is read again by an independent reader', () => {
  it.each([1, 3, 9])('C15 a pallet with %i things in it', async (things) => {
    const sscc = withCheckDigit('39520001000000123');
    const contents = Array.from({ length: things }, (_, n) => `${n + 1} each HV-${n}, lot L-${n}`);
    const read = await decode({ kind: 'unit', sscc, company: 'Quillfen', contents });
    expect(read.replace(/\u001d/g, '')).toBe(`00${sscc}`);
    expect(readScan(`]C1${read}`, 2026)).toMatchObject({ ok: true, value: { kind: 'elements', sscc } });
  });
  const addresses = ['A-01-1', 'K-24', 'ZZ-013-12.4', 'ARRIVALS', 'GA/07/3'];
  it.each(addresses.flatMap((a) => (Object.keys(LABEL_SIZES) as LabelSize[]).map((s) => [a, s] as const)))(
    'bin %s on %s',
    async (address, size) => {
      for (const arrow of [null, 'up', 'down'] as const) {
        expect(await decode({ kind: 'bin', address, zone: 'Store', site: 'Quillfen Yard', arrow, paper: LABEL_SIZES[size] })).toBe(address);
      }
    },
  );
  it('EAN-13, UPC-A and EAN-8 as themselves, other codes as Code 128', async () => {
    const [ean13, upc, ean8] = [withCheckDigit('500123000001'), withCheckDigit('03600029145'), withCheckDigit('9638507')];
    expect(await decode(item({ barcode: ean13 }))).toBe(ean13);
    expect((await decode(item({ barcode: upc }))).padStart(13, '0')).toBe(`0${upc}`);
    expect(await decode(item({ barcode: ean8 }))).toBe(ean8);
    expect(await decode(item({}))).toBe('HV-10');
  });
  it('a lot with its expiry as GS1-128, which our own reader takes apart again', async () => {
    const barcode = withCheckDigit('500123000001');
    const read = await decode(item({ barcode, lot: 'L-77', expires: '2027-05-31' }));
    expect(readScan(`]C1${read}`, 2026)).toMatchObject({ ok: true, value: { gtin: `0${barcode}`, lot: 'L-77', expires: '2027-05-31' } });
  });
  it('a lot that looks like an identifier stays a lot', async () => {
    const barcode = withCheckDigit('500123000001');
    const read = await decode(item({ barcode, lot: 'A(21)X', serial: 'S-1' }));
    expect(readScan(`]C1${read}`, 2026)).toMatchObject({ ok: true, value: { lot: 'A(21)X', serial: 'S-1' } });
  });
  it.each([
    ['a lot with a space', { lot: 'LOT 7' }, 'Lot LOT 7 has a space in it, which a code cannot hold: the code names the item only.'],
    ['a lot with other letters', { lot: 'GRÖ' }, 'Lot GRÖ has “Ö” in it, which a code cannot hold: the code names the item only.'],
    [
      'a lot of 21 characters',
      { lot: 'A'.repeat(21) },
      `Lot ${'A'.repeat(21)} has 21 characters, and a code takes 20: the code names the item only.`,
    ],
    ['an item without a GTIN', { lot: 'L1', barcode: 'PLAIN-1' }, 'HV-10 has no GTIN: the code names the item only.'],
  ])('%s is printed in letters, and said not to be in the code', async (_, over, unsaid) => {
    const barcode = withCheckDigit('500123000001');
    const asked = item({ barcode, ...over });
    expect(composeLabel(asked).unsaid).toBe(unsaid);
    expect(await decode(asked)).toBe((over as { barcode?: string }).barcode ?? barcode);
  });
  it.each([
    ['a stored code with a wrong check digit', '5001230000019', '5001230000019'],
    ['a UPC-E, as the UPC-A that it stands for', '04252614', '042100005264'],
    ['a code with letters that Code 128 has not', 'ЖУК-Ü7', 'ЖУК-Ü7'],
    ['fourteen digits', '10036000291459', '10036000291459'],
  ])('%s is printed so that it reads as itself', async (_, barcode, reads) => {
    expect((await decode(item({ barcode }))).replace(/^0(?=\d{12}$)/, '')).toBe(reads.replace(/^0(?=\d{12}$)/, ''));
  });
  it.each(['\u08ca\u0000', '\u08ca', 'a\u0301\u08ca', '\u05b0'])('marks that stand on no letter (%j) break no label', (serial) => {
    expect(drawn(item({ barcode: null, lot: null, serial, code: 'X' }))).toMatch(/crispEdges" d="M/);
  });
  it('whatever lots, serials and codes are stored, every label is made', () => {
    // What is empty is refused by its name, and is no code.
    const any = fc.option(
      fc.oneof(
        fc.string({ unit: 'binary', minLength: 1, maxLength: 40 }).filter((text) => text.trim() !== ''),
        fc.string({ unit: fc.constantFrom(...'0123456789'), minLength: 7, maxLength: 15 }),
      ),
      { nil: null },
    );
    fc.assert(
      fc.property(any, any, any, (barcode, lot, serial) => {
        const svg = drawn(item({ barcode, lot, serial, code: barcode ?? 'X' }));
        expect(svg).toMatch(/crispEdges" d="M/);
      }),
      { numRuns: 150 },
    );
  });
  it('C16 one such lot does not keep the labels of a whole delivery from being printed', async () => {
    const [order] = await house.rows<{ number: string }>(
      `SELECT number FROM purchase_order WHERE state = 'open' AND site_id = 1 ORDER BY due LIMIT 1`,
    );
    const { id } = (await lead.ask('receiving.start', { body: { purchaseOrder: order?.number ?? '' } })).reply;
    const [lotted] = await house.rows<{ code: string }>(
      `SELECT i.code
       FROM item i
       JOIN barcode c ON c.item_id = i.id AND c.gtin IS NOT NULL
       WHERE i.tracking = 'lot' AND i.retired_at IS NULL
       LIMIT 1`,
    );
    for (const lot of ['GOOD-1', 'LOT 7'])
      expect((await lead.ask('receiving.scan', { params: { id }, body: { code: lotted?.code ?? '', lot, takeAnyway: true } })).status).toBe(
        200,
      );
    const printed = (await lead.ask('labels.print', { body: { kind: 'delivery', delivery: id } })).reply;
    expect(printed.jobs).toBeGreaterThanOrEqual(2);
    expect(printed.unsaid).toEqual(['Lot LOT 7 has a space in it, which a code cannot hold: the code names the item only.']);
  });
  it('the shelf label of an item with its price', async () => {
    const asked: LabelRequest = { kind: 'shelf', code: 'HV-10', barcode: null, description: 'Brood box', price: '22.89', bin: 'T-01-1' };
    expect(await decode(asked)).toBe('HV-10');
    expect(drawn(asked)).toContain('aria-label="22.89, ');
  });
});

describe('A12 labels of a selection', () => {
  it('the PDF has a page of label size for each bin, in walking order, each with its code', async () => {
    const bins = await house.rows<{ id: number; address: string }>(
      `SELECT id, address FROM bin WHERE site_id = 1 AND address LIKE 'B-%' ORDER BY walk, id LIMIT 4`,
    );
    const ids = bins.map((b) => b.id).reverse();
    const { job } = (await lead.ask('labels.pdf', { body: { wanted: { kind: 'bins', bins: ids, size: 'shelf' } } })).reply;
    const { state, result } = await jobEnd(house, lead, job);
    expect([state, result?.['labels']]).toEqual(['done', 4]);
    const answer = await lead.raw(`/api/files/${Number(result?.['file'])}`);
    expect(answer.headers.get('content-type')).toBe('application/pdf');
    const file = path.join(folder, 'labels.pdf');
    writeFileSync(file, Buffer.from(await answer.arrayBuffer()));
    execFileSync('pdftoppm', ['-r', '203', '-png', file, path.join(folder, 'page')]);
    const read = bins.map((_, n) =>
      execFileSync('zbarimg', ['-q', '--raw', '--nodbus', path.join(folder, `page-${n + 1}.png`)], { encoding: 'utf8' }).trim(),
    );
    expect(read).toEqual(bins.map((b) => b.address));
  });
  it('every kind is drawn as a PDF, as many as are asked for, on sheets too; a zone’s bins are those that were there', async () => {
    const { key } = (
      await lead.ask('labels.addPaper', {
        body: { name: 'Two', widthMm: 100, heightMm: 60, sheet: { columns: 2, rows: 4, leftMm: 3, topMm: 5, acrossMm: 103, downMm: 65 } },
      })
    ).reply;
    const [item] = await house.rows<{ id: number; code: string }>(
      `SELECT id, code FROM item WHERE tracking = 'none' AND retired_at IS NULL ORDER BY id LIMIT 1`,
    );
    const pdf = async (wanted: object, who = lead, site = 1): Promise<{ pages: number; text: string; labels: unknown }> => {
      const asked = await who.ask('labels.pdf', { body: { wanted }, site } as never);
      if (asked.status !== 200) throw new Error(asked.problem.code);
      const { result } = await jobEnd(house, lead, (asked.reply as { job: number }).job);
      const file = path.join(folder, 'kind.pdf');
      writeFileSync(file, Buffer.from(await (await lead.raw(`/api/files/${Number(result?.['file'])}`)).arrayBuffer()));
      const pages = Number(/Pages:\s+(\d+)/.exec(execFileSync('pdfinfo', [file], { encoding: 'utf8' }))?.[1]);
      return { pages, text: execFileSync('pdftotext', [file, '-'], { encoding: 'utf8' }), labels: result?.['labels'] };
    };
    const five = { kind: 'item', item: item?.id, lot: '', serial: '', copies: 10 };
    expect(await pdf(five)).toMatchObject({ pages: 10, labels: 10, text: expect.stringContaining(item?.code ?? '') });
    expect(await pdf({ ...five, size: key })).toMatchObject({ pages: 2, labels: 10 });
    const [person] = await house.rows<{ id: number; name: string }>(
      `SELECT id, name FROM person WHERE badge IS NOT NULL ORDER BY id LIMIT 1`,
    );
    const badge = { kind: 'badge', person: person?.id };
    expect((await pdf(badge)).text).toContain(person?.name.split(' ')[0]);
    await expect(pdf(badge, await house.signIn('Jory Penhale'))).rejects.toThrow('people.noRight');
    const [{ file } = { file: 0 }] = await house.rows<{ file: number }>(`SELECT max(id) AS file FROM file WHERE for_leads`);
    const people = [lead, await house.signIn('Jory Penhale'), await house.signIn('Odile Wrack')];
    const opened = await Promise.all(people.map(async (who) => (await who.raw(`/api/files/${file}`)).status));
    expect(opened).toEqual([200, 403, 403]);
    const shelf = await house.rows<{ bin: number; item: number; site: number }>(
      `SELECT h.bin_id AS bin, h.item_id AS item, z.site_id AS site
       FROM home_bin h JOIN bin b ON b.id = h.bin_id JOIN zone z ON z.id = b.zone_id
       WHERE z.shows_price ORDER BY 1, 2 LIMIT 2`,
    );
    // Whoever looks at the list of wrong labels sees at once that these are wrong no more: untold, this would wait for ever.
    const told = new Promise<void>((heard) => {
      const stop = house.outbox.listen((change) => change.topic === 'labels' && (stop(), heard()));
    });
    expect(await pdf({ kind: 'shelf', pairs: shelf }, lead, shelf[0]?.site)).toMatchObject({ pages: 2, labels: 2 });
    await told;
    const [zone] = await house.rows<{ id: number; bins: number }>(
      `SELECT z.id, count(*)::int AS bins FROM zone z JOIN bin b ON b.zone_id = z.id AND b.retired_at IS NULL
       WHERE z.site_id = 1 GROUP BY z.id HAVING count(*) BETWEEN 2 AND 30 ORDER BY z.id LIMIT 1`,
    );
    await house.rows(`UPDATE bin SET labelled_at = NULL WHERE zone_id = ?`, [zone?.id]);
    expect((await pdf({ kind: 'zone', zone: zone?.id, only: 'unlabelled' })).pages).toBe(zone?.bins);
    await expect(pdf({ kind: 'zone', zone: zone?.id, only: 'unlabelled' })).rejects.toThrow('labels.noBins');
  });
  it('D2 on sheets of A4 labels stand from the place on that somebody named, each in its own, and go on on the next', async () => {
    const sheet = { columns: 2, rows: 5, leftMm: 5, topMm: 10, acrossMm: 100, downMm: 55 };
    const { key } = (await lead.ask('labels.addPaper', { body: { name: 'Ten to a sheet', widthMm: 98, heightMm: 53, sheet } })).reply;
    const bins = await house.rows<{ id: number; address: string }>(
      `SELECT id, address FROM bin WHERE site_id = 1 AND address LIKE 'B-%' ORDER BY walk, id LIMIT 4`,
    );
    const { job } = (await lead.ask('labels.pdf', { body: { wanted: { kind: 'bins', bins: bins.map((b) => b.id), size: key }, first: 7 } }))
      .reply;
    const { state, result } = await jobEnd(house, lead, job);
    expect([state, result?.['labels']]).toEqual(['done', 4]);
    const file = path.join(folder, 'sheets.pdf');
    writeFileSync(file, Buffer.from(await (await lead.raw(`/api/files/${Number(result?.['file'])}`)).arrayBuffer()));
    expect(execFileSync('pdfinfo', [file], { encoding: 'utf8' })).toMatch(/Pages:\s+2\n[\s\S]*Page size:\s+595\.\d+ x 841\.\d+ pts \(A4\)/);
    const dots = (mm: number): string => String(Math.round((mm * 300) / 25.4));
    // Each place is cut out of its sheet and read alone: what leans over into the next would be read twice or not at all.
    const inPlace = (place: number): string => {
      const [left, top] = [5 + (place % 2) * 100, 10 + Math.floor((place % 10) / 2) * 55];
      const cut = path.join(folder, `place-${place}`);
      const page = String(1 + Math.floor(place / 10));
      execFileSync('pdftoppm', [
        ...['-r', '300', '-png', '-singlefile', '-f', page, '-l', page],
        ...['-x', dots(left), '-y', dots(top), '-W', dots(98), '-H', dots(53), file, cut],
      ]);
      return spawnSync('zbarimg', ['-q', '--raw', '--nodbus', `${cut}.png`], { encoding: 'utf8' }).stdout.trim();
    };
    expect(Array.from({ length: 20 }, (_, place) => inPlace(place))).toEqual([
      ...Array<string>(7).fill(''),
      ...bins.map((b) => b.address),
      ...Array<string>(9).fill(''),
    ]);
    expect((await lead.ask('labels.print', { body: { kind: 'bins', bins: [bins[0]?.id ?? 0], size: key } })).problem.code).toBe(
      'labels.sheetIsPdf',
    );
    const [printer] = await house.rows<{ id: number }>(
      `INSERT INTO printer (site_id, name, address, dpi) VALUES (1, 'Sheets', 'http://127.0.0.1:9/', 203) RETURNING id`,
    );
    const put = await lead.ask('labels.putRoll', { params: { id: printer?.id ?? 0 }, body: { roll: key } });
    expect(put.problem.code).toBe('labels.sheetIsPdf');
  });
  it('shows a price only where customers look (D3)', async () => {
    const [row] = await house.rows<{ shop: number; store: number; item: number; price: string }>(
      `SELECT h.bin_id AS shop, (SELECT min(id) FROM bin WHERE site_id = 1 AND use = 'shelf') AS store, h.item_id AS item,
         round(amount_on(h.item_id, 'price', current_date), 2)::text AS price
       FROM home_bin h JOIN bin b ON b.id = h.bin_id JOIN zone z ON z.id = b.zone_id WHERE z.shows_price LIMIT 1`,
    );
    const svgOf = async (bin: number): Promise<string> => {
      await lead.ask('labels.print', { body: { kind: 'item', item: row?.item ?? 0, bin, copies: 1 } });
      for (;;) {
        const drawn = house.nextChange('labels');
        const [last] = await house.rows<{ svg: string | null }>(`SELECT svg FROM print_job ORDER BY id DESC LIMIT 1`);
        if (last?.svg) return last.svg;
        await drawn;
      }
    };
    expect(await svgOf(row?.shop ?? 0)).toContain(`€${row?.price}`);
    expect(await svgOf(row?.store ?? 0)).not.toContain(`€${row?.price}`);
  });
  it('B7 says how many labels are wrong at each site at which one works', async () => {
    const { sites } = (await lead.ask('labels.wrongBySite')).reply;
    for (const site of [1, 2, 3]) {
      const { total } = (await lead.ask('labels.wrong', { query: { limit: 500 }, site })).reply;
      expect(sites.find((s) => s.id === site)?.total ?? 0).toBe(total);
    }
    expect(sites.length).toBeGreaterThan(0);
  });
  it('D4 after a price change the wrong labels of all sites are printed in one act, each at its own, in walking order', async () => {
    const [shown] = await house.rows<{ item: number }>(
      `SELECT l.item_id AS item
       FROM shelf_label l
       JOIN bin b ON b.id = l.bin_id
       GROUP BY 1
       ORDER BY count(DISTINCT b.site_id) DESC, 1
       LIMIT 1`,
    );
    const item = shown?.item ?? 0;
    const bySite = async (of: { item?: number } = {}) => (await lead.ask('labels.wrongBySite', { query: of })).reply.sites;
    const others = async (): Promise<number> =>
      (await bySite()).reduce((sum, s) => sum + s.total, 0) - (await bySite({ item })).reduce((sum, s) => sum + s.total, 0);
    const untouched = await others();
    await lead.ask('items.setAmount', { params: { id: item }, body: { kind: 'price', amount: '777.70', from: '2020-01-01' } });
    const wrong = await bySite({ item });
    expect(wrong.length).toBeGreaterThan(0);
    const last = (await house.rows<{ id: number }>(`SELECT max(id) AS id FROM print_job`))[0]?.id ?? 0;
    const { sites } = (await lead.ask('labels.printWrong', { body: { sites: wrong.map((s) => s.id), item } })).reply;
    expect(sites.map((s) => [s.name, s.labels, s.left])).toEqual(wrong.map((s) => [s.name, s.total, 0]));
    const jobs = await house.rows<{ site: number; title: string; price: string }>(
      `SELECT site_id AS site, title, face->'fields'->0->>'text' AS price FROM print_job WHERE id > ? ORDER BY id`,
      [last],
    );
    expect(jobs.map((j) => j.price)).toEqual(jobs.map(() => '€777.70'));
    expect(new Set(jobs.map((j) => j.site))).toEqual(new Set(wrong.map((s) => s.id)));
    const walked = await house.rows<{ title: string }>(
      `SELECT 'Price of ' || i.code || ' in ' || b.address AS title
       FROM shelf_label l
       JOIN bin b ON b.id = l.bin_id
       JOIN item i ON i.id = l.item_id
       WHERE l.item_id = ?
       ORDER BY b.site_id, b.walk, b.id`,
      [item],
    );
    const printed = jobs.toSorted((a, b) => a.site - b.site).map((j) => j.title);
    expect(walked.map((w) => w.title).filter((title) => printed.includes(title))).toEqual(printed);
    expect(await bySite({ item })).toEqual([]);
    expect(await others()).toBe(untouched);
    expect((await lead.ask('labels.printWrong', { body: { sites: [999] } })).problem.code).toBe('people.notAtSite');
    expect((await lead.ask('labels.printWrong', { body: { sites: [1], item } })).reply.sites[0]).toMatchObject({ labels: 0, left: 0 });
  });
  it('D4 a price holds from its day at the site, wherever the database stands', async () => {
    // These two are 25 hours apart: never the same day.
    const [far, back] = ['Pacific/Kiritimati', 'Pacific/Pago_Pago'];
    await house.rows(`UPDATE site SET time_zone = CASE id WHEN 1 THEN '${far}' ELSE '${back}' END`);
    const days = await house.rows<{ id: number; day: string }>(
      `SELECT id, today_at(id)::text AS day FROM site WHERE id IN (1, 2) ORDER BY id`,
    );
    const shown = (zone: string): string => new Date().toLocaleDateString('sv', { timeZone: zone });
    expect(days.map((d) => d.day)).toEqual([shown(far ?? ''), shown(back ?? '')]);
    expect(days[0]?.day).not.toBe(days[1]?.day);
  });
});
