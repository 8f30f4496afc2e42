import {
  assertNever,
  sumQty,
  type BinId,
  type DocumentId,
  type ItemId,
  type LotId,
  type PersonId,
  type Qty,
  type SerialId,
} from '#core/base';
import { needsSerialToShip, type Tracking } from '#core/items';
import { decideShipment } from '#core/shipping';
import { coveringHold, OUTSIDE, type HeldGoods, type Movement } from '#core/stock';
import { qtyText } from '#contract/base';
import { announce, asQty, dbQty, makeDocument, query, refuse, valueOf, type Trx } from '#server/kernel';
import { lockOpenOrder, reopenPacking, type LockedOrder } from '#server/orders';
import { addShipped, takeFromPromises, updatePickedShipped } from '#server/picking';
import { findDefaultBin } from '#server/places';
import { lockStock, post, selectStandingHolds } from '#server/stock';
import { selectPicked, updatePacked, type PickedRow, insertShipment, updateOrderPacked, updateOrderShipped } from './store.ts';

/** An order that somebody packs or ships. `pieces`: the keys of what they looked at, where a device says so; what nobody saw does not
 *  leave. */
type Leaving = { readonly order: number; readonly site: number; readonly pieces?: readonly string[] };

// Both packing and shipping ask the same question: may these goods leave? Asked under the locks of the order and of its items, so that
// neither a put-down, a hold nor a promise comes between the answer and the act.
async function readyToLeave(trx: Trx, { order: orderId, site, pieces }: Leaving): Promise<{ order: LockedOrder; picked: PickedRow[] }> {
  const order = await lockOpenOrder(trx, orderId, site);
  if (order.kind === 'kit') refuse({ code: 'shipping.makesKits', number: order.number });
  const items = [...new Set((await selectPicked(trx, orderId)).map((p) => p.item))];
  await lockStock(
    trx,
    items.map((item) => ({ item, site })),
  );
  const picked = await selectPicked(trx, orderId);
  const looked = pieces === undefined ? null : new Set(pieces);
  if (looked && (looked.size !== picked.length || picked.some((p) => !looked.has(p.key))))
    refuse({ code: 'shipping.piecesChanged', number: order.number });
  const holds = await selectStandingHolds(trx, site, items);
  valueOf(
    decideShipment(
      { number: order.number, heldFor: order.held_for },
      picked.map((p) => ({
        item: p.code,
        picked: asQty(p.qty),
        putDown: p.put_down ? asQty(p.qty) : (0 as Qty),
        expired: p.expired ? p.expires : null,
        hold: coveringHold(holds, { site, bin: p.bin_id, item: p.item, lot: p.lot_id, serial: p.serial_id } as HeldGoods)?.id ?? null,
        serialMissing: needsSerialToShip(p.tracking as Tracking) && p.serial === null,
      })),
    ),
  );
  return { order, picked };
}

/** Notes that somebody looked and confirmed what is in the parcels (H1, H2). Stock does not move until it ships.
 *  Errors: as `shipOrder`. */
export async function packOrder(trx: Trx, command: Leaving & { parcels: number; person: number }): Promise<{ number: string }> {
  const { order, picked } = await readyToLeave(trx, command);
  await updatePacked(
    trx,
    picked.map((p) => p.id),
    true,
  );
  await updateOrderPacked(trx, command);
  announce(trx, 'shipping', { order: command.order });
  announce(trx, 'orders', { order: command.order });
  return { number: order.number };
}

/** Takes a packing back: the goods lie at the bench, to be looked at again (H5).
 *  Errors: an order that is not packed, not open, or of another site.
 *  Locks:  the order. */
export async function unpackOrder(trx: Trx, command: { order: number; site: number }): Promise<{ number: string }> {
  const order = await lockOpenOrder(trx, command.order, command.site);
  if (order.packed_at === null) refuse({ code: 'shipping.notPacked', number: order.number });
  const picked = await selectPicked(trx, order.id);
  await updatePacked(
    trx,
    picked.map((p) => p.id),
    false,
  );
  await reopenPacking(trx, [order.id]);
  announce(trx, 'shipping', { order: order.id });
  announce(trx, 'orders', { order: order.id });
  return { number: order.number };
}

