import { type RoundBin, type RoundWay } from '#core/routing';
import { announce, lockRows, query, queryOne, refuse, together, type Trx, type Db } from '#server/kernel';

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
  CROSS JOIN LATERAL (
    SELECT coalesce(json_agg(DISTINCT o.number) FILTER (WHERE k.qty > 0), '[]') AS orders,
      coalesce(json_agg(DISTINCT o.id), '[]') AS order_ids,
      count(*) FILTER (WHERE k.qty > 0) AS picks,
      count(*) FILTER (WHERE k.qty > 0 AND k.picked = k.qty) AS done,
      count(DISTINCT k.bin_id) FILTER (WHERE k.qty > 0 AND k.bin_id <> r.cart_bin) AS stops,
      count(k.trouble) AS trouble
    FROM round_pick k
    JOIN order_line l ON l.id = k.line_id
    JOIN customer_order o ON o.id = l.order_id
    WHERE k.round_id = r.id) x`;

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

/** A round as whoever takes goods on it needs it. */
export type WalkedRound = Pick<
  RoundListRow,
  'id' | 'number' | 'state' | 'site_id' | 'site' | 'person_id' | 'person' | 'cart_bin' | 'document_id'
>;

/** Locks a round and reads it as it is then, without all that its picks come to: a hand waits for it.
 *  Errors: as `lockRoundAt`. */
export async function lockWalkedRound(trx: Trx, id: number, site: number): Promise<WalkedRound> {
  const [, [round]] = await together([
    lockRows(trx, 'round', [id]),
    query<WalkedRound>(
      trx,
      `SELECT r.id, r.number, r.state, r.site_id, s.name AS site, r.person_id, p.name AS person, r.cart_bin, r.document_id
       FROM round r
       JOIN site s ON s.id = r.site_id
       LEFT JOIN person p ON p.id = r.person_id
       WHERE r.id = ?`,
      [id],
    ),
  ]);
  if (!round) return refuse({ code: 'picking.unknownRound', text: String(id) });
  if (round.site_id !== site) refuse({ code: 'people.otherSite', what: `Round ${round.number}`, site: round.site });
  return round;
}

/** Says who walks a round; null for nobody yet. */
export async function updateWalker(trx: Trx, round: number, person: number | null): Promise<void> {
  await query(trx, `UPDATE round SET person_id = ? WHERE id = ?`, [person, round]);
  announce(trx, 'picking', { round });
}

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

/** Says that a round is thrown away, and by whom. */
export async function updateThrown(trx: Trx, round: number, person: number): Promise<void> {
  await query(trx, `UPDATE round SET state = 'thrown', thrown_at = now_here(), thrown_by = ? WHERE id = ?`, [person, round]);
}

/** Says that a round was put down. */
export async function updateRoundPutDown(trx: Trx, round: number): Promise<void> {
  await query(trx, `UPDATE round SET state = 'putDown', put_down_at = now_here() WHERE id = ?`, [round]);
}

/** A cart of the site with which nobody walks, locked, or null. SKIP LOCKED: two people who make rounds at once get two carts, not one
 *  error. */
export async function lockFreeCart(trx: Trx, site: number): Promise<number | null> {
  const [cart] = await query<{ id: number }>(
    trx,
    `SELECT b.id
     FROM bin b
     WHERE b.site_id = ? AND b.use = 'cart' AND b.retired_at IS NULL AND b.id NOT IN (SELECT w.bin_id FROM cart_at_work w)
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
