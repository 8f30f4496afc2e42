export { DataTable, type Column } from './table.tsx';
