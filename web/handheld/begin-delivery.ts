import { decideBegin, receivingSentence, type BeginCommand, type DeliveryRef } from '#core/receiving';
import { pokeCourier, theFloor } from '#web/hands';

/** The delivery here in which a purchase order is received already. */
export function deliveryOf(order: string): DeliveryRef | null {
  const floor = theFloor();
  return floor.deliveries().find((ref) => floor.delivery(ref)?.orders.includes(order)) ?? null;
}

/** The delivery here in which a shipment is taken back already. */
export function returnOf(shipment: string): DeliveryRef | null {
  const floor = theFloor();
  return floor.deliveries().find((ref) => floor.delivery(ref)?.back?.shipment === shipment) ?? null;
}

/** Begins a delivery on this device, with or without a connection; returns the name that it has from now on.
 *  Errors: rejects with the sentence of what cannot be begun so. */
export async function beginDelivery(command: BeginCommand): Promise<DeliveryRef> {
  const floor = theFloor();
  const { does } = await floor.step('deliveries', null, (at, stamp) => {
    const decided = decideBegin(command, floor.purchaseOrders(), stamp.key);
    if (!decided.ok) throw new Error(receivingSentence(decided.error));
    return { at, does: [decided.value] };
  });
  pokeCourier();
  return does[0]?.delivery ?? '';
}
