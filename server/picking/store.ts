import type { Qty } from '#core/base';
import { lessPlanned, type PickSource, type Planned } from '#core/picking';
import type { Tracking } from '#core/items';
import type { RoundBin, RoundWay } from '#core/routing';
import { announce, asQty, dbQty, lockRows, query, queryOne, refuse, type Db, type Trx } from '#server/kernel';
import type { askingOf } from '#server/stock';

type Reads = Pick<Db, 'raw'>;
export type RoundListRow = {
  id: number;
  number: string;
  state: 'open' | 'putDown' | 'thrown';
  site_id: number;
  site: string;
  person_id: number | null;
  person: string | null;
  cart_bin: number;
  cart: string;
  at: Date;
  document_id: number;
  orders: string[];
  order_ids: number[];
  picks: number;
  done: number;
  stops: number;
  trouble: number;
};
const LISTED = `SELECT r.id, r.number, r.state, r.site_id, s.name AS site, r.person_id, p.name AS person, r.cart_bin, b.address
  AS cart, r.at,
    r.document_id, x.*
  FROM round r
  JOIN site s ON s.id = r.site_id
  JOIN bin b ON b.id = r.cart_bin
  LEFT JOIN person p ON p.id = r.person_id
  CROSS JOIN LATERAL (SELECT coalesce(json_agg(DISTINCT o.number), '[]') AS orders, coalesce(json_agg(DISTINCT o.id), '[]')
    AS order_ids, count(*) FILTER (WHERE k.qty > 0) AS picks, count(*) FILTER (WHERE k.qty > 0 AND k.picked = k.qty)
      AS done, count(DISTINCT k.bin_id) FILTER (WHERE k.qty > 0) AS stops, count(k.trouble) AS trouble
    FROM round_pick k JOIN order_line l ON l.id = k.line_id JOIN customer_order o ON o.id = l.order_id WHERE k.round_id = r.id) x`;

/** Rounds of a site, oldest first. */
export async function selectRounds(db: Reads, site: number, state: 'open' | 'putDown'): Promise<RoundListRow[]> {
  const order = state === 'open' ? 'r.id LIMIT 100' : 'r.id DESC LIMIT 20';
  return query<RoundListRow>(db, `${LISTED} WHERE r.site_id = ? AND r.state = ? ORDER BY ${order}`, [site, state]);
}

/** The round, refusing `picking.unknownRound`. */
export async function findRound(db: Reads, id: number): Promise<RoundListRow> {
  return (await query<RoundListRow>(db, `${LISTED} WHERE r.id = ?`, [id]))[0] ?? refuse({ code: 'picking.unknownRound', text: String(id) });
}

/** Locks a round and reads it as it is then.
 *  Errors: `picking.unknownRound`; `people.otherSite` where it is walked at another site than `site`. */
export async function lockRoundAt(trx: Trx, id: number, site: number): Promise<RoundListRow> {
  await lockRows(trx, 'round', [id]);
  const round = await findRound(trx, id);
  if (round.site_id !== site) refuse({ code: 'people.otherSite', what: `Round ${round.number}`, site: round.site });
  return round;
}

export type InHandRow = {
  id: number;
  pick_id: number;
  order_id: number;
  item_id: number;
  lot_id: number | null;
  serial_id: number | null;
  qty: string;
  bin_id: number;
};

/** What is in somebody's hands for an order, or from a round and not put down yet. */
export function selectInHand(db: Reads, whose: { round: number } | { order: number }): Promise<InHandRow[]> {
  const [condition, value] = 'round' in whose ? ['p.round_id = ? AND NOT k.put_down', whose.round] : ['l.order_id = ?', whose.order];
  return query<InHandRow>(
    db,
    `SELECT k.id, k.pick_id, l.order_id, k.item_id, k.lot_id, k.serial_id, k.qty, k.bin_id
     FROM in_hand k JOIN round_pick p ON p.id = k.pick_id JOIN order_line l ON l.id = k.line_id WHERE ${condition} ORDER BY k.id`,
    [value],
  );
}

