import { assertNever } from '#core/base';
import { scanFaultSentence, type ScanFault } from './scan.ts';

export type ItemsError =
  | ScanFault
  | { code: 'items.unknownCode'; text: string }
  | { code: 'items.unknownItem'; id: number }
  | { code: 'items.codeTaken'; text: string }
  | { code: 'items.barcodeTaken'; text: string; item: string }
  | { code: 'items.notAnItem'; text: string; what: string };

/** The sentence for an error about items and their codes. */
export function itemsSentence(e: ItemsError): string {
  switch (e.code) {
    case 'items.unknownCode':
      return `Nothing here is known by “${e.text}”. Tie it to an item, or scan again.`;
    case 'items.unknownItem':
      return `There is no item ${e.id}. It may have been opened from an old link.`;
    case 'items.codeTaken':
      return `Another item already has the code ${e.text}.`;
    case 'items.barcodeTaken':
      return `Barcode ${e.text} already belongs to ${e.item}. It was left there.`;
    case 'items.notAnItem':
      return `${e.text} is ${e.what}; an item is wanted here.`;
    case 'items.scanEmpty':
    case 'items.scanTooLong':
    case 'items.gs1UnknownAi':
    case 'items.gs1TooShort':
    case 'items.gs1BadData':
      return scanFaultSentence(e);
    default:
      return assertNever(e);
  }
}
