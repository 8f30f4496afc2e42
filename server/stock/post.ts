import { formatQty, subQty, type DocumentId, type ItemId, type PersonId, type SiteId } from '#core/base';
import { decideCuts, decidePosting, isOutside, planPosting, type KeyDelta, type Movement } from '#core/stock';
import { refuseAgainstBinRules } from './bin-rules.ts';
import { announce, refuse, valueOf, type Trx } from '#server/kernel';
import {
  insertMovements,
  lockBalances,
  lockPromises,
  selectBinPowers,
  selectKeyNames,
  selectPromisesLatestFirst,
  selectSerialPlaces,
  selectUsableAndPromised,
  takeFromBalances,
  putIntoBalances,
  updatePromiseCuts,
} from './store.ts';

/** Movements with the document that explains them. Every change of stock in Dock Row is one of these. */
export type Posting = {
  readonly document: DocumentId;
  readonly person: PersonId;
  readonly device?: string | null;
  /** When it happened, where that is not now: history that is brought in. */
  readonly at?: Date;
  readonly movements: readonly Movement[];
  /** Who may break a rule of a bin, and does: a lead with a reason, a count of what lies there, an undo. Never a retired bin. */
  readonly overBinRules?: boolean;
};

/** Posts movements: the one door to the ledger and the balances.
 *  Shape:  all or nothing, in the caller's transaction; returns the ledger's numbers, in the order of the movements.
 *  Errors: refuses `stock.binShort` naming the line, the bin and what is there; `stock.serialElsewhere`; and movements that move nothing.
 *          And what a rule of a bin forbids (A5), the one place where stock enters bins.
 *  Locks:  bins with rules that take stock in, in order of id; the balances touched, in the order of `compareKeys`, so that two postings never wait for each other in a circle; then, where
 *          stock that could be promised went away, the promises of that item at that site.
 *  Source: docs/architecture.md, "A bin never goes below zero". */
export async function post(trx: Trx, posting: Posting): Promise<readonly number[]> {
  if (posting.movements.length === 0) return [];
  const plan = valueOf(planPosting(posting.movements));
  await refuseAgainstBinRules(trx, posting.movements, posting.overBinRules ?? false);
  const keys = [...plan.takes, ...plan.puts].map((delta) => delta.key);
  let locked = await lockBalances(trx, keys);
  let decision = decidePosting(plan, locked.quantities);
  if (!decision.ok) {
    // A row that was emptied and filled again while we waited for it is not in the first statement's snapshot: look once more.
    locked = await lockBalances(trx, keys);
    decision = decidePosting(plan, locked.quantities);
  }
  if (!decision.ok) return refuseShort(trx, decision.error.short, formatQty(decision.error.asked), formatQty(decision.error.there));
  await refuseSerialsHere(trx, posting.movements, plan.takes);
  await takeFromBalances(trx, plan.takes, locked);
  await putIntoBalances(trx, plan.puts);
  const ids = await insertMovements(trx, posting);
  await keepPromisesTrue(trx, posting.movements);
  announce(trx, 'stock', { items: [...new Set(posting.movements.map((m) => m.item))].slice(0, 50) });
  return ids;
}

async function refuseShort(trx: Trx, short: KeyDelta, asked: string, there: string): Promise<never> {
  const names = await selectKeyNames(trx, short.key);
  return refuse({ code: 'stock.binShort', line: short.line, ...names, asked, there });
}

// The unique index would refuse too, but by then the transaction is lost and could not say where the serial is.
async function refuseSerialsHere(trx: Trx, movements: readonly Movement[], takes: readonly KeyDelta[]): Promise<void> {
  const leaving = new Set(takes.map((t) => t.key.serial));
  const entering = movements.filter((m) => m.serial !== null && isOutside(m.from.bin) && !isOutside(m.to.bin) && !leaving.has(m.serial));
  if (entering.length === 0) return;
  const [place] = await selectSerialPlaces(
    trx,
    entering.map((m) => m.serial as number),
  );
  if (place) refuse({ code: 'stock.serialElsewhere', ...place });
}

// What is promised must be there. Where usable stock of an item left a site by anything but its own shipment, the least urgent
// promises give way in the same transaction, and their orders show as short at once.
async function keepPromisesTrue(trx: Trx, movements: readonly Movement[]): Promise<void> {
  if (movements.every((m) => isOutside(m.from.bin))) return;
  const powers = await selectBinPowers(trx, movements);
  const usable = new Map<string, { item: ItemId; site: SiteId; delta: number }>();
  for (const movement of movements) {
    for (const [place, sign] of [
      [movement.from, -1],
      [movement.to, 1],
    ] as const) {
      const power = powers.get(place.bin);
      if (!power?.promisable || place.condition !== 'sound') continue;
      const key = `${movement.item}|${power.site}`;
      const seen = usable.get(key) ?? { item: movement.item, site: power.site, delta: 0 };
      usable.set(key, { ...seen, delta: seen.delta + sign * movement.qty });
    }
  }
  const losers = [...usable.values()].filter((entry) => entry.delta < 0);
  if (losers.length > 0) await trimPromises(trx, losers);
}

/** Cuts promises back to what is usable, the least urgent first, never those whose goods are already in hand.
 *  Locks:  the promises of each item at its site, in order. */
export async function trimPromises(trx: Trx, pairs: readonly { item: ItemId; site: SiteId }[]): Promise<number> {
  await lockPromises(trx, pairs);
  let cutLines = 0;
  for (const { item, site, usable, promised } of await selectUsableAndPromised(trx, pairs)) {
    if (promised <= usable) continue;
    const cuts = decideCuts(subQty(promised, usable), await selectPromisesLatestFirst(trx, item, site));
    await updatePromiseCuts(trx, cuts);
    cutLines += cuts.length;
    if (cuts.length > 0) announce(trx, 'orders', { item });
  }
  return cutLines;
}
