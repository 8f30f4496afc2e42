import { beforeAll, describe, expect, it } from '@jest/globals';
import { ONE, qty, type BinId, type DocumentId, type ItemId, type PersonId, type SerialId } from '#core/base';
import { OUTSIDE, type Movement } from '#core/stock';
import { makeDocument, Refusal, runInternal, type Trx } from '#server/kernel';
import { houseForTests } from '../testing/house.ts';
import { post, runAudit } from './index.ts';

const { house } = houseForTests({});
let item: ItemId;
let bins: BinId[];
let person: PersonId;
beforeAll(async () => {
  const [made] = await house.rows<{ id: ItemId }>(`INSERT INTO item (code, description) VALUES ('TEST-1', 'Test jar') RETURNING id`);
  item = made?.id as ItemId;
  bins = (await house.rows<{ id: BinId }>(`SELECT id FROM bin WHERE site_id = 1 AND use = 'shelf' ORDER BY id LIMIT 6`)).map((b) => b.id);
  person = 1 as PersonId;
});

const sound = (bin: BinId) => ({ bin, unit: null, condition: 'sound' as const });
const move = (from: BinId, to: BinId, amount: number, more: Partial<Movement> = {}): Movement => ({
  item,
  lot: null,
  serial: null,
  qty: qty(amount * 1000),
  from: sound(from),
  to: sound(to),
  reason: 'test',
  ...more,
});
const postAll = (movements: readonly Movement[]): Promise<unknown> =>
  runInternal(house.db, async (trx: Trx) => {
    const document = await makeDocument(trx, 'move', { site: 1, person });
    await post(trx, { document: document.id as DocumentId, person, movements });
  });
const held = async (bin: BinId | undefined): Promise<number> =>
  Number(
    (await house.rows<{ n: string }>(`SELECT coalesce(sum(qty), 0) AS n FROM balance WHERE item_id = ? AND bin_id = ?`, [item, bin]))[0]?.n,
  );
const [a, b, c] = [0, 1, 2];
const bin = (n: number): BinId => bins[n] as BinId;

describe('the ledger', () => {
  it('K2 refuses to be changed, deleted from or emptied, by the database itself', async () => {
    await expect(house.rows(`UPDATE movement SET qty = 1 WHERE id = 1`)).rejects.toThrow('append-only');
    await expect(house.rows(`DELETE FROM movement WHERE id = 1`)).rejects.toThrow('append-only');
    await expect(house.rows(`TRUNCATE movement CASCADE`)).rejects.toThrow('append-only');
  });
  it('the database refuses a balance under zero and a serial in two places, whatever the program does', async () => {
    await expect(house.rows(`UPDATE balance SET qty = -1 WHERE id = (SELECT min(id) FROM balance)`)).rejects.toThrow(
      'balance_not_negative',
    );
    await expect(
      house.rows(
        `INSERT INTO balance (bin_id, item_id, serial_id, condition, qty)
         SELECT ?, item_id, serial_id, 'sound', 1
         FROM balance
         WHERE serial_id IS NOT NULL AND bin_id <> ?
         LIMIT 1`,
        [bin(a), bin(a)],
      ),
    ).rejects.toThrow('balance_serial_in_one_place');
  });
  it('an empty bin leaves no row behind, and the audit stays clean', async () => {
    await postAll([move(OUTSIDE.opening, bin(a), 10)]);
    await postAll([move(bin(a), bin(b), 10)]);
    expect([await held(bins[a]), await held(bins[b])]).toEqual([0, 10]);
    expect(await house.rows(`SELECT 1 FROM balance WHERE item_id = ? AND bin_id = ?`, [item, bins[a]])).toEqual([]);
    await house.expectCleanAudit();
  });
});

