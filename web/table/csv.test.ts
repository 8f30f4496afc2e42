import { describe, expect, it } from '@jest/globals';
import Papa from 'papaparse';
import { csvOf } from './csv.ts';

describe('a table saved as CSV', () => {
  const columns = [
    { title: 'Item', value: (r: { code: string; qty: number }) => r.code },
    { title: 'Quantity, each', value: (r: { code: string; qty: number }) => r.qty },
  ];
  it('is read again as what was seen, whatever stands in it', () => {
    const rows = ['plain', 'a, b', 'say "so"', 'two\nlines', 'żółć عسل', ''].map((code, i) => ({ code, qty: i - 2.5 }));
    const csv = csvOf(columns, rows);
    expect(csv.startsWith('Item,"Quantity, each"\r\n')).toBe(true);
    expect(Papa.parse(csv, { header: true }).data).toEqual(rows.map((r) => ({ Item: r.code, 'Quantity, each': String(r.qty) })));
  });
  it('lets no spreadsheet run what somebody typed, and leaves numbers numbers', () => {
    const typed = ['=1+1', '@SUM(A1)', '+44 20', '-5', '-2.5', '-cmd', '\t=1'].map((code) => ({ code, qty: 0 }));
    const cells = (Papa.parse(csvOf(columns, typed)).data as string[][]).slice(1).map((row) => row[0]);
    expect(cells).toEqual(["'=1+1", "'@SUM(A1)", "'+44 20", '-5', '-2.5', "'-cmd", "'\t=1"]);
  });
});
