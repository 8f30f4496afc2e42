import { withCheckDigit } from '#core/items';
import { query, type Trx } from '#server/kernel';
import type { History } from './history.ts';
import type { Company } from './masters.ts';

/** What suppliers said is on its way: two orders, each on two pallets, with lots and dates; goods that are kept by serial come loose. */
export async function announce(trx: Trx, company: Company, history: History): Promise<void> {
  const orders = await query<{ id: number; supplier: number; due: string }>(
    trx,
    `SELECT o.id, o.supplier_id AS supplier, o.due
     FROM purchase_order o
     WHERE o.state = 'open' AND o.site_id = ? AND NOT EXISTS (SELECT 1 FROM delivery_order x WHERE x.purchase_order_id = o.id)
       AND (SELECT count(*) FROM purchase_line l WHERE l.purchase_order_id = o.id) > 2
     ORDER BY o.id DESC
     LIMIT 2`,
    [company.site],
  );
  for (const [n, order] of orders.entries()) {
    const [notice] = await query<{ id: number }>(
      trx,
      `INSERT INTO notice (number, site_id, supplier_id, reference, issued, due, at, touched, file_name, contents)
       VALUES ('AN-' || nextval('number_an'), ?, ?, ?, ?, ?, ?, ?, ?, ?)
       RETURNING id`,
      [
        company.site,
        order.supplier,
        `DN-88${40 + n}`,
        history.date(-1),
        history.date(n),
        history.at(1, 15),
        history.at(1, 15),
        `DN-88${40 + n}.xml`,
        `demo ${n}`,
      ],
    );
    const pallets = [1, 2].map((p) => withCheckDigit(`39520001000000${n}${String(p).padStart(2, '0')}`));
    await query(
      trx,
      `INSERT INTO notice_line (notice_id, sscc, purchase_order_id, item_id, pack_id, qty, lot, expires, is_whole)
       SELECT ?, CASE WHEN i.tracking = 'serial' THEN NULL WHEN row_number() OVER (ORDER BY l.id) % 2 = 1 THEN ? ELSE ? END,
         l.purchase_order_id, l.item_id, (SELECT id FROM pack p WHERE p.item_id = l.item_id ORDER BY p.units, p.id LIMIT 1),
         l.qty - l.received, CASE WHEN i.tracking LIKE 'lot%' THEN 'P' || l.id END,
         CASE WHEN i.tracking = 'lotExpiry' THEN ?::date END, i.tracking <> 'serial'
       FROM purchase_line l
       JOIN item i ON i.id = l.item_id
       WHERE l.purchase_order_id = ? AND l.qty > l.received`,
      [notice?.id, pallets[0], pallets[1], history.date(420), order.id],
    );
  }
}
