import { sumQty, type BinId, type DocumentId, type ItemId, type LotId, type PersonId, type Qty, type SerialId } from '#core/base';
import type { Movement } from '#core/stock';
import { qtyText } from '#contract/base';
import { announce, asQty, makeDocument, query, refuse, type Trx } from '#server/kernel';
import { lockOpenOrder, lockOrders, reopenPacking, selectMaking, updateCancelled } from '#server/orders';
import { findDefaultBin } from '#server/places';
import { lockStock, post } from '#server/stock';
import { deletePromises } from './store-lines.ts';
import { dropPlans } from './store-picks.ts';
import { lockRoundAt, updateThrown } from './store-rounds.ts';
import { markReturned, selectInHand, type InHandRow } from './store-in-hand.ts';

export type PutBack = { pieces: string; bin: string | null };
/** `person`: null where nobody asked for it; then nothing may be in hand. */
type Who = { readonly site: number; readonly person: number | null };

/** Throws a round away: its stops are dropped, its cart is free again, and what lies on the cart goes to arrivals, from where it is put
 *  away like anything that came. The orders keep their promises.
 *  Errors: a round that has ended, or of another site.
 *  Locks:  the round, its orders, their items, then what `post` locks. */
export async function throwRoundAway(trx: Trx, command: { site: number; person: number; round: number }): Promise<PutBack> {
  const round = await lockRoundAt(trx, command.round, command.site);
  if (round.state !== 'open') refuse({ code: 'picking.roundDone', number: round.number, state: stateWord(round.state) });
  await lockOrders(trx, round.order_ids, command.site);
  const back = await putBack(trx, { ...command, reason: `Put back: ${round.number} was thrown away` }, { round: round.id });
  await dropPlans(trx, { round: round.id });
  await updateThrown(trx, round.id, command.person);
  announce(trx, 'picking', { round: round.id });
  return back;
}

/** Takes an order out of the hands that work on it: off its rounds, from carts and benches, out of its parcels; the goods go to arrivals.
 *  The order stays open and keeps its promises.
 *  Errors: an order that is not open, or of another site.
 *  Locks:  the order, its items, then what `post` locks. Its rounds need no lock of their own: every pick, put-down and trouble of an order
 *          happens under the order's lock. */
export async function putOrderBack(trx: Trx, command: Who & { order: number }): Promise<PutBack> {
  const order = await lockOpenOrder(trx, command.order, command.site);
  await takeOffRounds(trx, command.site, [order.id]);
  return putBack(trx, { ...command, reason: `Put back from ${order.number}` }, { order: order.id });
}

/** Cancels an order, and with it those that make kits for it: what is in hands for them is put back, what was promised is free again, what
 *  has left stays on record.
 *  Shape:  `also`: the numbers of the orders of kits.
 *  Errors: an order that is not open, or of another site.
 *  Locks:  as `putOrderBack`, of all of them. */
export async function cancelOrder(trx: Trx, command: Who & { order: number; reason: string }): Promise<PutBack & { also: string[] }> {
  const order = await lockOpenOrder(trx, command.order, command.site);
  const making = await selectMaking(trx, order.id);
  const kits = (
    await lockOrders(
      trx,
      making.map((m) => m.id),
      command.site,
    )
  ).filter((k) => k.state === 'open');
  const all = [order.id, ...kits.map((k) => k.id)];
  await takeOffRounds(trx, command.site, all);
  const goods = [];
  for (const id of all) goods.push(...(await selectInHand(trx, { order: id })));
  const back = await putGoodsBack(trx, { ...command, reason: `Put back: ${order.number} was cancelled` }, goods);
  for (const id of all) {
    await deletePromises(trx, id);
    await updateCancelled(trx, id, command);
  }
  return { ...back, also: kits.map((k) => k.number) };
}

// All their items at once, before anything is read of their goods: promises and plans of them change then.
async function takeOffRounds(trx: Trx, site: number, orders: readonly number[]): Promise<void> {
  const items = await query<{ item: number }>(trx, `SELECT DISTINCT item_id AS item FROM order_line WHERE order_id = ANY(?::int[])`, [
    orders,
  ]);
  await lockStock(
    trx,
    items.map(({ item }) => ({ item, site })),
  );
  for (const order of orders) await dropPlans(trx, { order });
}

async function putBack(trx: Trx, command: Who & { reason: string }, whose: { round: number } | { order: number }): Promise<PutBack> {
  return putGoodsBack(trx, command, await selectInHand(trx, whose));
}

/** Puts goods that are in somebody's hands for an order back to arrivals; they are nobody's then. */
export async function putGoodsBack(trx: Trx, command: Who & { reason: string }, goods: readonly InHandRow[]): Promise<PutBack> {
  await reopenPacking(trx, [...new Set(goods.map((g) => g.order_id))]);
  announce(trx, 'picking');
  announce(trx, 'orders');
  announce(trx, 'shipping');
  if (goods.length === 0) return { pieces: '0', bin: null };
  const { person } = command;
  if (person === null) throw new Error('Goods are put back by somebody.');
  const arrivals = await findDefaultBin(trx, command.site, 'arrivals');
  const document = await makeDocument(trx, 'putBack', { site: command.site, person });
  // First they are nobody's, then they move: the ledger does not let go of goods that are an order's.
  await markReturned(trx, goods);
  await post(trx, {
    document: document.id as DocumentId,
    person: person as PersonId,
    movements: goods.map((g) => movementOf(g, arrivals.id, command.reason)),
    // They lay there before; that arrivals is full must not keep a cart from being emptied.
    overBinRules: true,
  });
  return { pieces: qtyText(sumQty(goods.map((g) => asQty(g.qty) as Qty))), bin: arrivals.address };
}

function movementOf(g: InHandRow, to: BinId, reason: string): Movement {
  return {
    item: g.item_id as ItemId,
    lot: g.lot_id as LotId | null,
    serial: g.serial_id as SerialId | null,
    qty: asQty(g.qty),
    from: { bin: g.bin_id as BinId, unit: null, condition: 'sound' },
    to: { bin: to, unit: null, condition: 'sound' },
    reason,
  };
}

/** How a round that has ended is said. */
export function stateWord(state: 'open' | 'putDown' | 'thrown'): string {
  return { open: 'open', putDown: 'put down', thrown: 'thrown away' }[state];
}
