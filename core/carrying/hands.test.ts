import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { qty, type Qty } from '#core/base';
import type { ContentFact, FactBook, HandEvent } from '#core/floor';
import { BINS, codeOf, GOODS, play, scanOf, testFloor } from '../floor/testing.ts';
import {
  CARRY_BEGINS,
  carryDeltasOf,
  carrySaid,
  foldCarry,
  isCarried,
  putOf,
  stepCarry,
  takenOf,
  toPut,
  toTake,
  type CarryAt,
  type CarryChoice,
  type CarryDoes,
  type CarryJob,
  type CarrySaid,
  type CarryTask,
} from './index.ts';

const { jar, dated, serial } = GOODS;
const whole = (n: number): Qty => qty(n * 1000);
type Event = HandEvent<CarryChoice>;
const key = (text: string): Event => ({ kind: 'number', text });
const choose = (choice: CarryChoice): Event => ({ kind: 'choose', choice });
const undo: Event = { kind: 'undo' };
const task = (name: string, more: Partial<CarryTask>): CarryTask => ({
  key: name,
  item: jar.id,
  from: BINS.a.id,
  lot: null,
  serial: null,
  sscc: null,
  condition: 'sound',
  qty: whole(1),
  to: BINS.c.id,
  why: 'home',
  trouble: null,
  ...more,
});
const LYING: Partial<ContentFact>[] = [
  { bin: BINS.a.id, item: jar.id, qty: 30 as Qty },
  { bin: BINS.b.id, item: dated.id, lot: 'LATER', qty: 4 as Qty },
  { bin: BINS.b.id, item: dated.id, lot: 'NEXT', qty: 6 as Qty },
  { bin: BINS.a.id, item: serial.id, serial: 'S-1' },
  { bin: BINS.a.id, item: serial.id, serial: 'S-2' },
  { bin: BINS.arrivals.id, item: jar.id, qty: 8 as Qty },
  { bin: BINS.arrivals.id, item: dated.id, lot: 'NEXT', qty: 5 as Qty },
  { bin: BINS.oneItem.id, item: dated.id, lot: 'LATER', qty: 1 as Qty },
];
const legs = (...bins: { id: number }[]) => bins.map((b) => ({ bin: b.id, far: 5 }));
const REFILL: CarryJob = {
  id: 1,
  number: 'CR-1',
  kind: 'refill',
  state: 'open',
  person: null,
  cart: BINS.cart.id,
  takeWay: legs(BINS.b, BINS.a),
  putWay: legs(BINS.c, BINS.empty),
  tasks: [
    task('jars', { qty: whole(24) }),
    task('gel', { item: dated.id, from: BINS.b.id, lot: 'NEXT', qty: whole(3), to: BINS.empty.id }),
    task('scale', { item: serial.id, qty: whole(2), to: BINS.empty.id }),
  ],
  carried: [],
};
const PUT_AWAY: CarryJob = {
  ...REFILL,
  id: 2,
  number: 'CR-2',
  kind: 'putAway',
  cart: null,
  takeWay: [],
  putWay: legs(BINS.c, BINS.b),
  tasks: [
    task('jars', { from: BINS.arrivals.id, qty: whole(8) }),
    task('gel', { item: dated.id, from: BINS.arrivals.id, lot: 'NEXT', qty: whole(5), to: BINS.b.id, why: 'sameLot' }),
  ],
};
function walk(job: CarryJob, texts: readonly (string | Event)[], facts: FactBook = testFloor(LYING)) {
  const events = texts.map((t): Event => (typeof t === 'string' ? { kind: 'number', text: `scan ${t}` } : t));
  const live = (e: Event): Event => (e.kind === 'number' && e.text.startsWith('scan ') ? scanOf(facts, e.text.slice(5)) : e);
  const played = play<CarryAt, CarryChoice, CarrySaid, CarryDoes>(CARRY_BEGINS, events, (at, event, done, stamp) => {
    const undone = new Set(done.map((d) => (d.does.kind === 'carry.undo' ? d.does.act : '')));
    facts.setDeltas(done.flatMap((d) => (undone.has(d.stamp.key) ? [] : [...carryDeltasOf(d.does, job, facts, () => [])])));
    return stepCarry(at, live(event), foldCarry(job, done), facts, stamp);
  });
  return { ...played, words: played.said.map(carrySaid), job: foldCarry(job, played.done), acts: played.done.map((d) => d.does) };
}
const { c, empty, a, b } = BINS;

