import { describe, expect, it } from '@jest/globals';
import { withCheckDigit } from '#core/items';
import { composeLabel, type LabelRequest } from './label.ts';
import { layOut } from './layout.ts';
import { LABEL_SIZES } from './papers.ts';
import { evenTools } from './testing.ts';

const GTIN = withCheckDigit('500123000001');
const item = {
  ...{ kind: 'item', code: 'SC-7', description: 'Honey scale 30 kg', barcode: GTIN, company: 'Quillfen' },
  ...{ price: null, lot: null, expires: null, serial: null },
} as Extract<LabelRequest, { kind: 'item' }>;
const parcel = {
  ...{ kind: 'parcel', order: 'CO-5012', customer: 'Marrow & Finch', address: 'Mill Lane 4\n\nQuarrington QX4 7ZZ' },
  ...{ company: 'Quillfen', parcel: 2, of: 3 },
} as Extract<LabelRequest, { kind: 'parcel' }>;
const said = (request: LabelRequest): string[] => composeLabel(request).fields.map((f) => f.text);
const coded = (request: LabelRequest): [string, string] => {
  const [way] = composeLabel(request).code.ways;
  return [way.symbology, way.text];
};

describe('D1 D2 what stands on each kind of label', () => {
  it.each<[string, LabelRequest, string[], [string, string]]>([
    [
      'a serial',
      { ...item, serial: 'S-4711' },
      ['SC-7', 'Serial S-4711', 'Honey scale 30 kg', 'Quillfen'],
      ['gs1-128', `010${GTIN}21S-4711`],
    ],
    [
      'a slot of a cart, whose code is the cart',
      { kind: 'tote', cart: 'CART-1', slot: 12, site: 'Quillfen Yard' },
      ['CART-1 · 12', 'Quillfen Yard'],
      ['code128', 'CART-1'],
    ],
    [
      'a parcel, by its number among them',
      parcel,
      ['CO-5012', 'Marrow & Finch', 'Mill Lane 4', 'Quarrington QX4 7ZZ', 'Parcel 2 of 3', 'From Quillfen'],
      ['code128', 'CO-5012'],
    ],
    [
      'the only parcel, without counting it',
      { ...parcel, parcel: 1, of: 1 },
      said(parcel).filter((t) => !t.startsWith('Parcel')),
      ['code128', 'CO-5012'],
    ],
    [
      'a badge',
      { kind: 'badge', badge: 'B-1007', name: 'Tobin Sallow', role: 'hand', company: 'Quillfen' },
      ['Tobin Sallow', 'hand', 'Quillfen'],
      ['code128', 'B-1007'],
    ],
    ['a badge in other letters', { kind: 'badge', badge: 'Ю-7', name: 'Ю', role: '', company: '' }, ['Ю'], ['qrcode', 'Ю-7']],
  ])('%s', (_, request, texts, code) => {
    expect(said(request)).toEqual(texts);
    expect(coded(request)).toEqual(code);
  });
  it('a parcel says where it goes whole, or is no label', () => {
    const long = { ...parcel, address: 'a very long way along the old road past the second mill '.repeat(3) } as LabelRequest;
    const laid = layOut(composeLabel(long), 203, evenTools);
    expect(
      'texts' in laid &&
        laid.texts
          .filter((t) => t.field.startsWith('address'))
          .map((t) => t.text)
          .join(' '),
    ).toBe('a very long way along the old road past the second mill '.repeat(3).trim());
    expect(layOut(composeLabel({ ...long, paper: LABEL_SIZES.small }), 203, evenTools)).toMatchObject({ code: 'labels.noRoom' });
  });
  it('what is stuck on a parcel is read from farther than what is in the hand', () => {
    const module = (request: LabelRequest): number => {
      const laid = layOut(composeLabel({ ...request, paper: LABEL_SIZES.pallet }), 203, evenTools);
      return 'symbol' in laid ? (laid.symbol.module * 25.4) / 203 : 0;
    };
    expect(module(parcel)).toBeGreaterThanOrEqual(0.495);
  });
});
