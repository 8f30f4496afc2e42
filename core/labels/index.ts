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
export {
  arrangementFault,
  arrangementFor,
  contentsFault,
  firstArrangement,
  hasOwnFields,
  LABEL_KINDS,
  LABEL_PARTS,
  MOST_TEXTS,
  isOwn,
  ownKey,
  partOf,
  placedParts,
  textKey,
  USUAL_CONTENTS,
  withPlaces,
  withoutGivenUp,
  type Arrangement,
  type ContentsError,
  type LabelContents,
  type LabelKind,
  type LabelPart,
  type Logo,
  type OwnPart,
} from './contents.ts';
export { gridOf, isOnGrid, MARGIN_MM, overlap, type Box, type CellBox } from './grid.ts';
export { layOutArranged } from './arranged.ts';
export { layOut, type LabelFault } from './layout.ts';
export { inDots, type GreyPicture } from './logo.ts';
export { capitalMm, LEAST_CAPITAL_MM, type Drawing, type LabelTools } from './page.ts';
export { checkSamples, sampleLabels, type SampleCheck } from './samples.ts';
export { SYMBOLOGIES, type Modules, type Symbology } from './symbols.ts';
export { isRightToLeft, type Extent, type Letters, type PlacedText } from './texts.ts';
export { dotsFor, dotsIn, mmOf, RESOLUTIONS, type Dpi } from './dots.ts';
export { labelsSentence, type LabelsError } from './errors.ts';
