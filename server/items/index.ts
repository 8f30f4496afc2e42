export { itemsHandlers } from './routes.ts';
export {
  ensureLots,
  ensureSerials,
  findItem,
  findItemByScan,
  refreshSearch,
  selectItemByScan,
  selectLot,
  selectSerial,
  type FoundItem,
  type ScannedItem,
} from './store.ts';
