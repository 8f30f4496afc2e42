import { formatQty, type ItemId, type SiteId } from '#core/base';
import {
  applyMovements,
  applyStandingHolds,
  checkMovements,
  decideCuts,
  decidePosting,
  isOutside,
  missingLoose,
  planPosting,
  poolOf,
  takeOutOfUnits,
  unitsFilled,
  type KeyDelta,
  type Movement,
  type Pool,
  type PostingPlan,
  type StockKey,
} from '#core/stock';
import { announce, lockRows, refuse, together, valueOf, type Trx } from '#server/kernel';
import { refuseAgainstBinRules } from './bin-rules.ts';
import { insertHoldLines } from './store-holds.ts';
import { readPools, selectUsableAndPromised, updatePromiseCuts } from './store-promises.ts';
import {
  insertMovements,
  lockBalances,
  lockPostingFacts,
  lockStock,
  lockStockOf,
  putIntoBalances,
  selectKeyNames,
  selectMissedInHand,
  selectMissedOnCart,
  selectSerialPlaces,
  selectInUnits,
  selectUnitInTwoBins,
  takeFromBalances,
  type BinFactRow,
  type Posting,
  type PostingFactRows,
} from './store.ts';

export type { Posting } from './store.ts';

/** Posts movements: the one door to the ledger and the balances.
 *  Shape:  all or nothing, in the caller's transaction; returns the ledger's numbers, in the order of the movements. Goods that come under
 *          a hold that stands are posted as held. What is taken loose and lies in a logistic unit of that bin is taken out of it first.
 *  Errors: refuses `stock.ordersGoods` where goods in hand for an order would be left without their order; `stock.binShort` naming the
 *          line, the bin and what is there; `stock.serialElsewhere`; movements that move nothing, that are finer than their item is
 *          counted, or that leave the document's site; and what a rule of a bin forbids (A5).
 *  Locks:  the items at their sites, under which nobody else moves or promises them; then the bins. Whatever it reads, it reads after that.
 *  Source: docs/architecture.md, "A bin never goes below zero". */
export async function post(trx: Trx, posting: Posting): Promise<readonly number[]> {
  if (posting.movements.length === 0) return [];
  const asked = keysOf(valueOf(planPosting(posting.movements)));
  const units = unitsFilled(posting.movements);
  // One way to the database: what stands later is read when what stands earlier is locked.
  const [, , facts, balances] = await together([
    units.length > 0 && lockRows(trx, 'unit', units),
    lockStockOf(trx, posting.movements),
    lockPostingFacts(trx, posting.document, posting.movements),
    lockBalances(trx, asked),
  ]);
  const { movements: judged, caught } = judge(posting, facts);
  await refuseAgainstBinRules(trx, judged, facts, posting.overBinRules ?? false);
  const first = valueOf(planPosting(judged));
  // What a hold caught lies under another key than was asked for; and so does what is in a unit.
  const seen = caught.length > 0 ? await lockBalances(trx, keysOf(first)) : balances;
  const missing = missingLoose(first, seen.quantities);
  const opened =
    missing.length > 0
      ? takeOutOfUnits(
          missing,
          await selectInUnits(
            trx,
            missing.map(({ key }) => key),
          ),
        )
      : [];
  const decision = decidePosting(first, opened.length > 0 ? applyMovements(seen.quantities, opened) : seen.quantities);
  if (!decision.ok) return refuseShort(trx, decision.error.short, formatQty(decision.error.asked), formatQty(decision.error.there));
  const movements = [...opened, ...judged];
  const plan = opened.length > 0 ? valueOf(planPosting(movements)) : first;
  const locked = opened.length > 0 ? await lockBalances(trx, keysOf(plan)) : seen;
  await refuseSerialsHere(trx, movements, plan.takes);
  // And one way for what is written, with what must hold when it is.
  const [, , ids] = await together([
    takeFromBalances(trx, plan.takes, locked),
    putIntoBalances(trx, plan.puts),
    insertMovements(trx, { ...posting, movements }),
    insertHoldLines(
      trx,
      caught.map((c) => ({ hold: c.hold, ...heldBy(judged[c.line] as Movement) })),
    ),
    refuseOrdersGoods(trx, plan.takes, facts.bins),
    keepPromisesTrue(trx, movements, facts),
    units.length > 0 && refuseUnitInTwoBins(trx, units),
  ]);
  announceStock(trx, movements, facts.bins);
  return ids.slice(opened.length);
}

const keysOf = (plan: PostingPlan): StockKey[] => [...plan.takes, ...plan.puts].map((delta) => delta.key);

/** A change tells this many records by number; of more it says that any may be. */
const MOST_TOLD = 50;

