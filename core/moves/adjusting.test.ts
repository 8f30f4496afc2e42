import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { qty, sumQty, type Qty } from '#core/base';
import type { ContentFact, FactBook, HandEvent } from '#core/floor';
import { BINS, codeOf, GOODS, labelOf, play, scanOf, testFloor } from '../floor/testing.ts';
import {
  ADJUST_BEGINS,
  adjustDeltasOf,
  adjustSaid,
  NO_NOTE,
  ownAdjustments,
  stepAdjust,
  type AdjustChoice,
  type AdjustDoes,
  type AdjustNote,
} from './index.ts';

const { jar, rope, lot, dated, serial } = GOODS;
const whole = (n: number): Qty => qty(n * 1000);
type Event = HandEvent<AdjustChoice>;
const key = (text: string): Event => ({ kind: 'number', text });
const choose = (choice: AdjustChoice): Event => ({ kind: 'choose', choice });
const undo: Event = { kind: 'undo' };
const [minus, plus] = [choose({ what: 'way', way: 'minus' }), choose({ what: 'way', way: 'plus' })];
const why = (reason = 'broken'): Event => choose({ what: 'reason', reason });
const floor = (): FactBook =>
  testFloor([
    { bin: BINS.a.id, item: jar.id, qty: 10 as Qty },
    { bin: BINS.a.id, item: dated.id, lot: 'NEXT', qty: 4 as Qty },
    { bin: BINS.a.id, item: dated.id, lot: 'LATER', qty: 2 as Qty },
    { bin: BINS.b.id, item: dated.id, lot: 'LATER', qty: 3 as Qty },
    { bin: BINS.b.id, item: serial.id, serial: 'S-1' },
  ]);
function adjust(texts: readonly (string | Event)[], facts = floor()) {
  const live = (e: Event): Event => (e.kind === 'number' && e.text.startsWith('scan ') ? scanOf(facts, e.text.slice(5)) : e);
  const events = texts.map((t): Event => (typeof t === 'string' ? key(`scan ${t}`) : t));
  const played = play(ADJUST_BEGINS, events, (at, event: Event, done: Parameters<typeof ownAdjustments>[0], stamp) => {
    void stamp;
    const own = ownAdjustments(done, 7);
    facts.setDeltas(own.flatMap((a) => [...adjustDeltasOf(a.does, facts)]));
    return stepAdjust(at, live(event), { facts, own });
  });
  const said = played.done.flatMap((d) => (d.does.kind === 'adjust.say' ? [d.does] : []));
  return { ...played, facts, told: said as AdjustDoes[], words: played.said.map(adjustSaid) };
}

