export { labelsHandlers } from './routes.ts';
export { startPrinting } from './printing.ts';
export { drawLabel } from './draw.ts';
