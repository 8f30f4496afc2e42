import { describe, expect, it } from '@jest/globals';
import { qty } from '#core/base';
import { decideFree, decideHandOver, type HandedOver } from './hand-over.ts';

const units = (n: number) => qty(n * 1000);
const GOODS: HandedOver = {
  item: 'AN-1',
  bin: 'C-01',
  tracking: 'none',
  decimals: 0,
  condition: 'sound',
  expired: null,
  serial: null,
  qty: units(2),
};

describe('F3 what may be handed over the counter', () => {
  it.each<[Partial<HandedOver>, string | null]>([
    [{}, null],
    [{ condition: 'held' }, 'shipping.notSound'],
    [{ condition: 'failed' }, 'shipping.notSound'],
    [{ condition: 'inspect' }, 'shipping.notSound'],
    [{ expired: '2026-01-01' }, 'shipping.expired'],
    [{ tracking: 'serial' }, 'shipping.serialMissing'],
    [{ tracking: 'serialOut', serial: 'S1', qty: units(2) }, 'shipping.serialMissing'],
    [{ tracking: 'serialOut', serial: 'S1', qty: units(1) }, null],
    [{ qty: qty(500) }, 'stock.finerThanItem'],
    [{ qty: qty(500), decimals: 1 }, null],
    [{ qty: units(0) }, 'stock.finerThanItem'],
  ])('%j: %s', (is, code) => {
    const decided = decideHandOver({ ...GOODS, ...is });
    expect(decided.ok ? null : decided.error.code).toBe(code);
  });
  it('more than is free is promised to others', () => {
    const asked = { item: 'AN-1', asked: units(5), free: units(4) };
    expect(decideFree([{ ...asked, asked: units(4) }]).ok).toBe(true);
    const refused = decideFree([asked]);
    expect(refused.ok ? null : refused.error).toMatchObject({ item: 'AN-1', asked: '5', free: '4' });
    const none = decideFree([{ ...asked, free: units(-2) }]);
    expect(none.ok ? null : none.error).toMatchObject({ free: '0' });
  });
});
