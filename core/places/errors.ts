import { assertNever } from '#core/base';
import type { GridFault } from './grid.ts';
import type { PlanFault } from './plan.ts';
import type { RuleBreak } from './rules.ts';

export type PlacesError =
  | RuleBreak
  | GridFault
  | PlanFault
  | { code: 'places.planMoved'; by: string }
  | { code: 'places.unknownBin'; text: string }
  | { code: 'places.binElsewhere'; text: string; sites: readonly string[] }
  | { code: 'places.notAHome'; bin: string; use: string }
  | { code: 'places.zoneHoldsOthers'; bin: string; from: string; to: string }
  | { code: 'places.notADefault'; bin: string; use: string; why: string }
  | { code: 'places.changedMeanwhile'; what: string }
  | { code: 'places.notABin'; text: string; what: string }
  | { code: 'places.binTaken'; address: string; site: string }
  | { code: 'places.binsTaken'; count: number; first: string }
  | { code: 'places.nameTaken'; name: string; bin: string }
  | { code: 'places.binNotEmpty'; bin: string; holds: string }
  | { code: 'places.binInUse'; bin: string; why: string }
  | { code: 'places.binRetired'; bin: string }
  | { code: 'places.unknownZone'; id: number }
  | { code: 'places.zoneTaken'; zone: string; site: string }
  | { code: 'places.unknownSite'; id: number }
  | { code: 'places.siteTaken'; site: string }
  | { code: 'places.timeZone'; text: string }
  | { code: 'places.minOverMax'; bin: string; min: string; max: string }
  | { code: 'places.noDefaultBin'; site: string; purpose: string };

/** The sentence for an error about sites, zones and bins. */
export function placesSentence(e: PlacesError): string {
  switch (e.code) {
    case 'places.oneItem':
      return `Bin ${e.bin} is for one item only and holds ${e.holds}.`;
    case 'places.oneLot':
      return `Bin ${e.bin} is for one lot only and holds another lot of ${e.item}.`;
    case 'places.storageClass':
      return `Bin ${e.bin} is for ${e.wants} goods; ${e.item} is ${e.is}.`;
    case 'places.full':
      return `Bin ${e.bin} has room for ${e.room} more.`;
    case 'places.tooBulky':
      return `Bin ${e.bin} has ${e.room} litres left; this needs ${e.needs}.`;
    case 'places.tooHeavy':
      return `Bin ${e.bin} bears ${e.room} kg more; this weighs ${e.needs}.`;
    case 'places.gridLevels':
      return `An address has 1 to 5 levels; this grid has ${e.levels}.`;
    case 'places.gridSeparator':
      return `“${e.text}” cannot stand between two levels. Use - . / or a space.`;
    case 'places.gridRange':
      return `Level ${e.level} cannot run from ${e.from} to ${e.to}.`;
    case 'places.gridDigits':
      return `Level ${e.level} runs to ${e.to}, which does not fit into ${e.digits} digit${e.digits === 1 ? '' : 's'}.`;
    case 'places.gridEmpty':
      return `Level ${e.level} is empty once its skips are left out.`;
    case 'places.gridTooMany':
      return `That would be ${e.total} bins; at most ${e.most} are made at once.`;
    case 'places.planOutside':
      return `${capital(e.name)} would stand outside the floor.`;
    case 'places.planOverlap':
      return `${capital(e.name)} would stand on ${e.other}.`;
    case 'places.planTooLarge':
      return `A floor of ${e.width} by ${e.height} cells is too large. Make the cells longer.`;
    case 'places.planMoved':
      return `${e.by} changed the plan meanwhile. It is read again; nothing of yours was saved.`;
    case 'places.unknownBin':
      return `There is no bin “${e.text}” at this site.`;
    case 'places.binElsewhere':
      return `There is no bin ${e.text} at this site; it is a bin of ${e.sites.join(' and of ')}.`;
    case 'places.notAHome':
      return `${e.bin} is no home: goods pass through there (${e.use}). Give a bin in which goods live.`;
    case 'places.zoneHoldsOthers':
      return `Bin ${e.bin} holds stock, and what may be promised or picked in ${e.to} is not what it is in ${e.from}. Empty it first.`;
    case 'places.notADefault':
      return `${e.bin} cannot be the ${e.use} bin: ${e.why}.`;
    case 'places.changedMeanwhile':
      return `${e.what} was changed by somebody else meanwhile. Nothing of yours was saved yet: look at both and save again.`;
    case 'places.notABin':
      return `${e.text} is ${e.what}; a bin is wanted here.`;
    case 'places.binTaken':
      return `${e.site} already has a bin ${e.address}.`;
    case 'places.binsTaken':
      return `${e.count} of these bins are there already, the first is ${e.first}. Nothing was made.`;
    case 'places.nameTaken':
      return `${e.name} already means bin ${e.bin}.`;
    case 'places.binNotEmpty':
      return `Bin ${e.bin} still holds ${e.holds}. Empty it first.`;
    case 'places.binInUse':
      return `Bin ${e.bin} cannot be retired: ${e.why}.`;
    case 'places.binRetired':
      return `Bin ${e.bin} is retired. Nothing goes in there.`;
    case 'places.unknownZone':
      return `There is no zone ${e.id}.`;
    case 'places.zoneTaken':
      return `${e.site} already has a zone ${e.zone}.`;
    case 'places.unknownSite':
      return `There is no site ${e.id}.`;
    case 'places.siteTaken':
      return `There is already a site ${e.site}.`;
    case 'places.timeZone':
      return `“${e.text}” is no time zone; one is Europe/London.`;
    case 'places.minOverMax':
      return `In bin ${e.bin} the minimum ${e.min} is more than the maximum ${e.max}.`;
    case 'places.noDefaultBin':
      return `${e.site} has no ${e.purpose} bin yet. The lead sets one under Places.`;
    default:
      return assertNever(e);
  }
}

const capital = (text: string): string => text.charAt(0).toUpperCase() + text.slice(1);
