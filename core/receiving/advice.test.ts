import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { ONE, qty, sumQty, type ItemId, type Qty } from '#core/base';
import { withCheckDigit, type Tracking } from '#core/items';
import { judgeAdvice, type Advice, type AdvisedItem, type AdviceLine, type KnownForAdvice } from './index.ts';

const whole = (n: number): Qty => qty(n * 1000);
const item = (id: number, code: string, tracking: Tracking, more: Partial<AdvisedItem> = {}): AdvisedItem => ({
  ...{ item: id as ItemId, code, unit: 'each', decimals: 0, tracking },
  packs: [
    { id: id * 10, units: ONE },
    { id: id * 10 + 1, units: whole(12) },
  ],
  ...more,
});
const [jar, dated, serial, rope] = [
  item(1, 'JAR-1', 'none'),
  item(2, 'DATED-2', 'lotExpiry'),
  item(3, 'SERIAL-3', 'serial'),
  item(4, 'ROPE-4', 'none', { unit: 'm', decimals: 2 }),
];
const CASE = '09520000000011'.padStart(14, '0');
const [UNIT, OTHER, HERE] = [1, 2, 3].map((n) => withCheckDigit(`3952000100000000${n}`)) as [string, string, string];
const KNOWN: KnownForAdvice = {
  suppliers: new Map([
    ['MADE', { id: 7, name: 'Made-up Supplies' }],
    ['MADE-UP SUPPLIES', { id: 7, name: 'Made-up Supplies' }],
  ]),
  orders: new Map([
    ['PO-1', { id: 1, supplier: 7, site: 1, expects: true }],
    ['PO-2', { id: 2, supplier: 8, site: 1, expects: true }],
    ['PO-3', { id: 3, supplier: 7, site: 1, expects: false }],
    ['PO-4', { id: 4, supplier: 7, site: 2, expects: true }],
  ]),
  byCode: new Map([jar, dated, serial, rope].map((i) => [i.code, i])),
  byPart: new Map([['7|THEIR-1', jar]]),
  byGtin: new Map([[CASE, { item: jar, pack: 11 }]]),
  lots: new Map([['2|OLD', '2027-05-01']]),
  serials: new Map([['3|S-HERE', 'bin A-01-1']]),
  units: new Map([[HERE, 'here already, in bin A-01-1']]),
};
const line = (more: Partial<AdviceLine> = {}): AdviceLine => ({
  ...{ no: '1', order: 'PO-1', sscc: UNIT, qty: '5', unitCode: 'EA', buyer: 'JAR-1', seller: null, standard: null, name: 'Jar' },
  ...{ lot: null, made: null, expires: null, serials: [] },
  ...more,
});
const advice = (lines: readonly AdviceLine[], more: Partial<Advice> = {}): Advice => ({
  ...{ reference: 'DN-77', issued: '2026-11-20', due: '2026-11-27', supplier: { ids: ['MADE'], name: '' }, orders: [], lines },
  ...more,
});
const judge = (lines: readonly AdviceLine[], more: Partial<Advice> = {}) => judgeAdvice(advice(lines, more), KNOWN);
const faultOf = (lines: readonly AdviceLine[], more: Partial<Advice> = {}): string => judge(lines, more).faults.join(' ');

