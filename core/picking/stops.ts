import type { BinId } from '#core/base';

/** One bin on a round, with everything that is taken there. */
export type Stop<P> = { readonly bin: BinId; readonly walk: number; readonly picks: readonly P[] };

/** Groups picks by bin, so that lines of several orders at one bin are one stop (G2), and puts the bins in the order of the round's way. */
export function orderStops<P extends { readonly bin: BinId; readonly walk: number }>(
  picks: readonly P[],
  way: readonly number[],
): readonly Stop<P>[] {
  const byBin = new Map<BinId, P[]>();
  for (const pick of picks) byBin.set(pick.bin, [...(byBin.get(pick.bin) ?? []), pick]);
  const stops = [...byBin].map(([bin, together]) => ({ id: bin, bin, walk: together[0]?.walk ?? 0, picks: together }));
  return byWay(stops, way).map(({ id: _, ...stop }) => stop);
}

/** Bins in the order of a round's way. What came since, because something was missing elsewhere, is met after the bin of the way that is
 *  nearest to it in walking order. Without a way: walking order. */
export function byWay<B extends { readonly id: number; readonly walk: number }>(bins: readonly B[], way: readonly number[]): B[] {
  const at = new Map(way.map((id, i) => [id, i]));
  const onWay = bins.filter((b) => at.has(b.id));
  const placeOf = (bin: B): number => {
    const own = at.get(bin.id);
    if (own !== undefined) return own;
    const nearest = onWay.toSorted((a, b) => Math.abs(a.walk - bin.walk) - Math.abs(b.walk - bin.walk) || a.id - b.id)[0];
    return nearest ? (at.get(nearest.id) ?? 0) + 0.5 : 0;
  };
  const places = new Map(bins.map((b) => [b.id, placeOf(b)]));
  return bins.toSorted((a, b) => (places.get(a.id) ?? 0) - (places.get(b.id) ?? 0) || a.walk - b.walk || a.id - b.id);
}
