export { placesHandlers } from './routes.ts';
export { findBin, findDefaultBin, selectBin, selectBinByText, selectToday, type FoundBin } from './store.ts';
export { BIN_SHEET, importBins, selectBinRecords } from './import-bins.ts';
