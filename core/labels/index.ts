export { composeLabel, LABEL_SIZES, type LabelSize, type LabelRequest, type LabelFace, type LabelSymbol } from './label.ts';
export { labelsSentence, type LabelsError } from './errors.ts';
