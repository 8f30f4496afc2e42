import { assertNever, writeDay, type QtyError } from '#core/base';
import type { AdjustError } from './adjust.ts';

/** What can be wrong with stock, with the names a person knows. Quantities are texts in base units. */
export type StockError =
  | QtyError
  | {
      code: 'stock.binShort';
      line: number;
      bin: string;
      item: string;
      lot: string | null;
      serial: string | null;
      asked: string;
      there: string;
    }
  | { code: 'stock.hasHistory'; item: string; site: string; movements: number }
  | { code: 'stock.finerThanItem'; item: string; asked: string; decimals: number }
  | { code: 'stock.acrossSites'; line: number; bin: string; site: string }
  | { code: 'stock.ordersGoods'; bin: string; item: string; order: string; orderId: number; round: string; roundId: number }
  | { code: 'stock.carriedGoods'; bin: string; item: string; number: string; id: number }
  | { code: 'stock.passingThrough'; bin: string; item: string }
  | { code: 'stock.serialElsewhere'; serial: string; item: string; bin: string }
  | { code: 'stock.unitElsewhere'; sscc: string; bin: string; other: string }
  | { code: 'stock.unknownUnit'; sscc: string }
  | { code: 'stock.unitEmpty'; sscc: string }
  | AdjustError
  | { code: 'stock.noSuchLot'; item: string; lot: string }
  | { code: 'stock.noSuchSerial'; item: string; serial: string }
  | { code: 'stock.nothingToMove'; line: number }
  | { code: 'stock.staysPut'; line: number }
  | { code: 'stock.serialNotOne'; line: number }
  | { code: 'stock.alreadyUndone'; movement: number }
  | { code: 'stock.unknownMovement'; movement: number }
  | { code: 'stock.nothingToHold'; what: string }
  | { code: 'stock.unknownHold'; id: number }
  | { code: 'stock.holdReleased'; number: string };

/** The sentence for a stock error, in words a floor hand understands. */
export function stockSentence(e: StockError): string {
  switch (e.code) {
    case 'stock.notANumber':
      return `“${e.text}” is not a quantity. Key a number such as 12 or 2.5.`;
    case 'stock.tooFine':
      return e.decimals === 0
        ? `${e.text} is not possible: this item is counted whole.`
        : `${e.text} is too fine: this item is counted to ${e.decimals} decimal${e.decimals === 1 ? '' : 's'}.`;
    case 'stock.tooLarge':
      return `${e.text} is more than a warehouse holds. Was a barcode keyed as a quantity?`;
    case 'stock.binShort': {
      const which = e.serial ? `serial ${e.serial} of ${e.item}` : e.lot ? `${e.item} lot ${e.lot}` : e.item;
      return e.there === '0'
        ? `Bin ${e.bin} holds no ${which}. Nothing was moved.`
        : `Bin ${e.bin} holds ${e.there} of ${which}; this takes ${e.asked}. Nothing was moved.`;
    }
    case 'stock.nothingToAdjust':
      return `Key how many ${e.item}; it must be more than 0.`;
    case 'stock.adjustTooFine':
      return e.decimals === 0 ? `${e.item} is counted whole.` : `${e.item} is counted to ${e.decimals} decimals.`;
    case 'stock.adjustLot':
      return `${e.item} is kept by lot. Say which.`;
    case 'stock.adjustDate':
      return `Lot ${e.lot} of ${e.item} is new here. Say when it expires.`;
    case 'stock.adjustDateDiffers':
      return `Lot ${e.lot} of ${e.item} is known to expire on ${writeDay(e.known)}, not on ${writeDay(e.given)}. One lot has one date.`;
    case 'stock.adjustSerials':
      return `${e.item} is kept by serial: for ${e.qty}, ${e.named} ${e.named === 1 ? 'serial is' : 'serials are'} named.`;
    case 'stock.adjustSerialTwice':
      return `Serial ${e.serial} of ${e.item} is named twice.`;
    case 'stock.adjustSerialHere':
      return `Serial ${e.serial} of ${e.item} is in stock already: bin ${e.bin}.`;
    case 'stock.adjustCost':
      return `A cost is said of what is added only; ${e.item} leaves at what it cost.`;
    case 'stock.adjustAhead':
      return `${writeDay(e.day)} is still to come. An adjustment belongs to a day that has begun.`;
    case 'stock.noSuchLot':
      return `${e.item} has no lot ${e.lot} to take from.`;
    case 'stock.noSuchSerial':
      return `${e.item} has no serial ${e.serial} to take away.`;
    case 'stock.hasHistory':
      return (
        `${e.item} has ${e.movements} ${e.movements === 1 ? 'movement' : 'movements'} at ${e.site} already: this is no opening ` +
        `stock but an adjustment. Say why it is made.`
      );
    case 'stock.finerThanItem':
      return e.decimals === 0
        ? `${e.asked} of ${e.item} is not possible: it is counted whole.`
        : `${e.asked} of ${e.item} is too fine: it is counted to ${e.decimals} decimal${e.decimals === 1 ? '' : 's'}.`;
    case 'stock.acrossSites':
      return `Bin ${e.bin} is at ${e.site}. Goods go from site to site by a transfer only. Nothing was moved.`;
    case 'stock.carriedGoods':
      return `${e.item} on ${e.bin} is being carried by ${e.number}. Put it down there, or throw that round away.`;
    case 'stock.ordersGoods':
      return (
        `${e.item} in ${e.bin} was picked for order ${e.order} on round ${e.round}. Put the order’s goods back first; then it ` +
        `is free to move.`
      );
    case 'stock.passingThrough':
      return `${e.bin} takes goods of a round only: ${e.item} cannot begin there. Give the bin in which it lies.`;
    case 'stock.serialElsewhere':
      return `Serial ${e.serial} of ${e.item} is already in stock, in bin ${e.bin}.`;
    case 'stock.unitElsewhere':
      return `Unit ${e.sscc} stands in ${e.bin}; it cannot stand in ${e.other} too. Nothing was moved.`;
    case 'stock.unknownUnit':
      return `No unit ${e.sscc} has come here.`;
    case 'stock.unitEmpty':
      return `Nothing is in unit ${e.sscc} any more.`;
    case 'stock.nothingToMove':
      return `Line ${e.line + 1} moves nothing: the quantity must be more than 0.`;
    case 'stock.staysPut':
      return `Line ${e.line + 1} goes to where it already is.`;
    case 'stock.serialNotOne':
      return `Line ${e.line + 1} names a serial, so its quantity is 1.`;
    case 'stock.alreadyUndone':
      return `Movement ${e.movement} was undone before.`;
    case 'stock.unknownMovement':
      return `There is no movement ${e.movement} on the ledger.`;
    case 'stock.nothingToHold':
      return `There is no sound stock of ${e.what} to hold.`;
    case 'stock.unknownHold':
      return `There is no hold ${e.id}.`;
    case 'stock.holdReleased':
      return `Hold ${e.number} was released before.`;
    default:
      return assertNever(e);
  }
}
