import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { qty, sumQty, type BinId, type Qty } from '#core/base';
import type { FactBook, HandEvent } from '#core/floor';
import { withCheckDigit } from '#core/items';
import { BINS, codeOf, GOODS, labelOf, play, scanOf, stampNow, testFloor } from '../floor/testing.ts';
import {
  COUNT_BEGINS,
  countingSaid,
  foldCount,
  isCounted,
  ownTallies,
  stepCount,
  totalIn,
  type CountChoice,
  type CountJob,
  type HandTally,
} from './index.ts';

const { jar, lot, dated, serial } = GOODS;
const whole = (n: number): Qty => qty(n * 1000);
const COUNT: CountJob = {
  id: 1,
  number: 'CT-101',
  zone: 'Store',
  blind: true,
  state: 'open',
  bins: [BINS.a, BINS.b, BINS.c].map((b) => ({ bin: b.id, address: b.address, verdict: null })),
  tallies: [],
};
const facts = testFloor([{ bin: BINS.a.id, item: jar.id, qty: 5 as Qty }]);
type Event = HandEvent<CountChoice>;
const scan = (text: string): Event => scanOf(facts, text);
const key = (text: string): Event => ({ kind: 'number', text });
const choose = (choice: CountChoice): Event => ({ kind: 'choose', choice });
const undo: Event = { kind: 'undo' };
const count = (events: readonly Event[], job = COUNT) => {
  const played = play(COUNT_BEGINS, events, (at, event: Event, done: Parameters<typeof foldCount>[1], stamp) =>
    stepCount(at, event, foldCount(job, done), facts, stamp),
  );
  const after = foldCount(job, played.done);
  return {
    ...played,
    after,
    words: played.said.map(countingSaid),
    in: (b: { id: number }, item: { id: number }, l: string | null = null) => totalIn(after, b.id, item.id, l),
  };
};

