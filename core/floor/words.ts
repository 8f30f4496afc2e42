import { assertNever } from '#core/base';
import { scanFaultSentence } from '#core/items';
import { foldName } from './name.ts';
import type { Meaning } from './meaning.ts';

const PAPERS = {
  purchaseOrder: 'a purchase order',
  delivery: 'a delivery',
  round: 'a round',
  count: 'a count',
  order: 'an order',
  shipment: 'a shipment',
  document: 'a paper of the house',
  carry: 'a put-away or refill round',
} as const;

/** The number of a logistic unit as people tell units apart: its last six digits. */
export const shortSscc = (sscc: string): string => `…${sscc.slice(-6)}`;

/** What was scanned, in words, for whoever scanned it where something else was wanted. */
export function meaningWords(meaning: Meaning): string {
  switch (meaning.kind) {
    case 'item':
      return `That is ${meaning.item.code}, ${meaning.item.description}.`;
    case 'bin':
      return `That is bin ${meaning.bin.address}.`;
    case 'lot':
      return `That is a lot: ${meaning.text}.`;
    case 'serial':
      return `That is a serial: ${meaning.text}.`;
    case 'paper':
      return `That is ${PAPERS[meaning.paper]}: ${meaning.text}.`;
    case 'unit':
      return `That is unit ${meaning.sscc}, a pallet or carton.`;
    case 'several':
      return `${meaning.text} means several things: ${meaning.names.join(', ')}. Scan another code of it.`;
    case 'elsewhere':
      return `${foldName(meaning.text)} is a bin of ${meaning.sites.join(' and ')}, not of this site.`;
    case 'unknown':
      return `Nobody here knows “${meaning.text.slice(0, 60)}”.`;
    case 'unreadable':
      return scanFaultSentence(meaning.fault);
    default:
      return assertNever(meaning);
  }
}
