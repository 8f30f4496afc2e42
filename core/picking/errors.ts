import { assertNever, formatQty, writeDay, type Qty } from '#core/base';
import { shortSscc } from '#core/floor';

export type PickingError =
  | { code: 'picking.wrongBin'; scanned: string; wanted: string }
  | { code: 'picking.wrongItem'; scanned: string; wanted: string }
  | { code: 'picking.wrongLot'; item: string; scanned: string; wanted: string }
  | { code: 'picking.tooLittleLife'; item: string; lot: string; expires: string; goodOn: string }
  | { code: 'picking.otherLot'; item: string; scanned: string; wanted: string; reason: string }
  | { code: 'picking.whichLot'; item: string; bin: string; wanted: string; lots: readonly string[] }
  | { code: 'picking.expired'; item: string; lot: string; expired: string }
  | { code: 'picking.nothing'; item: string }
  | { code: 'picking.tooMany'; item: string; taken: number; open: number }
  | { code: 'picking.tooFine'; item: string; asked: string; decimals: number }
  | { code: 'picking.serialWanted'; item: string }
  | { code: 'picking.serialIsOne'; item: string }
  | { code: 'picking.serialNotHere'; item: string; serial: string; bin: string }
  | { code: 'picking.notKeyed'; item: string; bin: string; number: string }
  | { code: 'picking.serialsKeyed'; item: string; bin: string; serials: number; pieces: string }
  | { code: 'picking.serialTwice'; item: string; serial: string }
  | { code: 'picking.serialNotNamed'; item: string; serial: string; named: readonly string[] }
  | { code: 'picking.serialKept'; item: string; serial: string }
  | { code: 'picking.kitsMade'; kit: string; order: string; left: Qty }
  | { code: 'picking.partsShort'; kit: string; part: string; has: Qty; needs: Qty }
  | { code: 'picking.kitNotWanted'; kit: string; order: string; made: Qty; wanted: Qty }
  | { code: 'picking.partsApart'; kit: string; bins: readonly string[] }
  | { code: 'picking.partHeld'; part: string; kit: string }
  | { code: 'picking.kitWhere'; kit: string }
  | { code: 'picking.notAKit'; number: string }
  | { code: 'picking.unknownAssembly' }
  | { code: 'picking.othersKits'; number: string; person: string }
  | { code: 'picking.apartAlready'; number: string }
  | { code: 'picking.kitsOnTheirWay'; number: string; kit: string }
  | { code: 'picking.unitUnknown'; sscc: string }
  | { code: 'picking.unitElsewhere'; sscc: string; bin: string; there: string }
  | { code: 'picking.unitUnsound'; sscc: string; item: string }
  | { code: 'picking.unitOther'; sscc: string; item: string }
  | { code: 'picking.unitTooMuch'; sscc: string; item: string; holds: Qty; open: Qty }
  | { code: 'picking.unitManifold'; sscc: string }
  | { code: 'picking.notPickable'; bin: string; item: string }
  | { code: 'picking.binNamed'; order: string; bin: string; item: string }
  | { code: 'picking.unknownRound'; text: string }
  | { code: 'picking.unknownPick'; id: number }
  | { code: 'picking.unknownTrouble'; id: number }
  | { code: 'picking.nothingToPick'; orders: readonly string[] }
  | { code: 'picking.nobodyWaits'; delivery: string }
  | { code: 'picking.onRound'; order: string; round: number; number: string }
  | { code: 'picking.unknownPerson'; id: number }
  | { code: 'picking.noCart'; site: string }
  | { code: 'picking.roundDone'; number: string; state: string }
  | { code: 'picking.othersRound'; number: string; person: string }
  | { code: 'picking.sameRound'; number: string }
  | { code: 'picking.nothingOpen'; number: string }
  | { code: 'picking.stillOpen'; number: string; open: number }
  | { code: 'picking.notAPackingBin'; bin: string }
  | { code: 'picking.noLongerPromised'; item: string; order: string };

