import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { query, runInternal, runJobs, startJob, type JobWork } from '#server/kernel';
import type { Client } from '../testing/client.ts';
import { openHouse, type TestHouse } from '../testing/house.ts';
import { jobEnd } from '../testing/sheets.ts';

let house: TestHouse;
let lead: Client;
let stopJobs: () => Promise<void>;
let begun = 0;
/** Where the work waits until the test lets it go on. */
let arrived: (at: string) => void = () => undefined;
let goOn: () => void = () => undefined;
const gate = (at: string): Promise<void> =>
  new Promise((resolve) => {
    goOn = resolve;
    arrived(at);
  });
const note = (id: number): string => `noted by job ${id}`;

const KINDS: Readonly<Record<string, JobWork>> = {
  breaks: async () => {
    begun += 1;
    return Promise.reject(new Error(`the ${begun}. time\nand a second line`));
  },
  // As an import does: long work that only listens, work that says how far it is, one transaction.
  steps: async (context) => {
    const { stopAt } = context.job.input as { stopAt: string };
    if (stopAt === 'listening')
      await new Promise((_, reject) => {
        context.signal.addEventListener('abort', () => reject(context.signal.reason as Error));
        arrived('listening');
      });
    if (stopAt === 'progress') {
      await gate('progress');
      for (let n = 0; n < 100; n += 1) {
        await context.progress(n, 100);
        await new Promise((resolve) => setTimeout(resolve, 20));
      }
    }
    await context.apply(async (trx) => {
      await query(trx, `INSERT INTO setting (name, value) VALUES (?, '1')`, [note(context.job.id)]);
      if (stopAt === 'apply') await gate('apply');
      return null;
    });
    if (stopAt === 'after') await gate('after');
    return { state: 'done' as const, result: null };
  },
};

beforeAll(async () => {
  house = await openHouse({ jobs: false });
  lead = await house.signIn('Maren Oake');
  stopJobs = await runJobs(house.db, house.outbox, KINDS);
});
afterAll(async () => {
  await stopJobs();
  await house.close();
});

const start = (kind: string, input: unknown = {}): Promise<{ id: number }> =>
  runInternal(house.db, (trx) => startJob(trx, { kind, title: 'Test', person: 1, site: 1, input }));
const hasNoted = async (id: number): Promise<boolean> => (await house.rows(`SELECT 1 FROM setting WHERE name = ?`, [note(id)])).length > 0;

describe('a job', () => {
  it('that breaks is tried three times and then given up with its reason', async () => {
    begun = 0;
    const { id } = await start('breaks');
    // The queue waits longer before each try; the test does not.
    const hurry = setInterval(() => void house.rows(`UPDATE graphile_worker._private_jobs SET run_at = now() WHERE ? = ?`, [1, 1]), 200);
    const ended = await jobEnd(house, lead, id);
    clearInterval(hurry);
    expect(ended).toMatchObject({
      state: 'failed',
      said: 'It broke 3 times and was given up; nothing was changed. What it said last: the 3. time.',
    });
    expect(begun).toBe(3);
  }, 30_000);

  it('that takes its worker down each time is given up too, by whoever takes it up for the fourth time', async () => {
    begun = 0;
    const { id } = await runInternal(house.db, async (trx) => {
      const made = await startJob(trx, { kind: 'breaks', title: 'Test', person: 1, site: 1, input: {} });
      await query(trx, `UPDATE job SET state = 'running', tries = 3 WHERE id = ?`, [made.id]);
      return made;
    });
    const ended = await jobEnd(house, lead, id);
    expect(ended).toMatchObject({ state: 'failed' });
    expect(ended.said).toContain('the program that worked on it fell over');
    expect(begun).toBe(0);
  }, 30_000);

  it.each([['listening'], ['progress'], ['apply']])('cancelled at “%s” ends within moments, and nothing of it is there', async (stopAt) => {
    const there = new Promise<string>((resolve) => {
      arrived = resolve;
    });
    const { id } = await start('steps', { stopAt });
    expect(await there).toBe(stopAt);
    expect((await lead.ask('work.cancel', { params: { id } })).status).toBe(200);
    goOn();
    expect(await jobEnd(house, lead, id)).toMatchObject({ state: 'cancelled', said: 'Cancelled; nothing was changed.' });
    expect(await hasNoted(id)).toBe(false);
    expect((await lead.ask('work.cancel', { params: { id } })).problem.code).toBe('work.notChecked');
  });

  it('cancelled before anybody took it up is cancelled at once, and never begun', async () => {
    const { id } = await runInternal(house.db, async (trx) => {
      const made = await startJob(trx, { kind: 'steps', title: 'Test', person: 1, site: 1, input: {} });
      await query(trx, `UPDATE graphile_worker._private_jobs SET run_at = now() + interval '1 hour' WHERE (payload->>'job')::int = ?`, [
        made.id,
      ]);
      return made;
    });
    await lead.ask('work.cancel', { params: { id } });
    expect((await lead.ask('work.job', { params: { id } })).reply.state).toBe('cancelled');
    await house.rows(`UPDATE graphile_worker._private_jobs SET run_at = now() WHERE ? = ?`, [1, 1]);
    const { id: next } = await start('steps');
    expect((await jobEnd(house, lead, next)).state).toBe('done');
    expect(await hasNoted(id)).toBe(false);
  });

  it('that waits for its next try is cancelled at once, and stays so', async () => {
    begun = 0;
    const { id } = await start('breaks');
    while (begun === 0) await house.nextChange('jobs');
    while ((await house.rows(`SELECT 1 FROM job WHERE id = ? AND broke IS NOT NULL`, [id])).length === 0) await house.nextChange('jobs');
    await lead.ask('work.cancel', { params: { id } });
    const ended = await jobEnd(house, lead, id);
    await house.rows(`UPDATE graphile_worker._private_jobs SET run_at = now() WHERE ? = ?`, [1, 1]);
    const { id: next } = await start('steps');
    await jobEnd(house, lead, next);
    expect(ended.state).toBe('cancelled');
    expect((await lead.ask('work.job', { params: { id } })).reply.state).toBe('cancelled');
    expect(begun).toBe(1);
  }, 30_000);

  it('that is done cannot be cancelled, also while its last words are still on their way', async () => {
    const there = new Promise<string>((resolve) => {
      arrived = resolve;
    });
    const { id } = await start('steps', { stopAt: 'after' });
    await there;
    expect((await lead.ask('work.cancel', { params: { id } })).problem.code).toBe('work.notChecked');
    goOn();
    expect(await jobEnd(house, lead, id)).toMatchObject({ state: 'done' });
    expect(await hasNoted(id)).toBe(true);
  });
});
