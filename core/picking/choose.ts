import { minQty, subQty, sumQty, ZERO, type BinId, type ItemId, type LineId, type LotId, type Qty, type SerialId } from '#core/base';
import { coverNeeds, type Need, type Taking } from './cover.ts';

/** Stock that a round may fetch: sound, unexpired, in a pickable zone, not planned for another round. Thousandths. */
export type PickSource = {
  readonly bin: BinId;
  readonly item: ItemId;
  readonly lot: LotId | null;
  /** The one piece that this is, where somebody named it; else the serials of a bin are as good as each other. */
  readonly serial: SerialId | null;
  readonly expires: string | null;
  readonly arrived: string | null;
  readonly walk: number;
  readonly isPickFace: boolean;
  readonly qty: Qty;
  /** How much a full pack of it holds, of each pack that is more than one; none where nobody knows. */
  readonly packs?: readonly Qty[];
};
export type PickWant = { readonly line: LineId; readonly item: ItemId; readonly qty: Qty };
export type PlannedPick = {
  readonly line: LineId;
  readonly item: ItemId;
  readonly bin: BinId;
  readonly lot: LotId | null;
  readonly serial: SerialId | null;
  readonly qty: Qty;
};
export type Allocation = { readonly picks: readonly PlannedPick[]; readonly missing: readonly PickWant[] };

type Rank = { readonly key: string; readonly sources: readonly PickSource[]; readonly qty: Qty };

/** Chooses bins and lots for what is promised, over all wants together (G2, E4).
 *  Shape:  what expires first goes first, then what arrived first, by the day; among what is as good, the fewest stops over the whole
 *          round; then the fewest takings; then no pack is opened where loose pieces serve; then bins that become empty; then the pick
 *          face before reserve; then walking order. Each source is used at most up to its quantity. Where there is too little, the wants
 *          before get theirs.
 *          `already`: bins at which one stops anyway.
 *  Units:  thousandths of the base unit. `missing` is what no source could give. */
export function chooseStock(
  wants: readonly PickWant[],
  sources: readonly PickSource[],
  already: ReadonlySet<number> = new Set(),
): Allocation {
  const items = [...new Set(wants.map((w) => w.item))];
  const taken = new Map<ItemId, Taking<PickSource & { packs: readonly Qty[] }>[]>(items.map((item) => [item, []]));
  const stops = new Set<number>(already);
  const needs: (Need<PickSource & { packs: readonly Qty[] }> & { readonly item: ItemId })[] = [];
  const wanted = byItem(wants);
  const there = byItem(sources);
  for (const item of items) {
    let open = sumQty((wanted.get(item) ?? []).map((w) => w.qty));
    for (const rank of ranksOf((there.get(item) ?? []).filter((s) => s.qty > 0))) {
      if (open <= 0) break;
      const known = rank.sources.map((s) => ({ ...s, packs: s.packs ?? [] }));
      if (rank.qty > open) needs.push({ item, qty: open, sources: known });
      else
        for (const source of known) {
          taken.get(item)?.push({ source, qty: source.qty });
          stops.add(source.bin);
        }
      open = subQty(open, minQty(open, rank.qty));
    }
  }
  for (const [n, more] of coverNeeds(needs, stops).entries()) taken.get(needs[n]?.item ?? (0 as ItemId))?.push(...more);
  return handOut(wants, taken);
}

function byItem<T extends { readonly item: ItemId }>(all: readonly T[]): Map<ItemId, T[]> {
  const groups = new Map<ItemId, T[]>();
  for (const one of all) {
    const own = groups.get(one.item);
    if (own) own.push(one);
    else groups.set(one.item, [one]);
  }
  return groups;
}

/** Goods that are as good as each other, those that leave first first. */
function ranksOf(sources: readonly PickSource[]): Rank[] {
  const byKey = new Map<string, PickSource[]>();
  // Arrival counts by the day: minutes apart at the dock must not send a hand past a full pick face.
  const keyOf = (s: PickSource): string => `${s.expires ?? '9999-12-31'} ${s.arrived?.slice(0, 10) ?? '9999-12-31'}`;
  for (const source of sources) byKey.set(keyOf(source), [...(byKey.get(keyOf(source)) ?? []), source]);
  return [...byKey]
    .toSorted(([a], [b]) => (a < b ? -1 : a > b ? 1 : 0))
    .map(([key, own]) => ({ key, sources: own, qty: sumQty(own.map((s) => s.qty)) }));
}

// Which want gets what of the chosen goods: the wants in their order, what leaves first first, a want out of as few of them as can be.
function handOut(
  wants: readonly PickWant[],
  taken: ReadonlyMap<ItemId, readonly { readonly source: PickSource; readonly qty: Qty }[]>,
): Allocation {
  const left = new Map([...taken].map(([item, all]) => [item, all.map((t) => ({ ...t }))]));
  const picks: PlannedPick[] = [];
  const missing: PickWant[] = [];
  for (const want of wants) {
    let open = want.qty;
    const own = left.get(want.item) ?? [];
    while (open > 0) {
      const there = own.filter((t) => t.qty > 0);
      const [first] = there;
      if (!first) break;
      const same = there.filter((t) => t.source.expires === first.source.expires && t.source.lot === first.source.lot);
      const best = same.find((t) => t.qty === open) ?? same.find((t) => t.qty > open) ?? first;
      const given = minQty(open, best.qty);
      picks.push({ line: want.line, item: want.item, bin: best.source.bin, lot: best.source.lot, serial: best.source.serial, qty: given });
      best.qty = subQty(best.qty, given);
      open = subQty(open, given);
    }
    if (open > ZERO) missing.push({ ...want, qty: open });
  }
  return { picks, missing };
}
