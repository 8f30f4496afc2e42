import type { BinId, DocumentId, ItemId, PersonId, Qty, SiteId } from '#core/base';
import { keyText, type Condition, type InUnit, type KeyDelta, type Movement, type StandingHold, type StockKey } from '#core/stock';
import { asQty, dbQty, LOCK_CLASS, noteLocks, query, queryOne, together, type Db, type Trx } from '#server/kernel';

/** Balances as locked: quantity and row id by `keyText`. */
export type LockedBalances = { readonly quantities: ReadonlyMap<string, Qty>; readonly rows: ReadonlyMap<string, number> };

type BalanceRow = {
  id: number;
  item_id: ItemId;
  bin_id: BinId;
  lot_id: number | null;
  serial_id: number | null;
  unit_id: number | null;
  condition: Condition;
  qty: string;
};

const keyArrays = (keys: readonly StockKey[]) => [
  keys.map((k) => k.item),
  keys.map((k) => k.bin),
  keys.map((k) => k.lot),
  keys.map((k) => k.serial),
  keys.map((k) => k.unit),
  keys.map((k) => k.condition),
];

const keyOfRow = (row: BalanceRow): StockKey =>
  ({
    bin: row.bin_id,
    item: row.item_id,
    lot: row.lot_id,
    serial: row.serial_id,
    unit: row.unit_id,
    condition: row.condition,
  }) as StockKey;

/** Locks the balances of these keys, in lock order; keys that hold nothing have no row and are not in the maps. */
export async function lockBalances(trx: Trx, keys: readonly StockKey[]): Promise<LockedBalances> {
  const rows = await query<never>(
    trx,
    `SELECT b.id, b.item_id, b.bin_id, b.lot_id, b.serial_id, b.unit_id, b.condition, b.qty
     FROM unnest(?::int[], ?::int[], ?::int[], ?::int[], ?::int[], ?::text[]) AS k(item, bin, lot, serial, unit, condition)
     JOIN balance b ON b.item_id = k.item AND b.bin_id = k.bin AND b.lot_id IS NOT DISTINCT FROM k.lot
       AND b.serial_id IS NOT DISTINCT FROM k.serial AND b.unit_id IS NOT DISTINCT FROM k.unit AND b.condition = k.condition
     ORDER BY b.item_id, b.bin_id, coalesce(b.lot_id, 0), coalesce(b.serial_id, 0), coalesce(b.unit_id, 0), b.condition COLLATE "C"
     FOR UPDATE OF b`,
    keyArrays(keys),
  );
  const quantities = new Map<string, Qty>();
  const ids = new Map<string, number>();
  for (const row of rows as BalanceRow[]) {
    const text = keyText(keyOfRow(row));
    quantities.set(text, asQty(row.qty));
    ids.set(text, row.id);
  }
  return { quantities, rows: ids };
}

/** Takes from locked balances; those that come to zero lose their row. */
export async function takeFromBalances(trx: Trx, takes: readonly KeyDelta[], locked: LockedBalances): Promise<void> {
  if (takes.length === 0) return;
  const emptied: number[] = [];
  const lowered: number[] = [];
  const deltas: string[] = [];
  for (const take of takes) {
    const text = keyText(take.key);
    const id = locked.rows.get(text) as number;
    if ((locked.quantities.get(text) ?? 0) + take.delta === 0) emptied.push(id);
    else {
      lowered.push(id);
      deltas.push(dbQty(take.delta));
    }
  }
  await together([
    emptied.length > 0 && query(trx, `DELETE FROM balance WHERE id = ANY(?::bigint[])`, [emptied]),
    lowered.length > 0 &&
      query(trx, `UPDATE balance b SET qty = b.qty + d.delta FROM unnest(?::bigint[], ?::numeric[]) AS d(id, delta) WHERE b.id = d.id`, [
        lowered,
        deltas,
      ]),
  ]);
}

/** Adds to balances, making the rows that are not there, in lock order. */
export async function putIntoBalances(trx: Trx, puts: readonly KeyDelta[]): Promise<void> {
  if (puts.length === 0) return;
  await query(
    trx,
    `INSERT INTO balance (item_id, bin_id, lot_id, serial_id, unit_id, condition, qty)
     SELECT * FROM unnest(?::int[], ?::int[], ?::int[], ?::int[], ?::int[], ?::text[], ?::numeric[])
     ON CONFLICT ON CONSTRAINT balance_key DO UPDATE SET qty = balance.qty + excluded.qty`,
    [...keyArrays(puts.map((p) => p.key)), puts.map((p) => dbQty(p.delta))],
  );
}

