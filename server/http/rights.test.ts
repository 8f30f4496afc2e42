import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { ROUTES, type RouteName } from '#contract';
import { isAllowed, type Role } from '#core/people';
import type { Client } from '../testing/client.ts';
import { openHouse, type TestHouse } from '../testing/house.ts';

let house: TestHouse;
let people: Record<Role, Client>;
beforeAll(async () => {
  house = await openHouse();
  people = {
    lead: await house.signIn('Maren Oake'),
    office: await house.signIn('Odile Wrack'),
    hand: await house.signIn('Tobin Sallow'),
  };
});
afterAll(async () => {
  await house.expectCleanAudit();
  await house.close();
});

const NAMES = Object.keys(ROUTES) as RouteName[];
/** Asks a route for something that is nowhere: what is answered then is about rights, or about what was asked. */
async function tried(client: Client, name: RouteName, site?: number): Promise<{ status: number; code: string }> {
  const params = Object.fromEntries([...ROUTES[name].path.matchAll(/:(\w+)/g)].map(([, key]) => [key as string, '2000000000']));
  const { status, problem } = await client.ask(name, {
    params: params as never,
    body: {} as never,
    ...(site === undefined ? {} : { site }),
  });
  return { status, code: problem?.code ?? '' };
}
const leaving: readonly RouteName[] = ['people.signOut'];

describe('L4 who may do what', () => {
  it('nobody may use what is not public, and everybody what is', async () => {
    for (const name of NAMES) {
      const { status, code } = await tried(house.stranger, name);
      if (ROUTES[name].allow === 'public') expect({ name, code }).not.toEqual({ name, code: 'people.signInFirst' });
      else expect({ name, status, code }).toEqual({ name, status: 401, code: 'people.signInFirst' });
    }
  });

  it('each role may use the routes that the table gives it, and no other', async () => {
    for (const role of ['lead', 'office', 'hand'] as const)
      for (const name of NAMES.filter((n) => !leaving.includes(n) && !n.startsWith('people.signIn') && n !== 'people.badgeIn')) {
        const { status, code } = await tried(people[role], name);
        // What is asked for is nowhere: that has a sentence too.
        if (isAllowed(role, ROUTES[name].allow))
          expect({ role, name, isRefused: code === 'people.noRight', broken: status >= 500 }).toEqual({
            role,
            name,
            isRefused: false,
            broken: false,
          });
        else expect({ role, name, status, code }).toEqual({ role, name, status: 403, code: 'people.noRight' });
      }
  }, 60_000);

  it('a person who works at another site is told so at every route that knows a site', async () => {
    const [barn] = await house.rows<{ id: number }>(`SELECT id FROM site WHERE id <> 1 ORDER BY id LIMIT 1`);
    await house.rows(`DELETE FROM person_site WHERE person_id = (SELECT id FROM person WHERE name = ?) AND site_id = ?`, [
      'Jory Penhale',
      barn?.id,
    ]);
    const jory = await house.signIn('Jory Penhale');
    for (const name of NAMES.filter((n) => ROUTES[n].allow !== 'public' && !leaving.includes(n)))
      expect({ name, ...(await tried(jory, name, barn?.id)) }).toMatchObject({ name, code: 'people.notAtSite' });
  });

  it('who was locked out is out at their next request, whatever they ask', async () => {
    const ines = await house.signIn('Ines Farrow');
    expect((await tried(ines, 'orders.list')).status).toBe(200);
    await house.rows(`UPDATE person SET active = false WHERE name = ?`, ['Ines Farrow']);
    for (const name of NAMES.filter((n) => ROUTES[n].allow !== 'public' && !leaving.includes(n)))
      expect({ name, ...(await tried(ines, name)) }).toEqual({ name, status: 401, code: 'people.signInFirst' });
    await house.rows(`UPDATE person SET active = true WHERE name = ?`, ['Ines Farrow']);
  });
});
