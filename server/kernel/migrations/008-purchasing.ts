import type { Knex } from 'knex';

/** Purchase orders from the first draft to the last piece, and what an item should have at a site. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    ALTER TABLE purchase_order DROP CONSTRAINT purchase_order_state_check;
    ALTER TABLE purchase_order
      ADD CHECK (state IN ('draft', 'open', 'closed', 'cancelled')),
      ADD reference text NOT NULL DEFAULT '', ADD note text NOT NULL DEFAULT '', ADD version int NOT NULL DEFAULT 1,
      ADD made_by int REFERENCES person, ADD approved_at timestamptz, ADD approved_by int REFERENCES person,
      ADD sent_at timestamptz, ADD sent_by int REFERENCES person, ADD sent_as text CHECK (sent_as IN ('pdf', 'ubl', 'other')),
      ADD ended_at timestamptz, ADD ended_by int REFERENCES person, ADD ended_for text NOT NULL DEFAULT '';
    UPDATE purchase_order SET approved_at = at;
    -- What another program calls an order: the same sheet a second time is seen.
    CREATE UNIQUE INDEX purchase_order_reference ON purchase_order (supplier_id, lower(reference)) WHERE reference <> '';
    CREATE INDEX purchase_order_by_site ON purchase_order (site_id, state, due);
    ALTER TABLE purchase_line ADD cost numeric(14,4) NOT NULL DEFAULT 0 CHECK (cost >= 0), ADD part_no text NOT NULL DEFAULT '';
    UPDATE purchase_line l SET cost = x.cost, part_no = x.part_no
      FROM purchase_order o, item_supplier x
      WHERE o.id = l.purchase_order_id AND x.item_id = l.item_id AND x.supplier_id = o.supplier_id;
    ALTER TABLE supplier ADD address text NOT NULL DEFAULT '';

    -- What a supplier still owes: lines of approved orders, as far as they have not come. A draft is owed by nobody.
    CREATE VIEW expected_line AS
      SELECT l.id, l.purchase_order_id, l.item_id, l.qty - l.received AS open, o.number, o.supplier_id, o.site_id, o.due
      FROM purchase_line l
      JOIN purchase_order o ON o.id = l.purchase_order_id
      WHERE o.state = 'open' AND NOT l.closed AND l.received < l.qty;

    -- How much of an item a site wants: below the least it is bought again, up to the most, in whole packs.
    CREATE TABLE reorder_level (
      item_id int NOT NULL REFERENCES item, site_id int NOT NULL REFERENCES site,
      least numeric(18,3) CHECK (least >= 0), most numeric(18,3) CHECK (most > 0), pack_id int REFERENCES pack,
      PRIMARY KEY (item_id, site_id), CHECK (least <= most)
    );
  `);
}

/** Undone only in tests. */
export async function down(knex: Knex): Promise<void> {
  await knex.raw(`
    DROP TABLE reorder_level;
    DROP VIEW expected_line;
    ALTER TABLE supplier DROP COLUMN address;
    ALTER TABLE purchase_line DROP COLUMN cost, DROP COLUMN part_no;
    DROP INDEX purchase_order_by_site;
    ALTER TABLE purchase_order DROP CONSTRAINT purchase_order_state_check;
    DELETE FROM purchase_line l USING purchase_order o WHERE o.id = l.purchase_order_id AND o.state = 'draft';
    DELETE FROM purchase_order WHERE state = 'draft';
    UPDATE purchase_order SET state = 'closed' WHERE state = 'cancelled';
    ALTER TABLE purchase_order
      ADD CHECK (state IN ('open', 'closed')),
      DROP COLUMN reference, DROP COLUMN note, DROP COLUMN version, DROP COLUMN made_by, DROP COLUMN approved_at, DROP COLUMN approved_by,
      DROP COLUMN sent_at, DROP COLUMN sent_by, DROP COLUMN sent_as, DROP COLUMN ended_at, DROP COLUMN ended_by, DROP COLUMN ended_for;
  `);
}
