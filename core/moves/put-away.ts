import { type BinId, type Qty } from '#core/base';

/** Why a bin is suggested, strongest first. */
export type PutAwayWhy = 'home' | 'sameLot' | 'sameItem' | 'empty';
/** Why a bin is suggested, as it is said beside the bin. */
export const PUT_AWAY_WHY: Readonly<Record<PutAwayWhy, string>> = {
  home: 'its home',
  sameLot: 'the same lot lies there',
  sameItem: 'the same item lies there',
  empty: 'the nearest empty bin',
};

/** A bin that could take the goods. `room` in thousandths, null where no capacity is set; `walk` is its place in the walking order. */
export type PutAwayCandidate = {
  readonly bin: BinId;
  readonly isHome: boolean;
  readonly holdsSameLot: boolean;
  readonly holdsSameItem: boolean;
  readonly isEmpty: boolean;
  readonly room: Qty | null;
  readonly walk: number;
  readonly breaksRule: boolean;
};
export type PutAwaySuggestion = { readonly bin: BinId; readonly why: PutAwayWhy };

/** Suggests where goods go (I2): their home bin, else where their lot lies, else where the item lies, else the nearest empty bin.
 *  Shape:  null where no candidate has room without breaking a rule. Ties go to the bin that comes first on the walk from `from`.
 *  Units:  `qty` in thousandths of the base unit. */
export function suggestPutAway(quantity: Qty, from: number, candidates: readonly PutAwayCandidate[]): PutAwaySuggestion | null {
  const fits = candidates.filter((c) => !c.breaksRule && (c.room === null || c.room >= quantity));
  const tests: readonly [PutAwayWhy, (c: PutAwayCandidate) => boolean][] = [
    ['home', (c) => c.isHome],
    ['sameLot', (c) => c.holdsSameLot],
    ['sameItem', (c) => c.holdsSameItem],
    ['empty', (c) => c.isEmpty],
  ];
  for (const [why, test] of tests) {
    const nearest = fits.filter(test).sort((a, b) => Math.abs(a.walk - from) - Math.abs(b.walk - from) || a.bin - b.bin)[0];
    if (nearest) return { bin: nearest.bin, why };
  }
  return null;
}
