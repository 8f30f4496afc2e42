import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { hasValidCheckDigit } from '#core/items';
import { ZONE_PURPOSES } from '#core/places';
import { openHouse, type TestHouse } from '../server/testing/house.ts';

let house: TestHouse;
beforeAll(async () => {
  house = await openHouse();
});
afterAll(() => house.close());
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
  it('has a day before it: expected and partly received orders, goods at arrivals, short and held orders, lots about to expire and one expired', async () => {
    expect(await count(`purchase_order WHERE state = 'open'`)).toBeGreaterThan(9);
    expect(await count(`purchase_line WHERE received > 0 AND received < qty`)).toBe(1);
    expect(await count(`stock_fact WHERE use = 'arrivals' AND qty > 0`)).toBeGreaterThan(4);
    expect(await count(`customer_order WHERE state = 'open'`)).toBe(40);
    expect(await count(`customer_order WHERE held_for IS NOT NULL`)).toBe(1);
    expect(
      await count(
        `order_line l LEFT JOIN promise p ON p.line_id = l.id JOIN customer_order o ON o.id = l.order_id WHERE o.state = 'open' AND l.qty > coalesce(p.qty, 0)`,
      ),
    ).toBeGreaterThan(5);
    expect(await count(`(SELECT DISTINCT lot FROM stock_fact WHERE expired AND qty > 0) x`)).toBe(1);
    expect(
      await count(`(SELECT DISTINCT lot FROM stock_fact WHERE NOT expired AND expires < current_date + 11 AND qty > 0) x`),
    ).toBeGreaterThan(2);
  });
  it('has places and goods in full: room in bins, one bin over-full, kits, price lists, own fields, wrong shelf labels, holds, unplaced stock', async () => {
    expect(await count(`bin_fact WHERE fill > 1`)).toBeGreaterThan(0);
    expect(await count(`(SELECT DISTINCT kit_id FROM kit_part) k`)).toBeGreaterThan(3);
    expect(await count(`price_row WHERE item_id IS NULL`)).toBe(320);
    expect(await count(`own_field`)).toBe(2);
    expect(await count(`hold WHERE released_at IS NULL`)).toBe(2);
    expect(await count(`stock_fact WHERE use = 'unplaced' AND qty > 0`)).toBe(9);
  });
});
