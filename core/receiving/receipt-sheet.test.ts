import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { qty, type BinId, type ItemId } from '#core/base';
import { judgeReceiptSheet, RECEIPT_COLUMNS, type KnownForReceipt, type ReceivedItem } from './index.ts';

const at = new Map(RECEIPT_COLUMNS.map((c, n) => [c.key, n]));
const item = (n: number, code: string, tracking: ReceivedItem['tracking'], more: Partial<ReceivedItem> = {}): ReceivedItem => ({
  item: n as ItemId,
  code,
  decimals: 0,
  tracking,
  isRetired: false,
  packs: [
    { id: n * 10, name: 'each', units: qty(1000) },
    { id: n * 10 + 1, name: 'case', units: qty(12_000) },
  ],
  ...more,
});
const jar = item(1, 'JR-1', 'none');
const wax = item(2, 'WX-2', 'lotExpiry');
const scale = item(3, 'SC-3', 'serial');
const known: KnownForReceipt = {
  items: new Map([
    ['JR-1', jar],
    ['9521230000017', jar],
    ['P-77', jar],
    ['WX-2', wax],
    ['SC-3', scale],
    ['OLD', item(4, 'OLD', 'none', { isRetired: true })],
    ['RP-5', item(5, 'RP-5', 'none', { decimals: 2 })],
  ]),
  lots: new Map([['2|L-1', '2028-01-31']]),
  serials: new Map([['3|S-HERE', 'bin A-01-1']]),
  bins: new Map([
    ['A-01-1', { id: 101 as BinId, address: 'A-01-1', use: 'shelf' }],
    ['OLD NAME', { id: 101 as BinId, address: 'A-01-1', use: 'shelf' }],
    ['BENCH-1', { id: 102 as BinId, address: 'BENCH-1', use: 'packing' }],
  ]),
  reasons: new Map([
    ['DAMAGED', 1],
    ['DIRTY', 2],
  ]),
  today: '2026-11-27',
};
const judge = (...rows: string[][]) =>
  judgeReceiptSheet(
    at,
    rows.map((cells, n) => ({ row: n + 2, cells })),
    known,
  );

