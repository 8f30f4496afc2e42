import { assertNever } from '#core/base';
import { itemsSentence, type ItemsError } from '#core/items';
import { placesSentence, type PlacesError } from '#core/places';
import { stockSentence, type StockError } from '#core/stock';
import { lotsSentence, type LotsError } from '#core/lots';
import { purchasingSentence, type PurchasingError } from '#core/purchasing';
import { receivingSentence, type ReceivingError } from '#core/receiving';
import { movesSentence, type MovesError } from '#core/moves';
import { ordersSentence, type OrdersError } from '#core/orders';
import { channelSentence, type ChannelError } from '#core/channel';
import { carryingSentence, type CarryingError } from '#core/carrying';
import { pickingSentence, type PickingError } from '#core/picking';
import { shippingSentence, type ShippingError } from '#core/shipping';
import { countingSentence, type CountingError } from '#core/counting';
import { peopleSentence, type PeopleError } from '#core/people';
import { labelsSentence, type LabelsError } from '#core/labels';
import { handsSentence, type HandsError } from '#core/hands';
import type { Result } from '#core/base';

/** What can be wrong with a request before any room sees it. */
export type RequestError =
  | { code: 'request.malformed' }
  | { code: 'request.tooLarge'; limit: string }
  | { code: 'request.fields'; fields: readonly { field: string; problem: string }[] }
  | { code: 'request.noKey' }
  | { code: 'request.keyReused' }
  | { code: 'request.otherOrigin' }
  | { code: 'request.unknownRoute'; path: string }
  | { code: 'request.tooManyRequests' }
  | { code: 'request.tooManyStreams'; most: number }
  | { code: 'request.tooDeep' }
  | { code: 'request.metAnother' }
  | { code: 'server.fault'; incident: string }
  | { code: 'server.noDatabase' }
  | { code: 'server.notKnown' }
  | { code: 'server.tooBusy'; waited: string }
  | { code: 'server.diskFull' }
  | { code: 'server.helperEnded'; what: string; why: string }
  | { code: 'file.tooLarge'; name: string; megabytes: number; most: number }
  | { code: 'file.empty'; name: string }
  | { code: 'file.tooManyPixels'; name: string; width: number; height: number; most: number }
  | { code: 'file.notAPicture'; name: string }
  | { code: 'file.wrongKind'; name: string; wanted: string }
  | { code: 'file.unknown'; id: number }
  | { code: 'work.unknown'; id: number }
  | { code: 'work.notChecked'; title: string; state: string };

export type DomainError =
  | RequestError
  | StockError
  | ItemsError
  | PlacesError
  | LotsError
  | PurchasingError
  | ReceivingError
  | MovesError
  | OrdersError
  | PickingError
  | CarryingError
  | ChannelError
  | ShippingError
  | CountingError
  | PeopleError
  | LabelsError
  | HandsError;

/** A refusal on its way to the edge. Thrown inside the transaction, so that it rolls back. */
export class Refusal extends Error {
  readonly error: DomainError;
  constructor(error: DomainError) {
    super(error.code);
    this.error = error;
  }
}

/** What two who came at the same moment met in, by the rule of the database that kept them apart: neither could see the other before. */
const MEETINGS: Readonly<Record<string, DomainError>> = {
  balance_serial_in_one_place: { code: 'stock.serialElsewhere', serial: '', item: 'this item', bin: 'another place' },
};

/** What a rule of the database says that two who came at the same moment could not see before; null where the error is none of these. */
export function refusalOfConstraint(error: unknown): DomainError | null {
  const { code, constraint } = error as { code?: string; constraint?: string };
  const met = MEETINGS[constraint ?? ''];
  if (met) return met;
  return code === '23505' ? { code: 'request.metAnother' } : null;
}

/** Whether an error says that a connection is gone, and not that it was never there. */
const isCut = (error: { code?: string | undefined; message?: string }): boolean =>
  /^(08|57P0[12]|ECONNRESET|EPIPE)/.test(error.code ?? '') ||
  /Connection terminated|connection.*(ended|closed)|not queryable|Query read timeout/i.test(error.message ?? '');

