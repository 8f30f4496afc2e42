import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { qty } from '#core/base';
import { BINS, codeOf, GOODS, labelOf, stampNow, testFloor } from '../floor/testing.ts';
import {
  decideBegin,
  deliveryName,
  foldDelivery,
  lineOf,
  linesOf,
  linesOfOrders,
  ownEntries,
  receivingSaid,
  receivingSentence,
  stepReceive,
  type DeliveryJob,
  type ReceiveChoice,
} from './index.ts';
import { choose, DELIVERY, key, receiver, undo, whole, type ReceiveEvent } from './testing.ts';

const { jar, rope, lot, dated, serial, out } = GOODS;
const facts = testFloor([{ item: serial.id, serial: 'S-HERE', bin: BINS.a.id }]);
const { receive, scan } = receiver(facts);

describe('C3 receiving by scan and number', () => {
  it('each scan is one of the pack that was scanned; a number says how many the last scan was', () => {
    const r = receive([scan(codeOf(jar)), scan(codeOf(jar, 1)), scan(codeOf(jar)), key('7')]);
    expect(r.words).toEqual(['JAR-1: 1 of 25', 'JAR-1: 13 of 25', 'JAR-1: 14 of 25', 'JAR-1: 20 of 25']);
    expect(r.said.every((s) => s.tone === 'right')).toBe(true);
    expect(r.arrived(jar)).toBe(whole(20));
  });
  it('goods are changed freely; more than expected gets a look; what is counted whole takes no half', () => {
    const r = receive([scan(codeOf(jar)), scan(codeOf(rope)), key('2,5'), scan(codeOf(jar)), key('2.5'), key('40')]);
    expect(r.arrived(rope)).toBe(qty(2500));
    expect(r.words[4]).toContain('counted whole');
    expect(r.said[4]?.tone).toBe('wrong');
    expect(r.words[5]).toBe('JAR-1: 41 of 25, more than expected');
    expect(r.said[5]?.tone).toBe('look');
  });
  it('3,000 of 25 are asked about once, and taken only then', () => {
    const asked = receive([scan(codeOf(jar)), key('3000')]);
    expect(asked.at.asks.what).toBe('sure');
    expect(asked.said[1]?.tone).toBe('look');
    expect(asked.arrived(jar)).toBe(whole(1));
    expect(receive([scan(codeOf(jar)), key('3000'), choose({ what: 'sure' })]).arrived(jar)).toBe(whole(3000));
    expect(receive([scan(codeOf(jar)), key('3000'), choose({ what: 'notSure' }), key('30')]).arrived(jar)).toBe(whole(30));
    expect(receive([scan(codeOf(jar)), key('9999999')]).arrived(jar)).toBe(whole(1));
    const huge = receive([scan(codeOf(jar)), key('99999999'), choose({ what: 'sure' })]);
    expect(huge.words.at(-1)).toContain('nobody unloads so many');
    expect(huge.arrived(jar)).toBe(whole(1));
  });
  it('a number without a scan of one’s own changes nothing', () => {
    const others = foldDelivery(DELIVERY, [
      {
        does: {
          kind: 'receive.enter',
          delivery: 1,
          item: jar.id,
          pack: 10,
          qty: whole(1),
          lot: null,
          expires: null,
          made: null,
          serial: null,
          sscc: null,
          takeAnyway: false,
        },
        stamp: { key: 'other', at: '2026-11-26T07:00:00.000Z', person: 99, more: [] },
      },
    ]);
    const r = receive([key('5'), undo], others);
    expect(r.done).toEqual([]);
    expect(r.arrived(jar)).toBe(whole(1));
  });
});

