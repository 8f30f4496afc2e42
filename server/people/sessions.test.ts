import { afterAll, afterEach, beforeAll, describe, expect, it } from '@jest/globals';
import { clientOf, type Client } from '../testing/client.ts';
import { openHouse, type TestHouse } from '../testing/house.ts';
import { DEMO_PEOPLE } from './demo-people.ts';
import { deviceOf } from './sessions.ts';

let house: TestHouse;
let lead: Client;
beforeAll(async () => {
  house = await openHouse({ jobs: false });
  lead = await house.signIn('Maren Oake');
});
afterAll(() => house.close());
const idOf = async (name: string): Promise<number> =>
  (await house.rows<{ id: number }>(`SELECT id FROM person WHERE name = ?`, [name]))[0]?.id ?? 0;
const sidOf = (client: Client): string => decodeURIComponent(/dockrow=([^;]+)/.exec(client.cookie)?.[1] ?? '').replace(/^s:|\..*$/g, '');
/** As if so many minutes had gone by for a session. */
const age = (client: Client, { since = 0, seen = 0 }: { since?: number; seen?: number }): Promise<unknown[]> =>
  house.rows(`UPDATE session SET since = since - make_interval(mins => ?), seen = seen - make_interval(mins => ?) WHERE sid = ?`, [
    since,
    seen,
    sidOf(client),
  ]);
async function byBadge(): Promise<Client> {
  const answer = await house.stranger.raw('/api/sign-in/badge', {
    method: 'POST',
    headers: { 'Content-Type': 'application/json', 'User-Agent': 'Mozilla/5.0 (Linux; Android 13) Chrome/120.0 Mobile Safari/537.36' },
    body: JSON.stringify(tobin()),
  });
  if (!answer.ok) throw new Error(await answer.text());
  return clientOf(house.address, answer.headers.getSetCookie()[0]?.split(';')[0] ?? '');
}
function tobin(): { badge: string; pin: string } {
  const { badge = '', pin = '' } = DEMO_PEOPLE.find((p) => p.name === 'Tobin Sallow') ?? {};
  return { badge, pin };
}
const overOf = async (person: number): Promise<string[]> =>
  (await lead.ask('people.events', { query: { person } })).reply.events.filter((e) => e.what === 'over').map((e) => e.detail);

describe('L4 how long a sign-in lasts', () => {
  afterEach(async () => {
    lead = await house.signIn('Maren Oake');
    expect((await lead.ask('people.setLimits', { body: { deskIdleMinutes: 30, shiftHours: 12 } })).status).toBe(200);
  });

  it('a desk with nobody at it closes, says why once, and can be signed in to again', async () => {
    const office = await house.signIn('Odile Wrack');
    const person = await idOf('Odile Wrack');
    await age(office, { seen: 31 });
    // However many windows of the desk ask at once: it closes once.
    const asked = await Promise.all(Array.from({ length: 12 }, () => office.ask('orders.list')));
    expect(asked.map((a) => a.status)).toEqual(asked.map(() => 401));
    expect(new Set(asked.map((a) => a.problem.code))).toEqual(new Set(['people.away']));
    expect((await office.ask('people.me')).reply).toMatchObject({ me: null, closed: expect.stringMatching(/30 minutes/) });
    // Closed is closed: neither work, nor a sign of life, nor a longer limit opens it again.
    expect((await office.ask('people.here')).status).toBe(401);
    expect((await lead.ask('people.setLimits', { body: { deskIdleMinutes: 60, shiftHours: 12 } })).status).toBe(200);
    expect((await office.ask('orders.list')).problem.code).toBe('people.away');
    expect(await overOf(person)).toEqual(['nobody was there']);
    const again = await office.raw('/api/sign-in', {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify({ name: 'Odile Wrack', password: 'comb-and-frame' }),
    });
    expect(again.status).toBe(200);
  });

  it('whoever works at it or says that they are there keeps it open; what only reads does not', async () => {
    const office = await house.signIn('Odile Wrack');
    await age(office, { seen: 29 });
    expect((await office.ask('orders.list')).status).toBe(200);
    expect((await office.ask('people.here')).status).toBe(200);
    await age(office, { seen: 29 });
    expect((await office.ask('orders.list')).status).toBe(200);
    // A command counts as being there.
    const [customer] = await house.rows<{ id: number }>(`SELECT min(id) AS id FROM customer`);
    const [item] = await house.rows<{ id: number }>(`SELECT min(id) AS id FROM item WHERE tracking = 'none'`);
    const made = await office.ask('orders.make', {
      body: { customer: customer?.id ?? 0, due: '2030-01-01', lines: [{ item: item?.id ?? 0, qty: '1' }] },
    });
    expect(made.status).toBe(200);
    await age(office, { seen: 29 });
    expect((await office.ask('orders.list')).status).toBe(200);
    await age(office, { seen: 2 });
    expect((await office.ask('orders.list')).problem.code).toBe('people.away');
  });

  it('a handheld stays open as long as a shift, whether or not it is touched, and no longer', async () => {
    const hand = await byBadge();
    await age(hand, { since: 600, seen: 600 });
    expect((await hand.ask('orders.list')).status).toBe(200);
    await age(hand, { since: 121 });
    const over = await hand.ask('orders.list');
    expect(over.problem).toMatchObject({ status: 401, code: 'people.shiftOver' });
    expect(over.problem.detail).toMatch(/12 hours/);
    expect(await overOf(await idOf('Tobin Sallow'))).toEqual(['the shift']);
  });

  it('the limits are the lead’s to change, hold for what is open, and have bounds', async () => {
    const [office, hand] = [await house.signIn('Odile Wrack'), await byBadge()];
    await age(office, { seen: 20 });
    await age(hand, { since: 180 });
    const body = { deskIdleMinutes: 15, shiftHours: 2 };
    expect((await office.ask('people.setLimits', { body })).status).toBe(403);
    for (const wrong of [{ deskIdleMinutes: 4 }, { deskIdleMinutes: 721 }, { shiftHours: 0 }, { shiftHours: 25 }, { shiftHours: 1.5 }])
      expect((await lead.ask('people.setLimits', { body: { ...body, ...wrong } })).status).toBe(400);
    expect((await lead.ask('people.setLimits', { body })).status).toBe(200);
    expect((await lead.ask('people.limits')).reply).toEqual(body);
    expect((await office.ask('orders.list')).problem.code).toBe('people.away');
    expect((await hand.ask('orders.list')).problem.code).toBe('people.shiftOver');
  });
});

