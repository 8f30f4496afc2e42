import { afterEach, beforeEach, describe, expect, it, jest } from '@jest/globals';
import { Figures } from './figures.ts';

beforeEach(() => void jest.useFakeTimers());
afterEach(() => void jest.useRealTimers());

/** Figures whose readings the test ends by hand; each reads what is true when it begins. */
function figures(): { f: Figures<number>; truth: { now: number }; begun: number[]; end: () => Promise<void> } {
  const truth = { now: 0 };
  const begun: number[] = [];
  const open: (() => void)[] = [];
  const f = new Figures<number>((site) => {
    begun.push(site);
    const seen = truth.now;
    return new Promise((resolve) => open.push(() => resolve(seen)));
  }, 1000);
  const end = async (): Promise<void> => {
    open.shift()?.();
    for (let n = 0; n < 10; n += 1) await Promise.resolve();
  };
  return { f, truth, begun, end };
}

describe('figures that many look at', () => {
  it('however many ask at once: one reading runs and one waits, and each gets one that began after they asked', async () => {
    const { f, truth, begun, end } = figures();
    truth.now = 1;
    const first = f.read(1);
    truth.now = 2;
    const others = Array.from({ length: 50 }, () => f.read(1));
    expect(begun).toEqual([1]);
    await end();
    expect(begun).toEqual([1, 1]);
    await end();
    expect(await first).toBe(1);
    expect(await Promise.all(others)).toEqual(Array<number>(50).fill(2));
    expect(begun).toEqual([1, 1]);
  });
  it('sites do not wait for each other', () => {
    const { f, begun } = figures();
    void f.read(1);
    void f.read(2);
    expect(begun).toEqual([1, 2]);
  });
  it('are reckoned only where somebody looks, at most once in a time, and told only when they are others', async () => {
    const { f, truth, begun, end } = figures();
    const told: [number, number][] = [];
    f.onNew((site, value) => told.push([site, value]));
    f.touch(1, 'stock');
    jest.advanceTimersByTime(5000);
    expect(begun).toEqual([]);
    const [away, alsoAway] = [f.watch(1), f.watch(1)];
    f.watch(2);
    truth.now = 7;
    for (let n = 0; n < 30; n += 1) {
      f.touch(1, 'stock');
      jest.advanceTimersByTime(100);
      await end();
    }
    expect(begun.length).toBeGreaterThanOrEqual(3);
    expect(begun.length).toBeLessThanOrEqual(4);
    expect(begun).not.toContain(2);
    expect(told).toEqual([[1, 7]]);
    truth.now = 8;
    f.touch(null, null);
    jest.advanceTimersByTime(1000);
    await end();
    await end();
    expect(told).toContainEqual([1, 8]);
    expect(told).toContainEqual([2, 8]);
    away();
    const before = begun.length;
    f.touch(1, 'stock');
    jest.advanceTimersByTime(1000);
    expect(begun.length).toBe(before + 1);
    await end();
    alsoAway();
    f.touch(1, 'stock');
    jest.advanceTimersByTime(5000);
    expect(begun.length).toBe(before + 1);
  });
  it('a change while they are read is read again; a reading that fails is forgotten', async () => {
    let calls = 0;
    const f = new Figures<number>(() => {
      calls += 1;
      return calls === 1 ? Promise.reject(new Error('no database')) : Promise.resolve(calls);
    }, 1000);
    const told: number[] = [];
    f.onNew((_, value) => told.push(value));
    f.watch(1);
    f.touch(1, 'stock');
    await jest.advanceTimersByTimeAsync(1000);
    expect(told).toEqual([]);
    await expect(f.read(1)).resolves.toBe(2);
    f.touch(1, 'stock');
    await jest.advanceTimersByTimeAsync(1000);
    expect(told).toEqual([3]);
  });
  it('what is told is read by what was touched; whoever asks, and whatever failed before, is read whole', async () => {
    const asked: (readonly string[] | null)[] = [];
    let isAway = false;
    const f = new Figures<number>((_site, touched) => {
      asked.push(touched && [...touched].sort());
      return isAway ? Promise.reject(new Error('no database')) : Promise.resolve(asked.length);
    }, 1000);
    f.watch(1);
    await f.read(1);
    for (const topic of ['stock', 'orders', 'stock'] as const) f.touch(1, topic);
    f.touch(2, 'hands');
    await jest.advanceTimersByTimeAsync(1000);
    f.touch(1, 'counting');
    // Somebody asks while it is read: the next is theirs, and whole.
    const [told, theirs] = [jest.advanceTimersByTimeAsync(1000), f.read(1)];
    await Promise.all([told, theirs]);
    isAway = true;
    f.touch(1, 'picking');
    await jest.advanceTimersByTimeAsync(2000);
    isAway = false;
    f.touch(1, 'orders');
    await jest.advanceTimersByTimeAsync(2000);
    f.touch(null, null);
    await jest.advanceTimersByTimeAsync(2000);
    expect(asked.slice(0, 2)).toEqual([null, ['orders', 'stock']]);
    expect(asked).toContainEqual(['picking']);
    expect(asked.slice(asked.findIndex((a) => a?.[0] === 'picking') + 1)).toEqual([null, null]);
  });
});
