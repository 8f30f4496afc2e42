import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { signIn, type Client } from './testing/client.ts';
import { openHouse, type TestHouse } from './testing/house.ts';
import { freePort, startServer } from './testing/program.ts';
import { jobEnd, upload } from './testing/sheets.ts';

let house: TestHouse;
beforeAll(async () => {
  // Jobs are done by the server that is killed, not by this process.
  house = await openHouse({ jobs: false });
});
afterAll(() => house.close());

describe('the server is killed while 20 clients post', () => {
  it('every acknowledged command is there, none is there twice, and the audit is clean', async () => {
    const port = await freePort();
    const first = await startServer(house, port);
    const { address } = first;
    const [stock] = await house.rows<{ address: string; code: string; item: number; bin: number }>(
      `SELECT f.address, i.code, i.id AS item, f.bin_id AS bin
       FROM stock_fact f
       JOIN item i ON i.id = f.item_id
       WHERE f.site_id = 1 AND f.use = 'shelf' AND i.tracking = 'none' AND i.decimals = 0
       ORDER BY f.qty DESC
       LIMIT 1`,
    );
    const [before] = await house.rows<{ n: number }>(`SELECT max(id) AS n FROM movement`);
    const client = await signIn(address, 'Tobin Sallow');
    const acknowledged = new Map<string, number>();
    const sent: string[] = [];
    const unanswered: string[] = [];
    const body = { from: stock?.address ?? '', to: 'QUARANTINE', code: stock?.code ?? '', qty: '1' };
    const command = async (who: Client): Promise<boolean> => {
      const key = randomUUID();
      sent.push(key);
      try {
        const answer = await who.ask('moves.move', { body, key });
        if (answer.status === 200) acknowledged.set(key, answer.reply.document);
        return true;
      } catch {
        unanswered.push(key);
        return false;
      }
    };
    // Each goes on until the server is gone under it; the last command of each has an end that nobody knows.
    const workers = Array.from({ length: 20 }, async () => {
      while (await command(client));
    });
    while (acknowledged.size < 60) await new Promise((resolve) => setImmediate(resolve));
    await first.kill();
    await Promise.all(workers);
    const second = await startServer(house, port);
    const again = await signIn(address, 'Tobin Sallow');
    for (const [key, document] of acknowledged) {
      const [row] = await house.rows<{ document: number }>(`SELECT (reply->>'document')::int AS document FROM command WHERE key = ?`, [
        key,
      ]);
      expect(row?.document).toBe(document);
    }
    // Whoever lost an answer sends the command again with its key: done now or answered as before, never done twice.
    for (const key of unanswered) {
      const [once1, twice] = [await again.ask('moves.move', { body, key }), await again.ask('moves.move', { body, key })];
      expect(once1.status).toBe(200);
      expect(twice.reply).toEqual(once1.reply);
    }
    const [documents] = await house.rows<{ commands: number; movements: number }>(
      `SELECT (SELECT count(*) FROM command WHERE key = ANY(?::uuid[])) AS commands,
         (SELECT count(*) FROM movement WHERE id > ?) AS movements`,
      [sent, before?.n],
    );
    expect(unanswered.length).toBeGreaterThan(0);
    expect(documents?.movements).toBe(documents?.commands);
    expect(documents?.commands).toBe(acknowledged.size + unanswered.length);
    await house.expectCleanAudit();
    await second.stop();
  }, 60_000);
});

describe('the server is killed in the middle of an import', () => {
  it('nothing of it is there, and the next server does all of it without being asked', async () => {
    const [port, rows] = [await freePort(), 60_000];
    const first = await startServer(house, port);
    const { address } = first;
    const office = await signIn(address, 'Odile Wrack');
    const list = ['Part,Text,Cost', ...Array.from({ length: rows }, (_, i) => `KILL-${i},Cork stopper ${i},1.50`)].join('\n');
    const { id: file } = await upload(office, 'corks.csv', list);
    const mapping = { partNo: 'Part', description: 'Text', cost: 'Cost' };
    const { reply } = await office.ask('items.importPrices', { params: { id: 2 }, body: { file, mapping, holdsFrom: '2026-01-01' } });
    expect((await jobEnd(house, office, reply.job)).state).toBe('checked');
    await office.ask('work.goAhead', { params: { id: reply.job } });
    const written = async (): Promise<number> =>
      (await house.rows<{ n: number }>(`SELECT count(*) AS n FROM price_row WHERE part_no LIKE 'KILL-%'`))[0]?.n ?? 0;
    for (;;) {
      const told = house.nextChange('jobs');
      const [job] = await house.rows<{ state: string; progress: number }>(`SELECT state, progress FROM job WHERE id = ?`, [reply.job]);
      if (job?.state === 'running' && job.progress > 2000) break;
      await told;
    }
    await first.kill();
    expect(await written()).toBe(0);
    const second = await startServer(house, port);
    const again = await signIn(address, 'Odile Wrack');
    expect(await jobEnd(house, again, reply.job)).toMatchObject({ state: 'done', result: { new: rows, faults: 0 } });
    expect(await written()).toBe(rows);
    await second.stop();
  }, 120_000);
});