describe('C12 a sheet of received goods', () => {
  it('makes the entries that scans would make: packs, lots with their dates, serials one by one', () => {
    const { verdicts, entries } = judge(
      ['jr-1', '2', 'case'],
      ['p-77', '5'],
      ['WX-2', '4', '', 'L-1'],
      ['WX-2', '3', '', 'L-2', '1.11.2026', '31.10.2028'],
      ['WX-2', '1', '', 'L-2'],
      ['SC-3', '', '', '', '', '', 'S-1; S-2,S-3'],
      ['RP-5', '2,25'],
    );
    expect(verdicts.map((v) => v.verdict)).toEqual(Array(7).fill('new'));
    expect([0, 3, 5].map((n) => verdicts[n]?.says)).toEqual([
      '24 in base units.',
      '3 in base units, lot L-2, expires 2028-10-31.',
      '3 in base units, serials S-1, S-2, S-3.',
    ]);
    expect(entries.map((e) => [e.item, e.qty / 1000, e.lot, e.made, e.expires, e.serial])).toEqual([
      [1, 24, null, null, null, null],
      [1, 5, null, null, null, null],
      [2, 4, 'L-1', null, '2028-01-31', null],
      [2, 3, 'L-2', '2026-11-01', '2028-10-31', null],
      [2, 1, 'L-2', null, '2028-10-31', null],
      [3, 1, null, null, null, 'S-1'],
      [3, 1, null, null, null, 'S-2'],
      [3, 1, null, null, null, 'S-3'],
      [5, 2.25, null, null, null, null],
    ]);
  });

  it.each([
    [['NOPE', '1'], 'There is no item “NOPE”.'],
    [['JR-1', ''], '“” is no quantity.'],
    [['JR-1', '-1'], '“-1” is no quantity.'],
    [['JR-1', '1e9'], '“1e9” is no quantity.'],
    [['JR-1', '1.5'], 'JR-1 is counted whole.'],
    [['JR-1', '1', 'crate'], 'JR-1 does not come by “crate”.'],
    [['OLD', '1'], 'OLD is retired.'],
    [['WX-2', '1'], 'WX-2 is kept by lot. Scan or key the lot.'],
    [['WX-2', '1', '', 'L-9'], 'Lot L-9 of WX-2 is new here. Key the date it expires.'],
    [['WX-2', '1', '', 'L-9', '', '31.2.2027'], '“31.2.2027” under Expires is no day.'],
    [['WX-2', '1', '', 'L-9', '', '29.2.2027'], '“29.2.2027” under Expires is no day.'],
    [['WX-2', '1', '', 'L'.repeat(200), '', '1.2.2028'], 'A lot has at most 40 letters; this one has 200.'],
    [
      ['WX-2', '1', '', 'L-9', '1.3.2028', '1.2.2028'],
      'Lot L-9 of WX-2 cannot be made on 1 Mar 2028 and expire on 1 Feb 2028. Check both dates.',
    ],
    [
      ['WX-2', '1', '', 'L-1', '', '1.2.2028'],
      'Lot L-1 of WX-2 is known to expire on 31 Jan 2028, but the label says 1 Feb 2028. Check the label.',
    ],
    [['SC-3', '2', '', '', '', '', 'S-1'], 'For 2, 1 serials are named.'],
    [['SC-3', '', '', '', '', '', 'S-1 S-1'], 'Serial S-1: twice in this list.'],
    [['SC-3', '', '', '', '', '', 'S-HERE'], 'Serial S-HERE: bin A-01-1.'],
  ])('names what is wrong with a row: %#', (cells, says) => {
    const { verdicts, entries } = judge(cells);
    expect(verdicts).toMatchObject([{ verdict: 'fault', says }]);
    expect(entries).toEqual([]);
  });

  it('one serial stands in one row, one lot has one date, wherever in the sheet they stand', () => {
    const { verdicts } = judge(
      ['SC-3', '1', '', '', '', '', 'S-1'],
      ['JR-1', '1'],
      ['SC-3', '1', '', '', '', '', 'S-1'],
      ['WX-2', '1', '', 'N-1', '', '1.1.2029'],
      ['WX-2', '1', '', 'N-1', '', '2.1.2029'],
    );
    expect(verdicts.map((v) => [v.row, v.verdict])).toEqual([
      [2, 'new'],
      [3, 'new'],
      [4, 'fault'],
      [5, 'new'],
      [6, 'fault'],
    ]);
    expect(verdicts[2]?.says).toBe('Serial S-1: row 2 of this sheet.');
  });

  it('law: no text makes it throw, and every row has one verdict', () => {
    const cells = fc.array(
      fc.oneof(fc.string({ unit: 'binary', maxLength: 20 }), fc.constantFrom('WX-2', 'SC-3', '3', 'L-1', '1.1.2030')),
      {
        maxLength: 8,
      },
    );
    fc.assert(
      fc.property(fc.array(cells, { maxLength: 8 }), (rows) => {
        expect(judge(...rows).verdicts.map((v) => v.row)).toEqual(rows.map((_, n) => n + 2));
      }),
    );
  });
});

