import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { withCheckDigit } from '#core/items';
import { dotsFor, dotsIn, mmOf, RESOLUTIONS } from './dots.ts';
import { composeLabel, type LabelRequest } from './label.ts';
import { LABEL_SIZES, type LabelSize } from './papers.ts';
import { layOut, type LabelFault } from './layout.ts';
import { capitalMm, LEAST_CAPITAL_MM, type Drawing } from './page.ts';
import { sizesOf, SYMBOLOGIES, type Symbology } from './symbols.ts';
import { evenTools, madeModules } from './testing.ts';

const GTIN = withCheckDigit('500123000001');
const item = (over: object): LabelRequest => ({
  ...{ kind: 'item', code: 'HV-10', barcode: null, description: 'Brood box, national', company: 'Quillfen' },
  ...{ price: null, lot: null, expires: null, serial: null },
  ...over,
});
const isFault = (d: Drawing | LabelFault): d is LabelFault => 'code' in d;
const drawn = (request: LabelRequest, dpi: (typeof RESOLUTIONS)[number] = 203): Drawing => {
  const d = layOut(composeLabel(request), dpi, evenTools);
  if (isFault(d)) throw new Error(d.code);
  return d;
};

describe('D1 codes in whole dots', () => {
  it('two dots of a head of 203 are a quarter of a millimetre, three of 300, six of 600', () => {
    expect(RESOLUTIONS.map((dpi) => sizesOf('code128', { shape: 'line', widths: [], across: 100 }, 'hand', dpi).at(-1)?.module)).toEqual([
      2, 3, 6,
    ]);
    expect([dotsIn(25.4, 203), dotsFor(0.2501, 203), dotsFor(0.251, 203)]).toEqual([203, 2, 3]);
    expect(mmOf(203, 203)).toBe(25.4);
  });
  it('no module is under the least of its use nor over the most, at any resolution', () => {
    for (const symbology of Object.keys(SYMBOLOGIES) as Symbology[])
      for (const reach of ['hand', 'aisle', 'carton', 'logistic'] as const)
        for (const dpi of RESOLUTIONS) {
          const modules = madeModules(symbology, 'A-01-1');
          const sizes = modules ? sizesOf(symbology, modules, reach, dpi) : [];
          expect([symbology, reach, dpi, sizes.length > 0]).toEqual([symbology, reach, dpi, true]);
          for (const { module } of sizes) {
            expect(mmOf(module, dpi)).toBeGreaterThanOrEqual(SYMBOLOGIES[symbology].least[reach] - 0.001);
            expect(mmOf(module, dpi)).toBeLessThanOrEqual(SYMBOLOGIES[symbology].most[reach]);
          }
        }
  });
  it('an EAN-13 is as high as its magnification asks, with eleven and seven modules of quiet', () => {
    const d = drawn(item({ barcode: GTIN }));
    expect(d.symbol.symbology).toBe('ean13');
    const module = mmOf(d.symbol.module, 203);
    expect(mmOf(d.symbol.box.height, 203)).toBeGreaterThanOrEqual((22.85 * module) / 0.33);
    expect((d.dark[0]?.x ?? 0) - d.symbol.box.x).toBe(11 * d.symbol.module);
    const last = d.dark.at(-1);
    expect(d.symbol.box.x + d.symbol.box.width - (last?.x ?? 0) - (last?.width ?? 0)).toBe(7 * d.symbol.module);
  });
});

describe('D1 a label without a code', () => {
  it.each(['', '   '])('of “%s” there is none, and it is said', (code) => {
    expect(layOut(composeLabel(item({ code })), 203, evenTools)).toEqual({ code: 'labels.emptyCode' });
  });
});

describe('D1 the rule by which a code becomes a square', () => {
  it('bars while they fit at a quarter of a millimetre, a square from then on', () => {
    const forms = [8, 20, 30, 48].map((n) => drawn(item({ barcode: 'x'.repeat(n) }), 203).symbol.symbology);
    expect(forms).toEqual(['code128', 'code128', 'datamatrix', 'datamatrix']);
    const gs1 = [1, 20].map((n) => drawn(item({ barcode: GTIN, lot: 'L'.repeat(n) }), 203).symbol.symbology);
    expect(gs1).toEqual(['gs1-128', 'gs1-datamatrix']);
  });
  it('the number of a retail code is a GTIN in a square', () => {
    const d = drawn(item({ barcode: GTIN, form: 'square' }));
    expect([d.symbol.symbology, d.symbol.text]).toEqual(['gs1-datamatrix', `010${GTIN}`]);
  });
  it('somebody may choose another form, where it fits', () => {
    expect(drawn(item({ barcode: 'PLAIN-1', form: 'square' })).symbol.symbology).toBe('datamatrix');
    expect(drawn(item({ barcode: 'x'.repeat(48), form: 'bars' })).symbol.symbology).toBe('datamatrix');
  });
  it('a code that fits nowhere is said by its name, and nothing is drawn', () => {
    const fault = layOut({ ...composeLabel(item({ barcode: 'x'.repeat(30) })), widthMm: 20, heightMm: 5 }, 203, evenTools);
    expect(fault).toEqual({ code: 'labels.noRoom', caption: 'x'.repeat(30), widthMm: 20, heightMm: 5 });
    const endless = layOut(composeLabel(item({ barcode: 'x'.repeat(4000) })), 203, evenTools);
    expect(isFault(endless)).toBe(true);
  });
  it('what travels on a pallet has bars of half a millimetre and 31.75 mm; on a small label lower ones', () => {
    const unit = (size: LabelSize): LabelRequest => ({
      kind: 'unit',
      sscc: withCheckDigit('39520001000000123'),
      company: 'Quillfen',
      contents: ['12 each HV-10'],
      paper: LABEL_SIZES[size],
    });
    for (const dpi of RESOLUTIONS) {
      const [large, low] = [drawn(unit('pallet'), dpi), drawn(unit('shelf'), dpi)];
      for (const d of [large, low]) expect(mmOf(d.symbol.module, dpi)).toBeGreaterThanOrEqual(0.494);
      expect(mmOf(large.symbol.box.height, dpi)).toBeGreaterThanOrEqual(31.75);
      expect(mmOf(low.symbol.box.height, dpi)).toBeGreaterThanOrEqual(12.7);
    }
  });
});

