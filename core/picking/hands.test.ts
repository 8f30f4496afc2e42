import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { qty, sumQty, type Qty } from '#core/base';
import type { ContentFact, FactBook, HandEvent } from '#core/floor';
import { BINS, codeOf, GOODS, labelOf, play, scanOf, testFloor } from '../floor/testing.ts';
import {
  foldRound,
  openOf,
  ownMade,
  ownTaken,
  PICK_BEGINS,
  pickDeltasOf,
  pickingSaid,
  stepPick,
  stopsOf,
  NOTHING_NAMED,
  type HandPick,
  type PickChoice,
  type RoundJob,
} from './index.ts';

const { jar, dated, serial, out } = GOODS;
const whole = (n: number): Qty => qty(n * 1000);
const pick = (
  key: string,
  item: { id: HandPick['item'] },
  bin: { id: HandPick['bin'] },
  n: number,
  more: Partial<HandPick> = {},
): HandPick => ({
  key,
  order: 'CO-5001',
  line: 1,
  slot: 1,
  bin: bin.id,
  item: item.id,
  lot: null,
  qty: whole(n),
  trouble: null,
  named: NOTHING_NAMED,
  kept: [],
  ...more,
});
const ROUND: RoundJob = {
  id: 1,
  number: 'RD-1001',
  state: 'open',
  person: null,
  cart: BINS.cart.id,
  packingBin: BINS.bench.id,
  way: [],
  legs: [],
  picks: [
    pick('p1', jar, BINS.a, 5),
    pick('p2', jar, BINS.a, 2, { order: 'CO-5002', line: 2, slot: 2 }),
    pick('p3', dated, BINS.b, 3, { lot: 'NEXT' }),
    pick('p4', serial, BINS.c, 2),
  ],
  taken: [],
  kits: [],
};
const LYING: Partial<ContentFact>[] = [
  { bin: BINS.a.id, item: jar.id, qty: 20 as Qty },
  { bin: BINS.empty.id, item: jar.id, qty: 4 as Qty },
  { bin: BINS.b.id, item: dated.id, lot: 'NEXT', qty: 3 as Qty },
  { bin: BINS.b.id, item: dated.id, lot: 'LATER', qty: 3 as Qty },
  { bin: BINS.c.id, item: serial.id, serial: 'S-1' },
  { bin: BINS.c.id, item: serial.id, serial: 'S-2' },
  { bin: BINS.c.id, item: serial.id, serial: 'S-3' },
];
type Event = HandEvent<PickChoice>;
const key = (text: string): Event => ({ kind: 'number', text });
const choose = (choice: PickChoice): Event => ({ kind: 'choose', choice });
const undo: Event = { kind: 'undo' };
function walk(texts: readonly (string | Event)[], job = ROUND, facts: FactBook = testFloor(LYING)) {
  const events = texts.map((t): Event => (typeof t === 'string' ? scanOf(facts, t) : t));
  const played = play(PICK_BEGINS, events, (at, event: Event, done: Parameters<typeof foldRound>[1], stamp) => {
    facts.setDeltas(done.flatMap((d) => [...pickDeltasOf(d.does, job, facts)]));
    return stepPick(at, event, foldRound(job, done), facts, stamp);
  });
  const after = foldRound(job, played.done);
  return {
    ...played,
    after,
    words: played.said.map(pickingSaid),
    open: (k: string) => openOf(after, after.picks.find((p) => p.key === k) as HandPick),
  };
}
const TO_LOTS = ['A-01-1', codeOf(jar), key('5'), codeOf(jar), codeOf(jar)];
const TO_SERIALS = [
  ...TO_LOTS,
  'A-01-2',
  codeOf(dated),
  choose({ what: 'lot' }),
  codeOf(dated),
  choose({ what: 'lot' }),
  codeOf(dated),
  choose({ what: 'lot' }),
];
const ALL = [...TO_SERIALS, 'A-02-1', codeOf(serial), 'S-1', 'S-2'];

describe('G3 how far it is to the next stop', () => {
  const { a, b, c } = BINS;
  const farOf = (way: readonly number[], legs: readonly (number | null)[]) =>
    stopsOf({ ...ROUND, way, legs }, testFloor([])).map((s) => [s.bin.id, s.far]);
  it('is told where the stop before it is the one before it on the way, and nowhere else', () => {
    expect(farOf([c.id, a.id, b.id], [4, 7, 0])).toEqual([
      [c.id, 4],
      [a.id, 7],
      [b.id, 0],
    ]);
    // A stop of the way where nothing is left to take, one to which the plan has no way, and no way at all.
    expect(farOf([a.id, 999, b.id, c.id], [4, 7, 9, 2])).toEqual([
      [a.id, 4],
      [b.id, null],
      [c.id, 2],
    ]);
    expect(farOf([a.id, b.id, c.id], [null, 3, null]).map(([, far]) => far)).toEqual([null, 3, null]);
    expect(farOf([], []).map(([, far]) => far)).toEqual([null, null, null]);
  });
});

