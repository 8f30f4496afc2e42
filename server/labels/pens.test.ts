import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { afterAll, describe, expect, it } from '@jest/globals';
import sharp from 'sharp';
import { composeLabel, type Drawing, type LabelFace } from '#core/labels';
import { drawPng } from './draw.ts';
import { drawingOf, isFault } from './drawing.ts';
import { labelsPdf } from './pdf.ts';

const folder = mkdtempSync(path.join(tmpdir(), 'dock-row-pens-'));
afterAll(() => rmSync(folder, { recursive: true }));

type Pixels = { readonly data: Buffer; readonly width: number };
const pixels = async (png: Buffer | string): Promise<Pixels> => {
  const { data, info } = await sharp(png).greyscale().threshold(128).toColourspace('b-w').raw().toBuffer({ resolveWithObject: true });
  return { data, width: info.width };
};

/** How much of what is dark in one picture is not so in the other, in the boxes of the texts: 0 is all alike. */
function unlike(d: Drawing, a: Pixels, b: Pixels): number {
  let [dark, differ] = [0, 0];
  for (const t of d.texts)
    for (let y = Math.floor(t.top); y < t.bottom; y += 1)
      for (let x = Math.floor(t.x); x < t.x + t.width; x += 1) {
        const [one, other] = [a.data[y * a.width + x] === 0, b.data[y * b.width + x] === 0];
        dark += Number(one) + Number(other);
        differ += Number(one !== other);
      }
  return differ / dark;
}

async function both(face: LabelFace): Promise<{ drawing: Drawing; png: Pixels; pdf: Pixels }> {
  const drawing = drawingOf(face);
  if (isFault(drawing)) throw new Error(drawing.code);
  const file = path.join(folder, 'label.pdf');
  writeFileSync(file, (await labelsPdf({ faces: [face], sheet: null, first: 0 }, () => undefined)).pdf);
  execFileSync('pdftoppm', ['-r', String(drawing.dpi), '-png', '-singlefile', file, path.join(folder, 'page')]);
  return { drawing, png: await pixels(await drawPng(drawing)), pdf: await pixels(path.join(folder, 'page.png')) };
}
const labelled = (description: string): LabelFace =>
  composeLabel({
    ...{ kind: 'item', code: 'HV-10', barcode: null, company: 'Quillfen', price: null, lot: null, expires: null, serial: null },
    description,
  });

describe('D1 one drawing, whatever draws it', () => {
  it.each([
    'Brood box, national',
    'Größe Ü7, ΜΕΛΙ-12, Соты-34',
    'כוורת (גדולה) 12',
    'خلية نحل وطنية',
    '١٢٣٤٥ خلية ٦٧٨٩',
    'Box خلية 12 (גדולה) 34',
    '🐝 bee',
  ])('%s looks alike on paper and on the printer', async (text) => {
    const { drawing, png, pdf } = await both(labelled(text));
    expect(unlike(drawing, png, pdf)).toBeLessThan(0.12);
  });
  it('would notice digits that are turned round', async () => {
    const [right, wrong] = [await both(labelled('١٢٣٤٥٦٧٨٩')), await both(labelled('٩٨٧٦٥٤٣٢١'))];
    expect(unlike(right.drawing, right.png, wrong.pdf)).toBeGreaterThan(0.2);
    expect(unlike(right.drawing, right.png, right.pdf)).toBeLessThan(0.12);
  });
  it('what only says how others are written has its effect and no shape of its own', async () => {
    const drawn = async (text: string): Promise<Buffer> => (await both(labelled(text))).png.data;
    const plain = await drawn('Brood box é, abc');
    expect((await drawn('\ufeffBrood\u200b bo\u00adx é, \u200eabc\u2060')).equals(plain)).toBe(true);
    // Turned round as it says, and not a box before it.
    const turned = await both(labelled('Brood box é, \u202ecba'));
    expect(unlike(turned.drawing, turned.png, (await both(labelled('Brood box é, abc'))).png)).toBeLessThan(0.12);
    expect(unlike(turned.drawing, turned.png, (await both(labelled('Brood box é, cba'))).png)).toBeGreaterThan(0.01);
  });
  it('a PDF says what its labels do not, once', async () => {
    const faces = [labelled('漢 box'), labelled('漢 box'), labelled('Brood box')];
    expect((await labelsPdf({ faces, sheet: null, first: 0 }, () => undefined)).unsaid).toEqual(['No font has “漢”: a box stands there.']);
  });
});
