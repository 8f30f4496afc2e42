import { parseAmount, type ItemId } from '#core/base';
import type { InvoicedItem } from '#core/receiving';
import { asQty, dbQty, query, type Db, type Trx } from '#server/kernel';

type Reads = Pick<Db, 'raw'>;
export type InvoicedRow = InvoicedItem & { readonly description: string; readonly unit: string };

/** The items of a delivery as its orders, its receipt and the invoice say them: those that were ordered, that came, or that somebody keyed
 *  from the invoice. The order's price is the mean of its lines where they differ. */
export async function selectInvoiced(db: Reads, delivery: number): Promise<InvoicedRow[]> {
  const rows = await query<{
    item: ItemId;
    code: string;
    description: string;
    unit: string;
    ordered: string | null;
    order_price: string | null;
    received: string;
    failed: string;
    invoiced: string | null;
    price: string | null;
  }>(
    db,
    `WITH ordered AS (
       SELECT x.item_id, sum(x.expected) AS qty,
         round(sum(x.expected * l.cost) / nullif(sum(x.expected), 0), 4) AS price
       FROM delivery_expected x
       JOIN purchase_line l ON l.id = x.purchase_line_id
       WHERE x.delivery_id = ? AND x.expected > 0
       GROUP BY x.item_id
     ), came AS (
       SELECT e.item_id, sum(e.qty) AS qty, coalesce(sum(f.failed), 0) AS failed, min(e.id) AS first
       FROM delivery_entry e
       LEFT JOIN finding f ON f.entry_id = e.id
       WHERE e.delivery_id = ? AND e.taken_out_at IS NULL AND e.reversal_id IS NULL
       GROUP BY e.item_id
     ), told AS (SELECT item_id, qty, price FROM invoice_line WHERE delivery_id = ?)
     SELECT i.id AS item, i.code, i.description, i.base_unit AS unit, o.qty AS ordered, o.price AS order_price,
       coalesce(c.qty, 0) AS received, coalesce(c.failed, 0) AS failed, t.qty AS invoiced, t.price
     FROM (SELECT item_id FROM ordered UNION SELECT item_id FROM came UNION SELECT item_id FROM told) any_of
     JOIN item i ON i.id = any_of.item_id
     LEFT JOIN ordered o USING (item_id)
     LEFT JOIN came c USING (item_id)
     LEFT JOIN told t USING (item_id)
     ORDER BY c.first, i.code`,
    [delivery, delivery, delivery],
  );
  return rows.map(({ order_price, price, ...r }) => ({
    ...r,
    ordered: r.ordered === null ? null : asQty(r.ordered),
    orderPrice: order_price === null ? null : parseAmount(order_price),
    received: asQty(r.received),
    failed: asQty(r.failed),
    invoiced: r.invoiced === null ? null : asQty(r.invoiced),
    invoicePrice: price === null ? null : parseAmount(price),
  }));
}

/** Who keyed the invoice of a delivery, and when. */
export async function selectInvoiceBy(db: Reads, delivery: number): Promise<{ by: string; at: Date } | null> {
  const [row] = await query<{ by: string; at: Date }>(
    db,
    `SELECT p.name AS by, d.invoice_at AS at FROM delivery d JOIN person p ON p.id = d.invoice_by WHERE d.id = ?`,
    [delivery],
  );
  return row ?? null;
}

/** Writes the lines of an invoice; what was keyed of it before is gone. */
export async function replaceInvoice(
  trx: Trx,
  delivery: number,
  person: number,
  lines: readonly { item: number; qty: InvoicedItem['received']; price: string | null }[],
): Promise<void> {
  await query(trx, `DELETE FROM invoice_line WHERE delivery_id = ?`, [delivery]);
  await query(
    trx,
    `INSERT INTO invoice_line (delivery_id, item_id, qty, price)
     SELECT ?, x.item, x.qty, x.price
     FROM unnest(?::int[], ?::numeric[], ?::numeric[]) AS x(item, qty, price)`,
    [delivery, lines.map((l) => l.item), lines.map((l) => dbQty(l.qty)), lines.map((l) => l.price)],
  );
  await query(trx, `UPDATE delivery SET invoice_by = ?, invoice_at = now_here() WHERE id = ?`, [person, delivery]);
}