/** Movements with the document that explains them. Every change of stock in Dock Row is one of these. */
export type Posting = {
  readonly document: DocumentId;
  readonly person: PersonId;
  readonly device?: string | null;
  /** When it happened, where that is not now: history that is brought in. */
  readonly at?: Date;
  readonly movements: readonly Movement[];
  /** Who may break a rule of a bin, and does: a lead with a reason, a count of what lies there, an undo. Never a retired bin. */
  readonly overBinRules?: boolean;
};

/** Writes the ledger. Returns the new numbers in order. */
export async function insertMovements(trx: Trx, posting: Posting): Promise<number[]> {
  const m = posting.movements;
  const rows = await query<never>(
    trx,
    `INSERT INTO movement (document_id, person_id, device, at, told, reason, item_id, lot_id, serial_id, qty, from_bin, from_unit,
      from_condition, to_bin, to_unit, to_condition, reverses)
     SELECT ?, ?, ?, coalesce(?::timestamptz, now_here()), CASE WHEN ?::timestamptz IS NOT NULL THEN now_here() END, *
     FROM unnest(?::text[], ?::int[], ?::int[], ?::int[], ?::numeric[], ?::int[], ?::int[], ?::text[], ?::int[], ?::int[],
       ?::text[], ?::bigint[])
     RETURNING id`,
    [
      posting.document,
      posting.person,
      posting.device ?? null,
      posting.at ?? null,
      posting.at ?? null,
      m.map((x) => x.reason),
      m.map((x) => x.item),
      m.map((x) => x.lot),
      m.map((x) => x.serial),
      m.map((x) => dbQty(x.qty)),
      m.map((x) => x.from.bin),
      m.map((x) => x.from.unit),
      m.map((x) => x.from.condition),
      m.map((x) => x.to.bin),
      m.map((x) => x.to.unit),
      m.map((x) => x.to.condition),
      m.map((x) => x.reverses ?? null),
    ],
  );
  return (rows as { id: number }[]).map((row) => row.id);
}

/** The names in a refusal about this key. */
export async function selectKeyNames(
  trx: Trx,
  key: StockKey,
): Promise<{ bin: string; item: string; lot: string | null; serial: string | null }> {
  const rows = await query<never>(
    trx,
    `SELECT (SELECT address FROM bin WHERE id = ?) AS bin, (SELECT code FROM item WHERE id = ?) AS item,
            (SELECT code FROM lot WHERE id = ?) AS lot, (SELECT code FROM serial WHERE id = ?) AS serial`,
    [key.bin, key.item, key.lot, key.serial],
  );
  return rows[0] as unknown as { bin: string; item: string; lot: string | null; serial: string | null };
}

/** Of goods on carts and at benches, those of which less lies there now than is in hand for orders, and whose they are. */
export async function selectMissedInHand(
  trx: Trx,
  keys: readonly StockKey[],
): Promise<{ bin: string; item: string; order: string; orderId: number; round: string; roundId: number }[]> {
  const rows = await query<{ bin: string; item: string; order: string; orderId: number; round: string; roundId: number }>(
    trx,
    `WITH touched AS (SELECT DISTINCT * FROM unnest(?::int[], ?::int[], ?::int[], ?::int[]) AS k(item, bin, lot, serial)),
     hands AS (
       SELECT t.*, sum(h.qty) AS qty, min(h.line_id) AS line_id, min(h.pick_id) AS pick_id FROM touched t
       JOIN in_hand h ON h.bin_id = t.bin AND h.item_id = t.item AND h.lot_id IS NOT DISTINCT FROM t.lot
         AND h.serial_id IS NOT DISTINCT FROM t.serial
       GROUP BY 1, 2, 3, 4),
     lying AS (
       SELECT h.*,
         coalesce((SELECT sum(b.qty) FROM balance b WHERE b.bin_id = h.bin AND b.item_id = h.item AND b.lot_id IS NOT DISTINCT FROM h.lot
         AND b.serial_id IS NOT DISTINCT FROM h.serial AND b.condition = 'sound'), 0) AS there FROM hands h)
     SELECT bin.address AS bin, i.code AS item, o.number AS order, o.id AS "orderId", r.number AS round, r.id AS "roundId"
     FROM lying x
     JOIN bin ON bin.id = x.bin
     JOIN item i ON i.id = x.item
     JOIN order_line l ON l.id = x.line_id
     JOIN customer_order o ON o.id = l.order_id
       JOIN round_pick p ON p.id = x.pick_id JOIN round r ON r.id = p.round_id
     WHERE x.there < x.qty ORDER BY x.item, x.bin LIMIT 1`,
    [keys.map((k) => k.item), keys.map((k) => k.bin), keys.map((k) => k.lot), keys.map((k) => k.serial)],
  );
  return rows;
}

