import type { Knex } from 'knex';

/** A line may name its lot, its serials or its bin beforehand; what it asks of its goods, with the life that its order wants left, is said
 *  by the view `line_asking` alone. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    ALTER TABLE order_line ADD lot_id int REFERENCES lot, ADD bin_id int REFERENCES bin;
    CREATE TABLE order_line_serial (
      line_id int NOT NULL REFERENCES order_line, serial_id int NOT NULL REFERENCES serial, PRIMARY KEY (line_id, serial_id)
    );
    CREATE INDEX order_line_serial_by_serial ON order_line_serial (serial_id);
    -- What of an item is in hands, whichever bin it lies in.
    CREATE INDEX picked_in_hand_by_item ON picked (item_id) WHERE NOT shipped AND returned_at IS NULL;
    CREATE VIEW line_asking AS
      SELECT l.id AS line_id, l.item_id, l.lot_id, l.bin_id,
        (SELECT array_agg(x.serial_id ORDER BY x.serial_id) FROM order_line_serial x WHERE x.line_id = l.id) AS serial_ids,
        CASE WHEN o.least_life > 0 THEN o.due + o.least_life END AS good_on,
        l.lot_id IS NOT NULL OR l.bin_id IS NOT NULL OR coalesce(o.least_life, 0) > 0
          OR EXISTS (SELECT 1 FROM order_line_serial x WHERE x.line_id = l.id) AS asks
      FROM order_line l
      JOIN customer_order o ON o.id = l.order_id;
  `);
}

/** Undone only in tests. */
export async function down(knex: Knex): Promise<void> {
  await knex.raw(`
    DROP VIEW line_asking;
    DROP INDEX picked_in_hand_by_item;
    DROP TABLE order_line_serial;
    ALTER TABLE order_line DROP COLUMN lot_id, DROP COLUMN bin_id;
  `);
}
