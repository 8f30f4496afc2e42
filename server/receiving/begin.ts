import { announce, lockRows, query, type Trx } from '#server/kernel';
import { addDeliveryKey, addDeliveryOrders, insertDelivery, selectOpenDeliveriesOf } from './store.ts';
import { selectReceivableOrders } from './store-expected.ts';
import { insertReturn, isShipmentOf } from './store-returns.ts';

/** What a delivery is begun with. Orders that expect nothing here are passed over: the goods have come all the same. */
export type BeginDelivery = {
  readonly site: number;
  readonly person: number;
  /** The name that a device has for it. */
  readonly key: string | null;
  readonly supplier: number | null;
  readonly orders: readonly number[];
};

/** What goods are taken back with: a shipment of this site, a customer, or nothing that is known yet. */
export type BeginReturn = Pick<BeginDelivery, 'site' | 'person' | 'key'> & {
  readonly shipment: number | null;
  readonly customer: number | null;
};

/** Begins a delivery (C1), or joins the one in which somebody receives one of its orders already: two who begin it at once share it, and
 *  each knows it by a key of their own.
 *  Shape:  the orders that it is of are those that are approved, expect something at this site, and are in no other open delivery.
 *  Locks:  the delivery that is joined, then the orders. */
export async function beginDelivery(
  trx: Trx,
  wish: BeginDelivery,
): Promise<{ id: number; number: string; joined: boolean; held: boolean }> {
  const wanted = [...new Set(wish.orders)].sort((a, b) => a - b);
  const before = await selectOpenDeliveriesOf(trx, wanted);
  await lockRows(
    trx,
    'delivery',
    before.map((d) => d.id),
  );
  await lockRows(trx, 'purchaseOrder', wanted);
  const open = await selectOpenDeliveriesOf(trx, wanted);
  const orders = await selectReceivableOrders(trx, wish.site, wanted);
  const [first] = orders;
  const joined = open.find((d) => d.site === wish.site);
  const supplier = joined ? joined.supplier : (first?.supplier ?? (await knownSupplier(trx, wish.supplier)));
  const taken = new Set(open.flatMap((d) => d.orders));
  const free = orders.filter((o) => !taken.has(o.id) && o.supplier === supplier).map((o) => o.id);
  const delivery = joined ?? (await insertDelivery(trx, { site: wish.site, supplier, person: wish.person }));
  // One that somebody began since nobody was looking is joined as it is: it is not held.
  const held = !joined || before.some((d) => d.id === joined.id);
  if (held) await addDeliveryOrders(trx, delivery.id, free);
  if (wish.key !== null) await addDeliveryKey(trx, delivery.id, wish.key);
  announce(trx, 'receiving', { delivery: delivery.id });
  return { id: delivery.id, number: delivery.number, joined: joined !== undefined, held };
}

/** Begins to take goods back (C19), or joins the one in which somebody takes the same shipment back already. A shipment that did not leave
 *  this site is passed over: the goods have come all the same.
 *  Locks:  none but the row that it makes; of two who begin with one shipment at once, one waits for the other. */
export async function beginReturn(trx: Trx, wish: BeginReturn): Promise<{ id: number; number: string; joined: boolean }> {
  const shipment = wish.shipment !== null && (await isShipmentOf(trx, wish.site, wish.shipment)) ? wish.shipment : null;
  const begun = await insertReturn(trx, { ...wish, shipment });
  if (wish.key !== null) await addDeliveryKey(trx, begun.id, wish.key);
  announce(trx, 'receiving', { delivery: begun.id });
  return begun;
}

async function knownSupplier(trx: Trx, supplier: number | null): Promise<number | null> {
  if (supplier === null) return null;
  const [known] = await query<{ id: number }>(trx, `SELECT id FROM supplier WHERE id = ?`, [supplier]);
  return known?.id ?? null;
}
