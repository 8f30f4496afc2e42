import type { Qty } from '#core/base';
import type { CarryKind, CarryTrouble } from '#core/carrying';
import type { Tracking } from '#core/items';
import type { CarryWay, RoundBin } from '#core/routing';
import type { Condition } from '#core/stock';
import { announce, dbQty, lockRows, query, queryOne, refuse, type Db, type Trx } from '#server/kernel';

type Reads = Pick<Db, 'raw'>;
export type CarryListRow = {
  id: number;
  number: string;
  kind: CarryKind;
  state: 'open' | 'done' | 'thrown';
  site_id: number;
  site: string;
  person_id: number | null;
  person: string | null;
  cart_bin: number | null;
  cart: string | null;
  at: Date;
  document_id: number;
  lines: number;
  done: number;
  trouble: number;
  take_way: number[];
  put_way: number[];
  unreached: number[];
  metres: number | null;
  plain: number | null;
};
// What was put of a line `t`, and what was taken.
const CARRIED = (way: 'take' | 'put'): string =>
  `(SELECT coalesce(sum(d.qty), 0) FROM carried d WHERE d.task_id = t.id AND d.way = '${way}' AND d.undone_at IS NULL)`;
const LISTED = `SELECT c.id, c.number, c.kind, c.state, c.site_id, s.name AS site, c.person_id, p.name AS person, c.cart_bin,
    b.address AS cart, c.at, c.document_id, c.take_way, c.put_way, c.unreached, c.metres::float8 AS metres,
    c.plain_metres::float8 AS plain, x.*
  FROM carry c
  JOIN site s ON s.id = c.site_id
  LEFT JOIN bin b ON b.id = c.cart_bin
  LEFT JOIN person p ON p.id = c.person_id
  CROSS JOIN LATERAL (
    SELECT count(*) FILTER (WHERE t.qty > 0) AS lines, count(*) FILTER (WHERE t.qty > 0 AND ${CARRIED('put')} >= t.qty) AS done,
      count(t.trouble) AS trouble
    FROM carry_task t
    WHERE t.carry_id = c.id) x`;
const MOST_ENDED = 10;

/** Put-away and refill rounds of a site: those that are walked, the oldest first, or the last that ended. */
export function selectCarries(db: Reads, site: number, which: 'open' | 'ended', kind: CarryKind | null): Promise<CarryListRow[]> {
  const order =
    which === 'open' ? `c.state = 'open' ORDER BY c.id LIMIT 200` : `c.state <> 'open' ORDER BY c.ended_at DESC LIMIT ${MOST_ENDED}`;
  return query<CarryListRow>(db, `${LISTED} WHERE c.site_id = ? AND (?::text IS NULL OR c.kind = ?) AND ${order}`, [site, kind, kind]);
}

/** The round, refusing `carrying.unknown`. */
export async function findCarry(db: Reads, id: number): Promise<CarryListRow> {
  return (await query<CarryListRow>(db, `${LISTED} WHERE c.id = ?`, [id]))[0] ?? refuse({ code: 'carrying.unknown', text: String(id) });
}

/** Locks a round and reads it as it is then.
 *  Errors: `carrying.unknown`; `people.otherSite` where it is another site's. */
export async function lockCarryAt(trx: Trx, id: number, site: number): Promise<CarryListRow> {
  await lockRows(trx, 'carry', [id]);
  const carry = await findCarry(trx, id);
  if (carry.site_id !== site) refuse({ code: 'people.otherSite', what: carry.number, site: carry.site });
  return carry;
}

export type TaskRow = {
  id: number;
  key: string;
  item: number;
  code: string;
  description: string;
  unit: string;
  decimals: number;
  tracking: Tracking;
  from_bin: number;
  from: string;
  from_walk: number;
  to_bin: number;
  to: string;
  to_walk: number;
  lot_id: number | null;
  lot: string | null;
  expires: string | null;
  serial_id: number | null;
  serial: string | null;
  unit_id: number | null;
  sscc: string | null;
  condition: Condition;
  qty: string;
  taken: string;
  put: string;
  why: string;
  trouble: CarryTrouble | null;
};

