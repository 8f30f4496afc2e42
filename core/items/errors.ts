import { scanFaultSentence, type ScanFault } from './scan.ts';

export type ItemsError =
  | ScanFault
  | { code: 'items.unknownCode'; text: string }
  | { code: 'items.ambiguousCode'; text: string; first: string; second: string }
  | { code: 'items.unknownItem'; id: number }
  | { code: 'items.codeTaken'; text: string }
  | { code: 'items.barcodeTaken'; text: string; item: string }
  | { code: 'items.codeIsBarcode'; text: string; item: string }
  | { code: 'items.barcodeIsCode'; text: string; item: string }
  | { code: 'items.partTooFine'; what: string; qty: string; item: string; decimals: number }
  | { code: 'items.changedMeanwhile'; item: string }
  | { code: 'items.fieldIsColumn'; label: string }
  | { code: 'items.notAnItem'; text: string; what: string }
  | { code: 'items.unknownPack'; id: number }
  | { code: 'items.packTaken'; pack: string; item: string }
  | { code: 'items.retired'; item: string }
  | { code: 'items.hasStock'; item: string; onHand: string; act: string }
  | { code: 'items.decimalsTooFew'; item: string; decimals: number }
  | { code: 'items.trackingOpen'; item: string; where: string }
  | { code: 'items.trackingFreesExpired'; item: string; qty: string; bin: string }
  | { code: 'items.trackingSum'; item: string; bin: string; there: string; given: string }
  | { code: 'items.kitCircle'; way: string }
  | { code: 'items.kitSelf'; item: string }
  | { code: 'items.unknownField'; label: string }
  | { code: 'items.lotUnread'; lot: string; why: string }
  | { code: 'items.fieldTaken'; label: string }
  | { code: 'items.fieldValue'; label: string; text: string; wanted: string }
  | { code: 'items.unknownSupplier'; text: string }
  | { code: 'items.supplierTaken'; text: string }
  | { code: 'items.unknownListRow'; id: number }
  | { code: 'items.alreadyStocked'; partNo: string; item: string };

/** The sentence for an error about items and their codes. */
export function itemsSentence(e: ItemsError): string {
  switch (e.code) {
    case 'items.unknownCode':
      return `Nothing here is known by “${e.text}”. Tie it to an item, or scan again.`;
    case 'items.ambiguousCode':
      return `${e.text} is both ${e.first} and ${e.second}. Scan another code of it, or type the item’s code.`;
    case 'items.unknownItem':
      return `There is no item ${e.id}. It may have been opened from an old link.`;
    case 'items.codeTaken':
      return `Another item already has the code ${e.text}.`;
    case 'items.barcodeTaken':
      return `Barcode ${e.text} already belongs to ${e.item}. It was left there.`;
    case 'items.codeIsBarcode':
      return `${e.text} is a barcode of ${e.item} already. A code may mean one item only.`;
    case 'items.barcodeIsCode':
      return `${e.text} is the code of item ${e.item}. A code may mean one item only.`;
    case 'items.partTooFine':
      return e.decimals === 0
        ? `${e.what} of ${e.qty} is not possible: ${e.item} is counted whole.`
        : `${e.what} of ${e.qty} is too fine: ${e.item} is counted to ${e.decimals} decimals.`;
    case 'items.changedMeanwhile':
      return `${e.item} was changed by somebody else meanwhile. Nothing of yours was saved yet: look at both and save again.`;
    case 'items.fieldIsColumn':
      return `“${e.label}” is a column of the item sheet already. Give the field another name.`;
    case 'items.notAnItem':
      return `${e.text} is ${e.what}; an item is wanted here.`;
    case 'items.unknownPack':
      return `There is no pack ${e.id} of this item.`;
    case 'items.packTaken':
      return `${e.item} already has a pack called ${e.pack}.`;
    case 'items.retired':
      return `${e.item} is retired. Bring it back on its page first.`;
    case 'items.hasStock':
      return `There are ${e.onHand} of ${e.item} in stock; ${e.act} needs an empty shelf first.`;
    case 'items.decimalsTooFew':
      return `Stock of ${e.item} is counted finer than ${e.decimals} decimals.`;
    case 'items.trackingOpen':
      return `${e.item} is in work: ${e.where}. Finish that first.`;
    case 'items.trackingFreesExpired':
      return `${e.qty} of ${e.item} in ${e.bin} have expired and would be free without their date. Move them to quarantine or scrap first.`;
    case 'items.trackingSum':
      return `Bin ${e.bin} holds ${e.there} of ${e.item}; what was named there comes to ${e.given}.`;
    case 'items.kitCircle':
      return `A kit cannot contain itself: ${e.way}.`;
    case 'items.kitSelf':
      return `${e.item} cannot be a part of itself.`;
    case 'items.lotUnread':
      return `Lot ${e.lot} ${e.why}. This house takes only lots that a label can hold: give it another number.`;
    case 'items.unknownField':
      return `There is no own field “${e.label}”.`;
    case 'items.fieldTaken':
      return `There is already a field “${e.label}”.`;
    case 'items.fieldValue':
      return `“${e.text}” does not fit ${e.label}: ${e.wanted}.`;
    case 'items.unknownSupplier':
      return `There is no supplier ${e.text}.`;
    case 'items.supplierTaken':
      return `There is already a supplier ${e.text}.`;
    case 'items.unknownListRow':
      return `There is no row ${e.id} on any price list.`;
    case 'items.alreadyStocked':
      return `${e.partNo} is already stocked, as ${e.item}.`;
    default:
      return scanFaultSentence(e);
  }
}
