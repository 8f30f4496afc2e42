import { minQty, qty, subQty, ZERO, type ItemId, type Qty } from '#core/base';

/** A line of a purchase order that still expects goods. Thousandths of the base unit. */
export type OpenPurchaseLine = { readonly line: number; readonly item: ItemId; readonly open: Qty };
/** What a receipt means for a line: what it expected when the receipt was posted, and what it got. */
export type SettledLine = { readonly line: number; readonly item: ItemId; readonly expected: Qty; readonly received: Qty };

/** Spreads what arrived over the order's open lines of the item, oldest first; the last line of an item takes what is over.
 *  Shape:  one entry per line, also for lines that got nothing. Items that no line expects are in none of them.
 *  Units:  thousandths. What arrived of an ordered item is handed out to the last piece. */
export function settleLines(lines: readonly OpenPurchaseLine[], arrived: ReadonlyMap<ItemId, Qty>): readonly SettledLine[] {
  const left = new Map(arrived);
  return lines.map(({ line, item, open }, i) => {
    const rest = left.get(item) ?? ZERO;
    const isLast = !lines.slice(i + 1).some((l) => l.item === item);
    const received = isLast ? rest : minQty(rest, qty(Math.max(0, open)));
    left.set(item, subQty(rest, received));
    return { line, item, expected: open, received };
  });
}
