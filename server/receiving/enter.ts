import { formatQty, isWholeStep, type ItemId, type Qty } from '#core/base';
import { needsLot } from '#core/items';
import {
  compareDelivery,
  compareReturn,
  decideChangeOfFound,
  decideEntry,
  entryKey,
  MOST_AT_ONCE,
  type ComparisonLine,
} from '#core/receiving';
import { announce, asQty, dbQty, query, refuse, valueOf, type Trx } from '#server/kernel';
import { findItem, type FoundItem } from '#server/items';
import { ensureUnits } from '#server/stock';
import { selectFindings } from './store-inspect.ts';
import { lockDelivery, lockDeliveryHead, type DeliveryHead, updateDeliveryState, updatePaper, updateSupplier } from './store.ts';
import { selectLotDate, selectSerialPlace, selectUnitArrived, updateEntry, insertEntry, updateHandedIn } from './store-entries.ts';
import { selectStandingOf } from './store-expected.ts';
import { updateCustomer } from './store-returns.ts';

/** Who does something on the floor, where, on which device, and when it happened where that is not now. */
export type Floor = { readonly site: number; readonly person: number; readonly device: string | null; readonly at: Date | null };
export type Entering = Floor & {
  readonly key: string;
  readonly delivery: number;
  readonly item: FoundItem;
  readonly pack: number;
  readonly qty: Qty;
  readonly lot: string | null;
  readonly expires: string | null;
  readonly made: string | null;
  readonly serial: string | null;
  /** The logistic unit in which they come; null where they come loose. */
  readonly sscc: string | null;
  readonly takeAnyway: boolean;
};
/** Whether a delivery that was handed in is opened again by what a hand tells, or refuses it. */
export type IfHandedIn = 'reopen' | 'refuse';

/** Enters one scan into a delivery (C3, C5, C8, C9). Reads its own line only, however large the delivery is.
 *  Shape:  returns the entry's id, whether it expired, and how the line of the item stands then.
 *  Errors: what `decideEntry` refuses; a delivery that has ended.
 *  Locks:  the delivery. */
export async function enterGoods(
  trx: Trx,
  entering: Entering,
  ifHandedIn: IfHandedIn,
): Promise<{ id: number; expired: boolean; line: ComparisonLine }> {
  const delivery = await lockForEntries(trx, entering, ifHandedIn);
  if (entering.sscc !== null) await refuseUnitHere(trx, entering.sscc, delivery.id);
  return enterInto(trx, delivery, entering);
}

// Within the lock of the delivery.
async function enterInto(
  trx: Trx,
  delivery: DeliveryHead,
  entering: Entering,
): Promise<{ id: number; expired: boolean; line: ComparisonLine }> {
  const { item, key } = entering;
  const { expected, scanned: before } = await selectStandingOf(trx, delivery, item.id);
  const lot = needsLot(item.tracking) ? entering.lot : null;
  const entry = valueOf(
    decideEntry(
      { qty: entering.qty, lot, expires: entering.expires, made: entering.made, serial: entering.serial, takeAnyway: entering.takeAnyway },
      {
        itemCode: item.code,
        decimals: item.decimals,
        tracking: item.tracking,
        today: delivery.today,
        knownLotExpires: lot ? await selectLotDate(trx, item.id, lot) : null,
        // An item that was taken anyway once need not be argued about again.
        isReturn: delivery.is_return,
        ordered: !delivery.of_paper || expected !== null || before !== null,
        serialPlace: entering.serial ? await selectSerialPlace(trx, item.id, entering.serial) : null,
      },
    ),
  );
  const made = await insertEntry(trx, { ...entering, ...entry, key, delivery: delivery.id, item: item.id });
  announce(trx, 'receiving', { delivery: delivery.id });
  const arrived = [{ item: item.id, qty: entry.qty }, ...(before === null ? [] : [{ item: item.id, qty: asQty(before) }])];
  const due = expected === null ? [] : [{ item: item.id, qty: asQty(expected) }];
  const [line] = delivery.is_return ? compareReturn(due, arrived) : compareDelivery(due, arrived, delivery);
  if (!line) throw new Error('An entry was made and has a line.');
  return { id: made, expired: entry.expired, line };
}

/** A logistic unit with what is in it, as a hand told it by one scan. */
export type EnteringUnit = Floor & {
  readonly key: string;
  readonly delivery: number;
  readonly sscc: string;
  readonly goods: readonly Pick<Entering, 'item' | 'pack' | 'qty' | 'lot' | 'expires' | 'made' | 'serial'>[];
};

