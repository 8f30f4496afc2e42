import { describe, expect, it } from '@jest/globals';
import type { LotId, SerialId } from '#core/base';
import { chooseStock, type LyingStock, type SaidOfGoods } from './choose-stock.ts';

const lying = (of: { lot?: string; serial?: string; condition?: LyingStock['condition'] }): LyingStock => ({
  lot: of.lot ? (of.lot.length as LotId) : null,
  lotCode: of.lot ?? null,
  expires: null,
  isExpired: false,
  serial: of.serial ? (of.serial.length as SerialId) : null,
  serialCode: of.serial ?? null,
  condition: of.condition ?? 'sound',
});
const said = (of: Partial<SaidOfGoods> = {}): SaidOfGoods => ({
  bin: 'A-01-1',
  item: 'JAR-3',
  tracking: 'none',
  lot: null,
  serial: null,
  ...of,
});
const refusalOf = (there: readonly LyingStock[], of: Partial<SaidOfGoods>): unknown => {
  const chosen = chooseStock(there, said(of));
  return chosen.ok ? chosen.value : chosen.error;
};

describe('which stock a move takes (I1)', () => {
  it('takes the only one there is, without a question', () => {
    const one = lying({ lot: 'L1' });
    expect(chooseStock([one], said({ tracking: 'lot' }))).toEqual({ ok: true, value: one });
  });
  it('takes the lot that was scanned, also where another expires first', () => {
    const [first, second] = [lying({ lot: 'L1' }), lying({ lot: 'L20' })];
    expect(chooseStock([first, second], said({ tracking: 'lot', lot: 'L20' }))).toEqual({ ok: true, value: second });
  });
  it('asks which lot where two lie there and none was said, and names them', () => {
    expect(refusalOf([lying({ lot: 'L1' }), lying({ lot: 'L20' })], { tracking: 'lotExpiry' })).toEqual({
      code: 'moves.whichLot',
      bin: 'A-01-1',
      item: 'JAR-3',
      lots: ['L1', 'L20'],
    });
  });
  it('does not ask for a lot where one lot lies there in two conditions: the first, the soundest, is meant', () => {
    const [sound, held] = [lying({ lot: 'L1' }), lying({ lot: 'L1', condition: 'held' })];
    expect(chooseStock([sound, held], said({ tracking: 'lot' }))).toEqual({ ok: true, value: sound });
  });
  it('asks which serial where two lie there; takes the one that was scanned', () => {
    const two = [lying({ serial: 'S1' }), lying({ serial: 'S20' })];
    expect(refusalOf(two, { tracking: 'serial' })).toEqual({ code: 'moves.whichSerial', bin: 'A-01-1', item: 'JAR-3' });
    expect(chooseStock(two, said({ tracking: 'serial', serial: 'S20' }))).toEqual({ ok: true, value: two[1] });
  });
  it('an item that is told apart by nothing is taken from the first balance, whatever lots the records still have', () => {
    const two = [lying({}), lying({ lot: 'L1' })];
    expect(chooseStock(two, said())).toEqual({ ok: true, value: two[0] });
  });
  it.each([
    [[], {}, 'moves.notThere'],
    [[lying({ lot: 'L1' })], { tracking: 'lot', lot: 'L9' } as const, 'moves.unknownLot'],
    [[lying({ serial: 'S1' })], { tracking: 'serial', serial: 'S9' } as const, 'moves.unknownSerial'],
    // The serial is the narrower word: it is what is named as missing.
    [[lying({ lot: 'L1', serial: 'S1' })], { tracking: 'serial', lot: 'L9', serial: 'S1' } as const, 'moves.unknownSerial'],
  ])('refuses what is not there (%#)', (there, of, code) => {
    expect(refusalOf(there, of)).toMatchObject({ code });
  });
});
