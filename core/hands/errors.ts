import { assertNever } from '#core/base';

export type HandsError =
  | { code: 'hands.unknownDevice' }
  | { code: 'hands.notTheirs'; person: 'never' | 'no longer' }
  | { code: 'hands.leadPosts'; item: string; bin: string; qty: string; way: 'plus' | 'minus' }
  | { code: 'hands.nameTaken'; name: string }
  | { code: 'hands.unreadable'; fault: string }
  | { code: 'hands.unknownClash' }
  | { code: 'hands.settledBefore'; by: string }
  | { code: 'hands.notOffered'; how: string };

/** The sentence for an error with devices and with what they tell. */
export function handsSentence(e: HandsError): string {
  switch (e.code) {
    case 'hands.unknownDevice':
      return 'This device is not known yet. Open My work on it once, with a connection.';
    case 'hands.notTheirs':
      return e.person === 'never'
        ? 'The person who is said to have done this never signed in on that device.'
        : 'The person who did this may no longer work on this floor.';
    case 'hands.leadPosts':
      return `${e.qty} ${e.way === 'plus' ? 'more' : 'fewer'} ${e.item} in ${e.bin}: the lead looks at it and posts it.`;
    case 'hands.nameTaken':
      return `Another device is called “${e.name}” already.`;
    case 'hands.unreadable':
      return `This program cannot read what was told: ${e.fault}. Ask the hand what was done, and enter it anew.`;
    case 'hands.unknownClash':
      return 'There is no such report.';
    case 'hands.settledBefore':
      return `${e.by} settled this meanwhile.`;
    case 'hands.notOffered':
      return `“${e.how}” does not settle this.`;
    default:
      return assertNever(e);
  }
}
