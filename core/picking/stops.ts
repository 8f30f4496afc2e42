import type { BinId } from '#core/base';

/** One bin on a round, with everything that is taken there. */
export type Stop<P> = { readonly bin: BinId; readonly walk: number; readonly picks: readonly P[] };

/** Groups picks by bin and puts the bins in walking order, so that lines of several orders at one bin are one stop (G2). */
export function orderStops<P extends { readonly bin: BinId; readonly walk: number }>(picks: readonly P[]): readonly Stop<P>[] {
  const byBin = new Map<BinId, P[]>();
  for (const pick of picks) byBin.set(pick.bin, [...(byBin.get(pick.bin) ?? []), pick]);
  return [...byBin]
    .map(([bin, together]) => ({ bin, walk: together[0]?.walk ?? 0, picks: together }))
    .sort((a, b) => a.walk - b.walk || a.bin - b.bin);
}