describe('what a scan is where something else is asked for', () => {
  const asksLot = [scan(codeOf(lot))];
  it.each([
    ['a bin', 'A-01-1', 'That is bin A-01-1.'],
    ['an old name of a bin', 'old rack', 'That is bin A-01-1.'],
    ['a bin of another site', 'Z-09-9', 'is a bin of Overflow barn'],
    ['a purchase order', 'PO-3001', 'That is a purchase order'],
    ['a serial that is in stock', 'S-HERE', 'That is a serial'],
    ['the code of the goods themselves', codeOf(lot), 'That is the code of LOT-3 itself'],
    ['a GS1 code with 31 February', ']C110L\u001d17260231', 'there is no such day'],
    ['five hundred letters', 'x'.repeat(500), '500 characters'],
  ])('C8 where a lot is asked for, %s is never taken for one', (_, text, says) => {
    const r = receive([...asksLot, scan(text)]);
    expect(r.words[1]).toContain(says);
    expect(r.done).toEqual([]);
  });
  it('C8 a bin, or other goods, break out of the question', () => {
    expect(receive([...asksLot, scan('A-01-1')]).at.asks.what).toBe('goods');
    const other = receive([...asksLot, scan(codeOf(jar))]);
    expect(other.arrived(jar)).toBe(whole(1));
    expect(other.at.asks.what).toBe('goods');
  });
  it.each([
    ['a lot that is known', 'L-1'],
    ['a new one', 'N-77'],
    ['one in another alphabet', 'Партия-7'],
    ['the lot of another item that bears the same text', 'NEXT'],
  ])('C8 %s is the lot, and the next scan is of it', (_, text) => {
    const r = receive([...asksLot, scan(text), scan(codeOf(lot))]);
    expect(r.after.entries.map((e) => e.lot)).toEqual([text, text]);
  });
  it('C8 another lot of the same goods is one act; a lot that was undone does not come back by itself', () => {
    const another = receive([...asksLot, scan('N-1'), choose({ what: 'anotherLot' }), scan('N-2'), scan(codeOf(lot))]);
    expect(another.after.entries.map((e) => e.lot)).toEqual(['N-1', 'N-2', 'N-2']);
    const undone = receive([...asksLot, scan('WRONG'), undo, scan(codeOf(lot))]);
    expect(undone.at.asks.what).toBe('lot');
    expect(undone.after.entries).toEqual([]);
  });
  it('C9 where a serial is asked for, lots, bins, orders and serials of other goods are none', () => {
    for (const text of ['L-1', 'A-01-1', 'CO-5001', codeOf(serial)]) {
      const r = receive([scan(codeOf(serial)), scan(text)]);
      expect([text, r.done.length]).toEqual([text, 0]);
    }
    const r = receive([scan(codeOf(serial)), scan('SN-1'), scan('SN-2'), scan('SN-1'), scan('S-HERE')]);
    expect(r.after.entries.map((e) => e.serial)).toEqual(['SN-1', 'SN-2']);
    expect(r.words.slice(3)).toEqual([
      expect.stringContaining('already here: delivery DL-1'),
      expect.stringContaining('already here: A-01-1'),
    ]);
    expect(r.at.asks.what).toBe('serial');
  });
  it('C9 the code of goods that nobody knows is no serial unless it is scanned again', () => {
    const r = receive([scan(codeOf(serial)), scan('4006381333931'), scan('SN-9')]);
    expect(r.said[1]?.tone).toBe('look');
    expect(r.words[1]).toContain('looks like the code of goods');
    expect(r.after.entries.map((e) => e.serial)).toEqual(['SN-9']);
    expect(receive([scan(codeOf(serial)), scan('4006381333931'), scan('4006381333931')]).after.entries.map((e) => e.serial)).toEqual([
      '4006381333931',
    ]);
  });
  it('C8 a new lot of dated goods asks for its date, a second date asks which; what expired is marked', () => {
    const fresh = receive([scan(codeOf(dated)), scan('FRESH'), choose({ what: 'date', date: '2027-03-31' })]);
    expect(fresh.after.entries).toMatchObject([{ lot: 'FRESH', expires: '2027-03-31' }]);
    const known = receive([scan(codeOf(dated)), scan('NEXT')]);
    expect(known.after.entries).toMatchObject([{ lot: 'NEXT', expires: '2027-01-31' }]);
    const expired = receive([scan(codeOf(dated)), scan('OLD')]);
    expect(expired.words[1]).toContain('goes to quarantine');
    expect(expired.said[1]?.tone).toBe('look');
  });
  it('C5 what is not ordered is taken anyway or set aside; C6 what nobody knows is kept with its number', () => {
    const anyway = receive([scan(codeOf(out)), choose({ what: 'takeAnyway' }), scan(codeOf(out))]);
    expect(anyway.arrived(out)).toBe(whole(2));
    expect(receive([scan(codeOf(out)), choose({ what: 'setAside' })]).done).toEqual([]);
    const unknown = receive([scan('4006381333931'), key('12'), scan(codeOf(jar))]);
    expect(unknown.after.entries).toMatchObject([{ item: null, code: '4006381333931', qty: whole(12) }, { item: jar.id }]);
  });
  it('C18 a delivery that was posted takes nothing more; one in review does, and opens again', () => {
    expect(receive([scan(codeOf(jar))], { ...DELIVERY, state: 'posted' }).done).toEqual([]);
    expect(receive([scan(codeOf(jar))], { ...DELIVERY, state: 'review' }).done).toHaveLength(1);
  });
});

