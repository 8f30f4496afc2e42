import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { qty } from '#core/base';
import { reckonDifferences, type BinVerdict, type SinceStart, type Tally } from './index.ts';

const key = (bin: number, item: number) => ({ key: `${bin}|${item}`, bin });

describe('the differences of a count', () => {
  it('J5 a bin that nobody counted has no difference: blank is not zero', () => {
    expect(reckonDifferences([{ ...key(1, 1), qty: qty(5) }], [], [], [])).toEqual([
      { ...key(1, 1), expected: 5, found: null, difference: 0, state: 'uncounted' },
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
      [{ ...key(3, 2), qty: qty(8), at: 10, person: 1 }],
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
    expect(reckonDifferences([{ ...key(1, 1), qty: qty(5) }], [{ ...key(1, 1), qty: qty(3), at: 20, person: 1 }], since, [])).toEqual([
      { ...key(1, 1), expected: 3, found: 3, difference: 0, state: 'counted' },
    ]);
  });
  it('J6 something found that was not listed is a plus', () => {
    expect(
      reckonDifferences(
        [],
        [
          { ...key(1, 9), qty: qty(2), at: 1, person: 1 },
          { ...key(1, 9), qty: qty(1), at: 2, person: 1 },
        ],
        [],
        [],
      ),
    ).toEqual([{ ...key(1, 9), expected: 0, found: 3, difference: 3, state: 'counted' }]);
  });
});

describe('goods that move while their bin is counted', () => {
  const start = [
    { ...key(1, 1), qty: qty(10) },
    { ...key(1, 2), qty: qty(4) },
  ];
  const found = (item: number, amount: number, at: number, bin = 1): Tally => ({ ...key(bin, item), qty: qty(amount), at, person: 1 });
  const move = (item: number, delta: number, at: number): SinceStart => ({ ...key(1, item), delta: qty(delta), at });
  const differences = (tallies: Tally[], since: SinceStart[]) =>
    reckonDifferences(start, tallies, since, []).map((d) => [d.key, d.difference, d.state]);

  it('J3 A counted, two of A moved away, then B counted in the same bin: A agrees, at the moment in which it was counted', () => {
    expect(differences([found(1, 10, 20), found(2, 4, 40)], [move(1, -2, 30)])).toEqual([
      ['1|1', 0, 'counted'],
      ['1|2', 0, 'counted'],
    ]);
  });
  it('J3 what was missing when it was counted stays missing, whatever left afterwards', () => {
    expect(differences([found(1, 8, 20), found(2, 4, 40)], [move(1, -2, 30)])[0]).toEqual(['1|1', -2, 'counted']);
  });
  it('J3 what moved between two tallies of itself is to be looked at again and has no difference', () => {
    expect(differences([found(1, 6, 20), found(1, 2, 40), found(2, 4, 50)], [move(1, -2, 30)])[0]).toEqual(['1|1', 0, 'lookAgain']);
  });
  it('J3 what was carried away before the counter came to it is not missing', () => {
    expect(differences([found(1, 10, 20)], [move(2, -4, 30)])[1]).toEqual(['1|2', 0, 'counted']);
    expect(differences([found(1, 10, 20)], [move(2, -3, 30)])[1]).toEqual(['1|2', 0, 'lookAgain']);
  });
  it('J3 what leaves after the counter has gone on to another bin was missing when they looked', () => {
    expect(differences([found(1, 10, 20), found(9, 1, 25, 2)], [move(2, -3, 30)])[1]).toEqual(['1|2', -4, 'counted']);
  });

  // A floor that agrees with the ledger: people count bins thing by thing, truthfully, while goods come and go between any two scans.
  type Step = { person: number; bin: number; item: number; parts: number };
  const walk = fc
    .record({
      stock: fc.array(fc.array(fc.nat(6), { minLength: 3, maxLength: 3 }), { minLength: 3, maxLength: 3 }),
      orders: fc.array(fc.shuffledSubarray([0, 1, 2], { minLength: 3 }), { minLength: 3, maxLength: 3 }),
      people: fc.array(fc.integer({ min: 1, max: 2 }), { minLength: 3, maxLength: 3 }),
      parts: fc.array(fc.integer({ min: 1, max: 3 }), { minLength: 9, maxLength: 9 }),
      moves: fc.array(fc.record({ after: fc.nat(30), bin: fc.nat(2), item: fc.nat(2), delta: fc.integer({ min: -4, max: 4 }) }), {
        maxLength: 12,
      }),
    })
    .map(({ stock, orders, people, parts, moves }) => {
      const counts = orders.flatMap((items, bin) =>
        items.map((item, n): Step => ({ person: people[bin] ?? 1, bin, item, parts: parts[bin * 3 + n] ?? 1 })),
      );
      return { stock, counts, moves };
    });

  type Floor = { stock: number[][]; counts: Step[]; moves: { after: number; bin: number; item: number; delta: number }[] };
  function play({ stock, counts, moves }: Floor, lost = { bin: 0, item: 0, missing: 0 }) {
    const lying = stock.map((bin) => [...bin]);
    const expected = stock.flatMap((bin, b) =>
      bin.flatMap((n, i) => {
        const onRecord = n + (b === lost.bin && i === lost.item ? lost.missing : 0);
        return onRecord > 0 ? [{ ...key(b, i), qty: qty(onRecord) }] : [];
      }),
    );
    const tallies: Tally[] = [];
    const verdicts: BinVerdict[] = [];
    const since: SinceStart[] = [];
    // Things that moved in the middle of being counted: nobody can know of which part, so nothing is promised about them.
    const interrupted = new Set<string>();
    let inWork: string | null = null;
    let at = 0;
    let scans = 0;
    const goodsMove = (): void => {
      for (const m of moves.filter((x) => x.after === scans)) {
        const there = lying[m.bin]?.[m.item] ?? 0;
        const delta = Math.max(m.delta, -there);
        if (delta === 0) continue;
        at += 1;
        (lying[m.bin] as number[])[m.item] = there + delta;
        since.push({ ...key(m.bin, m.item), delta: qty(delta), at });
        if (key(m.bin, m.item).key === inWork) interrupted.add(inWork);
      }
      scans += 1;
    };
    for (const step of counts) {
      let counted = 0;
      inWork = null;
      const last = step.item === counts.filter((s) => s.bin === step.bin).at(-1)?.item;
      for (let part = 1; part <= step.parts; part += 1) {
        goodsMove();
        inWork = key(step.bin, step.item).key;
        // The last part is what is left of the pile then; before it, a piece at a time.
        const there = (lying[step.bin]?.[step.item] ?? 0) - counted;
        const now = part === step.parts ? there : Math.min(1, there);
        if (now <= 0) continue;
        counted += now;
        at += 1;
        tallies.push({ ...key(step.bin, step.item), qty: qty(now), at, person: step.person });
      }
      // Who found nothing at all looks once more at the whole bin: they scan what came meanwhile, or say that there is nothing.
      if (last && tallies.every((t) => t.bin !== step.bin)) {
        at += 1;
        const there = (lying[step.bin] ?? []).flatMap((n, item) =>
          n > 0 ? [{ ...key(step.bin, item), qty: qty(n), at, person: step.person }] : [],
        );
        if (there.length > 0) tallies.push(...there);
        else verdicts.push({ bin: step.bin, verdict: 'none', at });
      }
    }
    goodsMove();
    return reckonDifferences(expected, tallies, since, verdicts).filter((d) => !interrupted.has(d.key) || d.state === 'lookAgain');
  }

  it('J3 a shelf that agrees with the ledger never shows a difference, whatever moves between the tallies', () => {
    fc.assert(
      fc.property(walk, (floor) => {
        for (const d of play(floor)) if (d.state === 'counted') expect([d.key, d.difference]).toEqual([d.key, 0]);
      }),
      { numRuns: 2000 },
    );
  });
  it('J3 what is missing and does not move shows as missing, whatever else moves', () => {
    fc.assert(
      fc.property(walk, fc.integer({ min: 1, max: 5 }), (floor, missing) => {
        const quiet = { ...floor, moves: floor.moves.filter((m) => m.bin !== 1 || m.item !== 1) };
        const shown = play(quiet, { bin: 1, item: 1, missing }).find((d) => d.key === key(1, 1).key);
        expect(shown).toMatchObject({ difference: -missing, state: 'counted' });
      }),
      { numRuns: 1000 },
    );
  });
});
