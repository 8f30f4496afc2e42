import { afterEach, beforeEach, describe, expect, it, jest } from '@jest/globals';
import { ROUTES } from '#contract';
import { isTouched, ReadAgain, restOf, type Asked, type Change } from './touches.ts';

const change = (topic: string, facts: Change['facts'] = {}): Change => ({ topic, facts });
const touches = (c: Change, name: string, input: Asked = {}, data?: unknown): boolean => isTouched(c, { name, input, data });

describe('what a change touches', () => {
  it('names only rooms and routes that there are', () => {
    for (const name of [
      'places.sites',
      'places.plan',
      'items.priceLists',
      'stock.equation',
      'orders.order',
      'picking.round',
      'work.rows',
      'people.events',
    ])
      expect(Object.keys(ROUTES)).toContain(name);
  });
  it('an order is read again when it changes and when goods of its lines move, though it tells its lines by number too', () => {
    const order = { lines: 1, lineList: [{ item: 7 }] };
    const asked = { params: { id: 3 } };
    expect(touches(change('orders', { order: 3 }), 'orders.order', asked, order)).toBe(true);
    expect(touches(change('orders', { order: 4 }), 'orders.order', asked, order)).toBe(false);
    expect(touches(change('stock', { site: 1, items: [7] }), 'orders.order', asked, order)).toBe(true);
    expect(touches(change('stock', { site: 1, items: [8] }), 'orders.order', asked, order)).toBe(false);
  });
  it('a moved item is read again on its own page, not on the page of another', () => {
    const moved = change('stock', { site: 1, items: [7], bins: [40, 41] });
    expect(touches(moved, 'items.item', { params: { id: 7 } })).toBe(true);
    expect(touches(moved, 'items.item', { params: { id: 8 } })).toBe(false);
    expect(touches(moved, 'places.bin', { params: { id: 41 } })).toBe(true);
    expect(touches(moved, 'places.bin', { params: { id: 42 } })).toBe(false);
    expect(touches(moved, 'stock.movements', { query: { item: 7 } })).toBe(true);
    expect(touches(moved, 'stock.movements', { query: { bin: 42 } })).toBe(false);
    expect(touches(moved, 'stock.movements')).toBe(true);
  });
  it('an order is read again for itself and for the goods on its lines', () => {
    const page = { lines: [{ item: 7 }, { item: 9 }] };
    const shows = (c: Change): boolean => touches(c, 'orders.order', { params: { id: 3 } }, page);
    expect(shows(change('orders', { order: 3 }))).toBe(true);
    expect(shows(change('orders', { order: 4 }))).toBe(false);
    expect(shows(change('orders', { orders: [2, 3] }))).toBe(true);
    expect(shows(change('stock', { items: [9], bins: [1] }))).toBe(true);
    expect(shows(change('stock', { items: [8], bins: [1] }))).toBe(false);
    expect(shows(change('stock', { bins: [1] }))).toBe(true);
  });
  it('what says nothing of records, or is not known by them, may touch all', () => {
    expect(touches(change('stock'), 'items.item', { params: { id: 7 } })).toBe(true);
    expect(touches(change('stock', { items: [1] }), 'orders.order', { params: { id: 3 } })).toBe(true);
    expect(touches(change('counting', { count: 5 }), 'counting.differences', { params: { id: 6 } })).toBe(false);
    expect(touches(change('stock', { items: [1], bins: [2] }), 'counting.differences', { params: { id: 6 } })).toBe(true);
  });
  it('moves leave the plan, the sites and the suppliers alone; the row and home are told, not read', () => {
    for (const name of ['places.sites', 'places.plan', 'items.suppliers', 'desk.row', 'desk.home', 'people.me'])
      expect({ name, is: touches(change('stock', { items: [1] }), name) }).toEqual({ name, is: false });
    expect(touches(change('places'), 'places.plan')).toBe(true);
    expect(touches(change('places'), 'people.me')).toBe(true);
  });
});

describe('reading again', () => {
  beforeEach(() => void jest.useFakeTimers());
  afterEach(() => void jest.useRealTimers());
  it('changes that come together are one reading; a list rests; the last change is never left out', async () => {
    const read: number[] = [];
    const again = new ReadAgain(
      () => {
        read.push(Date.now());
        return Promise.resolve();
      },
      () => 0.5,
    );
    const from = Date.now();
    for (let ms = 0; ms < 3000; ms += 10) {
      again.ask('list', restOf('orders.list'));
      await jest.advanceTimersByTimeAsync(10);
    }
    await jest.advanceTimersByTimeAsync(5000);
    expect(read.length).toBeGreaterThan(3);
    expect(read.length).toBeLessThan(7);
    expect((read.at(-1) ?? 0) - from).toBeGreaterThanOrEqual(2990);
    expect(restOf('orders.order')).toBeLessThan(100);
  });
  it('nobody asks anew while they wait for an answer; what was touched meanwhile is read once more, also after a fault', async () => {
    const ends: (() => void)[] = [];
    const again = new ReadAgain(
      () =>
        new Promise((resolve, reject) => {
          ends.push(ends.length === 1 ? () => reject(new Error('away')) : () => resolve(null));
        }),
      () => 1,
    );
    const busy = async (ms: number): Promise<void> => {
      for (let at = 0; at < ms; at += 100) {
        again.ask('list', 500);
        await jest.advanceTimersByTimeAsync(100);
      }
    };
    for (const reading of [1, 2, 3]) {
      await busy(3000);
      expect(ends).toHaveLength(reading);
      ends.at(-1)?.();
    }
    // Nothing was touched after the fourth began.
    await jest.advanceTimersByTimeAsync(1000);
    expect(ends).toHaveLength(4);
    ends.at(-1)?.();
    await jest.advanceTimersByTimeAsync(5000);
    expect(ends).toHaveLength(4);
  });
  it('many who hear of a change at one moment do not ask at one moment', async () => {
    const at = new Set<number>();
    for (let n = 0; n < 20; n += 1)
      new ReadAgain(
        () => Promise.resolve(at.add(Date.now())),
        () => n / 20,
      ).ask('list', restOf('orders.list'));
    await jest.advanceTimersByTimeAsync(1000);
    expect(at.size).toBe(20);
    expect(Math.max(...at) - Math.min(...at)).toBeLessThan(restOf('orders.list') / 2);
  });
  it('nothing is read once it stopped', () => {
    const again = new ReadAgain(() => {
      throw new Error('read after its end');
    });
    again.ask('a', 60);
    again.stop();
    jest.advanceTimersByTime(1000);
  });
});
