import { type Qty } from '#core/base';

/** How much of an order can be picked now (F6). `shipped` orders have nothing left to ready. */
export type Readiness = 'all' | 'part' | 'nothing' | 'done';

/** One line: what is still to be shipped, and what of that is promised. Thousandths of the base unit. */
export type ReadyLine = { readonly open: Qty; readonly promised: Qty };

/** Reckons whether all, part or nothing of an order can be picked. */
export function reckonReady(lines: readonly ReadyLine[]): Readiness {
  const open = lines.filter((line) => line.open > 0);
  if (open.length === 0) return 'done';
  if (open.every((line) => line.promised >= line.open)) return 'all';
  return open.some((line) => line.promised > 0) ? 'part' : 'nothing';
}
