import { meaningBy, type AnnouncedUnit } from '#core/floor';
import {
  decideBegin,
  RECEIVE_BEGINS,
  receivingSaid,
  receivingSentence,
  stepReceive,
  type BeginCommand,
  type DeliveryRef,
} from '#core/receiving';
import { pokeCourier, theFloor, type Answer } from '#web/hands';

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

/** The delivery into which an announced unit goes: one of its orders that is open here, or a new one of its supplier with all of its
 *  orders. */
async function deliveryOfUnit(unit: AnnouncedUnit): Promise<DeliveryRef> {
  const expected = theFloor()
    .purchaseOrders()
    .filter((o) => unit.orders.includes(o.id));
  const there = expected.map((o) => deliveryOf(o.number)).find((ref) => ref !== null);
  return there ?? (await beginDelivery({ supplier: unit.supplier, orders: expected.map((o) => o.id) }));
}

/** Takes the label of a pallet or carton by one scan, wherever the hand stands: into the delivery in which it is already, else into the
 *  one for which it was announced, which is begun with it where it is not open yet.
 *  Shape:  the path of the delivery, and what is said there; null for one that nobody announced and that is nowhere. */
export async function scanUnit(
  code: string,
  { sscc, announced }: { sscc: string; announced: AnnouncedUnit | null },
): Promise<{ path: string; answer: Answer } | null> {
  const floor = theFloor();
  const inside = floor.deliveries().find((d) => floor.delivery(d)?.entries.some((e) => e.sscc === sscc));
  const ref = inside ?? (announced ? await deliveryOfUnit(announced) : null);
  if (ref === null) return null;
  const { says } = await floor.step(`delivery:${ref}`, RECEIVE_BEGINS, (at, stamp) => {
    const job = floor.delivery(ref);
    if (!job) throw new Error('This delivery is no longer on the device. Go back to My work.');
    return stepReceive(at, { kind: 'scan', meaning: meaningBy(floor.facts, code) }, job, floor.facts, stamp);
  });
  pokeCourier();
  return { path: `/h/receive/${ref}`, answer: { tone: says.tone, text: receivingSaid(says) } };
}
