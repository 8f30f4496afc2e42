export { drawLabels, labelsHandlers, printItemLabels } from './routes.ts';
export { selectWrongLabels } from './store.ts';
export { startPrinting } from './printing.ts';
export { drawLabel } from './draw.ts';
export type { PdfRequest } from './pdf.ts';
export { selectOwnPrinter, selectPrinterNames, updateOwnPrinter } from './store-printers.ts';
