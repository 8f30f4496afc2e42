export { LabelContents } from './contents.tsx';
export { Printer } from './printer.tsx';
export { sayLabelsSent } from './sent.ts';
export { LabelPdf } from './label-pdf.tsx';
export { ItemLabels } from './item-labels.tsx';
export { PaperChoice, sizeOf, useIsSheet } from './paper-choice.tsx';
export { OrderLabels } from './order-labels.tsx';
export { LabelPanel, type WantedLabels } from './label-panel.tsx';
