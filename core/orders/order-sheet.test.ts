import { describe, expect, it } from '@jest/globals';
import { findColumns, ONE, qty, type ItemId } from '#core/base';
import { judgeOrderSheet, ORDER_COLUMNS, type KnownForOrders, type OrderedItem } from './order-sheet.ts';
import { judgeOrderPaper, type OrderPaper, type PaperLine } from './paper.ts';

const units = (n: number) => qty(n * 1000);
const orderedItem = (item: number, code: string, more: Partial<OrderedItem> = {}): OrderedItem => ({
  item: item as ItemId,
  code,
  decimals: 0,
  isRetired: false,
  tracking: 'none',
  unit: 'each',
  per: ONE,
  packs: [],
  ...more,
});
const known: KnownForOrders = {
  items: new Map([
    ['AN-1', orderedItem(1, 'AN-1', { packs: [{ name: 'case', units: units(12) }] })],
    ['CASE-CODE', orderedItem(1, 'AN-1', { per: units(12) })],
    ['FLOUR', orderedItem(2, 'FLOUR', { decimals: 3, unit: 'kg' })],
    ['OLD-1', orderedItem(3, 'OLD-1', { isRetired: true })],
    ['BALM', orderedItem(4, 'BALM', { tracking: 'lot' })],
    ['MELTER', orderedItem(5, 'MELTER', { tracking: 'serial' })],
  ]),
  customers: new Map<string, number | null>([
    ['C-1', 7],
    ['BRINE & SON', 7],
    ['TWICE', null],
  ]),
  references: new Map([['7|PO 9', 'CO-100']]),
  lots: new Set(['4|L1', '4|L2']),
  serials: new Set(['5|S1', '5|S2', '5|S3']),
  today: '2026-11-27',
  dueElse: '2026-11-30',
};
const HEAD = ['Reference', 'Customer', 'Item', 'Quantity', 'Pack', 'Due', 'Priority', 'Lot', 'Serials'];
function judge(...rows: string[][]) {
  const columns = findColumns(HEAD, ORDER_COLUMNS);
  if (!columns.ok) throw new Error('columns');
  return judgeOrderSheet(
    columns.value,
    rows.map((cells, n) => ({ row: n + 2, cells })),
    known,
  );
}

