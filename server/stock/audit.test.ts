import { describe, expect, it } from '@jest/globals';
import { query } from '#server/kernel';
import { houseForTests } from '../testing/house.ts';
import { AUDIT_CHECKS, runAudit } from './audit.ts';

const { house } = houseForTests({}, { jobs: false });

const ANY_BALANCE = `SELECT id FROM balance WHERE qty > 1 AND serial_id IS NULL AND condition = 'sound' ORDER BY id LIMIT 1`;
const OTHER_ITEM = `(SELECT id FROM item WHERE tracking = 'none' AND decimals = 0 ORDER BY id DESC LIMIT 1)`;
const COPY_OF_BALANCE = `INSERT INTO balance (bin_id, item_id, lot_id, serial_id, condition, qty)`;

// A refill round of one line, and that five of it were carried without a movement.
const CARRY = `INSERT INTO carry (number, kind, site_id, cart_bin, made_by, document_id)
  SELECT 'CR-L', 'refill', 1, (SELECT max(id) FROM bin WHERE site_id = 1 AND use = 'cart'), 1, max(id) FROM document`;
const CARRIED = (way: 'take' | 'put'): string[] => [
  `INSERT INTO carry_task (carry_id, item_id, from_bin, qty, to_bin, why)
   SELECT max(c.id), (SELECT min(id) FROM item WHERE id > 0), b.low, 3, b.high, 'home'
   FROM carry c, (SELECT min(id) AS low, max(id) AS high FROM bin WHERE site_id = 1 AND use = 'shelf') b GROUP BY b.low, b.high`,
  `INSERT INTO carried (key, task_id, way, qty, serial_id, bin_id, movements, person_id)
   SELECT gen_random_uuid(), t.id, '${way}', 5, NULL, t.to_bin, '{}', 1 FROM carry_task t ORDER BY t.id DESC LIMIT 1`,
];

