import { randomUUID } from 'node:crypto';
import { once } from 'node:events';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import pg from 'pg';
import { pino } from 'pino';
import { openDatabase, Outbox } from '#server/kernel';
import { buildApp } from '../server/http/app.ts';

/** One statement that a move really sends, with its values. */
export type Statement = { readonly text: string; readonly values: readonly unknown[]; readonly name?: string };
type Shelf = { item: number; code: string; address: string; bin: number };

/** Records what one move sends to PostgreSQL, from the session to the commit, by listening to the driver itself.
 *  The recorded move is undone by a second one, so that nothing is left moved. */
export async function recordStatements(url: string, cookie: string, shelf: Shelf): Promise<Statement[]> {
  const seen: Statement[] = [];
  const db = openDatabase(url, { poolSize: 1 });
  db.on('query', (q: { sql: string; bindings?: unknown[]; options?: { name?: string } }) =>
    seen.push({ text: q.sql, values: q.bindings ?? [], ...(q.options?.name ? { name: q.options.name } : {}) }),
  );
  const outbox = new Outbox(db, url);
  const sessions = new pg.Pool({ connectionString: url, max: 1 });
  const [secret] = (await sessions.query<{ value: string }>(`SELECT value FROM setting WHERE name = 'session secret'`)).rows;
  const { app, streams } = buildApp({
    house: { db, outbox, demo: true, version: 'bench' },
    sessions,
    secret: secret?.value ?? '',
    log: pino({ level: 'silent' }),
    webFolder: null,
  });
  const server = createServer(app).listen(0, '127.0.0.1');
  await once(server, 'listening');
  const address = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  const move = async (from: string, to: string): Promise<void> => {
    const answer = await fetch(`${address}/api/moves`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json', Cookie: cookie, 'Idempotency-Key': randomUUID() },
      body: JSON.stringify({ from, to, code: shelf.code, qty: '1' }),
    });
    if (!answer.ok) throw new Error(`The move to record was refused: ${await answer.text()}`);
  };
  await move(shelf.address, 'QUARANTINE');
  const until = seen.findIndex((s) => /^COMMIT/i.test(s.text));
  const recorded = seen.slice(0, until + 1);
  await move('QUARANTINE', shelf.address);
  streams.close();
  server.closeAllConnections();
  server.close();
  await outbox.stop();
  await sessions.end();
  await db.destroy();
  const sid = decodeURIComponent(/dockrow=([^;]+)/.exec(cookie)?.[1] ?? '')
    .replace(/^s:/, '')
    .split('.')[0];
  return [
    { text: 'SELECT sess FROM "session" WHERE sid = $1 AND expire >= to_timestamp($2)', values: [sid, Date.now() / 1000] },
    ...recorded,
  ];
}

/** Sends the recorded statements straight through the driver, for one piece of this shelf, there or back.
 *  What a statement answers is fed to those that need it, as the server does: the balances' ids, the document, the key. */
export async function replay(pool: pg.Pool, recorded: readonly Statement[], shelf: Shelf, there: boolean): Promise<void> {
  const client = await pool.connect();
  const key = randomUUID();
  const from = there ? shelf.address : 'QUARANTINE';
  const to = there ? 'QUARANTINE' : shelf.address;
  let bins: number[] = [];
  let document = 0;
  let held: { id: number; bin_id: number; qty: string }[] = [];
  try {
    let asked = 0;
    for (const { text, values, name } of recorded) {
      let bound = values;
      if (/INSERT INTO command/.test(text)) bound = [key, ...values.slice(1)];
      else if (/FROM bin_name WHERE/.test(text)) {
        const address = asked === 0 ? from : to;
        asked += 1;
        bound = [values[0], address];
      } else if (/WITH known AS/.test(text)) bound = [shelf.code, [], shelf.code];
      else if (/FROM stock_fact WHERE bin_id/.test(text)) bound = [bins[0], shelf.item];
      else if (/FOR UPDATE OF b/.test(text))
        bound = [[shelf.item, shelf.item], [...bins], [null, null], [null, null], [null, null], ['sound', 'sound']];
      else if (/DELETE FROM balance/.test(text)) {
        const row = held.find((h) => h.bin_id === bins[0]);
        bound = Number(row?.qty) === 1 ? [[row?.id], [], []] : [[], [row?.id], ['-1']];
      } else if (/INSERT INTO balance/.test(text)) bound = [[shelf.item], [bins[1]], [null], [null], [null], ['sound'], ['1']];
      else if (/INSERT INTO movement/.test(text)) {
        const v = [...values];
        v[0] = document;
        v[6] = [shelf.item];
        v[10] = [bins[0]];
        v[13] = [bins[1]];
        bound = v;
      } else if (/WITH touched AS/.test(text)) bound = [[...bins], document, [shelf.item], [shelf.item], [...bins]];
      else if (/DISTINCT m\.item/.test(text)) bound = [[shelf.item, shelf.item], [...bins]];
      else if (/pg_advisory_xact_lock/.test(text)) bound = [[shelf.item], values[1]];
      else if (/AS usable/.test(text)) bound = [[shelf.item], values[1]];
      else if (/UPDATE command SET reply/.test(text)) bound = [...values.slice(0, -1), key];
      const result = await client.query({ text, values: [...bound], ...(name ? { name } : {}) });
      if (/FROM bin_name WHERE/.test(text)) bins = [...bins, (result.rows[0] as { id: number }).id];
      else if (/INSERT INTO document/.test(text)) document = (result.rows[0] as { id: number }).id;
      else if (/FOR UPDATE OF b/.test(text)) held = result.rows as typeof held;
    }
  } catch (error) {
    await client.query('ROLLBACK');
    throw error;
  } finally {
    client.release();
  }
}
