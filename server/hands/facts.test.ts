import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import pg from 'pg';
import { FACT_KINDS, type FactKind, type FactPart } from '#contract/hands';
import { houseForTests } from '../testing/house.ts';
import { readFacts } from './facts.ts';

const { house, lead } = houseForTests({ lead: 'Maren Oake' }, { jobs: false });

type Kept = Map<FactKind, Map<number, unknown[]>>;
function keep(kept: Kept, parts: readonly FactPart[]): number {
  let rows = 0;
  for (const part of parts) {
    const table = kept.get(part.kind) ?? new Map<number, unknown[]>();
    kept.set(part.kind, table);
    for (const row of part.rows) table.set(row[0] as number, row);
    for (const id of part.gone) table.delete(id);
    rows += part.rows.length + part.gone.length;
  }
  return rows;
}
async function everything(site = 1): Promise<{ kept: Kept; revision: string }> {
  const kept: Kept = new Map();
  let next: { kind: FactKind; after: number } | null = { kind: FACT_KINDS[0], after: 0 };
  let revision = '';
  while (next) {
    const page: Awaited<ReturnType<typeof readFacts>> = await readFacts(house.db, {
      site,
      since: undefined,
      kind: next.kind,
      after: next.after,
    });
    revision ||= page.revision;
    keep(kept, page.parts);
    next = page.next;
  }
  return { kept, revision };
}
async function follow(kept: Kept, since: string): Promise<{ revision: string; rows: number }> {
  const delta = await readFacts(house.db, { site: 1, since, kind: undefined, after: 0 });
  expect(delta.reset).toBe(false);
  return { revision: delta.revision, rows: keep(kept, delta.parts) };
}
const plain = (kept: Kept): object => Object.fromEntries(FACT_KINDS.map((k) => [k, [...(kept.get(k) ?? [])].sort((a, b) => a[0] - b[0])]));

