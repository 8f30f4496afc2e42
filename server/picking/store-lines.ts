import { type Qty } from '#core/base';
import { dbQty, query, type Trx, type Db } from '#server/kernel';

type Reads = Pick<Db, 'raw'>;
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

/** Ends the promises of an order. */
export async function deletePromises(trx: Trx, order: number): Promise<void> {
  await query(trx, `DELETE FROM promise WHERE line_id IN (SELECT id FROM order_line WHERE order_id = ?)`, [order]);
}

/** Numbers of lines, and beside them quantities as the database takes them. */
export type LineAmounts = readonly (readonly (number | string)[])[];

/** Takes what leaves from what its lines are promised; a promise that is used up goes. */
export async function takeFromPromises(trx: Trx, lines: LineAmounts): Promise<void> {
  await query(
    trx,
    `DELETE FROM promise p USING unnest(?::int[], ?::numeric[]) AS x(line, qty) WHERE p.line_id = x.line AND p.qty <= x.qty`,
    lines,
  );
  await query(
    trx,
    `UPDATE promise p SET qty = p.qty - x.qty FROM unnest(?::int[], ?::numeric[]) AS x(line, qty) WHERE p.line_id = x.line`,
    lines,
  );
}

/** Adds what leaves to what of its lines is shipped. */
export async function addShipped(trx: Trx, lines: LineAmounts): Promise<void> {
  await query(
    trx,
    `UPDATE order_line l SET shipped = l.shipped + x.qty FROM unnest(?::int[], ?::numeric[]) AS x(line, qty) WHERE l.id = x.line`,
    lines,
  );
}

/** Says that what was picked has left, and on which shipment's document. */
export async function updatePickedShipped(trx: Trx, picked: readonly number[], document: number): Promise<void> {
  await query(trx, `UPDATE picked SET shipped = true, shipment_document = ? WHERE id = ANY(?::int[])`, [document, picked]);
}
