import type { Knex } from 'knex';

/** Which movement each entry of a posted delivery became, and what was reversed of it. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    ALTER TABLE delivery_entry
      ADD movement_id bigint UNIQUE REFERENCES movement, ADD reversal_id int REFERENCES document, ADD reversed_for text NOT NULL DEFAULT '';
    -- From a paper of the ledger to what it was posted for.
    CREATE INDEX delivery_by_receipt ON delivery (receipt_id) WHERE receipt_id IS NOT NULL;
    CREATE INDEX shipment_by_document ON shipment (document_id);
    -- For receipts that were posted without noting it. Entries and movements of one receipt that are alike are told
    -- apart by nothing: each is one of the other's.
    CREATE FUNCTION tie_entries_to_movements() RETURNS void LANGUAGE sql AS $$
    WITH entries AS (
      SELECT e.id, d.receipt_id, e.item_id, e.qty, coalesce(e.lot, '') AS lot, coalesce(e.serial, '') AS serial,
        row_number() OVER (PARTITION BY d.id, e.item_id, e.qty, e.lot, e.serial ORDER BY e.id) AS n
      FROM delivery_entry e
      JOIN delivery d ON d.id = e.delivery_id
      WHERE d.state = 'posted' AND e.taken_out_at IS NULL),
    movements AS (
      SELECT m.id, m.document_id AS receipt_id, m.item_id, m.qty, coalesce(l.code, '') AS lot, coalesce(s.code, '') AS serial,
        row_number() OVER (PARTITION BY m.document_id, m.item_id, m.qty, l.code, s.code ORDER BY m.id) AS n
      FROM movement m
      LEFT JOIN lot l ON l.id = m.lot_id
      LEFT JOIN serial s ON s.id = m.serial_id
      WHERE m.from_bin = 1)
    UPDATE delivery_entry e SET movement_id = m.id
      FROM entries x JOIN movements m USING (receipt_id, item_id, qty, lot, serial, n)
      WHERE x.id = e.id AND e.movement_id IS NULL;
    $$;
    SELECT tie_entries_to_movements();
  `);
}

/** Undone only in tests. */
export async function down(knex: Knex): Promise<void> {
  await knex.raw(`
    DROP FUNCTION tie_entries_to_movements();
    DROP INDEX delivery_by_receipt, shipment_by_document;
    ALTER TABLE delivery_entry DROP COLUMN movement_id, DROP COLUMN reversal_id, DROP COLUMN reversed_for;
  `);
}