/** What is to be said of an error of the database; null where it is a mistake of this program. */
export function faultOfDatabase(error: unknown): DomainError | null {
  const { code = '', name = '' } = (error ?? {}) as { code?: string; name?: string };
  const met = refusalOfConstraint(error);
  if (met) return met;
  if (isCut(error as { code?: string; message?: string })) return { code: 'server.notKnown' };
  if (
    /^(ECONNREFUSED|ENOENT|ETIMEDOUT|EHOSTUNREACH|57P03|53300)$/.test(code) ||
    name === 'KnexTimeoutError' ||
    /^timeout (expired|exceeded)/.test((error as Error | null)?.message ?? '')
  )
    return { code: 'server.noDatabase' };
  if (code === '57014') return { code: 'server.tooBusy', waited: 'a statement may' };
  if (code === '55P03') return { code: 'server.tooBusy', waited: 'anybody may wait' };
  if (/^40(P01|001)$/.test(code)) return { code: 'server.tooBusy', waited: 'it was tried' };
  if (code === '53100' || code === '58030') return { code: 'server.diskFull' };
  // A number or a text that its column cannot hold: it came through a door that should have said so by name.
  if (/^22(003|P02|P05|008|007|021|001)$/.test(code))
    return { code: 'request.fields', fields: [{ field: '', problem: 'A value cannot be held: it is too large, or not what is asked.' }] };
  return null;
}

const PASSING: readonly DomainError['code'][] = ['server.noDatabase', 'server.notKnown', 'server.tooBusy', 'server.diskFull'];

/** Whether an error is of the moment: the database is away, full, or somebody was waited for too long. Asked again it may go through. */
export function isPassing(error: unknown): boolean {
  if (error instanceof Refusal) return false;
  const fault = faultOfDatabase(error);
  return fault !== null && PASSING.includes(fault.code);
}

/** Throws a refusal. */
export function refuse(error: DomainError): never {
  throw new Refusal(error);
}

/** The value of a decision, or its refusal thrown. */
export function valueOf<T>(result: Result<T, DomainError>): T {
  return result.ok ? result.value : refuse(result.error);
}

function requestSentence(e: RequestError): string {
  switch (e.code) {
    case 'request.malformed':
      return 'The request could not be read: it is not JSON.';
    case 'request.tooLarge':
      return `The request is larger than ${e.limit}; nothing in it was done.`;
    case 'request.fields':
      return e.fields.map((f) => (f.field ? `${f.field}: ${f.problem}` : f.problem)).join(' ');
    case 'request.noKey':
      return 'A command needs an Idempotency-Key header with a UUID, so that it can be sent again safely.';
    case 'request.keyReused':
      return 'This Idempotency-Key was used for another command. Every act needs a key of its own.';
    case 'request.otherOrigin':
      return 'This command did not come from a Dock Row screen.';
    case 'request.unknownRoute':
      return `There is nothing at ${e.path}.`;
    case 'request.tooManyRequests':
      return 'Too many requests from this device. Wait a minute.';
    case 'request.tooManyStreams':
      return `This device listens ${e.most} times already. Close a window of Dock Row.`;
    case 'request.tooDeep':
      return 'The request is nested more deeply than anything that is asked here.';
    case 'request.metAnother':
      return 'Somebody made the same at the same moment. Nothing was changed; look again.';
    case 'server.fault':
      return `Something broke on the server; nothing was changed. Say the number ${e.incident} to whoever looks after it.`;
    case 'server.noDatabase':
      return 'The database cannot be reached just now. Nothing was changed; try again.';
    case 'server.notKnown':
      return (
        'The connection to the database broke off in the middle, so it is not known whether this was done. Send it again under ' +
        'the same Idempotency-Key: it is never done twice.'
      );
    case 'server.tooBusy':
      return `Somebody else is at work on the same thing, or it took longer than ${e.waited}. Nothing was changed; try again.`;
    case 'server.diskFull':
      return 'The disk of the database is full. Nothing was changed. Make room before anything else is done.';
    case 'server.helperEnded':
      return `${e.what} was given up: it ${e.why}. Nothing of it was kept.`;
    case 'file.tooLarge':
      return `${e.name} has ${e.megabytes} MB; at most ${e.most} MB are taken. Nothing of it was kept.`;
    case 'file.empty':
      return `${e.name} is empty.`;
    case 'file.tooManyPixels':
      return (
        `${e.name} is ${e.width} by ${e.height} pixels; at most ${Math.round(e.most / 1_000_000)} million are opened. Nothing ` +
        `of it was kept.`
      );
    case 'file.notAPicture':
      return `${e.name} is not a picture that can be opened, whatever its name says.`;
    case 'file.wrongKind':
      return `${e.name} cannot be taken here: ${e.wanted}.`;
    case 'file.unknown':
      return `There is no file ${e.id}.`;
    case 'work.unknown':
      return `There is no job ${e.id}.`;
    case 'work.notChecked':
      return `${e.title} cannot go ahead: it is ${e.state}.`;
    default:
      return assertNever(e);
  }
}