/** Of goods on carts, those of which less lies there now than a put-away or refill round carries, and which round that is. */
export function selectMissedOnCart(
  trx: Trx,
  keys: readonly StockKey[],
): Promise<{ bin: string; item: string; number: string; id: number }[]> {
  return query(
    trx,
    `WITH touched AS (SELECT DISTINCT * FROM unnest(?::int[], ?::int[], ?::int[], ?::int[]) AS k(item, bin, lot, serial)),
     carried AS (
       SELECT t.*, sum(c.qty) AS qty, min(c.number) AS number, min(c.carry_id) AS id
       FROM touched t
       JOIN on_cart c ON c.bin_id = t.bin AND c.item_id = t.item AND c.lot_id IS NOT DISTINCT FROM t.lot
         AND c.serial_id IS NOT DISTINCT FROM t.serial
       GROUP BY 1, 2, 3, 4)
     SELECT bin.address AS bin, i.code AS item, x.number, x.id
     FROM carried x
     JOIN bin ON bin.id = x.bin
     JOIN item i ON i.id = x.item
     WHERE x.qty > coalesce((
       SELECT sum(b.qty)
       FROM balance b
       WHERE b.bin_id = x.bin AND b.item_id = x.item AND b.lot_id IS NOT DISTINCT FROM x.lot
         AND b.serial_id IS NOT DISTINCT FROM x.serial), 0)
     ORDER BY x.item, x.bin
     LIMIT 1`,
    [keys.map((k) => k.item), keys.map((k) => k.bin), keys.map((k) => k.lot), keys.map((k) => k.serial)],
  );
}

/** What lies in logistic units of what is wanted loose, in the same bins. */
export async function selectInUnits(trx: Trx, keys: readonly StockKey[]): Promise<InUnit[]> {
  const rows = await query<BalanceRow & { sscc: string }>(
    trx,
    `SELECT b.id, b.item_id, b.bin_id, b.lot_id, b.serial_id, b.unit_id, b.condition, b.qty, u.sscc
     FROM unnest(?::int[], ?::int[], ?::int[], ?::int[], ?::text[]) AS k(item, bin, lot, serial, condition)
     JOIN balance b ON b.item_id = k.item AND b.bin_id = k.bin AND b.lot_id IS NOT DISTINCT FROM k.lot
       AND b.serial_id IS NOT DISTINCT FROM k.serial AND b.condition = k.condition
     JOIN logistic_unit u ON u.id = b.unit_id`,
    keyArrays(keys).filter((_, n) => n !== UNIT_OF_KEY),
  );
  return rows.map((r) => ({ key: keyOfRow(r), qty: asQty(r.qty), sscc: r.sscc }));
}
const UNIT_OF_KEY = 4;

/** Of these units the first that lies in two bins. */
export function selectUnitInTwoBins(trx: Trx, units: readonly number[]): Promise<{ sscc: string; bin: string; other: string }[]> {
  return query(
    trx,
    `SELECT u.sscc, min(bin.address) AS bin, max(bin.address) AS other
     FROM balance b
     JOIN logistic_unit u ON u.id = b.unit_id
     JOIN bin ON bin.id = b.bin_id
     WHERE b.unit_id = ANY(?::int[])
     GROUP BY u.id
     HAVING count(DISTINCT b.bin_id) > 1
     ORDER BY u.sscc
     LIMIT 1`,
    [units],
  );
}

