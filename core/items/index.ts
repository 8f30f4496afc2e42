export { checkDigit, hasValidCheckDigit, isSscc, withCheckDigit } from './check-digit.ts';
export { isCompanyPrefix, ssccOf, ssccRoom } from './sscc.ts';
export { labelText } from './label-text.ts';
export { unfitForGs1 } from './gs1-text.ts';
export { packToBase, baseToPacks, type Pack } from './packs.ts';
export { readScan, type ScanReading, type ScanFault, scanFaultSentence } from './scan.ts';
export { carriedBy, keysOf, NOTHING_CARRIED, resolveScan, type Carried, type Found, type Resolved, type ScanKeys } from './resolve.ts';
export { readGs1, readGs1Data, writeGs1, type Gs1Element, type Gs1Fault } from './gs1.ts';
export { GS1_TABLE, isPredefined, type AiCheck, type AiRule } from './gs1-table.ts';
export { readDigitalLink } from './digital-link.ts';
export { expandUpcE } from './upc-e.ts';
export { readGs1Date } from './gs1-date.ts';
export { itemsSentence, type ItemsError } from './errors.ts';
export { TRACKINGS, needsLot, needsExpiry, needsSerialOnArrival, needsSerialToShip, type Tracking } from './tracking.ts';
export { findKitCircle, kitsPossible, eachOfKit, kitsInHand, partsShort, takenByKits, type KitPart } from './kits.ts';
export { foldText, isOneEditApart, readSearch, searchWords, wordStems, maySpellWrong, type SearchText } from './search.ts';
export {
  judgePriceRow,
  PRICE_FIELDS,
  proposeMapping,
  readPriceRow,
  type KnownPriceRow,
  type PriceAmounts,
  type PriceField,
  type PriceMapping,
  type PriceRow,
  type PriceVerdict,
} from './price-sheet.ts';
export { judgeAmounts, readAmount, type AmountColumn, type DecimalMark } from './amounts.ts';
export { isItemColumn, ITEM_COLUMNS, judgeItemSheet, type ItemRecord, type JudgedItem, type KnownItems } from './item-sheet.ts';
export { ownFault, type OwnField } from './own-field.ts';
export { canBeHome, HOME_COLUMNS, judgeHomeSheet, type HomeRecord, type HomeWish, type KnownHomes } from './home-sheet.ts';
