import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { afterAll, describe, expect, it } from '@jest/globals';
import sharp from 'sharp';
import {
  composeLabel,
  firstArrangement,
  inDots,
  LABEL_SIZES,
  ownKey,
  RESOLUTIONS,
  sampleLabels,
  USUAL_CONTENTS,
  type LabelContents,
} from '#core/labels';
import { deleteWhatIsPast } from '#server/kernel';
import { houseForTests } from '../testing/house.ts';
import { upload } from '../testing/sheets.ts';
import { LabelReader } from '../testing/read-label.ts';
import { drawBitmap, drawPng, drawSvg, greysOf } from './draw.ts';
import { drawingOf, isFault } from './drawing.ts';
import { labelsPdf } from './pdf.ts';

const { house, lead, hand } = houseForTests({ lead: 'Maren Oake', hand: 'Jory Penhale' });
const folder = mkdtempSync(path.join(tmpdir(), 'dock-row-contents-'));
const reader = new LabelReader();
afterAll(() => (reader.close(), rmSync(folder, { recursive: true })));

// A ring on a shaded ground, wider than high.
const RING = await sharp(
  Buffer.from(
    '<svg xmlns="http://www.w3.org/2000/svg" width="600" height="240"><rect width="600" height="240" fill="#fff"/>' +
      '<circle cx="120" cy="120" r="90" fill="none" stroke="#000" stroke-width="30"/>' +
      '<rect x="300" width="300" height="240" fill="#999"/></svg>',
  ),
)
  .png()
  .toBuffer();

const usual = (kind: 'item' | 'bin') => ({
  ...USUAL_CONTENTS[kind],
  shown: [...USUAL_CONTENTS[kind].shown],
  ...{ texts: [], arranged: [], logo: null },
});
const keep = (body: object, kind = 'item', who = lead) =>
  who.ask('labels.setContents', { params: { kind }, body: { ...usual('item'), ...body } } as never);
const versionOf = async (kind: 'item' | 'bin'): Promise<number> => (await lead.ask('labels.contents', { params: { kind } })).reply.version;
const see = async (of: object): Promise<{ svg: string | null; unsaid: string[] }> =>
  (await lead.ask('labels.preview', { query: { wanted: JSON.stringify({ kind: 'item', lot: '', serial: '', ...of }) } })).reply;
const said = async (of: object): Promise<string> => /aria-label="([^"]*)"/.exec((await see(of)).svg ?? '')?.[1] ?? '';

const anItem = async (): Promise<{ id: number; code: string; supplier: string; lot: string | null }> => {
  const [row] = await house.rows<{ id: number; code: string; supplier: string; lot: string | null }>(
    `SELECT i.id, i.code, s.name AS supplier, (SELECT max(l.code) FROM lot l WHERE l.item_id = i.id) AS lot
     FROM item i
     JOIN item_supplier x ON x.item_id = i.id
     JOIN supplier s ON s.id = x.supplier_id
     WHERE i.tracking = 'lotExpiry' AND (SELECT count(*) FROM item_supplier y WHERE y.item_id = i.id) = 1
     ORDER BY i.id
     LIMIT 1`,
  );
  if (!row) throw new Error('The demo has no such item.');
  return row;
};