describe('J2 counting bin by bin', () => {
  it('a bin, then what lies in it; each scan is one more, a number says how many; the next bin closes this one', () => {
    const c = count([scan('A-01-1'), scan(codeOf(jar)), scan(codeOf(jar)), key('4'), scan('A-01-2'), scan(codeOf(jar, 1))]);
    expect(c.words).toEqual([
      'Counting A-01-1.',
      'JAR-1: 1 in A-01-1',
      'JAR-1: 2 in A-01-1',
      'JAR-1: 5 in A-01-1',
      'Counting A-01-2.',
      'JAR-1: 12 in A-01-2',
    ]);
    expect(c.in(BINS.a, jar)).toBe(whole(5));
  });
  it('nothing is counted before a bin; other bins, papers and lots say what they are', () => {
    const c = count([scan(codeOf(jar)), scan('A-03-1'), scan('A-01-1'), scan('A-01-1'), scan('PO-3001'), scan('zzz'), key('3')]);
    expect(c.words[0]).toContain('Scan the bin first');
    expect(c.words[1]).toContain('not part of count');
    expect(c.words[3]).toContain('You are counting A-01-1');
    expect(c.words[4]).toContain('That is a purchase order');
    expect(c.words[5]).toContain('Nobody here knows');
    expect(c.done).toEqual([]);
  });
  it('a second visit is asked about: added, begun again, or left; it never adds up in silence', () => {
    const first = [scan('A-01-1'), scan(codeOf(jar)), key('5'), scan('A-01-2'), scan(codeOf(jar)), scan('A-01-1')];
    expect(count(first).words[5]).toContain('was counted already: 5 pieces');
    const silent = count([...first, scan(codeOf(jar))]);
    expect(silent.in(BINS.a, jar)).toBe(whole(5));
    expect(count([...first, choose({ what: 'add' }), scan(codeOf(jar))]).in(BINS.a, jar)).toBe(whole(6));
    expect(count([...first, choose({ what: 'again' }), scan(codeOf(jar))]).in(BINS.a, jar)).toBe(whole(1));
    const left = count([...first, choose({ what: 'back' }), scan('A-02-1'), scan(codeOf(jar))]);
    expect([left.in(BINS.a, jar), left.in(BINS.c, jar)]).toEqual([whole(5), whole(1)]);
  });
  it('J4 a lot that nobody knew is new; dated goods ask for its date; a bin label is no lot and breaks out', () => {
    const c = count([scan('A-01-1'), scan(codeOf(lot)), scan('NEW-9'), scan(codeOf(lot)), choose({ what: 'anotherLot' }), scan('L-1')]);
    expect([c.in(BINS.a, lot, 'NEW-9'), c.in(BINS.a, lot, 'L-1')]).toEqual([whole(2), whole(1)]);
    const d = count([scan('A-01-1'), scan(codeOf(dated)), scan('D-1'), choose({ what: 'date', date: '2029-01-01' }), scan(codeOf(dated))]);
    expect(d.done.map((x) => x.does)).toMatchObject([
      { lot: 'D-1', expires: '2029-01-01' },
      { lot: 'D-1', expires: null },
    ]);
    const out = count([scan('A-01-1'), scan(codeOf(lot)), scan('A-01-2'), scan(codeOf(jar))]);
    expect(out.in(BINS.b, jar)).toBe(whole(1));
    expect(count([scan('A-01-1'), scan(codeOf(lot)), scan(codeOf(lot))]).words[2]).toContain('the code of LOT-3 itself');
  });
  it('the code of goods that nobody knows is no serial unless it is scanned again', () => {
    const c = count([scan('A-01-1'), scan(codeOf(serial)), scan('4006381333931'), scan('S-1')]);
    expect(c.words[2]).toContain('looks like the code of goods');
    expect(c.after.tallies.map((t) => t.serial)).toEqual(['S-1']);
  });
  it('a serial is counted once, wherever it is found', () => {
    const c = count([
      scan('A-01-1'),
      scan(codeOf(serial)),
      scan('S-1'),
      scan('S-1'),
      scan('A-01-2'),
      scan(codeOf(serial)),
      scan('S-1'),
      scan('S-2'),
    ]);
    expect(c.words[3]).toContain('counted already, in A-01-1');
    expect(c.words[6]).toContain('counted already, in A-01-1');
    expect(c.after.tallies.map((t) => t.serial)).toEqual(['S-1', 'S-2']);
  });
  it('blank is not zero: nothing in the bin is a verdict; a scan after it takes it back', () => {
    const none = count([scan('A-01-1'), choose({ what: 'verdict', verdict: 'none' })]);
    expect([isCounted(none.after, BINS.a.id), isCounted(none.after, BINS.b.id)]).toEqual([true, false]);
    const after = count([scan('A-01-1'), choose({ what: 'verdict', verdict: 'none' }), scan(codeOf(jar))]);
    expect(after.after.bins[0]?.verdict).toBeNull();
  });
  it('a figure that nobody would count is asked about; zero of something is a figure', () => {
    expect(count([scan('A-01-1'), scan(codeOf(jar)), key('9999999')]).in(BINS.a, jar)).toBe(whole(1));
    expect(count([scan('A-01-1'), scan(codeOf(jar)), key('9999999'), choose({ what: 'sure' })]).in(BINS.a, jar)).toBe(whole(9_999_999));
    expect(count([scan('A-01-1'), scan(codeOf(jar)), key('0')]).in(BINS.a, jar)).toBe(whole(0));
  });
  it('a count that was posted takes nothing more', () => {
    expect(count([scan('A-01-1'), scan(codeOf(jar))], { ...COUNT, state: 'posted' }).done).toEqual([]);
  });
});

