import { fail, ok, type Result } from '#core/base';
import type { PeopleError } from './errors.ts';
import type { Role } from './rights.ts';

/** Somebody who works here, as far as it matters to whether they can come in. `retired`: they never will again. */
export type Staff = {
  readonly role: Role;
  readonly active: boolean;
  readonly badge: string | null;
  readonly hasPin: boolean;
  readonly hasPassword: boolean;
};
/** What is asked to be changed; what is not named stays. */
export type StaffChange = {
  readonly role?: Role | undefined;
  readonly active?: boolean | undefined;
  readonly badge?: string | null | undefined;
  readonly pin?: string | undefined;
  readonly password?: string | undefined;
};

/** Whether a person may become so.
 *  Shape:  `before` is null for somebody new. `self`: it is oneself who is changed. `otherLeads`: how many leads can come in besides this
 *          person. Returns the person as they are then.
 *  Errors: a house without a lead, shutting oneself out, a PIN or password that is guessed at once, somebody who is active and has no way
 *          in. */
export function decideStaff(
  change: StaffChange,
  { name, before, self, otherLeads }: { name: string; before: Staff | null; self: boolean; otherLeads: number },
): Result<Staff, PeopleError> {
  const { pin, password } = change;
  if (pin !== undefined && !isFairPin(pin)) return fail({ code: 'people.weakPin' });
  if (password !== undefined && !isFairPassword(password, name)) return fail({ code: 'people.weakPassword' });
  const after: Staff = {
    role: change.role ?? before?.role ?? 'hand',
    active: change.active ?? before?.active ?? true,
    badge: change.badge === undefined ? (before?.badge ?? null) : change.badge,
    hasPin: pin !== undefined || (before?.hasPin ?? false),
    hasPassword: password !== undefined || (before?.hasPassword ?? false),
  };
  const leads = (who: Staff): boolean => who.role === 'lead' && who.active;
  if (before && leads(before) && !leads(after)) {
    if (self) return fail({ code: 'people.notOneself' });
    if (otherLeads === 0) return fail({ code: 'people.lastLead', name });
  }
  if (self && !after.active) return fail({ code: 'people.notOneself' });
  // A badge opens with its PIN only; the desk asks for a password.
  const byBadge = after.badge !== null && after.hasPin;
  if (after.active && !after.hasPassword && !(after.role === 'hand' && byBadge))
    return fail({ code: 'people.noWayIn', name, role: after.role });
  return ok(after);
}

/** Four to eight digits that are neither one digit throughout nor a run up or down. */
export function isFairPin(pin: string): boolean {
  if (!/^\d{4,8}$/.test(pin)) return false;
  const steps = new Set([...pin].slice(1).map((digit, n) => Number(digit) - Number(pin[n])));
  return !(steps.size === 1 && [0, 1, -1].includes([...steps][0] ?? 0));
}

/** Ten letters at least, not one letter throughout, and not the person's own name. */
export function isFairPassword(password: string, name: string): boolean {
  const plain = (text: string): string => text.toLowerCase().replace(/\s+/g, '');
  return password.length >= 10 && new Set(password).size > 3 && !plain(password).includes(plain(name));
}