describe('L4 sessions one by one', () => {
  it('each is listed with what it is on and when it was used, and ended alone, its stream with it', async () => {
    const person = await idOf('Tobin Sallow');
    await house.rows(`DELETE FROM session WHERE sess->>'person' = ?`, [String(person)]);
    const [desk, hand] = [await house.signIn('Tobin Sallow'), await byBadge()];
    const params = { id: person };
    const listed = (await lead.ask('people.sessions', { params })).reply.sessions;
    expect(listed.map((s) => [s.by, s.device, s.isOwn])).toEqual([
      ['badge', 'Chrome on Android', false],
      ['password', 'another program', false],
    ]);
    expect(JSON.stringify(listed)).not.toContain(sidOf(hand));
    // A handheld is known by the name that it was given.
    const named = await hand.ask('hands.device', { body: { name: 'Blue one' } });
    expect(named.status).toBe(200);
    expect((await lead.ask('people.sessions', { params })).reply.sessions.map((s) => s.handheld)).toEqual(['Blue one', null]);
    const stream = await hand.raw('/api/events');
    const reader = stream.body?.getReader();
    const number = listed[0]?.number ?? 0;
    const end = { params: { ...params, number } };
    expect((await desk.ask('people.endSession', end)).status).toBe(403);
    // Of somebody else there is no session of that number.
    expect((await lead.ask('people.endSession', { params: { id: await idOf('Maren Oake'), number } })).status).toBe(404);
    expect((await lead.ask('people.endSession', end)).status).toBe(200);
    let isDone = false;
    while (!isDone) isDone = (await reader?.read())?.done ?? true;
    expect((await hand.ask('orders.list')).status).toBe(401);
    expect((await desk.ask('orders.list')).status).toBe(200);
    expect((await lead.ask('people.endSession', end)).problem).toMatchObject({ status: 404, code: 'people.noSuchSession' });
    expect((await lead.ask('people.sessions', { params })).reply.sessions).toHaveLength(1);
    const own = (await lead.ask('people.sessions', { params: { id: await idOf('Maren Oake') } })).reply.sessions;
    expect(own.filter((s) => s.isOwn)).toHaveLength(1);
  });

  it.each([
    ['Mozilla/5.0 (X11; Linux x86_64) AppleWebKit/537.36 (KHTML, like Gecko) Chrome/120.0 Safari/537.36', 'Chrome on Linux'],
    ['Mozilla/5.0 (iPhone; CPU iPhone OS 17_0 like Mac OS X) AppleWebKit/605.1 Version/17.0 Mobile Safari/604.1', 'Safari on iPhone'],
    ['Mozilla/5.0 (Windows NT 10.0; Win64; x64; rv:121.0) Gecko/20100101 Firefox/121.0', 'Firefox on Windows'],
    ['curl/8.4.0', 'another program'],
    ['', 'another program'],
  ])('reads %j', (userAgent, device) => expect(deviceOf(userAgent)).toBe(device));
});
