/** What a person may do hangs on their role; the table of routes names the roles of every route. */
export const ROLES = ['lead', 'hand', 'office'] as const;
export type Role = (typeof ROLES)[number];

/** Whether a role may read what goods cost: hands are told prices, never costs. */
export function mayReadCosts(role: Role): boolean {
  return role !== 'hand';
}

/** Whether a role may use a route. An empty list is for everybody who is signed in; `public` needs no sign-in. */
export function isAllowed(role: Role | null, allow: 'public' | readonly Role[]): boolean {
  if (allow === 'public') return true;
  if (role === null) return false;
  return allow.length === 0 || allow.includes(role);
}
