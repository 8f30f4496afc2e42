import type { Request } from 'express';
import { verify } from '@node-rs/argon2';
import { announce, query, refuse, type House, type RoomHandlers } from '#server/kernel';
import type { Me } from '#contract/people';
import { DEMO_PEOPLE } from './demo-people.ts';
import { makeFirstLead, waitsForFirstLead } from './first-lead.ts';
import { readMe } from './me.ts';
import { countFailures, deleteFailures, insertFailure, selectByBadge, selectByName, selectPeople, updateWorksAt } from './store.ts';

declare module 'express-session' {
  interface SessionData {
    person: number;
  }
}

const TRIES = 5;
const WAIT_MINUTES = 5;
// Verified when nobody has the name, so that a wrong name takes as long as a wrong password.
const NOBODY = '$argon2id$v=19$m=19456,t=2,p=1$c29tZXNhbHRzb21lc2FsdA$q3rFhQqWcPjZJdVYqjCk0Jb2QmJd7mYlmOq8y3xQO9U';

export const peopleHandlers: RoomHandlers<'people'> = {
  'people.door': async (db) => {
    const demo = process.env['DOCKROW_DEMO'] === '1';
    const names = demo ? (await selectPeople(db)).map((p) => p.name) : [];
    return { firstLead: await waitsForFirstLead(db), people: DEMO_PEOPLE.filter((p) => names.includes(p.name)) };
  },
  'people.me': async (_db, { me }) => ({ me: (me as Me | undefined) ?? null }),
  'people.people': async (db) => ({ people: await selectPeople(db) }),
  'people.assign': async (trx, { params, body }) => {
    if (!(await updateWorksAt(trx, params.id, body.site, body.works))) refuse({ code: 'people.unknownPerson', id: params.id });
    announce(trx, 'people');
    return { ok: true };
  },
  'people.signIn': async (house, { body }, req) => {
    const person = await selectByName(house.db, body.name);
    return enter(
      house,
      req,
      `name:${body.name.toLowerCase()}`,
      person,
      person?.password_hash ?? null,
      body.password,
      'people.wrongPassword',
    );
  },
  'people.badgeIn': async (house, { body }, req) => {
    const person = await selectByBadge(house.db, body.badge);
    return enter(house, req, `badge:${body.badge}`, person, person?.pin_hash ?? null, body.pin, 'people.wrongPin');
  },
  'people.signOut': async (_house, _asked, req) => {
    await new Promise<void>((resolve, reject) => req.session.destroy((error) => (error ? reject(error as Error) : resolve())));
    return { ok: true };
  },
  'people.workAt': async (house, { me, body }) => {
    const there = await readMe(house.db, me.id, body.site);
    if (!there) return refuse({ code: 'people.signInFirst' });
    // The next tab and the next sign-in begin there; tabs that are open stay where they are.
    await query(house.db, `UPDATE person SET site_id = ? WHERE id = ?`, [body.site, me.id]);
    return there;
  },
  'people.firstLead': async (house, { body }, req) => {
    await makeFirstLead(house.db, body);
    const person = await selectByName(house.db, body.name);
    return enter(
      house,
      req,
      `name:${body.name.toLowerCase()}`,
      person,
      person?.password_hash ?? null,
      body.password,
      'people.wrongPassword',
    );
  },
};

async function enter(
  house: House,
  req: Request,
  who: string,
  person: { id: number } | undefined,
  secretHash: string | null,
  secret: string,
  wrong: 'people.wrongPassword' | 'people.wrongPin',
): Promise<Me> {
  if ((await countFailures(house.db, who, WAIT_MINUTES)) >= TRIES) refuse({ code: 'people.tooManyTries', minutes: WAIT_MINUTES });
  const right = await verify(secretHash ?? NOBODY, secret).catch(() => false);
  if (!right || !person || !secretHash) {
    await insertFailure(house.db, who);
    return refuse({ code: wrong });
  }
  await deleteFailures(house.db, who);
  const me = (await readMe(house.db, person.id, null)) ?? refuse({ code: wrong });
  // A new session id at every sign-in: one that somebody else set before is worth nothing afterwards.
  await new Promise<void>((resolve, reject) => req.session.regenerate((error) => (error ? reject(error as Error) : resolve())));
  req.session.person = me.id;
  return me;
}
