import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { qty, sumQty, type Qty } from '#core/base';
import type { HandEvent } from '#core/floor';
import { BINS, codeOf, GOODS, play, scanOf, testFloor } from '../floor/testing.ts';
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
