import { z } from 'zod';
import { ROLES } from '#core/people';
import { byId, done, id, routesOf, text } from '../base/index.ts';

/** The header in which a tab says at which site its person works; `?workingAt=` where a link cannot carry one. */
export const WORKING_AT = 'dock-row-site';

const Site = z.object({ id: z.number(), code: z.string(), name: z.string(), timeZone: z.string() });
export type Site = z.infer<typeof Site>;
export const Me = z.object({
  id: z.number(),
  name: z.string(),
  role: z.enum(ROLES),
  /** Where they work in this tab. */
  site: Site,
  /** Where they may work. */
  sites: z.array(Site),
});
export type Me = z.infer<typeof Me>;

export const peopleRoutes = routesOf({
  'people.door': {
    method: 'GET',
    path: '/api/sign-in',
    allow: 'public',
    act: 'See how to sign in',
    reply: z.object({
      firstLead: z.boolean(),
      people: z.array(z.object({ name: z.string(), role: z.enum(ROLES), badge: z.string(), pin: z.string(), password: z.string() })),
    }),
  },
  'people.me': { method: 'GET', path: '/api/me', allow: 'public', act: 'See who is signed in', reply: z.object({ me: Me.nullable() }) },
  'people.signIn': {
    method: 'POST',
    path: '/api/sign-in',
    allow: 'public',
    act: 'Sign in',
    plain: true,
    body: z.object({ name: text(80), password: text(200) }),
    reply: Me,
  },
  'people.badgeIn': {
    method: 'POST',
    path: '/api/sign-in/badge',
    allow: 'public',
    act: 'Sign in by badge',
    plain: true,
    body: z.object({ badge: text(80), pin: text(20) }),
    reply: Me,
  },
  'people.signOut': { method: 'POST', path: '/api/sign-out', allow: [], act: 'Sign out', plain: true, reply: done },
  'people.workAt': {
    method: 'POST',
    path: '/api/me/site',
    allow: [],
    act: 'Work at another site',
    plain: true,
    body: z.object({ site: id }),
    reply: Me,
  },
  'people.people': {
    method: 'GET',
    path: '/api/people',
    allow: [],
    act: 'See who works here',
    reply: z.object({ people: z.array(z.object({ id: z.number(), name: z.string(), role: z.enum(ROLES), sites: z.array(z.number()) })) }),
  },
  'people.assign': {
    method: 'POST',
    path: '/api/people/:id/sites',
    allow: ['lead'],
    act: 'Say where somebody works',
    params: byId,
    body: z.object({ site: id, works: z.boolean() }),
    reply: done,
  },
  'people.firstLead': {
    method: 'POST',
    path: '/api/first-lead',
    allow: 'public',
    act: 'Make the first lead',
    plain: true,
    body: z.object({ code: text(40), name: text(80), password: z.string().min(10, 'must have at least 10 characters').max(200) }),
    reply: Me,
  },
});
