import { describe, expect, it } from '@jest/globals';
import type { Scanned } from '#contract/desk';
import { stepMove, type MoveStep } from './move-step.ts';

const bin = (address: string): Scanned => ({ kind: 'bin', bin: 1, address, zone: 'Store' });
const noLots = () => [];
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
    const from = stepMove({ step: 'from' }, bin('A-01-1'), 'A-01-1', noLots);
    if (from.kind !== 'go') throw new Error('goes on');
    const goods = stepMove(from.next, tray, '1500', noLots);
    if (goods.kind !== 'go') throw new Error('goes on');
    expect(goods.next).toMatchObject({ step: 'to', from: 'A-01-1', code: '1500', qty: '24' });
    expect(stepMove(goods.next, bin('A-02-1'), 'A-02-1', noLots)).toEqual({ kind: 'send', to: 'A-02-1' });
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
    expect(stepMove(at, tray, '1500', noLots)).toMatchObject({ kind: 'go', next: { qty: '48' } });
  });
  it('goods before a bin, and the bin they came from, are stopped in words', () => {
    expect(stepMove({ step: 'from' }, tray, '1500', noLots)).toMatchObject({ kind: 'wrong' });
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
    expect(stepMove(at, bin('A-01-1'), 'A-01-1', noLots)).toMatchObject({ kind: 'wrong' });
  });
  it('I1 where several lots lie, the lot is asked, the first to expire proposed; a bin or other goods break out', () => {
    const lots = [
      { lot: 'L1', expires: '2027-01-01', qty: '4' },
      { lot: 'L2', expires: '2027-06-01', qty: '9' },
    ];
    const asked = stepMove({ step: 'goods', from: 'A-01-1' }, tray, '1500', () => lots);
    if (asked.kind !== 'go' || asked.next.step !== 'lot') throw new Error('asks');
    expect(asked.says).toContain('L1 expires first');
    const unknown: Scanned = { kind: 'unknown', text: 'L2' };
    expect(stepMove(asked.next, unknown, 'L2', () => lots)).toMatchObject({ kind: 'go', next: { step: 'to', lot: 'L2' } });
    expect(stepMove(asked.next, { kind: 'unknown', text: 'X' }, 'X', () => lots)).toMatchObject({ kind: 'wrong' });
    expect(stepMove(asked.next, bin('B-01-1'), 'B-01-1', () => lots)).toMatchObject({
      kind: 'go',
      next: { step: 'goods', from: 'B-01-1' },
    });
  });
});
