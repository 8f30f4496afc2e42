import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { BINS, codeOf, GOODS, labelOf, stampNow, testFloor } from '../floor/testing.ts';
import { clashingSerials, makeSerialRange, readSerialList, RECEIVE_BEGINS, receivingSaid, stepReceive } from './index.ts';
import { choose, DELIVERY, key, receiver, type ReceiveEvent } from './testing.ts';

const { jar, lot, dated, serial } = GOODS;
const facts = testFloor([{ item: serial.id, serial: 'S-HERE', bin: BINS.a.id }]);
const { receive, scan } = receiver(facts);

describe('C8 dates of a lot that is new here', () => {
  const asked = [scan(codeOf(dated)), scan('D-9')];
  const entered = (events: readonly ReceiveEvent[]) => receive(events).after.entries.map((e) => [e.made, e.expires]);

  it('are keyed, or reckoned from today or from the day it was made', () => {
    expect(entered([...asked, choose({ what: 'life', months: 6 })])).toEqual([[null, '2027-05-26']]);
    expect(entered([...asked, choose({ what: 'made', date: '2026-10-31' }), choose({ what: 'life', months: 12 })])).toEqual([
      ['2026-10-31', '2027-10-31'],
    ]);
    expect(entered([...asked, choose({ what: 'made', date: '2026-10-01' }), choose({ what: 'date', date: '2027-01-31' })])).toEqual([
      ['2026-10-01', '2027-01-31'],
    ]);
    // The next piece of the lot has both dates, without another word.
    expect(
      entered([...asked, choose({ what: 'made', date: '2026-10-01' }), choose({ what: 'life', months: 6 }), scan(codeOf(dated))]),
    ).toEqual(Array(2).fill(['2026-10-01', '2027-04-01']));
  });
  it('cannot be made after they expire, keyed or by the label; then both are asked again', () => {
    const wrong = receive([...asked, choose({ what: 'made', date: '2027-03-01' }), choose({ what: 'date', date: '2027-02-01' })]);
    expect(wrong.words.at(-1)).toBe('Lot D-9 of DATED-4 cannot be made on 1 Mar 2027 and expire on 1 Feb 2027. Check both dates.');
    expect([wrong.done.length, wrong.said.at(-1)?.tone, wrong.at.asks.what]).toEqual([0, 'wrong', 'date']);
    const label = receive([labelOf(dated, { lot: 'D-1', made: '2028-01-01', expires: '2027-01-01' })]);
    expect([label.done.length, label.at.asks.what]).toEqual([0, 'date']);
  });
  it('say when little life is left, of an item that says how long it keeps', () => {
    const short = { ...dated, shelfLifeMonths: 12 };
    const at: (expires: string) => string = (expires) => {
      const stepped = stepReceive(RECEIVE_BEGINS, labelOf(short, { lot: 'D-7', expires }), DELIVERY, facts, stampNow());
      return `${stepped.says.tone}: ${receivingSaid(stepped.says)}`;
    };
    expect(at('2027-03-01')).toBe('look: DATED-4: 1 of 25, lot D-7, little life left: until 1 Mar 2027');
    expect(at('2027-04-01')).toBe('right: DATED-4: 1 of 25, lot D-7');
    expect(at('2026-11-25')).toBe('look: DATED-4: 1 of 25, lot D-7, expired: goes to quarantine');
  });
});

