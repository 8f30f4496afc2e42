import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { EMPTY_WEDGE, GS, keyedNumber, stepWedge, type Wedge } from './wedge.ts';

type Heard = { scan: string | null; number: string | null; whole: string | null };
/** Types keys at these moments; what was heard, in order. */
function hear(strokes: readonly (readonly [string, number])[]): { heard: Heard[]; state: Wedge } {
  let state: Wedge = EMPTY_WEDGE;
  const heard: Heard[] = [];
  for (const [key, at] of strokes) {
    const { state: next, ...came } = stepWedge(state, key, at);
    state = next;
    if (came.scan !== null || came.number !== null) heard.push(came);
  }
  return { heard, state };
}
const type = (keys: readonly string[], gap: number, from = 1000): (readonly [string, number])[] =>
  keys.map((key, i) => [key, from + i * gap] as const);
const scanned = (code: string) => ({ scan: code, number: null, whole: null });

describe('telling a scanner from a hand', () => {
  it('fast keys that end with Enter or Tab are a scan', () => {
    expect(hear(type([...'P-01-1', 'Enter'], 4)).heard).toEqual([scanned('P-01-1')]);
    expect(hear(type([...'5001230000018', 'Tab'], 12)).heard).toEqual([scanned('5001230000018')]);
  });
  it('the same keys at the speed of a hand are not', () => {
    expect(hear(type([...'P-01-1', 'Enter'], 90)).heard).toEqual([]);
  });
  it('digits at the speed of a hand are a number, closed by Enter, wherever the focus is', () => {
    expect(hear(type([...'12', 'Enter'], 180)).heard).toEqual([{ scan: null, number: '12', whole: null }]);
    expect(hear(type([...'2.5', 'Enter'], 600)).heard).toEqual([{ scan: null, number: '2.5', whole: null }]);
    expect(keyedNumber(hear(type([...'34'], 500)).state)).toBe('34');
    expect(keyedNumber(hear(type([...'341', 'Backspace'], 500)).state)).toBe('34');
    expect(keyedNumber(hear(type([...'341', 'Escape'], 500)).state)).toBe('');
  });
  it('a number that was keyed before a scan is closed by it, and never glued onto it', () => {
    const late = [...type([...'12'], 200), ...type([...'CO-5001', 'Enter'], 3, 1900)];
    expect(hear(late).heard).toEqual([{ scan: 'CO-5001', number: '12', whole: null }]);
    const close = [...type([...'12'], 200), ...type([...'5001230000018', 'Enter'], 3, 1350)];
    expect(hear(close).heard).toEqual([{ scan: '5001230000018', number: '12', whole: '125001230000018' }]);
  });
  it('a stutter in the middle of a scan does not cut the code', () => {
    const keys = [...'5001230000018'].map((key, i) => [key, 1000 + i * 4 + (i > 1 ? 180 : 0)] as const);
    expect(hear([...keys, ['Enter', 1240]]).heard).toEqual([scanned('5001230000018')]);
  });
  it('where a stutter stands after the first digit, the whole code is told beside the part', () => {
    const keys = [...'5001230000018'].map((key, i) => [key, 1000 + i * 4 + (i > 0 ? 180 : 0)] as const);
    expect(hear([...keys, ['Enter', 1240]]).heard).toEqual([{ scan: '001230000018', number: '5', whole: '5001230000018' }]);
  });
  it('capital letters come with a Shift that is no part of the code, separators are', () => {
    expect(hear(type(['Shift', 'A', '-', '1', 'Enter'], 3)).heard).toEqual([scanned('A-1')]);
    expect(hear(type([...`0195200000000010${GS}10L1`, 'Enter'], 3)).heard).toEqual([scanned(`0195200000000010${GS}10L1`)]);
  });
  it('whatever is keyed and scanned in turn, every code is heard as it is and every number once', () => {
    const round = fc.record({
      number: fc.option(fc.integer({ min: 1, max: 99_999 }).map(String)),
      code: fc.stringMatching(/^[A-Z][A-Z0-9-]{3,15}$/),
      gap: fc.integer({ min: 90, max: 350 }),
      pause: fc.integer({ min: 90, max: 2000 }),
    });
    fc.assert(
      fc.property(fc.array(round, { minLength: 1, maxLength: 6 }), (rounds) => {
        const strokes: (readonly [string, number])[] = [];
        let at = 1000;
        for (const r of rounds) {
          at += 1000;
          for (const key of r.number ?? '') {
            strokes.push([key, at]);
            at += r.gap;
          }
          at += r.number === null ? 0 : r.pause - Math.min(r.pause, r.gap);
          for (const key of [...r.code, 'Enter']) {
            strokes.push([key, at]);
            at += 5;
          }
        }
        const { heard } = hear(strokes);
        expect(heard.map((h) => h.scan)).toEqual(rounds.map((r) => r.code));
        expect(heard.map((h) => h.number)).toEqual(rounds.map((r) => r.number));
      }),
    );
  });
});
