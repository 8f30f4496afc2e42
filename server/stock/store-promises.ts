import type { BinId, ItemId, LineId, LotId, Qty, SerialId, SiteId } from '#core/base';
import { FreeGoods, poolOf, type Asking, type HeldPromise, type Lying, type Pool, type StandingPromise } from '#core/stock';
import { asQty, dbQty, query, queryOne, type Db, type Trx } from '#server/kernel';

type Pair = { readonly item: number; readonly site: number };
export type UsableAndPromised = {
  readonly item: ItemId;
  readonly site: SiteId;
  readonly usable: Qty;
  readonly promised: Qty;
  /** Somebody was promised goods of a certain kind: a sum does not say whether there is enough. */
  readonly isAsked: boolean;
};

/** Usable stock (sound, unexpired, where it may be promised) and what is promised of it, per pair. */
export async function selectUsableAndPromised(trx: Trx, pairs: readonly Pair[]): Promise<UsableAndPromised[]> {
  const rows = await query<{ item: ItemId; site: SiteId; usable: string; promised: string; asked: boolean }>(
    trx,
    `SELECT p.item, p.site,
       (
         SELECT coalesce(sum(f.qty), 0)
         FROM stock_fact f
         WHERE f.item_id = p.item AND f.site_id = p.site AND f.usable
       ) AS usable,
       (SELECT coalesce(sum(r.qty), 0) FROM promise r WHERE r.item_id = p.item AND r.site_id = p.site) AS promised,
       EXISTS (
         SELECT 1
         FROM promise r
         JOIN line_asking a ON a.line_id = r.line_id AND a.asks
         WHERE r.item_id = p.item AND r.site_id = p.site
       ) AS asked
     FROM unnest(?::int[], ?::int[]) AS p(item, site)`,
    [pairs.map((p) => p.item), pairs.map((p) => p.site)],
  );
  return rows.map((r) => ({ item: r.item, site: r.site, usable: asQty(r.usable), promised: asQty(r.promised), isAsked: r.asked }));
}

type AskingRow = { lot: LotId | null; serials: SerialId[] | null; bin: BinId | null; good_on: string | null };

/** What of a line asks, as `line_asking` says it under the name `a`. */
export const ASKING = `a.lot_id AS lot, a.serial_ids AS serials, a.bin_id AS bin, a.good_on`;
export const askingOf = (row: AskingRow): Asking => ({ lot: row.lot, serials: row.serials, bin: row.bin, goodOn: row.good_on });

type OfPool = { readonly item: ItemId; readonly site: SiteId };
type LyingRow = OfPool & Omit<Lying, 'qty'> & { qty: string };
type StandingRow = OfPool & AskingRow & { line: LineId; qty: string; planned: { bin: BinId; lot: LotId | null; qty: string }[] };

/** What of these items is usable at these sites and in nobody's hands; and their promises, most urgent first: what of each is in nobody's
 *  hands yet, what its line asks, and where open rounds are on their way for it. By pool, as of one moment.
 *  Locks:  nothing; who decides by it holds the items' locks. */
