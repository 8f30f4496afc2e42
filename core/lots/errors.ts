import { assertNever, writeDay } from '#core/base';

export type LotsError =
  | { code: 'lots.gone'; id: number }
  | { code: 'lots.notExpired'; item: string; lot: string; expires: string | null }
  | { code: 'lots.there'; item: string; lot: string; bin: string }
  | { code: 'lots.sameLot'; item: string; lot: string }
  | { code: 'lots.badQuantity'; item: string }
  | { code: 'lots.noLots'; item: string }
  | { code: 'lots.held'; item: string; lot: string }
  | { code: 'lots.notSoMany'; item: string; lot: string; bin: string; there: string }
  | { code: 'lots.otherDate'; item: string; lot: string; known: string | null; given: string | null }
  | { code: 'lots.unknownSerial'; item: string; serial: string };

/** The sentence for an error of lots and serials. */
export function lotsSentence(e: LotsError): string {
  switch (e.code) {
    case 'lots.gone':
      return 'Some of these lots were moved meanwhile. Nothing was done: look at the list again.';
    case 'lots.notExpired':
      return e.expires === null
        ? `Lot ${e.lot} of ${e.item} has no date: it cannot have expired.`
        : `Lot ${e.lot} of ${e.item} is good until ${writeDay(e.expires)}. Move it, or hold it, on its item’s page.`;
    case 'lots.there':
      return `Lot ${e.lot} of ${e.item} lies in ${e.bin} already.`;
    case 'lots.sameLot':
      return `These ${e.item} are lot ${e.lot} already. Key the new number.`;
    case 'lots.noLots':
      return `${e.item} is not kept by lot: it has no number to change.`;
    case 'lots.held':
      return `Lot ${e.lot} of ${e.item} is held here. Release the hold first: it is of this number.`;
    case 'lots.badQuantity':
      return `Key how many ${e.item} get the new number.`;
    case 'lots.notSoMany':
      return `Of lot ${e.lot} of ${e.item} only ${e.there} lie in ${e.bin}.`;
    case 'lots.otherDate': {
      const day = (date: string | null): string => (date === null ? 'no date' : writeDay(date));
      return `Lot ${e.lot} of ${e.item} is here already, with ${day(e.known)}, not ${day(e.given)}. One lot has one date.`;
    }
    case 'lots.unknownSerial':
      return `${e.item} never had a serial ${e.serial}.`;
    default:
      return assertNever(e);
  }
}
