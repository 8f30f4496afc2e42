import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { qty, type ItemId } from '#core/base';
import {
  findKitCircle,
  isOneEditApart,
  judgeAmounts,
  judgePriceRow,
  kitsPossible,
  partsShort,
  proposeMapping,
  readAmount,
  readPriceRow,
  readSearch,
  wordStems,
  type PriceField,
} from './index.ts';

const [hive, kit, frame, big] = [1, 2, 3, 4] as ItemId[] as [ItemId, ItemId, ItemId, ItemId];

describe('B12 kits', () => {
  it('finds the way round of a kit that would contain itself', () => {
    const parts = [
      { kit: kit, part: hive, qty: qty(1000) },
      { kit: big, part: kit, qty: qty(2000) },
    ];
    expect(findKitCircle(kit, parts)).toBeNull();
    expect(findKitCircle(kit, [...parts, { kit: kit, part: big, qty: qty(1000) }])).toEqual([kit, big, kit]);
  });
  it('twelve levels of four parts each are looked through at once, not way by way', () => {
    const levels = Array.from({ length: 12 }, (_, l) =>
      [0, 1, 2, 3].flatMap((a) => [0, 1, 2, 3].map((b) => ({ kit: l * 4 + a, part: l * 4 + 4 + b }))),
    );
    const parts = levels.flat().map((e) => ({ kit: (e.kit + 100) as ItemId, part: (e.part + 100) as ItemId, qty: qty(1000) }));
    const looked = { times: 0 };
    const counted = parts.map((p) => ({
      kit: p.kit,
      qty: p.qty,
      get part(): ItemId {
        looked.times += 1;
        return p.part;
      },
    }));
    expect(findKitCircle(100 as ItemId, counted)).toBeNull();
    expect(looked.times).toBeLessThanOrEqual(parts.length);
  });
  it('never walks for ever among circles that do not touch the kit', () => {
    fc.assert(
      fc.property(
        fc.array(fc.record({ kit: fc.integer({ min: 1, max: 6 }), part: fc.integer({ min: 1, max: 6 }) }), { maxLength: 14 }),
        (edges) => {
          const parts = edges.map((e) => ({ kit: e.kit as ItemId, part: e.part as ItemId, qty: qty(1000) }));
          const circle = findKitCircle(1 as ItemId, parts);
          const reach = new Set<number>();
          const todo = [1];
          while (todo.length > 0)
            for (const e of edges.filter((x) => x.kit === todo[0]).concat((todo.shift(), [])))
              if (!reach.has(e.part)) todo.push((reach.add(e.part), e.part));
          expect(circle !== null).toBe(reach.has(1));
        },
      ),
    );
  });
  it('the scarcest part says how many can be made, and what more would take', () => {
    const parts = [
      { part: hive, qty: qty(1000), free: qty(7000) },
      { part: frame, qty: qty(10_000), free: qty(39_000) },
    ];
    expect(kitsPossible(parts)).toEqual({ kits: 3, scarcest: frame });
    expect(partsShort(parts, 5)).toEqual([{ part: frame, short: 11_000 }]);
    expect(kitsPossible([{ part: hive, qty: qty(1000), free: qty(-2000) }])).toEqual({ kits: 0, scarcest: hive });
    expect(kitsPossible([])).toBeNull();
  });
});

