import { assertNever } from '#core/base';

export type MovesError =
  | { code: 'moves.notThere'; bin: string; item: string }
  | { code: 'moves.whichLot'; bin: string; item: string; lots: readonly string[] }
  | { code: 'moves.whichSerial'; bin: string; item: string }
  | { code: 'moves.unknownLot'; item: string; lot: string }
  | { code: 'moves.unknownSerial'; item: string; serial: string }
  | { code: 'moves.expiredToShelf'; item: string; lot: string; expired: string; bin: string }
  | { code: 'moves.sameBin'; what: string; bin: string }
  | { code: 'moves.otherSite'; bin: string; site: string };

/** The sentence for an error while moving goods. */
export function movesSentence(e: MovesError): string {
  switch (e.code) {
    case 'moves.notThere':
      return `Bin ${e.bin} holds no ${e.item}. If it is in your hands, count the bin.`;
    case 'moves.whichLot':
      return `Bin ${e.bin} holds ${e.item} in lots ${e.lots.join(', ')}. Scan the lot.`;
    case 'moves.whichSerial':
      return `${e.item} is kept by serial. Scan the serial of the one you move.`;
    case 'moves.unknownLot':
      return `${e.item} has no lot ${e.lot} here.`;
    case 'moves.unknownSerial':
      return `${e.item} has no serial ${e.serial} here.`;
    case 'moves.expiredToShelf':
      return `Lot ${e.lot} of ${e.item} expired on ${e.expired}. It goes to quarantine or scrap, not to ${e.bin}.`;
    case 'moves.sameBin':
      return `${e.what} stands in ${e.bin} already.`;
    case 'moves.otherSite':
      return `Bin ${e.bin} is at ${e.site}; this move stays within one site.`;
    default:
      return assertNever(e);
  }
}