describe('G3 one walk', () => {
  it('bin, goods, number; several orders at one bin; at the end the packing bin', () => {
    const w = walk([...ALL, 'SCRAP', 'BENCH-1']);
    expect(w.words.slice(0, 5)).toEqual([
      'Right bin. Take 5 JAR-1.',
      'JAR-1: 1 taken, 4 to go. Slot 1.',
      'JAR-1: all 5 taken. Into slot 1.',
      'JAR-1: 1 taken, 1 to go. Slot 2.',
      'JAR-1: all 2 taken. Into slot 2.',
    ]);
    expect(w.words.at(-3)).toContain('Round picked');
    expect(w.words.at(-2)).toContain('not at a bench');
    expect(w.done.at(-1)?.does).toEqual({ kind: 'pick.putDown', round: 1, bin: BINS.bench.id });
    expect(w.after.state).toBe('putDown');
    expect(w.after.person).toBe(7);
  });
  it('G4 the wrong bin, the wrong goods, a paper, a lot: each says what it is, and nothing is taken', () => {
    const w = walk(['A-01-2', codeOf(jar), 'A-01-1', codeOf(dated), 'PO-3001', 'Z-09-9', 'zzz', ']C1011234']);
    expect(w.words).toEqual([
      expect.stringContaining('Wrong bin: this is A-01-2'),
      expect.stringContaining('Scan the bin first: A-01-1'),
      expect.stringContaining('Right bin'),
      expect.stringContaining('Wrong item'),
      expect.stringContaining('That is a purchase order'),
      expect.stringContaining('a bin of Overflow barn'),
      expect.stringContaining('Nobody here knows'),
      expect.stringContaining('ends in the middle'),
    ]);
    expect(w.done).toEqual([]);
  });
  it('G5 no more than is wanted; a number less than was taken asks for undo', () => {
    expect(walk(['A-01-1', codeOf(jar), key('6')]).words[2]).toContain('too many');
    expect(walk(['A-01-1', codeOf(jar), codeOf(jar), key('1')]).said[3]?.tone).toBe('wrong');
    expect(walk(['A-01-1', codeOf(jar, 1)]).words[1]).toContain('too many');
    expect(walk([key('3')]).done).toEqual([]);
  });
  it('a wrong pick is undone: it goes back into its bin, and is to be taken again', () => {
    const w = walk([...TO_LOTS, undo, codeOf(jar)]);
    expect(w.words[5]).toBe('1 JAR-1 goes back into A-01-1.');
    expect(w.open('p2')).toBe(whole(0));
    expect(walk([...ALL, ...Array<Event>(9).fill(undo)]).after.taken).toEqual([]);
  });
  it('E4 where several lots lie the lot is said; another lot is wrong, a bin or a paper is none', () => {
    const at = [...TO_LOTS, 'A-01-2', codeOf(dated)];
    expect(walk(at).at.asks.what).toBe('lot');
    expect(walk([...at, 'LATER']).words.at(-1)).toContain('Wrong lot');
    expect(walk([...at, 'SOMETHING']).words.at(-1)).toContain('Wrong lot');
    expect(walk([...at, 'CO-5001']).words.at(-1)).toContain('That is an order');
    expect(walk([...at, 'NEXT']).open('p3')).toBe(whole(2));
    expect(walk([...at, codeOf(dated)]).words.at(-1)).toContain('code of DATED-4 itself');
  });
  it('C9 a serial is asked for, each is taken once, and serials of other goods are none', () => {
    const at = [...TO_SERIALS, 'A-02-1', codeOf(serial)];
    expect(walk(at).at.asks.what).toBe('serial');
    expect(walk([...at, 'S-1', 'S-1']).words.at(-1)).toContain('not on record');
    expect(walk([...at, 'A-02-2']).words.at(-1)).toContain('Wrong bin');
    const doubted = walk(['A-01-1', codeOf(out), '4006381333931', 'NEW-1'], { ...ROUND, picks: [pick('p1', out, BINS.a, 1)] });
    expect(doubted.after.taken).toMatchObject([{ serial: 'NEW-1' }]);
    const others = walk(['A-01-1', codeOf(out), 'S-1'], { ...ROUND, picks: [pick('p1', out, BINS.a, 1)] });
    expect(others.words[2]).toContain('That is a serial');
    expect(others.done).toEqual([]);
    const noted = walk(['A-01-1', codeOf(out), 'NEW-SERIAL'], { ...ROUND, picks: [pick('p1', out, BINS.a, 1)] });
    expect(noted.after.taken).toMatchObject([{ serial: 'NEW-SERIAL', qty: whole(1) }]);
  });
  it('G6 too few there: the rest comes from another bin, and what no bin has is missing', () => {
    const w = walk(['A-01-1', codeOf(jar), choose({ what: 'trouble' }), choose({ what: 'report', kind: 'short' })]);
    expect(w.words[3]).toBe('Noted. Get it from A-02-2 instead.');
    expect(w.open('p1')).toBe(whole(0));
    expect(stopsOf(w.after, testFloor(LYING)).map((s) => s.bin.address)).toEqual(['A-01-1', 'A-01-2', 'A-02-1', 'A-02-2']);
    const none = walk(['A-01-1', choose({ what: 'report', kind: 'notFound' }), choose({ what: 'report', kind: 'notFound' })]);
    expect(none.words[1]).toContain('1 is missing');
    expect(none.words[2]).toContain('2 are missing');
  });
  it('E3 what expired is not taken', () => {
    const w = walk(['A-01-1', codeOf(dated)], { ...ROUND, picks: [pick('p1', dated, BINS.a, 1, { lot: 'OLD' })] });
    expect(w.words[1]).toContain('expired on 2026-11-25');
  });
});

