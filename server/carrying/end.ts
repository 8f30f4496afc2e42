import { sumQty, type BinId, type DocumentId, type ItemId, type LotId, type PersonId, type SerialId } from '#core/base';
import { qtyText } from '#contract/base';
import { announce, asQty, makeDocument, refuse, type Trx } from '#server/kernel';
import { worksAt } from '#server/people';
import { findDefaultBin } from '#server/places';
import { lockStock, post } from '#server/stock';
import { carryStateWord } from './carry.ts';
import { lockCarryAt, selectOnCart, updateCarrier, updateCarryThrown, type CarryListRow } from './store.ts';

type Who = { readonly carry: number; readonly site: number; readonly person: number; readonly isLead: boolean };

async function lockOpen(trx: Trx, { carry, site }: Who): Promise<CarryListRow> {
  const row = await lockCarryAt(trx, carry, site);
  if (row.state !== 'open') refuse({ code: 'carrying.ended', number: row.number, state: carryStateWord(row.state) });
  return row;
}

/** Says who walks a round; null for nobody yet. A hand gives its own away, or takes one that is nobody's; a lead anybody's.
 *  Errors: a round that has ended, or is another hand's; somebody who does not work at the site. */
export async function giveCarry(trx: Trx, command: Who & { to: number | null }): Promise<void> {
  const carry = await lockOpen(trx, command);
  if (!command.isLead && carry.person_id !== null && carry.person_id !== command.person)
    refuse({ code: 'carrying.others', number: carry.number, person: carry.person ?? '' });
  if (command.to !== null && !(await worksAt(trx, command.to, command.site))) refuse({ code: 'picking.unknownPerson', id: command.to });
  await updateCarrier(trx, carry.id, command.to);
}

/** Throws a round away: what was put stays where it lies, what rides on its cart goes to arrivals, to be put away from there.
 *  Errors: a round that has ended.
 *  Locks:  the round, the items on its cart, then what `post` locks. */
export async function throwCarryAway(trx: Trx, command: Who): Promise<{ pieces: string; bin: string | null }> {
  const carry = await lockOpen(trx, command);
  const riding = await selectOnCart(trx, carry.id);
  await lockStock(
    trx,
    [...new Set(riding.map((r) => r.item_id))].map((item) => ({ item, site: command.site })),
  );
  // First they are nobody's, then they move.
  await updateCarryThrown(trx, carry.id, command.person);
  announce(trx, 'carrying', { carry: carry.id });
  if (riding.length === 0) return { pieces: '0', bin: null };
  const arrivals = await findDefaultBin(trx, command.site, 'arrivals');
  const document = await makeDocument(trx, 'putBack', { site: command.site, person: command.person });
  await post(trx, {
    document: document.id as DocumentId,
    person: command.person as PersonId,
    movements: riding.map((r) => ({
      item: r.item_id as ItemId,
      lot: r.lot_id as LotId | null,
      serial: r.serial_id as SerialId | null,
      qty: asQty(r.qty),
      from: { bin: r.bin_id as BinId, unit: null, condition: 'sound' as const },
      to: { bin: arrivals.id, unit: null, condition: 'sound' as const },
      reason: `Put back: ${carry.number} was thrown away`,
    })),
    // That arrivals is full must not keep a cart from being emptied.
    overBinRules: true,
  });
  return { pieces: qtyText(sumQty(riding.map((r) => asQty(r.qty)))), bin: arrivals.address };
}
