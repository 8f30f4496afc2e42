import { assertNever } from '#core/base';
import type { RuleBreak } from './rules.ts';

export type PlacesError =
  | RuleBreak
  | { code: 'places.unknownBin'; text: string }
  | { code: 'places.notABin'; text: string; what: string }
  | { code: 'places.binTaken'; address: string; site: string }
  | { code: 'places.unknownZone'; id: number }
  | { code: 'places.unknownSite'; id: number }
  | { code: 'places.noDefaultBin'; site: string; purpose: string };

/** The sentence for an error about sites, zones and bins. */
export function placesSentence(e: PlacesError): string {
  switch (e.code) {
    case 'places.oneItem':
      return `Bin ${e.bin} is for one item only and holds ${e.holds}.`;
    case 'places.oneLot':
      return `Bin ${e.bin} is for one lot only and holds another lot of ${e.item}.`;
    case 'places.full':
      return `Bin ${e.bin} has room for ${e.room} more.`;
    case 'places.unknownBin':
      return `There is no bin “${e.text}” at this site.`;
    case 'places.notABin':
      return `${e.text} is ${e.what}; a bin is wanted here.`;
    case 'places.binTaken':
      return `${e.site} already has a bin ${e.address}.`;
    case 'places.unknownZone':
      return `There is no zone ${e.id}.`;
    case 'places.unknownSite':
      return `There is no site ${e.id}.`;
    case 'places.noDefaultBin':
      return `${e.site} has no ${e.purpose} bin yet. The lead sets one under Places.`;
    default:
      return assertNever(e);
  }
}
