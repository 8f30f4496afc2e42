import { copyFileSync, existsSync, mkdtempSync, readFileSync, rmSync, truncateSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import pg from 'pg';
import { backUp, bringBack, figuresOf, readHead, type Head } from '#server/backup';
import { openDatabase, query } from '#server/kernel';
import { runAudit } from '#server/stock';
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
      `SELECT f.address, i.code FROM stock_fact f JOIN item i ON i.id = f.item_id WHERE f.site_id = 1 AND f.use = 'shelf' AND i.tracking = 'none' AND f.condition = 'sound' AND f.qty > 40
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
    expect(await figuresOf(db)).toEqual(head.figures);
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
    const before = await databases('%');
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
    expect(await databases('%')).toEqual(before);
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
});