/** What of one line is in somebody's hands: what lies on a cart before what is put down, what is packed last; the newest first. */
export function selectInHandOfLine(db: Reads, line: number): Promise<InHandRow[]> {
  return query<InHandRow>(
    db,
    `SELECT k.id, k.pick_id, l.order_id, k.item_id, k.lot_id, k.serial_id, k.qty, k.bin_id
     FROM in_hand k
     JOIN order_line l ON l.id = k.line_id
     WHERE k.line_id = ?
     ORDER BY k.packed, k.put_down, k.id DESC`,
    [line],
  );
}

/** Parts goods in hand: so much of them is a piece of its own from now on. Returns that piece. */
export async function splitInHand(trx: Trx, goods: InHandRow, qty: Qty): Promise<InHandRow> {
  await query(trx, `UPDATE picked SET qty = qty - ?::numeric WHERE id = ?`, [dbQty(qty), goods.id]);
  const made = await queryOne<{ id: number; qty: string }>(
    trx,
    `INSERT INTO picked (pick_id, line_id, item_id, lot_id, serial_id, serial_out, qty, bin_id, put_down, packed, person_id, at)
     SELECT pick_id, line_id, item_id, lot_id, serial_id, serial_out, ?::numeric, bin_id, put_down, packed, person_id, at
     FROM picked
     WHERE id = ?
     RETURNING id, qty`,
    [dbQty(qty), goods.id],
  );
  return { ...goods, ...made };
}

/** What is known of a line at work, and whether it is of this order. */
export async function selectLineAtWork(
  db: Reads,
  order: number,
  line: number,
): Promise<
  | {
      item: number;
      code: string;
      decimals: number;
      qty: string;
      shipped: string;
      promised: string;
      planned: string;
      in_hand: string;
      /** How many serials it names. */
      serials: number;
    }
  | undefined
> {
  const rows = await query<never>(
    db,
    `SELECT l.item_id AS item, i.code, i.decimals, l.qty, l.shipped,
       (SELECT count(*) FROM order_line_serial x WHERE x.line_id = l.id) AS serials,
       coalesce((SELECT p.qty FROM promise p WHERE p.line_id = l.id), 0) AS promised,
       coalesce((SELECT sum(k.qty) FROM in_hand k WHERE k.line_id = l.id), 0) AS in_hand,
       coalesce((SELECT sum(rp.qty - rp.picked) FROM round_pick rp JOIN round r ON r.id = rp.round_id AND r.state = 'open'
         WHERE rp.line_id = l.id), 0) AS planned
     FROM order_line l
     JOIN item i ON i.id = l.item_id
     WHERE l.order_id = ? AND l.id = ?`,
    [order, line],
  );
  return rows[0];
}

/** Plans so much less of a line on open rounds, the newest plans first. */
export async function unplanLine(trx: Trx, line: number, qty: Qty): Promise<void> {
  await query(
    trx,
    `WITH open AS (
       SELECT rp.id, rp.qty - rp.picked AS left, sum(rp.qty - rp.picked) OVER (ORDER BY rp.id DESC) AS upto
       FROM round_pick rp
       JOIN round r ON r.id = rp.round_id AND r.state = 'open'
       WHERE rp.line_id = ? AND rp.qty > rp.picked)
     UPDATE round_pick k SET qty = k.qty - least(open.left, greatest(0, ?::numeric - (open.upto - open.left)))
     FROM open
     WHERE k.id = open.id`,
    [line, dbQty(qty)],
  );
}

/** Says how many are ordered, and takes so much from what is promised of it. */
export async function updateLineQty(trx: Trx, line: number, qty: Qty, cut: Qty): Promise<void> {
  await query(trx, `UPDATE order_line SET qty = ? WHERE id = ?`, [dbQty(qty), line]);
  await query(trx, `DELETE FROM promise WHERE line_id = ? AND qty <= ?::numeric`, [line, dbQty(cut)]);
  await query(trx, `UPDATE promise SET qty = qty - ?::numeric WHERE line_id = ? AND ?::numeric > 0`, [dbQty(cut), line, dbQty(cut)]);
}

