import { describe, expect, it } from '@jest/globals';
import type { Scanned } from '#contract/desk';
import { stepMove, type MoveStep } from './move-step.ts';

const bin = (address: string): Scanned => ({ kind: 'bin', bin: 1, address, zone: 'Store' });
const tray: Scanned = {
  kind: 'item',
  item: 5,
  code: 'JR-10',
  description: 'Round jar',
  pack: 'tray',
  packUnits: '24',
  lot: null,
  expires: null,
  serial: null,
  tracking: 'none',
  unit: 'each',
  decimals: 0,
};

describe('moving goods by scan', () => {
  it('I1 from, goods, to: three scans are a move', () => {
    const from = stepMove({ step: 'from' }, bin('A-01-1'), 'A-01-1');
    if (from.kind !== 'go') throw new Error('goes on');
    const goods = stepMove(from.next, tray, '1500');
    if (goods.kind !== 'go') throw new Error('goes on');
    expect(goods.next).toMatchObject({ step: 'to', from: 'A-01-1', code: '1500', qty: '24' });
    expect(stepMove(goods.next, bin('A-02-1'), 'A-02-1')).toEqual({ kind: 'send', to: 'A-02-1' });
  });
  it('I1 scanning the tray twice moves two trays', () => {
    const at: MoveStep = {
      step: 'to',
      from: 'A-01-1',
      code: '1500',
      item: 5,
      name: 'JR-10',
      unit: 'each',
      qty: '24',
      lot: null,
      serial: null,
    };
    expect(stepMove(at, tray, '1500')).toMatchObject({ kind: 'go', next: { qty: '48' } });
  });
  it('goods before a bin, and the bin they came from, are stopped in words', () => {
    expect(stepMove({ step: 'from' }, tray, '1500')).toMatchObject({ kind: 'wrong' });
    const at: MoveStep = {
      step: 'to',
      from: 'A-01-1',
      code: '1500',
      item: 5,
      name: 'JR-10',
      unit: 'each',
      qty: '24',
      lot: null,
      serial: null,
    };
    expect(stepMove(at, bin('A-01-1'), 'A-01-1')).toMatchObject({ kind: 'wrong' });
  });
});
