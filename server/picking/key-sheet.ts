import { randomUUID } from 'node:crypto';
import { ONE, qty as asSteps, subQty, ZERO, type ItemId, type Qty } from '#core/base';
import { decideKeyed, type KeyedPick } from '#core/picking';
import { asQty, query, refuse, valueOf, type Trx } from '#server/kernel';
import { lockOrders } from '#server/orders';
import { findBin } from '#server/places';
import { lockStock } from '#server/stock';
import { takeAtStop, type TakeAtStop } from './pick.ts';
import { putDownRound } from './put-down.ts';
import { stateWord } from './put-back.ts';
import { lockRoundAt } from './store-rounds.ts';
import { selectPicks, type PickRow } from './store-picks.ts';
import { reportTrouble } from './trouble.ts';

/** Posts what came back on a pick sheet (G12): all of it, or nothing. Each pick is what was written beside it; what was not brought is
 *  short, and its bin is to be counted; then all of it lies at the bench.
 *  Shape:  `lines`: every pick that is open, in any order. Returns the pieces that lie at the bench, and how many picks were short.
 *  Errors: a round that has ended; a pick that is not on it, is left out, or stands there twice; more than was to be taken; a serial too
 *          few or too many; what a scan at the stop would be refused for; a bin that is no bench.
 *  Locks:  the round, its orders, their items, then what `post` locks: all of them before the first piece moves. */
export async function keySheet(
  trx: Trx,
  command: { round: number; site: number; person: number; bench: string; lines: readonly KeyedPick[] },
): Promise<{ pieces: string; bin: string; short: number }> {
  const round = await lockRoundAt(trx, command.round, command.site);
  if (round.state !== 'open') refuse({ code: 'picking.roundDone', number: round.number, state: stateWord(round.state) });
  for (const order of await lockOrders(trx, round.order_ids, command.site)) {
    if (order.state !== 'open') refuse({ code: 'orders.notOpen', number: order.number, state: order.state });
    if (order.held_for !== null) refuse({ code: 'orders.held', number: order.number, reason: order.held_for });
  }
  const items = await query<{ item: ItemId }>(trx, `SELECT DISTINCT item_id AS item FROM round_pick WHERE round_id = ?`, [round.id]);
  await lockStock(
    trx,
    items.map(({ item }) => ({ item, site: command.site })),
  );
  const picks = await selectPicks(trx, round.id);
  const open = picks.filter((p) => asQty(p.qty) > asQty(p.picked));
  const keyed = valueOf(
    decideKeyed(
      command.lines,
      open.map((p) => ({ pick: p.id, item: p.code, bin: p.address, tracking: p.tracking, open: subQty(asQty(p.qty), asQty(p.picked)) })),
      round.number,
    ),
  );
  let short = 0;
  for (const line of keyed) {
    const pick = open.find((p) => p.id === line.pick) as PickRow;
    for (const take of takesOf(line)) await takeAtStop(trx, await atStop(trx, command, pick, take));
    if (line.left <= ZERO) continue;
    short += 1;
    await reportTrouble(trx, { ...command, pick: pick.id, kind: line.why, told: true, instead: [] });
  }
  const { pieces, bin } = await putDownRound(trx, { ...command, bin: command.bench, told: true });
  return { pieces, bin, short };
}

type Take = { readonly qty: Qty; readonly serial: string | null };
const takesOf = (line: KeyedPick): Take[] =>
  line.serials.length > 0
    ? line.serials.map((serial) => ({ qty: ONE, serial }))
    : line.taken > ZERO
      ? [{ qty: asSteps(line.taken), serial: null }]
      : [];

async function atStop(trx: Trx, by: { round: number; site: number; person: number }, pick: PickRow, take: Take): Promise<TakeAtStop> {
  return {
    ...{ round: by.round, site: by.site, person: by.person, pick: pick.id, key: randomUUID(), device: null, at: null, told: true },
    bin: await findBin(trx, by.site, pick.address),
    item: { id: pick.item as ItemId, code: pick.code },
    lot: pick.lot,
    ...take,
  };
}