describe('laws of walking', () => {
  const texts = [
    'A-01-1',
    'A-01-2',
    'A-02-1',
    'A-02-2',
    'BENCH-1',
    'SCRAP',
    codeOf(jar),
    codeOf(dated),
    codeOf(serial),
    'S-1',
    'S-2',
    'S-3',
    'NEXT',
    'LATER',
    'zzz',
  ];
  const event: fc.Arbitrary<string | Event> = fc.oneof(
    { weight: 8, arbitrary: fc.constantFrom(...texts) },
    { weight: 3, arbitrary: fc.integer({ min: 0, max: 8 }).map((n) => key(String(n))) },
    { weight: 1, arbitrary: fc.constant(undo) },
    {
      weight: 2,
      arbitrary: fc
        .constantFrom<PickChoice>({ what: 'lot' }, { what: 'trouble' }, { what: 'noTrouble' }, { what: 'report', kind: 'short' })
        .map(choose),
    },
  );
  it('never more is taken than was wanted; what is wanted, taken and missing adds up; folding twice is folding once', () => {
    fc.assert(
      fc.property(fc.array(event, { maxLength: 60 }), (events) => {
        const { after, done } = walk(events);
        for (const p of after.picks) expect(openOf(after, p)).toBeGreaterThanOrEqual(0);
        const wanted = sumQty(ROUND.picks.filter((p) => p.item === jar.id).map((p) => p.qty));
        const now = sumQty(after.picks.filter((p) => p.item === jar.id).map((p) => p.qty));
        expect(now).toBeLessThanOrEqual(wanted);
        expect(foldRound(after, done)).toEqual(after);
        const serials = after.taken.flatMap((t) => (t.serial === null ? [] : [t.serial]));
        expect(new Set(serials).size).toBe(serials.length);
        if (after.state === 'open') expect(walk([...events, ...ownTaken(after, 7).map(() => undo)]).after.taken).toEqual([]);
      }),
      { numRuns: 300 },
    );
  });
});

