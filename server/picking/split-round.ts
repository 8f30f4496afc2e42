import { subQty, type Qty } from '#core/base';
import { wayOfRound } from '#core/routing';
import { announce, asQty, lockRows, makeDocument, query, refuse, type Trx } from '#server/kernel';
import { lockOrders } from '#server/orders';
import { worksAt } from '#server/people';
import { readFloor } from '#server/places';
import { lockStock } from '#server/stock';
import { stateWord } from './put-back.ts';
import { selectInHand } from './store-in-hand.ts';
import { insertPicks, selectPicks, updatePlanned, type PickRow } from './store-picks.ts';
import { findRound, insertRound, lockFreeCart, selectWayPlaces, updateThrown, updateWay, type RoundListRow } from './store-rounds.ts';

/** Where the rest of some picks goes: off the round, to another one that is walked, or to a new one with a cart of its own. */
type ToOther = { readonly kind: 'round'; readonly round: number } | { readonly kind: 'new'; readonly person: number | null };
export type SplitTo = { readonly kind: 'out' } | ToOther;

/** Takes what is still open of some picks off a round (G8): nobody is on their way for it then, and its order can be picked anew; or gives
 *  it to another round. What was picked stays where it is. A round of which nothing is left ends.
 *  Shape:  returns the round that has them now, null where none has; how many picks; and whether the first one ended.
 *  Errors: a round that has ended, or another hand's; picks that are not on it or have nothing open; a round given to itself; no free
 *          cart.
 *  Locks:  the rounds, their orders, their items, then a free cart. */
export async function splitRound(
  trx: Trx,
  command: {
    round: number;
    picks: readonly number[];
    to: SplitTo;
    site: number;
    siteName: string;
    person: number;
    isLead: boolean;
  },
): Promise<{ id: number | null; number: string | null; picks: number; ended: boolean }> {
  const { to } = command;
  const rounds = await lockRounds(trx, command.site, to.kind === 'round' ? [command.round, to.round] : [command.round]);
  const from = rounds.find((r) => r.id === command.round) as RoundListRow;
  if (!command.isLead && from.person_id !== null && from.person_id !== command.person)
    refuse({ code: 'picking.othersRound', number: from.number, person: from.person ?? '' });
  if (to.kind === 'round' && to.round === from.id) refuse({ code: 'picking.sameRound', number: from.number });
  if (to.kind === 'new' && to.person !== null && !(await worksAt(trx, to.person, command.site)))
    refuse({ code: 'picking.unknownPerson', id: to.person });
  await lockOrders(trx, [...new Set(rounds.flatMap((r) => r.order_ids))], command.site);
  const items = (await selectPicks(trx, from.id)).map((p) => p.item);
  await lockStock(
    trx,
    [...new Set(items)].map((item) => ({ item, site: command.site })),
  );
  const picks = await selectPicks(trx, from.id);
  const moved = command.picks.map((id) => {
    const pick = picks.find((p) => p.id === id) ?? refuse({ code: 'picking.unknownPick', id });
    return { pick, open: subQty(asQty(pick.qty), asQty(pick.picked)) };
  });
  const open = moved.filter((m) => m.open > 0);
  if (open.length === 0) return refuse({ code: 'picking.nothingOpen', number: from.number });
  for (const { pick } of open) await updatePlanned(trx, pick.id, asQty(pick.picked));
  const target = await targetOf(trx, command, rounds);
  if (target) {
    const own = await selectPicks(trx, target.id);
    await insertPicks(trx, target.id, intoSlots(open, own));
    await drawWay(trx, command.site, target);
  }
  const left = (await selectPicks(trx, from.id)).filter((p) => asQty(p.qty) > asQty(p.picked));
  const ended = left.length === 0 && (await selectInHand(trx, { round: from.id })).length === 0;
  if (ended) await updateThrown(trx, from.id, command.person);
  else await drawWay(trx, command.site, from);
  for (const round of [from.id, target?.id]) if (round !== undefined) announce(trx, 'picking', { round });
  announce(trx, 'orders');
  return { id: target?.id ?? null, number: target?.number ?? null, picks: open.length, ended };
}

async function lockRounds(trx: Trx, site: number, ids: readonly number[]): Promise<RoundListRow[]> {
  await lockRows(trx, 'round', ids);
  const rounds: RoundListRow[] = [];
  for (const id of new Set(ids)) {
    const round = await findRound(trx, id);
    if (round.site_id !== site) refuse({ code: 'people.otherSite', what: `Round ${round.number}`, site: round.site });
    if (round.state !== 'open') refuse({ code: 'picking.roundDone', number: round.number, state: stateWord(round.state) });
    rounds.push(round);
  }
  return rounds;
}

async function targetOf(
  trx: Trx,
  command: { to: SplitTo; site: number; siteName: string; person: number },
  rounds: readonly RoundListRow[],
): Promise<{ id: number; number: string; cart_bin: number } | null> {
  const { to, site, person } = command;
  if (to.kind === 'out') return null;
  if (to.kind === 'round') return rounds.find((r) => r.id === to.round) ?? null;
  const cart = await lockFreeCart(trx, site);
  if (cart === null) return refuse({ code: 'picking.noCart', site: command.siteName });
  const document = await makeDocument(trx, 'round', { site, person });
  const id = await insertRound(trx, { number: document.number, document: document.id, site, cart, walker: to.person, person });
  return { id, number: document.number, cart_bin: cart };
}

// An order keeps the slot that it has on the other cart; else it gets the next.
function intoSlots(moved: readonly { pick: PickRow; open: Qty }[], own: readonly PickRow[]) {
  const slots = new Map(own.map((p) => [p.order_id, p.slot]));
  return moved.map(({ pick, open }) => {
    const slot = slots.get(pick.order_id) ?? Math.max(0, ...slots.values()) + 1;
    slots.set(pick.order_id, slot);
    return { line: pick.line_id, item: pick.item, bin: pick.bin, lot: pick.lot_id, qty: open, slot };
  });
}

async function drawWay(trx: Trx, site: number, round: { id: number; cart_bin: number }): Promise<void> {
  const bins = await query<{ bin: number }>(trx, `SELECT DISTINCT bin_id AS bin FROM round_pick WHERE round_id = ? AND qty > 0`, [
    round.id,
  ]);
  const places = await selectWayPlaces(trx, { site, cart: round.cart_bin, bins: bins.map((b) => b.bin) });
  await updateWay(trx, round.id, wayOfRound(await readFloor(trx, site), places));
}
