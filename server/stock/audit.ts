import { formatQty, sumQty, type ItemId, type SiteId } from '#core/base';
import { decideCuts } from '#core/stock';
import { query, type Db } from '#server/kernel';
import { readPools } from './store-promises.ts';

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
    SELECT format('item %s in bin %s: balance %s, ledger %s', coalesce(b.item_id, l.item_id), coalesce(b.bin_id, l.bin),
      coalesce(b.qty, 0), coalesce(l.qty, 0)) AS detail
    FROM balance b FULL JOIN ledger l ON b.item_id = l.item_id AND b.bin_id = l.bin AND coalesce(b.lot_id, 0) = coalesce(l.lot_id, 0)
      AND coalesce(b.serial_id, 0) = coalesce(l.serial_id, 0) AND coalesce(b.unit_id, 0) = coalesce(l.unit, 0) AND b.condition = l.condition
    WHERE coalesce(b.qty, 0) <> coalesce(l.qty, 0)`,
  'no balance is below zero': `SELECT format('item %s in bin %s: %s', item_id, bin_id, qty) AS detail FROM balance WHERE qty < 0`,
  'serials are in one place': `
    SELECT format('serial %s of item %s: %s places, %s pieces', serial_id, item_id, count(*), sum(qty)) AS detail FROM balance
    WHERE serial_id IS NOT NULL AND qty > 0 GROUP BY serial_id, item_id HAVING count(*) > 1 OR sum(qty) <> 1`,
  'a logistic unit stands in one bin': `
    SELECT format('unit %s: %s bins', u.sscc, count(DISTINCT b.bin_id)) AS detail FROM balance b JOIN logistic_unit u ON u.id = b.unit_id
    GROUP BY u.id HAVING count(DISTINCT b.bin_id) > 1`,
  'lots and serials belong to their item': `
    SELECT format('movement %s', m.id) AS detail FROM movement m LEFT JOIN lot l ON l.id = m.lot_id LEFT JOIN serial s ON s.id = m.serial_id
    WHERE l.item_id <> m.item_id OR s.item_id <> m.item_id`,
  'tracked stock names its lot or serial': `
    SELECT format('item %s in bin %s', b.item_id, b.bin_id) AS detail FROM balance b JOIN item i ON i.id = b.item_id
    WHERE b.qty > 0 AND ((i.tracking IN ('lot', 'lotExpiry') AND b.lot_id IS NULL) OR (i.tracking = 'serial' AND b.serial_id IS NULL))`,
  'quantities are whole in their item’s decimals': `
    SELECT format('movement %s: %s of item %s, which has %s decimals', m.id, m.qty, m.item_id, i.decimals) AS detail
    FROM movement m JOIN item i ON i.id = m.item_id WHERE m.qty <> round(m.qty, i.decimals)
    UNION ALL SELECT format('line %s: %s of item %s', l.id, l.qty, l.item_id)
    FROM order_line l
    JOIN item i ON i.id = l.item_id
    WHERE l.qty <> round(l.qty, i.decimals)
    UNION ALL SELECT format('promise of line %s: %s of item %s', p.line_id, p.qty, p.item_id)
    FROM promise p
    JOIN item i ON i.id = p.item_id
    WHERE p.qty <> round(p.qty, i.decimals)`,
  'a movement stays at its document’s site': `
    SELECT format('movement %s of %s: from %s to %s, document of site %s', m.id, d.number, f.address, t.address, d.site_id) AS detail
    FROM movement m JOIN document d ON d.id = m.document_id JOIN bin f ON f.id = m.from_bin JOIN bin t ON t.id = m.to_bin
    WHERE d.kind <> 'transfer' AND (coalesce(f.site_id, d.site_id) <> d.site_id OR coalesce(t.site_id, d.site_id) <> d.site_id)`,
  'a reversal mirrors what it reverses': `
    SELECT format('movement %s reverses %s', r.id, m.id) AS detail FROM movement r JOIN movement m ON m.id = r.reverses
    WHERE (r.item_id, r.qty, r.from_bin, r.to_bin) <> (m.item_id, m.qty, m.to_bin, m.from_bin)
      OR r.lot_id IS DISTINCT FROM m.lot_id OR r.serial_id IS DISTINCT FROM m.serial_id
      OR r.from_unit IS DISTINCT FROM m.to_unit OR r.to_unit IS DISTINCT FROM m.from_unit OR r.id < m.id`,
  'promises do not exceed stock': `
    SELECT format('item %s at site %s: promised %s, usable %s', p.item_id, p.site_id, p.qty, coalesce(f.qty, 0)) AS detail
    FROM (SELECT item_id, site_id, sum(qty) AS qty FROM promise GROUP BY 1, 2) p
    LEFT JOIN (
      SELECT item_id, site_id, sum(qty) AS qty
      FROM stock_fact
      WHERE usable
      GROUP BY 1, 2
    ) f USING (item_id, site_id)
    WHERE p.qty > coalesce(f.qty, 0)`,
  'promises are of open orders at their own site': `
    SELECT format('line %s of %s order %s (item %s at site %s)', l.id, o.state, o.number, p.item_id, p.site_id) AS detail
    FROM promise p JOIN order_line l ON l.id = p.line_id JOIN customer_order o ON o.id = l.order_id
    WHERE o.state <> 'open' OR p.site_id <> o.site_id OR p.item_id <> l.item_id`,
  'no line is promised or shipped beyond its order': `
    SELECT format('line %s: ordered %s, shipped %s, promised %s', l.id, l.qty, l.shipped, coalesce(p.qty, 0)) AS detail
    FROM order_line l LEFT JOIN promise p ON p.line_id = l.id WHERE l.shipped + coalesce(p.qty, 0) > l.qty`,
  'picked goods lie where their round says': `
    SELECT format('item %s in bin %s: picked %s, there %s', k.item_id, k.bin_id, k.qty, coalesce(b.qty, 0)) AS detail
    FROM (
      SELECT item_id, bin_id, coalesce(lot_id, 0) AS lot, coalesce(serial_id, 0) AS serial, sum(qty) AS qty
      FROM in_hand
      GROUP BY 1, 2, 3, 4
    ) k
    LEFT JOIN (
      SELECT item_id, bin_id, coalesce(lot_id, 0) AS lot, coalesce(serial_id, 0) AS serial, sum(qty) AS qty
      FROM balance
      WHERE condition = 'sound'
      GROUP BY 1, 2, 3, 4
    ) b
      USING (item_id, bin_id, lot, serial) WHERE k.qty > coalesce(b.qty, 0)`,
  'goods in hand are of open orders at their own site': `
    SELECT format('%s of item %s in bin %s for %s order %s', k.qty, k.item_id, k.bin_id, o.state, o.number) AS detail
    FROM in_hand k JOIN order_line l ON l.id = k.line_id JOIN customer_order o ON o.id = l.order_id JOIN bin ON bin.id = k.bin_id
    WHERE o.state <> 'open' OR bin.site_id <> o.site_id OR k.item_id <> l.item_id`,
  'picks of a round equal their pieces': `
    SELECT format('pick %s of round %s: %s picked, %s pieces', p.id, p.round_id, p.picked, coalesce(k.qty, 0)) AS detail
    FROM round_pick p
    LEFT JOIN (SELECT pick_id, sum(qty) AS qty FROM picked WHERE returned_at IS NULL GROUP BY 1) k ON k.pick_id = p.id
    WHERE p.picked <> coalesce(k.qty, 0)`,
  'picks of a round equal their movements': `
    SELECT format('round %s, item %s: %s taken by its pieces, %s by the ledger', coalesce(k.number, m.number), coalesce(k.item_id,
      m.item_id), coalesce(k.qty, 0), coalesce(m.qty, 0)) AS detail
    FROM (
      SELECT r.number, r.document_id, k.item_id, coalesce(k.lot_id, 0) AS lot, sum(k.qty) AS qty
      FROM picked k
      JOIN round_pick p ON p.id = k.pick_id
      JOIN round r ON r.id = p.round_id
      -- Kits come by the document of their making.
      WHERE k.assembly_id IS NULL
      GROUP BY 1, 2, 3, 4
    ) k
    FULL JOIN (
      SELECT r.number, r.document_id, m.item_id, coalesce(m.lot_id, 0) AS lot, sum(m.qty) AS qty
      FROM movement m
      JOIN round r ON r.document_id = m.document_id AND m.to_bin = r.cart_bin
      GROUP BY 1, 2, 3, 4
    ) m
      USING (document_id, item_id, lot) WHERE coalesce(k.qty, 0) <> coalesce(m.qty, 0)`,
  'goods on the cart of a put-away or refill round lie there': `
    SELECT format('%s, item %s: %s carried, %s on the cart', c.number, c.item_id, c.qty, coalesce(b.qty, 0)) AS detail
    FROM (
      SELECT number, bin_id, item_id, coalesce(lot_id, 0) AS lot, coalesce(serial_id, 0) AS serial, sum(qty) AS qty
      FROM on_cart
      GROUP BY 1, 2, 3, 4, 5
    ) c
    LEFT JOIN (
      SELECT bin_id, item_id, coalesce(lot_id, 0) AS lot, coalesce(serial_id, 0) AS serial, sum(qty) AS qty
      FROM balance
      GROUP BY 1, 2, 3, 4
    ) b
      USING (bin_id, item_id, lot, serial)
    WHERE c.qty > coalesce(b.qty, 0) OR c.qty < 0`,
  'what was carried equals its movements': `
    SELECT format('%s: %s of line %s, %s by the ledger', c.number, d.qty, d.task_id, coalesce(m.qty, 0)) AS detail
    FROM carried d
    JOIN carry_task t ON t.id = d.task_id
    JOIN carry c ON c.id = t.carry_id
    LEFT JOIN LATERAL (
      SELECT sum(x.qty) AS qty
      FROM movement x
      WHERE x.id = ANY(d.movements) AND x.document_id = c.document_id
        AND (EXISTS (SELECT 1 FROM movement r WHERE r.reverses = x.id)) = (d.undone_at IS NOT NULL)) m ON true
    WHERE d.qty <> coalesce(m.qty, 0)
    UNION ALL SELECT format('%s: movement %s is no line''s', c.number, x.id)
    FROM carry c
    JOIN movement x ON x.document_id = c.document_id AND x.reverses IS NULL AND x.from_bin <> x.to_bin
    WHERE NOT EXISTS (
      SELECT 1 FROM carried d JOIN carry_task t ON t.id = d.task_id WHERE t.carry_id = c.id AND x.id = ANY(d.movements))`,
  'nothing is carried beyond its line': `
    SELECT format('%s, line %s: %s planned, %s taken, %s put', c.number, t.id, t.qty, x.taken, x.put) AS detail
    FROM carry_task t
    JOIN carry c ON c.id = t.carry_id
    CROSS JOIN LATERAL (
      SELECT coalesce(sum(d.qty) FILTER (WHERE d.way = 'take'), 0) AS taken, coalesce(sum(d.qty) FILTER (WHERE d.way = 'put'), 0) AS put
      FROM carried d
      WHERE d.task_id = t.id AND d.undone_at IS NULL) x
    WHERE x.put > t.qty OR (c.cart_bin IS NOT NULL AND x.put > x.taken) OR (c.state <> 'thrown' AND x.taken > t.qty)`,
  'nothing lies on a cart that is nobody’s': `
    SELECT format('item %s on %s: %s there, %s in hand', b.item_id, bin.address, b.qty, coalesce(h.qty, 0)) AS detail
    FROM (SELECT bin_id, item_id, sum(qty) AS qty FROM balance GROUP BY 1, 2) b
    JOIN bin ON bin.id = b.bin_id AND bin.use = 'cart'
    LEFT JOIN (
      SELECT bin_id, item_id, sum(qty) AS qty
      FROM (SELECT bin_id, item_id, qty FROM in_hand UNION ALL SELECT bin_id, item_id, qty FROM on_cart) x
      GROUP BY 1, 2
    ) h
      USING (bin_id, item_id)
    WHERE b.qty > coalesce(h.qty, 0)`,
  'receipts equal their movements, by item and lot': `
    SELECT format('delivery %s, item %s, lot %s: scanned %s, posted %s', number, item, lot, coalesce(e.qty, 0), coalesce(m.qty, 0))
      AS detail
    FROM (SELECT d.number, e.item_id AS item, coalesce(e.lot, '') AS lot, sum(e.qty) AS qty FROM delivery d
      JOIN delivery_entry e ON e.delivery_id = d.id
          WHERE d.state = 'posted' AND e.taken_out_at IS NULL AND e.reversal_id IS NULL GROUP BY 1, 2, 3) e
    FULL JOIN (SELECT d.number, m.item_id AS item, coalesce(l.code, '') AS lot, sum(m.qty) AS qty FROM delivery d
      JOIN movement m ON m.document_id = d.receipt_id AND m.from_bin = CASE WHEN d.is_return THEN 2 ELSE 1 END
          LEFT JOIN lot l ON l.id = m.lot_id
          WHERE NOT EXISTS (SELECT 1 FROM movement r WHERE r.reverses = m.id) GROUP BY 1, 2, 3) m USING (number, item, lot)
    WHERE coalesce(e.qty, 0) <> coalesce(m.qty, 0)`,
  'what failed inspection was set apart': `
    SELECT format('delivery %s, item %s: %s failed, %s set apart', d.number, item, coalesce(e.qty, 0), coalesce(m.qty, 0)) AS detail
    FROM (SELECT e.delivery_id AS delivery, e.item_id AS item, sum(f.failed) AS qty
      FROM delivery_entry e
      JOIN movement m ON m.id = e.movement_id AND m.to_condition <> 'failed'
      JOIN finding f ON f.entry_id = e.id
      WHERE e.taken_out_at IS NULL AND e.reversal_id IS NULL GROUP BY 1, 2) e
    FULL JOIN (SELECT d.id AS delivery, m.item_id AS item,
        sum(CASE WHEN m.to_condition = 'failed' THEN m.qty ELSE -m.qty END) AS qty
      FROM delivery d
      JOIN document x ON x.id = d.receipt_id OR x.kind = 'inspection' AND x.subject_id = d.id
        OR x.kind = 'reversal' AND x.subject_id = d.receipt_id
      JOIN movement m ON m.document_id = x.id AND m.reverses IS NULL AND m.from_bin >= 100 AND m.to_bin >= 100
        AND (m.from_condition = 'failed') <> (m.to_condition = 'failed')
      WHERE d.state = 'posted' GROUP BY 1, 2) m USING (delivery, item)
    JOIN delivery d ON d.id = delivery
    WHERE coalesce(e.qty, 0) <> coalesce(m.qty, 0)`,
  'purchase lines equal their receipts': `
    SELECT format('line %s of purchase order %s: received %s, receipts say %s', l.id, o.number, l.received, coalesce(x.qty, 0)) AS detail
    FROM purchase_line l JOIN purchase_order o ON o.id = l.purchase_order_id
    LEFT JOIN (SELECT purchase_line_id, sum(received) AS qty FROM delivery_expected GROUP BY 1) x ON x.purchase_line_id = l.id
    WHERE l.received <> coalesce(x.qty, 0)`,
  'a receipt hands out what arrived of what was ordered': `
    SELECT format('delivery %s, item %s: %s arrived, %s handed to lines', d.number, x.item_id, coalesce(e.qty, 0), x.qty) AS detail
    FROM (SELECT delivery_id, item_id, sum(received) AS qty FROM delivery_expected GROUP BY 1, 2) x JOIN delivery d ON d.id = x.delivery_id
    LEFT JOIN (
      SELECT delivery_id, item_id, sum(qty) AS qty FROM delivery_entry WHERE taken_out_at IS NULL AND reversal_id IS NULL GROUP BY 1, 2
    ) e USING (delivery_id, item_id)
    WHERE x.qty <> coalesce(e.qty, 0)`,
  'lines equal their shipments': `
    SELECT format('order %s, item %s: shipped %s, posted %s', coalesce(x.number, m.number), item, coalesce(x.qty, 0),
      coalesce(m.qty, 0)) AS detail
    FROM (
      SELECT o.id AS order_id, o.number, l.item_id AS item, sum(l.shipped) AS qty
      FROM order_line l
      JOIN customer_order o ON o.id = l.order_id
      GROUP BY 1, 2, 3
      HAVING sum(l.shipped) > 0
    ) x
    FULL JOIN (SELECT o.id AS order_id, o.number, m.item_id AS item, sum(m.qty) AS qty
      FROM (SELECT order_id, document_id FROM shipment UNION ALL SELECT order_id, document_id FROM assembly WHERE apart_at IS NULL) s
      JOIN customer_order o ON o.id = s.order_id
          JOIN movement m ON m.document_id = s.document_id
            AND CASE o.kind WHEN 'job' THEN m.to_bin = 5 WHEN 'transfer' THEN m.to_bin >= 100
              WHEN 'kit' THEN m.to_bin = 6 ELSE m.to_bin = 2 END
          GROUP BY 1, 2, 3) m USING (order_id, item) WHERE coalesce(x.qty, 0) <> coalesce(m.qty, 0)`,
  'what a line shipped was picked for it': `
    SELECT format('line %s: shipped %s, of its pieces %s', l.id, l.shipped, k.qty) AS detail
    FROM order_line l
    JOIN (SELECT line_id, sum(qty) FILTER (WHERE shipped) AS qty FROM picked GROUP BY 1) k ON k.line_id = l.id
    WHERE l.shipped <> coalesce(k.qty, 0)`,
  'kits equal their assemblies': `
    SELECT format('order %s: %s made, assemblies made %s', o.number, o.kit_made, coalesce(a.made, 0)) AS detail
    FROM customer_order o
    LEFT JOIN (SELECT order_id, sum(qty) AS made FROM assembly WHERE apart_at IS NULL GROUP BY 1) a ON a.order_id = o.id
    WHERE o.kit_made <> coalesce(a.made, 0)
    UNION ALL SELECT format('%s: %s made, %s came of it', a.number, a.qty, coalesce(m.came, 0))
    FROM assembly a
    JOIN customer_order o ON o.id = a.order_id
    LEFT JOIN (SELECT document_id, item_id, sum(qty) AS came FROM movement WHERE from_bin = 6 GROUP BY 1, 2) m
      ON m.document_id = a.document_id AND m.item_id = o.kit_id
    WHERE a.qty <> coalesce(m.came, 0)`,
  'held stock is under a hold': `
    SELECT format('item %s, lot %s at site %s: %s held, holds answer for %s', b.item_id, b.lot, b.site_id, b.qty, coalesce(h.qty,
      0)) AS detail
    FROM (
      SELECT b.item_id, coalesce(b.lot_id, 0) AS lot, coalesce(b.serial_id, 0) AS serial, bin.site_id, sum(b.qty) AS qty
      FROM balance b
      JOIN bin ON bin.id = b.bin_id
      WHERE b.condition = 'held'
      GROUP BY 1, 2, 3, 4
    ) b
    LEFT JOIN (
      SELECT l.item_id, coalesce(l.lot_id, 0) AS lot, coalesce(l.serial_id, 0) AS serial, h.site_id, sum(l.qty) AS qty
      FROM hold_line l
      JOIN hold h ON h.id = l.hold_id
      WHERE h.released_at IS NULL
      GROUP BY 1, 2, 3, 4
    ) h
      USING (item_id, lot, serial, site_id) WHERE b.qty > coalesce(h.qty, 0)`,
  'nothing lies sound under a hold that stands': `
    SELECT format('%s of item %s in %s, hold %s', b.qty, b.item_id, bin.address, d.number) AS detail
    FROM hold h JOIN document d ON d.id = h.document_id JOIN bin ON bin.site_id = h.site_id AND bin.use NOT IN ('cart', 'packing')
    JOIN balance b ON b.bin_id = bin.id AND b.condition = 'sound' AND b.qty > 0
      AND (h.item_id IS NULL OR b.item_id = h.item_id) AND (h.lot_id IS NULL OR b.lot_id = h.lot_id)
        AND (h.serial_id IS NULL OR b.serial_id = h.serial_id) AND (h.bin_id IS NULL OR b.bin_id = h.bin_id)
    WHERE h.standing AND h.released_at IS NULL`,
  'every command that was acknowledged kept its reply': `SELECT format('command %s', key) AS detail FROM command WHERE reply IS NULL`,
};

/** Lines that name their goods, or want life left, can have them all at once: what no single sum says. */
const NAMED = 'what lines ask for is there for them';

/** The names of all checks. */
export const AUDIT_CHECKS: readonly string[] = [...Object.keys(CHECKS), NAMED];

/** Proves the ledger: runs every check and returns every fault that it finds. */
export async function runAudit(db: Pick<Db, 'raw'>): Promise<{ checks: number; faults: AuditFault[] }> {
  const faults: AuditFault[] = [];
  for (const [check, sql] of Object.entries(CHECKS)) {
    const rows = await query<{ detail: string }>(db, sql);
    faults.push(...rows.map((row) => ({ check, detail: row.detail })));
  }
  return { checks: AUDIT_CHECKS.length, faults: [...faults, ...(await findUnbacked(db))] };
}

async function findUnbacked(db: Pick<Db, 'raw'>): Promise<AuditFault[]> {
  const pairs = await query<{ item: ItemId; site: SiteId }>(
    db,
    `SELECT DISTINCT p.item_id AS item, p.site_id AS site FROM promise p JOIN line_asking a ON a.line_id = p.line_id AND a.asks`,
  );
  if (pairs.length === 0) return [];
  return [...(await readPools(db, pairs))].flatMap(([pool, { lying, standing }]) => {
    const unbacked = decideCuts(lying, standing);
    const [cut, lines] = [formatQty(sumQty(unbacked.map((u) => u.cut))), unbacked.map((u) => u.line).join(', ')];
    const detail = `item and site ${pool}: ${cut} of lines ${lines}`;
    return unbacked.length > 0 ? [{ check: NAMED, detail }] : [];
  });
}
