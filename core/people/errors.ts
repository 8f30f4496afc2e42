import { assertNever } from '#core/base';

export type PeopleError =
  | { code: 'people.signInFirst' }
  | { code: 'people.away'; minutes: number }
  | { code: 'people.shiftOver'; hours: number }
  | { code: 'people.noSuchSession' }
  | { code: 'people.noRight'; role: string; act: string }
  | { code: 'people.otherSite'; what: string; site: string }
  | { code: 'people.notAtSite'; site: string }
  | { code: 'people.noSite' }
  | { code: 'people.unknownPerson'; id: number }
  | { code: 'people.wrongPassword' }
  | { code: 'people.wrongPin' }
  | { code: 'people.tooManyTries'; minutes: number }
  | { code: 'people.codeWrong' }
  | { code: 'people.leadExists' }
  | { code: 'people.weakPin' }
  | { code: 'people.weakPassword' }
  | { code: 'people.notOneself' }
  | { code: 'people.lastLead'; name: string }
  | { code: 'people.noWayIn'; name: string; role: string }
  | { code: 'people.nameTaken'; name: string }
  | { code: 'people.badgeTaken'; badge: string; name: string };

/** The sentence for an error about people and rights. */
export function peopleSentence(e: PeopleError): string {
  switch (e.code) {
    case 'people.signInFirst':
      return 'Sign in first. What you scanned is kept on this device.';
    case 'people.away':
      return `Nobody was at this desk for ${e.minutes} minutes, so it closed. Sign in again to go on where you were.`;
    case 'people.shiftOver':
      return `This sign-in has lasted ${e.hours} hours, as long as a shift. Sign in again; what you scanned is kept on this device.`;
    case 'people.noSuchSession':
      return 'That session has ended already.';
    case 'people.noRight':
      return `${e.act} is not among the rights of ${e.role === 'office' ? 'the office' : `a ${e.role}`}. Ask the lead.`;
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
    case 'people.weakPin':
      return 'A PIN has four to eight digits, and is neither one digit throughout nor a run.';
    case 'people.weakPassword':
      return 'A password has ten letters at least, not the same few, and not one’s own name.';
    case 'people.notOneself':
      return 'Nobody locks oneself out or ceases to be lead by oneself. Another lead can do that.';
    case 'people.lastLead':
      return `${e.name} is the only lead who can come in. Make another one first.`;
    case 'people.noWayIn':
      return e.role === 'hand'
        ? `${e.name} needs a badge with a PIN, or a password.`
        : `${e.name} needs a password: the desk asks for one.`;
    case 'people.nameTaken':
      return `Somebody is called ${e.name} already.`;
    case 'people.badgeTaken':
      return `Badge ${e.badge} is ${e.name}’s.`;
    default:
      return assertNever(e);
  }
}