describe('what is whose, and which pick is meant', () => {
  it('undo is of one’s own last pick, by when it was done, not by how it came', () => {
    const taken = (key: string, person: number, at: string) => ({
      key,
      pick: 'p1',
      qty: whole(1),
      lot: null,
      serial: null,
      person,
      at,
      gone: false,
    });
    const job = {
      ...ROUND,
      taken: [
        taken('late', 7, '2026-11-26T07:00:03.000Z'),
        taken('early', 7, '2026-11-26T07:00:01.000Z'),
        taken('others', 9, '2026-11-26T07:00:09.000Z'),
      ] as RoundJob['taken'],
    };
    expect(ownTaken(job, 7).map((t) => t.key)).toEqual(['late', 'early']);
    expect(walk([undo, undo, undo], job).done.map((d) => d.does)).toMatchObject([{ taken: 'late' }, { taken: 'early' }]);
    expect(walk([{ kind: 'undo', key: 'early' }], job).done.map((d) => d.does)).toMatchObject([{ taken: 'early' }]);
    const onlyOthers = walk([undo], { ...job, taken: job.taken.slice(2) });
    expect(onlyOthers.said).toMatchObject([{ said: 'picking.nothingToUndo' }]);
    expect(onlyOthers.done).toEqual([]);
  });
  it('at one bin the lower slot is filled first; of one slot the picks keep their order', () => {
    const picks = [
      pick('b', jar, BINS.a, 1, { slot: 2, order: 'CO-2' }),
      pick('c', jar, BINS.a, 1, { slot: 1, order: 'CO-1' }),
      pick('a', jar, BINS.a, 1, { slot: 2, order: 'CO-3' }),
    ];
    const w = walk(['A-01-1', codeOf(jar), codeOf(jar), codeOf(jar)], { ...ROUND, picks });
    expect(w.done.map((d) => (d.does as { pick: string }).pick)).toEqual(['c', 'a', 'b']);
  });
  it('of two lots in one bin the label says which is meant; a lot that is not to be taken is wrong', () => {
    const picks = [pick('n', dated, BINS.b, 1, { lot: 'NEXT' }), pick('l', dated, BINS.b, 1, { lot: 'LATER' })];
    const w = walk(['A-01-2', labelOf(dated, { lot: 'LATER' }), labelOf(dated, { lot: 'NEXT' })], { ...ROUND, picks });
    expect(w.done.map((d) => (d.does as { pick: string }).pick)).toEqual(['l', 'n']);
    const wrong = walk([...TO_LOTS, 'A-01-2', labelOf(dated, { lot: 'LATER' })]);
    expect(wrong.said.at(-1)).toMatchObject({ tone: 'wrong', error: { code: 'picking.wrongLot' } });
    // Asked for the lot, its goods alone are no answer; a label with the lot is.
    const asked = walk([...TO_LOTS, 'A-01-2', labelOf(dated), labelOf(dated), labelOf(dated, { lot: 'NEXT' })]);
    expect(asked.said.slice(-3)).toMatchObject([{ tone: 'look' }, { said: 'picking.itsGoods' }, { said: 'picking.taken' }]);
  });
  it('G5 a piece that carries no serial gets one on the spot, each its own; what must carry one does not', () => {
    const picks = [pick('o', out, BINS.a, 2)];
    const made = choose({ what: 'madeSerial' });
    const floor = testFloor([{ bin: BINS.a.id, item: out.id, qty: 5 as Qty }]);
    const w = walk(['A-01-1', codeOf(out), made, made], { ...ROUND, picks }, floor);
    const serials = w.done.map((d) => (d.does as { serial: string }).serial);
    expect(serials.map((s) => /^M-[0-9A-F]{10}$/.test(s))).toEqual([true, true]);
    expect(new Set(serials).size).toBe(2);
    expect(walk([...TO_SERIALS, 'A-02-1', codeOf(serial), made]).said.at(-1)?.said).toBe('picking.goOn');
  });
  it('E4 G4 another lot is taken for a reason only, so many as are keyed; the rest is of the planned one', () => {
    const other = [...TO_LOTS, 'A-01-2', labelOf(dated, { lot: 'LATER' })];
    const w = walk([...other, key('2'), choose({ what: 'otherLot', reason: 'the front is blocked' })]);
    expect(w.at.asks.what).toBe('goods');
    expect(w.done.at(-1)?.does).toMatchObject({ kind: 'pick.take', lot: 'LATER', qty: whole(2), over: 'the front is blocked' });
    // Which lot a number would mean is not guessed.
    expect(walk([...other, key('2'), choose({ what: 'otherLot', reason: 'x' }), key('3')]).said.at(-1)?.said).toBe('picking.scanFirst');
    const before = walk([...TO_LOTS, 'A-01-2']).done.length;
    expect(walk([...other, choose({ what: 'noTrouble' })]).done).toHaveLength(before);
    expect(walk([...other, key('9')]).said.at(-1)).toMatchObject({ tone: 'wrong', said: 'picking.badNumber' });
    // What has expired is not taken for any reason; what the order names is no question.
    const asked = (lot: string, named: Partial<HandPick['named']>): string => {
      const picks = [pick('n', dated, BINS.b, 3, { lot: 'NEXT', named: { ...NOTHING_NAMED, ...named } })];
      const tried = walk(['A-01-2', labelOf(dated, { lot }), choose({ what: 'otherLot', reason: 'x' })], { ...ROUND, picks });
      const last = tried.said.at(-1);
      return last?.said === 'picking.refused' ? last.error.code : (last?.said ?? '');
    };
    expect(asked('OLD', {})).toBe('picking.expired');
    expect(asked('LATER', { lot: true })).toBe('picking.goOn');
    expect(asked('LATER', { goodOn: '2027-07-01' })).toBe('picking.tooLittleLife');
    expect(asked('LATER', { goodOn: '2027-05-01' })).toBe('picking.taken');
    expect(
      walk(['A-01-2', labelOf(dated, { lot: 'NOBODY-KNOWS' })], { ...ROUND, picks: [pick('n', dated, BINS.b, 3, { lot: 'NEXT' })] }).at.asks
        .what,
    ).toBe('goods');
  });
  it('a serial that is known is taken by its scan alone; after the last one nothing is asked', () => {
    const at = [...TO_SERIALS, 'A-02-1'];
    const w = walk([...at, 'S-2', 'S-3']);
    expect(w.after.taken.slice(-2).map((t) => t.serial)).toEqual(['S-2', 'S-3']);
    expect(walk([...at, 'S-2']).at.asks.what).toBe('serial');
    expect(w.at.asks.what).toBe('goods');
    expect(walk([...at, 'S-2', key('2')]).said.at(-1)).toMatchObject({ tone: 'wrong', said: 'picking.badNumber' });
  });
  it('a number: none, the same again, and fewer than were taken do nothing; more takes the rest', () => {
    const at = ['A-01-1', codeOf(jar), codeOf(jar)];
    for (const text of ['0', 'x', '1', '1.5']) {
      const w = walk([...at, key(text)]);
      expect([w.done.length, w.said.at(-1)?.tone]).toEqual([2, 'wrong']);
    }
    expect(walk([...at, key('2')]).said.at(-1)).toMatchObject({ tone: 'right', said: 'picking.taken' });
    expect(walk([...at, key('2')]).done).toHaveLength(2);
    expect(walk([...at, key('5')]).done.at(-1)?.does).toMatchObject({ qty: whole(3) });
  });
  it('what lies in the bins while the server has not heard of it: goods, lot and date leave the bin for the cart', () => {
    const does = walk([...TO_LOTS, 'A-01-2', labelOf(dated, { lot: 'NEXT' })]).done.at(-1)?.does;
    const deltas = pickDeltasOf(does as never, ROUND, testFloor(LYING));
    expect(deltas).toMatchObject([
      { bin: BINS.b.id, lot: 'NEXT', expires: '2027-01-31', qty: whole(-1) },
      { bin: BINS.cart.id, lot: 'NEXT', expires: '2027-01-31', qty: whole(1) },
    ]);
  });
  it('G6 instead: not where trouble with the same goods was, nor what is planned away, but where others had trouble', () => {
    const report = choose({ what: 'report', kind: 'short' });
    const instead = (picks: readonly HandPick[], lying: Partial<ContentFact>[]) =>
      walk(['A-01-1', report], { ...ROUND, picks }, testFloor(lying)).done.flatMap((d) => ('instead' in d.does ? d.does.instead : []));
    const lying = [
      { bin: BINS.a.id, item: jar.id, qty: 5 as Qty },
      { bin: BINS.b.id, item: jar.id, qty: 5 as Qty },
      { bin: BINS.c.id, item: jar.id, qty: 5 as Qty },
    ];
    const mine = pick('p1', jar, BINS.a, 4);
    expect(instead([mine], lying)).toMatchObject([{ bin: BINS.b.id, qty: whole(4) }]);
    expect(instead([mine, pick('p2', jar, BINS.b, 0, { trouble: 'short' })], lying)).toMatchObject([{ bin: BINS.c.id }]);
    expect(instead([mine, pick('p2', dated, BINS.b, 0, { trouble: 'short' })], lying)).toMatchObject([{ bin: BINS.b.id }]);
    // All that lies there is for another order already.
    expect(instead([mine, pick('p2', jar, BINS.b, 5)], lying)).toMatchObject([{ bin: BINS.c.id, qty: whole(4) }]);
    const lots = instead(
      [pick('p1', dated, BINS.a, 2, { lot: 'NEXT' })],
      [
        { bin: BINS.a.id, item: dated.id, lot: 'NEXT', qty: 2 as Qty },
        { bin: BINS.b.id, item: dated.id, lot: 'LATER', qty: 9 as Qty },
        { bin: BINS.c.id, item: dated.id, lot: 'OLD', qty: 9 as Qty },
      ],
    );
    expect(lots).toEqual([{ key: expect.stringMatching(/^act-/), bin: BINS.b.id, lot: 'LATER', qty: whole(2) }]);
  });
});

