import { afterEach, beforeEach, describe, expect, it, jest } from '@jest/globals';
import { KeptStream, type Source } from './stream.ts';

class Fake implements Source {
  static all: Fake[] = [];
  readyState = 0;
  private readonly on = new Map<string, ((event: { data?: unknown }) => void)[]>();
  constructor() {
    Fake.all.push(this);
  }
  addEventListener(type: string, listener: (event: { data?: unknown }) => void): void {
    this.on.set(type, [...(this.on.get(type) ?? []), listener]);
  }
  say(type: string, data = '{}'): void {
    if (type === 'hello') this.readyState = 1;
    for (const listener of this.on.get(type) ?? []) listener({ data });
  }
  /** As after an answer that is no stream: the browser gives up. */
  refuse(): void {
    this.readyState = 2;
    this.say('error');
  }
  close(): void {
    this.readyState = 2;
  }
}

const open = (): { stream: KeptStream; heard: string[]; said: string[] } => {
  const heard: string[] = [];
  const said: string[] = [];
  const stream = new KeptStream(
    () => new Fake(),
    { change: (data) => heard.push(data) },
    { cut: () => said.push('cut'), back: () => said.push('back'), refused: () => said.push('refused') },
  );
  return { stream, heard, said };
};
const last = (): Fake => Fake.all.at(-1) as Fake;

beforeEach(() => {
  Fake.all = [];
  jest.useFakeTimers();
});
afterEach(() => void jest.useRealTimers());

describe('a kept stream', () => {
  it('passes on what it hears; the first hello is no coming back', () => {
    const { stream, heard, said } = open();
    last().say('hello');
    last().say('change', 'x');
    expect([heard, said]).toEqual([['x'], []]);
    stream.close();
  });
  it.each([[401], [502]])('comes back by itself after a refusal such as %d, with growing waits, and says so once it is there', () => {
    const { stream, said } = open();
    last().say('hello');
    for (const wait of [1000, 2000, 4000, 8000, 15_000, 15_000]) {
      last().refuse();
      const count = Fake.all.length;
      jest.advanceTimersByTime(wait - 1);
      expect(Fake.all.length).toBe(count);
      jest.advanceTimersByTime(1);
      expect(Fake.all.length).toBe(count + 1);
    }
    last().say('hello');
    expect(said.filter((s) => s === 'back')).toEqual(['back']);
    expect(said.filter((s) => s === 'refused')).toHaveLength(6);
    last().refuse();
    const count = Fake.all.length;
    jest.advanceTimersByTime(1000);
    expect(Fake.all.length).toBe(count + 1);
    stream.close();
  });
  it('a cut that the browser mends itself is told as coming back', () => {
    const { stream, said } = open();
    last().say('hello');
    last().readyState = 0;
    last().say('error');
    last().say('hello');
    expect(said).toEqual(['cut', 'back']);
    expect(Fake.all).toHaveLength(1);
    stream.close();
  });
  it('one that is silent for longer than the server ever is, is taken for dead', () => {
    const { stream, said } = open();
    last().say('hello');
    for (let s = 0; s < 200; s += 25) {
      jest.advanceTimersByTime(25_000);
      last().say('beat');
    }
    expect(Fake.all).toHaveLength(1);
    jest.advanceTimersByTime(80_000);
    expect(Fake.all.length).toBe(2);
    last().say('hello');
    expect(said).toEqual(['back']);
    stream.close();
  });
  it('a window that nobody sees lets go; seen again it reads anew', () => {
    const { stream, heard, said } = open();
    last().say('hello');
    stream.seen(false);
    jest.advanceTimersByTime(10_000);
    stream.seen(true);
    expect(Fake.all).toHaveLength(1);
    stream.seen(false);
    jest.advanceTimersByTime(31_000);
    expect(last().readyState).toBe(2);
    const old = last();
    stream.seen(true);
    old.say('change', 'from the dead');
    last().say('hello');
    expect([Fake.all.length, said, heard]).toEqual([2, ['back'], []]);
    stream.close();
  });
  it('closed is closed', () => {
    const { stream } = open();
    last().refuse();
    stream.close();
    jest.advanceTimersByTime(600_000);
    stream.seen(true);
    expect(Fake.all).toHaveLength(1);
  });
  it('after the network was gone the stream of before is not trusted, though it never said that it is dead', () => {
    const { stream, heard, said } = open();
    last().say('hello');
    const dead = last();
    stream.networkBack();
    expect(Fake.all).toHaveLength(2);
    expect(dead.readyState).toBe(2);
    // What the dead one still says is heard by nobody: it may be late.
    dead.say('change', 'late');
    last().say('hello');
    last().say('change', 'new');
    expect([heard, said]).toEqual([['new'], ['back']]);
    stream.close();
  });
  it('is not taken up by the network for a window that nobody sees, but at once when somebody does', () => {
    const { stream, said } = open();
    last().say('hello');
    stream.seen(false);
    jest.advanceTimersByTime(60_000);
    stream.networkBack();
    expect(Fake.all).toHaveLength(1);
    stream.seen(true);
    last().say('hello');
    expect([Fake.all.length, said]).toEqual([2, ['back']]);
    stream.close();
  });
});
