import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { sumQty } from '#core/base';
import type { AnnouncedGoods } from '#core/floor';
import { withCheckDigit } from '#core/items';
import { BINS, codeOf, GOODS, testFloor } from '../floor/testing.ts';
import { entryKey, foldDelivery, type DeliveryJob } from './index.ts';
import { DELIVERY, key, receiver, undo, whole, type ReceiveEvent } from './testing.ts';

const { jar, lot, dated, serial } = GOODS;
const [UNIT, OTHER, LOOSE, HERE] = [1, 2, 3, 4].map((n) => withCheckDigit(`3952000100000000${n}`)) as [string, string, string, string];
const short = (sscc: string): string => `…${sscc.slice(-6)}`;
const goods = (item: { id: AnnouncedGoods['item'] }, n: number, more: Partial<AnnouncedGoods> = {}): AnnouncedGoods => ({
  ...{ item: item.id, pack: 10, qty: whole(n), lot: null, expires: null, made: null, serial: null },
  ...more,
});
const announced = (sscc: string, supplierName: string, what: readonly AnnouncedGoods[]) => ({
  ...{ sscc, notice: 'AN-1', supplier: 1, supplierName, orders: [1], goods: what },
});
const facts = testFloor([{ item: serial.id, serial: 'S-HERE', bin: BINS.a.id }]);
facts.putBalance(99, {
  ...{ bin: BINS.b.id, item: jar.id, lot: null, expires: null, serial: null, condition: 'sound', qty: whole(3), sscc: HERE },
});
facts.putNotice(1, [
  announced(UNIT, 'Made-up Supplies', [
    goods(jar, 24),
    goods(dated, 6, { lot: 'NEXT', expires: '2027-01-31' }),
    goods(serial, 1, { serial: 'S-1' }),
    goods(serial, 1, { serial: 'S-2' }),
  ]),
  announced(OTHER, 'Somebody Else', [goods(jar, 1)]),
]);
// Neither rope nor plain lots are on the order.
const ORDERED: DeliveryJob = { ...DELIVERY, lines: DELIVERY.lines.filter((l) => [jar, dated, serial].some((i) => i.id === l.item)) };
const { receive, scan } = receiver(facts, ORDERED);
const label = (sscc: string): ReceiveEvent => scan(`(00)${sscc}`);

describe('C15 a pallet by one scan', () => {
  it('takes all that was announced in it: lots, dates and serials', () => {
    const r = receive([label(UNIT)]);
    expect(r.words).toEqual([`Unit ${short(UNIT)}: 4 things, 32 in all, as announced.`]);
    expect(r.done).toHaveLength(1);
    expect([r.arrived(jar), r.arrived(dated), r.arrived(serial)]).toEqual([whole(24), whole(6), whole(2)]);
    expect(r.after.entries.every((e) => e.sscc === UNIT)).toBe(true);
    expect(r.after.entries.find((e) => e.item === dated.id)).toMatchObject({ lot: 'NEXT', expires: '2027-01-31' });
  });
  it('comes once: scanned again it changes nothing; taken back it goes whole, and may come again', () => {
    const twice = receive([label(UNIT), label(UNIT), scan(`00${UNIT}`)]);
    expect(twice.words.slice(1)).toEqual(Array(2).fill(`Unit ${UNIT} has come already: delivery PO-1.`));
    expect(twice.arrived(jar)).toBe(whole(24));
    const back = receive([label(UNIT), undo]);
    expect(back.words[1]).toBe(`Taken out again: unit ${short(UNIT)} with 4 things.`);
    expect(back.after.entries).toEqual([]);
    expect(receive([label(UNIT), undo, label(UNIT)]).arrived(serial)).toBe(whole(2));
  });
  it('a bin after it takes all of it; undo takes the bin back first; a part of it goes nowhere', () => {
    const r = receive([label(UNIT), scan('A-01-2')]);
    expect(r.words[1]).toBe(`Unit ${short(UNIT)}, 4 things, goes into A-01-2.`);
    expect(r.after.entries.map((e) => e.bin)).toEqual(Array(4).fill(BINS.b.id));
    const undone = receive([label(UNIT), scan('A-01-2'), undo]);
    expect(undone.after.entries.map((e) => e.bin)).toEqual(Array(4).fill(null));
    // A bin for one kind of goods does not take four.
    const refused = receive([label(UNIT), scan('A-03-1')]);
    expect(refused.said[1]?.tone).toBe('wrong');
    expect(refused.after.entries.every((e) => e.bin === null)).toBe(true);
    const there = receive([label(UNIT)]).after;
    const first = there.entries[0]?.key ?? '';
    const asked = receive([{ kind: 'choose', choice: { what: 'whereTo', entry: first } }, key('3')], there);
    expect(asked.words[1]).toContain('stays together');
  });
  it('a number after it is of nothing; one of its things is chosen first, and changes alone', () => {
    const there = receive([label(UNIT)]).after;
    expect(receive([key('2')], there)).toMatchObject({ done: [], words: [expect.stringContaining('Choose which')] });
    const first = there.entries[0]?.key ?? '';
    const r = receive([{ kind: 'choose', choice: { what: 'change', entry: first } }, key('23')], there);
    expect([r.arrived(jar), r.arrived(dated)]).toEqual([whole(23), whole(6)]);
  });
  it('what stands here, what another supplier announced, and a unit while a customer brings goods back are refused in words', () => {
    expect(receive([label(HERE)]).words[0]).toBe(`Unit ${HERE} has come already: bin A-01-2.`);
    expect(receive([label(OTHER)]).words[0]).toContain('was announced by Somebody Else');
    const back = { ...ORDERED, back: { shipment: 'SH-1', customer: 'Somebody' } };
    expect(receive([label(UNIT)], back)).toMatchObject({ done: [] });
    expect(receive([label(UNIT.slice(0, -1) + String((Number(UNIT.at(-1)) + 1) % 10))]).words[0]).toContain('check');
  });
  it('a serial that is here already keeps the whole unit out, by name', () => {
    const told = receive([label(UNIT)], {
      ...ORDERED,
      entries: receive([scan(codeOf(serial)), scan('S-2')]).after.entries,
    });
    expect(told.words[0]).toContain('S-2');
    expect(told.done).toEqual([]);
  });
  it('breaks out of a question, and is never a lot or a serial', () => {
    const r = receive([scan(codeOf(lot)), label(UNIT)]);
    expect(r.arrived(lot)).toBe(0);
    expect(r.arrived(jar)).toBe(whole(24));
    expect(r.at.asks.what).toBe('goods');
  });
});

