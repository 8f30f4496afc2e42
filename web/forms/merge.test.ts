import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { mergeForms } from './merge.ts';

describe('two people change one record', () => {
  const base = { description: 'Frame', group: 'Hives', note: '' };
  it('B1 what only the other changed is taken, what both changed is asked', () => {
    const mine = { ...base, description: 'Frame, waxed', note: 'mine' };
    const theirs = { ...base, group: 'Frames', note: 'theirs' };
    expect(mergeForms(base, mine, theirs)).toEqual({
      merged: { description: 'Frame, waxed', group: 'Frames', note: 'mine' },
      taken: ['group'],
      clashes: ['note'],
    });
  });
  it('both having changed a field to the same is no clash', () => {
    const same = { ...base, note: 'keep dry' };
    expect(mergeForms(base, same, same)).toMatchObject({ merged: same, taken: [], clashes: [] });
  });
  it('nothing that either changed is lost without a word', () => {
    const field = fc.constantFrom('a', 'b', 'c');
    const record = fc.record({ x: field, y: field, z: field });
    fc.assert(
      fc.property(record, record, record, (was, mine, theirs) => {
        const { merged, clashes } = mergeForms(was, mine, theirs);
        for (const k of ['x', 'y', 'z'] as const) {
          if (mine[k] !== was[k]) expect(merged[k]).toBe(mine[k]);
          else if (theirs[k] !== was[k]) expect(merged[k]).toBe(theirs[k]);
          expect(clashes.includes(k)).toBe(mine[k] !== was[k] && theirs[k] !== was[k] && mine[k] !== theirs[k]);
        }
      }),
    );
  });
});
