import type { BinId, Qty } from '#core/base';
import type { BinFact, Facts, ItemFact } from '#core/floor';
import { isExpired } from '#core/lots';
import { checkBinRules, type Goods, type RuleBreak } from '#core/places';

/** Why a bin is not taken without a second look. */
export type MoveDoubt =
  | { why: 'rule'; broken: RuleBreak }
  | { why: 'expired'; lot: string; expired: string; bin: string }
  | { why: 'use'; bin: string; use: string };

/** Goods that somebody would put into a bin. */
export type Putting = { readonly item: ItemFact; readonly lot: string | null; readonly expires: string | null; readonly qty: Qty };

/** What speaks against putting goods into a bin: that they expired, a rule of the bin, or what it is for; null where nothing does. */
export function doubtOf(putting: readonly Putting[], bin: BinFact, facts: Facts): MoveDoubt | null {
  const expired = putting.find((p) => isExpired(p.expires, facts.today));
  if (bin.pickable && expired) return { why: 'expired', lot: expired.lot ?? '', expired: expired.expires ?? '', bin: bin.address };
  const broken = checkBinRules(
    bin.rules,
    goodsIn(bin.id, facts),
    putting.map((p) => goodsOf(p, facts)),
  );
  if (broken) return { why: 'rule', broken };
  return bin.use === 'shelf' ? null : { why: 'use', bin: bin.address, use: bin.use };
}

/** Why goods lie there although something speaks against it; null where a second look is enough. */
export const doubtWords = (doubt: MoveDoubt, reason = ''): string | null => (doubt.why === 'use' ? null : reason.trim() || 'It lies there');

// Lots are told apart by number in the rules; a lot that is not known yet is unlike any other.
const lotNumber = (item: number, lot: string | null, facts: Facts): Goods['lot'] =>
  (lot === null ? null : (facts.lot(item, lot)?.id ?? -1)) as Goods['lot'];

/** What lies in a bin, as its rules see it. */
export function goodsIn(bin: BinId, facts: Facts): Goods[] {
  return facts.contents(bin).flatMap((c) => {
    const item = facts.item(c.item);
    return item ? [goodsOf({ item, lot: c.lot, qty: c.qty }, facts)] : [];
  });
}

/** Goods as the rules of bins see them. */
export function goodsOf(g: { item: ItemFact; lot: string | null; qty: Qty }, facts: Facts): Goods {
  const { id, code, storageClass, unitMl, unitG } = g.item;
  return { item: id, itemCode: code, lot: lotNumber(id, g.lot, facts), qty: g.qty, storageClass, unitMl, unitG };
}
