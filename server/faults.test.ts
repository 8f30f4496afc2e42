import { execFileSync } from 'node:child_process';
import { randomUUID } from 'node:crypto';
import { mkdirSync } from 'node:fs';
import path from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { openDatabase, query, type Db } from '#server/kernel';
import { runAudit } from '#server/stock';
import { signIn, type Client } from './testing/client.ts';
import { openCluster, type Cluster } from './testing/cluster.ts';
import { makeDemoDatabase } from './testing/global-setup.ts';
import { beginServer, startServer, untilSaid, type Program } from './testing/program.ts';

const HANDS = 12;
/** After a fault is over, what changes is told again within this time, milliseconds. */
const TOLD_MS = 2000;
let cluster: Cluster;
let owner: Db;
let servers: Program[];
const urls = () => ({ url: cluster.url, ownerUrl: cluster.ownerUrl });
const rows = <Row>(sql: string, values: readonly unknown[] = []): Promise<Row[]> => query<Row>(owner, sql, values);

beforeAll(async () => {
  cluster = await openCluster();
  await makeDemoDatabase(cluster.ownerUrl, 'dockrow');
  owner = openDatabase(cluster.ownerUrl, { poolSize: 4 });
  servers = [await startServer(urls()), await startServer(urls())];
}, 120_000);
afterAll(async () => {
  await Promise.all(servers.map((s) => s.stop()));
  await owner.destroy();
  cluster.remove();
});

type Work = {
  readonly acknowledged: Map<string, number>;
  readonly sent: string[];
  readonly refusals: string[];
  stop(): Promise<void>;
  untilDone(more: number): Promise<void>;
};

/** Hands that move goods there and back, each act sent again under its key until its answer is known, as the screens do. */
async function hands(at: readonly Program[]): Promise<Work> {
  const stocked = await rows<{ address: string; code: string }>(
    `SELECT f.address, i.code
     FROM stock_fact f
     JOIN item i ON i.id = f.item_id
     WHERE f.site_id = 1 AND f.use = 'shelf' AND i.tracking = 'none' AND f.condition = 'sound' AND f.qty > 10
       AND NOT EXISTS (SELECT 1 FROM hold_line h WHERE h.bin_id = f.bin_id) ORDER BY f.balance_id LIMIT ${HANDS}`,
  );
  const clients = await Promise.all(at.map(async (server) => ({ server, client: await signIn(server.address, 'Tobin Sallow') })));
  const work = { acknowledged: new Map<string, number>(), sent: [] as string[], refusals: [] as string[] };
  let isOver = false;
  const broken: string[] = [];
  // False where the server is gone, and this hand with it; a connection that was only cut is taken up again, as the screens do.
  const until = async (
    body: { from: string; to: string; code: string; qty: string },
    { server, client }: (typeof clients)[number],
  ): Promise<boolean> => {
    const key = randomUUID();
    work.sent.push(key);
    for (;;) {
      const answer = await client.ask('moves.move', { body, key }).catch(() => null);
      if (answer?.status === 200) {
        work.acknowledged.set(key, answer.reply.document);
        return true;
      }
      if (answer === null && (server.process.exitCode !== null || server.process.signalCode !== null)) return false;
      if (answer && answer.status !== 503 && answer.status !== 507) {
        broken.push(`${answer.status} ${answer.problem.detail}`);
        return false;
      }
      if (answer) work.refusals.push(answer.problem.code);
      await new Promise((resolve) => setTimeout(resolve, 50));
    }
  };
  const going = stocked.map(async ({ address, code }, n) => {
    const client = clients[n % clients.length] as (typeof clients)[number];
    for (let back = false; !isOver; back = !back) {
      const [from, to] = back ? ['QUARANTINE', address] : [address, 'QUARANTINE'];
      if (!(await until({ from, to, code, qty: '1' }, client))) return;
    }
  });
  return {
    ...work,
    stop: async () => {
      isOver = true;
      await Promise.all(going);
      expect(broken).toEqual([]);
    },
    untilDone: async (more) => {
      const goal = work.acknowledged.size + more;
      while (work.acknowledged.size < goal) {
        expect(broken).toEqual([]);
        await new Promise((resolve) => setTimeout(resolve, 10));
      }
    },
  };
}

