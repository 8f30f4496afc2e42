import { describe, expect, it } from '@jest/globals';
import { qty } from '#core/base';
import { reckonDifferences } from './index.ts';

const key = (bin: number, item: number) => ({ key: `${bin}|${item}`, bin });

describe('the differences of a count', () => {
  it('J5 a bin that nobody counted has no difference: blank is not zero', () => {
    expect(reckonDifferences([{ ...key(1, 1), qty: qty(5) }], [], [], [])).toEqual([
      { ...key(1, 1), expected: 5, found: null, difference: 0 },
    ]);
  });
  it('J5 counted none, counted as expected, and not found in a counted bin are three different facts', () => {
    const expected = [
      { ...key(1, 1), qty: qty(5) },
      { ...key(2, 1), qty: qty(6) },
      { ...key(3, 1), qty: qty(7) },
      { ...key(3, 2), qty: qty(8) },
    ];
    const found = reckonDifferences(
      expected,
      [{ ...key(3, 2), qty: qty(8), at: 10 }],
      [],
      [
        { bin: 1, verdict: 'none', at: 5 },
        { bin: 2, verdict: 'asExpected', at: 6 },
      ],
    );
    expect(found.map((d) => [d.found, d.difference])).toEqual([
      [0, -5],
      [6, 0],
      [0, -7],
      [8, 0],
    ]);
  });
  it('J3 what moved before the bin was counted is reckoned with; what moved after is not', () => {
    const since = [
      { ...key(1, 1), delta: qty(-2), at: 10 },
      { ...key(1, 1), delta: qty(-1), at: 30 },
    ];
    expect(reckonDifferences([{ ...key(1, 1), qty: qty(5) }], [{ ...key(1, 1), qty: qty(3), at: 20 }], since, [])).toEqual([
      { ...key(1, 1), expected: 3, found: 3, difference: 0 },
    ]);
  });
  it('J6 something found that was not listed is a plus', () => {
    expect(
      reckonDifferences(
        [],
        [
          { ...key(1, 9), qty: qty(2), at: 1 },
          { ...key(1, 9), qty: qty(1), at: 2 },
        ],
        [],
        [],
      ),
    ).toEqual([{ ...key(1, 9), expected: 0, found: 3, difference: 3 }]);
  });
});
