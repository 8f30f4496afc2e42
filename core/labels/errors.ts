import { assertNever } from '#core/base';
import type { ContentsError } from './contents.ts';
import type { LabelFault } from './layout.ts';
import { LEAST_PAPER, MOST_PAPER, sayPaper, type PaperError } from './papers.ts';

export type LabelsError =
  | { code: 'labels.unknownJob'; id: number }
  | { code: 'labels.tooMany'; asked: number; most: number }
  | LabelFault
  | PaperError
  | ContentsError
  | { code: 'labels.changedMeanwhile'; by: string }
  | { code: 'labels.noLogo'; name: string }
  | { code: 'labels.unknownPaper'; name: string }
  | { code: 'labels.paperTaken'; name: string }
  | { code: 'labels.paperInUse'; name: string; printer: string }
  | { code: 'labels.unknownPrinter'; id: number }
  | { code: 'labels.printerTaken'; name: string }
  | { code: 'labels.sheetIsPdf' }
  | { code: 'labels.nothing' }
  | { code: 'labels.noBins' }
  | { code: 'labels.notPacked'; order: string }
  | { code: 'labels.nothingPicked'; order: string }
  | { code: 'labels.noBadge'; name: string }
  | { code: 'labels.nothingUnsure'; name: string }
  | { code: 'labels.runOpen'; name: string }
  | { code: 'labels.moreThanSent'; asked: number; most: number }
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
    case 'labels.emptyCode':
      return 'This label has no code to scan: what it is of has none.';
    case 'labels.paperTooSmall':
      return `A label of ${sayPaper(e)} is too small for any code: the least is ${sayPaper(LEAST_PAPER)}.`;
    case 'labels.paperTooLarge':
      return `A label of ${sayPaper(e)} is too large: the most is ${sayPaper(MOST_PAPER)}.`;
    case 'labels.offSheet':
      return `${e.columns} × ${e.rows} such labels do not fit onto a sheet of A4.`;
    case 'labels.overEachOther':
      return 'The labels would lie over each other: from one to the next is at least their own size.';
    case 'labels.unknownPart':
      return `There is nothing called ${e.part} that could stand on these labels.`;
    case 'labels.tooManyTexts':
      return `The most is ${e.most} texts of your own on a label.`;
    case 'labels.notPlaced':
      return `${e.part} has no place on labels of ${sayPaper(e)}.`;
    case 'labels.offGrid':
      return `${e.part} does not stand on the label.`;
    case 'labels.partsOverlap':
      return `${e.part} would lie over ${e.over}.`;
    case 'labels.changedMeanwhile':
      return `${e.by} changed these labels meanwhile. Nothing of yours was saved yet: look at them again.`;
    case 'labels.noLogo':
      return `${e.name} is no picture: a logo is a JPEG, PNG or WebP.`;
    case 'labels.unknownPaper':
      return `There are no labels called ${e.name}.`;
    case 'labels.paperTaken':
      return `There are labels called ${e.name} already.`;
    case 'labels.paperInUse':
      return `${e.name} is in ${e.printer}: tell first what is in it instead.`;
    case 'labels.unknownPrinter':
      return `There is no printer ${e.id} at this site.`;
    case 'labels.printerTaken':
      return `Another printer here is called ${e.name}.`;
    case 'labels.sheetIsPdf':
      return 'Sheets are printed from a PDF: ask for one.';
    case 'labels.noBins':
      return 'No bin of this zone wants a label: each has one, or there is none.';
    case 'labels.nothing':
      return 'There is nothing to print.';
    case 'labels.notPacked':
      return `${e.order} is not packed yet: how many parcels it has is said at the bench.`;
    case 'labels.nothingPicked':
      return `Nothing was picked for ${e.order} yet: its goods have no labels.`;
    case 'labels.noBadge':
      return `${e.name} has no badge.`;
    case 'labels.nothingUnsure':
      return `Nobody needs to look at what came out of ${e.name}.`;
    case 'labels.runOpen':
      return `Labels are on their way through ${e.name}: stop it, and say what came out.`;
    case 'labels.moreThanSent':
      return `${e.asked} labels cannot have come out: ${e.most} were sent.`;
    case 'labels.noPrefix':
      return 'The company’s prefix is not known: a lead keys it at the printer, as its standards office gave it.';
    case 'labels.prefixUsedUp':
      return `Prefix ${e.prefix} has ${e.left} numbers left for pallets and cartons: a longer run needs another prefix.`;
    default:
      return assertNever(e);
  }
}
