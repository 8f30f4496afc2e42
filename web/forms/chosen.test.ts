import { describe, expect, it } from '@jest/globals';
import { CHOICE_KINDS, type Scanned, type ScannedOne } from '#contract/desk';
import { chosenByScan } from './chosen.ts';

const ITEM: Extract<ScannedOne, { kind: 'item' }> = {
  kind: 'item',
  item: 7,
  code: 'HV-10',
  description: 'Hive, ten frames',
  pack: 'case',
  packUnits: '4',
  lot: 'L1',
  expires: null,
  serial: null,
  tracking: 'lot',
  unit: 'each',
  decimals: 0,
};
const BIN: ScannedOne = { kind: 'bin', bin: 3, address: 'A-01-1', zone: 'Racks' };

describe('a scan in a field that asks for a name', () => {
  it('chooses what is asked for', () => {
    expect(chosenByScan('item', ITEM, 'x').choice).toEqual({ id: 7, code: 'HV-10', name: 'Hive, ten frames' });
    expect(chosenByScan('item', { kind: 'lot', item: 7, code: 'HV-10', lot: 'L1' }, 'L1').choice).toMatchObject({ id: 7, code: 'HV-10' });
    expect(chosenByScan('item', { kind: 'serial', item: 7, code: 'EX-4', serial: 'S1' }, 'S1').choice).toMatchObject({ id: 7 });
    expect(chosenByScan('bin', BIN, 'A-01-1').choice).toEqual({ id: 3, code: 'A-01-1', name: 'Racks' });
    expect(chosenByScan('order', { kind: 'order', order: 4, number: 'SO-4' }, 'SO-4').choice).toMatchObject({ id: 4, code: 'SO-4' });
    expect(chosenByScan('document', { kind: 'document', document: 9, number: 'RC-9' }, 'RC-9').choice).toMatchObject({ id: 9 });
  });

  it('says of anything else what it is, and what is asked', () => {
    expect(chosenByScan('item', BIN, 'A-01-1').problem).toBe('That is the bin A-01-1. Here an item is asked.');
    expect(chosenByScan('bin', ITEM, 'x').problem).toBe('That is the item HV-10. Here a bin is asked.');
    expect(chosenByScan('bin', { kind: 'lot', item: 7, code: 'HV-10', lot: 'L1' }, 'L1').problem).toBe(
      'That is lot L1 of HV-10. Here a bin is asked.',
    );
    expect(chosenByScan('person', { kind: 'round', round: 1, number: 'RD-1' }, 'RD-1').problem).toBe(
      'That is round RD-1. Here a person is asked by name.',
    );
    for (const kind of CHOICE_KINDS) {
      expect(chosenByScan(kind, { kind: 'unknown', text: 'zz' }, 'zz').problem).toBe('Nothing here is known by “zz”.');
      expect(chosenByScan(kind, { kind: 'elsewhere', text: 'B-1', sites: ['Barn', 'Shop'] }, 'B-1').choice).toBeNull();
    }
  });

  it('of several things takes the one of its kind, and never one of two', () => {
    const several = (...choices: ScannedOne[]): Scanned => ({ kind: 'several', choices });
    const other = { ...ITEM, item: 8, code: 'HV-11' };
    expect(chosenByScan('item', several(BIN, ITEM), 'x').choice).toEqual({ id: 7, code: 'HV-10', name: 'Hive, ten frames' });
    expect(chosenByScan('item', several(ITEM, other), 'x').choice).toBeNull();
    // A code and a lot of one and the same item are one item.
    expect(chosenByScan('item', several(ITEM, { kind: 'lot', item: 7, code: 'HV-10', lot: 'x' }), 'x').choice?.id).toBe(7);
    expect(chosenByScan('item', several(ITEM, { kind: 'lot', item: 8, code: 'HV-11', lot: 'x' }), 'x').choice).toBeNull();
    expect(chosenByScan('customer', several(ITEM, BIN), 'x').problem).toContain('stands for several things');
  });
});