describe('G11 a logistic unit at once', () => {
  const SSCC = '395200010000000110';
  const OTHER = '395200010000000127';
  const one = (sscc: string, goods: Partial<ContentFact>[]): (Partial<ContentFact> & { sscc: string })[] =>
    goods.map((g) => ({ bin: BINS.a.id, item: jar.id, sscc, ...g }));
  const round = (...picks: HandPick[]): RoundJob => ({ ...ROUND, picks });
  const of = (job: RoundJob, goods: Partial<ContentFact>[], events: (string | Event)[]) => walk(events, job, testFloor(one(SSCC, goods)));

  it('its label takes all that is in it, for each order its share; undo brings all of it back', () => {
    const job = round(pick('p1', jar, BINS.a, 5), pick('p2', jar, BINS.a, 9, { order: 'CO-5002', line: 2, slot: 2 }));
    const w = of(job, [{ qty: 12 as Qty }], ['A-01-1', SSCC]);
    expect(w.words.at(-1)).toBe('Unit …000110 is on the cart, 12 in all. Slots 1 and 2, 2 more to take here.');
    expect(w.done.map((d) => d.does)).toMatchObject([
      { kind: 'pick.take', pick: 'p1', qty: 5000, sscc: SSCC, serial: null },
      { kind: 'pick.take', pick: 'p2', qty: 7000, sscc: SSCC },
    ]);
    const back = of(job, [{ qty: 12 as Qty }], ['A-01-1', SSCC, undo]);
    expect(back.words.at(-1)).toBe('12 JAR-1 goes back into A-01-1.');
    expect([back.open('p1'), back.open('p2'), back.after.taken]).toEqual([5000, 9000, []]);
    // By its line on the screen just the one that is named.
    const [first] = w.done;
    const part = of(job, [{ qty: 12 as Qty }], ['A-01-1', SSCC]);
    const named = stepPick(part.at, { kind: 'undo', key: part.done[0]?.stamp.key ?? '' }, part.after, testFloor([]), {
      ...(first?.stamp as { key: string; at: string; person: number; more: string[] }),
      key: 'later',
    });
    expect(named.does).toMatchObject([{ kind: 'pick.undo', taken: part.done[0]?.stamp.key }]);
  });
  it('while the server has not heard of it the unit is empty, and the cart has the goods loose', () => {
    const facts = testFloor(one(SSCC, [{ qty: 5 as Qty }]));
    const w = walk(['A-01-1', SSCC], round(pick('p1', jar, BINS.a, 5)), facts);
    expect(w.words.at(-1)).toBe('Round picked. Put it down at a packing bin.');
    facts.setDeltas(w.done.flatMap((d) => [...pickDeltasOf(d.does, ROUND, facts)]));
    expect(facts.unit(SSCC)).toBeUndefined();
    expect(facts.contents(BINS.cart.id)).toMatchObject([{ item: jar.id, qty: 5000 }]);
    expect(facts.contents(BINS.a.id)).toEqual([]);
  });
  it('several things, lots and serials in it: an act for each, all of them or none', () => {
    const job = round(
      pick('p1', jar, BINS.a, 2),
      pick('p2', dated, BINS.a, 3, { lot: 'NEXT' }),
      pick('p3', serial, BINS.a, 1, { named: { ...NOTHING_NAMED, serials: ['S-9'] } }),
    );
    const goods = [
      { qty: 2 as Qty },
      { item: dated.id, lot: 'NEXT', expires: '2027-01-31', qty: 3 as Qty },
      { item: serial.id, serial: 'S-9' },
    ];
    expect(of(job, goods, ['A-01-1', SSCC]).done.map((d) => d.does)).toMatchObject([
      { pick: 'p1', qty: 2000 },
      { pick: 'p2', qty: 3000, lot: 'NEXT' },
      { pick: 'p3', qty: 1000, serial: 'S-9' },
    ]);
    const wrong = goods.map((g) => (g.serial ? { ...g, serial: 'S-8' } : g));
    const refused = of(job, wrong, ['A-01-1', SSCC]);
    expect(refused.done).toEqual([]);
    expect(refused.words.at(-1)).toContain('S-8');
  });
  it('one that is not wanted whole stays: in words, and nothing is taken', () => {
    const job = round(pick('p1', jar, BINS.a, 5));
    const saidOf = (goods: Partial<ContentFact>[], events: (string | Event)[] = ['A-01-1', SSCC]): string => {
      const w = of(job, goods, events);
      expect(w.done).toEqual([]);
      return w.words.at(-1) ?? '';
    };
    expect(saidOf([{ qty: 12 as Qty }])).toMatch(/holds 12 JAR-1, more than the 5 still to take: scan the goods/);
    expect(saidOf([{ qty: 2 as Qty }, { item: dated.id, lot: 'NEXT' }])).toMatch(/holds DATED-4 too, which nobody wants here/);
    expect(saidOf([{ qty: 5 as Qty, condition: 'damaged' } as never])).toMatch(/JAR-1 in unit .* is not sound/);
    expect(saidOf([{ qty: 5 as Qty, bin: BINS.b.id }])).toMatch(/should stand in A-01-2, not in A-01-1/);
    expect(saidOf([{ qty: 5 as Qty }], ['A-01-1', `]C100${OTHER}`])).toMatch(/Nobody knows what is in unit/);
    expect(saidOf([{ qty: 5 as Qty }], [SSCC])).toMatch(/Scan the bin first: A-01-1/);
    // Goods whose serial is asked for when they leave are opened all the same.
    const leaves = of(round(pick('p1', out, BINS.a, 5)), [{ item: out.id, qty: 5 as Qty }], ['A-01-1', SSCC]);
    expect([leaves.done, leaves.words.at(-1)]).toEqual([[], 'OUT-6 leaves by serial. Scan the serial of each one.']);
  });
});