/** Ends an order of which nothing is open any more and something has left. */
export async function endOrderIfDone(trx: Trx, order: number): Promise<void> {
  await query(
    trx,
    `UPDATE customer_order o SET state = 'shipped', packed_at = NULL, changed = now_here()
     WHERE o.id = ? AND o.state = 'open' AND EXISTS (SELECT 1 FROM order_line l WHERE l.order_id = o.id AND l.shipped > 0)
       AND NOT EXISTS (SELECT 1 FROM order_line l WHERE l.order_id = o.id AND l.qty > l.shipped)`,
    [order],
  );
}

/** Notes that goods are in nobody's hands any more, and that their stops have not brought them. */
export async function markReturned(trx: Trx, goods: readonly InHandRow[]): Promise<void> {
  await query(trx, `UPDATE picked SET returned_at = now_here(), packed = false WHERE id = ANY(?::int[])`, [goods.map((g) => g.id)]);
  await query(
    trx,
    `UPDATE round_pick p SET picked = p.picked - x.qty, qty = p.qty - x.qty
     FROM (SELECT pick_id, sum(qty) AS qty FROM picked WHERE id = ANY(?::int[]) GROUP BY 1) x WHERE p.id = x.pick_id`,
    [goods.map((g) => g.id)],
  );
}

/** Drops what open rounds still plan to take: of a round, or of an order. */
export async function dropPlans(trx: Trx, whose: { round: number } | { order: number }): Promise<void> {
  const [condition, value] =
    'round' in whose
      ? ['p.round_id = ?', whose.round]
      : [
          `p.line_id IN (SELECT id FROM order_line WHERE order_id = ?) AND p.round_id IN (SELECT id FROM round WHERE state = 'open')`,
          whose.order,
        ];
  await query(trx, `UPDATE round_pick p SET qty = p.picked WHERE p.qty > p.picked AND ${condition}`, [value]);
}

/** Says who walks a round; null for nobody yet. */
export async function updateWalker(trx: Trx, round: number, person: number | null): Promise<void> {
  await query(trx, `UPDATE round SET person_id = ? WHERE id = ?`, [person, round]);
  announce(trx, 'picking', { round });
}

/** Ends the promises of an order. */
export async function deletePromises(trx: Trx, order: number): Promise<void> {
  await query(trx, `DELETE FROM promise WHERE line_id IN (SELECT id FROM order_line WHERE order_id = ?)`, [order]);
}

export type PickRow = {
  id: number;
  order: string;
  order_id: number;
  line_id: number;
  slot: number;
  item: number;
  code: string;
  description: string;
  unit: string;
  decimals: number;
  tracking: Tracking;
  barcode: string | null;
  lot_id: number | null;
  lot: string | null;
  expires: string | null;
  qty: string;
  picked: string;
  trouble: string | null;
  bin: number;
  address: string;
  zone: string;
  walk: number;
  /** What its line asks of its goods. */
  asks: Parameters<typeof askingOf>[0];
  /** Serials that the line names, and those here that others named. */
  serials: string[] | null;
  kept: string[];
};

const twice = <T>(value: T): [T, T] => [value, value];

/** A pick by its number, or by the key that it has on devices. */
export type PickName = number | string;

/** Keeps the way of a round. */
export async function updateWay(trx: Trx, round: number, way: RoundWay): Promise<void> {
  await query(trx, `UPDATE round SET way = ?::int[], legs = ?::real[], unreached = ?::int[], metres = ?, plain_metres = ? WHERE id = ?`, [
    way.bins,
    way.legs,
    way.unreached,
    way.metres,
    way.plain,
    round,
  ]);
}

