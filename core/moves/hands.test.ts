import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { qty, type BinId, type ItemId, type Qty } from '#core/base';
import type { ContentFact, FactBook, HandEvent } from '#core/floor';
import { withCheckDigit } from '#core/items';
import { BINS, codeOf, GOODS, labelOf, play, scanOf, testFloor } from '../floor/testing.ts';
import {
  moveDeltasOf,
  movesSaid,
  ownMoves,
  stepMove,
  suggestFor,
  type MoveAt,
  type MoveChoice,
  type MoveDoes,
  type MoveSource,
} from './index.ts';

const { jar, lot, dated, serial } = GOODS;
const whole = (n: number): Qty => qty(n * 1000);
type Event = HandEvent<MoveChoice>;
const key = (text: string): Event => ({ kind: 'number', text });
const choose = (choice: MoveChoice): Event => ({ kind: 'choose', choice });
const undo: Event = { kind: 'undo' };
const BEGIN: Readonly<Record<MoveSource, MoveAt>> = {
  bin: { step: 'from' },
  arrivals: { step: 'goods', from: null },
  unplaced: { step: 'goods', from: null },
};
const LYING: Partial<ContentFact>[] = [
  { bin: BINS.a.id, item: jar.id, qty: 10 as Qty },
  { bin: BINS.a.id, item: dated.id, lot: 'LATER', qty: 4 as Qty },
  { bin: BINS.a.id, item: dated.id, lot: 'NEXT', qty: 3 as Qty },
  { bin: BINS.a.id, item: serial.id, serial: 'S-1' },
  { bin: BINS.a.id, item: serial.id, serial: 'S-2' },
  { bin: BINS.b.id, item: dated.id, lot: 'OLD', qty: 2 as Qty },
  { bin: BINS.oneItem.id, item: lot.id, lot: 'L-1', qty: 1 as Qty },
  { bin: BINS.arrivals.id, item: jar.id, qty: 6 as Qty },
  { bin: BINS.arrivals.id, item: dated.id, lot: 'LATER', qty: 2 as Qty },
  { bin: BINS.arrivals.id, item: dated.id, lot: 'NEXT', qty: 5 as Qty },
];
function carry(texts: readonly (string | Event)[], source: MoveSource = 'bin', facts: FactBook = testFloor(LYING)) {
  // What a text means is looked up when it is scanned: what was done before it is known then.
  const events = texts.map((t): Event => (typeof t === 'string' ? { kind: 'number', text: `scan ${t}` } : t));
  const live = (e: Event): Event => (e.kind === 'number' && e.text.startsWith('scan ') ? scanOf(facts, e.text.slice(5)) : e);
  const played = play<MoveAt, MoveChoice, Parameters<typeof movesSaid>[0], MoveDoes>(BEGIN[source], events, (at, event, done) => {
    const undone = new Set(done.map((d) => (d.does.kind === 'move.undo' ? d.does.act : '')));
    facts.setDeltas(
      done.flatMap((d) => (undone.has(d.stamp.key) ? [] : [...moveDeltasOf(d.does, facts, (sscc) => facts.unitAsTold(sscc))])),
    );
    return stepMove(at, live(event), { facts, source, own: ownMoves(done, 7) });
  });
  return { ...played, words: played.said.map(movesSaid), puts: played.done.flatMap((d) => (d.does.kind === 'move.put' ? [d.does] : [])) };
}

