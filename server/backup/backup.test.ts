import { copyFileSync, existsSync, mkdtempSync, readFileSync, rmSync, truncateSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import pg from 'pg';
import { backUp, bringBack, figuresOf, readHead, type Head } from '#server/backup';
import { openDatabase, query } from '#server/kernel';
import { runAudit } from '#server/stock';
import { selectMovedSince } from '#server/counting';
import { readFacts } from '#server/hands';
import { openHouse, type TestHouse } from '../testing/house.ts';

const folder = mkdtempSync(path.join(tmpdir(), 'dock-row-backup-'));
const file = path.join(folder, 'house.backup');
const silent = (): void => undefined;
let house: TestHouse;
let head: Head;
let target: string;
const admin = async (sql: string): Promise<{ datname: string }[]> => {
  const client = new pg.Client({ connectionString: new URL('/postgres', house.ownerUrl).href });
  await client.connect();
  const { rows } = await client.query<{ datname: string }>(sql);
  await client.end();
  return rows;
};
const databases = async (like: string): Promise<string[]> =>
  (await admin(`SELECT datname FROM pg_database WHERE datname LIKE '${like}' ORDER BY 1`)).map((r) => r.datname);
const onto = (over = false): Promise<{ head: Head; kept: string | null }> => bringBack(target, file, { over, say: silent });

beforeAll(async () => {
  house = await openHouse({ jobs: false });
  target = new URL(`/${new URL(house.ownerUrl).pathname.slice(1)}_back`, house.ownerUrl).href;
});
afterAll(async () => {
  for (const name of await databases(`${new URL(target).pathname.slice(1)}%`)) await admin(`DROP DATABASE "${name}" WITH (FORCE)`);
  rmSync(folder, { recursive: true });
  await house.close();
});

describe('L6 a backup', () => {
  it('made while hands move goods holds one moment: its audit is clean, its figures are those of that moment', async () => {
    const hand = await house.signIn('Tobin Sallow');
    const stocked = await house.rows<{ address: string; code: string }>(
      `SELECT f.address, i.code
       FROM stock_fact f
       JOIN item i ON i.id = f.item_id
       WHERE f.site_id = 1 AND f.use = 'shelf' AND i.tracking = 'none' AND f.condition = 'sound' AND f.qty > 40
         AND NOT EXISTS (SELECT 1 FROM hold_line h WHERE h.bin_id = f.bin_id) ORDER BY f.balance_id LIMIT 6`,
    );
    let isOver = false;
    let moved = 0;
    const working = stocked.map(async ({ address, code }) => {
      for (let back = false; !isOver; back = !back) {
        const [from, to] = back ? ['QUARANTINE', address] : [address, 'QUARANTINE'];
        if ((await hand.ask('moves.move', { body: { from, to, code, qty: '1' } })).status === 200) moved += 1;
      }
    });
    const before = await figuresOf(house.owner);
    head = await backUp(house.ownerUrl, file, silent);
    isOver = true;
    await Promise.all(working);
    const after = await figuresOf(house.owner);
    expect(moved).toBeGreaterThan(20);
    // A moment between the two: something had happened, and something had not yet.
    expect(head.figures['movement']?.rows).toBeGreaterThanOrEqual(before['movement']?.rows ?? 0);
    expect(head.figures['movement']?.rows).toBeLessThan(after['movement']?.rows ?? 0);
    expect(head.audit.faults).toBe(0);
    expect(await databases('dock_row_check_%')).toEqual([]);
    expect(existsSync(`${file}.part`)).toBe(false);
  }, 120_000);

  it('comes back into an empty database with the same figures and a clean audit', async () => {
    const { kept } = await onto();
    expect(kept).toBeNull();
    const db = openDatabase(target, { poolSize: 1 });
    const { fact_floor, fact_change, outbox, ...figures } = await figuresOf(db);
    expect(head.figures).toEqual({ ...figures, fact_floor: expect.anything(), fact_change: expect.anything(), outbox: expect.anything() });
    expect([fact_floor?.rows, fact_change?.rows, outbox?.rows]).toEqual([1, 0, 0]);
    expect((await runAudit(db)).faults).toEqual([]);
    await db.destroy();
  }, 60_000);

  it('does not overwrite without being told; told, it keeps what was there', async () => {
    const mark = async (sql: string): Promise<unknown[]> => {
      const db = openDatabase(target, { poolSize: 1 });
      const rows = await query(db, sql);
      await db.destroy();
      return rows;
    };
    await mark(`INSERT INTO setting (name, value) VALUES ('only here', '1')`);
    await expect(onto()).rejects.toThrow('is not empty. Say --over');
    expect(await mark(`SELECT 1 FROM setting WHERE name = 'only here'`)).toHaveLength(1);
    const { kept } = await onto(true);
    expect(await mark(`SELECT 1 FROM setting WHERE name = 'only here'`)).toHaveLength(0);
    const db = openDatabase(new URL(`/${kept}`, target).href, { poolSize: 1 });
    expect(await query(db, `SELECT 1 FROM setting WHERE name = 'only here'`)).toHaveLength(1);
    await db.destroy();
  }, 60_000);

  it('does not come back under a server that works', async () => {
    const server = openDatabase(target, { poolSize: 1 });
    await query(server, `SELECT 1`);
    await expect(onto(true)).rejects.toThrow('Stop it first.');
    await server.destroy();
  });

  it('that is damaged, cut off, of another kind, or of a newer program changes nothing and leaves nothing behind', async () => {
    const broken = path.join(folder, 'broken.backup');
    const tried = (over = true): Promise<unknown> => bringBack(target, broken, { over, say: silent });
    const bytes = readFileSync(file);
    // Those of other tests come and go meanwhile.
    const left = async (): Promise<string[]> =>
      (await databases('%')).filter((name) => name.startsWith(new URL(house.ownerUrl).pathname.slice(1)) || !name.startsWith('test_'));
    const before = await left();
    copyFileSync(file, broken);
    truncateSync(broken, bytes.length - 5000);
    await expect(tried()).rejects.toThrow(/broke off|damaged/);
    // One bit in the middle.
    const flipped = Buffer.from(bytes);
    flipped[Math.floor(bytes.length * 0.7)] = (flipped[Math.floor(bytes.length * 0.7)] ?? 0) ^ 1;
    writeFileSync(broken, flipped);
    await expect(tried()).rejects.toThrow(/broke off|damaged|not what was kept/);
    writeFileSync(broken, 'PK and so on');
    await expect(tried()).rejects.toThrow('is no backup of Dock Row');
    const newer = Buffer.from(bytes);
    newer.write(bytes.toString('latin1', 0, 4000).replace(head.migration, '9'.repeat(head.migration.length)), 0, 'latin1');
    writeFileSync(broken, newer);
    await expect(tried()).rejects.toThrow('was made by a newer Dock Row');
    await expect(bringBack(target, path.join(folder, 'nowhere'), { over: true, say: silent })).rejects.toThrow('there is no file');
    expect(await left()).toEqual(before);
    expect((await readHead(file)).sha256).toBe(head.sha256);
  }, 60_000);

  it('that lies about its figures is found out', async () => {
    const lie = path.join(folder, 'lie.backup');
    const bytes = readFileSync(file);
    const text = bytes.toString('latin1', 0, 60_000);
    const rows = head.figures['movement']?.rows ?? 0;
    bytes.write(text.replace(`"movement":{"rows":${rows}`, `"movement":{"rows":${rows - 1}`), 0, 'latin1');
    writeFileSync(lie, bytes);
    await expect(bringBack(target, lie, { over: true, say: silent })).rejects.toThrow('is not what was kept, in movement');
  }, 60_000);

  it('is not made over another that is being made', async () => {
    writeFileSync(`${file}.part`, '');
    await expect(backUp(house.ownerUrl, file, silent)).rejects.toThrow('is there already');
    expect(existsSync(`${file}.part`)).toBe(true);
  });

  it(
    'begins another era where it comes back: an open count and a device know what is new there, whatever the transactions are ' +
      'numbered',
    async () => {
      const lead = await house.signIn('Maren Oake');
      const [there] = await house.rows<{ address: string; code: string; zone: number }>(
        `SELECT f.address, i.code, bin.zone_id AS zone FROM stock_fact f JOIN item i ON i.id = f.item_id JOIN bin ON bin.id = f.bin_id
       WHERE f.site_id = 1 AND f.use = 'shelf' AND i.tracking = 'none' AND f.condition = 'sound' AND f.qty > 40
         AND NOT EXISTS (SELECT 1 FROM hold_line h WHERE h.bin_id = f.bin_id) ORDER BY f.balance_id LIMIT 1`,
      );
      const { address = '', code = '', zone = 0 } = there ?? {};
      const move = (from: string, to: string) => lead.ask('moves.move', { body: { from, to, code, qty: '1' } });
      expect((await move(address, 'QUARANTINE')).status).toBe(200);
      const { id } = (await lead.ask('counting.make', { body: { zone, blind: true } })).reply;
      expect((await move('QUARANTINE', address)).status).toBe(200);
      expect(await selectMovedSince(house.db, id)).toHaveLength(1);
      // As a server writes it that has done a thousand million transactions more than the one where it comes back.
      const later = (n: string): string => String(BigInt(n) + 1_000_000_000n);
      const [count] = await house.rows<{ began: string }>(`SELECT began::text FROM stock_count WHERE id = ?`, [id]);
      await house.owner.transaction(async (trx) => {
        await query(trx, `SET LOCAL session_replication_role = replica`);
        await query(trx, `UPDATE movement SET xid = (xid::text::bigint + ?)::text::xid8`, [1_000_000_000]);
        await query(trx, `UPDATE stock_count SET began = ?::text::pg_snapshot WHERE id = ?`, [count?.began.replace(/\d+/g, later), id]);
      });
      expect(await selectMovedSince(house.db, id)).toHaveLength(1);
      const asked = { site: 1, kind: undefined, after: 0 };
      const { revision } = await readFacts(house.db, { ...asked, since: undefined });

      const own = path.join(folder, 'era.backup');
      await backUp(house.ownerUrl, own, silent);
      await bringBack(target, own, { over: true, say: silent });
      const db = openDatabase(target, { poolSize: 2 });
      expect(await selectMovedSince(db, id)).toHaveLength(1);
      await query(
        db,
        `INSERT INTO movement (document_id, person_id, reason, item_id, qty, from_bin, from_condition, to_bin, to_condition)
       SELECT document_id, person_id, reason, item_id, qty, to_bin, to_condition, from_bin, from_condition
       FROM movement
       ORDER BY id DESC
       LIMIT ?`,
        [1],
      );
      expect(await selectMovedSince(db, id)).toHaveLength(2);
      expect((await readFacts(db, { ...asked, since: revision })).reset).toBe(true);
      // What was told before there were eras is of none.
      expect((await readFacts(db, { ...asked, since: revision.split('-')[1] })).reset).toBe(true);
      const fresh = await readFacts(db, { ...asked, since: undefined });
      expect((await readFacts(db, { ...asked, since: fresh.revision })).reset).toBe(false);
      await db.destroy();
    },
    120_000,
  );
});