describe('K1 more or fewer than the records have', () => {
  it('of a new lot that no code can hold, nothing is said in a house that wants it so', () => {
    const facts = floor();
    facts.onlyLotsThatRead = true;
    const r = adjust(['A-01-2', codeOf(lot), 'L'.repeat(21)], facts);
    expect(r.at).toMatchObject({ step: 'lot' });
    expect(r.words[2]).toContain('has 21 characters, and a code takes 20');
    expect(adjust(['A-01-2', codeOf(lot), 'L'.repeat(20), plus], facts).at).not.toMatchObject({ step: 'lot' });
  });
  it('a bin, the goods, how many, which way and why; the same goods again are one more, a number is how many', () => {
    const r = adjust(['A-01-1', codeOf(jar), codeOf(jar), minus, why()]);
    expect(r.told).toMatchObject([{ bin: BINS.a.id, item: jar.id, way: 'minus', qty: whole(2), reason: 'broken' }]);
    expect(r.words).toEqual([
      'A-01-1. Scan what is not as it should be.',
      '1 JAR-1; the records have 10 here. More, or fewer?',
      '2 JAR-1; the records have 10 here. More, or fewer?',
      '2 fewer JAR-1: why?',
      '2 fewer JAR-1 in A-01-1.',
    ]);
    expect(adjust(['A-01-1', codeOf(jar), plus, key('7'), why('found')]).told).toMatchObject([
      { way: 'plus', qty: whole(7), reason: 'found' },
    ]);
    expect(adjust(['A-01-1', codeOf(rope), plus, key('2,5'), why('found')]).told).toMatchObject([{ qty: qty(2500) }]);
    expect(adjust(['A-01-1', codeOf(jar), minus, key('2,5')]).said.at(-1)?.tone).toBe('wrong');
  });
  it('nothing is done before it is said which way, and why', () => {
    expect(adjust(['A-01-1', codeOf(jar), why()])).toMatchObject({ told: [], said: { 2: { said: 'adjusting.wayFirst' } } });
    expect(adjust(['A-01-1', codeOf(jar), minus, why('   ')]).told).toEqual([]);
    expect(adjust(['A-01-1', codeOf(jar), minus, choose({ what: 'back' }), why()]).told).toEqual([]);
    expect(adjust([codeOf(jar)])).toMatchObject({ told: [], said: { 0: { tone: 'wrong' } } });
  });
  it('what the records have less of cannot be taken away; what lies at benches is said elsewhere', () => {
    expect(adjust(['A-01-1', codeOf(jar), key('11'), minus, why()]).words.at(-1)).toBe(
      'The records have 10 JAR-1 in A-01-1: 11 cannot be taken away.',
    );
    expect(adjust(['A-01-2', codeOf(jar), minus, why()]).told).toEqual([]);
    expect(adjust(['BENCH-1']).said[0]).toMatchObject({ tone: 'wrong', said: 'adjusting.handsBin' });
    const twice = adjust(['A-01-1', codeOf(jar), key('6'), minus, why(), codeOf(jar), key('6'), minus, why()]);
    expect(twice.told).toHaveLength(1);
  });
  it('a lot is asked for where several lie there; one that nobody knows is added with its date, and never taken away', () => {
    expect(adjust(['A-01-1', codeOf(dated), 'NEXT', minus, why()]).told).toMatchObject([{ lot: 'NEXT', qty: whole(1) }]);
    expect(adjust(['A-01-2', codeOf(dated), minus, why()]).told).toMatchObject([{ lot: 'LATER' }]);
    expect(adjust(['A-01-1', labelOf(dated, { lot: 'LATER' }), minus, why()]).told).toMatchObject([{ lot: 'LATER' }]);
    const made = adjust(['A-02-1', codeOf(dated), 'FRESH', plus, key('3'), why('found'), choose({ what: 'date', date: '2028-01-31' })]);
    expect(made.told).toMatchObject([{ lot: 'FRESH', expires: '2028-01-31', qty: whole(3), way: 'plus' }]);
    expect(made.words.at(-2)).toBe('Nobody knows lot FRESH of DATED-4. When does it expire?');
    expect(adjust(['A-02-1', codeOf(dated), 'FRESH', minus, why()]).told).toEqual([]);
    expect(adjust(['A-02-1', codeOf(lot), key('4471'), plus, why('found')]).told).toMatchObject([{ lot: '4471' }]);
  });
  it('a serial is one piece; one that is here is not added, one that is not here is not taken away', () => {
    expect(adjust(['A-01-2', 'S-1', minus, why()]).told).toMatchObject([{ serial: 'S-1', qty: whole(1) }]);
    expect(adjust(['A-01-1', codeOf(serial), 'S-9', plus, why('found')]).told).toMatchObject([{ serial: 'S-9' }]);
    expect(adjust(['A-01-1', codeOf(serial), 'S-1', plus, why('found')]).said.at(-1)).toMatchObject({
      tone: 'wrong',
      said: 'adjusting.refused',
    });
    expect(adjust(['A-01-1', codeOf(serial), 'S-1', minus, why()]).told).toEqual([]);
    expect(adjust(['A-01-2', 'S-1', key('2')]).said.at(-1)?.tone).toBe('wrong');
  });
  it('a reference, a job, the day of the books and the cost of one are told with it, as the desk takes them', () => {
    const because = (note: Partial<AdjustNote>, reason = 'used up'): Event =>
      choose({ what: 'reason', reason, note: { ...NO_NOTE, ...note } });
    expect(adjust(['A-01-1', codeOf(jar), minus, because({ reference: ' RF-9 ', job: 'Shed 4', day: '2026-03-03' })]).told).toMatchObject([
      { reference: 'RF-9', job: 'Shed 4', day: '2026-03-03', cost: null },
    ]);
    expect(adjust(['A-01-1', codeOf(jar), plus, because({ cost: '1,50' })]).told).toMatchObject([{ cost: '1.50', job: '', day: null }]);
    const wrong = (way: Event, note: Partial<AdjustNote>) => adjust(['A-01-1', codeOf(jar), way, because(note)]);
    expect(wrong(plus, { cost: 'cheap' })).toMatchObject({ told: [], words: { 3: '“cheap” is no amount such as 12.50.' } });
    expect(wrong(minus, { cost: '1' }).words.at(-1)).toMatch(/A cost is said of what is added only/);
    expect(wrong(minus, { day: '2099-01-01' })).toMatchObject({ told: [], said: { 3: { said: 'adjusting.refused' } } });
    const dated = adjust([
      'A-02-1',
      codeOf(GOODS.dated),
      'FRESH',
      plus,
      because({ job: 'Shed 4' }),
      choose({ what: 'date', date: '2028-01-31' }),
    ]);
    expect(dated.told).toMatchObject([{ lot: 'FRESH', job: 'Shed 4' }]);
  });
  it('what failed is taken where nothing of it is sound, or where it is pressed; what is held stays; what is added is sound', () => {
    const lying = (condition: ContentFact['condition']) => ({ bin: BINS.b.id, item: jar.id, qty: 3 as Qty, condition });
    const at = (...there: ReturnType<typeof lying>[]): FactBook => testFloor(there);
    const press = (facts: FactBook, n: number): Event => choose({ what: 'goods', content: facts.contents(BINS.b.id)[n] as ContentFact });
    expect(adjust(['A-01-2', codeOf(jar), minus, why()], at(lying('failed'))).told).toMatchObject([{ condition: 'failed', qty: whole(1) }]);
    const both = at(lying('sound'), lying('failed'));
    const failed = both.contents(BINS.b.id).findIndex((c) => c.condition === 'failed');
    expect(adjust(['A-01-2', codeOf(jar), minus, why()], both).told).toMatchObject([{ condition: 'sound' }]);
    const pressed = adjust(['A-01-2', press(both, failed), key('3'), minus, why(), 'A-01-2'], both);
    expect(pressed.told).toMatchObject([{ condition: 'failed', qty: whole(3) }]);
    expect(pressed.facts.contents(BINS.b.id).map((c) => [c.condition, c.qty])).toEqual([['sound', whole(3)]]);
    expect(adjust(['A-01-2', codeOf(jar), plus, why('found')], at(lying('failed'))).told).toMatchObject([{ condition: 'sound' }]);
    const held = at(lying('held'));
    const refused = adjust(['A-01-2', press(held, 0), minus, why()], held);
    expect(refused).toMatchObject({ told: [], words: { 1: 'Those JAR-1 are held: somebody has to let them go first.' } });
    expect(adjust(['A-01-2', codeOf(jar), minus, why()], held).told).toEqual([]);
  });
  it('is taken back by its hand, the last one first', () => {
    const r = adjust(['A-01-1', codeOf(jar), minus, why(), undo, undo]);
    expect(r.done.map((d) => d.does.kind)).toEqual(['adjust.say', 'move.undo']);
    expect(r.words.at(-1)).toBe('Nothing of yours to take back here.');
  });
  it('law: whatever is said and taken back, the bins hold what was there and what was said, and never less than nothing', () => {
    const event = fc.constantFrom<string | Event>(
      'A-01-1',
      'A-01-2',
      codeOf(jar),
      key('3'),
      minus,
      plus,
      why(),
      undo,
      choose({ what: 'back' }),
    );
    fc.assert(
      fc.property(fc.array(event, { maxLength: 16 }), (events) => {
        const r = adjust([...events, key('1')]);
        const standing = ownAdjustments(r.done as Parameters<typeof ownAdjustments>[0], 7);
        const net = standing.reduce((s, a) => s + (a.does.way === 'plus' ? a.does.qty : -a.does.qty), 0);
        const lying = r.facts.contentsOf(jar.id);
        expect(lying.every((c) => c.qty > 0)).toBe(true);
        if (standing.every((a) => a.does.way === 'plus')) expect(sumQty(lying.map((c) => c.qty))).toBe(whole(10) + net);
      }),
      { numRuns: 200 },
    );
  });
});
