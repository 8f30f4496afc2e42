import { maxQty, subQty, ZERO, type Qty } from '#core/base';

/** How much of an order can be picked now (F6). `shipped` orders have nothing left to ready. */
export type Readiness = 'all' | 'part' | 'nothing' | 'done';

/** One line: what is still to be shipped, what of that is promised, and what somebody looked for in vain. Thousandths of the base unit. */
export type ReadyLine = { readonly open: Qty; readonly promised: Qty; readonly notFound: Qty };

/** Reckons whether all, part or nothing of an order can be picked. */
export function reckonReady(lines: readonly ReadyLine[]): Readiness {
  const open = lines.filter((line) => line.open > 0);
  if (open.length === 0) return 'done';
  if (open.every((line) => canBePicked(line) >= line.open)) return 'all';
  return open.some((line) => canBePicked(line) > 0) ? 'part' : 'nothing';
}

// A promise on goods that were not where the record says can be kept only when they are found again.
const canBePicked = (line: ReadyLine): Qty => subQty(line.promised, line.notFound);

/** The first line that keeps an order from being picked whole, and of how much (F6); null where nothing does. */
export function blockingLine<Line extends ReadyLine>(lines: readonly Line[]): { readonly line: Line; readonly qty: Qty } | null {
  const line = lines.find((l) => l.open > 0 && canBePicked(l) < l.open);
  return line ? { line, qty: subQty(line.open, maxQty(ZERO, canBePicked(line))) } : null;
}