describe('D2 what a house wants on its labels', () => {
  it('supplier, days, own fields and words stand on every label of the kind that is asked for from then on', async () => {
    const item = await anItem();
    const [own] = (await lead.ask('labels.contents', { params: { kind: 'item' } })).reply.own;
    await house.rows(`UPDATE item SET own = own || jsonb_build_object(?::text, 'forty two') WHERE id = ?`, [own?.label, item.id]);
    const before = await said({ item: item.id });
    await keep({
      version: await versionOf('item'),
      shown: ['description', 'supplier', 'printed', ownKey(own?.id ?? 0)],
      texts: ['Keep dry'],
    });
    const after = await said({ item: item.id });
    expect(before).not.toContain('Keep dry');
    for (const words of [`From ${item.supplier}`, 'Printed ', `${own?.label} forty two`, 'Keep dry']) expect(after).toContain(words);
    // The company was not wanted.
    expect(before).toContain('Quillfen');
    expect(after).not.toContain('Quillfen');
  });
  it('what is printed is what is seen', async () => {
    const item = await anItem();
    const seen = await see({ item: item.id });
    const drawn = house.nextChange('labels');
    await hand.ask('labels.print', { body: { kind: 'item', item: item.id, copies: 1, lot: '', serial: '' } });
    await drawn;
    const svg = async (): Promise<string | null> =>
      (await house.rows<{ svg: string | null }>(`SELECT svg FROM print_job ORDER BY id DESC LIMIT 1`))[0]?.svg ?? null;
    while ((await svg()) === null) await house.nextChange('labels');
    expect(await svg()).toBe(seen.svg);
  });
  it('an own field that is renamed stays on labels under its new name; one that is given up leaves them', async () => {
    const made = (await lead.ask('items.makeOwnField', { body: { label: 'Shelf life', kind: 'text', choices: [] } })).reply;
    const item = await anItem();
    await house.rows(`UPDATE item SET own = own || '{"Shelf life": "nine months"}' WHERE id = ?`, [item.id]);
    await keep({ version: await versionOf('item'), shown: ['description', ownKey(made.id)] });
    expect(await said({ item: item.id })).toContain('Shelf life nine months');
    const rename = (label: string, retired: boolean) =>
      lead.ask('items.changeOwnField', { params: { id: made.id }, body: { label, choices: [], retired } });
    await rename('Keeps "long"', false);
    expect(await said({ item: item.id })).toContain('Keeps &#34;long&#34; nine months');
    expect((await lead.ask('labels.contents', { params: { kind: 'item' } })).reply.contents.shown).toContain(ownKey(made.id));
    await rename('Keeps "long"', true);
    expect(await said({ item: item.id })).not.toContain('nine months');
    expect((await lead.ask('labels.contents', { params: { kind: 'item' } })).reply.contents.shown).toEqual(['description']);
  });
  it('two leads: the second is told who was first, and keeps nothing', async () => {
    const version = await versionOf('bin');
    const tries = await Promise.all(
      ['one', 'two'].map((text) =>
        lead.ask('labels.setContents', { params: { kind: 'bin' }, body: { ...usual('bin'), version, texts: [text] } }),
      ),
    );
    expect(tries.map((t) => t.problem?.code).toSorted()).toEqual(['labels.changedMeanwhile', undefined]);
    expect((await keep({ version, shown: [], texts: ['three'] }, 'bin')).problem).toMatchObject({
      code: 'labels.changedMeanwhile',
      by: 'Maren Oake',
    });
    expect(await versionOf('bin')).toBe(version + 1);
  });
  it('it can be as it was before', async () => {
    const now = (await lead.ask('labels.contents', { params: { kind: 'bin' } })).reply;
    expect(now.contents.texts).not.toEqual(now.before?.texts);
    await lead.ask('labels.setContents', { params: { kind: 'bin' }, body: { ...(now.before ?? now.contents), version: now.version } });
    expect((await lead.ask('labels.contents', { params: { kind: 'bin' } })).reply.contents).toEqual(now.before);
  });
  it('hands see it and change nothing', async () => {
    await hand.ask('labels.contents', { params: { kind: 'item' } });
    expect((await keep({ version: await versionOf('item') }, 'item', hand)).problem).toMatchObject({ code: 'people.noRight' });
  });
  it.each<[string, object, string]>([
    ['a part that is none', { shown: ['arrow'] }, 'labels.unknownPart'],
    ['four texts', { texts: ['a', 'b', 'c', 'd'] }, 'labels.tooManyTexts'],
    ['a logo that is no picture', { logo: 2_000_000_000 }, 'labels.noLogo'],
    [
      'things over each other',
      { arranged: [{ ...LABEL_SIZES.item, boxes: { code: { column: 0, row: 0, across: 1, down: 1 } } }] },
      'labels.notPlaced',
    ],
  ])('%s is refused, and nothing changes', async (_, over, code) => {
    const version = await versionOf('item');
    expect((await keep({ version, ...over })).problem).toMatchObject({ code });
    expect(await versionOf('item')).toBe(version);
  });
  it('a draft says for everyday labels and long ones, at every head, what has no room', async () => {
    const first = firstArrangement('item', USUAL_CONTENTS.item, LABEL_SIZES.item);
    const boxes = { ...first?.boxes, lot: { ...first?.boxes['lot'], across: 1 } };
    const draft = async (arranged: object[]): Promise<unknown[]> => {
      const contents = JSON.stringify({ ...usual('item'), arranged });
      const query = { contents, widthMm: LABEL_SIZES.item.widthMm, heightMm: LABEL_SIZES.item.heightMm };
      return (await lead.ask('labels.draft', { params: { kind: 'item' }, query } as never)).reply.checks as unknown[];
    };
    const { widthMm, heightMm } = LABEL_SIZES.item;
    expect(await draft([{ widthMm, heightMm, boxes: first?.boxes }])).toContainEqual({
      ...{ says: 'With a lot', misses: [], dpi: [...RESOLUTIONS], isLabel: true },
    });
    expect(await draft([{ widthMm, heightMm, boxes }])).toContainEqual({
      ...{ says: 'With a lot', misses: ['Lot'], dpi: [...RESOLUTIONS], isLabel: true },
    });
    const query = { contents: JSON.stringify(usual('item')), widthMm: 30, heightMm: 5 };
    expect((await lead.ask('labels.draft', { params: { kind: 'item' }, query } as never)).problem).toMatchObject({
      code: 'labels.paperTooSmall',
    });
  });
});

