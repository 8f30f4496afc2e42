import { afterEach, beforeEach, describe, expect, it, jest } from '@jest/globals';
import { Courier } from './courier.ts';
import type { Floor } from './floor.ts';

beforeEach(() => void jest.useFakeTimers());
afterEach(() => void jest.useRealTimers());

/** A floor that only counts how often it was asked to take along; `away`: nobody answers. */
function counted(): { floor: Floor; taken: number[]; done: string[]; says: { away: boolean } } {
  const taken: number[] = [];
  const done: string[] = [];
  const says = { away: false };
  const floor = {
    get: () => ({ me: {}, waiting: 0, device: 'd' }),
    greet: () => {
      done.push('greet');
      return says.away ? Promise.reject(new Error('away')) : Promise.resolve();
    },
    tell: () => {
      done.push('tell');
      return Promise.resolve(0);
    },
    take: () => {
      done.push('take');
      taken.push(Date.now());
      return says.away ? Promise.reject(new Error('away')) : Promise.resolve();
    },
  } as unknown as Floor;
  return { floor, taken, done, says };
}

describe('C18 the courier', () => {
  it('takes along soon, however often something changes meanwhile', async () => {
    const { floor, taken } = counted();
    const courier = new Courier(floor, { alone: true });
    const from = Date.now();
    for (let ms = 0; ms < 4000; ms += 50) {
      courier.poke();
      await jest.advanceTimersByTimeAsync(50);
    }
    expect((taken[0] ?? Infinity) - from).toBeLessThanOrEqual(450);
    expect(taken.length).toBeGreaterThanOrEqual(8);
    expect(taken.length).toBeLessThanOrEqual(11);
    courier.stop();
  });
  it('what others did it takes along every two seconds where something always changes, and what was done here soon', async () => {
    const { floor, taken } = counted();
    const courier = new Courier(floor, { alone: true, random: () => 0 });
    const from = Date.now();
    const busy = async (ms: number): Promise<void> => {
      for (const end = Date.now() + ms; Date.now() < end;) {
        courier.heardOfOthers();
        await jest.advanceTimersByTimeAsync(50);
      }
    };
    await busy(6900);
    expect(taken.map((at) => Math.round((at - from) / 100))).toEqual([4, 24, 44, 64]);
    courier.poke();
    await busy(500);
    expect(Math.round((taken.at(-1) ?? 0) / 100 - from / 100)).toBe(73);
    await busy(1800);
    expect(taken).toHaveLength(5);
    await busy(200);
    expect(taken).toHaveLength(6);
    courier.stop();
  });
  it('what is wanted at once does not wait for what was wanted soon; changes do not hurry it while nobody answers', async () => {
    const { floor, taken, says } = counted();
    const courier = new Courier(floor, { alone: true });
    courier.poke();
    courier.poke(0);
    await jest.advanceTimersByTimeAsync(1);
    expect(taken).toHaveLength(1);
    says.away = true;
    courier.poke(0);
    await jest.advanceTimersByTimeAsync(1);
    expect(taken).toHaveLength(2);
    for (let n = 0; n < 9; n += 1) {
      courier.poke();
      await jest.advanceTimersByTimeAsync(100);
    }
    expect(taken).toHaveLength(2);
    // The connection is said to be back.
    courier.poke(0);
    await jest.advanceTimersByTimeAsync(1);
    expect(taken).toHaveLength(3);
    courier.stop();
    await jest.advanceTimersByTimeAsync(120_000);
    expect(taken).toHaveLength(3);
  });
  it('says who works here before it tells anything, to each that begins; no other tab does', async () => {
    const { floor, done, says } = counted();
    says.away = true;
    const courier = new Courier(floor, { alone: true });
    courier.poke(0);
    await jest.advanceTimersByTimeAsync(1);
    expect(done).toEqual(['greet']);
    says.away = false;
    courier.poke(0);
    await jest.advanceTimersByTimeAsync(1);
    courier.poke(0);
    await jest.advanceTimersByTimeAsync(1);
    expect(done).toEqual(['greet', 'greet', 'tell', 'take', 'tell', 'take']);
    courier.stop();
    done.length = 0;
    for (const alone of [true, false]) {
      const next = new Courier(floor, { alone });
      next.poke(0);
      await jest.advanceTimersByTimeAsync(1);
      next.stop();
    }
    expect(done).toEqual(['greet', 'tell', 'take', 'take']);
  });
  it('looks again by itself', async () => {
    const { floor, taken } = counted();
    const courier = new Courier(floor, { alone: false });
    courier.poke(0);
    await jest.advanceTimersByTimeAsync(61_000);
    expect(taken).toHaveLength(2);
    courier.stop();
  });
});
