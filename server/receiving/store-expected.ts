import type { ItemId } from '#core/base';
import type { OpenPurchaseLine, SettledLine } from '#core/receiving';
import { asQty, dbQty, query, type Db, type Trx } from '#server/kernel';

type Reads = Pick<Db, 'raw'>;
/** How one item stands in a delivery: how much its paper still expects, and how much was scanned. Null where it expects none, and where
 *  none was. */
export async function selectStandingOf(
  db: Reads,
  delivery: { id: number },
  item: number,
): Promise<{ expected: string | null; scanned: string | null }> {
  const [row] = await query<{ expected: string | null; scanned: string | null }>(
    db,
    `SELECT (SELECT sum(x.qty) FROM (${EXPECTED}) x WHERE x.item = ?) AS expected,
       (SELECT sum(qty) FROM delivery_entry WHERE delivery_id = ? AND item_id = ? AND taken_out_at IS NULL) AS scanned`,
    [delivery.id, delivery.id, item, delivery.id, item],
  );
  return row ?? { expected: null, scanned: null };
}

/** The lines of a delivery's orders that still expect goods, those that are due first before the others. */
export async function selectOpenLines(db: Reads, delivery: number): Promise<OpenPurchaseLine[]> {
  const rows = await query<{ line: number; item: ItemId; open: string }>(
    db,
    `SELECT l.id AS line, l.item_id AS item, greatest(l.qty - l.received, 0) AS open
     FROM delivery_order x
     JOIN purchase_order o ON o.id = x.purchase_order_id
     JOIN purchase_line l ON l.purchase_order_id = o.id
     WHERE x.delivery_id = ? AND NOT l.closed AND o.state IN ('open', 'closed')
     ORDER BY o.due, l.id`,
    [delivery],
  );
  return rows.map((r) => ({ ...r, open: asQty(r.open) }));
}

/** Writes what a receipt means for the lines of its order, and keeps what they expected. */
export async function settlePurchaseLines(trx: Trx, delivery: number, lines: readonly SettledLine[]): Promise<void> {
  const args = [lines.map((l) => l.line), lines.map((l) => dbQty(l.received))];
  await query(
    trx,
    `INSERT INTO delivery_expected (delivery_id, purchase_line_id, item_id, expected, received)
     SELECT ?, *
     FROM unnest(?::int[], ?::int[], ?::numeric[], ?::numeric[])`,
    [
      delivery,
      lines.map((l) => l.line),
      lines.map((l) => l.item),
      lines.map((l) => dbQty(l.expected)),
      lines.map((l) => dbQty(l.received)),
    ],
  );
  await query(
    trx,
    `UPDATE purchase_line l SET received = l.received + x.qty FROM unnest(?::int[], ?::numeric[]) AS x(id, qty) WHERE l.id = x.id
      AND x.qty > 0`,
    args,
  );
}

/** Closes these lines, of which what is missing is within what is agreed, and opens those again that a receipt closed so and that are not
 *  within it any more. */
export async function closeAgreedShort(trx: Trx, delivery: number, lines: readonly number[]): Promise<void> {
  await query(
    trx,
    `WITH now AS (
       UPDATE delivery_expected e SET agreed_short = (e.purchase_line_id = ANY(?::int[]))
       WHERE e.delivery_id = ? AND e.agreed_short <> (e.purchase_line_id = ANY(?::int[]))
       RETURNING e.purchase_line_id AS line, e.agreed_short)
     UPDATE purchase_line l SET closed = now.agreed_short FROM now WHERE l.id = now.line`,
    [lines, delivery, lines],
  );
}

/** Closes those purchase orders of which nothing is expected any more; where asked, what is still missing is no longer expected. */
export async function closePurchaseOrders(trx: Trx, orders: readonly number[], closeShort: boolean): Promise<void> {
  if (closeShort)
    await query(trx, `UPDATE purchase_line SET closed = true WHERE purchase_order_id = ANY(?::int[]) AND received < qty`, [orders]);
  await query(
    trx,
    `UPDATE purchase_order o SET state = 'closed', version = version + 1, ended_at = now_here()
     WHERE o.id = ANY(?::int[]) AND o.state = 'open'
       AND NOT EXISTS (SELECT 1 FROM purchase_line l WHERE l.purchase_order_id = o.id AND NOT l.closed AND l.received < l.qty)`,
    [orders],
  );
}