describe('B7 price lists', () => {
  it.each([
    ['12.5', '12.5'],
    ['1,234.50', '1234.50'],
    ['1.234,50', '1234.50'],
    ['£ 1 234', '1234'],
    ['1,234', null],
    ['12,50', '12.50'],
    ['3.3000000000000003', '3.3'],
    ['3.30005', null],
    ['12,5', '12.5'],
    ['0.125', '0.125'],
    ['1.234.567', '1234567'],
    ['free', null],
    ['-3', null],
    ['=1+1', null],
    ['', null],
  ])('reads the amount %s', (text, amount) => expect(readAmount(text)).toBe(amount));
  it('a column is judged as a whole: one 0,125 shows what the comma is', () => {
    expect(judgeAmounts(['1,234', '0,125'])).toEqual({ decimal: ',', unclear: null });
    expect(readAmount('1,234', ',')).toBe('1.234');
    expect(readAmount('0,125', ',')).toBe('0.125');
    expect(judgeAmounts(['1,234', '12.50', '1,000,000'])).toEqual({ decimal: '.', unclear: null });
    expect(readAmount('1,234', '.')).toBe('1234');
    expect(readAmount('0,125', '.')).toBeNull();
  });
  it('where nothing shows it, or two cells contradict each other, a person is asked', () => {
    expect(judgeAmounts(['5', '1,234', '2,500'])).toEqual({ decimal: null, unclear: '1,234' });
    expect(judgeAmounts(['1,5', '1.5', '1,234'])).toEqual({ decimal: null, unclear: '1,234' });
    expect(judgeAmounts(['5', 'on request', ''])).toEqual({ decimal: null, unclear: null });
  });
  it('whatever is written with a mark is read back by that mark, and never as a thousand times as much', () => {
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: 0, max: 99_999_999 }), { minLength: 1, maxLength: 20 }),
        fc.constantFrom('.', ',' as const),
        fc.boolean(),
        (cells, mark, grouped) => {
          const texts = cells.map((n) => {
            const whole = String(Math.floor(n / 1000));
            const part = grouped ? whole.replace(/\B(?=(\d{3})+$)/g, mark === '.' ? ',' : '.') : whole;
            return `${part}${mark}${String(n % 1000).padStart(3, '0')}`;
          });
          const { decimal, unclear } = judgeAmounts(texts);
          if (decimal === null) expect(texts).toContain(unclear);
          else texts.forEach((text, i) => expect(Number(readAmount(text, decimal))).toBeCloseTo((cells[i] as number) / 1000, 6));
        },
      ),
    );
  });
  it('proposes columns by their titles, each once', () => {
    expect(proposeMapping(['Article no', 'Description', 'EAN', 'Net cost', 'Retail price', 'Pack'])).toEqual({
      partNo: 'Article no',
      description: 'Description',
      barcode: 'EAN',
      cost: 'Net cost',
      price: 'Retail price',
      packUnits: 'Pack',
    });
  });
  const row = (over: Partial<Record<PriceField, string>>) =>
    readPriceRow(
      (f) => ({ partNo: 'P-1', description: 'Frame nails', barcode: '4006381333931', cost: '2.00', price: '', packUnits: '', ...over })[f],
    );
  it('says what is wrong with a row', () => {
    expect(row({ partNo: '' })).toBe('The part number is empty.');
    expect(row({ cost: 'on request' })).toBe('“on request” is no cost.');
    expect(row({ barcode: '4006381333932' })).toBe('Barcode 4006381333932 has a wrong check digit.');
    expect(row({ packUnits: '0' })).toBe('“0” is no number of units in a pack.');
    expect(row({ barcode: '5.01E+12' })).toContain('shortened');
    expect(row({ partNo: '', cost: 'x' })).toBe('The part number is empty. “x” is no cost.');
  });
  it('a barcode that lost its leading zero in a spreadsheet is known by its check digit', () => {
    expect(row({ barcode: '36000291452' })).toMatchObject({ barcode: '36000291452', gtin: '00036000291452' });
    expect(row({ barcode: '36000291451' })).toMatchObject({ barcode: '36000291451', gtin: null });
  });
  it('tells new, changed and same rows apart, and a price that was only written otherwise is the same', () => {
    const now = row({});
    if (typeof now === 'string') throw new Error(now);
    const before = { description: 'Frame nails', cost: '2', price: null, barcode: '4006381333931', packUnits: qty(1000), gone: false };
    expect(judgePriceRow(2, now, undefined).verdict).toBe('new');
    expect(judgePriceRow(2, now, before).verdict).toBe('same');
    expect(judgePriceRow(2, now, { ...before, cost: '1.90' }).says).toBe('cost 1.90 → 2.00.');
    expect(judgePriceRow(2, now, { ...before, packUnits: qty(12_000) }).says).toBe('units in a pack 12 → 1.');
    expect(judgePriceRow(2, now, { ...before, gone: true }).verdict).toBe('new');
  });
});

describe('B8 what was typed into a search', () => {
  it('reads codes with and without their leading zero, and words in any order', () => {
    expect(readSearch('036000291452').gtins).toEqual(['00036000291452']);
    expect(readSearch('0036000291452').gtins).toEqual(['00036000291452']);
    expect(readSearch(' Wax,  foundation ').words).toEqual(['wax', 'foundation']);
    expect(readSearch('454ml jar').words).toEqual(['454', 'ml', 'jar']);
    expect(readSearch('Crème ＢＲÛＬÉＥ').words).toEqual(['creme', 'brulee']);
    expect(readSearch('ab-12.3')).toMatchObject({ code: 'AB-12.3', bare: 'ab123', words: ['ab', '12', '3'] });
  });
});

describe('B8 a word with one letter wrong', () => {
  const letter = fc.constantFrom(...'abcdefgh');
  const word = fc.string({ unit: letter, minLength: 4, maxLength: 9 });
  const edited = fc.tuple(word, fc.constantFrom('swap', 'wrong', 'missing', 'extra'), fc.nat(20), letter).map(([w, kind, n, l]) => {
    const at = n % w.length;
    const cut = w.slice(0, at);
    if (kind === 'missing') return [w, cut + w.slice(at + 1)] as const;
    if (kind === 'extra') return [w, cut + l + w.slice(at)] as const;
    if (kind === 'wrong') return [w, cut + l + w.slice(at + 1)] as const;
    return [w, at + 1 < w.length ? cut + w[at + 1] + w[at] + w.slice(at + 2) : w] as const;
  });
  it('shares a stem with the right word and is one edit from it', () => {
    fc.assert(
      fc.property(edited, ([right, typed]) => {
        expect(isOneEditApart(right, typed)).toBe(true);
        expect(isOneEditApart(typed, right)).toBe(true);
        const stems = new Set(wordStems(right));
        expect(wordStems(typed).some((s) => stems.has(s))).toBe(true);
      }),
      { numRuns: 2000 },
    );
  });
  it('and no two words that are further apart are taken for one another', () => {
    expect(isOneEditApart('frame', 'flame')).toBe(true);
    expect(isOneEditApart('frame', 'flaem')).toBe(false);
    expect(isOneEditApart('abcd', 'badc')).toBe(false);
    expect(isOneEditApart('abcd', 'abcdef')).toBe(false);
  });
});
