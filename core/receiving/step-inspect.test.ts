import { describe, expect, it } from '@jest/globals';
import { BINS, codeOf, GOODS, play, testFloor } from '../floor/testing.ts';
import { foldDelivery, lineOf, RECEIVE_BEGINS, receivingSaid, stepReceive } from './index.ts';
import { choose, DELIVERY, key, receiver, whole, type ReceiveEvent } from './testing.ts';

const { jar, rope, serial } = GOODS;
const facts = testFloor([{ item: serial.id, serial: 'S-HERE', bin: BINS.a.id }]);
const { scan } = receiver(facts);

describe('C11 looking at goods that arrived', () => {
  const begin = (n: string): ReceiveEvent[] => [scan(codeOf(jar)), key(n), choose({ what: 'inspect', entry: 'of the first scan' })];
  /** The same as `receive`, with the first entry looked at. */
  const inspect = (events: readonly ReceiveEvent[]) => {
    const played = play(RECEIVE_BEGINS, events, (at, event: ReceiveEvent, done: Parameters<typeof foldDelivery>[1], stamp) => {
      const isLook = event.kind === 'choose' && event.choice.what === 'inspect';
      const said = isLook ? choose({ what: 'inspect', entry: done[0]?.stamp.key ?? '' }) : event;
      return stepReceive(at, said, foldDelivery(DELIVERY, done), facts, stamp);
    });
    const after = foldDelivery(DELIVERY, played.done);
    return { ...played, after, words: played.said.map(receivingSaid), arrived: (item: { id: number }) => lineOf(after, item.id).arrived };
  };
  const last = (r: ReturnType<typeof inspect>) => r.after.entries[0];
  it('a press is one that failed; a number then says how many; all that is not failed passed', () => {
    const r = inspect([
      ...begin('12'),
      choose({ what: 'failed', reason: 1 }),
      choose({ what: 'failed', reason: 1 }),
      choose({ what: 'failed', reason: 2 }),
      key('4'),
      choose({ what: 'inspected' }),
    ]);
    expect(last(r)?.finding).toEqual({
      checked: whole(12),
      failed: [
        { reason: 1, qty: whole(2) },
        { reason: 2, qty: whole(4) },
      ],
      note: '',
    });
    expect(r.words.at(-1)).toContain('6 of 12 failed');
    expect(r.at.asks.what).toBe('goods');
  });
  it('what cannot be is said at once, and what stood before stays', () => {
    const r = inspect([...begin('3'), choose({ what: 'failed', reason: 1 }), key('4'), choose({ what: 'inspected' })]);
    expect(r.words[4]).toContain('4 JAR-1 cannot have failed of 3');
    expect(last(r)?.finding?.failed).toEqual([{ reason: 1, qty: whole(1) }]);
    const number = inspect([...begin('3'), key('2')]);
    expect(number.words.at(-1)).toContain('Press first why');
    expect(number.arrived(jar)).toBe(whole(3));
  });
  it('a sample is less than arrived; nothing failed is a finding too', () => {
    const r = inspect([...begin('20'), choose({ what: 'sample', checked: whole(5) }), choose({ what: 'inspected' })]);
    expect(last(r)?.finding).toEqual({ checked: whole(5), failed: [], note: '' });
    const over = inspect([...begin('20'), choose({ what: 'sample', checked: whole(21) })]);
    expect(over.words.at(-1)).toContain('21 cannot have been looked at');
  });
  it('the next scan saves what was found; leaving it keeps nothing', () => {
    const on = inspect([...begin('2'), choose({ what: 'failed', reason: 3 }), scan(codeOf(rope))]);
    expect(on.after.entries.find((e) => e.item === jar.id)?.finding?.failed).toEqual([{ reason: 3, qty: whole(1) }]);
    expect(on.arrived(rope)).toBe(whole(1));
    const left = inspect([...begin('2'), choose({ what: 'failed', reason: 3 }), choose({ what: 'goOn' })]);
    expect(last(left)?.finding).toBeNull();
  });
  it('what failed stands against saying that fewer arrived', () => {
    const r = inspect([...begin('9'), choose({ what: 'failed', reason: 1 }), key('5'), choose({ what: 'inspected' }), key('4')]);
    expect(r.words.at(-1)).toContain('cannot have failed of 4');
    expect(r.arrived(jar)).toBe(whole(9));
  });
});
