export { drawLabels, labelsHandlers, printItemLabels } from './routes.ts';
export { selectWrongLabels } from './store.ts';
export { startPrinting } from './printing.ts';
export { drawLabel, labelsPdf, type PdfRequest } from './draw.ts';
export { selectOwnPrinter, selectPrinterNames, updateOwnPrinter } from './store-printers.ts';
