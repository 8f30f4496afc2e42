import type { Qty } from '#core/base';
import { dbQty, query, queryOne, type Db, type Trx } from '#server/kernel';

type Reads = Pick<Db, 'raw'>;
export type PartPieceRow = {
  id: number;
  line: number;
  item: number;
  code: string;
  lot_id: number | null;
  serial_id: number | null;
  qty: string;
  bin: number;
  address: string;
  put_down: boolean;
  round: number;
  slot: number;
  expires: string | null;
  expired: boolean;
};

/** What is in hand for an order, piece by piece, with the round that brought it. */
export function selectPartPieces(db: Reads, order: number): Promise<PartPieceRow[]> {
  return query<PartPieceRow>(
    db,
    `SELECT k.id, k.line_id AS line, k.item_id AS item, i.code, k.lot_id, k.serial_id, k.qty, k.bin_id AS bin, b.address, k.put_down,
       p.round_id AS round, p.slot, t.expires, coalesce(t.expires < today_at(o.site_id), false) AS expired
     FROM in_hand k
     JOIN order_line l ON l.id = k.line_id
     JOIN customer_order o ON o.id = l.order_id
     JOIN round_pick p ON p.id = k.pick_id
     JOIN item i ON i.id = k.item_id
     JOIN bin b ON b.id = k.bin_id
     LEFT JOIN lot t ON t.id = k.lot_id
     WHERE l.order_id = ?
     ORDER BY k.id`,
    [order],
  );
}

/** How many kits a line still wants that are not promised to it; 0 where its order is not open, where it names which ones it wants, or
 *  wants them to keep longer than these do. `expires`: null where they do not. */
export async function selectKitsWanted(db: Reads, line: number, expires: string | null): Promise<string> {
  const row = await queryOne<{ open: string }>(
    db,
    `SELECT CASE WHEN o.state = 'open' AND a.lot_id IS NULL AND a.serial_ids IS NULL AND a.bin_id IS NULL
         AND (a.good_on IS NULL OR ?::date IS NULL OR a.good_on <= ?::date)
       THEN l.qty - l.shipped - coalesce((SELECT p.qty FROM promise p WHERE p.line_id = l.id), 0)
       ELSE 0 END AS open
     FROM order_line l
     JOIN line_asking a ON a.line_id = l.id
     JOIN customer_order o ON o.id = l.order_id
     WHERE l.id = ?`,
    [expires, expires, line],
  );
  return row.open;
}

/** Writes that kits were made, and on which document. */
export async function insertAssembly(
  trx: Trx,
  made: { key: string; number: string; order: number; document: number; qty: Qty; person: number; at: Date | null },
): Promise<number> {
  const { id } = await queryOne<{ id: number }>(
    trx,
    `INSERT INTO assembly (key, number, order_id, document_id, qty, person_id, at)
     VALUES (?, ?, ?, ?, ?, ?, coalesce(?::timestamptz, now_here()))
     RETURNING id`,
    [made.key, made.number, made.order, made.document, dbQty(made.qty), made.person, made.at],
  );
  await query(
    trx,
    `UPDATE customer_order o
     SET kit_made = kit_made + ?::numeric, changed = now_here(),
       state = CASE WHEN EXISTS (SELECT 1 FROM order_line l WHERE l.order_id = o.id AND l.qty > l.shipped) THEN 'open' ELSE 'shipped' END
     WHERE id = ?`,
    [dbQty(made.qty), made.order],
  );
  return id;
}

/** Writes that kits lie for a line where they were made: as what its round brought, a piece for each serial. */
export async function insertKitsInHand(
  trx: Trx,
  kits: {
    assembly: number;
    round: number;
    line: number;
    /** The order whose slot on the cart is theirs, and the slot where it has none there. */
    order: number;
    slot: number;
    item: number;
    bin: number;
    putDown: boolean;
    person: number;
    pieces: readonly { qty: Qty; lot: number | null; serial: number | null; serialOut: string | null }[];
  },
): Promise<void> {
  const { pieces } = kits;
  const total = pieces.reduce((sum, p) => sum + p.qty, 0) as Qty;
  const pick = await queryOne<{ id: number }>(
    trx,
    `INSERT INTO round_pick (round_id, line_id, item_id, bin_id, lot_id, qty, picked, slot)
     SELECT ?, ?, ?, ?, ?, ?::numeric, ?::numeric, coalesce((
       SELECT min(k.slot) FROM round_pick k JOIN order_line l ON l.id = k.line_id WHERE k.round_id = ? AND l.order_id = ?
     ), ?)
     RETURNING id`,
    [kits.round, kits.line, kits.item, kits.bin, pieces[0]?.lot ?? null, dbQty(total), dbQty(total), kits.round, kits.order, kits.slot],
  );
  await query(
    trx,
    `INSERT INTO picked (pick_id, line_id, item_id, lot_id, serial_id, serial_out, qty, bin_id, put_down, person_id, assembly_id)
     SELECT ?, ?, ?, x.lot, x.serial, x.out, x.qty, ?, ?, ?, ?
     FROM unnest(?::int[], ?::int[], ?::text[], ?::numeric[]) AS x(lot, serial, out, qty)`,
    [
      pick.id,
      kits.line,
      kits.item,
      kits.bin,
      kits.putDown,
      kits.person,
      kits.assembly,
      pieces.map((p) => p.lot),
      pieces.map((p) => p.serial),
      pieces.map((p) => p.serialOut),
      pieces.map((p) => dbQty(p.qty)),
    ],
  );
}

