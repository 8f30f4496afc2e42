export { Ledger } from './ledger.tsx';
