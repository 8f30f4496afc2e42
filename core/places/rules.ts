import { type BinId, type ItemId, type LotId, type Qty } from '#core/base';

/** What a bin allows (A5). `capacity` is in thousandths of a base unit, null where nobody set one. */
export type BinRules = {
  readonly bin: BinId;
  readonly address: string;
  readonly oneItem: boolean;
  readonly oneLot: boolean;
  readonly capacity: Qty | null;
};

/** What lies in the bin now, one entry per item and lot. */
export type BinContent = { readonly item: ItemId; readonly itemCode: string; readonly lot: LotId | null; readonly qty: Qty };

export type RuleBreak =
  | { code: 'places.oneItem'; bin: string; holds: string }
  | { code: 'places.oneLot'; bin: string; item: string }
  | { code: 'places.full'; bin: string; room: number };

/** Whether goods may enter a bin: the first rule that they would break, or null.
 *  Units:  thousandths of the base unit. */
export function checkBinRules(
  rules: BinRules,
  content: readonly BinContent[],
  entering: { item: ItemId; itemCode: string; lot: LotId | null; qty: Qty },
): RuleBreak | null {
  const other = content.find((c) => c.item !== entering.item && c.qty > 0);
  if (rules.oneItem && other) return { code: 'places.oneItem', bin: rules.address, holds: other.itemCode };
  const otherLot = content.find((c) => c.item === entering.item && c.lot !== entering.lot && c.qty > 0);
  if (rules.oneLot && otherLot) return { code: 'places.oneLot', bin: rules.address, item: entering.itemCode };
  if (rules.capacity !== null) {
    const held = content.reduce((sum, c) => sum + c.qty, 0);
    const room = rules.capacity - held;
    if (entering.qty > room) return { code: 'places.full', bin: rules.address, room: Math.max(0, room) / 1000 };
  }
  return null;
}