/** The way of a round, and the addresses to which the plan has none. */
export async function selectWay(
  db: Reads,
  round: number,
): Promise<{ way: number[]; metres: number | null; plain: number | null; unreached: string[] }> {
  return queryOne(
    db,
    `SELECT r.way, r.metres::float8 AS metres, r.plain_metres::float8 AS plain,
       ARRAY(SELECT b.address FROM bin b WHERE b.id = ANY(r.unreached) ORDER BY b.walk) AS unreached
     FROM round r
     WHERE r.id = ?`,
    [round],
  );
}

/** Where a round begins, ends and stops. */
export async function selectWayPlaces(
  db: Reads,
  of: { site: number; cart: number; bins: readonly number[] },
): Promise<{ cart: RoundBin | null; bench: RoundBin | null; bins: RoundBin[] }> {
  const { packing } = await queryOne<{ packing: number | null }>(db, `SELECT packing_bin AS packing FROM site WHERE id = ?`, [of.site]);
  const rows = await query<RoundBin>(db, `SELECT id, zone_id AS zone, address, walk FROM bin WHERE id = ANY(?::int[])`, [
    [...of.bins, of.cart, ...(packing === null ? [] : [packing])],
  ]);
  const find = (id: number | null): RoundBin | null => rows.find((r) => r.id === id) ?? null;
  return { cart: find(of.cart), bench: find(packing), bins: rows.filter((r) => of.bins.includes(r.id)) };
}

/** The serials that the line of a pick `k` names, by `line_asking` as `a`. */
export const NAMED_SERIALS = `(SELECT json_agg(s.code ORDER BY s.code) FROM serial s WHERE s.id = ANY(a.serial_ids))`;
/** The serials in the bin of a pick `k` that other lines name and were promised. */
export const KEPT_SERIALS = `(SELECT coalesce(json_agg(DISTINCT s.code), '[]')
  FROM balance b
  JOIN order_line_serial x ON x.serial_id = b.serial_id AND x.line_id <> k.line_id
  JOIN promise p ON p.line_id = x.line_id
  JOIN serial s ON s.id = x.serial_id
  WHERE b.bin_id = k.bin_id AND b.item_id = k.item_id)`;

/** The picks of a round, or one of them. */
export async function selectPicks(db: Reads, round: number, pick: PickName | null = null): Promise<PickRow[]> {
  return query<PickRow>(
    db,
    `SELECT k.id, o.number AS order, o.id AS order_id, k.line_id, k.slot, i.id AS item, i.code, i.description,
       i.base_unit AS unit, i.decimals, i.tracking, k.lot_id, l.code AS lot, l.expires, k.qty, k.picked, k.trouble,
       b.id AS bin, b.address, z.name AS zone, b.walk,
         first_barcode(i.id) AS barcode,
       json_build_object('lot', a.lot_id, 'serials', a.serial_ids, 'bin', a.bin_id, 'good_on', a.good_on) AS asks,
       ${NAMED_SERIALS} AS serials, ${KEPT_SERIALS} AS kept
     FROM round_pick k
     JOIN line_asking a ON a.line_id = k.line_id
     JOIN order_line ol ON ol.id = k.line_id
     JOIN customer_order o ON o.id = ol.order_id
     JOIN item i ON i.id = k.item_id
     JOIN bin b ON b.id = k.bin_id
     JOIN zone z ON z.id = b.zone_id
     LEFT JOIN lot l ON l.id = k.lot_id
     WHERE k.round_id = ? AND (?::int IS NULL OR k.id = ?) AND (?::uuid IS NULL OR k.key = ?::uuid) ORDER BY b.walk, b.id, k.slot, k.id`,
    [round, ...twice(typeof pick === 'number' ? pick : null), ...twice(typeof pick === 'string' ? pick : null)],
  );
}

/** Stock that rounds may still fetch of these items at a site, with what other open rounds plan to take subtracted.
 *  Locks:  nothing; the caller holds the items' promise locks, and every plan is made under those. */