function announceStock(trx: Trx, movements: readonly Movement[], places: readonly BinFactRow[]): void {
  const items = [...new Set(movements.map((m) => m.item))];
  const bins = [...new Set(movements.flatMap((m) => [m.from.bin, m.to.bin]))].filter((b) => !isOutside(b));
  const sites = [...new Set(places.filter((p) => !isOutside(p.id)).map((p) => p.site))];
  for (const site of sites)
    announce(trx, 'stock', {
      site,
      ...(items.length <= MOST_TOLD ? { items } : {}),
      ...(bins.length <= MOST_TOLD ? { bins } : {}),
    });
}

const heldBy = (m: Movement) => ({ item: m.item, lot: m.lot, serial: m.serial, bin: m.to.bin, unit: m.to.unit, qty: m.qty });
// What is on a cart or at a bench is in somebody's hands for an order: no hold catches it there, packing refuses it.
const HANDS = ['cart', 'packing'];

function judge(posting: Posting, facts: PostingFactRows): ReturnType<typeof applyStandingHolds> {
  valueOf(
    checkMovements(posting.movements, {
      document: { site: facts.document.site, isTransfer: facts.document.kind === 'transfer' },
      sites: new Map(facts.bins.map((b) => [b.id, { site: b.site, address: b.address, siteName: b.site_name }])),
      items: new Map(facts.items.map((i) => [i.item, i])),
    }),
  );
  const places = new Map(facts.bins.map((b) => [b.id, { site: b.site, catches: !HANDS.includes(b.use) }]));
  return applyStandingHolds(posting.movements, facts.holds, places);
}

// What is in a unit is carried with it: it can be in one bin only.
async function refuseUnitInTwoBins(trx: Trx, units: readonly number[]): Promise<void> {
  const [torn] = await selectUnitInTwoBins(trx, units);
  if (torn) refuse({ code: 'stock.unitElsewhere', ...torn });
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

// What lies on a cart or at a bench for an order is that order's: whoever takes it for anything else would leave an order that can never
// ship. The room that picks, puts down, ships or puts back says so first and posts then.
async function refuseOrdersGoods(trx: Trx, takes: readonly KeyDelta[], bins: readonly BinFactRow[]): Promise<void> {
  const inHands = new Set(bins.filter((b) => HANDS.includes(b.use)).map((b) => b.id));
  const touched = takes.filter((t) => inHands.has(t.key.bin)).map((t) => t.key);
  if (touched.length === 0) return;
  const [missed] = await selectMissedInHand(trx, touched);
  if (missed) refuse({ code: 'stock.ordersGoods', ...missed });
  const [carried] = await selectMissedOnCart(trx, touched);
  if (carried) refuse({ code: 'stock.carriedGoods', ...carried });
}

// What is promised must be there. Where usable stock of an item left a site by anything but its own shipment, the least urgent
// promises give way in the same transaction, and their orders show as short at once. Where somebody was promised goods out of a bin that
// they named, any step away from there may be one; a lot, a serial and a date go where the goods go.
async function keepPromisesTrue(trx: Trx, movements: readonly Movement[], facts: PostingFactRows): Promise<void> {
  if (movements.every((m) => isOutside(m.from.bin))) return;
  const powers = new Map(facts.bins.map((b) => [b.id, b]));
  const usable = new Map<Pool, { item: ItemId; site: SiteId; delta: number }>();
  for (const movement of movements) {
    for (const [place, sign] of [
      [movement.from, -1],
      [movement.to, 1],
    ] as const) {
      const power = powers.get(place.bin);
      if (!power?.promisable || place.condition !== 'sound') continue;
      const key = poolOf(movement.item, power.site);
      const seen = usable.get(key) ?? { item: movement.item, site: power.site, delta: 0 };
      usable.set(key, { ...seen, delta: seen.delta + sign * movement.qty });
    }
  }
  const fromBins = new Set(facts.fromBins.map((a) => poolOf(a.item, a.site)));
  const losers = [...usable].filter(([pool, entry]) => entry.delta < 0 || fromBins.has(pool)).map(([, entry]) => entry);
  if (losers.length > 0) await trimPromises(trx, losers);
}

/** Cuts promises back to what is usable and what their lines ask for, the least urgent first, never those whose goods are already in hand.
 *  Locks:  the items at their sites. */
export async function trimPromises(trx: Trx, pairs: readonly { item: ItemId; site: SiteId }[]): Promise<number> {
  await lockStock(trx, pairs);
  const doubtful = (await selectUsableAndPromised(trx, pairs)).filter((p) => p.isAsked || p.promised > p.usable);
  if (doubtful.length === 0) return 0;
  const pools = await readPools(trx, doubtful);
  let cutLines = 0;
  for (const { item, site } of doubtful) {
    const { lying, standing } = pools.get(poolOf(item, site)) ?? { lying: [], standing: [] };
    const cuts = decideCuts(lying, standing);
    await updatePromiseCuts(trx, cuts);
    cutLines += cuts.length;
    if (cuts.length > 0) announce(trx, 'orders', { site, items: [item] });
  }
  return cutLines;
}
