import type { Knex } from 'knex';

/** Goods that customers bring back: a delivery of a customer, against what left with a shipment or without one. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    ALTER TABLE document DROP CONSTRAINT document_kind_check, ADD CONSTRAINT document_kind_check
      CHECK (kind IN ('receipt', 'putAway', 'move', 'round', 'shipment', 'count', 'adjustment', 'opening', 'hold', 'release', 'tracking',
        'reversal', 'putBack', 'transfer', 'inspection', 'return'));
    CREATE SEQUENCE number_rt;
    CREATE SEQUENCE number_re;
    ALTER TABLE delivery ADD is_return boolean NOT NULL DEFAULT false, ADD customer_id int REFERENCES customer,
      ADD shipment_id int REFERENCES shipment,
      ADD CHECK (is_return OR customer_id IS NULL), ADD CHECK (is_return OR shipment_id IS NULL),
      ADD CHECK (NOT is_return OR supplier_id IS NULL);
    -- One open return of a shipment: two hands who take it back share it.
    CREATE UNIQUE INDEX delivery_one_return ON delivery (shipment_id) WHERE state IN ('scanning', 'review');
    CREATE INDEX delivery_by_shipment ON delivery (shipment_id) WHERE shipment_id IS NOT NULL;
    -- What left with each shipment, and what of it has come back for good.
    CREATE VIEW shipped_line AS
      SELECT s.id AS shipment_id, m.item_id, sum(m.qty) AS qty
      FROM shipment s
      JOIN movement m ON m.document_id = s.document_id
      WHERE NOT EXISTS (SELECT 1 FROM movement r WHERE r.reverses = m.id)
      GROUP BY s.id, m.item_id;
    CREATE VIEW returned_line AS
      SELECT d.shipment_id, d.id AS delivery_id, e.item_id, sum(e.qty) AS qty
      FROM delivery d
      JOIN delivery_entry e ON e.delivery_id = d.id AND e.taken_out_at IS NULL AND e.reversal_id IS NULL
      WHERE d.state = 'posted' AND d.shipment_id IS NOT NULL
      GROUP BY d.shipment_id, d.id, e.item_id;
    -- A device knows the shipments of the last months, with what of each may still come back.
    CREATE FUNCTION note_shipment() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN
      INSERT INTO fact_change (kind, id) SELECT 'shipment', id FROM told;
      RETURN NULL; END $$;
    CREATE TRIGGER note_shipment AFTER INSERT ON shipment REFERENCING NEW TABLE AS told FOR EACH STATEMENT EXECUTE FUNCTION note_shipment();
    CREATE FUNCTION note_returned() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN
      INSERT INTO fact_change (kind, id) SELECT DISTINCT 'shipment', shipment_id FROM told WHERE shipment_id IS NOT NULL;
      RETURN NULL; END $$;
    CREATE TRIGGER note_returned AFTER UPDATE ON delivery REFERENCING NEW TABLE AS told FOR EACH STATEMENT EXECUTE FUNCTION note_returned();
    CREATE FUNCTION note_return_reversed() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN
      INSERT INTO fact_change (kind, id) SELECT 'shipment', d.shipment_id FROM delivery d
        WHERE d.id = NEW.delivery_id AND d.shipment_id IS NOT NULL;
      RETURN NULL; END $$;
    CREATE TRIGGER note_return_reversed AFTER UPDATE OF reversal_id ON delivery_entry FOR EACH ROW EXECUTE FUNCTION note_return_reversed();
  `);
}

/** Undone only in tests. */
export async function down(knex: Knex): Promise<void> {
  await knex.raw(`
    DROP TRIGGER note_return_reversed ON delivery_entry;
    DROP TRIGGER note_returned ON delivery;
    DROP TRIGGER note_shipment ON shipment;
    DROP FUNCTION note_return_reversed(), note_returned(), note_shipment();
    DROP VIEW returned_line, shipped_line;
    ALTER TABLE delivery DROP COLUMN is_return, DROP COLUMN customer_id, DROP COLUMN shipment_id;
    DROP SEQUENCE number_rt, number_re;
    ALTER TABLE document DROP CONSTRAINT document_kind_check, ADD CONSTRAINT document_kind_check
      CHECK (kind IN ('receipt', 'putAway', 'move', 'round', 'shipment', 'count', 'adjustment', 'opening', 'hold', 'release', 'tracking',
        'reversal', 'putBack', 'transfer', 'inspection')) NOT VALID;
  `);
}
