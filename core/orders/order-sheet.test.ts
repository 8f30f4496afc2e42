import { describe, expect, it } from '@jest/globals';
import { findColumns, qty, type ItemId } from '#core/base';
import { judgeOrderSheet, ORDER_COLUMNS, type KnownForOrders } from './order-sheet.ts';

const units = (n: number) => qty(n * 1000);
const known: KnownForOrders = {
  items: new Map([
    ['AN-1', { item: 1 as ItemId, code: 'AN-1', decimals: 0, isRetired: false, packs: [{ name: 'case', units: units(12) }] }],
    ['FLOUR', { item: 2 as ItemId, code: 'FLOUR', decimals: 3, isRetired: false, packs: [] }],
    ['OLD-1', { item: 3 as ItemId, code: 'OLD-1', decimals: 0, isRetired: true, packs: [] }],
  ]),
  customers: new Map<string, number | null>([
    ['C-1', 7],
    ['BRINE & SON', 7],
    ['TWICE', null],
  ]),
  references: new Map([['7|PO 9', 'CO-100']]),
  today: '2026-11-27',
  dueElse: '2026-11-30',
};
const HEAD = ['Reference', 'Customer', 'Item', 'Quantity', 'Pack', 'Due', 'Priority'];
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