/** The lines of a round, or one of them by its number or its key. */
export function selectTasks(db: Reads, carry: number, task: number | string | null = null): Promise<TaskRow[]> {
  const [byId, byKey] = [typeof task === 'number' ? task : null, typeof task === 'string' ? task : null];
  return query<TaskRow>(
    db,
    `SELECT t.id, t.key, t.item_id AS item, i.code, i.description, i.base_unit AS unit, i.decimals, i.tracking, t.from_bin,
       f.address AS from, f.walk AS from_walk, t.to_bin, g.address AS to, g.walk AS to_walk, t.lot_id, l.code AS lot, l.expires,
       t.serial_id, s.code AS serial, t.unit_id, u.sscc, t.condition, t.qty, ${CARRIED('take')} AS taken, ${CARRIED('put')} AS put,
       t.why, t.trouble
     FROM carry_task t
     JOIN item i ON i.id = t.item_id
     JOIN bin f ON f.id = t.from_bin
     JOIN bin g ON g.id = t.to_bin
     LEFT JOIN lot l ON l.id = t.lot_id
     LEFT JOIN serial s ON s.id = t.serial_id
     LEFT JOIN logistic_unit u ON u.id = t.unit_id
     WHERE t.carry_id = ? AND (?::int IS NULL OR t.id = ?) AND (?::uuid IS NULL OR t.key = ?::uuid)
     ORDER BY t.id`,
    [carry, byId, byId, byKey, byKey],
  );
}

export type NewTask = {
  readonly item: number;
  readonly from: number;
  readonly lot: number | null;
  readonly serial: number | null;
  readonly unit: number | null;
  readonly condition: Condition;
  readonly qty: Qty;
  readonly to: number;
  readonly why: string;
};

/** Writes a round with its lines; returns its number in the database. */
export async function insertCarry(
  trx: Trx,
  carry: {
    kind: CarryKind;
    number: string;
    document: number;
    site: number;
    cart: number | null;
    walker: number | null;
    person: number;
    tasks: readonly NewTask[];
    way: CarryWay;
  },
): Promise<number> {
  const { way, tasks } = carry;
  const { id } = await queryOne<{ id: number }>(
    trx,
    `INSERT INTO carry (kind, number, document_id, site_id, cart_bin, person_id, made_by, take_way, take_legs, put_way, put_legs, unreached,
       metres, plain_metres)
     VALUES (?, ?, ?, ?, ?, ?, ?, ?::int[], ?::real[], ?::int[], ?::real[], ?::int[], ?, ?) RETURNING id`,
    [
      carry.kind,
      carry.number,
      carry.document,
      carry.site,
      carry.cart,
      carry.walker,
      carry.person,
      way.takes,
      way.takeLegs,
      way.puts,
      way.putLegs,
      way.unreached,
      way.metres,
      way.plain,
    ],
  );
  await query(
    trx,
    `INSERT INTO carry_task (carry_id, item_id, from_bin, lot_id, serial_id, unit_id, condition, qty, to_bin, why)
     SELECT ?, *
     FROM unnest(?::int[], ?::int[], ?::int[], ?::int[], ?::int[], ?::text[], ?::numeric[], ?::int[], ?::text[])`,
    [
      id,
      tasks.map((t) => t.item),
      tasks.map((t) => t.from),
      tasks.map((t) => t.lot),
      tasks.map((t) => t.serial),
      tasks.map((t) => t.unit),
      tasks.map((t) => t.condition),
      tasks.map((t) => dbQty(t.qty)),
      tasks.map((t) => t.to),
      tasks.map((t) => t.why),
    ],
  );
  announce(trx, 'carrying');
  return id;
}

/** The bins of these numbers, as a way wants them. */
export const selectWayBins = (db: Reads, bins: readonly number[]): Promise<RoundBin[]> =>
  query<RoundBin>(db, `SELECT id, zone_id AS zone, address, walk FROM bin WHERE id = ANY(?::int[])`, [bins]);

/** Writes that goods were taken onto the cart, or put into a bin. Returns its number in the database. */
export async function insertCarried(
  trx: Trx,
  one: {
    key: string;
    task: number;
    way: 'take' | 'put';
    qty: Qty;
    serial: number | null;
    bin: number;
    person: number;
    at: Date | null;
  },
): Promise<number> {
  const { id } = await queryOne<{ id: number }>(
    trx,
    `INSERT INTO carried (key, task_id, way, qty, serial_id, bin_id, movements, person_id, at)
     VALUES (?, ?, ?, ?, ?, ?, '{}', ?, coalesce(?::timestamptz, now_here())) RETURNING id`,
    [one.key, one.task, one.way, dbQty(one.qty), one.serial, one.bin, one.person, one.at],
  );
  return id;
}