/** Where these serials are now; those that are nowhere are left out. */
export async function selectSerialPlaces(trx: Trx, serials: readonly number[]): Promise<{ serial: string; item: string; bin: string }[]> {
  const rows = await query<never>(
    trx,
    `SELECT s.code AS serial, i.code AS item, bin.address AS bin
     FROM balance b
     JOIN serial s ON s.id = b.serial_id
     JOIN item i ON i.id = b.item_id
     JOIN bin ON bin.id = b.bin_id WHERE b.serial_id = ANY(?::int[]) AND b.qty > 0 ORDER BY s.code LIMIT 1`,
    [serials],
  );
  return rows;
}

export type BinFactRow = {
  id: BinId;
  site: SiteId;
  site_name: string;
  address: string;
  use: string;
  promisable: boolean;
  one_item: boolean;
  one_lot: boolean;
  storage_class: string | null;
  capacity: string | null;
  volume_ml: number | null;
  weight_g: number | null;
  retired: boolean;
};
export type ItemFactRow = { item: ItemId; code: string; decimals: number; storage_class: string; volume_ml: number; weight_g: number };
export type PostingFactRows = {
  bins: readonly BinFactRow[];
  items: readonly ItemFactRow[];
  document: { site: SiteId; kind: string };
  /** Of these items at these sites somebody was promised goods out of a bin that they named. */
  fromBins: readonly { item: ItemId; site: SiteId }[];
  holds: readonly StandingHold[];
};

/** Everything that a posting must be judged against besides the balances, in one statement.
 *  Locks:  the real bins FOR KEY SHARE in order of id, so that nobody retires one under the goods. */
export async function lockPostingFacts(trx: Trx, document: number, movements: readonly Movement[]): Promise<PostingFactRows> {
  const bins = [...new Set(movements.flatMap((m) => [m.from.bin, m.to.bin]))];
  const items = [...new Set(movements.map((m) => m.item))];
  const row = await queryOne<PostingFactRows>(
    trx,
    `WITH touched AS (SELECT * FROM bin WHERE id = ANY(?::int[]) AND id >= 100 ORDER BY id FOR KEY SHARE)
     SELECT
       (SELECT json_build_object('site', site_id, 'kind', kind) FROM document WHERE id = ?) AS document,
       (SELECT coalesce(json_agg(json_build_object('id', t.id, 'site', t.site_id, 'site_name', s.name, 'address', t.address, 'use', t.use,
            'promisable', z.promisable, 'one_item', t.one_item, 'one_lot', t.one_lot, 'storage_class', t.storage_class,
            'capacity', t.capacity::text, 'volume_ml', t.volume_ml, 'weight_g', t.weight_g, 'retired',
              t.retired_at IS NOT NULL) ORDER BY t.id), '[]')
          FROM touched t JOIN zone z ON z.id = t.zone_id JOIN site s ON s.id = t.site_id) AS bins,
       (SELECT coalesce(json_agg(json_build_object('item', i.id, 'code', i.code, 'decimals', i.decimals,
            'storage_class', i.storage_class, 'volume_ml', i.volume_ml, 'weight_g', i.weight_g)), '[]')
          FROM item i WHERE i.id = ANY(?::int[])) AS items,
       (SELECT coalesce(json_agg(DISTINCT jsonb_build_object('item', p.item_id, 'site', p.site_id)), '[]')
          FROM promise p JOIN order_line l ON l.id = p.line_id AND l.bin_id IS NOT NULL WHERE p.item_id = ANY(?::int[])) AS "fromBins",
       (SELECT coalesce(json_agg(json_build_object('id', h.id, 'site', h.site_id, 'item', h.item_id, 'lot', h.lot_id,
            'serial', h.serial_id, 'bin', h.bin_id) ORDER BY h.id), '[]')
          FROM hold h
          WHERE h.standing AND h.released_at IS NULL
            AND (h.item_id = ANY(?::int[]) OR (h.item_id IS NULL AND h.bin_id = ANY(?::int[])))) AS holds`,
    [bins, document, items, items, items, bins],
  );
  return row;
}

type Pair = { item: number; site: number };

/** Makes everybody who moves or promises these items at these sites take turns until the transaction ends: the one lock under which
 *  balances and promises of an item at a site are read and written. Whoever changes what a whole zone may be used for waits for all of
 *  them.
 *  Locks:  by item, then site. */