/** Enters a whole logistic unit into a delivery (C15): all that is in it, or none. What no order named is taken with it; the review
 *  shows it.
 *  Errors: a unit that has come already, or is told empty; what `decideEntry` refuses of any of its goods; a delivery that has ended.
 *  Locks:  the delivery, the unit. */
export async function enterUnit(trx: Trx, unit: EnteringUnit, ifHandedIn: IfHandedIn): Promise<void> {
  const { sscc, goods } = unit;
  const delivery = await lockForEntries(trx, unit, ifHandedIn);
  if (goods.length === 0) refuse({ code: 'receiving.unitIsEmpty', sscc });
  await refuseUnitHere(trx, sscc, null);
  for (const [n, g] of goods.entries()) await enterInto(trx, delivery, { ...unit, ...g, key: entryKey(unit.key, n), takeAnyway: true });
}

// Two labels are on most pallets, and two hands may scan one each: who asks locks the unit. `delivery`: where it may be scanned into
// already.
async function refuseUnitHere(trx: Trx, sscc: string, delivery: number | null): Promise<void> {
  await ensureUnits(trx, [sscc]);
  const place = await selectUnitArrived(trx, sscc, delivery);
  if (place !== null) refuse({ code: 'receiving.unitHere', sscc, place });
}

async function lockForEntries(trx: Trx, floor: Floor & { delivery: number }, ifHandedIn: IfHandedIn): Promise<DeliveryHead> {
  const delivery = await lockDeliveryHead(trx, floor.delivery, floor.site);
  if (delivery.state === 'review' && ifHandedIn === 'reopen') {
    await updateDeliveryState(trx, delivery.id, 'scanning');
    return { ...delivery, state: 'scanning' };
  }
  if (delivery.state !== 'scanning') refuse({ code: 'receiving.notOpen', number: delivery.number, state: stateWord(delivery.state) });
  return delivery;
}

/** How the state of a delivery is said. */
export function stateWord(state: DeliveryHead['state']): string {
  return { scanning: 'being scanned', review: 'handed in for review', posted: 'posted', thrown: 'thrown away' }[state];
}

/** An entry that somebody changes. `told`: it was done on the floor before the delivery was handed in, or while nobody knew that it was. */
export type OwnEntry = {
  readonly delivery: number;
  readonly entry: { readonly id: number } | { readonly key: string };
  readonly lead: boolean;
  readonly told: boolean;
};
type EntryHead = {
  id: number;
  item_id: ItemId;
  serial: string | null;
  sscc: string | null;
  person_id: number;
  handed_in: boolean;
  expired: boolean;
};

/** Locks the delivery of an entry that somebody changes, and reads what decides whether they may.
 *  Errors: a delivery that has ended, an entry that is not its, one that was handed in and is the lead's now. */
export async function lockEntryHead(trx: Trx, floor: Floor & OwnEntry): Promise<EntryHead> {
  const delivery = await lockDeliveryHead(trx, floor.delivery, floor.site);
  if (delivery.state === 'posted' || delivery.state === 'thrown')
    refuse({ code: 'receiving.notOpen', number: delivery.number, state: stateWord(delivery.state) });
  const [column, value] = 'id' in floor.entry ? ['id', floor.entry.id] : ['key', floor.entry.key];
  const [entry] = await query<EntryHead>(
    trx,
    `SELECT id, item_id, serial, sscc, person_id, handed_in_at IS NOT NULL AS handed_in, coalesce(expires < ?::date, false) AS expired
     FROM delivery_entry
     WHERE ${column} = ? AND delivery_id = ? AND taken_out_at IS NULL`,
    [delivery.today, value, floor.delivery],
  );
  if (!entry) return refuse({ code: 'receiving.unknownEntry', id: 'id' in floor.entry ? floor.entry.id : 0 });
  if (entry.handed_in && !floor.lead && !(floor.told && entry.person_id === floor.person))
    refuse({ code: 'receiving.leadsNow', number: delivery.number });
  return entry;
}

/** Says how many an entry is; what it was is kept.
 *  Errors: a quantity that the item cannot have, a serial, an entry that was handed in, a delivery that has ended.
 *  Locks:  the delivery. */
export async function changeEntry(trx: Trx, command: Floor & OwnEntry & { qty: Qty }): Promise<void> {
  const entry = await lockEntryHead(trx, command);
  const item = await findItem(trx, entry.item_id);
  if (command.qty <= 0) refuse({ code: 'receiving.nothing', item: item.code });
  if (!isWholeStep(command.qty, item.decimals)) refuse({ code: 'receiving.tooFine', item: item.code, decimals: item.decimals });
  if (command.qty > MOST_AT_ONCE) refuse({ code: 'receiving.tooMany', item: item.code, qty: formatQty(command.qty) });
  if (entry.serial) refuse({ code: 'receiving.serialIsOne', item: item.code, serial: entry.serial });
  valueOf(decideChangeOfFound((await selectFindings(trx, [entry.id])).get(entry.id) ?? null, item.code, command.qty));
  await updateEntry(trx, { entry: entry.id, person: command.person, qty: dbQty(command.qty) });
  announce(trx, 'receiving', { delivery: command.delivery });
}