describe('laws of receiving', () => {
  const texts = [
    codeOf(jar),
    codeOf(jar, 1),
    codeOf(rope),
    codeOf(lot),
    codeOf(dated),
    codeOf(serial),
    codeOf(out),
    'L-1',
    'NEXT',
    'N-9',
    'SN-1',
    'SN-2',
    'A-01-1',
    'PO-1',
    'S-HERE',
    'zzz',
  ];
  const event: fc.Arbitrary<ReceiveEvent> = fc.oneof(
    { weight: 6, arbitrary: fc.constantFrom(...texts).map(scan) },
    { weight: 2, arbitrary: fc.integer({ min: 0, max: 60 }).map((n) => key(String(n))) },
    { weight: 1, arbitrary: fc.constant(undo) },
    {
      weight: 2,
      arbitrary: fc
        .constantFrom<ReceiveChoice>(
          { what: 'takeAnyway' },
          { what: 'setAside' },
          { what: 'date', date: '2028-01-01' },
          { what: 'knownDate' },
          { what: 'anotherLot' },
          { what: 'sure' },
          { what: 'notSure' },
          { what: 'goods', item: dated.id },
          { what: 'life', months: 6 },
          { what: 'made', date: '2026-01-31' },
          { what: 'serials', codes: ['SN-1', 'SN-7', 'SN-8'] },
          { what: 'change', entry: 'nothing' },
        )
        .map(choose),
    },
  );
  it('whatever is scanned, keyed and chosen, each tally is the sum of what stands, and every serial stands once', () => {
    fc.assert(
      fc.property(fc.array(event, { maxLength: 40 }), (events) => {
        const { after } = receive(events);
        for (const item of Object.values(GOODS)) {
          const sum = after.entries.filter((e) => e.item === item.id).reduce((s, e) => s + e.qty, 0);
          expect(lineOf(after, item.id).arrived).toBe(sum);
        }
        const serials = after.entries.flatMap((e) => (e.serial === null ? [] : [e.serial]));
        expect(new Set(serials).size).toBe(serials.length);
        expect(serials).not.toContain('S-HERE');
        for (const e of after.entries) if (e.item === lot.id || e.item === dated.id) expect(e.lot).not.toBeNull();
      }),
      { numRuns: 400 },
    );
  });
  it('undoing everything is the beginning; folding the acts twice is folding them once', () => {
    fc.assert(
      fc.property(fc.array(event, { maxLength: 30 }), (events) => {
        const { after, done } = receive(events);
        expect(foldDelivery(after, done)).toEqual(after);
        // What lies in a bin is taken out of it first.
        const steps = ownEntries(after, 7).flatMap((e) => (e.bin === null ? [undo] : [undo, undo]));
        const undone = receive([...events, ...steps]);
        expect(undone.after.entries).toEqual([]);
      }),
      { numRuns: 200 },
    );
  });
  it('no text makes it throw', () => {
    fc.assert(
      fc.property(fc.array(fc.string({ unit: 'binary', maxLength: 60 }), { maxLength: 6 }), (raw) => {
        receive(raw.flatMap((t) => [scan(t), key(t)]));
      }),
    );
  });
});