/** Listens at a server, from when it says hello; `item` resolves when it tells of the item. */
async function hears(server: Program, client: Client): Promise<{ item(id: number): Promise<void>; close(): void }> {
  const stop = new AbortController();
  let text = '';
  let wake: () => void = () => undefined;
  void (async () => {
    const answer = await fetch(`${server.address}/api/events`, { headers: { Cookie: client.cookie }, signal: stop.signal });
    for await (const part of answer.body?.pipeThrough(new TextDecoderStream()) ?? []) {
      text += part;
      wake();
    }
  })().catch(() => undefined);
  const until = async (words: string): Promise<void> => {
    while (!text.includes(words)) await new Promise<void>((resolve) => (wake = resolve));
  };
  await until('event: hello');
  return { close: () => stop.abort(), item: (id) => until(`"items":[${id}]`) };
}

/** What every fault must leave: all that was acknowledged, each once; a clean audit; and changes that are told at once. */
async function expectWhole(work: Work): Promise<void> {
  const kept = new Map(
    (
      await rows<{ key: string; document: number }>(
        `SELECT key, (reply->>'document')::int AS document FROM command WHERE key = ANY(?::uuid[])`,
        [work.sent],
      )
    ).map((r) => [r.key, r.document]),
  );
  for (const [key, document] of work.acknowledged) expect(kept.get(key)).toBe(document);
  const [counted] = await rows<{ n: number }>(`SELECT count(*) AS n FROM movement WHERE document_id = ANY(?::int[])`, [[...kept.values()]]);
  expect(counted?.n).toBe(kept.size);
  const { faults } = await runAudit(owner);
  expect(faults).toEqual([]);
}

async function expectTold(): Promise<void> {
  const clients = await Promise.all(servers.map((s) => signIn(s.address, 'Maren Oake')));
  const ears = await Promise.all(servers.map((s, n) => hears(s, clients[n] as Client)));
  const [there] = await rows<{ address: string; code: string; item: number }>(
    `SELECT f.address, i.code, i.id AS item
     FROM stock_fact f
     JOIN item i ON i.id = f.item_id
     WHERE f.site_id = 1 AND f.use = 'shelf' AND i.tracking = 'none' AND f.condition = 'sound' AND f.qty > 10
       AND NOT EXISTS (SELECT 1 FROM hold_line h WHERE h.bin_id = f.bin_id) ORDER BY f.balance_id DESC LIMIT 1`,
  );
  const moved = await clients[0]?.ask('moves.move', {
    body: { from: there?.address ?? '', to: 'QUARANTINE', code: there?.code ?? '', qty: '1' },
  });
  expect(moved?.status).toBe(200);
  const from = Date.now();
  await Promise.all(ears.map((e) => e.item(there?.item ?? 0)));
  expect(Date.now() - from).toBeLessThan(TOLD_MS);
  await clients[0]?.ask('stock.undo', { params: { id: moved?.reply.document ?? 0 }, body: { reason: 'back' } });
  for (const ear of ears) ear.close();
}

