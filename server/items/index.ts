export { itemsHandlers } from './routes.ts';
export {
  ensureLots,
  ensureSerials,
  findItem,
  findItemByScan,
  lockItem,
  readScanHere,
  selectFirstBarcode,
  selectItemByScan,
  selectItemsByReading,
  selectLot,
  selectSerial,
  type FoundItem,
  type ScannedItem,
} from './store.ts';
export { amountOn, findItems, selectFilteredItems } from './search.ts';
export { makeItem, openWork, selectOwnFields, tieBarcode } from './record.ts';
export { importPrices, lookAtPriceList } from './price-lists.ts';
export { HOME_SHEET, importHomes, selectHomes } from './homes.ts';
export { importItems, itemSheet, selectItemRecords } from './import-items.ts';
export { givePicture } from './picture.ts';
export { insertCosts, refreshSearch } from './store-record.ts';
export { makeListedItem } from './from-list.ts';
export { refuseUnreadLots } from './lots-that-read.ts';
export { ONLY_LOTS_THAT_READ } from './store-lots.ts';
export { insertHome } from './store-homes.ts';