// For each check, one lie that only a fault in the program or a hand in the database could tell: the guards of the database are off for it.
const LIES: Readonly<Record<string, string | readonly string[]>> = {
  'kits equal their assemblies': `INSERT INTO customer_order (number, site_id, kind, kit_id, kit_qty, kit_made, due)
    SELECT 'CO-K', 1, 'kit', min(id), 5, 2, DATE '2030-01-01' FROM item`,
  'balances equal the ledger': `UPDATE balance SET qty = qty + 1 WHERE id = (${ANY_BALANCE})`,
  'no balance is below zero': [
    `ALTER TABLE balance DROP CONSTRAINT balance_not_negative`,
    `UPDATE balance SET qty = -1 WHERE id = (${ANY_BALANCE})`,
  ],
  'a logistic unit stands in one bin': [
    `INSERT INTO logistic_unit (sscc) VALUES ('395200010000000015')`,
    `UPDATE balance SET unit_id = (SELECT max(id) FROM logistic_unit) WHERE id IN (
       SELECT min(id) FROM balance GROUP BY bin_id ORDER BY bin_id LIMIT 2)`,
  ],
  'serials are in one place': [
    `DROP INDEX balance_serial_in_one_place`,
    `${COPY_OF_BALANCE}
     SELECT (SELECT min(id) FROM bin WHERE use = 'shelf' AND id <> b.bin_id), item_id, lot_id, serial_id, condition, qty
     FROM balance b
     WHERE serial_id IS NOT NULL AND qty > 0
     LIMIT 1`,
  ],
  'lots and serials belong to their item': `UPDATE movement SET item_id = ${OTHER_ITEM} WHERE id = (SELECT min(id) FROM movement
    WHERE lot_id IS NOT NULL)`,
  'tracked stock names its lot or serial': `UPDATE balance
    SET lot_id = NULL
    WHERE id = (SELECT min(b.id) FROM balance b JOIN item i ON i.id = b.item_id WHERE i.tracking = 'lot' AND b.qty > 0)`,
  'quantities are whole in their item’s decimals': `UPDATE order_line
    SET qty = qty + 0.5
    WHERE id = (SELECT min(l.id) FROM order_line l JOIN item i ON i.id = l.item_id WHERE i.decimals = 0)`,
  'a movement stays at its document’s site': `UPDATE document
    SET site_id = 2
    WHERE id = (
      SELECT d.id
      FROM document d
      JOIN movement m ON m.document_id = d.id
      JOIN bin b ON b.id = m.to_bin
      WHERE d.site_id = 1 AND b.site_id = 1 AND d.kind <> 'transfer'
      LIMIT 1
    )`,
  'a reversal mirrors what it reverses': `UPDATE movement SET reverses = (SELECT min(id) FROM movement) WHERE id = (SELECT max(id)
    FROM movement)`,
  'promises do not exceed stock': `UPDATE promise SET qty = qty + 100000 WHERE line_id = (SELECT min(line_id) FROM promise)`,
  'promises are of open orders at their own site': `UPDATE promise SET site_id = 3 WHERE line_id = (SELECT min(line_id) FROM promise)`,
  'no line is promised or shipped beyond its order': `UPDATE promise p SET qty = l.qty + 1 FROM order_line l WHERE l.id = p.line_id
    AND l.id = (SELECT min(line_id) FROM promise)`,
  'picked goods lie where their round says': `UPDATE picked
    SET bin_id = (SELECT id FROM bin WHERE site_id = 1 AND use = 'scrap' LIMIT 1)
    WHERE id = (SELECT min(id) FROM in_hand)`,
  'goods in hand are of open orders at their own site': `UPDATE customer_order
    SET state = 'cancelled'
    WHERE id = (SELECT l.order_id FROM in_hand k JOIN order_line l ON l.id = k.line_id LIMIT 1)`,
  'picks of a round equal their pieces': `UPDATE round_pick SET picked = picked - 1 WHERE id = (SELECT min(pick_id) FROM in_hand)`,
  'picks of a round equal their movements': `UPDATE picked SET qty = qty + 1 WHERE id = (SELECT min(id) FROM in_hand)`,
  'goods on the cart of a put-away or refill round lie there': [CARRY, ...CARRIED('take')],
  'what was carried equals its movements': [CARRY, ...CARRIED('put')],
  'nothing is carried beyond its line': [CARRY, ...CARRIED('put')],
  'nothing lies on a cart that is nobody’s': `UPDATE balance
    SET bin_id = (SELECT min(id) FROM bin WHERE site_id = 1 AND use = 'cart')
    WHERE id = (SELECT b.id FROM balance b JOIN bin ON bin.id = b.bin_id AND bin.use = 'shelf' AND bin.site_id = 1 ORDER BY 1 LIMIT 1)`,
  'receipts equal their movements, by item and lot': `UPDATE delivery_entry
    SET qty = qty + 1
    WHERE id = (
      SELECT min(e.id)
      FROM delivery_entry e
      JOIN delivery d ON d.id = e.delivery_id
      WHERE d.state = 'posted' AND e.taken_out_at IS NULL
    )`,
  'what failed inspection was set apart': `UPDATE inspection_failure SET qty = qty + 1 WHERE inspection_id = (SELECT min(inspection_id)
    FROM inspection_failure)`,
  'purchase lines equal their receipts': `UPDATE purchase_line SET received = received + 1 WHERE id = (SELECT min(purchase_line_id)
    FROM delivery_expected)`,
  'a receipt hands out what arrived of what was ordered': `UPDATE delivery_entry
    SET taken_out_at = now_here()
    WHERE id = (SELECT min(e.id) FROM delivery_entry e JOIN delivery_expected x USING (delivery_id, item_id) WHERE x.received > 0)`,
  'lines equal their shipments': `UPDATE order_line SET shipped = shipped - 1 WHERE id = (SELECT min(id) FROM order_line
    WHERE shipped > 1)`,
  'what a line shipped was picked for it': `UPDATE picked SET shipped = true WHERE id = (SELECT min(id) FROM in_hand)`,
  'held stock is under a hold': `UPDATE hold SET released_at = now_here() WHERE released_at IS NULL`,
  'nothing lies sound under a hold that stands': `INSERT INTO hold (document_id, site_id, item_id, reason, person_id, standing)
    SELECT (SELECT min(id) FROM document), 1, f.item_id, 'Recalled', 1, true
    FROM stock_fact f
    WHERE f.site_id = 1 AND f.use = 'shelf' AND f.condition = 'sound'
    LIMIT 1`,
  'what lines ask for is there for them': `UPDATE order_line
    SET bin_id = (SELECT min(id) FROM bin WHERE use = 'scrap')
    WHERE id = (SELECT min(line_id) FROM promise WHERE line_id NOT IN (SELECT line_id FROM in_hand))`,
  'every command that was acknowledged kept its reply': `INSERT INTO command (key, person_id, route, request_hash)
    VALUES (gen_random_uuid(), 1, 'stock.move', '')`,
};

describe('L6 the audit', () => {
  it('has a lie for each of its checks', () => {
    expect(Object.keys(LIES).sort()).toEqual([...AUDIT_CHECKS].sort());
  });
  it('finds nothing in a house where all is true', async () => {
    expect(await runAudit(house.owner)).toEqual({ checks: AUDIT_CHECKS.length, faults: [] });
  });
  it.each(Object.entries(LIES))('speaks: %s', async (check, lie) => {
    const trx = await house.owner.transaction();
    try {
      await query(trx, `SET LOCAL session_replication_role = replica`);
      for (const sql of [lie].flat()) await query(trx, sql);
      const { faults } = await runAudit(trx);
      expect(faults.filter((f) => f.check === check)).not.toEqual([]);
      expect(faults.find((f) => f.check === check)?.detail).toMatch(/\d/);
    } finally {
      await trx.rollback();
    }
  });
});
