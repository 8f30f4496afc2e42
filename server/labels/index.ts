export { drawBinLabels, labelsHandlers, printItemLabels, selectWrongLabels } from './routes.ts';
export { startPrinting } from './printing.ts';
export { drawLabel, labelsPdf } from './draw.ts';
