import { assertNever } from '#core/base';

export type CarryingError =
  | { code: 'carrying.unknown'; text: string }
  | { code: 'carrying.unknownTask'; number: string }
  | { code: 'carrying.ended'; number: string; state: string }
  | { code: 'carrying.others'; number: string; person: string }
  | { code: 'carrying.nothingToPutAway'; site: string }
  | { code: 'carrying.nothingToRefill'; site: string; low: number }
  | { code: 'carrying.noCart'; site: string }
  | { code: 'carrying.wrongBin'; scanned: string; wanted: string }
  | { code: 'carrying.wrongItem'; scanned: string; wanted: string }
  | { code: 'carrying.wrongLot'; item: string; scanned: string; wanted: string }
  | { code: 'carrying.whichLot'; item: string; lots: readonly string[] }
  | { code: 'carrying.goesElsewhere'; item: string; here: string; to: string }
  | { code: 'carrying.tooMany'; item: string; asked: string; open: string; way: 'take' | 'put' }
  | { code: 'carrying.serialWanted'; item: string }
  | { code: 'carrying.notThisSerial'; item: string; serial: string; bin: string }
  | { code: 'carrying.putAlready'; item: string }
  | { code: 'carrying.keyedTwice'; item: string; number: string }
  | { code: 'carrying.cartTaken'; number: string; cart: string }
  | { code: 'carrying.serialsKeyed'; item: string; serials: number; pieces: string };

/** The sentence for an error on a put-away or refill round. */
export function carryingSentence(e: CarryingError): string {
  switch (e.code) {
    case 'carrying.unknown':
      return `There is no put-away or refill round ${e.text}.`;
    case 'carrying.unknownTask':
      return `${e.number} has no such line.`;
    case 'carrying.ended':
      return `${e.number} is ${e.state}.`;
    case 'carrying.others':
      return `${e.number} is walked by ${e.person}.`;
    case 'carrying.nothingToPutAway':
      return `Nothing at the arrivals of ${e.site} waits for a round: it is put away, or on one already.`;
    case 'carrying.nothingToRefill':
      return e.low === 0
        ? `No pick face of ${e.site} is below its minimum, and the orders of tonight need no more than lies there.`
        : `${e.low} pick ${e.low === 1 ? 'face' : 'faces'} of ${e.site} ${e.low === 1 ? 'wants' : 'want'} more, and no reserve has any.`;
    case 'carrying.noCart':
      return `Every cart of ${e.site} is on a round. Put one down first, or make another cart bin.`;
    case 'carrying.wrongBin':
      return `Wrong bin: this is ${e.scanned}, next is ${e.wanted}.`;
    case 'carrying.wrongItem':
      return `Wrong item: this is ${e.scanned}, here it is ${e.wanted}.`;
    case 'carrying.wrongLot':
      return `Wrong lot of ${e.item}: this is ${e.scanned}, wanted is ${e.wanted}.`;
    case 'carrying.whichLot':
      return `Several lots of ${e.item}: ${e.lots.join(', ')}. Scan the lot.`;
    case 'carrying.goesElsewhere':
      return `${e.item} goes to ${e.to}, and this is ${e.here}. To leave it here, scan ${e.here} twice first.`;
    case 'carrying.tooMany':
      return e.way === 'take'
        ? `${e.asked} ${e.item} are too many: ${e.open} are still to be taken here.`
        : `${e.asked} ${e.item} are too many: ${e.open} are still to be put away.`;
    case 'carrying.serialWanted':
      return `${e.item} is tracked by serial. Scan the serial.`;
    case 'carrying.notThisSerial':
      return `Serial ${e.serial} of ${e.item} is not ${e.bin}.`;
    case 'carrying.putAlready':
      return `That ${e.item} has been put down already. Undo the put-down first.`;
    case 'carrying.keyedTwice':
      return `One line of ${e.item} stands twice on the sheet of ${e.number}.`;
    case 'carrying.cartTaken':
      return `${e.number} is done, and ${e.cart} is on another round since. Move the goods back instead.`;
    case 'carrying.serialsKeyed':
      return `${e.pieces} ${e.item} were put away, and ${e.serials} ${e.serials === 1 ? 'serial was' : 'serials were'} keyed of them.`;
    default:
      return assertNever(e);
  }
}