describe('what is whose, and what a label may bear', () => {
  it('undo is of one’s own entry, the last or the one that is named; a colleague’s stays', () => {
    const theirs = { ...receive([scan(codeOf(jar))]).after.entries[0], key: 'theirs', person: 9, at: '2099-01-01T00:00:00.000Z' };
    const job = { ...DELIVERY, entries: [theirs as DeliveryJob['entries'][number]] };
    const two = receive([scan(codeOf(jar)), scan(codeOf(rope))], job);
    const first = two.after.entries.find((e) => e.person === 7 && e.item === jar.id)?.key ?? '';
    const left = (acts: readonly ReceiveEvent[]) =>
      receive([scan(codeOf(jar)), scan(codeOf(rope)), ...acts], job).after.entries.map((e) => [e.person, e.item]);
    expect(left([undo])).toEqual([
      [9, jar.id],
      [7, jar.id],
    ]);
    expect(first).not.toBe('');
    expect(left([undo, undo, undo])).toEqual([[9, jar.id]]);
    const named = stepReceive(two.at, { kind: 'undo', key: first }, two.after, facts, stampNow());
    expect(named.does).toEqual([{ kind: 'receive.takeOut', delivery: 1, entry: first }]);
    expect(stepReceive(two.at, { kind: 'undo', key: 'theirs' }, two.after, facts, stampNow()).does).toEqual([]);
  });
  it('a lot that no code can hold is refused where it is typed, in a house that wants it so; one that is here already is one', () => {
    facts.onlyLotsThatRead = true;
    try {
      const refused = receive([scan(codeOf(lot)), scan('LOT 7')]);
      expect(refused.said.at(-1)).toEqual({
        tone: 'wrong',
        said: 'receiving.lotUnread',
        text: 'LOT 7',
        why: expect.stringContaining('a space'),
      });
      expect(refused.after.entries).toEqual([]);
      // The question stays: the next lot answers it.
      expect(receive([scan(codeOf(lot)), scan('LOT 7'), scan('LOT-7')]).after.entries).toMatchObject([{ lot: 'LOT-7' }]);
      facts.putLot({ id: 70 as never, item: lot.id, code: 'OLD 7', expires: null });
      expect(receive([scan(codeOf(lot)), scan('OLD 7')]).after.entries).toMatchObject([{ lot: 'OLD 7' }]);
    } finally {
      facts.onlyLotsThatRead = false;
      facts.dropLot(70);
    }
    expect(receive([scan(codeOf(lot)), scan('LOT 7')]).after.entries).toMatchObject([{ lot: 'LOT 7' }]);
  });
  it('a lot has forty letters at most; the date that was said for it goes with the next', () => {
    const long = (n: number) => receive([scan(codeOf(lot)), scan('L'.repeat(n))]);
    expect(long(40).arrived(lot)).toBe(whole(1));
    expect(long(41).said.at(-1)).toMatchObject({ tone: 'wrong', said: 'receiving.badLot' });
    const d = receive([
      scan(codeOf(dated)),
      scan('D-9'),
      choose({ what: 'date', date: '2030-01-01' }),
      scan(codeOf(dated)),
      scan(codeOf(jar)),
      scan(codeOf(dated)),
    ]);
    expect(d.after.entries.filter((e) => e.item === dated.id).map((e) => [e.lot, e.expires])).toEqual(Array(3).fill(['D-9', '2030-01-01']));
    // A label with a date of its own is asked about: one lot has one date.
    const other = receive([labelOf(dated, { lot: 'D-9', expires: '2030-01-01' }), labelOf(dated, { lot: 'D-9', expires: '2031-01-01' })]);
    expect(other.at.asks).toMatchObject({ what: 'whichDate', known: '2030-01-01', given: '2031-01-01' });
    // Another lot with another date is no contradiction.
    expect(
      receive([labelOf(dated, { lot: 'D-9', expires: '2030-01-01' }), labelOf(dated, { lot: 'D-8', expires: '2031-01-01' })]).arrived(
        dated,
      ),
    ).toBe(whole(2));
  });
  it('while a date is asked, a scan of anything else enters nothing and says what it is', () => {
    const asked = [scan(codeOf(dated)), scan('D-9')];
    for (const text of ['zzz', 'PO-3001', 'A-01-1']) {
      const r = receive([...asked, scan(text)]);
      expect(r.done).toEqual([]);
      expect(r.said.at(-1)?.tone).toBe('wrong');
    }
    expect(receive([...asked, scan('PO-3001')]).at.asks.what).toBe('date');
    const serials = receive([scan(codeOf(serial)), scan(codeOf(serial))]);
    expect(serials.words.at(-1)).toBe('That is the code of SERIAL-5 itself. Scan its serial.');
    expect(receive([scan(codeOf(lot)), scan(codeOf(lot))]).words.at(-1)).toBe('That is the code of LOT-3 itself. Scan or key its lot.');
    expect(receive([scan(codeOf(lot)), scan('A-01-1')]).words.at(-1)).toContain('Scan goods');
    expect(receive([scan(codeOf(lot)), scan('PO-3001')]).words.at(-1)).toContain('lot');
  });
});