/** What a posted delivery met when it was posted. */
export function selectMet(db: Reads, delivery: number): Promise<{ item: number; qty: string }[]> {
  return query(db, `SELECT item_id AS item, expected AS qty FROM delivery_expected WHERE delivery_id = ? ORDER BY purchase_line_id`, [
    delivery,
  ]);
}

// What the orders of a delivery still expect, line by line; or what left with the shipment of which it comes back, less what other returns
// brought back of it. Both values are the delivery.
const EXPECTED = `SELECT l.item_id AS item, l.open AS qty, l.id AS line
  FROM delivery_order x
  JOIN expected_line l ON l.purchase_order_id = x.purchase_order_id
  WHERE x.delivery_id = ?
  UNION ALL SELECT l.item_id, l.qty - coalesce((SELECT sum(r.qty) FROM returned_line r
    WHERE r.shipment_id = l.shipment_id AND r.item_id = l.item_id AND r.delivery_id <> d.id), 0), l.item_id
  FROM delivery d
  JOIN shipped_line l ON l.shipment_id = d.shipment_id
  WHERE d.id = ?`;

/** What is still expected of a delivery's paper, per line. */
export function selectExpected(db: Reads, delivery: number): Promise<{ item: number; qty: string }[]> {
  return query(db, `SELECT item, qty FROM (${EXPECTED}) x ORDER BY line`, [delivery, delivery]);
}

/** Those of these purchase orders that are approved and expect something at a site. */
export function selectReceivableOrders(db: Reads, site: number, orders: readonly number[]): Promise<{ id: number; supplier: number }[]> {
  return query(
    db,
    `SELECT DISTINCT purchase_order_id AS id, supplier_id AS supplier
     FROM expected_line
     WHERE site_id = ? AND purchase_order_id = ANY(?::int[])
     ORDER BY purchase_order_id`,
    [site, orders],
  );
}

/** What a posted delivery handed to each line that it met, in the order in which it did. */
export function selectSettled(db: Reads, delivery: number): Promise<{ line: number; item: ItemId; expected: string; received: string }[]> {
  return query(
    db,
    `SELECT x.purchase_line_id AS line, x.item_id AS item, x.expected, x.received
     FROM delivery_expected x
     JOIN purchase_line l ON l.id = x.purchase_line_id
     JOIN purchase_order o ON o.id = l.purchase_order_id
     WHERE x.delivery_id = ?
     ORDER BY o.due, l.id`,
    [delivery],
  );
}

/** Changes what a posted delivery handed to its lines, and the lines with it. */
export async function changeSettled(trx: Trx, delivery: number, lines: readonly SettledLine[]): Promise<void> {
  const args = [lines.map((l) => l.line), lines.map((l) => dbQty(l.received))];
  await query(
    trx,
    `WITH now AS (SELECT * FROM unnest(?::int[], ?::numeric[]) AS x(line, received)),
     was AS (SELECT purchase_line_id AS line, received FROM delivery_expected WHERE delivery_id = ?),
     told AS (
       UPDATE delivery_expected e SET received = now.received FROM now WHERE e.delivery_id = ? AND e.purchase_line_id = now.line)
     UPDATE purchase_line l SET received = l.received + now.received - was.received
     FROM now
     JOIN was USING (line)
     WHERE l.id = now.line AND now.received <> was.received`,
    [...args, delivery, delivery],
  );
}

/** Opens those purchase orders again that were closed because all had come, and of which something is missing again. */
export async function reopenPurchaseOrders(trx: Trx, orders: readonly number[]): Promise<void> {
  await query(
    trx,
    `UPDATE purchase_order o SET state = 'open', version = version + 1, ended_at = NULL, ended_by = NULL, ended_for = ''
     WHERE o.id = ANY(?::int[]) AND o.state = 'closed'
       AND EXISTS (SELECT 1 FROM purchase_line l WHERE l.purchase_order_id = o.id AND NOT l.closed AND l.received < l.qty)`,
    [orders],
  );
}
