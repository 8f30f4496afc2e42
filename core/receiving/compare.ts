import { addQty, subQty, ZERO, type ItemId, type Qty } from '#core/base';
import { isAgreed, NO_TOLERANCE, type Tolerance } from './tolerance.ts';

/** How a line stands against what was expected. The same five words are used for receipts, picks and counts. */
export type LineStanding = 'waiting' | 'short' | 'full' | 'over' | 'notOrdered';

export type Expected = { readonly item: ItemId; readonly qty: Qty };
export type Entry = { readonly item: ItemId; readonly qty: Qty };
export type ComparisonLine = {
  readonly item: ItemId;
  readonly expected: Qty;
  readonly arrived: Qty;
  readonly difference: Qty;
  readonly standing: LineStanding;
};
export type Comparison = readonly ComparisonLine[];

/** Compares what has been scanned with what is still expected, item by item (C7, C13).
 *  Shape:  expected lines first, in their order, then items that nobody ordered; several lines of one item are one.
 *          What is off by no more than is agreed is full, with its difference.
 *  Units:  thousandths of the base unit; difference is arrived minus expected. */
export function compareDelivery(expected: readonly Expected[], entries: readonly Entry[], agreed: Tolerance = NO_TOLERANCE): Comparison {
  const lines = new Map<ItemId, { expected: Qty; arrived: Qty; ordered: boolean }>();
  for (const line of expected) {
    const seen = lines.get(line.item);
    if (seen) seen.expected = addQty(seen.expected, line.qty);
    else lines.set(line.item, { expected: line.qty, arrived: ZERO, ordered: true });
  }
  for (const entry of entries) {
    const seen = lines.get(entry.item);
    if (seen) seen.arrived = addQty(seen.arrived, entry.qty);
    else lines.set(entry.item, { expected: ZERO, arrived: entry.qty, ordered: false });
  }
  return [...lines].map(([item, { expected: due, arrived, ordered }]) => ({
    item,
    expected: due,
    arrived,
    difference: subQty(arrived, due),
    standing: standing(due, arrived, ordered, agreed),
  }));
}

/** The same for goods that a customer brings back: of what left nobody expects all, so that only what is more than left, or never left with
 *  it, differs. Lines of which nothing came back are none. */
export function compareReturn(sent: readonly Expected[], entries: readonly Entry[]): Comparison {
  return compareDelivery(sent, entries)
    .filter((l) => l.arrived !== ZERO)
    .map((l) =>
      l.standing === 'short'
        ? { ...l, standing: 'full' as const, difference: ZERO }
        : l.standing === 'full'
          ? { ...l, difference: ZERO }
          : l,
    );
}

function standing(expected: Qty, arrived: Qty, ordered: boolean, agreed: Tolerance): LineStanding {
  if (!ordered) return 'notOrdered';
  if (arrived > 0 && expected > 0 && isAgreed(expected, arrived, agreed)) return 'full';
  if (arrived === 0 && expected > 0) return 'waiting';
  if (arrived < expected) return 'short';
  return arrived > expected ? 'over' : 'full';
}