describe('D2 a logo', () => {
  const contents: LabelContents = { ...USUAL_CONTENTS.item, logo: { file: 1, width: 600, height: 240 } };
  const faceOf = (of: LabelContents) =>
    composeLabel(
      { ...(sampleLabels('item', of, { company: 'Quillfen', currency: 'EUR' })[0]?.request as object), paper: LABEL_SIZES.shelf } as never,
      of,
    );

  it('comes to the head dot by dot, onto paper alike, and the code beside it reads', async () => {
    const logos = new Map([[1, await greysOf(RING)]]);
    const arranged = firstArrangement('item', contents, LABEL_SIZES.shelf);
    for (const wanted of [contents, { ...contents, arranged: arranged ? [arranged] : [] }])
      for (const dpi of RESOLUTIONS) {
        const drawing = drawingOf(faceOf(wanted), dpi);
        if (isFault(drawing) || !drawing.logo) throw new Error('It has room.');
        const { x, y, width, height } = drawing.logo.box;
        const dots = inDots(logos.get(1) as never, width, height);
        const { rows, width: across } = await drawBitmap(drawSvg(drawing, logos));
        const bytes = Math.ceil(across / 8);
        let wrong = 0;
        for (let row = 0; row < height; row += 1)
          for (let column = 0; column < width; column += 1) {
            const [px, py] = [x + column, y + row];
            const isDark = ((rows[py * bytes + (px >> 3)] as number) & (0x80 >> (px & 7))) !== 0;
            if (isDark !== (dots[row * width + column] === 1)) wrong += 1;
          }
        expect([dpi, wrong]).toEqual([dpi, 0]);
        expect(await reader.read(await drawPng(drawing, logos), drawing.symbol)).toContain('L-2207');
      }
    const drawing = drawingOf(faceOf(contents));
    if (isFault(drawing) || !drawing.logo) throw new Error('It has room.');
    const file = path.join(folder, 'logo.pdf');
    const { pdf } = await labelsPdf({ faces: [faceOf(contents), faceOf(contents)], sheet: null, first: 0, logos }, () => undefined);
    writeFileSync(file, pdf);
    execFileSync('pdftoppm', ['-r', '203', '-png', '-gray', '-f', '2', '-singlefile', file, path.join(folder, 'page')]);
    const { x, y, width, height } = drawing.logo.box;
    const part = async (png: Buffer | string): Promise<number> =>
      (await sharp(png).extract({ left: x, top: y, width, height }).greyscale().stats()).channels[0]?.mean ?? 0;
    expect(Math.abs((await part(path.join(folder, 'page.png'))) - (await part(await drawPng(drawing, logos))))).toBeLessThan(12);
    // Once in the file, on both pages.
    const listed = execFileSync('pdfimages', ['-list', file]).toString().trim().split('\n').slice(2);
    expect(new Set(listed.map((line) => line.trim().split(/\s+/)[10])).size).toBe(1);
  });
  it('is sent as a picture, kept while it is used, and drawn on what is asked for; a large one is made small', async () => {
    const raw = { width: 4000, height: 3300, channels: 3 } as const;
    const large = await sharp(Buffer.alloc(raw.width * raw.height * 3, Buffer.from([20, 200, 90, 250, 7])), { raw })
      .png({ compressionLevel: 0 })
      .toBuffer();
    expect(large.length).toBeGreaterThan(39_000_000);
    for (const bytes of [large, RING]) {
      const sent = await upload(lead, 'logo.png', bytes);
      await keep({ version: await versionOf('item'), logo: sent.id });
      const { svg } = await see({ item: (await anItem()).id, size: 'pallet' });
      expect(svg).toContain('<image ');
      expect((svg ?? '').length).toBeLessThan(300_000);
      await house.rows(`UPDATE file SET at = now() - interval '20 days' WHERE id = ?`, [sent.id]);
      await deleteWhatIsPast(house.db);
      expect(await house.rows(`SELECT id FROM file WHERE id = ?`, [sent.id])).toHaveLength(1);
    }
  }, 60_000);
});
