import { type Qty } from '#core/base';
import { dbQty, query, queryOne, type Trx, type Db } from '#server/kernel';
import { type PickRow } from './store-picks.ts';

type Reads = Pick<Db, 'raw'>;
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
    `INSERT INTO picked (pick_id, line_id, item_id, lot_id, serial_id, serial_out, qty, bin_id, put_down, packed, person_id, at, unit_id,
       assembly_id)
     SELECT pick_id, line_id, item_id, lot_id, serial_id, serial_out, ?::numeric, bin_id, put_down, packed, person_id, at, unit_id,
       assembly_id
     FROM picked
     WHERE id = ?
     RETURNING id, qty`,
    [dbQty(qty), goods.id],
  );
  return { ...goods, ...made };
}

/** Notes that goods are in nobody's hands any more, and that their stops have not brought them. */
export async function markReturned(trx: Trx, goods: readonly Pick<InHandRow, 'id'>[]): Promise<void> {
  await query(trx, `UPDATE picked SET returned_at = now_here(), packed = false WHERE id = ANY(?::int[])`, [goods.map((g) => g.id)]);
  await takeOffPicks(
    trx,
    goods.map((g) => g.id),
  );
}

/** Takes what is in nobody's hands any more off the picks that brought it. */
export async function takeOffPicks(trx: Trx, picked: readonly number[]): Promise<void> {
  await query(
    trx,
    `UPDATE round_pick p SET picked = p.picked - x.qty, qty = p.qty - x.qty
     FROM (SELECT pick_id, sum(qty) AS qty FROM picked WHERE id = ANY(?::int[]) GROUP BY 1) x WHERE p.id = x.pick_id`,
    [picked],
  );
}

/** Says that what was picked lies in a bin of the bench now. */
export async function updatePutDown(trx: Trx, bin: number, picked: readonly number[]): Promise<void> {
  await query(trx, `UPDATE picked SET put_down = true, bin_id = ? WHERE id = ANY(?::int[])`, [bin, picked]);
}

/** Takes back that something was picked: it is nobody's again, and its pick waits for so much more. */
export async function updateReturned(trx: Trx, taken: { id: number; pick_id: number; qty: string }): Promise<void> {
  await query(trx, `UPDATE picked SET returned_at = now_here() WHERE id = ?`, [taken.id]);
  await query(trx, `UPDATE round_pick SET picked = picked - ?::numeric WHERE id = ?`, [taken.qty, taken.pick_id]);
}

/** Writes that pieces were taken for a pick, and where they lie now. */
export async function insertPicked(
  trx: Trx,
  taken: {
    key: string;
    pick: Pick<PickRow, 'id' | 'line_id' | 'item' | 'lot_id'>;
    serial: number | null;
    unit: number | null;
    serialOut: string | null;
    qty: Qty;
    bin: number;
    person: number;
    at: Date | null;
  },
): Promise<void> {
  await query(
    trx,
    `INSERT INTO picked (key, pick_id, line_id, item_id, lot_id, serial_id, unit_id, serial_out, qty, bin_id, person_id, at)
     VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, coalesce(?::timestamptz, now_here()))`,
    [
      taken.key,
      taken.pick.id,
      taken.pick.line_id,
      taken.pick.item,
      taken.pick.lot_id,
      taken.serial,
      taken.unit,
      taken.serialOut,
      dbQty(taken.qty),
      taken.bin,
      taken.person,
      taken.at,
    ],
  );
}