describe('I1 moving from bin to bin', () => {
  it('from, goods, to; the same goods again are one more, a number says how many', () => {
    const m = carry(['A-01-1', codeOf(jar), codeOf(jar), 'A-01-2', codeOf(jar), key('5'), 'A-02-1']);
    expect(m.puts).toMatchObject([
      { from: BINS.a.id, to: BINS.b.id, item: jar.id, qty: whole(2), over: null },
      { from: BINS.a.id, to: BINS.c.id, item: jar.id, qty: whole(5) },
    ]);
    expect(m.words.at(-1)).toBe('5 JAR-1 is in A-02-1.');
  });
  it('wrong goods are refused when they are scanned, not at the last bin', () => {
    const m = carry(['A-01-2', codeOf(jar)]);
    expect(m.said[1]?.tone).toBe('wrong');
    expect(m.words[1]).toContain('no JAR-1 lies in A-01-2');
    expect(carry(['A-01-2', codeOf(jar), choose({ what: 'sure' }), 'A-02-1']).puts).toMatchObject([{ qty: whole(1) }]);
    expect(carry(['A-01-2', codeOf(jar), choose({ what: 'back' }), 'A-02-1']).puts).toEqual([]);
  });
  it('a second serial or other goods in a full hand are refused, never exchanged', () => {
    const m = carry(['A-01-1', 'S-1', 'S-2', codeOf(jar), 'A-01-2']);
    expect(m.said.slice(2, 4).map((s) => s.tone)).toEqual(['wrong', 'wrong']);
    expect(m.words[2]).toContain('First put down 1 SERIAL-5');
    expect(m.puts).toMatchObject([{ serial: 'S-1', qty: whole(1) }]);
  });
  it('E4 where several lots lie the lot is asked, and the first to expire stands first; a serial is asked for', () => {
    const m = carry(['A-01-1', codeOf(dated)]);
    expect(m.at).toMatchObject({ step: 'lot', lots: [{ lot: 'NEXT' }, { lot: 'LATER' }] });
    expect(carry(['A-01-1', codeOf(dated), 'OLD']).words[2]).toContain('No lot OLD lies here');
    expect(carry(['A-01-1', codeOf(dated), 'LATER', 'A-01-2']).puts).toMatchObject([{ lot: 'LATER' }]);
    expect(carry(['A-01-1', codeOf(dated), 'PO-3001']).done).toEqual([]);
    expect(carry(['A-01-1', codeOf(serial)]).at.step).toBe('serial');
  });
  it('A5 a rule, an expired lot on a shelf, scrap: asked about once; orders’ bins are refused', () => {
    const rule = carry(['A-01-1', codeOf(jar), 'A-03-1']);
    expect(rule.words[2]).toContain('one item only');
    expect(rule.puts).toEqual([]);
    expect(carry(['A-01-1', codeOf(jar), 'A-03-1', choose({ what: 'sure', reason: 'full house' })]).puts).toMatchObject([
      { to: BINS.oneItem.id, over: 'full house' },
    ]);
    expect(carry(['A-01-1', codeOf(jar), 'A-03-1', 'A-02-1']).puts).toMatchObject([{ to: BINS.c.id, over: null }]);
    expect(carry(['A-01-2', codeOf(dated), 'A-01-1']).words[2]).toContain('expired on 2026-11-25');
    const scrap = carry(['A-01-1', codeOf(jar), 'SCRAP', 'SCRAP']);
    expect(scrap.said[2]?.tone).toBe('look');
    expect(scrap.puts).toMatchObject([{ to: BINS.scrap.id, over: null }]);
    expect(carry(['A-01-1', codeOf(jar), 'BENCH-1']).words[2]).toContain('orders');
    expect(carry(['A-01-1', codeOf(jar), 'A-01-1']).words[2]).toContain('from A-01-1');
  });
  it('more than the records have gets a look; ten times as much is keyed twice', () => {
    expect(carry(['A-01-1', codeOf(jar), key('12')]).said[2]?.tone).toBe('look');
    expect(carry(['A-01-1', codeOf(jar), key('500'), 'A-01-2']).puts).toMatchObject([{ qty: whole(1) }]);
    expect(carry(['A-01-1', codeOf(jar), key('500'), key('500'), 'A-01-2']).puts).toMatchObject([{ qty: whole(500) }]);
    expect(carry(['A-01-1', codeOf(jar), key('0')]).said[2]?.tone).toBe('wrong');
  });
  it('a bin scanned twice has a sentence of its own, and so has what nobody knows', () => {
    expect(carry(['A-01-1', 'A-01-1']).words[1]).toContain('From A-01-1');
    expect(carry(['A-01-1', 'Z-09-9']).words[1]).toContain('a bin of Overflow barn');
    expect(carry(['A-01-1', '???']).words[1]).toContain('Nobody here knows');
    expect(carry(['L-1']).words[0]).toContain('That is a lot');
  });
  it('undo takes back one’s own last move, once', () => {
    const m = carry(['A-01-1', codeOf(jar), 'A-01-2', undo, undo]);
    expect(m.done.map((d) => d.does.kind)).toEqual(['move.put', 'move.undo']);
    expect(m.words.slice(3)).toEqual(['Undone: it lies where it was.', 'Nothing of yours to undo here.']);
  });
});

