import { minQty, subQty, type BinId, type ItemId, type LineId, type LotId, type Qty } from '#core/base';
import { compareFirstExpired } from '#core/lots';

/** Stock that a round may fetch: sound, unexpired, in a pickable zone, not planned for another round. Thousandths. */
export type PickSource = {
  readonly bin: BinId;
  readonly item: ItemId;
  readonly lot: LotId | null;
  readonly expires: string | null;
  readonly arrived: string | null;
  readonly walk: number;
  readonly isPickFace: boolean;
  readonly qty: Qty;
};
export type PickWant = { readonly line: LineId; readonly item: ItemId; readonly qty: Qty };
export type PlannedPick = {
  readonly line: LineId;
  readonly item: ItemId;
  readonly bin: BinId;
  readonly lot: LotId | null;
  readonly qty: Qty;
};
export type Allocation = { readonly picks: readonly PlannedPick[]; readonly missing: readonly PickWant[] };

/** Chooses bins and lots for what is promised (G2, E4).
 *  Shape:  wants are served in order; one want may be split over bins. Each source is used at most up to its quantity.
 *          First expired first; then oldest arrival; then the pick face before reserve; then the bin that can serve the rest alone;
 *          then the walking order.
 *  Units:  thousandths of the base unit. `missing` is what no source could give. */
export function chooseStock(wants: readonly PickWant[], sources: readonly PickSource[]): Allocation {
  const left = sources.map((source) => ({ source, qty: source.qty }));
  const picks: PlannedPick[] = [];
  const missing: PickWant[] = [];
  for (const want of wants) {
    let open = want.qty;
    while (open > 0) {
      const best = left.filter((l) => l.source.item === want.item && l.qty > 0).sort((a, b) => compareSources(a, b, open))[0];
      if (!best) break;
      const taken = minQty(open, best.qty);
      picks.push({ line: want.line, item: want.item, bin: best.source.bin, lot: best.source.lot, qty: taken });
      best.qty = subQty(best.qty, taken);
      open = subQty(open, taken);
    }
    if (open > 0) missing.push({ ...want, qty: open });
  }
  return { picks, missing };
}

type Left = { source: PickSource; qty: Qty };

function compareSources(a: Left, b: Left, open: Qty): number {
  const dated = a.source.expires !== null || b.source.expires !== null;
  const byDate = compareFirstExpired({ ...a.source, arrived: null }, { ...b.source, arrived: null });
  if (dated && byDate !== 0) return byDate;
  // Arrival counts by the day: minutes apart at the dock must not send a hand past a full pick face.
  const day = (l: Left): string => l.source.arrived?.slice(0, 10) ?? '9999';
  if (a.source.lot !== b.source.lot && day(a) !== day(b)) return day(a) < day(b) ? -1 : 1;
  if (a.source.isPickFace !== b.source.isPickFace) return a.source.isPickFace ? -1 : 1;
  const alone = (l: Left): boolean => l.qty >= open;
  if (alone(a) !== alone(b)) return alone(a) ? -1 : 1;
  return a.source.walk - b.source.walk || a.source.bin - b.source.bin;
}
