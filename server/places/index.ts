export { placesHandlers } from './routes.ts';
export {
  findBin,
  findBins,
  findDefaultBin,
  selectBin,
  selectBinByText,
  selectSitesOfName,
  selectToday,
  updateBinRestored,
  type FoundBin,
} from './store.ts';
export { readFloor } from './plan.ts';
export { BIN_SHEET, importBins, selectBinRecords } from './import-bins.ts';