describe('I2 putting away', () => {
  it('goods at arrivals, the bin that is proposed and why; the whole lot unless a number says less', () => {
    const m = carry([codeOf(jar), 'A-02-2', codeOf(dated), 'NEXT', key('2'), 'A-02-1'], 'arrivals');
    expect(m.words[0]).toContain('To A-01-1: the same item lies there.');
    expect(m.puts).toMatchObject([
      { from: BINS.arrivals.id, to: BINS.empty.id, qty: whole(6) },
      { item: dated.id, lot: 'NEXT', qty: whole(2) },
    ]);
    expect(carry([codeOf(serial)], 'arrivals').words[0]).toContain('is not at arrivals');
  });
  it('proposes the home, then the same lot, then the same item, then an empty bin; never against a rule', () => {
    const facts = testFloor(LYING);
    const hand = (item: typeof jar, l: string | null = null) => ({ from: BINS.arrivals.id, item, lot: l, qty: whole(1) });
    expect(suggestFor(hand({ ...jar, homes: [{ bin: BINS.b.id, max: null }] }), facts)).toEqual({ bin: BINS.b.id, why: 'home' });
    expect(suggestFor(hand({ ...jar, homes: [{ bin: BINS.b.id, max: whole(1) }] }), facts)).toEqual({ bin: BINS.a.id, why: 'sameItem' });
    expect(suggestFor(hand(dated, 'OLD'), facts)?.why).toBe('sameLot');
    expect(suggestFor(hand(GOODS.rope), facts)).toMatchObject({ why: 'empty' });
  });
});

describe('laws of moving', () => {
  const texts = [
    'A-01-1',
    'A-01-2',
    'A-02-1',
    'A-03-1',
    'SCRAP',
    'BENCH-1',
    codeOf(jar),
    codeOf(dated),
    codeOf(serial),
    'S-1',
    'S-2',
    'NEXT',
    'LATER',
    'OLD',
    'zzz',
  ];
  const event: fc.Arbitrary<string | Event> = fc.oneof(
    { weight: 8, arbitrary: fc.constantFrom(...texts) },
    { weight: 2, arbitrary: fc.integer({ min: 0, max: 20 }).map((n) => key(String(n))) },
    { weight: 1, arbitrary: fc.constant(undo) },
    { weight: 1, arbitrary: fc.constantFrom<MoveChoice>({ what: 'sure' }, { what: 'back' }, { what: 'lot', lot: 'NEXT' }).map(choose) },
  );
  it('whatever is scanned, nothing is carried from a bin to itself, nothing comes from nowhere, and a serial is one', () => {
    fc.assert(
      fc.property(fc.array(event, { maxLength: 40 }), fc.constantFrom<MoveSource>('bin', 'arrivals'), (events, source) => {
        const facts = testFloor(LYING);
        const m = carry(events, source, facts);
        for (const p of m.puts) {
          expect(p.from).not.toBe(p.to);
          expect(p.qty).toBeGreaterThan(0);
          if (p.serial !== null) expect(p.qty).toBe(whole(1));
          if (p.item === dated.id && m.said.every((s) => s.said !== 'moves.absent')) expect(p.lot).not.toBeNull();
        }
      }),
      { numRuns: 400 },
    );
  });
  it('undoing every move leaves the bins as they were', () => {
    fc.assert(
      fc.property(fc.array(event, { maxLength: 30 }), (events) => {
        const first = carry(events);
        const standing = ownMoves(first.done, 7).length;
        const facts = testFloor(LYING);
        const all = carry([...events, ...Array<Event>(standing).fill(undo)], 'bin', facts);
        expect(ownMoves(all.done, 7)).toEqual([]);
      }),
      { numRuns: 150 },
    );
  });
});

