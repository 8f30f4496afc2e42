import { afterEach, beforeEach, describe, expect, it, jest } from '@jest/globals';
import { Lane, type Reading } from './lane.ts';

beforeEach(() => void jest.useFakeTimers());
afterEach(() => void jest.useRealTimers());

/** Readings of this test: when each began, and how it is brought to its end. */
function readings() {
  const begun: { key: string; at: number; left: boolean; end(text: string): void; break(why: string): void }[] = [];
  const begin = (key: string) => (): Reading<string> => {
    let resolve!: (text: string) => void;
    let reject!: (fault: Error) => void;
    const answer = new Promise<string>((yes, no) => {
      resolve = yes;
      reject = no;
    });
    const one = { key, at: Date.now(), left: false, end: resolve, break: (why: string) => reject(new Error(why)) };
    begun.push(one);
    return {
      answer,
      leave: () => {
        one.left = true;
        reject(new Error('left'));
      },
    };
  };
  return { begun, begin };
}
const pass = (ms: number): Promise<void> => jest.advanceTimersByTimeAsync(ms);

describe('the lane of what reads itself again', () => {
  it('the same question of several who wait is read once; nobody gets a reading that began before they asked', async () => {
    const lane = new Lane<string>();
    const { begun, begin } = readings();
    const first = lane.ask('list', 'maren', begin('list'));
    expect(begun).toHaveLength(1);
    const later = Array.from({ length: 20 }, () => lane.ask('list', 'maren', begin('list')));
    const other = lane.ask('item', 'maren', begin('item'));
    begun[0]?.end('old');
    expect(await first.answer).toBe('old');
    await pass(100);
    expect(begun.map((b) => b.key)).toEqual(['list', 'list']);
    begun[1]?.end('new');
    for (const asked of later) expect(await asked.answer).toBe('new');
    await pass(1000);
    begun[2]?.end('an item');
    expect(await other.answer).toBe('an item');
    expect(begun.map((b) => b.key)).toEqual(['list', 'list', 'item']);
  });

  it('one runs at a time, and five times as long as it took is free before the next', async () => {
    const lane = new Lane<string>();
    const { begun, begin } = readings();
    const from = Date.now();
    for (const key of ['a', 'b', 'c']) lane.ask(key, 'maren', begin(key));
    for (const [n, took] of [40, 200, 5].entries()) {
      await pass(took);
      expect(begun).toHaveLength(n + 1);
      begun[n]?.end('');
      await pass(5 * took);
    }
    expect(begun.map((b) => b.at - from)).toEqual([0, 240, 1440]);
    // A lane that stood empty begins at once, after its rest.
    await pass(1000);
    lane.ask('d', 'maren', begin('d'));
    expect(begun).toHaveLength(4);
  });

  it('whoever leaves is not waited for: what nobody asks any more is not begun, or is broken off', async () => {
    const lane = new Lane<string>();
    const { begun, begin } = readings();
    const running = [
      lane.ask('a', 'maren', begin('a')),
      lane.ask('b', 'maren', begin('b')),
      lane.ask('b', 'maren', begin('b')),
      lane.ask('c', 'maren', begin('c')),
    ];
    running[1]?.leave();
    running[1]?.leave();
    running[3]?.leave();
    await expect(running[3]?.answer).rejects.toThrow('Nobody waits');
    running[0]?.leave();
    expect(begun.map((b) => b.left)).toEqual([true]);
    await expect(running[0]?.answer).rejects.toThrow('left');
    await pass(1);
    expect(begun.map((b) => b.key)).toEqual(['a', 'b']);
    begun[1]?.end('for the other');
    expect(await running[2]?.answer).toBe('for the other');
    await pass(5000);
    expect(begun).toHaveLength(2);
  });

  it('a fault is told to all who asked, and the next goes on; one that never ends holds up no other', async () => {
    const lane = new Lane<string>();
    const { begun, begin } = readings();
    lane.ask('slow', 'maren', begin('slow')).answer.catch(() => undefined);
    const both = [lane.ask('bad', 'maren', begin('bad')), lane.ask('bad', 'maren', begin('bad'))];
    const good = lane.ask('good', 'maren', begin('good'));
    await pass(1999);
    expect(begun).toHaveLength(1);
    await pass(1);
    expect(begun).toHaveLength(2);
    const told = Promise.allSettled(both.map((b) => b.answer));
    begun[1]?.break('broken');
    expect((await told).map((t) => t.status)).toEqual(['rejected', 'rejected']);
    await pass(1);
    begun[2]?.end('well');
    expect(await good.answer).toBe('well');
    begun[0]?.end('at last');
    await pass(5000);
    expect(begun).toHaveLength(3);
  });

  it('nobody fills it: what one asks beyond a page’s worth is read outside, and others have their turn', async () => {
    const lane = new Lane<string>();
    const { begun, begin } = readings();
    const many = Array.from({ length: 200 }, (_, n) => lane.ask(`${n}`, 'greedy', begin(`${n}`)));
    const other = lane.ask('other', 'maren', begin('other'));
    expect(begun).toHaveLength(200 - 30);
    for (let n = 0; n < 200; n += 1) {
      for (const b of begun) b.end(b.key);
      await pass(20);
    }
    for (const b of begun) b.end(b.key);
    expect(await other.answer).toBe('other');
    expect(await Promise.all(many.map((m) => m.answer))).toEqual(many.map((_, n) => `${n}`));
  });
});