describe('C12 the bins of a sheet, and what was found', () => {
  const row = (
    code: string,
    more: Partial<Record<'qty' | 'pack' | 'lot' | 'expires' | 'serials' | 'bin' | 'passed' | 'failed' | 'reason', string>>,
  ) => RECEIPT_COLUMNS.map((c) => (c.key === 'item' ? code : ((more as Record<string, string>)[c.key] ?? '')));
  it('goods go into the bin by any of its names; what passed and failed is what came, in the pack of the row', () => {
    const { verdicts, entries } = judge(
      row('JR-1', { qty: '10', bin: 'old name', failed: '2', reason: 'damaged' }),
      row('JR-1', { passed: '3', failed: '1', pack: 'case', reason: 'Dirty' }),
      row('JR-1', { passed: '4' }),
      row('SC-3', { serials: 'S-1 S-2', failed: '2', reason: 'dirty' }),
      row('JR-1', { qty: '5' }),
    );
    expect(verdicts.map((v) => v.says)).toEqual([
      '10 in base units, 2 failed, into OLD NAME.',
      '48 in base units, 12 failed.',
      '4 in base units.',
      '2 in base units, serials S-1, S-2, 2 failed.',
      '5 in base units.',
    ]);
    expect(entries.map((e) => [e.qty / 1000, e.bin, e.finding && e.finding.checked / 1000, e.finding?.failed ?? null])).toEqual([
      [10, 101, 10, [{ reason: 1, qty: qty(2000) }]],
      [48, null, 48, [{ reason: 2, qty: qty(12_000) }]],
      [4, null, 4, []],
      [1, null, 1, [{ reason: 2, qty: qty(1000) }]],
      [1, null, 1, [{ reason: 2, qty: qty(1000) }]],
      [5, null, null, null],
    ]);
  });
  it.each([
    [{ qty: '10', passed: '3', failed: '2', reason: 'dirty' }, '3 passed and 2 failed are not 10'],
    [{ qty: '2', failed: '3', reason: 'dirty' }, '3 cannot have failed of 2'],
    [{ qty: '2', failed: '1' }, 'Under Reason, say why: damaged, dirty.'],
    [{ qty: '2', failed: '1', reason: 'ugly' }, 'Under Reason, say why'],
    [{ qty: '2', failed: 'x' }, '“x” under Failed is no quantity.'],
    [{ qty: '2', failed: '0.5', reason: 'dirty' }, 'is counted whole'],
    [{ qty: '2', bin: 'Z-9' }, 'There is no bin “Z-9” here.'],
    [{ qty: '2', bin: 'BENCH-1' }, 'is no shelf'],
  ])('%j is a fault: %s', (cells, says) => {
    const { verdicts, entries } = judge(row('JR-1', cells));
    expect(verdicts[0]?.verdict).toBe('fault');
    expect(verdicts[0]?.says).toContain(says);
    expect(entries).toEqual([]);
  });
  it('of several serials one cannot have failed unnamed; what expired goes into no shelf', () => {
    expect(judge(row('SC-3', { serials: 'S-1 S-2', failed: '1', reason: 'dirty' })).verdicts[0]?.says).toContain('a row of its own');
    expect(judge(row('WX-2', { qty: '1', lot: 'L-9', expires: '2020-01-31', bin: 'A-01-1' })).verdicts[0]?.says).toContain('have expired');
  });
});

describe('C12 what goods of a sheet cost', () => {
  const withCost = (...costs: string[]) => judge(...costs.map((cost) => ['JR-1', '1', '', '', '', '', '', '', '', '', '', cost]));
  it('is read as its column is written, and said of one base unit', () => {
    const { verdicts, entries } = withCost('1,50', '1.234,5678', '', '£2');
    expect(verdicts.map((v) => v.verdict)).toEqual(['new', 'new', 'new', 'new']);
    expect(entries.map((e) => e.cost)).toEqual(['1.50', '1234.5678', null, '2']);
    expect(verdicts[0]?.says).toContain('at 1.50 each');
  });
  it('is refused where it is none, or can be read two ways', () => {
    expect(withCost('cheap').verdicts[0]).toMatchObject({ verdict: 'fault', says: expect.stringContaining('“cheap” under Cost') });
    expect(withCost('1,234').verdicts[0]).toMatchObject({ verdict: 'fault', says: expect.stringContaining('two ways') });
    expect(withCost('-3').verdicts[0]?.verdict).toBe('fault');
  });
});
