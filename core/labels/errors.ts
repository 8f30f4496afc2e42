import { assertNever } from '#core/base';
import type { LabelFault } from './layout.ts';

export type LabelsError =
  | { code: 'labels.unknownJob'; id: number }
  | { code: 'labels.tooMany'; asked: number; most: number }
  | LabelFault
  | { code: 'labels.noPrefix' }
  | { code: 'labels.prefixUsedUp'; prefix: string; left: number };

/** The sentence for an error about labels. */
export function labelsSentence(e: LabelsError): string {
  switch (e.code) {
    case 'labels.unknownJob':
      return `There is no print job ${e.id}.`;
    case 'labels.tooMany':
      return `${e.asked} labels at once would empty the roll; the most is ${e.most}.`;
    case 'labels.noRoom':
      return `The code of ${e.caption} fits onto no label of ${e.widthMm} × ${e.heightMm} mm: it needs a larger one.`;
    case 'labels.noPrefix':
      return 'The company’s prefix is not known: a lead keys it at the printer, as its standards office gave it.';
    case 'labels.prefixUsedUp':
      return `Prefix ${e.prefix} has ${e.left} numbers left for pallets and cartons: a longer run needs another prefix.`;
    default:
      return assertNever(e);
  }
}