describe('I2 a put-away round', () => {
  it('a stop is bin and item, and a number if more than one', () => {
    const w = walk(PUT_AWAY, [c.address, codeOf(jar), key('8'), b.address, codeOf(dated), key('5')]);
    expect(w.acts).toMatchObject([
      { kind: 'carry.put', task: 'jars', qty: whole(1), to: c.id },
      { task: 'jars', qty: whole(7) },
      { task: 'gel', qty: whole(1), to: b.id },
      { task: 'gel', qty: whole(4) },
    ]);
    expect(w.job.state).toBe('done');
    expect(w.words.at(-1)).toBe('Everything has its place. The round is done.');
  });
  it('goods that belong elsewhere are refused where they do not belong; any open stop may be next', () => {
    const w = walk(PUT_AWAY, [b.address, codeOf(jar), codeOf(dated)]);
    expect(w.words[1]).toBe('JAR-1 goes to A-02-1, and this is A-01-2. To leave it here, scan A-01-2 twice first.');
    expect(w.acts).toMatchObject([{ task: 'gel', to: b.id }]);
  });
  it('“I put it somewhere else” is the other bin twice; a bin for orders is never one', () => {
    const w = walk(PUT_AWAY, [empty.address, empty.address, codeOf(jar), key('3'), c.address, codeOf(jar), key('8')]);
    expect(w.said.map((s) => s.tone)).toEqual(['look', 'right', 'right', 'right', 'right', 'right', 'right']);
    expect(w.acts).toMatchObject([{ to: empty.id }, { to: empty.id, qty: whole(2) }, { to: c.id }, { to: c.id, qty: whole(4) }]);
    expect(walk(PUT_AWAY, [BINS.bench.address, BINS.bench.address, codeOf(jar)]).acts).toEqual([]);
  });
  it('A5 what a rule speaks against is asked about, and lies there all the same when it does', () => {
    const w = walk(PUT_AWAY, [BINS.oneItem.address, BINS.oneItem.address, codeOf(jar), BINS.oneItem.address]);
    expect(w.said[2]?.tone).toBe('wrong');
    expect(w.acts).toMatchObject([{ to: BINS.oneItem.id, over: 'It lies there' }]);
    expect(walk(PUT_AWAY, [BINS.oneItem.address, BINS.oneItem.address, codeOf(jar), c.address, codeOf(jar)]).acts).toMatchObject([
      { to: c.id, over: null },
    ]);
  });
  it('too many, the wrong goods and a wrong lot are a stop, in words', () => {
    expect(walk(PUT_AWAY, [c.address, codeOf(jar, 1)]).words[1]).toBe('12 JAR-1 are too many: 8 are still to be put away.');
    expect(walk(PUT_AWAY, [c.address, codeOf(GOODS.rope)]).said[1]?.tone).toBe('wrong');
    expect(walk(PUT_AWAY, [codeOf(jar)]).words[0]).toContain('Scan the bin first: A-02-1.');
  });
  it('what is not there ends its line at what was put, and the round with the last', () => {
    const report: Event[] = [choose({ what: 'trouble' }), choose({ what: 'report', kind: 'short' })];
    const w = walk(PUT_AWAY, [c.address, codeOf(jar), key('6'), ...report, b.address, codeOf(dated), key('5')]);
    expect(w.job.state).toBe('done');
    expect(w.job.tasks[0]).toMatchObject({ qty: whole(6), trouble: 'short' });
  });
});

