import { describe, expect, it } from '@jest/globals';
import { ONE, qty, type ItemId } from '#core/base';
import { compareDelivery, decideEntry, receivingSentence, type EntryCommand, type EntryFacts } from './index.ts';

const item = (n: number) => n as ItemId;
const command: EntryCommand = { qty: ONE, lot: null, expires: null, made: null, serial: null, takeAnyway: false };
const facts: EntryFacts = {
  itemCode: 'TR-10',
  decimals: 0,
  tracking: 'none',
  ordered: true,
  today: '2026-11-23',
  knownLotExpires: null,
  serialPlace: null,
};

describe('comparing a delivery', () => {
  it('C7 tells waiting, short, full, over and not ordered apart', () => {
    const expected = [1, 2, 3, 4].map((n) => ({ item: item(n), qty: qty(5000) }));
    const entries = [
      { item: item(2), qty: qty(3000) },
      { item: item(3), qty: qty(2000) },
      { item: item(3), qty: qty(3000) },
      { item: item(4), qty: qty(6000) },
      { item: item(9), qty: qty(1000) },
    ];
    expect(compareDelivery(expected, entries).map((l) => [l.standing, l.difference])).toEqual([
      ['waiting', -5000],
      ['short', -2000],
      ['full', 0],
      ['over', 1000],
      ['notOrdered', 1000],
    ]);
  });
  it('C7 two lines of one item are expected together', () => {
    expect(
      compareDelivery(
        [
          { item: item(1), qty: qty(2) },
          { item: item(1), qty: qty(3) },
        ],
        [{ item: item(1), qty: qty(5) }],
      ),
    ).toMatchObject([{ expected: 5, standing: 'full' }]);
  });
});

describe('an entry at the dock', () => {
  it('C5 says at once what is not on the order, and takes it anyway when told to', () => {
    expect(decideEntry(command, { ...facts, ordered: false })).toEqual({
      ok: false,
      error: { code: 'receiving.notOrdered', item: 'TR-10' },
    });
    expect(decideEntry({ ...command, takeAnyway: true }, { ...facts, ordered: false }).ok).toBe(true);
  });
  it('C8 asks for the lot, then for the date of a new lot, and not for the date of a known one', () => {
    const dated = { ...facts, tracking: 'lotExpiry' as const };
    expect(decideEntry(command, dated)).toMatchObject({ error: { code: 'receiving.lotWanted' } });
    expect(decideEntry({ ...command, lot: 'N1' }, dated)).toMatchObject({ error: { code: 'receiving.dateWanted', lot: 'N1' } });
    expect(decideEntry({ ...command, lot: 'N1' }, { ...dated, knownLotExpires: '2027-01-01' })).toMatchObject({
      ok: true,
      value: { expires: '2027-01-01', expired: false },
    });
  });
  it('C8 a label that contradicts the known date of its lot is refused with both dates', () => {
    const result = decideEntry(
      { ...command, lot: 'N1', expires: '2027-02-01' },
      { ...facts, tracking: 'lotExpiry', knownLotExpires: '2027-01-01' },
    );
    expect(result.ok ? '' : receivingSentence(result.error)).toContain('1 Jan 2027, but the label says 1 Feb 2027');
  });
  it('C8 an expired lot is taken in, marked for quarantine', () => {
    expect(decideEntry({ ...command, lot: 'N1', expires: '2026-11-22' }, { ...facts, tracking: 'lotExpiry' })).toMatchObject({
      ok: true,
      value: { expired: true },
    });
  });
  it('C9 refuses a serial that is already here, and names it and its place', () => {
    const result = decideEntry({ ...command, serial: 'S-7' }, { ...facts, tracking: 'serial', serialPlace: 'bin K-01' });
    expect(result.ok ? '' : receivingSentence(result.error)).toBe('Serial S-7 of TR-10 is already here: bin K-01.');
    expect(decideEntry({ ...command, serial: 'S-7', qty: qty(2000) }, { ...facts, tracking: 'serial' })).toMatchObject({
      error: { code: 'receiving.serialIsOne' },
    });
  });
});
