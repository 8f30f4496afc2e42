import {
  addQty,
  fail,
  formatQty,
  isWholeStep,
  ok,
  ONE,
  qty,
  ZERO,
  type BinId,
  type ItemId,
  type Qty,
  type Result,
  type SiteId,
} from '#core/base';
import { compareKeys, keyText, type StockKey } from './key.ts';
import { movementKeys, type Movement } from './movement.ts';
import { isOutside } from './outside.ts';

/** A real key and the net change to it; `line` is the first movement that takes from it, or else the first that adds. */
export type KeyDelta = { readonly key: StockKey; readonly delta: Qty; readonly line: number };

/** Why a list of movements cannot be posted at all, whatever is in stock. `line` counts from 0. */
export type PlanFault =
  { code: 'stock.nothingToMove'; line: number } | { code: 'stock.staysPut'; line: number } | { code: 'stock.serialNotOne'; line: number };

/** What to write: keys that lose and keys that gain, each in lock order. */
export type PostingPlan = { readonly takes: readonly KeyDelta[]; readonly puts: readonly KeyDelta[] };

/** Folds movements into one net change per real stock key, in lock order.
 *  Shape:  movements in; deltas out, without those that come to nothing.
 *  Errors: the first movement that moves nothing, goes nowhere, or moves a serial as anything but one. */
export function planPosting(movements: readonly Movement[]): Result<PostingPlan, PlanFault> {
  const deltas = new Map<string, { key: StockKey; delta: Qty; line: number; takes: boolean }>();
  for (const [line, movement] of movements.entries()) {
    if (movement.qty <= 0) return fail({ code: 'stock.nothingToMove', line });
    if (movement.serial !== null && movement.qty !== ONE) return fail({ code: 'stock.serialNotOne', line });
    const { from, to } = movementKeys(movement);
    if (keyText(from) === keyText(to)) return fail({ code: 'stock.staysPut', line });
    for (const [key, change] of [
      [from, -movement.qty],
      [to, movement.qty],
    ] as const) {
      if (isOutside(key.bin)) continue;
      const text = keyText(key);
      const seen = deltas.get(text);
      const takes = change < 0;
      if (!seen) deltas.set(text, { key, delta: qty(change), line, takes });
      else {
        seen.delta = addQty(seen.delta, qty(change));
        if (takes && !seen.takes) Object.assign(seen, { line, takes });
      }
    }
  }
  const ordered = [...deltas.values()].filter((d) => d.delta !== 0).sort((a, b) => compareKeys(a.key, b.key));
  const plain = ordered.map(({ key, delta, line }) => ({ key, delta, line }));
  return ok({ takes: plain.filter((d) => d.delta < 0), puts: plain.filter((d) => d.delta > 0) });
}

/** What a posting must agree with besides the balances. Bins of the outside world are in no site and not in the map. */
export type PostingFacts = {
  readonly document: { readonly site: SiteId; readonly isTransfer: boolean };
  readonly sites: ReadonlyMap<BinId, { readonly site: SiteId; readonly address: string; readonly siteName: string }>;
  readonly items: ReadonlyMap<ItemId, { readonly code: string; readonly decimals: number }>;
};

/** Refuses movements that no balance could make right: a quantity finer than its item is counted, goods that would change site.
 *  Errors: `stock.finerThanItem`; `stock.acrossSites` for a movement whose real ends lie at two sites, or at another site than its
 *          document, unless the document is a transfer.
 *  Source: docs/architecture.md, "A site is a boundary". */
export function checkMovements(
  movements: readonly Movement[],
  facts: PostingFacts,
): Result<
  true,
  | { code: 'stock.finerThanItem'; item: string; asked: string; decimals: number }
  | { code: 'stock.acrossSites'; line: number; bin: string; site: string }
> {
  for (const [line, movement] of movements.entries()) {
    const item = facts.items.get(movement.item);
    if (item && !isWholeStep(movement.qty, item.decimals))
      return fail({ code: 'stock.finerThanItem', item: item.code, asked: formatQty(movement.qty), decimals: item.decimals });
    if (facts.document.isTransfer) continue;
    for (const place of [movement.from, movement.to]) {
      const at = facts.sites.get(place.bin);
      if (at && at.site !== facts.document.site) return fail({ code: 'stock.acrossSites', line, bin: at.address, site: at.siteName });
    }
  }
  return ok(true);
}

/** Decides whether the locked balances can bear a plan.
 *  Shape:  `there` maps `keyText` to the balance now; a key that is missing holds nothing.
 *  Errors: the first key, in lock order, that would go below zero, with what was asked of it and what there is.
 *  Source: docs/architecture.md, "A bin never goes below zero". */
export function decidePosting(
  plan: PostingPlan,
  there: ReadonlyMap<string, Qty>,
): Result<PostingPlan, { code: 'stock.binShort'; short: KeyDelta; asked: Qty; there: Qty }> {
  for (const short of plan.takes) {
    const held = there.get(keyText(short.key)) ?? ZERO;
    if (held + short.delta < 0) {
      return fail({ code: 'stock.binShort', short, asked: qty(-short.delta), there: held });
    }
  }
  return ok(plan);
}