describe('C1 what a supplier announces', () => {
  it('is known by our code, their part number or the retail code, which counts the pack that it is of', () => {
    const { notice, faults } = judge([
      line(),
      line({ no: '2', buyer: null, seller: 'their-1', qty: '3' }),
      line({ no: '3', buyer: null, standard: CASE, qty: '2', unitCode: 'C62' }),
    ]);
    expect(faults).toEqual([]);
    expect(notice).toMatchObject({ supplier: 7, reference: 'DN-77', site: 1, orders: [1], due: '2026-11-27' });
    // Lines of the same goods in one unit are one.
    expect(notice?.lines.map((l) => [l.item, l.pack, l.qty])).toEqual([
      [jar?.item, 10, whole(8)],
      [jar?.item, 11, whole(24)],
    ]);
  });
  it('says lots, dates and serials; without them a scan of its unit cannot take it', () => {
    const { notice } = judge([
      line({ buyer: 'DATED-2', lot: 'L1', expires: '2027-03-31', made: '2026-03-31' }),
      line({ no: '2', buyer: 'DATED-2', sscc: OTHER }),
      line({ no: '3', buyer: 'SERIAL-3', qty: '2', serials: ['A', 'B'] }),
      line({ no: '4', buyer: 'DATED-2', lot: 'OLD' }),
      line({ no: '5', buyer: 'JAR-1', lot: 'nobody asked', sscc: null }),
    ]);
    expect(notice?.lines.map((l) => [l.lot, l.expires, l.serial, l.isWhole])).toEqual([
      ['L1', '2027-03-31', null, true],
      [null, null, null, false],
      [null, null, 'A', true],
      [null, null, 'B', true],
      ['OLD', '2027-05-01', null, true],
      [null, null, null, true],
    ]);
  });
  it.each<[string, Partial<AdviceLine>, string]>([
    ['an item that nobody knows', { buyer: 'NONE' }, 'nobody here knows “NONE”'],
    ['a unit of measure that is none', { unitCode: 'KGM' }, '“KGM” is no unit in which JAR-1 is kept; that is EA (each).'],
    ['half a piece', { qty: '1.5' }, '“1.5” is no quantity of JAR-1'],
    ['nothing', { qty: '0' }, 'no quantity'],
    ['less than nothing', { qty: '-1' }, 'no quantity'],
    ['more than anybody unloads', { qty: '1000000000' }, 'no quantity'],
    ['31 February', { buyer: 'DATED-2', lot: 'L', expires: '2027-02-31' }, 'there is no day “2027-02-31”'],
    ['29 February of a common year', { buyer: 'DATED-2', lot: 'L', expires: '2027-02-29' }, 'there is no day'],
    ['expiry before made', { buyer: 'DATED-2', lot: 'L', made: '2027-03-02', expires: '2027-03-01' }, 'before it was made'],
    ['a lot with another date', { buyer: 'DATED-2', lot: 'OLD', expires: '2027-05-02' }, 'One lot has one date'],
    ['a lot of 200 letters', { buyer: 'DATED-2', lot: 'L'.repeat(200), expires: '2027-05-02' }, 'at most 40 letters'],
    ['a serial that is here', { buyer: 'SERIAL-3', qty: '1', serials: ['S-HERE'] }, 'serial S-HERE of SERIAL-3 is bin A-01-1'],
    ['one serial twice', { buyer: 'SERIAL-3', qty: '2', serials: ['A', 'A'] }, 'in line 1 of this file already'],
    ['fewer serials than pieces', { buyer: 'SERIAL-3', qty: '3', serials: ['A'] }, 'names 1 serials'],
    ['a number that is no SSCC', { sscc: UNIT.slice(0, 17) + String((Number(UNIT[17]) + 1) % 10) }, 'is no SSCC'],
    ['a unit that is here', { sscc: HERE }, 'here already'],
    ['an order that is none', { order: 'PO-9' }, 'no purchase order “PO-9”'],
    ['somebody else’s order', { order: 'PO-2' }, 'is not an order to Made-up Supplies'],
    ['an order that has come', { order: 'PO-3' }, 'is not to come'],
  ])('refuses %s, in words, and takes nothing', (_, more, says) => {
    const { notice, faults } = judge([line(more), line({ no: '2', sscc: OTHER })]);
    expect(notice).toBeNull();
    expect(faults.join(' ')).toContain(says);
  });
  it('refuses a supplier that nobody knows, a file without lines or number, and orders of two sites', () => {
    expect(faultOf([line()], { supplier: { ids: ['X'], name: 'Nobody' } })).toContain('Nobody here is called “Nobody”');
    expect(faultOf([])).toContain('announces nothing');
    expect(faultOf([line()], { reference: '' })).toContain('must have 1 to 60 letters');
    expect(faultOf([line(), line({ no: '2', order: 'PO-4' })])).toContain('several sites');
    expect(judge(Array.from({ length: 20_001 }, () => line())).faults[0]).toContain('more than 20000');
  });
  it('law: what is taken in is what the file says, piece by piece; every fault of it is named at once', () => {
    const goods = fc.record({ rope: fc.boolean(), n: fc.integer({ min: 1, max: 99 }), unit: fc.constantFrom(UNIT, OTHER, null) });
    fc.assert(
      fc.property(fc.array(goods, { minLength: 1, maxLength: 12 }), fc.nat(5), (many, wrong) => {
        const lines = many.map((g, i) =>
          line({ no: String(i + 1), sscc: g.unit, qty: String(g.n), ...(g.rope ? { buyer: 'ROPE-4', unitCode: 'MTR' } : {}) }),
        );
        const { notice } = judge(lines);
        expect(sumQty(notice?.lines.map((l) => l.qty) ?? [])).toBe(whole(many.reduce((s, g) => s + g.n, 0)));
        const broken = lines.map((l, i) => (i <= wrong ? { ...l, qty: 'x' } : l));
        expect(judge(broken).faults).toHaveLength(Math.min(lines.length, wrong + 1));
      }),
    );
  });
});