describe('C9 many serials at once', () => {
  const asked = [scan(codeOf(serial))];
  it('are entered as one, each its own entry; then the next ones are asked', () => {
    const r = receive([...asked, choose({ what: 'serials', codes: ['S-1', 'S-2', 'S-3'] }), scan('S-4')]);
    expect(r.after.entries.map((e) => e.serial)).toEqual(['S-1', 'S-2', 'S-3', 'S-4']);
    expect(r.words.at(-1)).toBe('SERIAL-5: 4 of 25');
    expect(r.at.asks.what).toBe('serial');
  });
  it('are none of them entered where one cannot be, and each that cannot is named', () => {
    const r = receive([...asked, scan('S-1'), choose({ what: 'serials', codes: ['S-9', 'S-HERE', 'S-1', 'S-9', 'X'.repeat(41)] })]);
    expect(r.after.entries.map((e) => e.serial)).toEqual(['S-1']);
    expect(r.words.at(-1)).toBe(
      'Nothing was entered. These serials of SERIAL-5 cannot be taken: S-HERE (A-01-1), S-1 (delivery DL-1), ' +
        'S-9 (twice in this list) and 1 more.',
    );
    expect(receive([...asked, choose({ what: 'serials', codes: [] })]).said.at(-1)?.tone).toBe('wrong');
    expect(receive([...asked, choose({ what: 'serials', codes: Array.from({ length: 501 }, (_, n) => `B${n}`) })]).done).toEqual([]);
  });
  it('follow each other: prefix and width as the first has them', () => {
    const made = (prefix: string, first: string, count: number) => makeSerialRange({ prefix, first, count });
    expect(made('SN-', '0098', 4)).toEqual({ ok: true, value: ['SN-0098', 'SN-0099', 'SN-0100', 'SN-0101'] });
    expect(made('', '9', 3)).toEqual({ ok: true, value: ['9', '10', '11'] });
    for (const [prefix, first, count] of [
      ['A', 'x', 2],
      ['A', '', 2],
      ['A', '1', 0],
      ['A', '1', 1.5],
      ['A', '1', 501],
      ['A'.repeat(40), '1', 1],
    ] as const)
      expect(made(prefix, first, count).ok).toBe(false);
    expect(readSerialList(' S-1\r\nS-2;S-3,\tS 4 \n\n')).toEqual(['S-1', 'S-2', 'S-3', 'S 4']);
  });
  it('law: a range has as many as asked, all different, all of the prefix, and is a list again when it is pasted', () => {
    fc.assert(
      fc.property(
        fc.stringMatching(/^[A-Z-]{0,6}$/),
        fc.stringMatching(/^\d{1,9}$/),
        fc.integer({ min: 1, max: 500 }),
        (prefix, first, count) => {
          const range = makeSerialRange({ prefix, first, count });
          if (!range.ok) throw new Error(range.error.code);
          expect(new Set(range.value).size).toBe(count);
          expect(range.value[0]).toBe(prefix + first);
          expect(readSerialList(range.value.join('\n'))).toEqual(range.value);
          expect(clashingSerials(range.value, () => null)).toEqual([]);
        },
      ),
      { numRuns: 50 },
    );
  });
});

describe('digits that are keyed while something is asked', () => {
  const byScan = (text: string): ReceiveEvent => ({ kind: 'number', text, closedBy: 'scan' });
  it('are the lot or the serial that is asked for, and change nothing that was scanned before', () => {
    const r = receive([scan(codeOf(jar)), scan(codeOf(lot)), key('4471')]);
    expect(r.after.entries.map((e) => [e.item, e.qty, e.lot])).toEqual([
      [jar.id, 1000, null],
      [lot.id, 1000, '4471'],
    ]);
    const s = receive([scan(codeOf(jar)), scan(codeOf(serial)), key('1012'), key('1013'), key('2')]);
    expect(s.after.entries.map((e) => [e.qty, e.serial])).toEqual([
      [1000, null],
      [1000, '1012'],
      [1000, '1013'],
    ]);
    // Two digits are how many, and a serial is one.
    expect(s.said.at(-1)?.tone).toBe('wrong');
  });
  it('say how many of what is asked about, where the next scan closes them', () => {
    const r = receive([scan(codeOf(jar)), scan(codeOf(lot)), byScan('6'), scan('L-77'), scan(codeOf(lot))]);
    expect(r.after.entries.map((e) => [e.qty, e.lot])).toEqual([
      [1000, null],
      [6000, 'L-77'],
      [1000, 'L-77'],
    ]);
    expect(r.words[2]).toBe('6 LOT-3. Which lot?');
    const d = receive([scan(codeOf(dated)), scan('D-9'), key('8'), choose({ what: 'life', months: 6 })]);
    expect(d.after.entries.map((e) => [e.qty, e.lot])).toEqual([[8000, 'D-9']]);
    for (const wrong of ['0', '1.5', '9000']) {
      const w = receive([scan(codeOf(lot)), byScan(wrong)]);
      expect([w.said.at(-1)?.tone, w.at.asks.what, w.done.length]).toEqual(['wrong', 'lot', 0]);
    }
    expect(receive([scan(codeOf(serial)), byScan('3')]).said.at(-1)?.tone).toBe('wrong');
  });
});