describe('laws of counting', () => {
  const texts = [
    'A-01-1',
    'A-01-2',
    'A-02-1',
    'A-03-1',
    codeOf(jar),
    codeOf(jar, 1),
    codeOf(lot),
    codeOf(dated),
    codeOf(serial),
    'L-1',
    'NEXT',
    'N-1',
    'S-1',
    'S-2',
    'PO-1',
  ];
  const event: fc.Arbitrary<Event> = fc.oneof(
    { weight: 8, arbitrary: fc.constantFrom(...texts).map(scan) },
    { weight: 2, arbitrary: fc.integer({ min: 0, max: 40 }).map((n) => key(String(n))) },
    { weight: 1, arbitrary: fc.constant(undo) },
    {
      weight: 2,
      arbitrary: fc
        .constantFrom<CountChoice>(
          { what: 'add' },
          { what: 'again' },
          { what: 'verdict', verdict: 'none' },
          { what: 'anotherLot' },
          { what: 'date', date: '2030-01-01' },
          { what: 'back' },
        )
        .map(choose),
    },
  );
  it('what is shown of a bin is the sum of what stands in it; a bin with a verdict holds nothing else', () => {
    fc.assert(
      fc.property(fc.array(event, { maxLength: 50 }), (events) => {
        const { after } = count(events);
        for (const b of after.bins) {
          const there = after.tallies.filter((t) => t.bin === b.bin);
          if (b.verdict !== null) expect(there).toEqual([]);
          const shown = [...new Set(there.map((t) => `${t.item}|${t.lot}`))].map((k) => {
            const [item = '', l = ''] = k.split('|');
            return totalIn(after, b.bin, Number(item), l === 'null' ? null : l);
          });
          expect(sumQty(shown)).toBe(sumQty(there.map((t) => t.qty)));
        }
        const serials = after.tallies.flatMap((t) => (t.serial === null ? [] : [t.serial]));
        expect(new Set(serials).size).toBe(serials.length);
      }),
      { numRuns: 300 },
    );
  });
  it('folding the acts twice is folding them once; undoing everything leaves nothing', () => {
    fc.assert(
      fc.property(fc.array(event, { maxLength: 30 }), (events) => {
        const { after, done, at } = count(events);
        expect(foldCount(after, done)).toEqual(after);
        if (at.bin === null) return;
        const mine = ownTallies(after, 7, at.bin).length;
        const undone = count([...events, ...Array<Event>(mine).fill(undo)]);
        expect(ownTallies(undone.after, 7, at.bin)).toEqual([]);
      }),
      { numRuns: 150 },
    );
  });
});

