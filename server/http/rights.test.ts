import { beforeAll, describe, expect, it } from '@jest/globals';
import { BYTE_ROUTES, ROUTES, type ByteRouteName, type RouteName } from '#contract';
import { isAllowed, type Role } from '#core/people';
import type { Client } from '../testing/client.ts';
import { goAhead, jobEnd, upload } from '../testing/sheets.ts';
import { houseForTests } from '../testing/house.ts';

/** Everything that is called a cost or a value, and is said, in an answer. */
function costsIn(reply: unknown): unknown[] {
  if (typeof reply !== 'object' || reply === null) return [];
  const own = Object.entries(reply).flatMap(([key, value]) =>
    /^(cost|value)$/.test(key) && value !== null
      ? [value]
      : (reply as { kind?: unknown }).kind === 'cost' && key === 'amount'
        ? [value]
        : costsIn(value),
  );
  return own;
}

const { house } = houseForTests({});
let people: Record<Role, Client>;
beforeAll(async () => {
  people = {
    lead: await house.signIn('Maren Oake'),
    office: await house.signIn('Odile Wrack'),
    hand: await house.signIn('Tobin Sallow'),
  };
});

const NAMES = Object.keys(ROUTES) as RouteName[];
const BYTE_NAMES = Object.keys(BYTE_ROUTES) as ByteRouteName[];
/** The same for a route of bytes; a stream is let go at once. */
async function triedBytes(client: Client, name: ByteRouteName, site?: number): Promise<{ status: number; code: string }> {
  const { method, path } = BYTE_ROUTES[name];
  const filled = path.replace(':format', 'csv').replace(/:(\w+)/g, '2000000000');
  const answer = await client.raw(filled + (site === undefined ? '' : `?workingAt=${site}`), { method });
  const isProblem = answer.headers.get('content-type')?.startsWith('application/problem+json');
  if (isProblem) return { status: answer.status, code: ((await answer.json()) as { code: string }).code };
  await answer.body?.cancel();
  return { status: answer.status, code: '' };
}
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

/** Somebody signed in, and a site where they do not work. */
async function whoWorksNotAtTheBarn(): Promise<{ jory: Client; barn: number }> {
  const [barn] = await house.rows<{ id: number }>(`SELECT id FROM site WHERE id <> 1 ORDER BY id LIMIT 1`);
  await house.rows(`DELETE FROM person_site WHERE person_id = (SELECT id FROM person WHERE name = ?) AND site_id = ?`, [
    'Jory Penhale',
    barn?.id,
  ]);
  return { jory: await house.signIn('Jory Penhale'), barn: barn?.id ?? 0 };
}

describe('L4 who may do what', () => {
  it('nobody may use what is not public, and everybody what is', async () => {
    for (const name of NAMES) {
      const { status, code } = await tried(house.stranger, name);
      if (ROUTES[name].allow === 'public') expect({ name, code }).not.toEqual({ name, code: 'people.signInFirst' });
      else expect({ name, status, code }).toEqual({ name, status: 401, code: 'people.signInFirst' });
    }
  });

  it('files, sheets, papers and the stream go by the same table: nobody, each role, another site, locked out', async () => {
    const { jory, barn } = await whoWorksNotAtTheBarn();
    for (const name of BYTE_NAMES) {
      expect({ name, ...(await triedBytes(house.stranger, name)) }).toEqual({ name, status: 401, code: 'people.signInFirst' });
      expect({ name, ...(await triedBytes(jory, name, barn)) }).toMatchObject({ name, code: 'people.notAtSite' });
      for (const role of ['lead', 'office', 'hand'] as const) {
        const { status, code } = await triedBytes(people[role], name);
        expect({ role, name, isRefused: code === 'people.noRight', broken: status >= 500 }).toEqual({
          role,
          name,
          isRefused: !isAllowed(role, BYTE_ROUTES[name].allow),
          broken: false,
        });
      }
    }
    await house.rows(`UPDATE person SET active = false WHERE name = ?`, ['Jory Penhale']);
    for (const name of BYTE_NAMES)
      expect({ name, ...(await triedBytes(jory, name)) }).toEqual({ name, status: 401, code: 'people.signInFirst' });
    await house.rows(`UPDATE person SET active = true WHERE name = ?`, ['Jory Penhale']);
  });

  it('a hand reads no cost anywhere: not of an item, a supplier, the stock, a list, a file, nor in what an import found', async () => {
    const { hand, office } = people;
    const list = await upload(office, 'costs.csv', 'Part,Description,Cost\nZZ-COST-1,Zinc feeder,12.34\n');
    const supplier = (await office.ask('items.makeSupplier', { body: { code: 'COSTLY', name: 'Costly & Daughters' } })).reply.id;
    const body = { file: list.id, mapping: { partNo: 'Part', description: 'Description', cost: 'Cost' }, holdsFrom: '2026-01-01' };
    const { job } = (await office.ask('items.importPrices', { params: { id: supplier }, body })).reply;
    expect(await jobEnd(house, office, job)).toMatchObject({ state: 'checked' });
    expect(await goAhead(house, office, job)).toMatchObject({ state: 'done' });
    const [bought] = await house.rows<{ id: number; code: string }>(
      `SELECT i.id, i.code
       FROM item i
       JOIN item_supplier x ON x.item_id = i.id
       JOIN balance b ON b.item_id = i.id
       WHERE x.cost > 0 AND amount_on(i.id, 'cost', '2026-11-26') > 0
       LIMIT 1`,
    );
    const asked = [
      ['items.item', { params: { id: bought?.id ?? 0 } }],
      ['items.search', { query: { q: bought?.code ?? '' } }],
      ['items.search', { query: { limit: 20 } }],
      ['items.search', { query: { q: 'ZZ-COST-1', over: 'lists' } }],
      ['stock.list', { query: { q: bought?.code ?? '' } }],
      ['stock.list', { query: { q: bought?.code ?? '', by: 'place' } }],
    ] as const;
    for (const [name, input] of asked) {
      const [seen, hidden] = [await office.ask(name, input as never), await hand.ask(name, input as never)];
      expect([name, costsIn(seen.reply).length > 0, costsIn(hidden.reply)]).toEqual([name, true, []]);
    }
    expect((await hand.ask('work.rows', { params: { id: job } })).status).toBe(403);
    expect((await hand.raw(`/api/files/${list.id}`)).status).toBe(403);
    expect((await office.raw(`/api/files/${list.id}`)).status).toBe(200);
    expect(await upload(hand, 'own.csv', 'a,b\n1,2')).toMatchObject({ status: 403 });
    for (const kind of ['items', 'stock']) expect((await hand.raw(`/api/download/${kind}.csv`)).status).toBe(403);
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
    const { jory, barn } = await whoWorksNotAtTheBarn();
    for (const name of NAMES.filter((n) => ROUTES[n].allow !== 'public' && !leaving.includes(n)))
      expect({ name, ...(await tried(jory, name, barn)) }).toMatchObject({ name, code: 'people.notAtSite' });
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
