import { describe, expect, it } from '@jest/globals';
import { addScanned, counterFault, handOverLines, sourceFor, type CounterSource, type ScannedGoods } from './counter-draft.ts';

const goods = (more: Partial<ScannedGoods> = {}): ScannedGoods => ({
  item: 1,
  code: 'AN-1',
  description: 'Anvil',
  unit: 'each',
  tracking: 'none',
  qty: '1',
  lot: null,
  serial: null,
  ...more,
});
const source = (bin: string, qty: string, more: Partial<CounterSource> = {}): CounterSource => ({
  bin,
  qty,
  lot: null,
  serial: null,
  ...more,
});

describe('F3 goods on the counter', () => {
  it('come out of the bin that was scanned last, else out of the first; a label’s lot and serial are meant', () => {
    const sources = [source('C-01', '5', { lot: 'A' }), source('C-02', '5', { lot: 'B' })];
    expect(sourceFor(goods(), sources, null, [])?.bin).toBe('C-01');
    expect(sourceFor(goods(), sources, 'C-02', [])?.bin).toBe('C-02');
    expect(sourceFor(goods({ lot: 'B' }), sources, 'C-01', [])?.bin).toBe('C-02');
    expect(sourceFor(goods({ lot: 'Z' }), sources, null, [])).toBeNull();
    const serials = [source('C-03', '1', { serial: 'S1' }), source('C-03', '1', { serial: 'S2' })];
    expect(sourceFor(goods({ tracking: 'serial' }), serials, null, ['S1'])?.serial).toBe('S2');
    expect(sourceFor(goods({ tracking: 'serial', serial: 'S1' }), serials, null, ['S1'])).toBeNull();
  });
  it('scanned twice out of one place are two; out of another place, or by serial, a line of their own', () => {
    const [a, b] = [source('C-01', '5'), source('C-02', '5')];
    let lines = addScanned([], goods(), a, 1);
    lines = addScanned(lines, goods({ qty: '12' }), a, 2);
    lines = addScanned(lines, goods(), b, 3);
    expect(lines.map((l) => [l.from?.bin, l.qty])).toEqual([
      ['C-01', '13'],
      ['C-02', '1'],
    ]);
    const serial = goods({ item: 2, tracking: 'serialOut', serial: 'S9', qty: '12' });
    lines = addScanned(addScanned(lines, serial, a, 4), { ...serial, serial: null }, a, 5);
    expect(lines.slice(2).map((l) => [l.qty, l.serialOut])).toEqual([
      ['1', 'S9'],
      ['1', ''],
    ]);
    expect(lines.map(counterFault)).toEqual(['Only 5 lie in C-01.', null, null, 'Scan or key its serial.']);
  });
  it.each([
    ['0', 'Key how many, such as 2.'],
    ['-1', 'Key how many, such as 2.'],
    ['many', 'Key how many, such as 2.'],
    ['6', 'Only 5 lie in C-01.'],
    ['2,5', null],
  ])('%s: %s', (qty, fault) => {
    const [line] = addScanned([], goods({ qty }), source('C-01', '5'), 1);
    expect(line && counterFault(line)).toBe(fault);
  });
  it('are sent with the bin, lot and serial that were meant', () => {
    const lines = [
      ...addScanned([], goods({ qty: '2,5' }), source('C-01', '5', { lot: 'A' }), 1),
      ...addScanned([], goods({ tracking: 'serial' }), source('C-03', '1', { serial: 'S1' }), 2),
      ...addScanned([], goods({ tracking: 'serialOut', serial: ' S7 ' }), source('C-04', '9'), 3),
    ];
    expect(handOverLines(lines)).toEqual([
      { bin: 'C-01', code: 'AN-1', qty: '2.5', lot: 'A' },
      { bin: 'C-03', code: 'AN-1', qty: '1', serial: 'S1' },
      { bin: 'C-04', code: 'AN-1', qty: '1', serial: 'S7' },
    ]);
  });
});
