export { Ledger } from './ledger.tsx';
export { StockList } from './stock-list.tsx';
export { Holds } from './holds.tsx';
export { UnitPage } from './unit-page.tsx';
