import { type Qty } from '#core/base';
import { type Tracking } from '#core/items';
import { dbQty, query, type Trx, type Db } from '#server/kernel';
import { type askingOf } from '#server/stock';

type Reads = Pick<Db, 'raw'>;
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
  /** The bin for which it was planned before somebody took it here instead, and why. */
  instead_of: string | null;
  instead_why: string | null;
};

const twice = <T>(value: T): [T, T] => [value, value];

/** A pick by its number, or by the key that it has on devices. */
export type PickName = number | string;

/** The serials that the line of a pick `k` names. */
export const NAMED_SERIALS = `(SELECT json_agg(s.code ORDER BY s.code)
  FROM order_line_serial x
  JOIN serial s ON s.id = x.serial_id
  WHERE x.line_id = k.line_id)`;

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
       ${NAMED_SERIALS} AS serials, ${KEPT_SERIALS} AS kept,
       (SELECT x.address FROM bin x WHERE x.id = k.instead_of) AS instead_of, k.instead_why
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

/** The order for which a pick of a round is; undefined where it is not on that round. */
export async function selectOrderOfPick(db: Reads, round: number, pick: PickName): Promise<number | undefined> {
  const rows = await query<{ order: number }>(
    db,
    `SELECT l.order_id AS order
     FROM round_pick k
     JOIN order_line l ON l.id = k.line_id
     WHERE k.round_id = ? AND (k.id = ?::int OR k.key = ?::uuid)`,
    [round, typeof pick === 'number' ? pick : null, typeof pick === 'string' ? pick : null],
  );
  return rows[0]?.order;
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

/** Plans so much of a pick in another bin, where it lies too (G4). */
export async function insertPickElsewhere(
  trx: Trx,
  pick: Pick<PickRow, 'id'>,
  instead: { key: string; bin: number; lot: number | null; qty: Qty; why: string },
): Promise<void> {
  await query(
    trx,
    `INSERT INTO round_pick (key, round_id, line_id, item_id, bin_id, lot_id, qty, slot, instead_of, instead_why)
     SELECT ?::uuid, round_id, line_id, item_id, ?, ?, ?::numeric, slot, bin_id, ?
     FROM round_pick
     WHERE id = ?`,
    [instead.key, instead.bin, instead.lot, dbQty(instead.qty), instead.why, pick.id],
  );
}

/** Plans so much for a pick. */
export async function updatePlanned(trx: Trx, pick: number, qty: Qty): Promise<void> {
  await query(trx, `UPDATE round_pick SET qty = ? WHERE id = ?`, [dbQty(qty), pick]);
}

/** Says how much of a pick was taken. */
export async function updatePickPicked(trx: Trx, pick: number, picked: Qty): Promise<void> {
  await query(trx, `UPDATE round_pick SET picked = ? WHERE id = ?`, [dbQty(picked), pick]);
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