describe('what happens to a database and its servers, while hands work', () => {
  it.each([5, 60])(
    'it hangs for %d seconds: nothing acknowledged is lost, nothing is done twice, all goes on without a restart',
    async (seconds) => {
      const work = await hands(servers);
      await work.untilDone(40);
      cluster.freeze();
      await new Promise((resolve) => setTimeout(resolve, seconds * 1000));
      cluster.thaw();
      await work.untilDone(40);
      await work.stop();
      await expectWhole(work);
      await expectTold();
    },
    180_000,
  );

  it('it is killed at once and started again', async () => {
    const work = await hands(servers);
    await work.untilDone(40);
    cluster.kill();
    cluster.start();
    await work.untilDone(40);
    await work.stop();
    expect(work.refusals.length).toBeGreaterThan(0);
    await expectWhole(work);
    await expectTold();
  }, 120_000);

  it('one of two servers on it dies; the other goes on, and what the dead one did is told', async () => {
    const work = await hands(servers);
    await work.untilDone(40);
    const [dying, other] = servers as [Program, Program];
    await dying.kill();
    await work.untilDone(40);
    await work.stop();
    servers = [other];
    await expectWhole(work);
    await expectTold();
    servers = [other, await startServer(urls())];
    await expectTold();
  }, 120_000);

  it('its disk is full: what needs room is refused in words, and goes on when there is room', async () => {
    const folder = path.join(cluster.folder, 'small');
    mkdirSync(folder);
    try {
      execFileSync('mount', ['-t', 'tmpfs', '-o', 'size=24m,mode=0777', 'tmpfs', folder], { stdio: 'ignore' });
    } catch {
      // This machine lets nobody make a small disk: there is nothing to fill.
      process.stderr.write('A full disk was not tried: no small file system can be made here.\n');
      return;
    }
    try {
      execFileSync('sh', ['-c', `chown postgres '${folder}' 2>/dev/null || true`]);
      await rows(`CREATE TABLESPACE small LOCATION '${folder}'`);
      await rows(`ALTER TABLE command SET TABLESPACE small`);
      const work = await hands(servers);
      await work.untilDone(20);
      execFileSync('sh', ['-c', `dd if=/dev/zero of='${folder}/filler' bs=64k 2>/dev/null || true`]);
      while (!work.refusals.includes('server.diskFull')) await new Promise((resolve) => setTimeout(resolve, 20));
      execFileSync('rm', [path.join(folder, 'filler')]);
      await work.untilDone(40);
      await work.stop();
      await expectWhole(work);
      await expectTold();
      await rows(`ALTER TABLE command SET TABLESPACE pg_default`);
      await rows(`DROP TABLESPACE small`);
    } finally {
      execFileSync('umount', [folder], { stdio: 'ignore' });
    }
  }, 120_000);
});

describe('starting and stopping', () => {
  it('a start waits for a database that is not there yet, and says so', async () => {
    await Promise.all(servers.map((s) => s.stop()));
    cluster.kill();
    const waiting = await beginServer(urls());
    await untilSaid(waiting, 'Waiting for the database');
    cluster.start();
    await untilSaid(waiting, 'ready');
    servers = [waiting];
    await expectTold();
  }, 60_000);
  it('a stop lets what is under way end, and ends the streams', async () => {
    const [server] = servers as [Program];
    const client = await signIn(server.address, 'Maren Oake');
    const ear = await hears(server, client);
    // Somebody holds what the command needs: it is under way when the server is told to stop.
    const [there] = await rows<{ address: string; code: string; item: number; balance: number }>(
      `SELECT f.address, i.code, f.balance_id AS balance
       FROM stock_fact f
       JOIN item i ON i.id = f.item_id
       WHERE f.site_id = 1 AND f.use = 'shelf' AND i.tracking = 'none' AND f.condition = 'sound' AND f.qty > 10
         AND NOT EXISTS (SELECT 1 FROM hold_line h WHERE h.bin_id = f.bin_id) ORDER BY f.balance_id DESC LIMIT 1`,
    );
    const holding = await owner.transaction();
    await query(holding, `SELECT 1 FROM balance WHERE id = ? FOR UPDATE`, [there?.balance]);
    const underWay = client.ask('moves.move', {
      body: { from: there?.address ?? '', to: 'QUARANTINE', code: there?.code ?? '', qty: '1' },
    });
    for (;;) {
      const waits = await rows(`SELECT 1 FROM pg_stat_activity WHERE wait_event_type = 'Lock' AND application_name = 'dock-row'`);
      if (waits.length > 0) break;
    }
    const stopped = server.stop();
    await holding.rollback();
    expect((await underWay).status).toBe(200);
    await stopped;
    ear.close();
    expect(server.process.exitCode).toBe(0);
  }, 60_000);
});