describe('what is whose, and what a step waits for', () => {
  const others = (bin: { id: HandTally['bin'] }, at: string, more: Partial<HandTally> = {}): HandTally => ({
    key: `other-${bin.id}-${at}`,
    bin: bin.id,
    item: jar.id,
    lot: null,
    serial: null,
    sscc: null,
    qty: whole(3),
    person: 9,
    at,
    ...more,
  });
  const LATER = '2099-01-01T00:00:00.000Z';
  it('undo and numbers are of one’s own last scan in this bin, whatever a colleague counted since', () => {
    const job = { ...COUNT, tallies: [others(BINS.a, LATER), others(BINS.b, LATER)] };
    const c = count([scan('A-02-1'), scan(codeOf(jar)), key('4'), undo], job);
    expect(c.after.tallies.map((t) => t.person)).toEqual([9, 9]);
    expect(c.words.at(-1)).toContain('Taken out again: 4');
    expect(count([scan('A-02-1'), undo], job).said.at(-1)).toMatchObject({ said: 'counting.nothingOfYours' });
    expect(count([scan('A-02-1'), key('4')], job).done).toEqual([]);
    // One's own of another bin is not the last one here.
    const elsewhere = count([scan('A-02-1'), scan(codeOf(jar)), scan('A-01-1'), choose({ what: 'add' }), undo], job);
    expect(elsewhere.in(BINS.c, jar)).toBe(whole(1));
    expect(elsewhere.said.at(-1)).toMatchObject({ said: 'counting.nothingOfYours' });
  });
  it('a tally adds to an earlier visit only where somebody said so', () => {
    const adds = (events: readonly Event[]): boolean[] =>
      count(events).done.flatMap((d) => (d.does.kind === 'count.tally' ? [d.does.adds] : []));
    const twice = [scan('A-01-1'), scan(codeOf(jar)), scan('A-01-2'), scan('A-01-1')];
    expect(adds([...twice, choose({ what: 'add' }), scan(codeOf(jar))])).toEqual([false, true]);
    expect(adds([...twice, choose({ what: 'again' }), scan(codeOf(jar))])).toEqual([false, false]);
    expect(adds([...twice, choose({ what: 'add' }), scan('A-02-1'), scan(codeOf(jar))])).toEqual([false, false]);
  });
  it('beginning again takes out what was told up to that moment, and leaves what came later', () => {
    const job = { ...COUNT, tallies: [others(BINS.a, '2026-11-26T08:00:01.000Z'), others(BINS.a, '2026-11-26T08:00:02.000Z')] };
    const again = (at: string) =>
      foldCount(job, [{ does: { kind: 'count.again', count: 1, bin: BINS.a.id }, stamp: { ...stampNow(), at } }]);
    expect(again('2026-11-26T08:00:01.000Z').tallies.map((t) => t.at)).toEqual(['2026-11-26T08:00:02.000Z']);
    expect(again('2026-11-26T08:00:02.000Z').tallies).toEqual([]);
    expect(again('2026-11-26T08:00:00.000Z').tallies).toHaveLength(2);
  });
  it('a new lot that no code can hold is not counted in a house that wants it so', () => {
    facts.onlyLotsThatRead = true;
    try {
      const c = count([scan('A-01-1'), scan(codeOf(lot)), scan('NEU 9')]);
      expect(c.words[2]).toBe(
        'Lot NEU 9 has a space in it, which a code cannot hold. This house takes only lots that a label can hold: give it another number.',
      );
      expect(c.done).toEqual([]);
    } finally {
      facts.onlyLotsThatRead = false;
    }
    expect(count([scan('A-01-1'), scan(codeOf(lot)), scan('NEU 9')]).in(BINS.a, lot, 'NEU 9')).toBe(whole(1));
  });
  it('a label that carries its lot or serial answers the question; one that does not is the goods themselves', () => {
    const l = count([scan('A-01-1'), labelOf(lot), labelOf(lot), labelOf(lot, { lot: 'L-1' })]);
    expect(l.words[2]).toBe('That is the code of LOT-3 itself. Scan or key its lot.');
    expect(l.in(BINS.a, lot, 'L-1')).toBe(whole(1));
    const s = count([scan('A-01-1'), labelOf(serial), labelOf(serial), labelOf(serial, { serial: 'S-7' }), undo, scan('S-8')]);
    expect(s.words[2]).toBe('That is the code of SERIAL-5 itself. Scan its serial.');
    // Taking one out does not end the question: the next serial is counted without the goods.
    expect(s.after.tallies.map((t) => t.serial)).toEqual(['S-8']);
    const many = count([scan('A-01-1'), labelOf(jar, { labelled: 24 })]);
    expect(many.in(BINS.a, jar)).toBe(whole(24));
  });
  it('a serial that is known is goods and serial in one scan', () => {
    const known = testFloor([{ bin: BINS.b.id, item: serial.id, serial: 'S-1' }]);
    const step = stepCount({ ...COUNT_BEGINS, bin: BINS.a.id }, scanOf(known, 'S-1'), COUNT, known, stampNow());
    expect(step.does).toMatchObject([{ kind: 'count.tally', item: serial.id, serial: 'S-1', qty: whole(1), bin: BINS.a.id }]);
  });
  it('numbers that are none, answers to nothing that was asked, and a count that is closed change nothing', () => {
    const quiet = (events: readonly Event[], job = COUNT) => count(events, job);
    const at = [scan('A-01-1'), labelOf(serial, { serial: 'S-9' })];
    expect(quiet([...at, key('2')]).said.at(-1)).toMatchObject({ tone: 'wrong', said: 'counting.badNumber' });
    for (const text of ['abc', '1.5', '-1']) expect(quiet([scan('A-01-1'), scan(codeOf(jar)), key(text)]).in(BINS.a, jar)).toBe(whole(1));
    for (const choice of [{ what: 'sure' }, { what: 'date', date: '2030-01-01' }, { what: 'anotherLot' }] as const)
      expect(quiet([scan('A-01-1'), choose(choice)]).done).toEqual([]);
    expect(quiet([choose({ what: 'again' }), choose({ what: 'verdict', verdict: 'none' })]).done).toEqual([]);
    expect(quiet([scan('A-01-1')], { ...COUNT, state: 'thrown' }).words[0]).toContain('thrown away');
    expect(quiet([scan('A-01-1')], { ...COUNT, state: 'posted' }).words[0]).toContain('is posted');
    expect(count([scan('A-01-1'), scan('A-01-2')]).said).toMatchObject([{ next: false }, { next: true }]);
  });
});