const text = fc.string({ unit: fc.constantFrom(...'aWg(é -7'), minLength: 1, maxLength: 120 });
const lot = fc.option(fc.string({ unit: fc.constantFrom(...'ABC1-()'), minLength: 1, maxLength: 20 }), { nil: null });
const request: fc.Arbitrary<LabelRequest> = fc.oneof(
  fc.record({ code: text, barcode: fc.constantFrom(null, GTIN, 'PLAIN-1'), description: text, lot, serial: lot }).map(item),
  fc
    .record({
      address: fc.string({ unit: fc.constantFrom(...'A0-1.'), minLength: 1, maxLength: 20 }),
      arrow: fc.constantFrom('up', 'down', null),
    })
    .map((of): LabelRequest => ({ kind: 'bin', zone: 'Store', site: 'Quillfen Yard', ...of })),
  fc
    .record({ description: text, price: fc.constantFrom('€ 1.50', '€ 12,345.00') })
    .map((of): LabelRequest => ({ kind: 'shelf', code: 'HV-10', barcode: GTIN, bin: 'A-01-1', ...of })),
  fc.record({ customer: text }).map((of): LabelRequest => ({ kind: 'order', number: 'O-1042', ...of })),
  fc
    .record({ contents: fc.array(text, { maxLength: 12 }) })
    .map((of): LabelRequest => ({ kind: 'unit', sscc: withCheckDigit('39520001000000123'), company: 'Quillfen', ...of })),
);

describe('D2 where things stand', () => {
  it('law: any label, size and head: nothing over another, nothing out of the label, no letter too small, all dark in whole dots', () => {
    const size = fc.constantFrom(...(Object.keys(LABEL_SIZES) as LabelSize[]));
    const seen = new Map<string, number>();
    fc.assert(
      fc.property(request, size, fc.constantFrom(...RESOLUTIONS), (of, name, dpi) => {
        const d = layOut(composeLabel({ ...of, paper: LABEL_SIZES[name] }), dpi, evenTools);
        if (isFault(d)) return;
        seen.set(d.symbol.symbology, (seen.get(d.symbol.symbology) ?? 0) + 1);
        const { box } = d.symbol;
        const boxes = [
          { x: box.x, y: box.y, right: box.x + box.width, bottom: box.y + box.height },
          ...(d.arrow ? [{ x: d.arrow.x, y: d.arrow.y, right: d.arrow.x + d.arrow.width, bottom: d.arrow.y + d.arrow.height }] : []),
          ...d.texts.map((t) => ({ x: t.x, y: t.top, right: t.x + t.width, bottom: t.bottom })),
        ];
        for (const [n, a] of boxes.entries()) {
          expect([a.x >= -1e-6, a.y >= -1e-6, a.right <= d.width + 1e-6, a.bottom <= d.height + 1e-6]).toEqual([true, true, true, true]);
          for (const b of boxes.slice(n + 1))
            expect(a.x < b.right - 1e-6 && b.x < a.right - 1e-6 && a.y < b.bottom - 1e-6 && b.y < a.bottom - 1e-6).toBe(false);
        }
        for (const t of d.texts) expect(capitalMm(t, dpi)).toBeGreaterThanOrEqual(LEAST_CAPITAL_MM - 0.001);
        for (const b of d.dark) {
          expect([b.x, b.y, b.width, b.height].every(Number.isInteger)).toBe(true);
          expect(b.x >= box.x && b.y >= box.y && b.x + b.width <= box.x + box.width && b.y + b.height <= box.y + box.height).toBe(true);
        }
        // No third of the label is empty from side to side.
        const high = boxes.toSorted((a, b) => a.y - b.y);
        let [until, gap] = [0, 0];
        for (const b of high) {
          gap = Math.max(gap, b.y - until);
          until = Math.max(until, b.bottom);
        }
        expect(Math.max(gap, d.height - until)).toBeLessThan(d.height / 3);
      }),
      { numRuns: 600 },
    );
    expect([...seen.keys()]).toEqual(expect.arrayContaining(['code128', 'ean13', 'gs1-128', 'datamatrix']));
  }, 120_000);
  it('letters that no font has are named', () => {
    expect(drawn(item({ description: 'Brood \ue000 box' })).unsaid).toEqual(['No font has “\ue000”: a box stands there.']);
  });
  it('what is shortened is said; that the company has no room is not', () => {
    const d = drawn(item({ barcode: GTIN, description: 'Brood box with floor and roof and stand '.repeat(5), paper: LABEL_SIZES.small }));
    expect(d.texts.map((t) => t.field)).not.toContain('company');
    expect(d.unsaid.join(' ')).not.toContain('Quillfen');
    expect(d.unsaid.join(' ')).toContain('“Brood box with floor');
  });
});
