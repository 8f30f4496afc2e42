import type { Request } from 'express';
import { verify } from '@node-rs/argon2';
import { announce, query, refuse, sentenceOf, type House, type RoomHandlers } from '#server/kernel';
import type { Me } from '#contract/people';
import { DEMO_PEOPLE } from './demo-people.ts';
import { makeFirstLead, waitsForFirstLead } from './first-lead.ts';
import { readMe } from './me.ts';
import { changeLimits, deviceOf, endSession, selectLimits, selectSessions } from './sessions.ts';
import { addPerson, changeOwnSecret, changePerson, endSessions, letIn, noteEvent, selectEvents, selectStaff } from './staff.ts';
import {
  claimTry,
  deleteFailures,
  selectByBadge,
  selectByName,
  selectHouse,
  selectPeople,
  updateLastSite,
  updateWorksAt,
} from './store.ts';

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
  'people.me': async (db, { me }, req) => ({
    currency: (await selectHouse(db)).currency,
    me: (me as Me | undefined) ?? null,
    closed: req.signedOut ? sentenceOf(req.signedOut) : null,
  }),
  'people.people': async (db) => ({ people: await selectPeople(db) }),
  'people.assign': async (trx, { me, params, body }) => {
    if (!(await updateWorksAt(trx, params.id, body.site, body.works))) refuse({ code: 'people.unknownPerson', id: params.id });
    await noteEvent(trx, {
      what: 'sites',
      person: params.id,
      by: me.id,
      detail: `${body.works ? 'now works at' : 'works no more at'} site ${body.site}`,
    });
    announce(trx, 'people', { person: params.id });
    return { ok: true };
  },
  'people.staff': async (db) => ({ staff: await selectStaff(db, { tries: TRIES, minutes: WAIT_MINUTES }) }),
  'people.add': async (trx, { me, body }) => {
    const id = await addPerson(trx, body, me.id);
    announce(trx, 'people');
    return { id };
  },
  'people.change': async (trx, { me, params, body }) => {
    await changePerson(trx, params.id, body, me.id);
    announce(trx, 'people', { person: params.id });
    return { ok: true };
  },
  'people.letIn': async (trx, { me, params }) => {
    await letIn(trx, params.id, me.id);
    announce(trx, 'people');
    return { ok: true };
  },
  'people.endSessions': async (trx, { me, params }) => {
    const ended = await endSessions(trx, params.id, me.id);
    announce(trx, 'people', { person: params.id });
    return { ended };
  },
  'people.ownSecret': async (house, { me, body }, req) => {
    const [own] = await query<{ password_hash: string | null; pin_hash: string | null }>(
      house.db,
      `SELECT password_hash, pin_hash FROM person WHERE id = ?`,
      [me.id],
    );
    // Proved by the password, if one has it; a PIN alone is changed by the PIN, too: that is what a hand knows.
    const proofs = [own?.password_hash ?? own?.pin_hash, body.newPassword === undefined ? own?.pin_hash : null];
    await prove(house, `person:${me.id}`, me.id, proofs, body.password, 'people.wrongPassword');
    await house.db.transaction((trx) => changeOwnSecret(trx, me.id, { password: body.newPassword, pin: body.newPin }, req.sessionID));
    return { ok: true };
  },
  'people.sessions': async (db, { params }, req) => ({
    sessions: (await selectSessions(db, params.id, req.sessionID)).map((s) => ({
      ...s,
      since: s.since.toISOString(),
      seen: s.seen.toISOString(),
    })),
  }),
  'people.endSession': async (trx, { me, params }) => {
    await endSession(trx, params.id, params.number, me.id);
    return { ok: true };
  },
  // That it was asked is what it says.
  'people.here': () => Promise.resolve({ ok: true }),
  'people.limits': (db) => selectLimits(db),
  'people.setLimits': async (trx, { me, body }) => {
    await changeLimits(trx, body, me.id);
    return { ok: true };
  },
  'people.events': async (db, { query: asked }) => ({
    events: (await selectEvents(db, { person: asked.person ?? null, after: asked.after ?? null })).map((e) => ({
      ...e,
      at: e.at.toISOString(),
    })),
  }),
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
    await updateLastSite(house.db, me.id, body.site);
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

/** Whether a secret is right, within the tries that this door has left. What was tried in vain is kept. */
async function prove(
  house: House,
  door: string,
  person: number | null,
  secretHashes: readonly (string | null | undefined)[],
  secret: string,
  wrong: 'people.wrongPassword' | 'people.wrongPin',
): Promise<void> {
  if (!(await claimTry(house.db, door, { tries: TRIES, minutes: WAIT_MINUTES }))) {
    await noteEvent(house.db, { what: 'shutOut', person, by: null, detail: person === null ? door : '' });
    refuse({ code: 'people.tooManyTries', minutes: WAIT_MINUTES });
  }
  const known = secretHashes.filter((h) => h !== null && h !== undefined);
  const tried = await Promise.all((known.length > 0 ? known : [NOBODY]).map((h) => verify(h, secret).catch(() => false)));
  if (known.length === 0 || !tried.includes(true)) {
    await noteEvent(house.db, { what: 'tried', person, by: null, detail: person === null ? door : '' });
    refuse({ code: wrong });
  }
  await deleteFailures(house.db, door);
}

async function enter(
  house: House,
  req: Request,
  who: string,
  person: { id: number } | undefined,
  secretHash: string | null,
  secret: string,
  wrong: 'people.wrongPassword' | 'people.wrongPin',
): Promise<Me> {
  // By person where there is one: however a name is written, and whether it is a name or a badge, it is one door.
  const door = person ? `person:${person.id}` : who;
  await prove(house, door, person?.id ?? null, [secretHash], secret, wrong);
  if (!person) return refuse({ code: wrong });
  const me = (await readMe(house.db, person.id, null)) ?? refuse({ code: wrong });
  // A new session id at every sign-in: one that somebody else set before is worth nothing afterwards.
  await new Promise<void>((resolve, reject) => req.session.regenerate((error) => (error ? reject(error as Error) : resolve())));
  req.session.person = me.id;
  req.session.by = wrong === 'people.wrongPin' ? 'badge' : 'password';
  req.session.device = deviceOf(req.get('user-agent') ?? '');
  // Kept before it is answered: whoever is told that they are in, is in, also where the database goes away at this moment.
  await new Promise<void>((resolve, reject) => req.session.save((error) => (error ? reject(error as Error) : resolve())));
  await noteEvent(house.db, { what: 'in', person: me.id, by: null, detail: wrong === 'people.wrongPin' ? 'by badge' : 'by password' });
  return me;
}