/** The sentence for an error on a round. */
export function pickingSentence(e: PickingError): string {
  switch (e.code) {
    case 'picking.wrongBin':
      return `Wrong bin: this is ${e.scanned}, the pick is at ${e.wanted}.`;
    case 'picking.tooLittleLife':
      return `Lot ${e.lot} of ${e.item} keeps until ${writeDay(e.expires)}; its customer wants it to keep until ${writeDay(e.goodOn)}.`;
    case 'picking.otherLot':
      return `Lot ${e.scanned} of ${e.item} was taken instead of ${e.wanted}: ${e.reason}. A lead accepts that.`;
    case 'picking.sameRound':
      return `They are on ${e.number} already.`;
    case 'picking.nothingOpen':
      return `Nothing of that is open on ${e.number} any more.`;
    case 'picking.wrongItem':
      return `Wrong item: this is ${e.scanned}, the pick is ${e.wanted}. Put it back.`;
    case 'picking.wrongLot':
      return `Wrong lot: this is ${e.scanned}; ${e.item} leaves from lot ${e.wanted} first.`;
    case 'picking.whichLot':
      return `Several lots of ${e.item} lie in ${e.bin}: ${e.lots.join(', ')}. Take ${e.wanted}, and scan its lot.`;
    case 'picking.expired':
      return `Lot ${e.lot} of ${e.item} expired on ${e.expired}. It must not leave; say “not found” and go on.`;
    case 'picking.nothing':
      return `Key how many ${e.item} you took; it must be more than 0.`;
    case 'picking.tooMany':
      return `That is too many: ${e.taken} of ${e.item}, and ${e.open} ${e.open === 1 ? 'is' : 'are'} still to take here.`;
    case 'picking.tooFine':
      return e.decimals === 0
        ? `${e.asked} of ${e.item} is not possible: it is counted whole.`
        : `${e.asked} of ${e.item} is too fine: it is counted to ${e.decimals} decimals.`;
    case 'picking.serialWanted':
      return `${e.item} leaves by serial. Scan the serial of each one.`;
    case 'picking.serialIsOne':
      return `Each serial is one ${e.item}; scan them one by one.`;
    case 'picking.serialNotHere':
      return `Serial ${e.serial} of ${e.item} is not on record in bin ${e.bin}.`;
    case 'picking.notKeyed':
      return `Say how many ${e.item} came from ${e.bin}: ${e.number} still wants them. 0 where none did.`;
    case 'picking.serialsKeyed':
      return `${e.item} from ${e.bin}: ${e.serials === 1 ? '1 serial' : `${e.serials} serials`} for ${e.pieces} taken. Key each serial.`;
    case 'picking.serialTwice':
      return `Serial ${e.serial} of ${e.item} stands on the sheet twice.`;
    case 'picking.serialNotNamed':
      return `Serial ${e.serial} of ${e.item} is not one that the order names. Take ${e.named.join(' or ')}.`;
    case 'picking.serialKept':
      return `Serial ${e.serial} of ${e.item} is kept for another order, which names it. Put it back and take another.`;
    case 'picking.kitsMade':
      return e.left === 0
        ? `All ${e.kit} of ${e.order} are made.`
        : `${formatQty(e.left)} ${e.kit} ${e.left === 1000 ? 'is' : 'are'} still to be made of ${e.order}, not more.`;
    case 'picking.partsShort':
      return `That takes ${formatQty(e.needs)} ${e.part}, and ${formatQty(e.has)} ${e.has === 1000 ? 'is' : 'are'} in hand for ${e.kit}.`;
    case 'picking.kitNotWanted':
      return `${e.order} wants ${formatQty(e.wanted)} ${e.kit} by now, and ${formatQty(e.made)} are made.`;
    case 'picking.partsApart':
      return `The parts of ${e.kit} lie in ${e.bins.join(' and ')}. Put them down in one place first.`;
    case 'picking.partHeld':
      return `${e.part} in hand is held or expired: no ${e.kit} is made of it. Put it back, and pick others.`;
    case 'picking.kitWhere':
      return `Nobody ordered these ${e.kit}: scan the bin into which they go.`;
    case 'picking.notAKit':
      return `${e.number} makes no kits.`;
    case 'picking.unknownAssembly':
      return 'Nobody said that those kits were made.';
    case 'picking.othersKits':
      return `${e.person} made the kits of ${e.number}: they, or a lead, take them apart.`;
    case 'picking.apartAlready':
      return `${e.number} was taken apart already.`;
    case 'picking.kitsOnTheirWay':
      return `${e.kit} of ${e.number} are packed or have left. Undo the packing first.`;
    case 'picking.unitUnknown':
      return `Nobody knows what is in unit ${shortSscc(e.sscc)}. Scan the goods instead.`;
    case 'picking.unitElsewhere':
      return `Unit ${shortSscc(e.sscc)} should stand in ${e.there}, not in ${e.bin}. Scan the goods, or move the unit first.`;
    case 'picking.unitUnsound':
      return `${e.item} in unit ${shortSscc(e.sscc)} is not sound. Leave the unit, and take others.`;
    case 'picking.unitOther':
      return `Unit ${shortSscc(e.sscc)} holds ${e.item} too, which nobody wants here. Scan the goods, and take them out of it.`;
    case 'picking.unitTooMuch':
      return e.open === 0
        ? `All ${e.item} of this stop is taken. Unit ${shortSscc(e.sscc)} stays.`
        : `Unit ${shortSscc(e.sscc)} holds ${formatQty(e.holds)} ${e.item}, more than the ${formatQty(e.open)} still to take: ` +
            'scan the goods, and take them out of it.';
    case 'picking.unitManifold':
      return `Unit ${shortSscc(e.sscc)} holds too many things to be taken at once. Scan the goods one by one.`;
    case 'picking.notPickable':
      return `Nothing is picked out of ${e.bin}: ${e.item} there is not for orders.`;
    case 'picking.binNamed':
      return `${e.order} names bin ${e.bin} for its ${e.item}. Take it there, or say what is wrong there.`;
    case 'picking.unknownRound':
      return `There is no round “${e.text}”.`;
    case 'picking.unknownPick':
      return `Pick ${e.id} is not on this round.`;
    case 'picking.unknownTrouble':
      return `There is no open report ${e.id}; somebody may have settled it.`;
    case 'picking.nobodyWaits':
      return `Nobody waits for what lies at arrivals of ${e.delivery}: put it away.`;
    case 'picking.nothingToPick':
      return `Nothing of ${e.orders.join(', ')} can be picked now. Promise stock first, or put away what is at the dock.`;
    case 'picking.onRound':
      return `${e.order} is on round ${e.number} already.`;
    case 'picking.unknownPerson':
      return `Nobody with the number ${e.id} works at this site.`;
    case 'picking.noCart':
      return `${e.site} has no free cart bin. Put a round down first, or make another cart bin.`;
    case 'picking.roundDone':
      return `Round ${e.number} is ${e.state}; nothing more can be picked on it.`;
    case 'picking.othersRound':
      return `Round ${e.number} is being walked by ${e.person}.`;
    case 'picking.stillOpen':
      return `${e.open} pick${e.open === 1 ? ' is' : 's are'} still open on round ${e.number}. Pick them or say why not.`;
    case 'picking.notAPackingBin':
      return `Bin ${e.bin} is not at a bench. Scan the packing bin where the goods are put down.`;
    case 'picking.noLongerPromised':
      return `${e.item} is no longer promised to ${e.order}: stock was lost meanwhile. Leave it, say “too few there” and go on.`;
    default:
      return assertNever(e);
  }
}
