import { subQty, sumQty, type Qty } from '#core/base';
import { chooseStock } from '#core/picking';
import { qtyText } from '#contract/base';
import { announce, asQty, dbQty, query, refuse, type Trx } from '#server/kernel';
import { lockPromises } from '#server/stock';
import { findRound, selectPicks, selectSources } from './store.ts';

/** Reports trouble at a stop and offers another bin (G6): what is open there is planned elsewhere where other stock is free of plans.
 *  Shape:  what was planned again, where, and what could not be. Stock is not changed: the count that follows will do that.
 *  Locks:  the round, then the item's promises. */
export async function reportTrouble(
  trx: Trx,
  command: { round: number; pick: number; kind: 'short' | 'damaged' | 'notFound'; site: number; person: number },
): Promise<{ replanned: string; missing: string; bins: string[] }> {
  const round = await findRound(trx, command.round, { lock: true });
  if (round.state !== 'open') refuse({ code: 'picking.roundDone', number: round.number, state: 'put down' });
  const [pick] = await selectPicks(trx, command.round, command.pick);
  if (!pick) return refuse({ code: 'picking.unknownPick', id: command.pick });
  const open = subQty(asQty(pick.qty), asQty(pick.picked));
  if (open === 0) return { replanned: '0', missing: '0', bins: [] };
  await lockPromises(trx, [{ item: pick.item, site: command.site }]);
  const sources = (await selectSources(trx, command.site, [pick.item])).filter((s) => s.bin !== pick.bin);
  const { picks, missing } = chooseStock([{ line: pick.line_id, item: pick.item, qty: open } as never], sources);
  await query(trx, `UPDATE round_pick SET qty = picked, trouble = ? WHERE id = ?`, [command.kind, pick.id]);
  await query(
    trx,
    `INSERT INTO round_pick (round_id, line_id, item_id, bin_id, lot_id, qty, slot) SELECT ?, ?, ?, b, l, q, ? FROM unnest(?::int[], ?::int[], ?::numeric[]) AS x(b, l, q)`,
    [round.id, pick.line_id, pick.item, pick.slot, picks.map((p) => p.bin), picks.map((p) => p.lot), picks.map((p) => dbQty(p.qty))],
  );
  await query(trx, `INSERT INTO trouble (kind, bin_id, item_id, pick_id, qty, person_id) VALUES (?, ?, ?, ?, ?, ?)`, [
    command.kind,
    pick.bin,
    pick.item,
    pick.id,
    dbQty(open),
    command.person,
  ]);
  const addresses = await query<{ address: string }>(trx, `SELECT address FROM bin WHERE id = ANY(?::int[]) ORDER BY walk`, [
    picks.map((p) => p.bin),
  ]);
  announce(trx, 'picking', { round: round.id });
  announce(trx, 'orders');
  return {
    replanned: qtyText(sumQty(picks.map((p) => p.qty))),
    missing: qtyText(sumQty(missing.map((m) => m.qty as Qty))),
    bins: addresses.map((a) => a.address),
  };
}
