import { describe, expect, it } from '@jest/globals';
import { EMPTY_WEDGE, stepWedge, type Wedge } from './wedge.ts';

function type(keys: readonly string[], gap: number): string | null {
  let state: Wedge = EMPTY_WEDGE;
  let scan: string | null = null;
  keys.forEach((key, i) => {
    const step = stepWedge(state, key, 1000 + i * gap);
    state = step.state;
    scan = step.scan ?? scan;
  });
  return scan;
}

describe('telling a scanner from a hand', () => {
  it('fast keys that end with Enter or Tab are a scan', () => {
    expect(type([...'P-01-1', 'Enter'], 4)).toBe('P-01-1');
    expect(type([...'5001230000018', 'Tab'], 12)).toBe('5001230000018');
  });
  it('the same keys at the speed of a hand are not', () => {
    expect(type([...'P-01-1', 'Enter'], 90)).toBeNull();
  });
  it('a scan right after a hand typed is still only the scan', () => {
    let state: Wedge = EMPTY_WEDGE;
    for (const [key, at] of [
      ['1', 0],
      ['2', 200],
    ] as const)
      state = stepWedge(state, key, at).state;
    for (const [i, key] of [...'CO-5001'].entries()) state = stepWedge(state, key, 900 + i * 3).state;
    expect(stepWedge(state, 'Enter', 925).scan).toBe('CO-5001');
  });
  it('a stutter in the middle of a scan does not cut the code', () => {
    let state: Wedge = EMPTY_WEDGE;
    for (const [i, key] of [...'5001230000018'].entries()) state = stepWedge(state, key, 1000 + i * 4 + (i > 1 ? 180 : 0)).state;
    expect(stepWedge(state, 'Enter', 1240).scan).toBe('5001230000018');
  });
  it('capital letters come with a Shift that is no part of the code', () => {
    expect(type(['Shift', 'A', '-', '1', 'Enter'], 3)).toBe('A-1');
  });
});
