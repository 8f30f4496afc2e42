import { assertNever, writeDay } from '#core/base';
import { placesSentence, type RuleBreak } from '#core/places';

export type ReceivingError =
  | { code: 'receiving.nothing'; item: string }
  | { code: 'receiving.tooFine'; item: string; decimals: number }
  | { code: 'receiving.tooMany'; item: string; qty: string }
  | { code: 'receiving.notOrdered'; item: string; isReturn: boolean }
  | { code: 'receiving.unknownShipment'; text: string }
  | { code: 'receiving.invoicedTwice'; item: string }
  | { code: 'receiving.noPlaceFor'; item: string; bin: string }
  | { code: 'receiving.expiredStays'; item: string; bin: string }
  | { code: 'receiving.moreThanEntry'; item: string; asked: string; arrived: string }
  | { code: 'receiving.lookedAt'; item: string }
  | { code: 'receiving.breaksRule'; item: string; broken: RuleBreak }
  | { code: 'receiving.isReturn'; number: string }
  | { code: 'receiving.isNoReturn'; number: string }
  | { code: 'receiving.lotWanted'; item: string }
  | { code: 'receiving.dateWanted'; item: string; lot: string }
  | { code: 'receiving.dateDiffers'; item: string; lot: string; known: string; given: string }
  | { code: 'receiving.madeAfterExpiry'; item: string; lot: string; made: string; expires: string }
  | { code: 'receiving.serialWanted'; item: string }
  | { code: 'receiving.serialRange'; why: 'first' | 'count' | 'long' }
  | { code: 'receiving.twoSuppliers'; number: string }
  | { code: 'receiving.notPosted'; number: string }
  | { code: 'receiving.reversed'; item: string; document: string }
  | { code: 'receiving.notAllHere'; item: string; there: string; asked: string }
  | { code: 'receiving.checkedTooMany'; item: string; checked: string; arrived: string }
  | { code: 'receiving.failedTooMany'; item: string; failed: string; checked: string }
  | { code: 'receiving.unknownReason' }
  | { code: 'receiving.photosFull'; item: string; most: number }
  | { code: 'receiving.reasonTwice'; name: string }
  | { code: 'receiving.serialIsOne'; item: string; serial: string }
  | { code: 'receiving.serialHere'; item: string; serial: string; place: string }
  | { code: 'receiving.unknownOrder'; text: string }
  | { code: 'receiving.unknownDelivery'; id: number }
  | { code: 'receiving.unknownEntry'; id: number }
  | { code: 'receiving.notOpen'; number: string; state: string }
  | { code: 'receiving.empty'; number: string }
  | { code: 'receiving.leadsNow'; number: string }
  | { code: 'receiving.notThrown'; number: string }
  | { code: 'receiving.begunAgain'; number: string; other: string }
  | { code: 'receiving.unitHere'; sscc: string; place: string }
  | { code: 'receiving.unitOfAnother'; sscc: string; supplier: string; notice: string }
  | { code: 'receiving.unitWhole'; sscc: string }
  | { code: 'receiving.unitIsEmpty'; sscc: string }
  | { code: 'receiving.badAdvice'; name: string; says: string }
  | { code: 'receiving.adviceFaults'; name: string; faults: readonly string[]; more: number }
  | { code: 'receiving.adviceNoOrder'; name: string }
  | { code: 'receiving.adviceElsewhere'; name: string }
  | { code: 'receiving.noticeBegun'; number: string; name: string }
  | { code: 'receiving.unknownNotice'; id: number }
  | { code: 'receiving.noticeOver'; number: string; state: string };

