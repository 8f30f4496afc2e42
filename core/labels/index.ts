export { composeLabel, formOf, USUAL_PAPERS, type LabelForm, type LabelRequest, type LabelFace, type SymbolWay } from './label.ts';
export {
  isSamePaper,
  LABEL_SIZES,
  paperFault,
  placeOnSheet,
  sayPaper,
  SHEET_MM,
  type LabelSize,
  type Paper,
  type PaperError,
  type Sheet,
} from './papers.ts';
export { choosePrinter, type PrinterAt } from './choose-printer.ts';
export { capitalMm, layOut, LEAST_CAPITAL_MM, type Box, type Drawing, type LabelFault, type LabelTools } from './layout.ts';
export { SYMBOLOGIES, type Modules, type Symbology } from './symbols.ts';
export { isRightToLeft, type Extent, type Letters, type PlacedText } from './texts.ts';
export { dotsFor, dotsIn, mmOf, RESOLUTIONS, type Dpi } from './dots.ts';
export { labelsSentence, type LabelsError } from './errors.ts';
