import { query, type Db } from '#server/kernel';

/** One thing that is not true. */
export type AuditFault = { readonly check: string; readonly detail: string };

// Each check is a query that finds nothing when all is well.
const CHECKS: Readonly<Record<string, string>> = {
  'balances equal the ledger': `
    WITH ledger AS (
      SELECT item_id, bin, lot_id, serial_id, unit, condition, sum(qty) AS qty FROM (
        SELECT item_id, to_bin AS bin, lot_id, serial_id, to_unit AS unit, to_condition AS condition, qty FROM movement WHERE to_bin >= 100
        UNION ALL SELECT item_id, from_bin, lot_id, serial_id, from_unit, from_condition, -qty FROM movement WHERE from_bin >= 100
      ) m GROUP BY 1, 2, 3, 4, 5, 6
    )
    SELECT format('item %s in bin %s: balance %s, ledger %s', coalesce(b.item_id, l.item_id), coalesce(b.bin_id, l.bin), coalesce(b.qty, 0), coalesce(l.qty, 0)) AS detail
    FROM balance b FULL JOIN ledger l ON b.item_id = l.item_id AND b.bin_id = l.bin AND coalesce(b.lot_id, 0) = coalesce(l.lot_id, 0)
      AND coalesce(b.serial_id, 0) = coalesce(l.serial_id, 0) AND coalesce(b.unit_id, 0) = coalesce(l.unit, 0) AND b.condition = l.condition
    WHERE coalesce(b.qty, 0) <> coalesce(l.qty, 0)`,
  'no balance is below zero': `SELECT format('item %s in bin %s: %s', item_id, bin_id, qty) AS detail FROM balance WHERE qty < 0`,
  'serials are in one place': `
    SELECT format('serial %s of item %s: %s places, %s pieces', serial_id, item_id, count(*), sum(qty)) AS detail FROM balance
    WHERE serial_id IS NOT NULL AND qty > 0 GROUP BY serial_id, item_id HAVING count(*) > 1 OR sum(qty) <> 1`,
  'lots and serials belong to their item': `
    SELECT format('movement %s', m.id) AS detail FROM movement m LEFT JOIN lot l ON l.id = m.lot_id LEFT JOIN serial s ON s.id = m.serial_id
    WHERE l.item_id <> m.item_id OR s.item_id <> m.item_id`,
  'tracked stock names its lot or serial': `
    SELECT format('item %s in bin %s', b.item_id, b.bin_id) AS detail FROM balance b JOIN item i ON i.id = b.item_id
    WHERE b.qty > 0 AND ((i.tracking IN ('lot', 'lotExpiry') AND b.lot_id IS NULL) OR (i.tracking = 'serial' AND b.serial_id IS NULL))`,
  'promises do not exceed stock': `
    SELECT format('item %s at site %s: promised %s, usable %s', p.item_id, p.site_id, p.qty, coalesce(f.qty, 0)) AS detail
    FROM (SELECT item_id, site_id, sum(qty) AS qty FROM promise GROUP BY 1, 2) p
    LEFT JOIN (SELECT item_id, site_id, sum(qty) AS qty FROM stock_fact WHERE condition = 'sound' AND promisable AND NOT expired GROUP BY 1, 2) f USING (item_id, site_id)
    WHERE p.qty > coalesce(f.qty, 0)`,
  'no line is promised or shipped beyond its order': `
    SELECT format('line %s: ordered %s, shipped %s, promised %s', l.id, l.qty, l.shipped, coalesce(p.qty, 0)) AS detail
    FROM order_line l LEFT JOIN promise p ON p.line_id = l.id WHERE l.shipped + coalesce(p.qty, 0) > l.qty`,
  'picked goods lie where their round says': `
    SELECT format('item %s in bin %s: picked %s, there %s', k.item_id, k.bin_id, k.qty, coalesce(b.qty, 0)) AS detail
    FROM (SELECT item_id, bin_id, coalesce(lot_id, 0) AS lot, coalesce(serial_id, 0) AS serial, sum(qty) AS qty FROM picked WHERE NOT shipped GROUP BY 1, 2, 3, 4) k
    LEFT JOIN (SELECT item_id, bin_id, coalesce(lot_id, 0) AS lot, coalesce(serial_id, 0) AS serial, sum(qty) AS qty FROM balance WHERE condition = 'sound' GROUP BY 1, 2, 3, 4) b
      USING (item_id, bin_id, lot, serial) WHERE k.qty > coalesce(b.qty, 0)`,
  'receipts equal their movements': `
    SELECT format('delivery %s: scanned %s, posted %s', d.number, e.qty, coalesce(m.qty, 0)) AS detail
    FROM delivery d JOIN (SELECT delivery_id, sum(qty) AS qty FROM delivery_entry WHERE taken_out_at IS NULL GROUP BY 1) e ON e.delivery_id = d.id
    LEFT JOIN (SELECT document_id, sum(qty) AS qty FROM movement WHERE from_bin = 1 GROUP BY 1) m ON m.document_id = d.receipt_id
    WHERE d.state = 'posted' AND e.qty <> coalesce(m.qty, 0)`,
  'shipments equal their movements': `
    SELECT format('order %s: shipped %s, posted %s', o.number, x.shipped, coalesce(m.qty, 0)) AS detail
    FROM (SELECT order_id, sum(shipped) AS shipped FROM order_line GROUP BY 1) x JOIN customer_order o ON o.id = x.order_id
    LEFT JOIN (SELECT s.order_id, sum(m.qty) AS qty FROM shipment s JOIN movement m ON m.document_id = s.document_id AND m.to_bin = 2 GROUP BY 1) m ON m.order_id = o.id
    WHERE x.shipped <> coalesce(m.qty, 0)`,
  'every command that was acknowledged kept its reply': `SELECT format('command %s', key) AS detail FROM command WHERE reply IS NULL`,
};

/** Proves the ledger: runs every check and returns every fault that it finds. */
export async function runAudit(db: Db): Promise<{ checks: number; faults: AuditFault[] }> {
  const faults: AuditFault[] = [];
  for (const [check, sql] of Object.entries(CHECKS)) {
    const rows = await query<{ detail: string }>(db, sql);
    faults.push(...rows.map((row) => ({ check, detail: row.detail })));
  }
  return { checks: Object.keys(CHECKS).length, faults };
}
