import type { BinId, ItemId, LotId, Qty, SerialId, UnitId } from '#core/base';
import type { HeldPieces, StandingHold } from '#core/stock';
import { asQty, dbQty, query, queryOne, type Db, type Trx } from '#server/kernel';

type Reads = Pick<Db, 'raw'>;
type PiecesRow = { item: ItemId; bin: BinId; lot: LotId | null; serial: SerialId | null; unit: UnitId | null; qty: string };
const pieces = (rows: readonly PiecesRow[]): HeldPieces[] => rows.map((r) => ({ ...r, qty: asQty(r.qty) }));
const PIECES = 'item_id AS item, bin_id AS bin, lot_id AS lot, serial_id AS serial, unit_id AS unit, qty';

/** Writes what holds answer for. */
export async function insertHoldLines(trx: Trx, lines: readonly (HeldPieces & { hold: number })[]): Promise<void> {
  if (lines.length === 0) return;
  await query(
    trx,
    `INSERT INTO hold_line (hold_id, item_id, lot_id, serial_id, bin_id, unit_id, qty)
     SELECT * FROM unnest(?::int[], ?::int[], ?::int[], ?::int[], ?::int[], ?::int[], ?::numeric[])`,
    [
      lines.map((l) => l.hold),
      lines.map((l) => l.item),
      lines.map((l) => l.lot),
      lines.map((l) => l.serial),
      lines.map((l) => l.bin),
      lines.map((l) => l.unit),
      lines.map((l) => dbQty(l.qty)),
    ],
  );
}

/** What a hold answers for. */
export async function selectHoldLines(db: Reads, hold: number): Promise<HeldPieces[]> {
  return pieces(await query<PiecesRow>(db, `SELECT ${PIECES} FROM hold_line WHERE hold_id = ?`, [hold]));
}

/** The held pieces of these items at a site, where they lie now. */
export async function selectHeld(db: Reads, site: number, items: readonly number[]): Promise<HeldPieces[]> {
  return pieces(
    await query<PiecesRow>(
      db,
      `SELECT b.item_id AS item, b.bin_id AS bin, b.lot_id AS lot, b.serial_id AS serial, b.unit_id AS unit, b.qty
       FROM balance b
       JOIN bin ON bin.id = b.bin_id
       WHERE bin.site_id = ? AND b.condition = 'held' AND b.qty > 0 AND b.item_id = ANY(?::int[]) ORDER BY b.bin_id, b.id`,
      [site, items],
    ),
  );
}

/** What other open holds of the site hold of these items, by item, lot and serial. */
export async function selectOtherClaims(db: Reads, hold: { id: number; site: number }, items: readonly number[]): Promise<HeldPieces[]> {
  return pieces(
    await query<PiecesRow>(
      db,
      `SELECT l.item_id AS item, 0 AS bin, l.lot_id AS lot, l.serial_id AS serial, NULL::int AS unit, sum(l.qty) AS qty
       FROM hold_line l
       JOIN hold h ON h.id = l.hold_id
       WHERE h.released_at IS NULL AND h.id <> ? AND h.site_id = ? AND l.item_id = ANY(?::int[]) GROUP BY 1, 3, 4`,
      [hold.id, hold.site, items],
    ),
  );
}

/** The holds of a site that stand and may name these items or bins, oldest first. */
export function selectStandingHolds(db: Reads, site: number, items: readonly number[]): Promise<StandingHold[]> {
  return query<StandingHold>(
    db,
    `SELECT id, site_id AS site, item_id AS item, lot_id AS lot, serial_id AS serial, bin_id AS bin FROM hold
     WHERE standing AND released_at IS NULL AND site_id = ? AND (item_id IS NULL OR item_id = ANY(?::int[])) ORDER BY id`,
    [site, items],
  );
}

/** Sound pieces at a site that a hold would take: by item, bin, lot and serial, each where it is named. What is on carts and at benches is
 *  not among them: it is in somebody's hands, and is held by packing, which refuses it. */
export async function selectHoldable(
  db: Reads,
  site: number,
  scope: { item: number | null; bin: number | null; lot: number | null; serial: number | null },
): Promise<HeldPieces[]> {
  return pieces(
    await query<PiecesRow>(
      db,
      `SELECT b.item_id AS item, b.bin_id AS bin, b.lot_id AS lot, b.serial_id AS serial, b.unit_id AS unit, b.qty
       FROM balance b JOIN bin ON bin.id = b.bin_id LEFT JOIN lot l ON l.id = b.lot_id
       WHERE bin.site_id = ? AND b.condition = 'sound' AND b.qty > 0 AND (?::int IS NULL OR b.item_id = ?)
         AND (?::int IS NULL OR b.bin_id = ?)
         AND (?::int IS NULL OR b.lot_id = ?) AND (?::int IS NULL OR b.serial_id = ?) AND bin.use NOT IN ('cart', 'packing')
       ORDER BY l.expires NULLS LAST, bin.walk, b.bin_id, b.id`,
      [site, ...[scope.item, scope.bin, scope.lot, scope.serial].flatMap((v) => [v, v])],
    ),
  );
}

/** How many order lines of a site have a promise on one of these items, and how much is promised in all. */
export async function selectPromised(db: Reads, site: number, items: readonly number[]): Promise<{ lines: number; qty: Qty }> {
  const [row] = await query<{ n: number; qty: string | null }>(
    db,
    `SELECT count(*) AS n, sum(qty) AS qty FROM promise WHERE item_id = ANY(?::int[]) AND site_id = ?`,
    [items, site],
  );
  return { lines: row?.n ?? 0, qty: asQty(row?.qty ?? '0') };
}

/** Writes a hold and what it is of; null where it names no item, lot, serial or bin. `standing`: what comes later is held too. Returns its
 *  number. */
export async function insertHold(
  trx: Trx,
  hold: {
    document: number;
    site: number;
    item: number | null;
    lot: number | null;
    serial: number | null;
    bin: number | null;
    reason: string;
    until: string | null;
    person: number;
    standing: boolean;
  },
): Promise<number> {
  const made = await queryOne<{ id: number }>(
    trx,
    `INSERT INTO hold (document_id, site_id, item_id, lot_id, serial_id, bin_id, reason, until, person_id, standing)
     VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)
     RETURNING id`,
    [hold.document, hold.site, hold.item, hold.lot, hold.serial, hold.bin, hold.reason, hold.until, hold.person, hold.standing],
  );
  return made.id;
}

/** Says that a hold is released, by whom and on which document. */
export async function updateReleased(trx: Trx, hold: number, by: { person: number; document: number }): Promise<void> {
  await query(trx, `UPDATE hold SET released_at = now_here(), released_by = ?, release_document_id = ? WHERE id = ?`, [
    by.person,
    by.document,
    hold,
  ]);
}
