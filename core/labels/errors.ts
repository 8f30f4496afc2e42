import { assertNever } from '#core/base';

export type LabelsError = { code: 'labels.unknownJob'; id: number } | { code: 'labels.tooMany'; asked: number; most: number };

/** The sentence for an error about labels. */
export function labelsSentence(e: LabelsError): string {
  switch (e.code) {
    case 'labels.unknownJob':
      return `There is no print job ${e.id}.`;
    case 'labels.tooMany':
      return `${e.asked} labels at once would empty the roll; the most is ${e.most}.`;
    default:
      return assertNever(e);
  }
}
