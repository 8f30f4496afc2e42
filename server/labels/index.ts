export { drawBinLabels, labelsHandlers, printItemLabels } from './routes.ts';
export { selectWrongLabels } from './store.ts';
export { startPrinting } from './printing.ts';
export { drawLabel, labelsPdf } from './draw.ts';
