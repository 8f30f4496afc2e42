import { assertNever } from '#core/base';

export type CountingError =
  | { code: 'counting.unknownCount'; text: string }
  | { code: 'counting.notOpen'; number: string; state: string }
  | { code: 'counting.binNotInCount'; bin: string; number: string }
  | { code: 'counting.zoneOpen'; zone: string; number: string }
  | { code: 'counting.noBins'; zone: string }
  | { code: 'counting.lotWanted'; item: string; bin: string }
  | { code: 'counting.dateWanted'; item: string; lot: string }
  | { code: 'counting.visited'; bin: string; person: string }
  | { code: 'counting.serialWanted'; item: string }
  | { code: 'counting.serialTwice'; item: string; serial: string }
  | { code: 'counting.unitTwice'; sscc: string; person: string }
  | { code: 'counting.nothingCounted'; number: string }
  | { code: 'counting.unknownTally'; id: number; number: string }
  | { code: 'counting.blind'; number: string }
  | { code: 'counting.notThrown'; number: string };

/** The sentence for an error while counting. */
export function countingSentence(e: CountingError): string {
  switch (e.code) {
    case 'counting.unknownCount':
      return `There is no count “${e.text}”.`;
    case 'counting.notOpen':
      return `Count ${e.number} is ${e.state}; nothing more can be entered.`;
    case 'counting.binNotInCount':
      return `Bin ${e.bin} is not part of count ${e.number}.`;
    case 'counting.zoneOpen':
      return `Bins of ${e.zone} are already being counted in ${e.number}. Post it or throw it away first.`;
    case 'counting.noBins':
      return `Zone ${e.zone} has no bins to count.`;
    case 'counting.unitTwice':
      return `Unit ${e.sscc} was counted already, by ${e.person}.`;
    case 'counting.lotWanted':
      return `${e.item} is kept by lot. Scan or key the lot found in ${e.bin}.`;
    case 'counting.dateWanted':
      return `Lot ${e.lot} of ${e.item} is new here. Key the date it expires.`;
    case 'counting.visited':
      return `Bin ${e.bin} was counted by ${e.person} as well. Add the two, or let one stand.`;
    case 'counting.serialWanted':
      return `${e.item} is kept by serial. Scan each serial.`;
    case 'counting.serialTwice':
      return `Serial ${e.serial} of ${e.item} is already in this count.`;
    case 'counting.nothingCounted':
      return `Nothing was entered in count ${e.number} yet.`;
    case 'counting.unknownTally':
      return `Tally ${e.id} is not in count ${e.number}, or was taken out before.`;
    case 'counting.blind':
      return (
        `Count ${e.number} is blind: what is expected is not shown, so nothing can be as expected. Count it, or say that the ` +
        `bin is empty.`
      );
    case 'counting.notThrown':
      return `Count ${e.number} was not thrown away.`;
    default:
      return assertNever(e);
  }
}
