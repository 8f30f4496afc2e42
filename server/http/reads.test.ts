import { describe, expect, it } from '@jest/globals';
import { ROUTES } from '#contract';
import { houseForTests } from '../testing/house.ts';

const { house, lead } = houseForTests({ lead: 'Maren Oake' }, { jobs: false });

/** How many statements of the application wait for somebody's lock. */
const waiting = async (): Promise<number> =>
  (
    await house.rows<{ n: number }>(
      `SELECT count(*) AS n
       FROM pg_stat_activity
       WHERE datname = current_database() AND wait_event_type = 'Lock' AND pid <> pg_backend_pid()`,
    )
  )[0]?.n ?? 0;
const untilWaiting = async (n: number): Promise<void> => {
  while ((await waiting()) !== n);
};

describe('reads that nobody waits for any more', () => {
  it('are broken off, and their connections serve the next as before; what is asked for by others goes on', async () => {
    const holding = await house.owner.transaction();
    await holding.raw('LOCK TABLE item IN ACCESS EXCLUSIVE MODE');
    const gone = new AbortController();
    // More than the pool has connections: those behind wait for one.
    const left = Array.from({ length: 30 }, () =>
      lead.raw('/api/items?limit=20', { signal: gone.signal }).then(
        () => 'answered',
        () => 'left',
      ),
    );
    await untilWaiting(16);
    gone.abort();
    expect(new Set(await Promise.all(left))).toEqual(new Set(['left']));
    // Long before the lock is given up.
    await untilWaiting(0);
    const stays = lead.raw('/api/items?limit=20').then((answer) => answer.status);
    const others = Array.from({ length: 40 }, () => lead.ask('people.people').then((answer) => answer.status));
    expect(new Set(await Promise.all(others))).toEqual(new Set([200]));
    await untilWaiting(1);
    await holding.rollback();
    expect(await stays).toBe(200);
  }, 60_000);

  it('what is reckoned for everybody is not broken off with the one who asked; neither is a command', async () => {
    const holding = await house.owner.transaction();
    await holding.raw('LOCK TABLE customer_order IN ACCESS EXCLUSIVE MODE');
    const gone = new AbortController();
    const left = lead.raw('/api/row', { signal: gone.signal }).catch(() => 'left');
    await untilWaiting(1);
    const stays = lead.ask('desk.row').then((answer) => answer.status);
    const customer = (await house.rows<{ id: number }>(`SELECT min(id) AS id FROM customer`))[0]?.id ?? 0;
    const before = (await house.rows<{ n: number }>(`SELECT count(*) AS n FROM command WHERE route = 'orders.make'`))[0]?.n ?? 0;
    const made = lead
      .raw('/api/orders', {
        method: 'POST',
        signal: gone.signal,
        headers: { 'Content-Type': 'application/json', 'Idempotency-Key': crypto.randomUUID() },
        body: JSON.stringify({ customer, due: '2030-01-01', lines: [] }),
      })
      .catch(() => 'left');
    await untilWaiting(2);
    gone.abort();
    expect(await Promise.all([left, made])).toEqual(['left', 'left']);
    await holding.rollback();
    expect(await stays).toBe(200);
    const after = async (): Promise<number> =>
      (await house.rows<{ n: number }>(`SELECT count(*) AS n FROM command WHERE route = 'orders.make'`))[0]?.n ?? 0;
    while ((await after()) === before);
    expect(await after()).toBe(before + 1);
  }, 60_000);
});

describe('pages that read themselves again', () => {
  const again = { headers: { 'Dock-Row-Again': '1' } };
  it('share one reading, and hold up nobody who asks for a page', async () => {
    const other = await house.signIn('Odile Wrack');
    const holding = await house.owner.transaction();
    await holding.raw('LOCK TABLE item IN ACCESS EXCLUSIVE MODE');
    const asked = Array.from({ length: 30 }, (_, n) =>
      (n % 3 === 0 ? other : lead).raw('/api/items?limit=20', again).then((a) => a.text()),
    );
    await untilWaiting(1);
    // A person's own reading stands in no line.
    const own = lead.raw('/api/items?limit=20').then((a) => a.text());
    await untilWaiting(2);
    expect((await lead.raw('/api/suppliers')).status).toBe(200);
    await holding.rollback();
    const answer = await own;
    expect((JSON.parse(answer) as { items: unknown[] }).items).toHaveLength(20);
    // A lead and the office are shown the same here; each has an answer of their own all the same.
    expect(new Set(await Promise.all(asked))).toEqual(new Set([answer]));
  }, 60_000);

  it('may share: outside of the rooms of people, hands and jobs, whoever is of a role at a site is answered alike', async () => {
    await house.rows(`UPDATE person SET role = 'lead' WHERE name = 'Odile Wrack'`);
    await house.rows(
      `INSERT INTO person_site (person_id, site_id) SELECT p.id, x.site_id FROM person p, person_site x JOIN person m ON m.id = x.person_id
       WHERE p.name = 'Odile Wrack' AND m.name = 'Maren Oake' ON CONFLICT DO NOTHING`,
    );
    const other = await house.signIn('Odile Wrack');
    const seen = new Map<number, number>();
    for (const [name, { method, path }] of Object.entries(ROUTES)) {
      if (method !== 'GET' || /^(people|hands|work)\./.test(name)) continue;
      for (const id of ['1', '120']) {
        const filled = path.replace(/:\w+/g, id);
        const [mine, theirs] = await Promise.all([lead.raw(filled), other.raw(filled)]);
        const [a, b] = [await mine.text(), await theirs.text()].map((text) => text.replace(/"incident":"\w+"/, ''));
        expect({ name, answer: a }).toEqual({ name, answer: b });
        seen.set(mine.status, (seen.get(mine.status) ?? 0) + 1);
      }
    }
    expect(seen.get(200)).toBeGreaterThan(20);
    await house.rows(`UPDATE person SET role = 'office' WHERE name = 'Odile Wrack'`);
    // Every route twice, twice over: seconds, and more of them beside other work.
  }, 60_000);
});