describe('what else a hand does to a delivery', () => {
  it('C4 goods are named on the screen, and are one of their base pack', () => {
    const r = receive([choose({ what: 'goods', item: jar.id }), key('4'), choose({ what: 'goods', item: jar.id })]);
    expect(r.words).toEqual(['JAR-1: 1 of 25', 'JAR-1: 4 of 25', 'JAR-1: 5 of 25']);
    expect(receive([choose({ what: 'goods', item: 999 })]).done).toEqual([]);
  });
  it('C3 an entry of one’s own that is not the last is changed by itself', () => {
    const first = receive([scan(codeOf(jar)), scan(codeOf(rope)), scan(codeOf(jar))]);
    const { key: rope1 } = first.after.entries.find((e) => e.item === rope.id) ?? { key: '' };
    const one = stepReceive(first.at, { kind: 'choose', choice: { what: 'change', entry: rope1 } }, first.after, facts, stampNow());
    expect(receivingSaid(one.says)).toBe('How many ROPE-2 instead of 1? Key it.');
    const two = stepReceive(one.at, { kind: 'number', text: '7.25' }, first.after, facts, stampNow());
    expect(two.does).toEqual([{ kind: 'receive.change', delivery: 1, entry: rope1, qty: qty(7250) }]);
    expect(two.at.asks.what).toBe('goods');
    // A scan goes on; the question is forgotten and nothing was changed.
    expect(stepReceive(one.at, scan(codeOf(jar)), first.after, facts, stampNow()).at.asks.what).toBe('goods');
  });
  it('C2 the supplier’s paper is named, and named again', () => {
    const r = receive([choose({ what: 'paper', doc: ' INV 1 ', date: null }), choose({ what: 'paper', doc: 'INV 2', date: '2026-11-20' })]);
    expect(r.after.paper).toEqual({ doc: 'INV 2', date: '2026-11-20' });
    expect(r.words).toEqual(['The supplier’s paper is INV 1.', 'The supplier’s paper is INV 2.']);
  });
  it('C1 a delivery is of orders of one supplier, of a supplier alone, or of nobody yet', () => {
    const order = (id: number, supplier: number) => ({ id, number: `PO-${id}`, supplier, due: '2026-12-01', lines: [] });
    const expected = [order(1, 7), order(2, 7), order(3, 8)];
    const begin = (supplier: number | null, orders: readonly number[]) => decideBegin({ supplier, orders }, expected, 'k');
    expect(begin(null, [1, 2, 1])).toEqual({
      ok: true,
      value: { kind: 'receive.begin', delivery: 'k', supplier: 7, orders: [1, 2], back: null },
    });
    expect(begin(8, [])).toMatchObject({ value: { supplier: 8, orders: [] } });
    expect(begin(null, [])).toMatchObject({ value: { supplier: null, orders: [] } });
    const said = (supplier: number | null, orders: readonly number[]): string => {
      const begun = begin(supplier, orders);
      return begun.ok ? '' : receivingSentence(begun.error);
    };
    expect(said(null, [1, 3])).toBe('PO-3 is of another supplier. A delivery is of one.');
    expect(said(8, [1])).toBe('PO-1 is of another supplier. A delivery is of one.');
    expect(said(null, [4])).toContain('There is no purchase order “4”');
  });
  it('C1 without an order nothing is not ordered; several orders expect together', () => {
    const free = receive([scan(codeOf(jar))], { ...DELIVERY, orders: [], lines: [] });
    expect(free.arrived(jar)).toBe(whole(1));
    const line = (n: number) => ({ item: jar.id, expected: whole(n), waiting: n });
    const order = (id: number, n: number) => ({ id, number: `PO-${id}`, supplier: 7, due: '2026-12-01', lines: [line(n)] });
    expect(linesOfOrders([order(1, 4), order(2, 6)])).toEqual([{ item: jar.id, expected: whole(10), waiting: 4 }]);
    expect(['PO-1', 'PO-1, PO-2', '3 orders', 'DL-4', 'from S', 'new delivery']).toEqual(
      [
        { orders: ['PO-1'], number: null, supplier: 'S' },
        { orders: ['PO-1', 'PO-2'], number: null, supplier: 'S' },
        { orders: ['1', '2', '3'], number: null, supplier: 'S' },
        { orders: [], number: 'DL-4', supplier: 'S' },
        { orders: [], number: null, supplier: 'S' },
        { orders: [], number: null, supplier: null },
      ].map((job) => deliveryName({ ...job, back: null })),
    );
  });
});

