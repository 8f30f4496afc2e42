import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { ONE, qty, type BinId, type ItemId } from '#core/base';
import {
  compareDelivery,
  decideBringBack,
  decideEntry,
  isAgreed,
  linesAgreedShort,
  receivingSentence,
  settleLines,
  type EntryCommand,
  type EntryFacts,
} from './index.ts';

const item = (n: number) => n as ItemId;
const command: EntryCommand = { qty: ONE, lot: null, expires: null, made: null, serial: null, takeAnyway: false };
const facts: EntryFacts = {
  itemCode: 'TR-10',
  decimals: 0,
  tracking: 'none',
  ordered: true,
  isReturn: false,
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
      error: { code: 'receiving.notOrdered', item: 'TR-10', isReturn: false },
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

describe('C13 what is agreed with a supplier', () => {
  const agreed = { over: 500, short: 250 };
  const line = (expected: number, arrived: number) =>
    compareDelivery(
      [{ item: 1 as ItemId, qty: qty(expected * 1000) }],
      arrived > 0 ? [{ item: 1 as ItemId, qty: qty(arrived * 1000) }] : [],
      agreed,
    )[0];
  it('5 % more and 2.5 % fewer are full, with their difference; one more or one fewer is not; nothing is never enough', () => {
    expect(line(200, 210)).toMatchObject({ standing: 'full', difference: 10_000 });
    expect(line(200, 211)?.standing).toBe('over');
    expect(line(200, 195)).toMatchObject({ standing: 'full', difference: -5000 });
    expect(line(200, 194)?.standing).toBe('short');
    expect(line(200, 0)?.standing).toBe('waiting');
    expect(isAgreed(qty(1000), qty(0), { over: 0, short: 10_000 })).toBe(false);
  });
  it('without an agreement every piece counts, and what nobody ordered stays so', () => {
    const exact = compareDelivery([{ item: 1 as ItemId, qty: qty(200_000) }], [{ item: 1 as ItemId, qty: qty(199_999) }]);
    expect(exact[0]?.standing).toBe('short');
    expect(compareDelivery([], [{ item: 1 as ItemId, qty: qty(1000) }], { over: 10_000, short: 10_000 })[0]?.standing).toBe('notOrdered');
  });
  it('law: lines are closed for what is missing exactly where the item as a whole is agreed short', () => {
    const lines = fc.array(fc.record({ item: fc.integer({ min: 1, max: 2 }), open: fc.integer({ min: 1, max: 100 }) }), {
      minLength: 1,
      maxLength: 5,
    });
    fc.assert(
      fc.property(lines, fc.nat(220), fc.nat(220), (many, one, two) => {
        const open = many.map((l, n) => ({ line: n, item: l.item as ItemId, open: qty(l.open * 1000) }));
        const arrived = new Map([
          [1 as ItemId, qty(one * 1000)],
          [2 as ItemId, qty(two * 1000)],
        ]);
        const settled = settleLines(open, arrived);
        const closed = new Set(linesAgreedShort(settled, agreed));
        for (const s of settled) {
          const own = open.filter((o) => o.item === s.item);
          const expected = own.reduce((sum, o) => sum + o.open, 0);
          const got = arrived.get(s.item) ?? 0;
          const isShort = got > 0 && got < expected && isAgreed(qty(expected), qty(got), agreed);
          expect(closed.has(s.line)).toBe(isShort && s.received < s.expected);
        }
      }),
    );
  });
});

describe('C13 a line of a receipt that is taken back', () => {
  const place = (bin: number, n: number) => ({ bin: bin as BinId, address: `B-${bin}`, qty: qty(n * 1000) });
  const back = (n: number, ...lying: ReturnType<typeof place>[]) =>
    decideBringBack({ item: 'JR-1', qty: qty(n * 1000), into: 1 as BinId }, lying);
  it('needs nothing brought where enough of it lies there still; else the rest, from the fullest bins', () => {
    expect(back(5, place(1, 5), place(2, 9))).toEqual({ ok: true, value: [] });
    expect(back(5, place(1, 2), place(2, 2), place(3, 4))).toEqual({ ok: true, value: [place(3, 3)] });
    expect(back(9, place(2, 2), place(3, 4), place(4, 4))).toEqual({ ok: true, value: [place(3, 4), place(4, 4), place(2, 1)] });
    const short = back(5, place(1, 1), place(2, 2));
    expect(short.ok ? '' : receivingSentence(short.error)).toBe(
      'Of these 5 JR-1 only 3 are free to go back; the others are picked, gone or held.',
    );
    const none = back(5);
    expect(none.ok ? '' : receivingSentence(none.error)).toBe('None of these 5 JR-1 are free to go back: they are picked, gone or held.');
  });
  it('law: what is brought back fills up what is there to what is reversed, and takes from no bin more than it holds', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 30 }), fc.array(fc.integer({ min: 1, max: 20 }), { maxLength: 6 }), (n, amounts) => {
        const lying = amounts.map((a, i) => place(i + 1, a));
        const decided = back(n, ...lying);
        const there = amounts.reduce((a, b) => a + b, 0);
        expect(decided.ok).toBe(there >= n);
        if (!decided.ok) return;
        const brought = decided.value.reduce((sum, b) => sum + b.qty, 0);
        const own = lying.find((l) => l.bin === 1)?.qty ?? 0;
        expect(brought).toBe(Math.max(0, n * 1000 - own));
        for (const b of decided.value) expect(b.qty).toBeLessThanOrEqual(lying.find((l) => l.bin === b.bin)?.qty ?? 0);
      }),
    );
  });
});
