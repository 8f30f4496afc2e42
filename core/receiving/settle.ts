import { addQty, minQty, qty, subQty, sumQty, ZERO, type ItemId, type Qty } from '#core/base';
import { isAgreed, type Tolerance } from './tolerance.ts';

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

/** The lines of which what is missing is within what is agreed with the supplier (C13): nothing more of them is expected.
 *  Shape:  judged item by item, as the lead sees it; of an item on several lines those that got less than they expected. */
export function linesAgreedShort(settled: readonly SettledLine[], agreed: Tolerance): readonly number[] {
  const items = new Set(settled.map((s) => s.item));
  return [...items].flatMap((item) => {
    const own = settled.filter((s) => s.item === item);
    const expected = sumQty(own.map((s) => qty(Math.max(0, s.expected))));
    const received = own.reduce((sum, s) => addQty(sum, s.received), ZERO);
    const isShort = received > 0 && received < expected && isAgreed(expected, received, agreed);
    return isShort ? own.filter((s) => s.received < s.expected).map((s) => s.line) : [];
  });
}