describe('what is meant, and the way back', () => {
  const words = (texts: readonly (string | Event)[], source: MoveSource = 'bin') => carry(texts, source);
  const back = choose({ what: 'back' });
  it('back lays the goods down where they are: at the bin, at arrivals, from a doubt to the hand', () => {
    expect(words(['A-01-1', codeOf(jar), back]).at).toEqual({ step: 'goods', from: BINS.a.id });
    expect(words(['A-01-1', codeOf(dated), back]).at).toEqual({ step: 'goods', from: BINS.a.id });
    expect(words(['A-01-1', codeOf(serial), back]).at).toEqual({ step: 'goods', from: BINS.a.id });
    expect(words([codeOf(jar), back], 'arrivals').at).toEqual({ step: 'goods', from: null });
    const doubted = words(['A-01-1', codeOf(jar), key('3'), 'SCRAP', back]);
    expect(doubted.at).toMatchObject({ step: 'to', hand: { item: { id: jar.id }, qty: whole(3) } });
    expect(words(['A-01-1', codeOf(jar), key('3'), 'SCRAP', back, 'A-02-1']).puts).toMatchObject([{ to: BINS.c.id, qty: whole(3) }]);
    expect(words([back]).at).toEqual({ step: 'from' });
  });
  it('a label that says its lot or serial takes that one of several, without a question', () => {
    expect(words(['A-01-1', labelOf(dated, { lot: 'LATER' }), 'A-02-1']).puts).toMatchObject([{ lot: 'LATER', qty: whole(1) }]);
    expect(words(['A-01-1', labelOf(serial, { serial: 'S-2' }), 'A-02-1']).puts).toMatchObject([{ serial: 'S-2', qty: whole(1) }]);
    expect(words(['A-01-1', 'S-1', 'A-02-1']).puts).toMatchObject([{ item: serial.id, serial: 'S-1' }]);
    expect(words(['A-01-1', labelOf(jar, { labelled: 6 }), 'A-02-1']).puts).toMatchObject([{ qty: whole(6) }]);
  });
  it('goods that the records have elsewhere are carried when the hand says so, with the date of their lot', () => {
    const absent = words(['A-02-2', labelOf(dated, { lot: 'NEXT' })]);
    expect(absent).toMatchObject({ at: { step: 'absent', hand: { lot: 'NEXT', expires: '2027-01-31' } }, done: [] });
    expect(words(['A-02-2', labelOf(dated, { lot: 'NEXT' }), choose({ what: 'sure' }), 'A-02-1']).puts).toMatchObject([
      { from: BINS.empty.id, to: BINS.c.id, lot: 'NEXT', qty: whole(1) },
    ]);
    expect(words(['A-02-2', labelOf(dated, { lot: 'NEXT' }), 'PO-3001']).words.at(-1)).toContain('Scan the bin where it goes.');
  });
  it('a full hand takes nothing else, also while its bin is doubted', () => {
    for (const at of [
      ['A-01-1', codeOf(jar)],
      ['A-01-1', codeOf(jar), 'SCRAP'],
    ])
      for (const other of ['S-1', codeOf(dated), labelOf(jar, { lot: 'X-1' })])
        expect(words([...at, other]).said.at(-1)).toMatchObject({ tone: 'wrong', said: 'moves.handIsFull' });
  });
  it('a serial that two kinds of goods bear is the one that lies in this bin', () => {
    const facts = testFloor([
      { bin: BINS.a.id, item: GOODS.out.id, serial: '1001' },
      { bin: BINS.b.id, item: serial.id, serial: '1001' },
    ]);
    expect(carry(['A-01-2', '1001', 'A-02-1'], 'bin', facts).puts).toMatchObject([{ item: serial.id, serial: '1001' }]);
    expect(carry(['A-02-2', '1001'], 'bin', facts)).toMatchObject({ done: [], at: { step: 'goods' } });
  });
  it('what is proposed is a shelf that is picked from, in the store of the goods', () => {
    const hand = { from: BINS.arrivals.id, item: lot, lot: 'L-9', qty: whole(1) };
    const cold = { ...BINS.empty, id: 999 as typeof BINS.empty.id, address: 'C-01', purpose: 'cold', walk: 0 };
    const facts = testFloor([{ bin: BINS.scrap.id, item: lot.id, lot: 'L-9' }]);
    facts.putBin(cold);
    facts.putBin({ ...cold, id: 998 as typeof BINS.empty.id, address: 'B-01', purpose: 'storage', pickable: false });
    expect(facts.bin(suggestFor(hand, facts)?.bin ?? 0)?.address).toBe('A-03-1');
    const chilled = { ...hand, item: { ...lot, storageClass: 'cold' } };
    expect(facts.bin(suggestFor(chilled, facts)?.bin ?? 0)?.address).toBe('C-01');
  });
});

