import { assertNever } from '#core/base';

export type ShippingError =
  | { code: 'shipping.held'; number: string; reason: string }
  | { code: 'shipping.nothingPicked'; number: string }
  | { code: 'shipping.onCart'; number: string; item: string }
  | { code: 'shipping.goodsHeld'; number: string; item: string; hold: number }
  | { code: 'shipping.cameSince'; number: string; item: string }
  | { code: 'shipping.piecesChanged'; number: string }
  | { code: 'shipping.expired'; item: string; expired: string }
  | { code: 'shipping.serialMissing'; item: string }
  | { code: 'shipping.makesKits'; number: string }
  | { code: 'shipping.notPacked'; number: string }
  | { code: 'shipping.unknownShipment'; text: string }
  | { code: 'shipping.transitPromised'; bin: string; zone: string }
  | { code: 'shipping.notSound'; item: string; bin: string; condition: 'inspect' | 'held' | 'failed' }
  | { code: 'shipping.promisedToOthers'; item: string; asked: string; free: string };

/** The sentence for an error at the bench. */
export function shippingSentence(e: ShippingError): string {
  switch (e.code) {
    case 'shipping.held':
      return `Order ${e.number} is held: ${e.reason}. It cannot leave.`;
    case 'shipping.nothingPicked':
      return `Nothing was picked for order ${e.number} that has not left already.`;
    case 'shipping.onCart':
      return `${e.item} for order ${e.number} is still on a cart. Put the round down at the bench first.`;
    case 'shipping.goodsHeld':
      return `${e.item} for order ${e.number} is under a hold and must not leave. Put the order’s goods back, or release the hold.`;
    case 'shipping.cameSince':
      return `${e.item} came to order ${e.number} after it was packed. Look at it and pack again.`;
    case 'shipping.piecesChanged':
      return `What lies at the bench for ${e.number} is not what was looked at. Look again and pack it.`;
    case 'shipping.expired':
      return `${e.item} expired on ${e.expired} and must not leave. Take it out and move it to quarantine.`;
    case 'shipping.serialMissing':
      return `${e.item} needs its serial before it leaves.`;
    case 'shipping.transitPromised':
      return `What is under way would lie in ${e.bin}, in zone ${e.zone}, which is promised from. Choose another bin for goods in transit.`;
    case 'shipping.notSound':
      return {
        inspect: `${e.item} in ${e.bin} waits for inspection and must not leave.`,
        held: `${e.item} in ${e.bin} is under a hold and must not leave.`,
        failed: `${e.item} in ${e.bin} failed and must not leave.`,
      }[e.condition];
    case 'shipping.promisedToOthers':
      return `Only ${e.free} of ${e.item} are free, and ${e.asked} were asked for: the rest is promised to orders.`;
    case 'shipping.unknownShipment':
      return `There is no shipment “${e.text}”.`;
    case 'shipping.makesKits':
      return `What is in hand for ${e.number} becomes kits. Say at its page that they are made.`;
    case 'shipping.notPacked':
      return `Order ${e.number} is not packed yet.`;
    default:
      return assertNever(e);
  }
}
