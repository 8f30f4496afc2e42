import { z } from 'zod';
import { ROLES } from '#core/people';
import { byId, done, id, moment, routesOf, text } from '../base/index.ts';

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

const newPassword = z.string().min(1, 'must not be empty').max(200);
const newPin = z.string().max(20);
const secrets = {
  badge: z.string().trim().max(80).nullable().optional(),
  pin: newPin.optional(),
  password: newPassword.optional(),
};
const limits = z.object({
  /** Minutes after which a desk with nobody at it is closed. */
  deskIdleMinutes: z.number().int().min(5, 'must be 5 minutes at least').max(720, 'must be 12 hours at most'),
  /** Hours that a sign-in by badge lasts. */
  shiftHours: z.number().int().min(1, 'must be an hour at least').max(24, 'must be a day at most'),
});
const ownSecrets = { newPassword: newPassword.optional(), newPin: newPin.optional() };

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
  'people.me': {
    method: 'GET',
    path: '/api/me',
    allow: 'public',
    act: 'See who is signed in',
    reply: z.object({
      me: Me.nullable(),
      currency: z.string().describe('In which prices and costs are told, as ISO 4217 has it'),
      closed: z.string().nullable().describe('Why somebody who was signed in is not any more, in a sentence'),
    }),
  },
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
  'people.staff': {
    method: 'GET',
    path: '/api/people/staff',
    allow: ['lead'],
    act: 'See who may come in',
    reply: z.object({
      staff: z.array(
        z.object({
          id: z.number(),
          name: z.string(),
          role: z.enum(ROLES),
          active: z.boolean(),
          badge: z.string().nullable(),
          hasPin: z.boolean(),
          hasPassword: z.boolean(),
          sites: z.array(z.number()),
          sessions: z.number().describe('Sessions that are open'),
          lastIn: moment.nullable(),
          shutOut: z.boolean().describe('Too many tries just now'),
        }),
      ),
    }),
  },
  'people.add': {
    method: 'POST',
    path: '/api/people',
    allow: ['lead'],
    act: 'Add a person',
    body: z.object({ name: text(80), role: z.enum(ROLES), sites: z.array(id).min(1, 'must name a site').max(200), ...secrets }),
    reply: z.object({ id: z.number() }),
  },
  'people.change': {
    method: 'POST',
    path: '/api/people/:id',
    allow: ['lead'],
    act: 'Change a person',
    params: byId,
    body: z.object({ role: z.enum(ROLES).optional(), active: z.boolean().optional(), ...secrets }),
    reply: done,
  },
  'people.letIn': {
    method: 'POST',
    path: '/api/people/:id/let-in',
    allow: ['lead'],
    act: 'Give tries back',
    params: byId,
    reply: done,
  },
  'people.endSessions': {
    method: 'POST',
    path: '/api/people/:id/end-sessions',
    allow: ['lead'],
    act: 'End somebody’s sessions',
    params: byId,
    reply: z.object({ ended: z.number() }),
  },
  'people.ownSecret': {
    method: 'POST',
    path: '/api/me/secret',
    allow: [],
    act: 'Change one’s own password or PIN',
    plain: true,
    body: z.object({ password: text(200), ...ownSecrets }),
    reply: done,
  },
  'people.sessions': {
    method: 'GET',
    path: '/api/people/:id/sessions',
    allow: ['lead'],
    act: 'See somebody’s sessions',
    params: byId,
    reply: z.object({
      sessions: z.array(
        z.object({
          number: z.number(),
          by: z.enum(['password', 'badge']).describe('A session by password is the desk’s, one by badge a handheld’s'),
          device: z.string(),
          handheld: z.string().nullable().describe('The name that this handheld was given'),
          since: moment,
          seen: moment.describe('When somebody was at it last'),
          isOwn: z.boolean().describe('The session that asks'),
        }),
      ),
    }),
  },
  'people.endSession': {
    method: 'POST',
    path: '/api/people/:id/sessions/:number/end',
    allow: ['lead'],
    act: 'End a session',
    params: byId.extend({
      number: z.coerce
        .number()
        .int()
        .positive()
        .max(2 ** 31 - 1),
    }),
    reply: done,
  },
  'people.here': { method: 'POST', path: '/api/me/here', allow: [], act: 'Say that somebody is at the desk', plain: true, reply: done },
  'people.limits': { method: 'GET', path: '/api/sign-in-limits', allow: ['lead'], act: 'See how long a sign-in lasts', reply: limits },
  'people.setLimits': {
    method: 'POST',
    path: '/api/sign-in-limits',
    allow: ['lead'],
    act: 'Say how long a sign-in lasts',
    body: limits,
    reply: done,
  },
  'people.events': {
    method: 'GET',
    path: '/api/people/events',
    allow: ['lead'],
    act: 'See who came in and what changed',
    query: z.object({ person: id.optional(), after: z.coerce.number().int().optional() }),
    reply: z.object({
      events: z.array(
        z.object({
          id: z.number(),
          at: moment,
          what: z.string(),
          person: z.string().nullable(),
          by: z.string().nullable(),
          detail: z.string(),
        }),
      ),
    }),
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