describe('C19 goods that a customer brings back', () => {
  const SENT: DeliveryJob = {
    ...DELIVERY,
    orders: [],
    supplier: null,
    lines: [
      { item: jar.id, expected: whole(5), waiting: 0 },
      { item: serial.id, expected: whole(1), waiting: 0 },
    ],
    back: { shipment: 'SH-1', customer: 'Made-up Bees' },
  };
  it('nobody expects all that left: a part is as good as all, more than left is over, what never left is asked about', () => {
    const part = receive([scan(codeOf(jar)), key('2')], SENT);
    expect(part.words).toEqual(['JAR-1: 1 of 5', 'JAR-1: 2 of 5']);
    expect(part.said[1]?.tone).toBe('right');
    expect(linesOf(part.after)).toMatchObject([{ item: jar.id, standing: 'full', arrived: whole(2) }]);
    const over = receive([scan(codeOf(jar)), key('6')], SENT);
    expect(over.said[1]?.tone).toBe('look');
    const other = receive([scan(codeOf(rope)), choose({ what: 'takeAnyway' })], SENT);
    expect(other.words[0]).toContain('did not leave with this shipment');
    expect(linesOf(other.after)).toMatchObject([{ item: rope.id, standing: 'notOrdered' }]);
  });
  it('a serial that is in stock cannot come back; without a shipment anything may', () => {
    expect(receive([scan(codeOf(serial)), scan('S-HERE')], SENT).words.at(-1)).toContain('already here');
    const free = receive([scan(codeOf(rope))], { ...SENT, lines: [], back: { shipment: null, customer: null } });
    expect(free.arrived(rope)).toBe(whole(1));
    expect(deliveryName(SENT)).toBe('SH-1');
    expect(deliveryName({ ...SENT, number: 'RT-4', back: { shipment: null, customer: null } })).toBe('RT-4');
  });
  it('begins with a shipment or none, never with a supplier', () => {
    expect(decideBegin({ supplier: 7, orders: [1], back: { shipment: 3 } }, [], 'k')).toEqual({
      ok: true,
      value: { kind: 'receive.begin', delivery: 'k', supplier: null, orders: [], back: { shipment: 3 } },
    });
  });
});