export async function lockStock(trx: Trx, pairs: readonly Pair[]): Promise<void> {
  const ordered = [...pairs].sort((a, b) => a.item - b.item || a.site - b.site);
  // What this transaction holds already is not asked for again: it would cost a way to the database and give nothing.
  const fresh = noteLocks(
    trx,
    'stock',
    ordered.map((p) => [p.item, p.site]),
  );
  if (fresh.length === 0) return;
  await query(
    trx,
    `SELECT pg_advisory_xact_lock_shared(lock_number(${LOCK_CLASS.site}, site, 0)),
       pg_advisory_xact_lock(lock_number(${LOCK_CLASS.stock}, item, site))
     FROM (SELECT * FROM unnest(?::int[], ?::int[]) AS p(item, site) ORDER BY item, site) p`,
    [fresh.map(([item]) => item), fresh.map(([, site]) => site)],
  );
}

/** The same for what movements touch; the sites are those of their bins. */
export async function lockStockOf(trx: Trx, movements: readonly Movement[]): Promise<void> {
  const ends = movements.flatMap((m) => [
    { item: m.item, bin: m.from.bin },
    { item: m.item, bin: m.to.bin },
  ]);
  const pairs = await query<Pair>(
    trx,
    `SELECT item, site, pg_advisory_xact_lock_shared(lock_number(${LOCK_CLASS.site}, site, 0)),
       pg_advisory_xact_lock(lock_number(${LOCK_CLASS.stock}, item, site))
     FROM (
       SELECT DISTINCT m.item, bin.site_id AS site
       FROM unnest(?::int[], ?::int[]) AS m(item, bin)
       JOIN bin ON bin.id = m.bin AND bin.id >= 100
       ORDER BY 1, 2
     ) p`,
    [ends.map((e) => e.item), ends.map((e) => e.bin)],
  );
  noteLocks(
    trx,
    'stock',
    pairs.map((p) => [p.item, p.site]),
  );
}

/** Keeps every posting and promise at a site waiting, for a change that touches what all its stock may be used for. */
export async function lockWholeSite(trx: Trx, site: number): Promise<void> {
  noteLocks(trx, 'site', [[site, 0]]);
  await query(trx, `SELECT pg_advisory_xact_lock(lock_number(${LOCK_CLASS.site}, ?, 0))`, [site]);
}

/** Makes those who fill bins with rules take turns. Lock order: after the stock, in order of id. */
export async function lockBinRules(trx: Trx, bins: readonly number[]): Promise<void> {
  const ordered = [...bins].sort((a, b) => a - b);
  noteLocks(
    trx,
    'bin',
    ordered.map((b) => [b, 0]),
  );
  await query(trx, `SELECT pg_advisory_xact_lock(lock_number(${LOCK_CLASS.bin}, b, 0)) FROM unnest(?::int[]) AS x(b)`, [ordered]);
}

/** The bins of a site in which any of these items lies. */
export async function selectBinsOf(db: Pick<Db, 'raw'>, site: number, items: readonly number[]): Promise<number[]> {
  const rows = await query<{ bin: number }>(
    db,
    `SELECT DISTINCT b.bin_id AS bin
     FROM balance b
     JOIN bin ON bin.id = b.bin_id
     WHERE bin.site_id = ? AND b.item_id = ANY(?::int[]) AND b.qty > 0`,
    [site, items],
  );
  return rows.map((r) => r.bin);
}

/** Says how an item is tracked from now on. */
export async function updateTracking(trx: Trx, item: number, tracking: string): Promise<void> {
  await query(trx, `UPDATE item SET tracking = ? WHERE id = ?`, [tracking, item]);
}

/** Says what the stock of a zone may be used for from now on. */
export async function updateZonePowers(
  trx: Trx,
  zone: number,
  powers: { promisable: boolean; pickable: boolean; showsPrice: boolean },
): Promise<void> {
  await query(trx, `UPDATE zone SET promisable = ?, pickable = ?, shows_price = ? WHERE id = ?`, [
    powers.promisable,
    powers.pickable,
    powers.showsPrice,
    zone,
  ]);
}

/** Writes what is said of an adjustment beside its movements: to which day and job it belongs, and what one of what was added cost. */
export async function insertAdjustment(
  trx: Trx,
  of: { document: number; reference: string; day: string; job: string; cost: string | null },
): Promise<void> {
  await query(trx, `INSERT INTO adjustment (document_id, reference, day, job, cost) VALUES (?, ?, ?, ?, ?)`, [
    of.document,
    of.reference,
    of.day,
    of.job,
    of.cost,
  ]);
}