describe('G4 another bin than planned', () => {
  it('where the goods lie too is said, and taken there when it is scanned twice or chosen; the rest stays where it was planned', () => {
    const w = walk(['A-02-2', 'A-02-2', codeOf(jar), key('4')]);
    expect(w.words).toEqual([
      'A-02-2 is not A-01-1, but 4 JAR-1 lie here too. Take it here?',
      'Right bin. Take 4 JAR-1.',
      'JAR-1: 1 taken, 3 to go. Slot 1.',
      'JAR-1: all 4 taken. Into slot 1.',
    ]);
    expect(w.done[0]?.does).toMatchObject({ kind: 'pick.elsewhere', pick: 'p1', instead: { bin: BINS.empty.id, lot: null, qty: 4000 } });
    expect([w.open('p1'), w.at.bin]).toEqual([1000, BINS.empty.id]);
    // Then the walk goes on where it was.
    expect(stopsOf(w.after, testFloor(LYING)).find((s) => s.open.length > 0)?.bin.id).toBe(BINS.a.id);
    const chosen = walk(['A-02-2', choose({ what: 'otherBin', reason: 'Nearer to the van' })]);
    expect(chosen.done[0]?.does).toMatchObject({ kind: 'pick.elsewhere', reason: 'Nearer to the van' });
    expect(walk(['A-02-2', choose({ what: 'noTrouble' }), 'A-01-1']).words.at(-1)).toBe('Right bin. Take 5 JAR-1.');
  });
  it('not where another lot lies, what is not sound or may not be picked, at another stop of the round, or what names its bin', () => {
    const wrong = (bin: string, lying: Partial<ContentFact>[], job = ROUND): void => {
      const w = walk([bin, bin], job, testFloor([...LYING.filter((l) => l.bin !== BINS.empty.id), ...lying]));
      expect(w.words).toEqual(
        [`Wrong bin: ${bin}. Go to A-01-1.`, `Wrong bin: ${bin}. Go to A-01-1.`].map(() => expect.stringContaining(bin)),
      );
      expect(w.said.map((s) => s.said)).toEqual(['picking.refused', 'picking.refused']);
      expect(w.done).toEqual([]);
    };
    wrong('A-02-2', []);
    wrong('A-02-2', [{ bin: BINS.empty.id, item: jar.id, qty: 9 as Qty, condition: 'damaged' } as never]);
    wrong('A-01-2', [{ bin: BINS.b.id, item: jar.id, qty: 9 as Qty }]);
    wrong('ARRIVALS', [{ bin: BINS.arrivals.id, item: jar.id, qty: 9 as Qty }]);
    const named = { ...NOTHING_NAMED, bin: true };
    wrong('A-02-2', [{ bin: BINS.empty.id, item: jar.id, qty: 9 as Qty }], {
      ...ROUND,
      picks: ROUND.picks.map((p) => ({ ...p, named })),
    });
    const lots = { ...ROUND, picks: [pick('p1', dated, BINS.a, 3, { lot: 'NEXT' })] };
    wrong('A-02-2', [{ bin: BINS.empty.id, item: dated.id, lot: 'LATER', expires: '2027-06-30', qty: 9 as Qty }], lots);
  });
  it('folding it twice is folding it once, and what is wanted in all stays the same', () => {
    const w = walk(['A-02-2', 'A-02-2']);
    const twice = foldRound(w.after, w.done);
    expect(twice).toEqual(w.after);
    expect(sumQty(w.after.picks.map((p) => p.qty))).toBe(sumQty(ROUND.picks.map((p) => p.qty)));
  });
});

