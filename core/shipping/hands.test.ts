import { describe, expect, it } from '@jest/globals';
import { qty, type Qty } from '#core/base';
import type { HandEvent } from '#core/floor';
import { BINS, codeOf, GOODS, play, scanOf, testFloor } from '../floor/testing.ts';
import { foldBench, PACK_BEGINS, shippingSaid, stepPack, type BenchOrder, type PackChoice } from './index.ts';

const { jar, dated, serial } = GOODS;
const whole = (n: number): Qty => qty(n * 1000);
const ORDER: BenchOrder = {
  id: 1,
  number: 'CO-5001',
  customer: 'Made-up Shop',
  heldFor: null,
  packed: false,
  lines: [
    { item: jar.id, open: whole(3) },
    { item: serial.id, open: whole(1) },
  ],
  pieces: [
    { key: 'k1', item: jar.id, lot: null, serial: null, qty: whole(3), putDown: true },
    { key: 'k2', item: serial.id, lot: null, serial: 'S-1', qty: whole(1), putDown: true },
  ],
};
const facts = testFloor([{ bin: BINS.bench.id, item: serial.id, serial: 'S-1' }]);
type Event = HandEvent<PackChoice>;
const key = (text: string): Event => ({ kind: 'number', text });
const choose = (choice: PackChoice): Event => ({ kind: 'choose', choice });
const bench = (texts: readonly (string | Event)[], orders: readonly BenchOrder[] = [ORDER], trust = false) => {
  const events = texts.map((t): Event => (typeof t === 'string' ? scanOf(facts, t) : t));
  const played = play(PACK_BEGINS, events, (at, event: Event, done: Parameters<typeof foldBench>[1]) =>
    stepPack(at, event, { orders: foldBench(orders, done), trust, facts }),
  );
  return {
    ...played,
    words: played.said.map(shippingSaid),
    kinds: played.done.map((d) => d.does.kind),
    after: foldBench(orders, played.done),
  };
};

describe('H the bench, by scanner alone', () => {
  it('H1 the sheet, each piece, the sheet again: packed; once more: gone', () => {
    const b = bench(['CO-5001', codeOf(jar), key('3'), 'S-1', 'CO-5001', 'CO-5001']);
    expect(b.words).toEqual([
      'CO-5001: 4 pieces. Scan each, or say that you looked.',
      'JAR-1: 1 of 3.',
      'JAR-1: 3 of 3.',
      'SERIAL-5: 1 of 1. All seen: scan the sheet to pack it.',
      'CO-5001 is packed in 1 parcel.',
      'CO-5001: 4 pieces have left.',
    ]);
    expect(b.done.map((d) => d.does)).toEqual([
      { kind: 'pack.order', order: 1, pieces: ['k1', 'k2'], parcels: 1 },
      { kind: 'pack.ship', order: 1, pieces: ['k1', 'k2'] },
    ]);
    expect(b.after).toEqual([]);
  });
  it('H2 where the bench trusts the pick, a whole order is packed by one scan; one that is not whole is looked at', () => {
    expect(bench(['CO-5001'], [ORDER], true).kinds).toEqual(['pack.order']);
    const short = { ...ORDER, lines: [{ item: jar.id, open: whole(9) }] };
    const b = bench(['CO-5001', 'CO-5001'], [short], true);
    expect(b.kinds).toEqual([]);
    expect(b.words[0]).toContain('not the whole order');
    expect(b.said[0]?.tone).toBe('look');
  });
  it('the sheet does not pack what was not seen; what is not of the order is laid aside; too many are counted again', () => {
    const b = bench(['CO-5001', 'CO-5001', codeOf(dated), codeOf(jar, 1), 'A-01-1', 'PO-3001']);
    expect(b.words.slice(1)).toEqual([
      '3 JAR-1 not scanned yet.',
      'DATED-4 does not belong to CO-5001. Lay it aside.',
      'More JAR-1 than was picked: 3. Count again.',
      expect.stringContaining('That is bin A-01-1'),
      expect.stringContaining('That is a purchase order'),
    ]);
    expect(b.done).toEqual([]);
  });
  it('H5 H6 who says that they looked packs it; it is unpacked by undo; held or on a cart it stays', () => {
    expect(
      bench([choose({ what: 'open', order: 1 }), choose({ what: 'parcels', text: '3' }), choose({ what: 'pack' }), { kind: 'undo' }]).kinds,
    ).toEqual(['pack.order', 'pack.undo']);
    expect(bench(['CO-5001', choose({ what: 'parcels', text: '0' })]).said[1]?.tone).toBe('wrong');
    const held = bench(['CO-5001', choose({ what: 'pack' })], [{ ...ORDER, heldFor: 'unpaid' }]);
    expect(held.words).toEqual([expect.stringContaining('unpaid'), expect.stringContaining('unpaid')]);
    const cart = bench(
      ['CO-5001', choose({ what: 'pack' })],
      [{ ...ORDER, pieces: ORDER.pieces.map((p) => ({ ...p, putDown: false })) }],
      true,
    );
    expect(cart.words[0]).toContain('still on a cart');
    expect([...held.done, ...cart.done]).toEqual([]);
    expect(bench([choose({ what: 'open', order: 1 }), choose({ what: 'ship' })]).words[1]).toContain('not packed yet');
  });
  it('nothing is begun by goods or a number without an order; an order that is not here is said', () => {
    const b = bench([codeOf(jar), key('3'), 'CO-9999', choose({ what: 'pack' })]);
    expect(b.words[0]).toContain('Scan the sheet of an order');
    expect(b.words[2]).toBe('CO-9999 has nothing at the bench.');
    expect(b.done).toEqual([]);
  });
  it('another order’s sheet in the middle opens that one, with nothing seen and one parcel', () => {
    const other = { ...ORDER, id: 2, number: 'CO-5002' };
    const b = bench(['CO-5001', codeOf(jar), choose({ what: 'parcels', text: '4' }), 'CO-5002'], [ORDER, other]);
    expect(b.at).toEqual({ order: 2, seen: {}, last: null, parcels: 1 });
  });
});

describe('numbers at the bench', () => {
  it('belong to what was scanned last: none before, no nothing, no parts of what is whole', () => {
    expect(bench(['CO-5001', key('3')]).words.at(-1)).toBe('Scan the sheet of an order, or choose one.');
    expect(bench([key('3')]).words).toEqual(['Scan the sheet of an order, or choose one.']);
    for (const text of ['0', 'x', '1.5']) {
      const b = bench(['CO-5001', codeOf(jar), key(text)]);
      expect(b.words.at(-1)).toBe(`“${text}” is no number here.`);
      expect(b.at.seen[jar.id]).toBe(whole(1));
    }
    // A number is how many there are, not how many more.
    expect(bench(['CO-5001', codeOf(jar), codeOf(jar), key('3')]).at.seen[jar.id]).toBe(whole(3));
    const metres = { ...ORDER, pieces: [{ ...ORDER.pieces[0], item: GOODS.rope.id, qty: qty(2500) } as (typeof ORDER.pieces)[number]] };
    expect(
      bench(['CO-5001', codeOf(GOODS.rope), key('2,5')], [{ ...metres, lines: [{ item: GOODS.rope.id, open: qty(2500) }] }]).words.at(-1),
    ).toContain('All seen');
  });
});
