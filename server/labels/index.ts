export { drawBinLabels, labelsHandlers, printItemLabels } from './routes.ts';
export { startPrinting } from './printing.ts';
export { drawLabel, labelsPdf } from './draw.ts';
