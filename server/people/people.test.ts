import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import type { Client } from '../testing/client.ts';
import { openHouse, type TestHouse } from '../testing/house.ts';
import { DEMO_PEOPLE } from './demo-people.ts';

let house: TestHouse;
let lead: Client;
beforeAll(async () => {
  house = await openHouse();
  lead = await house.signIn('Maren Oake');
});
afterAll(() => house.close());
const idOf = async (name: string): Promise<number> => {
  const [row] = await house.rows<{ id: number }>(`SELECT id FROM person WHERE name = ?`, [name]);
  return row?.id ?? 0;
};
const events = async (person: number): Promise<string[]> =>
  (await lead.ask('people.events', { query: { person } })).reply.events.map((e) => [e.what, e.by, e.detail].filter(Boolean).join(' '));

describe('L4 people', () => {
  it('somebody is added, comes in by badge, is changed, locked out of every session at once, let in again; all of it is kept', async () => {
    const body = { name: 'Wren Okoro', role: 'hand' as const, sites: [1], badge: 'WREN-1', pin: '4071' };
    const { id } = (await lead.ask('people.add', { body })).reply;
    const badgeIn = (pin: string): Promise<Response> =>
      house.stranger.raw('/api/sign-in/badge', {
        method: 'POST',
        headers: { 'Content-Type': 'application/json' },
        body: JSON.stringify({ badge: 'WREN-1', pin }),
      });
    expect((await badgeIn('0000')).status).toBe(401);
    const entered = await badgeIn('4071');
    expect(entered.status).toBe(200);
    const cookie = entered.headers.getSetCookie()[0]?.split(';')[0] ?? '';
    const asks = async (): Promise<number> => (await house.stranger.raw('/api/orders', { headers: { Cookie: cookie } })).status;
    expect(await asks()).toBe(200);
    const listed = (await lead.ask('people.staff')).reply.staff.find((s) => s.id === id);
    expect(listed).toMatchObject({
      badge: 'WREN-1',
      hasPin: true,
      hasPassword: false,
      active: true,
      sites: [1],
      sessions: 1,
      shutOut: false,
    });
    expect(Date.parse(listed?.lastIn ?? '')).toBeGreaterThan(Date.now() - 60_000);

    expect((await lead.ask('people.change', { params: { id }, body: { role: 'lead' } })).problem.code).toBe('people.noWayIn');
    expect((await lead.ask('people.change', { params: { id }, body: { badge: 'WREN-2', pin: '9021' } })).status).toBe(200);
    // A new PIN by the lead ends what the old one opened.
    expect(await asks()).toBe(401);
    expect((await lead.ask('people.change', { params: { id }, body: { active: false } })).status).toBe(200);
    expect((await badgeIn('9021')).status).toBe(401);
    expect((await lead.ask('people.change', { params: { id }, body: { active: true } })).status).toBe(200);
    expect(await events(id)).toEqual([
      'unlocked Maren Oake',
      'locked Maren Oake',
      'changed Maren Oake badge WREN-2, a new PIN',
      'in by badge',
      'tried',
      'added Maren Oake hand',
    ]);
    const kept = JSON.stringify(await house.rows(`SELECT * FROM person_event WHERE person_id = ? AND 1 = ?`, [id, 1]));
    expect(kept).not.toMatch(/4071|9021/);
  });

  it('names in any letters and badges are one person’s; the only lead stays one, whoever changes two at once', async () => {
    const add = (name: string, more: object) =>
      lead.ask('people.add', { body: { name, role: 'hand', sites: [1], pin: '4071', ...more } as never });
    expect((await add('TOBIN sallow', { badge: 'T-9' })).problem).toMatchObject({ status: 409, code: 'people.nameTaken' });
    const [tobin] = await house.rows<{ badge: string }>(`SELECT badge FROM person WHERE name = ?`, ['Tobin Sallow']);
    expect((await add('Somebody New', { badge: tobin?.badge })).problem).toMatchObject({ code: 'people.badgeTaken' });
    expect((await add('Somebody New', { badge: 'N-1', sites: [999] })).problem.code).toBe('places.unknownSite');
    expect(await house.rows(`SELECT 1 FROM person WHERE name = ?`, ['Somebody New'])).toEqual([]);
    const both = await Promise.all([1, 2].map(() => add('Somebody New', { badge: 'N-1' })));
    expect(both.map((a) => a.status).sort()).toEqual([200, 409]);

    const second = { name: 'Second Lead', role: 'lead' as const, sites: [1], password: 'quarter past nine' };
    const { id } = (await lead.ask('people.add', { body: second })).reply;
    const answer = await house.stranger.raw('/api/sign-in', {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify({ name: 'second LEAD', password: 'quarter past nine' }),
    });
    const cookie = answer.headers.getSetCookie()[0]?.split(';')[0] ?? '';
    const change = (who: string, target: number): Promise<Response> =>
      house.stranger.raw(`/api/people/${target}`, {
        method: 'POST',
        headers: { 'Content-Type': 'application/json', Cookie: who, 'Idempotency-Key': crypto.randomUUID() },
        body: JSON.stringify({ active: false }),
      });
    // Each locks the other at the same moment: one of them stays.
    const locked = await Promise.all([change(lead.cookie, id), change(cookie, await idOf('Maren Oake'))]);
    // The other is refused, or, where that one was quicker, is nobody any more when its request is read.
    const [done, refused] = locked.map((a) => a.status).sort();
    expect(done).toBe(200);
    expect([401, 409]).toContain(refused);
    expect(await house.rows(`SELECT count(*)::int AS n FROM person WHERE role = 'lead' AND active AND 1 = ?`, [1])).toEqual([{ n: 1 }]);
    await house.rows(`UPDATE person SET active = true WHERE role = 'lead' AND 1 = ?`, [1]);
    lead = await house.signIn('Maren Oake');
    expect((await lead.ask('people.change', { params: { id: await idOf('Maren Oake') }, body: { active: false } })).problem.code).toBe(
      'people.notOneself',
    );
    await lead.ask('people.change', { params: { id }, body: { active: false } });
  });

  it('a PIN is changed by the PIN, as a hand knows it; a password never by the PIN', async () => {
    const tobin = await house.signIn('Tobin Sallow');
    const { pin = '', password = '' } = DEMO_PEOPLE.find((p) => p.name === 'Tobin Sallow') ?? {};
    const own = async (body: { password: string; newPin?: string; newPassword?: string }): Promise<string> =>
      (await tobin.ask('people.ownSecret', { body })).problem.code ?? 'done';
    expect(await own({ password: '0000', newPin: '9021' })).toBe('people.wrongPassword');
    expect(await own({ password: pin, newPin: '1111' })).toBe('people.weakPin');
    expect(await own({ password: pin, newPassword: 'quarter past nine' })).toBe('people.wrongPassword');
    expect(await own({ password: pin, newPassword: 'quarter past nine', newPin: '9021' })).toBe('people.wrongPassword');
    expect(await own({ password: pin, newPin: '9021' })).toBe('done');
    expect(await own({ password: pin, newPin: pin })).toBe('people.wrongPassword');
    expect(await own({ password, newPin: pin })).toBe('done');
  });

  it('one changes one’s own password by proving the old one; a lead ends the sessions of anybody', async () => {
    const odile = await house.signIn('Odile Wrack');
    const own = (password: string, newPassword: string) => odile.ask('people.ownSecret', { body: { password, newPassword } });
    expect((await own('wrong', 'quarter past nine')).problem.code).toBe('people.wrongPassword');
    expect((await own('comb-and-frame', 'short')).problem.code).toBe('people.weakPassword');
    const elsewhere = await house.signIn('Odile Wrack');
    expect((await own('comb-and-frame', 'quarter past nine')).status).toBe(200);
    expect((await elsewhere.ask('orders.list')).status).toBe(401);
    expect((await odile.ask('orders.list')).status).toBe(200);
    expect((await lead.ask('people.endSessions', { params: { id: await idOf('Odile Wrack') } })).reply.ended).toBe(1);
    expect((await odile.ask('orders.list')).status).toBe(401);
    expect((await own('quarter past nine', 'comb-and-frame')).status).toBe(401);
    expect(
      (await lead.ask('people.change', { params: { id: await idOf('Odile Wrack') }, body: { password: 'comb-and-frame' } })).status,
    ).toBe(200);
  });
});
