import type { BinId, Qty } from '#core/base';
import type { BinFact, Facts, ItemFact } from '#core/floor';
import { checkBinRules } from '#core/places';
import { goodsIn, goodsOf } from './doubt.ts';
import { suggestPutAway, type PutAwaySuggestion } from './put-away.ts';

/** Goods for which a bin is looked for, and where they are now. */
export type Homeless = { readonly from: BinId; readonly item: ItemFact; readonly lot: string | null; readonly qty: Qty };

const STORES: Readonly<Record<string, string>> = { cold: 'cold', locked: 'cage' };
const MOST_EMPTY = 40;

/** Where goods in the hand would best go, by what the device knows (I2). */
export function suggestFor(hand: Homeless, facts: Facts): PutAwaySuggestion | null {
  const homes = new Map(hand.item.homes.map((h) => [h.bin as number, h]));
  const lying = facts.contentsOf(hand.item.id);
  const same = new Set(lying.map((c) => c.bin as number));
  const sameLot = new Set(lying.filter((c) => c.lot !== null && c.lot === hand.lot).map((c) => c.bin as number));
  const purpose = STORES[hand.item.storageClass] ?? 'storage';
  const walk = facts.bin(hand.from)?.walk ?? 0;
  const known = [...new Set([...homes.keys(), ...same])].flatMap((id) => facts.bin(id) ?? []);
  const empties: BinFact[] = [];
  for (const bin of facts.bins())
    if (bin.use === 'shelf' && bin.pickable && bin.purpose === purpose && !same.has(bin.id) && !homes.has(bin.id)) empties.push(bin);
  empties.sort((a, b) => a.walk - b.walk || a.id - b.id);
  const free: BinFact[] = [];
  for (const bin of empties) {
    if (free.length >= MOST_EMPTY) break;
    if (facts.contents(bin.id).length === 0) free.push(bin);
  }
  const candidates = [...known.filter((b) => b.use === 'shelf' && b.pickable), ...free].map((bin) => {
    const content = goodsIn(bin.id, facts);
    const units = content.reduce((sum, g) => sum + g.qty, 0);
    const most = [homes.get(bin.id)?.max ?? null, bin.rules.units].filter((m) => m !== null);
    return {
      bin: bin.id,
      isHome: homes.has(bin.id),
      holdsSameLot: sameLot.has(bin.id),
      holdsSameItem: same.has(bin.id),
      isEmpty: content.length === 0 && !homes.has(bin.id),
      room: most.length === 0 ? null : (Math.max(0, Math.min(...most) - units) as Qty),
      walk: bin.walk,
      breaksRule: checkBinRules(bin.rules, content, [goodsOf(hand, facts)]) !== null,
    };
  });
  return suggestPutAway(hand.qty, walk, candidates);
}