describe('C15 a pallet carried whole', () => {
  const SSCC = withCheckDigit('39520001000000001');
  const stands = (bin: { id: BinId }, goods: readonly { item: { id: ItemId }; qty: number; lot?: string }[]): FactBook => {
    const facts = testFloor(LYING);
    for (const [n, g] of goods.entries())
      facts.putBalance(500 + n, {
        ...{ bin: bin.id, item: g.item.id, lot: g.lot ?? null, serial: null, condition: 'sound', qty: whole(g.qty), sscc: SSCC },
        expires: g.lot ? (facts.lot(g.item.id, g.lot)?.expires ?? null) : null,
      });
    return facts;
  };
  const label = `(00)${SSCC}`;
  const two = [
    { item: jar, qty: 12 },
    { item: dated, qty: 4, lot: 'LATER' },
  ];
  const unitsPut = (r: ReturnType<typeof carry>) => r.done.flatMap((d) => (d.does.kind === 'move.unit' ? [d.does] : []));

  it('its label and the bin: no bin to take from, no quantity; what lies where follows at once, and undo brings it back', () => {
    const facts = stands(BINS.b, two);
    const r = carry([label, 'A-02-2', 'A-02-2'], 'bin', facts);
    expect(unitsPut(r)).toEqual([{ kind: 'move.unit', sscc: SSCC, from: BINS.b.id, to: BINS.empty.id, over: null }]);
    expect(r.words[0]).toContain('with 2 things, from A-01-2');
    const after = (events: readonly (string | Event)[]): FactBook => {
      const floor = stands(BINS.b, two);
      carry([...events, key('1')], 'bin', floor);
      return floor;
    };
    const moved = after([label, 'A-02-2']);
    expect(moved.unit(SSCC)?.bin).toBe(BINS.empty.id);
    expect(moved.contents(BINS.empty.id).map((c) => c.qty)).toEqual([whole(12), whole(4)]);
    expect(after([label, 'A-02-2', label, 'A-02-1']).unit(SSCC)?.bin).toBe(BINS.c.id);
    expect(after([label, 'A-02-2', { kind: 'undo' }]).unit(SSCC)?.bin).toBe(BINS.b.id);
  });
  it('is doubted like what is in it: a rule, an expired lot, what the bin is for', () => {
    const one = carry([label, 'A-03-1'], 'bin', stands(BINS.b, two));
    expect(one).toMatchObject({ at: { step: 'unitSure', doubt: { why: 'rule' } }, done: [] });
    const lead = carry([label, 'A-03-1', choose({ what: 'sure', reason: 'For today' })], 'bin', stands(BINS.b, two));
    expect(unitsPut(lead)).toMatchObject([{ over: 'For today' }]);
    const old = stands(BINS.b, [{ item: dated, qty: 1, lot: 'OLD' }]);
    expect(carry([label, 'A-02-2'], 'bin', old).at).toMatchObject({ step: 'unitSure', doubt: { why: 'expired' } });
    expect(unitsPut(carry([label, 'SCRAP', 'SCRAP'], 'bin', stands(BINS.b, two)))).toMatchObject([{ to: BINS.scrap.id, over: null }]);
    expect(carry([label, 'BENCH-1'], 'bin', stands(BINS.b, two)).said.at(-1)).toMatchObject({ said: 'moves.ordersBin' });
    expect(carry([label, 'A-01-2'], 'bin', stands(BINS.b, two)).said.at(-1)).toMatchObject({ said: 'moves.sameBin' });
  });
  it('from arrivals a bin is named for most of it; one that is elsewhere, unknown, or comes into a full hand is refused in words', () => {
    const facts = stands(BINS.arrivals, two);
    expect(carry([label], 'arrivals', facts).words[0]).toMatch(/from ARRIVALS. To A-/);
    expect(unitsPut(carry([label, 'A-02-2'], 'arrivals', facts))).toHaveLength(1);
    expect(carry([label], 'arrivals', stands(BINS.b, two)).said[0]).toMatchObject({ tone: 'wrong', said: 'moves.unitElsewhere' });
    expect(carry([label]).said[0]).toMatchObject({ tone: 'wrong', said: 'moves.unitUnknown' });
    expect(carry(['A-01-1', codeOf(jar), label], 'bin', stands(BINS.b, two)).said.at(-1)).toMatchObject({ said: 'moves.handIsFull' });
    const inHand = carry([label, codeOf(jar), key('3'), choose({ what: 'back' })], 'bin', stands(BINS.b, two));
    expect(inHand.done).toEqual([]);
    expect(inHand.at).toEqual({ step: 'from' });
  });
  it('law: what lies in a bin by the label and beside it is one sum, however it is carried', () => {
    // Pieces are taken where the records have them: what the hand has and they do not is the lead's to settle.
    const acts = fc.constantFrom<readonly (string | Event)[]>(
      [label],
      ['A-01-1'],
      ['A-02-2'],
      ['A-01-1', codeOf(jar), 'A-02-2'],
      [{ kind: 'undo' }],
      [choose({ what: 'back' })],
    );
    const sum = (facts: FactBook): number => facts.contentsOf(jar.id).reduce((s, c) => s + c.qty, 0);
    fc.assert(
      fc.property(fc.array(acts, { maxLength: 8 }), (many) => {
        const facts = stands(BINS.b, two);
        const before = sum(facts);
        carry([...many.flat(), key('1')], 'bin', facts);
        expect(sum(facts)).toBe(before);
        expect(new Set(facts.unit(SSCC)?.goods.map((g) => g.bin)).size).toBe(1);
        expect(facts.unit(SSCC)?.goods.reduce((s, g) => s + g.qty, 0)).toBe(whole(16));
      }),
      { numRuns: 300 },
    );
  });
});