/** The sentence for an error at the dock. */
export function receivingSentence(e: ReceivingError): string {
  switch (e.code) {
    case 'receiving.nothing':
      return `Key how many ${e.item} arrived; it must be more than 0.`;
    case 'receiving.unitHere':
      return `Unit ${e.sscc} has come already: ${e.place}.`;
    case 'receiving.unitOfAnother':
      return `Unit ${e.sscc} was announced by ${e.supplier}, with ${e.notice}. Begin a delivery of theirs with it.`;
    case 'receiving.unitWhole':
      return `These came in unit ${e.sscc}, which stays together. Scan a bin for all of it, or take it apart later.`;
    case 'receiving.unitIsEmpty':
      return `Unit ${e.sscc} was told with nothing in it.`;
    case 'receiving.badAdvice':
      return `${e.name} cannot be read: ${e.says}.`;
    case 'receiving.adviceFaults': {
      const rest = e.more - e.faults.length;
      return `${e.name} was not taken in. ${e.faults.join(' ')}${rest > 0 ? ` And ${rest} more.` : ''}`;
    }
    case 'receiving.adviceNoOrder':
      return `${e.name} names no purchase order of ours, so nobody knows where it goes. A lead can take it in at their site.`;
    case 'receiving.adviceElsewhere':
      return `The orders of ${e.name} go to another site. Work there to take it in.`;
    case 'receiving.noticeBegun':
      return `${e.name} changes ${e.number}, of which goods have come already. What came stands in its delivery.`;
    case 'receiving.unknownNotice':
      return `There is no notice ${e.id}.`;
    case 'receiving.noticeOver':
      return `Notice ${e.number} is ${e.state}; nothing of it is expected any more.`;
    case 'receiving.tooMany':
      return `${e.qty} ${e.item} at once cannot be: nobody unloads so many. Key it again.`;
    case 'receiving.tooFine':
      return e.decimals === 0 ? `${e.item} is counted whole.` : `${e.item} is counted to ${e.decimals} decimals.`;
    case 'receiving.notOrdered':
      return e.isReturn
        ? `${e.item} did not leave with this shipment. Take it back anyway, or set it aside.`
        : `${e.item} is not on this order. Take it anyway, or set it aside.`;
    case 'receiving.unknownShipment':
      return `No shipment “${e.text}” left this site. Scan the shipment or the order, or take the goods back without.`;
    case 'receiving.noPlaceFor':
      return `${e.bin} is no shelf: ${e.item} that arrive go into a shelf bin, or are left at arrivals.`;
    case 'receiving.expiredStays':
      return `These ${e.item} have expired: they go to quarantine, not into ${e.bin}.`;
    case 'receiving.moreThanEntry':
      return `This entry is ${e.arrived} ${e.item}; ${e.asked} of it cannot go anywhere.`;
    case 'receiving.lookedAt':
      return `These ${e.item} were looked at together; they go into one bin together, or are looked at again in parts.`;
    case 'receiving.breaksRule':
      return placesSentence(e.broken);
    case 'receiving.invoicedTwice':
      return `${e.item} is on this invoice twice; key it once, with both together.`;
    case 'receiving.isReturn':
      return `${e.number} came back from a customer; it has no supplier.`;
    case 'receiving.isNoReturn':
      return `${e.number} came from a supplier; it has no customer.`;
    case 'receiving.lotWanted':
      return `${e.item} is kept by lot. Scan or key the lot.`;
    case 'receiving.dateWanted':
      return `Lot ${e.lot} of ${e.item} is new here. Key the date it expires.`;
    case 'receiving.dateDiffers':
      return (
        `Lot ${e.lot} of ${e.item} is known to expire on ${writeDay(e.known)}, but the label says ${writeDay(e.given)}. Check ` +
        `the label.`
      );
    case 'receiving.madeAfterExpiry':
      return `Lot ${e.lot} of ${e.item} cannot be made on ${writeDay(e.made)} and expire on ${writeDay(e.expires)}. Check both dates.`;
    case 'receiving.serialRange':
      return {
        first: 'The first number is no number: key digits, such as 0098.',
        count: 'One to 500 serials are entered at once.',
        long: 'These serials are longer than a label: at most 40 letters.',
      }[e.why];
    case 'receiving.twoSuppliers':
      return `${e.number} is of another supplier. A delivery is of one.`;
    case 'receiving.notPosted':
      return `Delivery ${e.number} is not posted: change its entries instead.`;
    case 'receiving.reversed':
      return `This line of ${e.item} was reversed before, by ${e.document}.`;
    case 'receiving.notAllHere':
      return e.there === '0'
        ? `None of these ${e.asked} ${e.item} are free to go back: they are picked, gone or held.`
        : `Of these ${e.asked} ${e.item} only ${e.there} are free to go back; the others are picked, gone or held.`;
    case 'receiving.checkedTooMany':
      return `Of ${e.item} ${e.arrived} arrived here, so ${e.checked} cannot have been looked at.`;
    case 'receiving.failedTooMany':
      return `${e.failed} ${e.item} cannot have failed of ${e.checked}. Say first how many failed.`;
    case 'receiving.unknownReason':
      return 'This reason for failing is not used any more. Choose another one.';
    case 'receiving.photosFull':
      return `There are ${e.most} pictures of this ${e.item} already; more are not kept.`;
    case 'receiving.reasonTwice':
      return `“${e.name}” is a reason for failing already.`;
    case 'receiving.serialWanted':
      return `${e.item} is kept by serial. Scan the serial of each one.`;
    case 'receiving.serialIsOne':
      return `Serial ${e.serial} is one ${e.item}; scan the others one by one.`;
    case 'receiving.serialHere':
      return `Serial ${e.serial} of ${e.item} is already here: ${e.place}.`;
    case 'receiving.unknownOrder':
      return `There is no purchase order “${e.text}” that still expects goods at this site.`;
    case 'receiving.unknownDelivery':
      return `There is no delivery ${e.id}.`;
    case 'receiving.unknownEntry':
      return `Entry ${e.id} is not in this delivery, or was taken out before.`;
    case 'receiving.notOpen':
      return `Delivery ${e.number} is ${e.state}; nothing more can be scanned into it.`;
    case 'receiving.empty':
      return `Nothing was scanned into delivery ${e.number} yet.`;
    case 'receiving.leadsNow':
      return `This entry was handed in with delivery ${e.number}. The lead changes it now; say what is wrong with it.`;
    case 'receiving.notThrown':
      return `Delivery ${e.number} was not thrown away.`;
    case 'receiving.begunAgain':
      return `Delivery ${e.number} stays thrown away: ${e.other} was begun since, for the same goods.`;
    default:
      return assertNever(e);
  }
}