describe('G9 kits at the end of a walk', () => {
  const KIT: RoundJob['kits'][number] = {
    ...{ order: 9, number: 'CO-5009', item: out.id, qty: whole(3), made: whole(0), for: { number: 'CO-5001', slot: 4 }, acts: [] },
    parts: [
      { line: 1, item: jar.id, qty: whole(6) },
      { line: 2, item: dated.id, qty: whole(3) },
    ],
  };
  const kitRound = (jars: number, more: Partial<RoundJob['kits'][number]> = {}): RoundJob => ({
    ...ROUND,
    picks: [pick('p1', jar, BINS.a, jars), pick('p2', dated, BINS.b, 3, { line: 2, lot: 'NEXT' })],
    kits: [{ ...KIT, ...more }],
  });
  const fetchAll = (jars: number): (string | Event)[] => [
    ...['A-01-1', codeOf(jar), key(String(jars))],
    ...['A-01-2', codeOf(dated), choose({ what: 'lot' }), codeOf(dated), choose({ what: 'lot' }), codeOf(dated), choose({ what: 'lot' })],
  ];
  const last = (job: RoundJob, events: (string | Event)[]) => {
    const w = walk(events, job);
    return { ...w, says: w.words.at(-1), did: w.done.at(-1)?.does };
  };

  it('are made by a number, by the button, or one by one by their code; never more than the parts are for', () => {
    const w = last(kitRound(6), [...fetchAll(6), key('2')]);
    expect(w.says).toBe('2 OUT-6 for CO-5001: into slot 4. 1 still to make.');
    expect(w.did).toEqual({ kind: 'pick.assemble', round: 1, order: 9, qty: 2000, to: null });
    expect(w.after.kits[0]?.made).toBe(2000);
    expect(ownTaken(w.after, 7)).toEqual([]);
    expect(last(kitRound(6), [...fetchAll(6), choose({ what: 'kitsMade' })]).says).toBe('3 OUT-6 for CO-5001: into slot 4.');
    expect(last(kitRound(6), [...fetchAll(6), codeOf(out)]).says).toBe('1 OUT-6 for CO-5001: into slot 4. 2 still to make.');
    expect(last(kitRound(6), [...fetchAll(6), key('4')]).says).toBe('3 OUT-6 are still to be made of CO-5009, not more.');
    expect(last(kitRound(5), [...fetchAll(5), key('3')]).says).toBe('That takes 6 JAR-1, and 5 are in hand for OUT-6.');
    expect(last(kitRound(5), [...fetchAll(5), choose({ what: 'kitsMade' })]).says).toBe(
      '2 OUT-6 for CO-5001: into slot 4. 1 still to make.',
    );
    expect(last(kitRound(6), [...fetchAll(6), codeOf(jar)]).says).toMatch(/Make the kits, and key how many/);
    for (const wrong of ['0', '1.5', 'x']) expect(last(kitRound(6), [...fetchAll(6), key(wrong)]).says).toMatch(/is no number of OUT-6/);
  });
  it('are asked for when everything is picked, and not before; the packing bin twice puts the parts down as they are', () => {
    expect(last(kitRound(6), ['A-01-1', codeOf(jar), key('2')]).did).toMatchObject({ kind: 'pick.take' });
    const once = last(kitRound(6), [...fetchAll(6), 'BENCH-1']);
    expect(once.says).toBe('3 OUT-6 can still be made of what is on the cart. Scan BENCH-1 again to put the parts down.');
    expect(last(kitRound(6), [...fetchAll(6), 'BENCH-1', 'BENCH-1']).did).toEqual({ kind: 'pick.putDown', round: 1, bin: BINS.bench.id });
    expect(last(kitRound(6), [...fetchAll(6), choose({ what: 'kitsMade' }), 'BENCH-1']).did).toMatchObject({ kind: 'pick.putDown' });
    // Of too few parts nothing can be made, and nothing is asked.
    expect(last(kitRound(1), [...['A-01-1', codeOf(jar)], ...fetchAll(1).slice(3), 'BENCH-1']).did).toMatchObject({ kind: 'pick.putDown' });
  });
  it('undo takes apart what was made last, before it puts anything back; by its line on the screen just that', () => {
    const job = kitRound(6);
    const w = last(job, [...fetchAll(6), key('2'), undo]);
    expect(w.says).toBe('2 OUT-6 not made after all: what goes into them is on the cart.');
    expect(w.did).toEqual({ kind: 'pick.undo', round: 1, taken: w.done.at(-2)?.stamp.key });
    expect([w.after.kits[0]?.made, w.after.taken.some((t) => t.gone)]).toEqual([0, false]);
    expect(foldRound(w.after, w.done)).toEqual(w.after);
    // Then what was taken last, as ever.
    expect(last(job, [...fetchAll(6), key('2'), undo, undo]).says).toBe('1 DATED-4 goes back into A-01-2.');
    const two = last(job, [...fetchAll(6), key('1'), key('2')]);
    expect(ownMade(two.after, 7).map((m) => m.qty)).toEqual([2000, 1000]);
    const named = last(job, [...fetchAll(6), key('1'), key('2')]);
    const first = named.done.find((d) => d.does.kind === 'pick.assemble')?.stamp.key ?? '';
    const step = stepPick(named.at, { kind: 'undo', key: first }, named.after, testFloor(LYING), { key: 'k', at: '', person: 7, more: [] });
    expect(step.does).toEqual([{ kind: 'pick.undo', round: 1, taken: first }]);
    // A colleague's are theirs.
    expect(ownMade(two.after, 9)).toEqual([]);
  });
  it('for stock go into a bin that is scanned, neither a cart nor a bench', () => {
    const job = kitRound(6, { for: null });
    expect(last(job, [...fetchAll(6), key('3')]).says).toBe('3 OUT-6 for stock. Scan the bin into which they go.');
    expect(last(job, [...fetchAll(6), key('3'), 'CART-1']).says).toMatch(/Scan the bin into which the kits go/);
    const w = last(job, [...fetchAll(6), key('3'), 'A-02-2']);
    expect([w.says, w.did]).toEqual(['3 OUT-6 into A-02-2.', { kind: 'pick.assemble', round: 1, order: 9, qty: 3000, to: BINS.empty.id }]);
  });
  it('what went into a bin lies there at once, where it gets no label that only the server gives', () => {
    const job = kitRound(6, { for: null, item: jar.id });
    const does = { kind: 'pick.assemble', round: 1, order: 9, qty: whole(3), to: BINS.empty.id } as const;
    expect(pickDeltasOf(does, job, testFloor([]))).toMatchObject([{ bin: BINS.empty.id, item: jar.id, qty: 3000 }]);
    expect(pickDeltasOf({ ...does, to: null }, job, testFloor([]))).toEqual([]);
    expect(pickDeltasOf(does, kitRound(6, { item: dated.id }), testFloor([]))).toEqual([]);
  });
  it('folding it twice is folding it once, with what the server has counted in as well', () => {
    const w = last(kitRound(6), [...fetchAll(6), key('2')]);
    expect(foldRound(w.after, w.done)).toEqual(w.after);
  });
  it('a law: whatever is keyed, what is made is covered by what was taken, and at most what is wanted', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 8 }), fc.array(fc.integer({ min: 1, max: 4 }), { maxLength: 6 }), (jars, numbers) => {
        const take = jars === 1 ? ['A-01-1', codeOf(jar), ...fetchAll(1).slice(3)] : fetchAll(jars);
        const w = walk([...take, ...numbers.map((n) => key(String(n)))], kitRound(jars));
        const made = w.after.kits[0]?.made ?? 0;
        expect(made).toBe(sumQty(w.done.flatMap((d) => (d.does.kind === 'pick.assemble' ? [d.does.qty] : []))));
        expect(made).toBeLessThanOrEqual(3000);
        expect((made / 1000) * 2).toBeLessThanOrEqual(jars);
      }),
      { numRuns: 200 },
    );
  });
});