/** Takes an entry out of its delivery; that it was there is kept. Errors and locks as `changeEntry`. */
export async function takeOutEntry(trx: Trx, command: Floor & OwnEntry): Promise<void> {
  const entry = await lockEntryHead(trx, command);
  await updateEntry(trx, { entry: entry.id, person: command.person, takenOut: true });
  announce(trx, 'receiving', { delivery: command.delivery });
}

/** Hands a delivery in for review: its entries are the lead's from then on.
 *  Errors: a delivery that is not being scanned, or into which nothing was scanned.
 *  Locks:  the delivery. */
export async function finishDelivery(trx: Trx, command: { delivery: number; site: number }): Promise<void> {
  const delivery = await lockDeliveryHead(trx, command.delivery, command.site);
  if (delivery.state !== 'scanning') refuse({ code: 'receiving.notOpen', number: delivery.number, state: stateWord(delivery.state) });
  const [any] = await query(trx, `SELECT 1 FROM delivery_entry WHERE delivery_id = ? AND taken_out_at IS NULL LIMIT 1`, [delivery.id]);
  if (!any) refuse({ code: 'receiving.empty', number: delivery.number });
  await updateHandedIn(trx, delivery.id);
  await updateDeliveryState(trx, delivery.id, 'review');
  announce(trx, 'receiving', { delivery: delivery.id });
}

/** Names the supplier's paper with which a delivery came (C2), now or later.
 *  Errors: a delivery that has ended.
 *  Locks:  the delivery. */
export async function namePaper(trx: Trx, command: { delivery: number; site: number; doc: string; date: string | null }): Promise<void> {
  const delivery = await lockDeliveryHead(trx, command.delivery, command.site);
  if (delivery.state === 'posted' || delivery.state === 'thrown')
    refuse({ code: 'receiving.notOpen', number: delivery.number, state: stateWord(delivery.state) });
  await updatePaper(trx, delivery.id, command);
  announce(trx, 'receiving', { delivery: delivery.id });
}

/** Says which supplier a delivery is of that was begun without.
 *  Errors: an unknown supplier, a delivery of orders of another one, one that has ended.
 *  Locks:  the delivery. */
export async function nameSupplier(trx: Trx, command: { delivery: number; site: number; supplier: number }): Promise<void> {
  const delivery = await lockDelivery(trx, command.delivery, command.site);
  if (delivery.state === 'posted' || delivery.state === 'thrown')
    refuse({ code: 'receiving.notOpen', number: delivery.number, state: stateWord(delivery.state) });
  if (delivery.back) refuse({ code: 'receiving.isReturn', number: delivery.number });
  const [known] = await query(trx, `SELECT 1 FROM supplier WHERE id = ?`, [command.supplier]);
  if (!known) refuse({ code: 'items.unknownSupplier', text: String(command.supplier) });
  const [order] = delivery.orders;
  if (order && delivery.supplier_id !== command.supplier) refuse({ code: 'receiving.twoSuppliers', number: order.number });
  await updateSupplier(trx, delivery.id, command.supplier);
  announce(trx, 'receiving', { delivery: delivery.id });
}

/** Refuses a customer that is none: `orders.unknownCustomer`. */
export async function knownCustomer(trx: Trx, customer: number): Promise<void> {
  const [known] = await query(trx, `SELECT 1 FROM customer WHERE id = ?`, [customer]);
  if (!known) refuse({ code: 'orders.unknownCustomer', id: customer });
}

/** Says which customer brings goods back that were taken without a shipment.
 *  Errors: a delivery of a supplier, an unknown customer, one that has ended.
 *  Locks:  the delivery. */
export async function nameCustomer(trx: Trx, command: { delivery: number; site: number; customer: number }): Promise<void> {
  const delivery = await lockDelivery(trx, command.delivery, command.site);
  if (delivery.state === 'posted' || delivery.state === 'thrown')
    refuse({ code: 'receiving.notOpen', number: delivery.number, state: stateWord(delivery.state) });
  if (!delivery.back) return refuse({ code: 'receiving.isNoReturn', number: delivery.number });
  await knownCustomer(trx, command.customer);
  await updateCustomer(trx, delivery.id, command.customer);
  announce(trx, 'receiving', { delivery: delivery.id });
}
