export { placesHandlers } from './routes.ts';
export { findBin, findDefaultBin, selectBin, selectBinByText, selectToday, type FoundBin } from './store.ts';