/** Ships what was packed: the goods leave stock with their lots and serials, their promises are kept and gone (H6, H7).
 *  Shape:  returns the shipment's number, the pieces that left, and what of the order stays open.
 *  Errors: held (the order or its goods), not packed, goods that came after packing, nothing picked, still on a cart, expired, a serial
 *          missing.
 *  Locks:  the order, its items at the site, then what `post` locks. */
export async function shipOrder(
  trx: Trx,
  command: Leaving & { person: number; at?: Date | null },
): Promise<{ shipment: string; pieces: string; left: string }> {
  const { order, picked } = await readyToLeave(trx, command);
  const unseen = picked.find((p) => !p.packed);
  if (order.packed_at === null && unseen) refuse({ code: 'shipping.notPacked', number: order.number });
  if (unseen) refuse({ code: 'shipping.cameSince', number: order.number, item: unseen.code });
  const to = await whereItGoes(trx, order);
  const document = await makeDocument(trx, 'shipment', { site: order.site_id, person: command.person, subject: order.id });
  const byLine = new Map<number, Qty>();
  for (const p of picked) byLine.set(p.line, sumQty([byLine.get(p.line) ?? (0 as Qty), asQty(p.qty)]));
  const lines = [[...byLine.keys()], [...byLine.values()].map(dbQty)];
  // Promises go first: the goods that leave are theirs, so nobody else's promise may be cut for them.
  await takeFromPromises(trx, lines);
  await addShipped(trx, lines);
  const movements = picked.map((p): Movement => ({
    item: p.item as ItemId,
    lot: p.lot_id as LotId | null,
    serial: p.serial_id as SerialId | null,
    qty: asQty(p.qty),
    from: { bin: p.bin_id as BinId, unit: null, condition: 'sound' },
    to: { bin: to, unit: null, condition: 'sound' },
    reason: `Shipped on ${order.number}`,
  }));
  // Said first, moved then: the ledger does not let go of goods that are an order's.
  await updatePickedShipped(
    trx,
    picked.map((p) => p.id),
    document.id,
  );
  await post(trx, {
    document: document.id as DocumentId,
    person: command.person as PersonId,
    ...(command.at ? { at: command.at } : {}),
    movements,
  });
  await insertShipment(trx, { number: document.number, order: order.id, document: document.id });
  const [rest] = await query<{ left: string }>(trx, `SELECT sum(qty - shipped) AS left FROM order_line WHERE order_id = ?`, [order.id]);
  const left = asQty(rest?.left ?? '0');
  await updateOrderShipped(trx, order.id, left === 0 ? 'shipped' : 'open');
  announce(trx, 'shipping', { order: order.id });
  announce(trx, 'orders', { order: order.id });
  return { shipment: document.number, pieces: qtyText(sumQty(movements.map((m) => m.qty))), left: qtyText(left) };
}

/** Where an order's goods go when they leave: to whoever bought them, into a job, or under way to another site. */
async function whereItGoes(trx: Trx, order: Pick<LockedOrder, 'kind' | 'site_id'>): Promise<BinId> {
  switch (order.kind) {
    case 'job':
      return OUTSIDE.jobs;
    case 'transfer':
      return findTransit(trx, order.site_id);
    case 'kit':
      return OUTSIDE.assembly;
    case 'customer':
    case 'counter':
      return OUTSIDE.customers;
    default:
      return assertNever(order.kind);
  }
}

/** The bin of what is under way, which nobody may be promised from: those goods belong to the site to which they go. */
async function findTransit(trx: Trx, site: number): Promise<BinId> {
  const bin = await findDefaultBin(trx, site, 'transit');
  const [zone] = await query<{ code: string; promisable: boolean }>(
    trx,
    `SELECT z.code, z.promisable FROM bin b JOIN zone z ON z.id = b.zone_id WHERE b.id = ?`,
    [bin.id],
  );
  if (zone?.promisable) refuse({ code: 'shipping.transitPromised', bin: bin.address, zone: zone.code });
  return bin.id;
}