describe('a serial that two kinds of goods bear', () => {
  const both = testFloor([
    { bin: BINS.b.id, item: serial.id, serial: '1001' },
    { bin: BINS.c.id, item: GOODS.out.id, serial: '1001' },
  ]);
  const counted = (bin: { id: HandTally['bin'] }) =>
    stepCount({ ...COUNT_BEGINS, bin: bin.id }, scanOf(both, '1001'), COUNT, both, stampNow());
  it('is counted as what lies in this bin by the records, and asked about where neither does', () => {
    expect(counted(BINS.b).does).toMatchObject([{ item: serial.id, serial: '1001' }]);
    expect(counted(BINS.a)).toMatchObject({ does: [], says: { tone: 'wrong', said: 'counting.isNot' } });
  });
});

describe('digits that are keyed while something is asked', () => {
  it('are the lot or the serial that is asked for; closed by the next scan they say how many; what was told before stays', () => {
    const r = count([scan('A-01-1'), scan(codeOf(jar)), scan(codeOf(lot)), key('4471'), scan(codeOf(serial)), key('1012')]);
    expect(r.after.tallies.map((t) => [t.qty, t.lot, t.serial])).toEqual([
      [1000, null, null],
      [1000, '4471', null],
      [1000, null, '1012'],
    ]);
    const s = count([scan('A-01-1'), scan(codeOf(jar)), scan(codeOf(lot)), { kind: 'number', text: '6', closedBy: 'scan' }, scan('L-77')]);
    expect(s.after.tallies.map((t) => [t.qty, t.lot])).toEqual([
      [1000, null],
      [6000, 'L-77'],
    ]);
    const wrong = count([scan('A-01-1'), scan(codeOf(serial)), { kind: 'number', text: '3', closedBy: 'scan' }]);
    expect([wrong.said.at(-1)?.tone, wrong.after.tallies.length]).toEqual(['wrong', 0]);
  });
});

describe('J8 a pallet counted by its label', () => {
  const SSCC = withCheckDigit('39520001000000001');
  const label = `(00)${SSCC}`;
  const there = (stands: { id: BinId }): FactBook => {
    const book = testFloor([]);
    const key = { bin: stands.id, lot: null, expires: null, condition: 'sound' as const, sscc: SSCC };
    book.putBalance(1, { ...key, item: jar.id, serial: null, qty: whole(12) });
    book.putBalance(2, { ...key, item: serial.id, serial: 'S-1', qty: whole(1) });
    return book;
  };
  const countOn = (floor: FactBook, texts: readonly (string | Event)[]) => {
    const events = texts.map((t): Event => (typeof t === 'string' ? scanOf(floor, t) : t));
    const played = play(COUNT_BEGINS, events, (at, event: Event, done: Parameters<typeof foldCount>[1], stamp) =>
      stepCount(at, event, foldCount(COUNT, done), floor, stamp),
    );
    return { ...played, after: foldCount(COUNT, played.done), words: played.said.map(countingSaid) };
  };
  it('all that is in it was found where it stands; once; undo takes all of it back', () => {
    const r = countOn(there(BINS.a), ['A-01-1', label, label]);
    expect(r.after.tallies.map((t) => [t.item, t.qty, t.sscc])).toEqual([
      [jar.id, whole(12), SSCC],
      [serial.id, whole(1), SSCC],
    ]);
    expect(r.words.slice(1)).toEqual([
      `Unit …${SSCC.slice(-6)} with 2 things found in A-01-1.`,
      `Unit …${SSCC.slice(-6)} was counted already, in A-01-1.`,
    ]);
    expect(countOn(there(BINS.a), ['A-01-1', label, undo]).after.tallies).toEqual([]);
  });
  it('one that the records have elsewhere is counted here and said; one that nobody knows is counted piece by piece', () => {
    const r = countOn(there(BINS.b), ['A-01-1', label]);
    expect(r.said[1]).toMatchObject({ tone: 'look', stands: 'A-01-2' });
    expect(r.after.tallies.map((t) => t.bin)).toEqual([BINS.a.id, BINS.a.id]);
    expect(countOn(testFloor([]), ['A-01-1', label]).said[1]).toMatchObject({ tone: 'wrong', said: 'counting.unitUnknown' });
    expect(countOn(there(BINS.a), [label]).said[0]).toMatchObject({ said: 'counting.binFirst' });
    // A serial out of it that was counted by itself is not counted again with it.
    expect(countOn(there(BINS.a), ['A-01-1', 'S-1', label]).said[2]).toMatchObject({ said: 'counting.serialTwice', serial: 'S-1' });
  });
});
