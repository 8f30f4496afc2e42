import { describe, expect, it } from '@jest/globals';
import { hasValidCheckDigit } from '#core/items';
import { ZONE_PURPOSES } from '#core/places';
import { query, type Db } from '#server/kernel';
import { loadDemo } from '#demo';
import { emptyDatabase } from '../server/testing/global-setup.ts';
import { houseForTests } from '../server/testing/house.ts';

const { house } = houseForTests({});
const count = async (sql: string): Promise<number> => (await house.rows<{ n: number }>(`SELECT count(*) AS n FROM ${sql}`))[0]?.n ?? 0;

describe('the demo company', () => {
  it('has 3 sites with zones of every purpose and about 600 bins', async () => {
    expect(await count('site')).toBe(3);
    expect((await house.rows<{ purpose: string }>(`SELECT DISTINCT purpose FROM zone ORDER BY 1`)).map((z) => z.purpose)).toEqual(
      [...ZONE_PURPOSES].sort(),
    );
    expect(await count('bin WHERE id >= 100')).toBeGreaterThan(540);
  });
  it('has about 400 items of every tracking kind, each barcode with a valid check digit', async () => {
    expect(await count('item')).toBeGreaterThan(360);
    expect(await count('(SELECT DISTINCT tracking FROM item) t')).toBe(5);
    const codes = await house.rows<{ code: string }>(`SELECT code FROM barcode`);
    expect(codes.filter((c) => !hasValidCheckDigit(c.code))).toEqual([]);
  });
  it('has ninety days behind it, and a ledger that is true', async () => {
    expect(await count(`(SELECT DISTINCT at::date FROM movement) d`)).toBeGreaterThan(80);
    await house.expectCleanAudit();
  });
  it(
    'has a day before it: expected and partly received orders, goods at arrivals, short and held orders, lots about to expire and ' +
      'one expired',
    async () => {
      expect(await count(`purchase_order WHERE state = 'open'`)).toBeGreaterThan(9);
      expect(await count(`purchase_line WHERE received > 0 AND received < qty`)).toBe(1);
      expect(await count(`stock_fact WHERE use = 'arrivals' AND qty > 0`)).toBeGreaterThan(4);
      expect(await count(`customer_order WHERE state = 'open'`)).toBe(40);
      expect(await count(`customer_order WHERE held_for IS NOT NULL`)).toBe(1);
      expect(
        await count(
          `order_line l LEFT JOIN promise p ON p.line_id = l.id JOIN customer_order o ON o.id = l.order_id WHERE o.state = 'open'
          AND l.qty > coalesce(p.qty, 0)`,
        ),
      ).toBeGreaterThan(5);
      expect(await count(`(SELECT DISTINCT lot FROM stock_fact WHERE expired AND qty > 0) x`)).toBe(1);
      expect(
        await count(`(SELECT DISTINCT lot FROM stock_fact WHERE NOT expired AND expires < current_date + 11 AND qty > 0) x`),
      ).toBeGreaterThan(2);
    },
  );
  it(
    'has places and goods in full: room in bins, one bin over-full, kits, price lists, own fields, wrong shelf labels, holds, ' +
      'unplaced stock',
    async () => {
      expect(await count(`bin_fact WHERE fill > 1`)).toBeGreaterThan(0);
      expect(await count(`(SELECT DISTINCT kit_id FROM kit_part) k`)).toBeGreaterThan(3);
      expect(await count(`price_row WHERE item_id IS NULL`)).toBe(320);
      expect(await count(`own_field`)).toBe(2);
      expect(await count(`hold WHERE released_at IS NULL`)).toBe(2);
      expect(await count(`stock_fact WHERE use = 'unplaced' AND qty > 0`)).toBe(9);
    },
  );
  it('names nobody’s goods: every barcode lies in the range that is kept for examples', async () => {
    expect(await count(`barcode WHERE gtin NOT LIKE '0952%' AND gtin NOT LIKE '1952%'`)).toBe(0);
    expect(await count(`price_row WHERE gtin NOT LIKE '0952%' AND gtin NOT LIKE '1952%'`)).toBe(0);
  });
  it('writes its ledger in the order of time', async () => {
    expect(await count(`(SELECT at, lag(at) OVER (ORDER BY id) AS before FROM movement) m WHERE at < before`)).toBe(0);
  });
  it('is the same company whatever day it is loaded on, if the moment is the same', async () => {
    const base = process.env['TEST_DATABASE_URL'] ?? '';
    const moment = new Date('2026-03-10T13:37:00Z');
    const dumps: string[][] = [];
    for (const name of ['demo_one', 'demo_two']) {
      const db = await emptyDatabase(base, name);
      await loadDemo(db, moment);
      dumps.push(await digest(db, moment));
      await db.destroy();
    }
    expect(dumps[0]).toEqual(dumps[1]);
  }, 180_000);
});

/** A line for each table: what is in it, but for what is random by design; and every moment in it that is later than the one it was loaded
 *  at, which can only be the clock of the day on which it was loaded. */
async function digest(db: Db, moment: Date): Promise<string[]> {
  const columns = await query<{ t: string; c: string; type: string }>(
    db,
    `SELECT c.table_name AS t, quote_ident(c.column_name) AS c, c.data_type AS type
     FROM information_schema.columns c
     JOIN pg_tables p ON p.tablename = c.table_name
     WHERE c.table_schema = 'public' AND p.schemaname = 'public'
       AND c.table_name NOT IN ('outbox', 'migration', 'migration_lock', 'fact_change', 'fact_floor')
       AND c.column_name NOT IN ('xid', 'began', 'key', 'password_hash', 'pin_hash') ORDER BY c.table_name, c.ordinal_position`,
  );
  const lines: string[] = [];
  for (const table of new Set(columns.map((c) => c.t))) {
    const own = columns.filter((c) => c.t === table);
    const [row] = await query<{ h: string }>(
      db,
      `SELECT md5(coalesce(string_agg(r::text, '|' ORDER BY r::text), '')) AS h
       FROM (SELECT ${own.map((c) => c.c).join(', ')} FROM ${table}) r`,
    );
    lines.push(`${table} ${row?.h ?? ''}`);
    for (const { c } of own.filter((x) => x.type === 'timestamp with time zone')) {
      const [late] = await query<{ n: number }>(db, `SELECT count(*) AS n FROM ${table} WHERE ${c} > ?`, [moment]);
      if (late && late.n > 0) lines.push(`${table}.${c}: ${late.n} are later`);
    }
  }
  expect(lines.filter((l) => l.endsWith('later'))).toEqual([]);
  return lines;
}
