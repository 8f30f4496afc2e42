import { describe, expect, it } from '@jest/globals';
import { BINS, codeOf, GOODS, play, scanOf, testFloor } from '../floor/testing.ts';
import { foldDelivery, RECEIVE_BEGINS, receivingSaid, stepReceive } from './index.ts';
import { choose, DELIVERY, key, receiver, undo, type ReceiveEvent } from './testing.ts';

const { jar, rope, dated, serial } = GOODS;
const facts = testFloor([{ item: serial.id, serial: 'S-HERE', bin: BINS.a.id }]);
const { receive, scan } = receiver(facts);

describe('C10 where goods go that arrived', () => {
  const bin = scan('A-01-1');
  const first = (events: readonly ReceiveEvent[]) => {
    const played = play(RECEIVE_BEGINS, events, (at, event: ReceiveEvent, done: Parameters<typeof foldDelivery>[1], stamp) => {
      const { kind } = event;
      const of = done[0]?.stamp.key ?? '';
      const said =
        kind === 'choose' && (event.choice.what === 'whereTo' || event.choice.what === 'later')
          ? choose({ what: event.choice.what, entry: of })
          : kind === 'choose' && event.choice.what === 'inspect'
            ? choose({ what: 'inspect', entry: of })
            : event;
      return stepReceive(at, said, foldDelivery(DELIVERY, done), facts, stamp);
    });
    return { ...played, after: foldDelivery(DELIVERY, played.done), words: played.said.map(receivingSaid) };
  };
  const whereTo = choose({ what: 'whereTo', entry: '' });
  const placed = (r: ReturnType<typeof first>) =>
    r.after.entries.map((e) => [e.qty / 1000, e.bin === null ? null : (facts.bin(e.bin)?.address ?? '')]);

  it('a bin that is scanned after goods is where all of them go; before goods it is nothing', () => {
    const r = first([bin, scan(codeOf(jar)), key('12'), bin]);
    expect(r.words[0]).toContain('Scan goods');
    expect(r.words.at(-1)).toBe('12 JAR-1 go into A-01-1.');
    expect(placed(r)).toEqual([[12, 'A-01-1']]);
  });
  it('a number says how many of them; the rest is asked about next, and all of it is still as much as came', () => {
    const r = first([scan(codeOf(jar)), key('12'), whereTo, key('8'), bin]);
    expect(r.words.at(-1)).toBe('8 JAR-1 go into A-01-1. 4 are left: scan their bin.');
    expect(r.at.asks).toMatchObject({ what: 'whereTo', qty: null });
    expect(placed(r)).toEqual([
      [4, null],
      [8, 'A-01-1'],
    ]);
    // Folded twice it is folded once, as when the house has counted it in already.
    expect(foldDelivery(r.after, r.done).entries).toEqual(r.after.entries);
    const over = first([scan(codeOf(jar)), key('3'), whereTo, key('4')]);
    expect(over.words.at(-1)).toContain('4 of it cannot go anywhere');
  });
  it('undo takes back the bin first, and the goods only then', () => {
    const once = first([scan(codeOf(jar)), key('5'), bin, undo]);
    expect(placed(once)).toEqual([[5, null]]);
    expect(placed(first([scan(codeOf(jar)), key('5'), bin, undo, undo]))).toEqual([]);
  });
  it('they may be left at arrivals after all', () => {
    const r = first([scan(codeOf(jar)), bin, choose({ what: 'later', entry: '' })]);
    expect(r.words.at(-1)).toContain('left at arrivals');
    expect(placed(r)).toEqual([[1, null]]);
  });
  it('a bin whose rule they break is refused at once, with what goes there in this delivery counted in', () => {
    const ruled = testFloor([]);
    const one = ruled.binBy('A-01-1');
    if (one) ruled.putBin({ ...one, rules: { ...one.rules, oneItem: true } });
    const steps = [scan(codeOf(jar)), bin, scan(codeOf(rope)), bin];
    const played = play(RECEIVE_BEGINS, steps, (at, event: ReceiveEvent, done: Parameters<typeof foldDelivery>[1], stamp) =>
      stepReceive(
        at,
        event.kind === 'scan' && event.meaning.kind === 'bin' ? scanOf(ruled, 'A-01-1') : event,
        foldDelivery(DELIVERY, done),
        ruled,
        stamp,
      ),
    );
    expect(played.said.map((s) => s.tone)).toEqual(['right', 'right', 'right', 'wrong']);
    expect(receivingSaid(played.said[3] as Parameters<typeof receivingSaid>[0])).toContain('JAR-1');
  });
  it('what was looked at together stays together; what expired stays out', () => {
    const looked = first([
      scan(codeOf(jar)),
      key('9'),
      choose({ what: 'inspect', entry: '' }),
      choose({ what: 'inspected' }),
      whereTo,
      key('4'),
      bin,
    ]);
    expect(looked.words.at(-1)).toContain('were looked at together');
    const old = first([scan(codeOf(dated)), key('L1'), choose({ what: 'date', date: '2020-01-31' }), bin]);
    expect(old.words.at(-1)).toContain('have expired');
  });
});

describe('C10 serials into a bin', () => {
  const five = ['S-A', 'S-B', 'S-C'].map((s) => scan(s));
  const bins = (r: ReturnType<typeof receive>) => r.after.entries.map((e) => e.bin);
  it('a bin after several takes them all; another bin instead, or undo, is for all of them too', () => {
    const r = receive([scan(codeOf(serial)), ...five, scan('A-01-2')]);
    expect(r.words.at(-1)).toBe('3 SERIAL-5 go into A-01-2.');
    expect(bins(r)).toEqual(Array(3).fill(BINS.b.id));
    expect(bins(receive([scan(codeOf(serial)), ...five, scan('A-01-2'), scan('A-02-1')]))).toEqual(Array(3).fill(BINS.c.id));
    expect(bins(receive([scan(codeOf(serial)), ...five, scan('A-01-2'), undo]))).toEqual([null, null, null]);
  });
  it('those that lie elsewhere already, and other goods, stay where they are', () => {
    const before = [scan(codeOf(jar)), scan(codeOf(serial)), scan('S-0'), scan('A-01-1')];
    const r = receive([...before, scan(codeOf(serial)), ...five, scan('A-01-2')]);
    expect(bins(r)).toEqual([null, BINS.a.id, ...Array<number>(3).fill(BINS.b.id)]);
  });
});