export type AssemblyRow = {
  id: number;
  number: string;
  order_id: number;
  for_id: number | null;
  for_line: number | null;
  kit: number;
  code: string;
  qty: string;
  document_id: number;
  apart: boolean;
  person_id: number;
  person: string;
  /** The rounds that brought its parts, and that have its kits. */
  rounds: number[];
};

/** A making of kits, by its number or by the key of the act that it was. */
export async function selectAssembly(db: Reads, id: number | string): Promise<AssemblyRow | undefined> {
  const rows = await query<AssemblyRow>(
    db,
    `SELECT a.id, a.number, a.order_id, l.order_id AS for_id, l.id AS for_line, o.kit_id AS kit, i.code, a.qty, a.document_id,
       a.apart_at IS NOT NULL AS apart, a.person_id, h.name AS person, (
         SELECT coalesce(json_agg(DISTINCT p.round_id), '[]')
         FROM picked k
         JOIN round_pick p ON p.id = k.pick_id
         WHERE k.assembly_id = a.id OR k.shipment_document = a.document_id
       ) AS rounds
     FROM assembly a
     JOIN customer_order o ON o.id = a.order_id
     JOIN item i ON i.id = o.kit_id
     JOIN person h ON h.id = a.person_id
     LEFT JOIN order_line l ON l.id = o.kit_line
     WHERE a.id = ?::int OR a.key = ?::uuid`,
    [typeof id === 'number' ? id : null, typeof id === 'string' ? id : null],
  );
  return rows[0];
}

/** The kits of an assembly that were somebody's: where they are, and whether they may still be taken away. */
export function selectKitPieces(
  db: Reads,
  assembly: number,
): Promise<{ id: number; line: number; lot_id: number | null; serial_id: number | null; qty: string; bin: number; free: boolean }[]> {
  return query(
    db,
    `SELECT id, line_id AS line, lot_id, serial_id, qty, bin_id AS bin, NOT packed AND NOT shipped AS free
     FROM picked
     WHERE assembly_id = ? AND returned_at IS NULL`,
    [assembly],
  );
}

/** What the document of an assembly moved: its parts into kits, and the kits to where they were made. */
export function selectAssembled(
  db: Reads,
  document: number,
): Promise<
  { item: number; lot_id: number | null; serial_id: number | null; qty: string; from_bin: number; to_bin: number; to_use: string | null }[]
> {
  return query(
    db,
    `SELECT m.item_id AS item, m.lot_id, m.serial_id, m.qty, m.from_bin, m.to_bin, b.use AS to_use
     FROM movement m
     JOIN bin b ON b.id = m.to_bin
     WHERE m.document_id = ?
     ORDER BY m.id`,
    [document],
  );
}

export type UsedRow = {
  id: number;
  line: number;
  item: number;
  lot_id: number | null;
  serial_id: number | null;
  qty: string;
  bin: number;
  address: string;
  round: number;
  /** Whether the cart on which it lay is still that round's. */
  on_cart: boolean;
};

/** The parts that an assembly used, as they lay in somebody's hands. */
export function selectUsed(db: Reads, document: number): Promise<UsedRow[]> {
  return query<UsedRow>(
    db,
    `SELECT k.id, k.line_id AS line, k.item_id AS item, k.lot_id, k.serial_id, k.qty, k.bin_id AS bin, b.address, r.id AS round,
       r.state = 'open' AND r.cart_bin = k.bin_id AS on_cart
     FROM picked k
     JOIN round_pick p ON p.id = k.pick_id
     JOIN round r ON r.id = p.round_id
     JOIN bin b ON b.id = k.bin_id
     WHERE k.shipment_document = ? AND k.shipped
     ORDER BY k.id`,
    [document],
  );
}

/** Takes back that kits were made, as far as nobody need have the parts for it: what was promised of the kits is not, the lines of the
 *  parts have not used them, and the order waits for its kits. */
export async function updateApart(
  trx: Trx,
  apart: { assembly: number; order: number; qty: Qty; document: number; person: number; kits: readonly number[]; used: readonly number[] },
): Promise<void> {
  const kits = `(SELECT line_id, sum(qty) AS qty FROM picked WHERE id = ANY(?::int[]) GROUP BY 1) x`;
  await query(trx, `DELETE FROM promise p USING ${kits} WHERE p.line_id = x.line_id AND p.qty <= x.qty`, [apart.kits]);
  await query(trx, `UPDATE promise p SET qty = p.qty - x.qty FROM ${kits} WHERE p.line_id = x.line_id`, [apart.kits]);
  await query(trx, `UPDATE order_line l SET shipped = l.shipped - x.qty FROM ${kits} WHERE l.id = x.line_id`, [apart.used]);
  await query(trx, `UPDATE picked SET shipped = false, shipment_document = NULL, returned_at = now_here() WHERE id = ANY(?::int[])`, [
    apart.used,
  ]);
  await query(trx, `UPDATE customer_order SET kit_made = kit_made - ?::numeric, state = 'open', changed = now_here() WHERE id = ?`, [
    dbQty(apart.qty),
    apart.order,
  ]);
  await query(trx, `UPDATE assembly SET apart_at = now_here(), apart_by = ?, apart_document = ? WHERE id = ?`, [
    apart.person,
    apart.document,
    apart.assembly,
  ]);
}

/** Says of parts that they are in hand again, where they lay. */
export async function updateInHandAgain(trx: Trx, used: readonly number[]): Promise<void> {
  await query(trx, `UPDATE picked SET returned_at = NULL WHERE id = ANY(?::int[])`, [used]);
}
