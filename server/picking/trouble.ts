import { randomUUID } from 'node:crypto';
import { subQty, sumQty, ZERO, type Qty } from '#core/base';
import { qtyText } from '#contract/base';
import { announce, asQty, query, type Trx } from '#server/kernel';
import { askingOf, lockStock } from '#server/stock';
import { chooseForLines } from './choose.ts';
import { lockPick } from './pick.ts';
import { type PickName, type PickRow, endPick, insertPicksInstead } from './store-picks.ts';
import { insertTrouble } from './store-trouble.ts';

/** Reports trouble at a stop and offers another bin (G6): what is open there is planned elsewhere where other stock is free of plans.
 *  Shape:  what was planned again, where, and what could not be. Stock is not changed: the count that follows will do that.
 *  Errors: as a pick: a round that has ended, another hand's, another site's.
 *  Locks:  the round, the order, then the item at the site. */
export async function reportTrouble(
  trx: Trx,
  command: {
    round: number;
    pick: PickName;
    kind: 'short' | 'damaged' | 'notFound';
    site: number;
    person: number;
    told: boolean;
    /** Where the hand goes instead, where a device has said so already; else it is planned here. */
    instead?: readonly { key: string; bin: number; lot: number | null; qty: Qty }[];
  },
): Promise<{ replanned: string; missing: string; bins: string[] }> {
  const { round, pick } = await lockPick(trx, command);
  const open = subQty(asQty(pick.qty), asQty(pick.picked));
  if (open === 0) return { replanned: '0', missing: '0', bins: [] };
  await lockStock(trx, [{ item: pick.item, site: command.site }]);
  const picks = command.instead ?? (await planElsewhere(trx, command.site, pick, open));
  await endPick(trx, pick.id, command.kind);
  await insertPicksInstead(trx, round.id, pick, picks);
  const lacking = maxQty(subQty(open, sumQty(picks.map((p) => p.qty))));
  await insertTrouble(trx, { kind: command.kind, pick, open, lacking, person: command.person });
  const addresses = await query<{ address: string }>(trx, `SELECT address FROM bin WHERE id = ANY(?::int[]) ORDER BY walk`, [
    picks.map((p) => p.bin),
  ]);
  announce(trx, 'picking', { round: round.id });
  announce(trx, 'orders');
  return {
    replanned: qtyText(sumQty(picks.map((p) => p.qty))),
    missing: qtyText(lacking),
    bins: addresses.map((a) => a.address),
  };
}

const maxQty = (qty: Qty): Qty => (qty > 0 ? qty : ZERO);

async function planElsewhere(trx: Trx, site: number, pick: PickRow, open: Qty) {
  const want = { line: pick.line_id, item: pick.item, qty: open, asking: askingOf(pick.asks) };
  const { picks } = await chooseForLines(trx, site, [want], { not: pick.bin });
  return picks.map((p) => ({ key: randomUUID() as string, bin: p.bin as number, lot: p.lot as number | null, qty: p.qty }));
}
