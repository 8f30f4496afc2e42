import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { ACTS, rankActs, type Act, type Waiting } from './index.ts';

const none: Waiting = { count: 0, late: 0, since: null };
const house = (some: Partial<Record<Act, Waiting>>): Record<Act, Waiting> => ({
  ...(Object.fromEntries(ACTS.map((act) => [act, none])) as Record<Act, Waiting>),
  ...some,
});

describe('L1 what to do next', () => {
  it('a late order at the bench comes before a late order on the shelf, and both before what is due today', () => {
    const acts = rankActs(
      house({
        pick: { count: 9, late: 4, since: null },
        pack: { count: 1, late: 1, since: null },
        post: { count: 1, late: 0, since: null },
      }),
    );
    expect(acts).toEqual(['pack', 'pick', 'post']);
  });
  it('where nothing is late, what makes figures untrue comes first, and a label last', () => {
    const one: Waiting = { count: 1, late: 0, since: null };
    expect(rankActs(house({ label: one, pick: one, putAway: one, settle: one, quarantine: one }))).toEqual([
      'settle',
      'quarantine',
      'putAway',
      'pick',
      'label',
    ]);
  });
  it('a quiet house asks for nothing', () => expect(rankActs(house({}))).toEqual([]));
  it('names each act for which something waits exactly once, and no other', () => {
    const waiting = fc
      .record({ count: fc.nat(3), late: fc.nat(3), since: fc.constant(null) })
      .map((w) => ({ ...w, late: Math.min(w.late, w.count) }));
    fc.assert(
      fc.property(fc.tuple(...ACTS.map(() => waiting)), (all) => {
        const asked = house(Object.fromEntries(ACTS.map((act, i) => [act, all[i]])) as Record<Act, Waiting>);
        expect([...rankActs(asked)].sort()).toEqual(ACTS.filter((act) => asked[act].count > 0).sort());
      }),
    );
  });
});
