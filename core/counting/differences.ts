import { addQty, subQty, ZERO, type Qty } from '#core/base';

/** What was noted when the count began. `key` names bin, item, lot and serial. Thousandths of the base unit. */
export type CountedKey = { readonly key: string; readonly bin: number };
export type ExpectedStock = CountedKey & { readonly qty: Qty };

/** One thing found. `at` is when, as milliseconds since 1970. */
export type Tally = CountedKey & { readonly qty: Qty; readonly at: number };

/** A movement since the count began: positive into the key, negative out of it. */
export type SinceStart = CountedKey & { readonly delta: Qty; readonly at: number };

/** What somebody said about a bin as a whole. Blank is not zero: a bin without a verdict and without a tally was not counted. */
export type BinVerdict = { readonly bin: number; readonly verdict: 'none' | 'asExpected'; readonly at: number };

export type CountDifference = CountedKey & { readonly expected: Qty; readonly found: Qty | null; readonly difference: Qty };

/** Compares tallies with what should have been there at the moment of counting (J3, J5).
 *  Shape:  one entry per key of the count. `expected` is the quantity at the start plus what moved until the bin was last tallied;
 *          `found` is null where the bin was not counted, and then there is no difference. In a counted bin a key without a tally
 *          was looked for and not found: 0.
 *  Units:  thousandths of the base unit. Posting adds the difference to whatever is there by then, so work may go on. */
export function reckonDifferences(
  expected: readonly ExpectedStock[],
  tallies: readonly Tally[],
  since: readonly SinceStart[],
  verdicts: readonly BinVerdict[],
): readonly CountDifference[] {
  const countedAt = new Map<number, number>();
  for (const t of [...tallies, ...verdicts]) countedAt.set(t.bin, Math.max(countedAt.get(t.bin) ?? 0, t.at));
  const asExpected = new Set(verdicts.filter((v) => v.verdict === 'asExpected').map((v) => v.bin));
  const keys = new Map<string, { bin: number; expected: Qty; found: Qty }>();
  const entry = (k: CountedKey): { bin: number; expected: Qty; found: Qty } => {
    const seen = keys.get(k.key) ?? { bin: k.bin, expected: ZERO, found: ZERO };
    keys.set(k.key, seen);
    return seen;
  };
  for (const e of expected) {
    const seen = entry(e);
    seen.expected = addQty(seen.expected, e.qty);
  }
  for (const move of since) {
    const until = countedAt.get(move.bin);
    if (until !== undefined && move.at > until) continue;
    const seen = entry(move);
    seen.expected = addQty(seen.expected, move.delta);
  }
  for (const tally of tallies) {
    const seen = entry(tally);
    seen.found = addQty(seen.found, tally.qty);
  }
  return [...keys].map(([key, { bin, expected: due, found }]) => {
    if (!countedAt.has(bin)) return { key, bin, expected: due, found: null, difference: ZERO };
    const seen = asExpected.has(bin) && found === 0 ? due : found;
    return { key, bin, expected: due, found: seen, difference: subQty(seen, due) };
  });
}
