import { assertNever, writeDay } from '#core/base';

export type LotsError =
  | { code: 'lots.gone'; id: number }
  | { code: 'lots.notExpired'; item: string; lot: string; expires: string | null }
  | { code: 'lots.there'; item: string; lot: string; bin: string }
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
    case 'lots.unknownSerial':
      return `${e.item} never had a serial ${e.serial}.`;
    default:
      return assertNever(e);
  }
}