describe('digits that are keyed while something is asked', () => {
  it('are the lot or the serial that is asked for; closed by the next scan they say how many of that lot', () => {
    const facts = testFloor([
      { bin: BINS.b.id, item: dated.id, lot: '4471', qty: 3 as Qty },
      { bin: BINS.b.id, item: dated.id, lot: '4472', qty: 3 as Qty },
      { bin: BINS.c.id, item: serial.id, serial: '12' },
      { bin: BINS.c.id, item: serial.id, serial: '13' },
    ]);
    const job: RoundJob = { ...ROUND, picks: [pick('p3', dated, BINS.b, 3, { lot: '4471' }), pick('p4', serial, BINS.c, 2)] };
    const events: HandEvent<PickChoice>[] = [
      scanOf(facts, 'A-01-2'),
      scanOf(facts, codeOf(dated)),
      { kind: 'number', text: '2', closedBy: 'scan' },
      { kind: 'number', text: '4471' },
      scanOf(facts, codeOf(dated)),
      { kind: 'number', text: '4471' },
      scanOf(facts, 'A-02-1'),
      scanOf(facts, codeOf(serial)),
      { kind: 'number', text: '12' },
      { kind: 'number', text: '13' },
    ];
    const played = play(PICK_BEGINS, events, (at, event, done: Parameters<typeof foldRound>[1], stamp) =>
      stepPick(at, event, foldRound(job, done), facts, stamp),
    );
    expect(foldRound(job, played.done).taken.map((t) => [t.qty, t.serial])).toEqual([
      [2000, null],
      [1000, null],
      [1000, '12'],
      [1000, '13'],
    ]);
    const many = stepPick(played.at, { kind: 'number', text: '9' }, foldRound(job, played.done), facts, {
      key: 'k',
      at: '',
      person: 1,
      more: [],
    });
    expect(many.does).toEqual([]);
  });
});
