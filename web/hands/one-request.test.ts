import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { heldByOne } from './one-request.ts';

describe('acts that go in one request', () => {
  it('are the first, in their order, as many as it holds; and always one, so that a large one holds up nothing for ever', () => {
    fc.assert(
      fc.property(fc.array(fc.nat(400), { minLength: 1, maxLength: 30 }), fc.integer({ min: 1, max: 900 }), (sizes, most) => {
        const acts = sizes.map((size) => ({ does: 'x'.repeat(size) }));
        const some = heldByOne(acts, most);
        expect(some.length).toBeGreaterThan(0);
        expect(some).toEqual(acts.slice(0, some.length));
        const letters = (of: typeof some): number => of.reduce((sum, a) => sum + a.does.length + 2, 0);
        if (some.length > 1) expect(letters(some)).toBeLessThanOrEqual(most);
        if (some.length < acts.length) expect(letters(acts.slice(0, some.length + 1))).toBeGreaterThan(most);
      }),
    );
  });
});
