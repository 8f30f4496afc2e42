import { assertNever } from '#core/base';

export type PeopleError =
  | { code: 'people.signInFirst' }
  | { code: 'people.noRight'; role: string; act: string }
  | { code: 'people.otherSite'; what: string; site: string }
  | { code: 'people.notAtSite'; site: string }
  | { code: 'people.noSite' }
  | { code: 'people.unknownPerson'; id: number }
  | { code: 'people.wrongPassword' }
  | { code: 'people.wrongPin' }
  | { code: 'people.tooManyTries'; minutes: number }
  | { code: 'people.codeWrong' }
  | { code: 'people.leadExists' };

/** The sentence for an error about people and rights. */
export function peopleSentence(e: PeopleError): string {
  switch (e.code) {
    case 'people.signInFirst':
      return 'Sign in first. What you scanned is kept on this device.';
    case 'people.noRight':
      return `${e.act} is not among the rights of a ${e.role}. Ask the lead.`;
    case 'people.otherSite':
      return `${e.what} belongs to ${e.site}. Work at that site to change it.`;
    case 'people.notAtSite':
      return `You do not work at ${e.site}. Ask the lead to add you there.`;
    case 'people.noSite':
      return 'You do not work at any site yet. Ask the lead to add you to one.';
    case 'people.unknownPerson':
      return `There is no person ${e.id}, or no such site.`;
    case 'people.wrongPassword':
      return 'Name and password do not go together.';
    case 'people.wrongPin':
      return 'Badge and PIN do not go together. Scan the badge again.';
    case 'people.tooManyTries':
      return `Too many tries. Wait ${e.minutes} minutes, or ask the lead.`;
    case 'people.codeWrong':
      return 'That is not the one-time code from the server’s log.';
    case 'people.leadExists':
      return 'There is a lead already; the one-time code is used up.';
    default:
      return assertNever(e);
  }
}