export async function selectSources(
  db: Reads,
  site: number,
  items: readonly number[],
  use: 'shelf' | 'arrivals' = 'shelf',
): Promise<PickSource[]> {
  const rows = await query<{
    bin: number;
    item: number;
    lot: number | null;
    serial: number | null;
    expires: string | null;
    arrived: Date | null;
    walk: number;
    face: boolean;
    qty: string;
    packs: string[];
  }>(
    db,
    // Serials are told apart where an order names one of them.
    `SELECT f.bin_id AS bin, f.item_id AS item, f.lot_id AS lot, n.serial_id AS serial, max(f.expires) AS expires, max(f.arrived)
      AS arrived, f.walk, f.purpose IN ('pickFace', 'counter') AS face, sum(f.qty) AS qty,
       ARRAY(SELECT p.units::text FROM pack p WHERE p.item_id = f.item_id AND p.units > 1) AS packs
     FROM stock_fact f
     LEFT JOIN (SELECT DISTINCT serial_id FROM order_line_serial) n ON n.serial_id = f.serial_id
     WHERE f.site_id = ? AND f.item_id = ANY(?::int[]) AND f.usable AND f.use = ?
       AND (f.pickable OR f.use = 'arrivals')
       -- Where somebody looked in vain nobody is sent again before the bin was counted.
       AND NOT EXISTS (SELECT 1 FROM trouble t WHERE t.bin_id = f.bin_id AND t.item_id = f.item_id AND t.settled_at IS NULL)
     GROUP BY f.bin_id, f.item_id, f.lot_id, n.serial_id, f.walk, f.purpose`,
    [site, items, use],
  );
  const plans = await query<{ item: number; bin: number; lot: number | null; serials: number[] | null; qty: string }>(
    db,
    `SELECT k.item_id AS item, k.bin_id AS bin, k.lot_id AS lot, a.serial_ids AS serials, k.qty - k.picked AS qty
     FROM round_pick k
     JOIN round r ON r.id = k.round_id AND r.state = 'open'
     JOIN line_asking a ON a.line_id = k.line_id
     WHERE r.site_id = ? AND k.item_id = ANY(?::int[]) AND k.picked < k.qty`,
    [site, items],
  );
  return lessPlanned(
    rows.map(
      ({ face, ...r }) =>
        ({
          ...r,
          arrived: r.arrived?.toISOString() ?? null,
          isPickFace: face,
          qty: asQty(r.qty),
          packs: r.packs.map(asQty),
        }) as unknown as PickSource,
    ),
    plans.map((p) => ({ ...p, qty: asQty(p.qty) })) as unknown as Planned[],
  );
}

/** Settles a report of trouble at a site; false where none is open. */
export async function settleTrouble(trx: Trx, id: number, site: number): Promise<boolean> {
  const settled = await query(
    trx,
    `UPDATE trouble t SET settled_at = now_here() FROM bin b WHERE t.id = ? AND b.id = t.bin_id AND b.site_id = ?
      AND t.settled_at IS NULL RETURNING 1`,
    [id, site],
  );
  return settled.length > 0;
}

/** The lots of a pick's item that lie in its bin, first to expire first. */
export async function selectLotsHere(db: Reads, pick: { bin: number; item: number }): Promise<string[]> {
  const rows = await query<{ lot: string }>(
    db,
    `SELECT lot
     FROM stock_fact
     WHERE bin_id = ? AND item_id = ? AND lot IS NOT NULL AND qty > 0
     GROUP BY lot, expires
     ORDER BY expires NULLS LAST, lot`,
    [pick.bin, pick.item],
  );
  return rows.map((r) => r.lot);
}

/** Says that a round is thrown away, and by whom. */
export async function updateThrown(trx: Trx, round: number, person: number): Promise<void> {
  await query(trx, `UPDATE round SET state = 'thrown', thrown_at = now_here(), thrown_by = ? WHERE id = ?`, [person, round]);
}

/** Says that what was picked lies in a bin of the bench now. */
export async function updatePutDown(trx: Trx, bin: number, picked: readonly number[]): Promise<void> {
  await query(trx, `UPDATE picked SET put_down = true, bin_id = ? WHERE id = ANY(?::int[])`, [bin, picked]);
}

