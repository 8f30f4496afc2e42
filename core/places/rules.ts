import { type BinId, type ItemId, type LotId, type Qty } from '#core/base';

/** What a bin allows (A5); null where nobody set a limit.
 *  Units:  `units` in thousandths of a base unit, volume in millilitres, weight in grams. */
export type BinRules = {
  readonly bin: BinId;
  readonly address: string;
  readonly oneItem: boolean;
  readonly oneLot: boolean;
  readonly storageClass: string | null;
  readonly units: Qty | null;
  readonly volumeMl: number | null;
  readonly weightG: number | null;
};

/** Goods in a bin or on their way into it, one entry per item and lot. Volume and weight are of one base unit; 0 where nobody knows. */
export type Goods = {
  readonly item: ItemId;
  readonly itemCode: string;
  readonly lot: LotId | null;
  readonly qty: Qty;
  readonly storageClass: string;
  readonly unitMl: number;
  readonly unitG: number;
};

export type RuleBreak =
  | { code: 'places.oneItem'; bin: string; holds: string }
  | { code: 'places.oneLot'; bin: string; item: string }
  | { code: 'places.storageClass'; bin: string; wants: string; item: string; is: string }
  | { code: 'places.full'; bin: string; room: number }
  | { code: 'places.tooBulky'; bin: string; room: number; needs: number }
  | { code: 'places.tooHeavy'; bin: string; room: number; needs: number };

/** Whether goods may enter a bin: the first rule that they would break, or null. The one place where bin rules are decided.
 *  Shape:  `content` is what lies there and stays; `entering` all that comes in one posting.
 *  Units:  as in `BinRules`; the facts of a break are in base units, litres and kilograms, as a person says them. */
export function checkBinRules(rules: BinRules, content: readonly Goods[], entering: readonly Goods[]): RuleBreak | null {
  const bin = rules.address;
  const coming = entering.filter((g) => g.qty > 0);
  if (coming.length === 0) return null;
  const all = [...content.filter((g) => g.qty > 0), ...coming];
  for (const goods of coming) {
    if (rules.storageClass !== null && goods.storageClass !== rules.storageClass)
      return { code: 'places.storageClass', bin, wants: rules.storageClass, item: goods.itemCode, is: goods.storageClass };
    const other = all.find((c) => c.item !== goods.item);
    if (rules.oneItem && other) return { code: 'places.oneItem', bin, holds: other.itemCode };
    if (rules.oneLot && all.some((c) => c.item === goods.item && c.lot !== goods.lot))
      return { code: 'places.oneLot', bin, item: goods.itemCode };
  }
  const kept = all.slice(0, all.length - coming.length);
  if (rules.units !== null) {
    const room = roomLeft(BigInt(rules.units), unitsOf, kept);
    if (total(unitsOf, coming) > room) return { code: 'places.full', bin, room: Number(room) / 1000 };
  }
  if (rules.volumeMl !== null) {
    const room = roomLeft(BigInt(rules.volumeMl) * 1000n, volumeOf, kept);
    const needs = total(volumeOf, coming);
    // Goods whose size nobody knows are not judged by it, not even where the bin is over-full already.
    if (needs > 0n && needs > room) return { code: 'places.tooBulky', bin, ...inTenths(room, needs) };
  }
  if (rules.weightG !== null) {
    const room = roomLeft(BigInt(rules.weightG) * 1000n, weightOf, kept);
    const needs = total(weightOf, coming);
    if (needs > 0n && needs > room) return { code: 'places.tooHeavy', bin, ...inTenths(room, needs) };
  }
  return null;
}

/** A rule of a bin that what lies there breaks already, with what there is and what is allowed, in the words of a person. */
export type BrokenRule = { readonly rule: 'oneItem' | 'oneLot' | 'storageClass' | 'units' | 'litres' | 'kilograms'; readonly says: string };

/** Which rules of a bin its own content breaks: after a rule was set, or goods were counted into it.
 *  Shape:  one entry for each broken rule; empty where all is well. */
export function brokenRules(rules: BinRules, content: readonly Goods[]): readonly BrokenRule[] {
  const broken: BrokenRule[] = [];
  const lying = content.filter((g) => g.qty > 0);
  const items = [...new Set(lying.map((g) => g.itemCode))];
  if (rules.oneItem && items.length > 1) broken.push({ rule: 'oneItem', says: `One item only, and it holds ${items.join(', ')}.` });
  const mixed = items.find((code) => new Set(lying.filter((g) => g.itemCode === code).map((g) => g.lot)).size > 1);
  if (rules.oneLot && mixed !== undefined) broken.push({ rule: 'oneLot', says: `One lot only, and it holds several lots of ${mixed}.` });
  const stranger = lying.find((g) => rules.storageClass !== null && g.storageClass !== rules.storageClass);
  if (stranger)
    broken.push({ rule: 'storageClass', says: `${rules.storageClass} goods only, and ${stranger.itemCode} is ${stranger.storageClass}.` });
  const over = (rule: BrokenRule['rule'], limit: number | null, there: bigint, word: string): void => {
    if (limit !== null && there > BigInt(limit))
      broken.push({ rule, says: `Room for ${limit / 1000}${word}, and it holds ${Math.ceil(Number(there) / 100) / 10}${word}.` });
  };
  over('units', rules.units, total(unitsOf, lying), ' units');
  over('litres', rules.volumeMl, (total(volumeOf, lying) + 999n) / 1000n, ' litres');
  over('kilograms', rules.weightG, (total(weightOf, lying) + 999n) / 1000n, ' kg');
  return broken;
}

// Whole numbers throughout (thousandths of a unit times millilitres): in floating point goods that fit exactly do not fit.
const unitsOf = (g: Goods): bigint => BigInt(g.qty);
const volumeOf = (g: Goods): bigint => BigInt(g.qty) * BigInt(g.unitMl);
const weightOf = (g: Goods): bigint => BigInt(g.qty) * BigInt(g.unitG);
const total = (of: (g: Goods) => bigint, list: readonly Goods[]): bigint => list.reduce((sum, g) => sum + of(g), 0n);

function roomLeft(limit: bigint, of: (g: Goods) => bigint, kept: readonly Goods[]): bigint {
  const room = limit - total(of, kept);
  return room > 0n ? room : 0n;
}

// Room rounds down and need rounds up, so that the sentence never says that 7.5 do not fit into 7.5.
function inTenths(room: bigint, needs: bigint): { room: number; needs: number } {
  const tenth = 100_000n;
  return { room: Number(room / tenth) / 10, needs: Number((needs + tenth - 1n) / tenth) / 10 };
}