describe('stock.post', () => {
  it('says which line, which bin and what there is, and moves nothing of the other lines', async () => {
    const refused = await postAll([move(bin(b), bin(c), 4), move(bin(a), bin(c), 1)]).then(
      () => null,
      (e: unknown) => e as Refusal,
    );
    expect(refused).toBeInstanceOf(Refusal);
    expect(refused?.error).toMatchObject({ code: 'stock.binShort', line: 1, item: 'TEST-1', asked: '1', there: '0' });
    expect(await held(bins[b])).toBe(10);
  });
  it('20 at once take the last 10: ten get one each, ten are told that the bin is empty', async () => {
    const results = await Promise.allSettled(Array.from({ length: 20 }, () => postAll([move(bin(b), bin(c), 1)])));
    expect(results.filter((r) => r.status === 'fulfilled')).toHaveLength(10);
    for (const r of results)
      if (r.status === 'rejected') expect((r.reason as Refusal).error).toMatchObject({ code: 'stock.binShort', there: '0' });
    expect([await held(bins[b]), await held(bins[c])]).toEqual([0, 10]);
  });
  it('opposite moves at once neither deadlock nor lose a piece', async () => {
    await postAll([move(OUTSIDE.opening, bin(a), 50), move(OUTSIDE.opening, bin(b), 50)]);
    await Promise.all(
      Array.from({ length: 40 }, (_, n) =>
        postAll(n % 2 ? [move(bin(a), bin(b), 1), move(bin(b), bin(c), 1)] : [move(bin(c), bin(a), 1), move(bin(b), bin(a), 1)]),
      ),
    );
    expect((await held(bins[a])) + (await held(bins[b])) + (await held(bins[c]))).toBe(110);
    await house.expectCleanAudit();
  });
  it('C9 a serial that is in stock cannot come in again, and its bin is named', async () => {
    const [there] = await house.rows<{ item: ItemId; serial: SerialId; code: string; address: string }>(
      `SELECT b.item_id AS item, b.serial_id AS serial, s.code, bin.address
       FROM balance b
       JOIN serial s ON s.id = b.serial_id
       JOIN bin ON bin.id = b.bin_id
       WHERE bin.use = 'shelf'
       LIMIT 1`,
    );
    const refused = await postAll([
      move(OUTSIDE.suppliers, bin(a), 1, { item: there?.item as ItemId, serial: there?.serial as SerialId, qty: ONE }),
    ]).then(
      () => null,
      (e: unknown) => e as Refusal,
    );
    expect(refused?.error).toMatchObject({ code: 'stock.serialElsewhere', serial: there?.code, bin: there?.address });
  });
  it('promises give way in the same transaction when their stock is lost, the least urgent first', async () => {
    const [made] = await house.rows<{ id: ItemId }>(`INSERT INTO item (code, description) VALUES ('TEST-2', 'Promised jar') RETURNING id`);
    const jar = made?.id as ItemId;
    await postAll([move(OUTSIDE.opening, bin(a), 10, { item: jar })]);
    const lines: number[] = [];
    for (const due of ['2027-01-01', '2027-02-01']) {
      const [line] = await house.rows<{ id: number }>(
        `WITH o AS (INSERT INTO customer_order (number, site_id, customer_id, due) VALUES ('T-' || ?, 1, 1, ?) RETURNING id),
           l AS (INSERT INTO order_line (order_id, item_id, qty) SELECT id, ?, 5 FROM o RETURNING id)
         INSERT INTO promise (line_id, site_id, item_id, qty)
         SELECT id, 1, ?, 5
         FROM l
         RETURNING line_id AS id`,
        [due, due, jar, jar],
      );
      lines.push(line?.id ?? 0);
    }
    await postAll([move(bin(a), OUTSIDE.adjustments, 7, { item: jar })]);
    expect(await house.rows(`SELECT line_id, qty FROM promise WHERE item_id = ? ORDER BY 1`, [jar])).toEqual([
      { line_id: lines[0], qty: '3.000' },
    ]);
    await house.expectCleanAudit();
  });
  it('the audit finds what is wrong, and names it', async () => {
    await house.rows(`UPDATE balance SET qty = qty + 1 WHERE item_id = ? AND bin_id = ?`, [item, bins[a]]);
    expect((await runAudit(house.db)).faults).toMatchObject([
      { check: 'balances equal the ledger', detail: expect.stringMatching(/^item \d+ in bin \d+: balance/) },
    ]);
    await house.rows(`UPDATE balance SET qty = qty - 1 WHERE item_id = ? AND bin_id = ?`, [item, bins[a]]);
    await house.expectCleanAudit();
  });
});