describe('what a device takes along', () => {
  it('C18 a move reaches it as a few rows, and it knows then what a new device knows', async () => {
    const { kept, revision } = await everything();
    expect(kept.get('item')?.size).toBeGreaterThan(300);
    const [g] = await house.rows<{ address: string; code: string }>(
      `SELECT f.address, i.code
       FROM stock_fact f
       JOIN item i ON i.id = f.item_id
       WHERE f.site_id = 1 AND f.use = 'shelf' AND i.tracking = 'none' AND f.qty > 3
       LIMIT 1`,
    );
    await lead.ask('moves.move', { body: { from: g?.address ?? '', to: 'QUARANTINE', code: g?.code ?? '', qty: '1' } });
    const { rows } = await follow(kept, revision);
    expect(rows).toBeLessThanOrEqual(4);
    expect(plain(kept)).toEqual(plain((await everything()).kept));
  });
  it('quantities come as thousandths of the base unit, whatever they are reckoned from', async () => {
    const { kept } = await everything();
    const sum = (kind: FactKind, of: (row: unknown[]) => number): number =>
      [...(kept.get(kind)?.values() ?? [])].reduce((s, r) => s + of(r), 0);
    const inRow = (rows: unknown, column: number): number => (rows as number[][]).reduce((s, r) => s + Number(r[column]), 0);
    const total = async (sql: string): Promise<number> =>
      (await house.rows<{ n: number }>(`SELECT coalesce(sum(n), 0)::float * 1000 AS n FROM (${sql}) x WHERE 1 = ?`, [1]))[0]?.n ?? -1;
    expect(sum('balance', (r) => Number(r[7]))).toBe(await total(`SELECT qty AS n FROM stock_fact WHERE site_id = 1`));
    expect(sum('purchaseOrder', (r) => inRow(r[4], 1))).toBe(
      await total(
        `SELECT l.qty - l.received AS n
         FROM purchase_order o
         JOIN purchase_line l ON l.purchase_order_id = o.id
         WHERE o.site_id = 1 AND o.state = 'open' AND NOT l.closed AND l.received < l.qty`,
      ),
    );
    expect(sum('order', (r) => inRow(r[5], 1))).toBe(
      await total(
        `SELECT l.qty - l.shipped AS n
         FROM customer_order o
         JOIN order_line l ON l.order_id = o.id
         WHERE o.site_id = 1 AND o.state = 'open'
           AND EXISTS (SELECT 1 FROM in_hand h JOIN order_line w ON w.id = h.line_id WHERE w.order_id = o.id)`,
      ),
    );
    expect(sum('round', (r) => inRow(r[7], 7))).toBe(
      await total(`SELECT k.qty AS n FROM round r JOIN round_pick k ON k.round_id = r.id WHERE r.site_id = 1 AND r.state = 'open'`),
    );
    expect(sum('entry', (r) => Number(r[4]))).toBeGreaterThan(0);
  });
  it('L4 costs and prices are in no row', async () => {
    const { kept } = await everything();
    const [item] = await house.rows<{ id: number }>(`SELECT item_id AS id FROM item_amount LIMIT 1`);
    await house.rows(`UPDATE item_amount SET amount = 98765.4321 WHERE item_id = ? AND 1 = ?`, [item?.id, 1]);
    await house.rows(`UPDATE item_supplier SET cost = 98765.4321 WHERE 1 = ?`, [1]);
    await house.rows(`UPDATE purchase_line SET cost = 98765.4321 WHERE 1 = ?`, [1]);
    expect(JSON.stringify(plain(kept))).not.toContain('98765');
    expect(JSON.stringify(plain((await everything()).kept))).not.toContain('98765');
  });
  it('what is retired, renamed or ended goes from the device; what is opened again comes back with all that hangs on it', async () => {
    const { kept, revision } = await everything();
    const [bin] = await house.rows<{ id: number }>(
      `SELECT id
       FROM bin
       WHERE site_id = 1 AND use = 'shelf' AND id NOT IN (SELECT bin_id FROM balance) AND id NOT IN (SELECT bin_id FROM home_bin)
       LIMIT 1`,
    );
    const [delivery] = await house.rows<{ id: number }>(
      `SELECT d.id
       FROM delivery d
       JOIN delivery_entry e ON e.delivery_id = d.id
       WHERE d.site_id = 1 AND d.state IN ('scanning', 'review') AND e.taken_out_at IS NULL
       LIMIT 1`,
    );
    await house.rows(`UPDATE bin SET retired_at = now() WHERE id = ? AND 1 = ?`, [bin?.id, 1]);
    await lead.ask('receiving.throwAway', { params: { id: delivery?.id ?? 0 } });
    const first = await follow(kept, revision);
    expect(kept.get('bin')?.has(bin?.id ?? 0)).toBe(false);
    expect(kept.get('delivery')?.has(delivery?.id ?? 0)).toBe(false);
    await lead.ask('receiving.takeUp', { params: { id: delivery?.id ?? 0 } });
    await follow(kept, first.revision);
    const entries = [...(kept.get('entry')?.values() ?? [])].filter((e) => e[1] === delivery?.id);
    expect(entries.length).toBeGreaterThan(0);
    expect(plain(kept)).toEqual(plain((await everything()).kept));
  });
  it('C17 who waits for goods that are to come is told when an order is entered, promised, cancelled', async () => {
    const { kept, revision } = await everything();
    const [line] = await house.rows<{ order: number; item: number }>(
      `SELECT purchase_order_id AS "order", item_id AS item FROM expected_line WHERE site_id = 1 ORDER BY id LIMIT 1`,
    );
    const waiting = (): number => {
      const row = kept.get('purchaseOrder')?.get(line?.order ?? 0);
      return Number((row?.[4] as number[][]).find((l) => l[0] === line?.item)?.[2]);
    };
    const before = waiting();
    const order = (
      await lead.ask('orders.make', { body: { customer: 1, due: '2030-01-01', lines: [{ item: line?.item ?? 0, qty: '9999' }] } })
    ).reply;
    const entered = await follow(kept, revision);
    expect(waiting()).toBe(before + 1);
    await lead.ask('picking.cancelOrder', { params: { id: order.id }, body: { reason: 'Entered twice' } });
    await follow(kept, entered.revision);
    expect(waiting()).toBe(before);
    expect(plain(kept)).toEqual(plain((await everything()).kept));
  });
  it('a device that was away too long begins anew', async () => {
    const isReset = async (since: string): Promise<boolean> =>
      (await readFacts(house.db, { site: 1, since, kind: undefined, after: 0 })).reset;
    const { revision } = await everything();
    expect(await isReset(revision)).toBe(false);
    const floor = String(BigInt(revision.split('-')[1] ?? '') + 1n);
    await house.rows(`UPDATE fact_floor SET changed = ?::text::xid8`, [floor]);
    expect(await isReset(revision)).toBe(true);
  });
  it('who has begun anew stays, whatever is under way in another database of the same server since before the house', async () => {
    const other = new pg.Client({ connectionString: new URL('/postgres', house.ownerUrl).href });
    await other.connect();
    try {
      await other.query(`BEGIN`);
      await other.query(`SELECT pg_current_xact_id()`);
      await house.rows(`UPDATE fact_floor SET changed = pg_current_xact_id() WHERE 1 = ?`, [1]);
      const { kept, revision } = await everything();
      await house.rows(`UPDATE lot SET expires = '2031-03-03' WHERE id = (SELECT min(id) FROM lot WHERE 1 = ?)`, [1]);
      await follow(kept, revision);
      expect(kept.get('lot')).toEqual((await everything()).kept.get('lot'));
    } finally {
      await other.end();
    }
  });
  it('nothing is missed, whatever is under way while a device reads and in whatever order it is committed', async () => {
    const shelves = await house.rows<{ id: number }>(`SELECT id FROM lot ORDER BY id LIMIT 4`);
    // Each transaction writes one fact at its first moment and ends at its last; the device reads in between.
    const transactions = fc.array(fc.record({ lot: fc.nat(3), begins: fc.nat(5), lasts: fc.integer({ min: 1, max: 5 }) }), {
      minLength: 1,
      maxLength: 6,
    });
    const { kept, revision } = await everything();
    let since = revision;
    const lots = async (): Promise<unknown[][]> =>
      (await readFacts(house.db, { site: 1, since: undefined, kind: 'lot', after: 0 })).parts[0]?.rows ?? [];
    const inOrder = (rows: Iterable<unknown[]>): unknown[][] => [...rows].sort((a, b) => (a[0] as number) - (b[0] as number));
    await fc.assert(
      fc.asyncProperty(transactions, fc.array(fc.nat(10), { minLength: 1, maxLength: 4 }), async (plan, reads) => {
        const open = new Map<number, { end: () => void; done: Promise<void> }>();
        // Whatever fails, none stays open: the next run would wait for it, and say only that.
        try {
          for (let moment = 0; moment <= 11; moment += 1) {
            for (const [n, t] of plan.entries()) {
              if (t.begins === moment && ![...open.keys()].some((k) => plan[k]?.lot === t.lot)) {
                let end: () => void = () => undefined;
                const ends = new Promise<void>((resolve) => {
                  end = resolve;
                });
                let begun: () => void = () => undefined;
                const begins = new Promise<void>((resolve) => {
                  begun = resolve;
                });
                const done = house.db.transaction(async (trx) => {
                  await trx.raw(`UPDATE lot SET made = coalesce(made, DATE '2026-01-01') + 1 WHERE id = ?`, [shelves[t.lot]?.id ?? 0]);
                  await trx.raw(`UPDATE lot SET expires = coalesce(expires, DATE '2029-01-01') + 1 WHERE id = ?`, [
                    shelves[t.lot]?.id ?? 0,
                  ]);
                  begun();
                  await ends;
                });
                open.set(n, { end, done });
                // One that cannot begin says why, rather than be waited for.
                await Promise.race([begins, done]);
              }
              if (t.begins + t.lasts === moment && open.has(n)) {
                open.get(n)?.end();
                await open.get(n)?.done;
                open.delete(n);
              }
            }
            if (reads.includes(moment)) since = (await follow(kept, since)).revision;
          }
        } finally {
          for (const { end, done } of open.values()) {
            end();
            await done;
          }
        }
        since = (await follow(kept, since)).revision;
        expect(inOrder(kept.get('lot')?.values() ?? [])).toEqual(inOrder(await lots()));
      }),
      { numRuns: 25 },
    );
  }, 60_000);
});
