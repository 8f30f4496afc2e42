import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import type { Client } from '../testing/client.ts';
import { openHouse, type TestHouse } from '../testing/house.ts';

let house: TestHouse;
let lead: Client;
beforeAll(async () => {
  house = await openHouse({ jobs: false });
  lead = await house.signIn('Maren Oake');
});
afterAll(() => house.close());

/** How many statements of the application wait for somebody's lock. */
const waiting = async (): Promise<number> =>
  (
    await house.rows<{ n: number }>(
      `SELECT count(*) AS n FROM pg_stat_activity WHERE datname = current_database() AND wait_event_type = 'Lock' AND pid <> pg_backend_pid()`,
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
