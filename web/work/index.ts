export { SheetImport, JobProgress, FileDrop } from './sheet-import.tsx';