/** Notes by which movements it happened, and how many they were. */
export async function updateCarriedBy(trx: Trx, id: number, movements: readonly number[], qty: Qty): Promise<void> {
  await query(trx, `UPDATE carried SET movements = ?::bigint[], qty = ? WHERE id = ?`, [movements, dbQty(qty), id]);
}

export type CarriedRow = {
  id: number;
  task_id: number;
  way: 'take' | 'put';
  qty: string;
  serial_id: number | null;
  movements: number[];
  person_id: number;
};

/** What an act did on a round and nobody took back; undefined where there is none. */
export async function selectCarried(db: Reads, carry: number, key: string): Promise<CarriedRow | undefined> {
  const rows = await query<CarriedRow>(
    db,
    `SELECT d.id, d.task_id, d.way, d.qty, d.serial_id, array_to_json(d.movements) AS movements, d.person_id
     FROM carried d
     JOIN carry_task t ON t.id = d.task_id
     WHERE t.carry_id = ? AND d.key = ?::uuid AND d.undone_at IS NULL`,
    [carry, key],
  );
  return rows[0];
}

/** Notes that it was taken back. */
export async function updateUndone(trx: Trx, id: number, person: number): Promise<void> {
  await query(trx, `UPDATE carried SET undone_at = now_here(), undone_by = ? WHERE id = ?`, [person, id]);
}

/** Plans so many of a line, with what was in the way where something was. */
export async function updateTaskQty(trx: Trx, task: number, qty: Qty, trouble: CarryTrouble | null): Promise<void> {
  await query(trx, `UPDATE carry_task SET qty = ?, trouble = coalesce(?, trouble) WHERE id = ?`, [dbQty(qty), trouble, task]);
}

/** Says how a round stands: over when nothing is left to be carried, open again when something was taken back. */
export async function updateCarryState(trx: Trx, carry: number, person: number): Promise<void> {
  await query(
    trx,
    `WITH left_over AS (
       SELECT 1
       FROM carry_task t
       JOIN carry c ON c.id = t.carry_id
       WHERE t.carry_id = ? AND (${CARRIED('put')} < t.qty OR (c.cart_bin IS NOT NULL AND ${CARRIED('take')} <> ${CARRIED('put')})))
     UPDATE carry SET state = CASE WHEN EXISTS (SELECT 1 FROM left_over) THEN 'open' ELSE 'done' END,
       ended_at = CASE WHEN EXISTS (SELECT 1 FROM left_over) THEN NULL ELSE now_here() END,
       ended_by = CASE WHEN EXISTS (SELECT 1 FROM left_over) THEN NULL ELSE ?::int END
     WHERE id = ? AND state <> 'thrown'`,
    [carry, person, carry],
  );
}

/** Says who walks a round; null for nobody yet. */
export async function updateCarrier(trx: Trx, carry: number, person: number | null): Promise<void> {
  await query(trx, `UPDATE carry SET person_id = ? WHERE id = ?`, [person, carry]);
  announce(trx, 'carrying', { carry });
}

/** Ends a round that is thrown away: what of its lines was not put is not planned any more. */
export async function updateCarryThrown(trx: Trx, carry: number, person: number): Promise<void> {
  await query(trx, `UPDATE carry_task t SET qty = ${CARRIED('put')} WHERE t.carry_id = ?`, [carry]);
  await query(trx, `UPDATE carry SET state = 'thrown', ended_at = now_here(), ended_by = ? WHERE id = ?`, [person, carry]);
}

export type OnCartRow = {
  task_id: number;
  item_id: number;
  lot_id: number | null;
  serial_id: number | null;
  serial: string | null;
  qty: string;
  bin_id: number;
};

/** What rides on the cart of a round, by its lines. */
export const selectOnCart = (db: Reads, carry: number): Promise<OnCartRow[]> =>
  query<OnCartRow>(
    db,
    `SELECT c.task_id, c.item_id, c.lot_id, c.serial_id, s.code AS serial, c.bin_id, c.qty
     FROM on_cart c
     LEFT JOIN serial s ON s.id = c.serial_id
     WHERE c.carry_id = ?
     ORDER BY c.item_id, c.lot_id, c.serial_id`,
    [carry],
  );