/** Says that a round was put down. */
export async function updateRoundPutDown(trx: Trx, round: number): Promise<void> {
  await query(trx, `UPDATE round SET state = 'putDown', put_down_at = now_here() WHERE id = ?`, [round]);
}

/** Takes back that something was picked: it is nobody's again, and its pick waits for so much more. */
export async function updateReturned(trx: Trx, taken: { id: number; pick_id: number; qty: string }): Promise<void> {
  await query(trx, `UPDATE picked SET returned_at = now_here() WHERE id = ?`, [taken.id]);
  await query(trx, `UPDATE round_pick SET picked = picked - ?::numeric WHERE id = ?`, [taken.qty, taken.pick_id]);
}

/** Ends a pick at what was taken, for a reason. */
export async function endPick(trx: Trx, pick: number, trouble: string): Promise<void> {
  await query(trx, `UPDATE round_pick SET qty = picked, trouble = ? WHERE id = ?`, [trouble, pick]);
}

/** Plans picks in other bins instead of one, on the same round and for the same line. */
export async function insertPicksInstead(
  trx: Trx,
  round: number,
  pick: Pick<PickRow, 'line_id' | 'item' | 'slot'>,
  instead: readonly { key: string; bin: number; lot: number | null; qty: Qty }[],
): Promise<void> {
  await query(
    trx,
    `INSERT INTO round_pick (key, round_id, line_id, item_id, bin_id, lot_id, qty, slot)
     SELECT k, ?, ?, ?, b, l, q, ?
     FROM unnest(?::uuid[], ?::int[], ?::int[], ?::numeric[]) AS x(k, b, l, q)`,
    [
      round,
      pick.line_id,
      pick.item,
      pick.slot,
      instead.map((p) => p.key),
      instead.map((p) => p.bin),
      instead.map((p) => p.lot),
      instead.map((p) => dbQty(p.qty)),
    ],
  );
}

/** Writes that something was in the way of a pick: how much of it was open, and how much lies nowhere else. */
export async function insertTrouble(
  trx: Trx,
  met: { kind: string; pick: Pick<PickRow, 'id' | 'bin' | 'item' | 'line_id'>; open: Qty; lacking: Qty; person: number },
): Promise<void> {
  await query(
    trx,
    `INSERT INTO trouble (kind, bin_id, item_id, pick_id, qty, person_id, line_id, missing) VALUES (?, ?, ?, ?, ?, ?, ?, ?)`,
    [met.kind, met.pick.bin, met.pick.item, met.pick.id, dbQty(met.open), met.person, met.pick.line_id, dbQty(met.lacking)],
  );
}

/** Says how much of a pick was taken. */
export async function updatePickPicked(trx: Trx, pick: number, picked: Qty): Promise<void> {
  await query(trx, `UPDATE round_pick SET picked = ? WHERE id = ?`, [dbQty(picked), pick]);
}

/** Writes that pieces were taken for a pick, and where they lie now. */
export async function insertPicked(
  trx: Trx,
  taken: {
    key: string;
    pick: Pick<PickRow, 'id' | 'line_id' | 'item' | 'lot_id'>;
    serial: number | null;
    serialOut: string | null;
    qty: Qty;
    bin: number;
    person: number;
    at: Date | null;
  },
): Promise<void> {
  await query(
    trx,
    `INSERT INTO picked (key, pick_id, line_id, item_id, lot_id, serial_id, serial_out, qty, bin_id, person_id, at)
     VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, coalesce(?::timestamptz, now_here()))`,
    [
      taken.key,
      taken.pick.id,
      taken.pick.line_id,
      taken.pick.item,
      taken.pick.lot_id,
      taken.serial,
      taken.serialOut,
      dbQty(taken.qty),
      taken.bin,
      taken.person,
      taken.at,
    ],
  );
}

/** A cart of the site that no open round has, locked, or null. SKIP LOCKED: two people who make rounds at once get two carts, not one
 *  error. */