describe('C15 a pallet that nobody announced', () => {
  it('is filled by what is scanned next, until it is scanned again', () => {
    const r = receive([label(LOOSE), scan(codeOf(jar)), key('5'), label(LOOSE), scan(codeOf(jar))]);
    expect(r.words[0]).toContain('was not announced');
    expect(r.words[3]).toBe(`Unit ${short(LOOSE)} is closed: 1 thing in it.`);
    expect(r.after.entries.map((e) => [e.qty, e.sscc])).toEqual([
      [whole(5), LOOSE],
      [whole(1), null],
    ]);
    expect(receive([label(LOOSE), scan(codeOf(jar)), undo]).after.entries).toEqual([]);
  });
  it('a bin closes it and takes all of it; an announced one closes it too', () => {
    const r = receive([label(LOOSE), scan(codeOf(jar)), scan(codeOf(jar, 1)), scan('A-01-2'), scan(codeOf(jar))]);
    expect(r.at.unit).toBeNull();
    expect(r.after.entries.map((e) => [e.sscc, e.bin])).toEqual([
      [LOOSE, BINS.b.id],
      [LOOSE, BINS.b.id],
      [null, null],
    ]);
    expect(receive([label(LOOSE), label(UNIT)]).at.unit).toBeNull();
  });
});

describe('laws', () => {
  it('folding twice is folding once, and the keys of the entries are those that the house makes', () => {
    const { done } = receive([label(UNIT), scan('A-01-2'), scan(codeOf(jar))]);
    expect(foldDelivery(foldDelivery(ORDERED, done), done)).toEqual(foldDelivery(ORDERED, done));
    const made = foldDelivery(ORDERED, done.slice(0, 1)).entries.map((e) => e.key);
    expect(made).toEqual([0, 1, 2, 3].map((n) => entryKey(done[0]?.stamp.key ?? '', n)));
  });
  it('the keys of one scan differ from each other and from the scan’s own', () => {
    fc.assert(
      fc.property(fc.uuid(), fc.integer({ min: 1, max: 200 }), (act, many) => {
        const keys = new Set([act, ...Array.from({ length: many }, (_, n) => entryKey(act, n))]);
        expect(keys.size).toBe(many + 1);
        for (const k of keys) expect(k).toMatch(/^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/);
      }),
    );
  });
  it('whatever is scanned and taken back, what arrived of a unit is all of it or nothing, in one bin', () => {
    const event = fc.constantFrom<ReceiveEvent>(
      label(UNIT),
      label(LOOSE),
      scan(codeOf(jar)),
      scan('A-01-1'),
      scan('A-01-2'),
      undo,
      key('3'),
    );
    fc.assert(
      fc.property(fc.array(event, { maxLength: 14 }), (events) => {
        const own = receive(events).after.entries.filter((e) => e.sscc === UNIT);
        expect([0, 4]).toContain(own.length);
        if (own.length > 0) expect(sumQty(own.filter((e) => e.item !== jar.id).map((e) => e.qty))).toBe(whole(8));
        for (const sscc of [UNIT, LOOSE]) {
          const bins = receive(events).after.entries.filter((e) => e.sscc === sscc && e.bin !== null);
          expect(new Set(bins.map((e) => e.bin)).size).toBeLessThanOrEqual(1);
        }
      }),
      { numRuns: 300 },
    );
  });
});
