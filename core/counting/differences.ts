import { addQty, subQty, ZERO, type Qty } from '#core/base';

/** What was noted when the count began. `key` names bin, item, lot and serial. Thousandths of the base unit. */
export type CountedKey = { readonly key: string; readonly bin: number };
export type ExpectedStock = CountedKey & { readonly qty: Qty };

/** One thing found. `at` is when, as milliseconds since 1970; `person` is who found it. */
export type Tally = CountedKey & { readonly qty: Qty; readonly at: number; readonly person: number };

/** A movement since the count began: positive into the key, negative out of it. */
export type SinceStart = CountedKey & { readonly delta: Qty; readonly at: number };

/** What somebody said about a bin as a whole. Blank is not zero: a bin without a verdict and without a tally was not counted. */
export type BinVerdict = { readonly bin: number; readonly verdict: 'none' | 'asExpected'; readonly at: number };

/** `uncounted`: nobody looked. `counted`: found against expected at the very moment of counting. `lookAgain`: it moved while it was
 *  counted, and nobody can decide from which part; it is never posted. */
export type DifferenceState = 'uncounted' | 'counted' | 'lookAgain';
export type CountDifference = CountedKey & {
  readonly expected: Qty;
  readonly found: Qty | null;
  readonly difference: Qty;
  readonly state: DifferenceState;
};

type Known = { readonly bin: number; expected: Qty; tallies: Tally[]; moves: SinceStart[] };

/** Compares what was found with what should have been there at the moment in which that very thing was counted (J3, J5).
 *  Shape:  one entry per key of the count.
 *          A key with tallies is compared at its own moment; if it moved between two tallies of itself, nobody can decide: `lookAgain`.
 *          A key without a tally in a counted bin was looked for and not found: 0. When exactly is not known, only that it was after its
 *          counter left the bin before and before they went on to another; it is a difference only if there should have been some all that
 *          time. Keys of a bin that nobody counted have no difference.
 *  Units:  thousandths of the base unit. Posting adds the difference to whatever is there by then, so work may go on.
 *  Law:    a shelf that agrees with the ledger at every moment shows no difference, whatever moves between tallies of different keys. */
export function reckonDifferences(
  expected: readonly ExpectedStock[],
  tallies: readonly Tally[],
  since: readonly SinceStart[],
  verdicts: readonly BinVerdict[],
): readonly CountDifference[] {
  const said = new Map(verdicts.map((v) => [v.bin, v]));
  const looked = lookedAt(tallies);
  return [...gather(expected, tallies, since)].map(([key, known]): CountDifference => {
    const { bin } = known;
    const verdict = said.get(bin);
    const window = looked.get(bin);
    const settled = (due: Qty, found: Qty): CountDifference => {
      return { key, bin, expected: due, found, difference: subQty(found, due), state: 'counted' };
    };
    if (verdict) {
      const due = expectedAt(known, verdict.at);
      return settled(due, verdict.verdict === 'none' ? ZERO : due);
    }
    if (!window) return { key, bin, expected: expectedAt(known, Infinity), found: null, difference: ZERO, state: 'uncounted' };
    const undecided = (): CountDifference => {
      const due = expectedAt(known, window.until);
      return { key, bin, expected: due, found: foundOf(known), difference: ZERO, state: 'lookAgain' };
    };
    if (known.tallies.length > 0) {
      const first = Math.min(...known.tallies.map((t) => t.at));
      const last = Math.max(...known.tallies.map((t) => t.at));
      return movedWithin(known, first, last) ? undecided() : settled(expectedAt(known, first), foundOf(known));
    }
    const moments = [window.from, ...known.moves.map((m) => m.at).filter((at) => at > window.from && at <= window.until)];
    if (moments.some((at) => expectedAt(known, at) === 0)) return settled(ZERO, ZERO);
    return moments.length > 1 ? undecided() : settled(expectedAt(known, window.from), ZERO);
  });
}

function gather(expected: readonly ExpectedStock[], tallies: readonly Tally[], since: readonly SinceStart[]): ReadonlyMap<string, Known> {
  const keys = new Map<string, Known>();
  const entry = (k: CountedKey): Known => {
    const seen = keys.get(k.key) ?? { bin: k.bin, expected: ZERO, tallies: [], moves: [] };
    keys.set(k.key, seen);
    return seen;
  };
  for (const e of expected) {
    const seen = entry(e);
    seen.expected = addQty(seen.expected, e.qty);
  }
  for (const tally of tallies) entry(tally).tallies.push(tally);
  for (const move of since) entry(move).moves.push(move);
  return keys;
}

const expectedAt = (known: Known, at: number): Qty =>
  known.moves.filter((m) => m.at <= at).reduce((sum, m) => addQty(sum, m.delta), known.expected);
const movedWithin = (known: Known, from: number, until: number): boolean => known.moves.some((m) => m.at > from && m.at <= until);
const foundOf = (known: Known): Qty => known.tallies.reduce((sum, t) => addQty(sum, t.qty), ZERO);

// Between which moments each bin was looked at: whoever counts there may have looked at it since they left the bin before, and until they
// counted somewhere else. An empty place gives no tally, so nothing narrower is known.
function lookedAt(tallies: readonly Tally[]): ReadonlyMap<number, { from: number; until: number }> {
  const windows = new Map<number, { from: number; until: number }>();
  const widen = (bin: number, from: number, until: number): void => {
    const seen = windows.get(bin);
    windows.set(bin, { from: Math.min(seen?.from ?? from, from), until: Math.max(seen?.until ?? until, until) });
  };
  const standing = new Map<number, Tally>();
  for (const tally of [...tallies].sort((a, b) => a.at - b.at)) {
    const before = standing.get(tally.person);
    if (before && before.bin !== tally.bin) widen(before.bin, before.at, tally.at);
    if (before?.bin !== tally.bin) widen(tally.bin, before?.at ?? -Infinity, tally.at);
    standing.set(tally.person, tally);
  }
  for (const tally of standing.values()) widen(tally.bin, tally.at, Infinity);
  return windows;
}