export async function lockFreeCart(trx: Trx, site: number): Promise<number | null> {
  const [cart] = await query<{ id: number }>(
    trx,
    `SELECT b.id
     FROM bin b
     WHERE b.site_id = ? AND b.use = 'cart' AND NOT EXISTS (SELECT 1 FROM round r WHERE r.cart_bin = b.id AND r.state = 'open')
     ORDER BY b.walk, b.id
     LIMIT 1
     FOR UPDATE SKIP LOCKED`,
    [site],
  );
  return cart?.id ?? null;
}

/** Writes a round without picks; returns its number in the database. */
export async function insertRound(
  trx: Trx,
  round: { number: string; document: number; site: number; cart: number; walker: number | null; person: number },
): Promise<number> {
  const made = await queryOne<{ id: number }>(
    trx,
    `INSERT INTO round (number, site_id, cart_bin, person_id, made_by, document_id) VALUES (?, ?, ?, ?, ?, ?) RETURNING id`,
    [round.number, round.site, round.cart, round.walker, round.person, round.document],
  );
  return made.id;
}

/** Writes what is to be picked on a round. */
export async function insertPicks(
  trx: Trx,
  round: number,
  picks: readonly { line: number; item: number; bin: number; lot: number | null; qty: Qty; slot: number }[],
): Promise<void> {
  await query(
    trx,
    `INSERT INTO round_pick (round_id, line_id, item_id, bin_id, lot_id, qty, slot)
     SELECT ?, *
     FROM unnest(?::int[], ?::int[], ?::int[], ?::int[], ?::numeric[], ?::int[])`,
    [
      round,
      picks.map((p) => p.line),
      picks.map((p) => p.item),
      picks.map((p) => p.bin),
      picks.map((p) => p.lot),
      picks.map((p) => dbQty(p.qty)),
      picks.map((p) => p.slot),
    ],
  );
}

/** Asks for a bin to be counted: the report stands until a count has settled it. `qty` as the database keeps it. */
export async function askForCount(trx: Trx, of: { bin: number; item: number; qty: string; person: number }): Promise<void> {
  await query(trx, `INSERT INTO trouble (kind, bin_id, item_id, qty, person_id) VALUES ('count', ?, ?, ?, ?)`, [
    of.bin,
    of.item,
    of.qty,
    of.person,
  ]);
}

/** Orders of a site that still want goods of these items and are not held, the most urgent first. */
export function selectWaitingOrders(db: Reads, site: number, items: readonly number[]): Promise<{ id: number; number: string }[]> {
  return query(
    db,
    `SELECT o.id, o.number
     FROM customer_order o
     WHERE o.site_id = ? AND o.state = 'open' AND o.held_for IS NULL AND EXISTS (
       SELECT 1
       FROM order_line l
       LEFT JOIN promise p ON p.line_id = l.id
       WHERE l.order_id = o.id AND l.item_id = ANY(?::int[]) AND l.qty > l.shipped + coalesce(p.qty, 0))
     ORDER BY o.priority, o.due, o.id
     LIMIT 20`,
    [site, items],
  );
}

/** A delivery, with those of its items of which something usable lies at arrivals. */
export async function selectArrived(
  db: Reads,
  delivery: number,
): Promise<{ number: string; state: string; site_id: number; site: string; items: number[] } | undefined> {
  const rows = await query<{ number: string; state: string; site_id: number; site: string; items: number[] }>(
    db,
    `SELECT d.number, d.state, d.site_id, w.name AS site, (
       SELECT coalesce(json_agg(DISTINCT e.item_id), '[]')
       FROM delivery_entry e
       JOIN stock_fact f ON f.item_id = e.item_id AND f.site_id = d.site_id AND f.use = 'arrivals' AND f.usable
       WHERE e.delivery_id = d.id AND e.taken_out_at IS NULL AND e.reversal_id IS NULL) AS items
     FROM delivery d
     JOIN site w ON w.id = d.site_id
     WHERE d.id = ?`,
    [delivery],
  );
  return rows[0];
}