describe('I5 a refill round', () => {
  const takeAll = [b.address, codeOf(dated), 'NEXT', key('3'), a.address, codeOf(jar, 1), key('24'), 'S-1', 'S-2'];
  it('everything is taken first, then put; serials are scanned both times', () => {
    const w = walk(REFILL, [...takeAll, c.address, codeOf(jar, 1), key('24'), empty.address, codeOf(dated), key('3'), 'S-2', 'S-1']);
    expect(w.words.filter((_, n) => w.said[n]?.tone === 'wrong')).toEqual([]);
    expect(w.job.state).toBe('done');
    expect(w.acts.filter((x) => x.kind === 'carry.put' && x.task === 'scale')).toMatchObject([{ serial: 'S-2' }, { serial: 'S-1' }]);
  });
  it('where several lots lie the lot is asked, and only the planned one is taken', () => {
    const w = walk(REFILL, [b.address, codeOf(dated), 'LATER', 'NEXT']);
    expect(w.said.map((s) => s.tone)).toEqual(['right', 'look', 'wrong', 'right']);
    expect(w.acts).toMatchObject([{ task: 'gel', qty: whole(1) }]);
  });
  it('nothing is put before it is taken, but for a cart that is full', () => {
    expect(walk(REFILL, [c.address]).words[0]).toBe('Wrong bin: this is A-02-1, next is A-01-2.');
    expect(walk(REFILL, [choose({ what: 'lay' })]).words[0]).toBe('Go on.');
    const w = walk(REFILL, [a.address, codeOf(jar, 1), choose({ what: 'lay' }), c.address, codeOf(jar, 1), a.address, codeOf(jar)]);
    expect(w.acts).toMatchObject([{ kind: 'carry.take' }, { kind: 'carry.put', qty: whole(12) }, { kind: 'carry.take', qty: whole(1) }]);
  });
  it('undo takes back the newest of one’s own; what was put is first taken out again', () => {
    const w = walk(REFILL, [a.address, codeOf(jar), key('5'), undo]);
    expect(takenOf(w.job, w.job.tasks[0] as CarryTask)).toBe(whole(1));
    const put = walk(REFILL, [...takeAll, c.address, codeOf(jar), undo, undo]);
    expect(put.acts.slice(-2)).toMatchObject([{ kind: 'carry.undo' }, { kind: 'carry.undo' }]);
    expect(putOf(put.job, put.job.tasks[0] as CarryTask)).toBe(0);
  });
  it('law: nothing is put that was not taken, nothing taken that was not planned, and undoing all is the beginning', () => {
    const one = fc.oneof(
      fc.constantFrom<string | Event>(a.address, b.address, c.address, empty.address, BINS.bench.address, BINS.oneItem.address),
      fc.constantFrom<string | Event>(codeOf(jar), codeOf(jar, 1), codeOf(dated), codeOf(GOODS.rope), 'S-1', 'S-2', 'NEXT', 'LATER'),
      fc.constantFrom<string | Event>(key('1'), key('3'), key('24'), key('900'), undo),
      fc.constantFrom<string | Event>(
        choose({ what: 'lay' }),
        choose({ what: 'trouble' }),
        choose({ what: 'report', kind: 'notFound' }),
        choose({ what: 'sure' }),
        choose({ what: 'back' }),
        choose({ what: 'lot', lot: 'NEXT' }),
      ),
    );
    fc.assert(
      fc.property(fc.constantFrom(REFILL, PUT_AWAY), fc.array(one, { maxLength: 40 }), (job, texts) => {
        const w = walk(job, texts);
        for (const t of w.job.tasks) {
          expect(toTake(w.job, t)).toBeGreaterThanOrEqual(0);
          expect(toPut(w.job, t)).toBeGreaterThanOrEqual(0);
          expect(t.qty).toBeLessThanOrEqual(job.tasks.find((own) => own.key === t.key)?.qty ?? 0);
        }
        const serials = w.job.carried.filter((x) => x.way === 'take' && x.serial !== null).map((x) => x.serial);
        expect(new Set(serials).size).toBe(serials.length);
        expect(w.job.state === 'done').toBe(isCarried(w.job));
        const back = walk(job, [...texts, ...w.acts.map(() => undo)]);
        expect(back.job.carried).toEqual([]);
      }),
      { numRuns: 300 },
    );
  });
});