describe('F2 a sheet of orders', () => {
  it('rows of one reference are one order; the same item twice is one line; a customer by code or by name', () => {
    const { orders, verdicts } = judge(
      ['A 1', 'c-1', 'an-1', '2', 'CASE', '2026-12-01', '2'],
      ['a 1', 'Brine & Son', 'FLOUR', '0,125', '', '', ''],
      ['A 1', 'C-1', 'AN-1', '3', '', '', ''],
      ['A 2', 'C-1', 'AN-1', '1', '', '', ''],
    );
    expect(verdicts.map((v) => v.verdict)).toEqual(['new', 'new', 'new', 'new']);
    expect(orders).toEqual([
      {
        reference: 'A 1',
        customer: 7,
        due: '2026-12-01',
        priority: 2,
        carrier: '',
        note: '',
        lines: [
          { item: 1, qty: units(27) },
          { item: 2, qty: 125 },
        ],
      },
      expect.objectContaining({ reference: 'A 2', due: '2026-11-30', priority: 5 }),
    ]);
  });
  it.each<[string[], string]>([
    [['', 'C-1', 'AN-1', '1'], 'It has no reference'],
    [['A', 'nobody', 'AN-1', '1'], 'There is no customer “nobody”.'],
    [['A', 'twice', 'AN-1', '1'], 'Several customers are called “twice”'],
    [['po 9', 'C-1', 'AN-1', '1'], 'po 9 of this customer is here already, as CO-100.'],
    [['A', 'C-1', 'none', '1'], 'There is no item “none”.'],
    [['A', 'C-1', 'OLD-1', '1'], 'OLD-1 is retired.'],
    [['A', 'C-1', 'AN-1', '0'], '“0” is no quantity.'],
    [['A', 'C-1', 'AN-1', '-3'], '“-3” is no quantity.'],
    [['A', 'C-1', 'AN-1', '1.5'], 'it is counted whole'],
    [['A', 'C-1', 'FLOUR', '0.0001'], 'is no quantity'],
    [['A', 'C-1', 'AN-1', '1', 'pallet'], 'AN-1 does not come by “pallet”.'],
    [['A', 'C-1', 'AN-1', '1', '', 'someday'], '“someday” under Due is no day.'],
    [['A', 'C-1', 'AN-1', '1', '', '', '11'], '“11” under Priority is none from 1 to 9.'],
    [['x'.repeat(61), 'C-1', 'AN-1', '1'], 'A reference has at most 60 letters; this one has 61.'],
  ])('%j: %s', (row, says) => {
    const { verdicts, orders } = judge(row);
    expect(verdicts[0]).toMatchObject({ verdict: 'fault', row: 2 });
    expect(verdicts[0]?.says).toContain(says);
    expect(orders).toEqual([]);
  });
  it('a row that contradicts the first of its order is named with that row; all faults of a row are told', () => {
    const { verdicts } = judge(['A', 'C-1', 'AN-1', '1', '', '2026-12-01'], ['A', 'C-1', 'FLOUR', '1', '', '2026-12-02']);
    expect(verdicts[1]?.says).toBe('It is due on 2026-12-02; row 2 of the same order says 2026-12-01.');
    expect(judge(['', 'nobody', 'none', 'x'])?.verdicts[0]?.says.split('. ')).toHaveLength(3);
  });
});

describe('F3 goods that a sheet names', () => {
  const row = (item: string, qty: string, lot = '', serials = ''): string[] => ['A', 'C-1', item, qty, '', '', '', lot, serials];
  it('one item of two lots is two lines; of one lot it is one; serials of two rows are added up', () => {
    const { orders } = judge(row('BALM', '2', 'L1'), row('BALM', '1', 'L2'), row('BALM', '3', 'L1'), row('BALM', '4'));
    expect(orders[0]?.lines).toEqual([
      { item: 4, qty: units(5), lot: 'L1' },
      { item: 4, qty: units(1), lot: 'L2' },
      { item: 4, qty: units(4) },
    ]);
    const named = judge(row('MELTER', '2', '', 'S1, S2'), row('MELTER', '1', '', 'S3'), row('MELTER', '1'));
    expect(named.orders[0]?.lines).toEqual([
      { item: 5, qty: units(3), serials: ['S1', 'S2', 'S3'] },
      { item: 5, qty: units(1) },
    ]);
  });
  it.each<[string[], string]>([
    [row('BALM', '2', 'L9'), 'Lot L9 of BALM is on no record.'],
    [row('AN-1', '2', 'L1'), 'AN-1 has no lots; none can be named.'],
    [row('MELTER', '2', '', 'S1'), '1 serial is named for 2 of MELTER'],
    [row('MELTER', '1', '', 'S9'), 'Serial S9 of MELTER is on no record.'],
  ])('%j: %s', (cells, says) => {
    expect(judge(cells).verdicts[0]).toMatchObject({ verdict: 'fault', says: expect.stringContaining(says) as unknown });
  });
  it('the barcode of a case counts cases', () => {
    expect(judge(row('case-code', '2')).orders[0]?.lines).toEqual([{ item: 1, qty: units(24) }]);
  });
});

