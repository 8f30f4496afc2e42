export { useSort } from './arrangement.ts';
export { DataTable, rowsOf, type Column } from './table.tsx';
