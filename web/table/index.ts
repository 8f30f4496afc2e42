export { DataTable, rowsOf, type Column } from './table.tsx';