describe('F2 an order that is too long', () => {
  it('is refused at the first line that is too many; more of a line that is there is none', () => {
    const many = new Map(known.items);
    for (let n = 0; n < 1001; n += 1) many.set(`N${n}`, orderedItem(100 + n, `N${n}`));
    const columns = new Map([
      ['reference', 0],
      ['customer', 1],
      ['item', 2],
      ['qty', 3],
    ]);
    const rows = Array.from({ length: 1000 }, (_, n) => ({ row: n, cells: ['A', 'C-1', `N${n}`, '1'] }));
    const all = { ...known, items: many };
    const good = judgeOrderSheet(columns, [...rows, { row: 1000, cells: ['A', 'C-1', 'N7', '1'] }], all);
    expect(good.verdicts.every((v) => v.verdict === 'new')).toBe(true);
    const { verdicts } = judgeOrderSheet(columns, [...rows, { row: 1000, cells: ['A', 'C-1', 'N1000', '1'] }], all);
    expect(verdicts.at(-1)).toMatchObject({ verdict: 'fault', says: 'An order has at most 1000 lines; make two of A.' });
    expect(judgeOrderPaper(paperOf(1001), known).faults).toEqual(['It has 1001 lines; an order has at most 1000.']);
  });
});
const paperOf = (lines: number): OrderPaper => ({
  ...{ kind: 'order', reference: 'A', customer: ['C-1'], due: null, carrier: '', note: '' },
  lines: Array.from({ length: lines }, (_, n) => ({
    ...{ no: String(n), qty: '1', unitCode: 'EA', seller: 'AN-1', standard: null, name: '', lot: null, serials: [], isOut: false },
  })),
});

describe('F2 an order that another’s program sent', () => {
  const line = (more: Partial<PaperLine>): PaperLine => ({
    ...{ no: '1', qty: '2', unitCode: 'EA', seller: 'AN-1', standard: null, name: 'Anything', lot: null, serials: [], isOut: false },
    ...more,
  });
  const paper = (more: Partial<OrderPaper> = {}): OrderPaper => ({
    ...{ kind: 'order', reference: 'A 1', customer: ['their number', 'C-1'], due: '2026-12-04', carrier: '', note: '', lines: [line({})] },
    ...more,
  });
  it('is judged by the rules of a sheet; the customer by whichever of their names is known', () => {
    expect(judgeOrderPaper(paper(), known)).toEqual({
      order: expect.objectContaining({ reference: 'A 1', customer: 7, due: '2026-12-04', lines: [{ item: 1, qty: units(2) }] }) as unknown,
      out: [],
      faults: [],
    });
  });
  it.each<[Partial<OrderPaper>, string]>([
    [{ lines: [line({ no: '7', seller: 'NONE', standard: '12345678' })] }, 'Line 7: There is no item “NONE”.'],
    [{ lines: [line({ unitCode: 'KGM' })] }, 'Line 1: “KGM” is no unit in which AN-1 is counted; that is by the each.'],
    [{ lines: [line({ qty: '-1' })] }, 'Line 1: “-1” is no quantity.'],
    [{ lines: [] }, 'It orders nothing.'],
    [{ kind: 'change', lines: [] }, 'It changes no line.'],
    [{ reference: 'po 9' }, 'Line 1: po 9 of this customer is here already, as CO-100.'],
    [{ customer: ['nobody'] }, 'Line 1: There is no customer “nobody”.'],
    [{ kind: 'cancellation', reference: ' ', lines: [] }, 'It does not say which order it is about.'],
  ])('%j: %s', (more, says) => {
    const { order, faults } = judgeOrderPaper(paper(more), known);
    expect(order).toBeNull();
    expect(faults).toContain(says);
  });
  it('a change is about an order that is here, and says what is taken out', () => {
    const { order, out, faults } = judgeOrderPaper(
      paper({ kind: 'change', reference: 'PO 9', lines: [line({ qty: '5' }), line({ no: '2', seller: 'FLOUR', isOut: true })] }),
      known,
    );
    expect(faults).toEqual([]);
    expect(order?.lines).toEqual([{ item: 1, qty: units(5) }]);
    expect(out.map((i) => i.code)).toEqual(['FLOUR']);
  });
});