export async function readPools(
  db: Pick<Db, 'raw'>,
  pairs: readonly Pair[],
): Promise<Map<Pool, { lying: Lying[]; standing: (HeldPromise & StandingPromise)[] }>> {
  // One pair, as at every pick, is asked for by its numbers: of an array the database would think anew how long it is, and plan each time,
  // which takes it longer than the answer.
  const one = pairs.length === 1 ? pairs[0] : undefined;
  const row = await queryOne<{ lying: LyingRow[]; standing: StandingRow[] }>(
    db,
    `WITH pair AS (${one ? 'SELECT ?::int AS item, ?::int AS site' : 'SELECT * FROM unnest(?::int[], ?::int[]) AS p(item, site)'}),
     held AS (
       SELECT h.line_id, h.item_id, h.bin_id, h.lot_id, h.serial_id, h.qty
       FROM usable_in_hand h
       WHERE h.item_id IN (SELECT item FROM pair)),
     hand AS (SELECT item_id, bin_id, lot_id, serial_id, sum(qty) AS qty FROM held GROUP BY 1, 2, 3, 4),
     own AS (SELECT line_id, sum(qty) AS qty FROM held GROUP BY 1),
     plan AS (
       SELECT k.line_id,
         json_agg(json_build_object('bin', k.bin_id, 'lot', k.lot_id, 'qty', (k.qty - k.picked)::text) ORDER BY k.id) AS picks
       FROM round_pick k
       JOIN round r ON r.id = k.round_id AND r.state = 'open'
       WHERE k.item_id IN (SELECT item FROM pair) AND k.picked < k.qty
       GROUP BY 1),
     lying AS (
       SELECT f.item_id AS item, f.site_id AS site, f.bin_id AS bin, f.lot_id AS lot, f.serial_id AS serial, max(f.expires) AS expires,
         f.walk, sum(f.qty) - coalesce(max(h.qty), 0) AS qty
       FROM pair p
       JOIN stock_fact f ON f.item_id = p.item AND f.site_id = p.site AND f.usable
       LEFT JOIN hand h ON h.item_id = f.item_id AND h.bin_id = f.bin_id AND h.lot_id IS NOT DISTINCT FROM f.lot_id
         AND h.serial_id IS NOT DISTINCT FROM f.serial_id
       GROUP BY f.item_id, f.site_id, f.bin_id, f.lot_id, f.serial_id, f.walk),
     standing AS (
       SELECT p.item_id AS item, p.site_id AS site, p.line_id AS line, ${ASKING}, o.priority, o.due, o.id AS order_id,
         p.qty - coalesce(own.qty, 0) AS qty, coalesce(plan.picks, '[]') AS planned
       FROM pair w
       JOIN promise p ON p.item_id = w.item AND p.site_id = w.site
       JOIN order_line l ON l.id = p.line_id
       JOIN line_asking a ON a.line_id = p.line_id
       JOIN customer_order o ON o.id = l.order_id
       LEFT JOIN own ON own.line_id = p.line_id
       LEFT JOIN plan ON plan.line_id = p.line_id)
     SELECT
       (SELECT coalesce(json_agg(json_build_object('item', item, 'site', site, 'bin', bin, 'lot', lot, 'serial', serial, 'expires', expires,
          'qty', qty::text) ORDER BY walk, bin, lot, serial), '[]') FROM lying WHERE qty > 0) AS lying,
       (SELECT coalesce(json_agg(json_build_object('item', item, 'site', site, 'line', line, 'lot', lot, 'serials', serials, 'bin', bin,
          'good_on', good_on, 'qty', greatest(0, qty)::text, 'planned', planned) ORDER BY priority, due, order_id, line), '[]')
        FROM standing) AS standing`,
    one ? [one.item, one.site] : [pairs.map((p) => p.item), pairs.map((p) => p.site)],
  );
  const pools = new Map(
    pairs.map((p) => [poolOf(p.item as ItemId, p.site as SiteId), { lying: [] as Lying[], standing: [] as StandingIn[] }]),
  );
  for (const { item, site, ...goods } of row.lying) pools.get(poolOf(item, site))?.lying.push({ ...goods, qty: asQty(goods.qty) });
  for (const r of row.standing)
    pools.get(poolOf(r.item, r.site))?.standing.push({
      line: r.line,
      asking: askingOf(r),
      qty: asQty(r.qty),
      planned: r.planned.map((k) => ({ ...k, qty: asQty(k.qty) })),
    });
  return pools;
}
type StandingIn = HeldPromise & StandingPromise;

/** What is free of these items at these sites, for those who will ask so.
 *  Locks:  nothing; the caller holds the items' locks. */
export async function readFree(
  trx: Trx,
  pairs: readonly Pair[],
  asks: readonly { pool: Pool; asking: Asking }[],
): Promise<Map<Pool, FreeGoods>> {
  const asked = new Map<Pool, Asking[]>();
  for (const { pool, asking } of asks) asked.set(pool, [...(asked.get(pool) ?? []), asking]);
  return new Map(
    [...(await readPools(trx, pairs))].map(([pool, { lying, standing }]) => [pool, new FreeGoods(lying, standing, asked.get(pool) ?? [])]),
  );
}

/** Lowers promises; those that come to nothing go. */
export async function updatePromiseCuts(trx: Trx, cuts: readonly { line: number; cut: Qty }[]): Promise<void> {
  if (cuts.length === 0) return;
  const args = [cuts.map((c) => c.line), cuts.map((c) => dbQty(c.cut))];
  await query(
    trx,
    `DELETE FROM promise p USING unnest(?::int[], ?::numeric[]) AS c(line, cut) WHERE p.line_id = c.line AND p.qty <= c.cut`,
    args,
  );
  await query(
    trx,
    `UPDATE promise p SET qty = p.qty - c.cut FROM unnest(?::int[], ?::numeric[]) AS c(line, cut) WHERE p.line_id = c.line`,
    args,
  );
}
