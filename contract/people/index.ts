import { z } from 'zod';
import { ROLES } from '#core/people';
import { done, id, routesOf, text } from '../base/index.ts';

export const Me = z.object({
  id: z.number(),
  name: z.string(),
  role: z.enum(ROLES),
  site: z.object({ id: z.number(), code: z.string(), name: z.string(), timeZone: z.string() }),
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