/** The sentence for any refusal. */
export function sentenceOf(e: DomainError): string {
  const room = e.code.slice(0, e.code.indexOf('.'));
  switch (room) {
    case 'stock':
      return stockSentence(e as StockError);
    case 'items':
      return itemsSentence(e as ItemsError);
    case 'places':
      return placesSentence(e as PlacesError);
    case 'lots':
      return lotsSentence(e as LotsError);
    case 'purchasing':
      return purchasingSentence(e as PurchasingError);
    case 'receiving':
      return receivingSentence(e as ReceivingError);
    case 'moves':
      return movesSentence(e as MovesError);
    case 'orders':
      return ordersSentence(e as OrdersError);
    case 'channel':
      return channelSentence(e as ChannelError);
    case 'carrying':
      return carryingSentence(e as CarryingError);
    case 'picking':
      return pickingSentence(e as PickingError);
    case 'shipping':
      return shippingSentence(e as ShippingError);
    case 'counting':
      return countingSentence(e as CountingError);
    case 'people':
      return peopleSentence(e as PeopleError);
    case 'hands':
      return handsSentence(e as HandsError);
    case 'labels':
      return labelsSentence(e as LabelsError);
    default:
      return requestSentence(e as RequestError);
  }
}

// The one table from code to HTTP status. The type makes it exhaustive: a new code without a status does not compile.
const STATUS: Record<DomainError['code'], number> = {
  'request.malformed': 400,
  'request.tooLarge': 413,
  'request.fields': 400,
  'request.noKey': 400,
  'request.keyReused': 422,
  'request.otherOrigin': 403,
  'request.unknownRoute': 404,
  'request.tooManyRequests': 429,
  'request.tooManyStreams': 429,
  'request.tooDeep': 400,
  'request.metAnother': 409,
  'server.fault': 500,
  'server.noDatabase': 503,
  'server.notKnown': 503,
  'server.tooBusy': 503,
  'server.diskFull': 507,
  'server.helperEnded': 422,
  'stock.notANumber': 400,
  'stock.tooFine': 422,
  'stock.tooLarge': 422,
  'stock.binShort': 409,
  'stock.hasHistory': 409,
  'stock.finerThanItem': 422,
  'stock.acrossSites': 409,
  'stock.ordersGoods': 409,
  'stock.carriedGoods': 409,
  'stock.serialElsewhere': 409,
  'stock.unitElsewhere': 409,
  'stock.unknownUnit': 404,
  'stock.unitEmpty': 409,
  'stock.nothingToMove': 422,
  'stock.staysPut': 422,
  'stock.serialNotOne': 422,
  'stock.alreadyUndone': 409,
  'stock.unknownMovement': 404,
  'items.unknownCode': 404,
  'items.unknownItem': 404,
  'items.codeTaken': 409,
  'items.barcodeTaken': 409,
  'items.notAnItem': 422,
  'items.scanEmpty': 422,
  'items.scanTooLong': 422,
  'items.gs1UnknownAi': 422,
  'items.gs1TooShort': 422,
  'items.gs1BadData': 422,
  'places.oneItem': 409,
  'places.oneLot': 409,
  'places.full': 409,
  'places.unknownBin': 404,
  'places.notABin': 422,
  'places.binElsewhere': 404,
  'places.notAHome': 422,
  'places.zoneHoldsOthers': 409,
  'places.notADefault': 409,
  'places.changedMeanwhile': 409,
  'places.binTaken': 409,
  'places.unknownZone': 404,
  'places.unknownSite': 404,
  'places.noDefaultBin': 409,
  'stock.nothingToAdjust': 422,
  'stock.adjustTooFine': 422,
  'stock.adjustLot': 422,
  'stock.adjustDate': 422,
  'stock.adjustDateDiffers': 409,
  'stock.adjustSerials': 422,
  'stock.adjustSerialTwice': 422,
  'stock.adjustSerialHere': 409,
  'stock.adjustCost': 422,
  'stock.adjustAhead': 422,
  'stock.noSuchLot': 409,
  'stock.noSuchSerial': 409,
  'lots.gone': 409,
  'lots.notExpired': 409,
  'lots.sameLot': 422,
  'lots.badQuantity': 422,
  'lots.noLots': 422,
  'lots.held': 409,
  'lots.notSoMany': 409,
  'lots.otherDate': 409,
  'lots.there': 409,
  'lots.unknownSerial': 404,
  'purchasing.unknownOrder': 404,
  'purchasing.noLines': 422,
  'purchasing.nothing': 422,
  'purchasing.tooFine': 422,
  'purchasing.belowReceived': 409,
  'purchasing.lineHasGoods': 409,
  'purchasing.unknownLine': 409,
  'purchasing.lineIsOf': 409,
  'purchasing.retired': 409,
  'purchasing.notNow': 409,
  'purchasing.beingReceived': 409,
  'purchasing.hasGoods': 409,
  'purchasing.changedMeanwhile': 409,
  'purchasing.referenceTaken': 409,
  'purchasing.noSupplier': 409,
  'purchasing.levelsCross': 422,
  'receiving.nothing': 422,
  'receiving.tooMany': 422,
  'receiving.tooFine': 422,
  'receiving.notOrdered': 409,
  'receiving.lotWanted': 422,
  'receiving.dateWanted': 422,
  'receiving.dateDiffers': 409,
  'receiving.madeAfterExpiry': 422,
  'receiving.serialRange': 422,
  'receiving.twoSuppliers': 409,
  'receiving.notPosted': 409,
  'receiving.reversed': 409,
  'receiving.unknownShipment': 404,
  'receiving.invoicedTwice': 422,
  'receiving.noPlaceFor': 422,
  'receiving.expiredStays': 422,
  'receiving.moreThanEntry': 422,
  'receiving.lookedAt': 409,
  'receiving.breaksRule': 409,
  'receiving.isReturn': 409,
  'receiving.isNoReturn': 409,
  'receiving.checkedTooMany': 422,
  'receiving.failedTooMany': 422,
  'receiving.unknownReason': 422,
  'receiving.reasonTwice': 409,
  'receiving.photosFull': 422,
  'receiving.notAllHere': 409,
  'receiving.serialWanted': 422,
  'receiving.serialIsOne': 422,
  'receiving.serialHere': 409,
  'receiving.unknownOrder': 404,
  'receiving.unknownDelivery': 404,
  'receiving.unknownEntry': 404,
  'receiving.notOpen': 409,
  'receiving.empty': 409,
  'receiving.leadsNow': 403,
  'receiving.notThrown': 409,
  'receiving.unitHere': 409,
  'receiving.unitOfAnother': 409,
  'receiving.unitWhole': 409,
  'receiving.unitIsEmpty': 422,
  'receiving.badAdvice': 422,
  'receiving.adviceFaults': 422,
  'receiving.adviceNoOrder': 422,
  'receiving.adviceElsewhere': 409,
  'receiving.noticeBegun': 409,
  'receiving.unknownNotice': 404,
  'receiving.noticeOver': 409,
  'receiving.begunAgain': 409,
  'moves.notThere': 409,
  'moves.whichLot': 422,
  'moves.whichSerial': 422,
  'moves.unknownLot': 404,
  'moves.unknownSerial': 404,
  'moves.expiredToShelf': 409,
  'moves.sameBin': 409,
  'moves.otherSite': 422,
  'orders.unknownOrder': 404,
  'orders.unknownCustomer': 404,
  'orders.nothing': 422,
  'orders.noLines': 422,
  'orders.noParts': 409,
  'orders.kitTooMany': 409,
  'orders.kitNamed': 409,
  'orders.kitLines': 409,
  'orders.notThatLine': 422,
  'orders.held': 409,
  'orders.notOpen': 409,
  'orders.notHeld': 409,
  'orders.referenceKnown': 409,
  'orders.whoFor': 422,
  'orders.toItself': 422,
  'orders.unknownSite': 404,
  'orders.unknownItem': 404,
  'orders.retired': 409,
  'orders.customerCodeTaken': 409,
  'orders.customerChanged': 409,
  'orders.unknownLine': 404,
  'orders.noLots': 422,
  'orders.noSerials': 422,
  'orders.serialTwice': 422,
  'orders.serialsForPieces': 422,
  'orders.unknownSerial': 404,
  'orders.serialNamed': 409,
  'orders.lineOnItsWay': 409,
  'orders.lifeOnItsWay': 409,
  'orders.fewerThanShipped': 422,
  'carrying.unknown': 404,
  'carrying.unknownTask': 404,
  'carrying.ended': 409,
  'carrying.others': 409,
  'carrying.nothingToPutAway': 409,
  'carrying.nothingToRefill': 409,
  'carrying.noCart': 409,
  'carrying.cartTaken': 409,
  'carrying.keyedTwice': 422,
  'carrying.wrongBin': 422,
  'carrying.wrongItem': 422,
  'carrying.wrongLot': 422,
  'carrying.whichLot': 422,
  'carrying.goesElsewhere': 422,
  'carrying.tooMany': 409,
  'carrying.serialWanted': 422,
  'carrying.serialsKeyed': 422,
  'carrying.notThisSerial': 409,
  'carrying.putAlready': 409,
  'picking.tooLittleLife': 409,
  'picking.otherLot': 409,
  'picking.sameRound': 422,
  'picking.nothingOpen': 409,
  'picking.wrongBin': 422,
  'picking.wrongItem': 422,
  'picking.wrongLot': 422,
  'picking.whichLot': 422,
  'picking.expired': 409,
  'picking.nothing': 422,
  'picking.tooMany': 422,
  'picking.tooFine': 422,
  'picking.onRound': 409,
  'picking.unknownPerson': 404,
  'picking.serialWanted': 422,
  'picking.serialIsOne': 422,
  'channel.badPaper': 422,
  'channel.paperFaults': 422,
  'channel.noSuchOrder': 404,
  'channel.unknownPaper': 404,
  'channel.notOpen': 409,
  'picking.notKeyed': 422,
  'picking.serialsKeyed': 422,
  'picking.serialTwice': 422,
  'picking.serialNotNamed': 409,
  'picking.serialKept': 409,
  'picking.serialNotHere': 409,
  'picking.kitsMade': 409,
  'picking.partsShort': 409,
  'picking.kitNotWanted': 409,
  'picking.partsApart': 409,
  'picking.partHeld': 409,
  'picking.kitWhere': 422,
  'picking.notAKit': 409,
  'picking.unknownAssembly': 404,
  'picking.othersKits': 409,
  'picking.apartAlready': 409,
  'picking.kitsOnTheirWay': 409,
  'picking.unitUnknown': 404,
  'picking.unitElsewhere': 409,
  'picking.unitUnsound': 409,
  'picking.unitOther': 409,
  'picking.unitTooMuch': 409,
  'picking.unitManifold': 422,
  'picking.notPickable': 409,
  'picking.binNamed': 409,
  'picking.unknownRound': 404,
  'picking.unknownTrouble': 404,
  'picking.unknownPick': 404,
  'picking.nobodyWaits': 409,
  'picking.nothingToPick': 409,
  'picking.noCart': 409,
  'picking.roundDone': 409,
  'picking.othersRound': 409,
  'picking.stillOpen': 409,
  'picking.notAPackingBin': 422,
  'picking.noLongerPromised': 409,
  'shipping.held': 409,
  'shipping.nothingPicked': 409,
  'shipping.onCart': 409,
  'shipping.goodsHeld': 409,
  'shipping.cameSince': 409,
  'shipping.piecesChanged': 409,
  'shipping.expired': 409,
  'shipping.serialMissing': 409,
  'shipping.unknownShipment': 404,
  'shipping.transitPromised': 409,
  'shipping.notSound': 409,
  'shipping.promisedToOthers': 409,
  'shipping.makesKits': 409,
  'shipping.notPacked': 409,
  'counting.unknownCount': 404,
  'counting.notOpen': 409,
  'counting.binNotInCount': 422,
  'counting.zoneOpen': 409,
  'counting.noBins': 409,
  'counting.lotWanted': 422,
  'counting.dateWanted': 422,
  'counting.visited': 409,
  'counting.serialWanted': 422,
  'counting.unitTwice': 409,
  'counting.serialTwice': 409,
  'counting.nothingCounted': 409,
  'counting.unknownTally': 404,
  'counting.blind': 422,
  'counting.notThrown': 409,
  'people.signInFirst': 401,
  'people.away': 401,
  'people.shiftOver': 401,
  'people.noSuchSession': 404,
  'people.noRight': 403,
  'people.otherSite': 403,
  'people.notAtSite': 403,
  'people.noSite': 403,
  'people.unknownPerson': 404,
  'people.wrongPassword': 401,
  'people.wrongPin': 401,
  'people.tooManyTries': 429,
  'people.codeWrong': 403,
  'people.leadExists': 409,
  'people.weakPin': 422,
  'people.weakPassword': 422,
  'people.notOneself': 409,
  'people.lastLead': 409,
  'people.noWayIn': 422,
  'people.nameTaken': 409,
  'people.badgeTaken': 409,
  'hands.unknownDevice': 403,
  'hands.notTheirs': 403,
  'hands.leadPosts': 409,
  'hands.nameTaken': 409,
  'hands.unreadable': 409,
  'hands.unknownClash': 404,
  'hands.settledBefore': 409,
  'hands.notOffered': 422,
  'labels.unknownJob': 404,
  'labels.tooMany': 422,
  'labels.noRoom': 422,
  'labels.emptyCode': 422,
  'labels.unknownPart': 422,
  'labels.tooManyTexts': 422,
  'labels.notPlaced': 422,
  'labels.offGrid': 422,
  'labels.partsOverlap': 422,
  'labels.changedMeanwhile': 409,
  'labels.noLogo': 422,
  'labels.paperTooSmall': 422,
  'labels.paperTooLarge': 422,
  'labels.offSheet': 422,
  'labels.overEachOther': 422,
  'labels.unknownPaper': 404,
  'labels.paperTaken': 409,
  'labels.paperInUse': 409,
  'labels.unknownPrinter': 404,
  'labels.printerTaken': 409,
  'labels.sheetIsPdf': 422,
  'labels.nothing': 404,
  'labels.noBins': 404,
  'labels.notPacked': 409,
  'labels.nothingPicked': 409,
  'labels.noBadge': 409,
  'labels.nothingUnsure': 409,
  'labels.runOpen': 409,
  'labels.moreThanSent': 422,
  'labels.noPrefix': 409,
  'labels.prefixUsedUp': 409,
  'file.tooLarge': 413,
  'file.empty': 422,
  'file.tooManyPixels': 422,
  'file.notAPicture': 422,
  'file.wrongKind': 415,
  'file.unknown': 404,
  'work.unknown': 404,
  'work.notChecked': 409,
  'stock.passingThrough': 422,
  'stock.nothingToHold': 409,
  'stock.unknownHold': 404,
  'stock.holdReleased': 409,
  'items.checkDigit': 422,
  'items.gs1TooLong': 422,
  'items.gs1CheckDigit': 422,
  'items.gs1BadDate': 422,
  'items.gs1Twice': 422,
  'items.linkTwice': 422,
  'items.linkPlace': 422,
  'items.ambiguousCode': 409,
  'items.codeIsBarcode': 409,
  'items.barcodeIsCode': 409,
  'items.partTooFine': 422,
  'items.changedMeanwhile': 409,
  'items.fieldIsColumn': 409,
  'items.unknownPack': 404,
  'items.packTaken': 409,
  'items.retired': 409,
  'items.hasStock': 409,
  'items.decimalsTooFew': 409,
  'items.trackingOpen': 409,
  'items.trackingFreesExpired': 409,
  'items.trackingSum': 422,
  'items.kitCircle': 409,
  'items.kitSelf': 422,
  'items.unknownField': 404,
  'items.lotUnread': 422,
  'items.fieldTaken': 409,
  'items.fieldValue': 422,
  'items.unknownSupplier': 404,
  'items.supplierTaken': 409,
  'items.unknownListRow': 404,
  'items.alreadyStocked': 409,
  'places.storageClass': 409,
  'places.tooBulky': 409,
  'places.tooHeavy': 409,
  'places.gridLevels': 422,
  'places.gridSeparator': 422,
  'places.gridRange': 422,
  'places.gridDigits': 422,
  'places.gridEmpty': 422,
  'places.gridTooMany': 422,
  'places.planOutside': 422,
  'places.planOverlap': 409,
  'places.planTooLarge': 422,
  'places.planMoved': 409,
  'places.binsTaken': 409,
  'places.nameTaken': 409,
  'places.binNotEmpty': 409,
  'places.binInUse': 409,
  'places.binRetired': 409,
  'places.zoneTaken': 409,
  'places.siteTaken': 409,
  'places.timeZone': 422,
  'places.minOverMax': 422,
};

/** The HTTP status of a refusal. */
export function statusOf(error: DomainError): number {
  return STATUS[error.code];
}