describe('E6 a new lot number with a move', () => {
  it('is refused in the hand where no code can hold it and the house wants it so', () => {
    const facts = testFloor(LYING);
    facts.onlyLotsThatRead = true;
    const r = carry(['A-01-1', labelOf(dated, { lot: 'LATER' }), choose({ what: 'newLot' }), 'Größe-1'], 'bin', facts);
    expect(r).toMatchObject({ at: { step: 'newLot' }, said: { 3: { tone: 'wrong', said: 'moves.lotUnread' } } });
    expect(r.words[3]).toContain('“ö”');
  });
  const dated1 = ['A-01-1', labelOf(dated, { lot: 'LATER' })];
  const named = choose({ what: 'newLot' });
  it('is scanned or keyed while the goods are in the hand, and goes with them; what lies where follows', () => {
    const facts = testFloor(LYING);
    const r = carry([...dated1, named, 'REPACKED-7', 'A-02-1', key('1')], 'bin', facts);
    expect(r.words[2]).toContain('Which number do these DATED-4 of lot LATER get?');
    expect(r.words[3]).toContain('lot LATER is lot REPACKED-7 from now on');
    expect(r.puts).toMatchObject([{ lot: 'LATER', newLot: 'REPACKED-7', to: BINS.c.id }]);
    expect(facts.contents(BINS.c.id).filter((c) => c.item === dated.id)).toMatchObject([{ lot: 'REPACKED-7', expires: '2027-06-30' }]);
    expect(carry([...dated1, named, key('4471'), 'A-02-1']).puts).toMatchObject([{ newLot: '4471' }]);
  });
  it('its own number, goods, and a bin are no new number; whoever goes back keeps the old one; goods without lots have none', () => {
    expect(carry([...dated1, named, 'LATER'])).toMatchObject({
      at: { step: 'newLot' },
      said: { 3: { tone: 'wrong', said: 'moves.sameLot' } },
    });
    for (const wrong of ['A-02-1', codeOf(jar)])
      expect(carry([...dated1, named, wrong])).toMatchObject({ at: { step: 'newLot' }, said: { 3: { tone: 'wrong' } } });
    expect(carry([...dated1, named, choose({ what: 'back' }), 'A-02-1']).puts).toMatchObject([{ newLot: null }]);
    expect(carry(['A-01-1', codeOf(jar), named]).at.step).toBe('to');
  });
});
