import type { Knex } from 'knex';

/** Orders are of kinds: for a customer, for a job inside, to another site, over the counter. Who one is for is said by the view
 *  `order_party` alone. Orders bear the customer's own number, which comes once; a carrier; the least life that is taken. What is no stock
 *  stands beside the lines. A customer may take an order whole or not at all. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    ALTER TABLE customer
      ADD whole_only boolean NOT NULL DEFAULT false,
      ADD least_life int CHECK (least_life BETWEEN 0 AND 3650),
      ADD version int NOT NULL DEFAULT 1;
    CREATE UNIQUE INDEX customer_code_once ON customer (fold_name(code));
    ALTER TABLE customer_order
      ALTER customer_id DROP NOT NULL,
      ADD kind text NOT NULL DEFAULT 'customer',
      ADD job text, ADD to_site int REFERENCES site,
      ADD reference text NOT NULL DEFAULT '', ADD carrier text NOT NULL DEFAULT '',
      ADD least_life int CHECK (least_life BETWEEN 0 AND 3650),
      ADD source text NOT NULL DEFAULT 'desk' CHECK (source IN ('desk', 'sheet', 'file', 'channel')),
      ADD CONSTRAINT customer_order_kind CHECK (CASE kind
        WHEN 'customer' THEN customer_id IS NOT NULL AND job IS NULL AND to_site IS NULL
        WHEN 'job' THEN customer_id IS NULL AND job IS NOT NULL AND to_site IS NULL
        WHEN 'transfer' THEN customer_id IS NULL AND job IS NULL AND to_site IS NOT NULL AND to_site <> site_id
        WHEN 'counter' THEN job IS NULL AND to_site IS NULL
        ELSE false END);
    CREATE UNIQUE INDEX customer_order_reference ON customer_order (customer_id, fold_name(reference))
      WHERE reference <> '' AND state <> 'cancelled';
    -- What is handed over the counter is picked and gone at once, on no round.
    ALTER TABLE picked ADD shipment_document int REFERENCES document, ALTER pick_id DROP NOT NULL;
    ALTER TABLE picked ADD CONSTRAINT picked_on_round CHECK (pick_id IS NOT NULL OR shipped);
    -- A line that was taken out stays, with nothing ordered: what hung on it is on record.
    ALTER TABLE order_line DROP CONSTRAINT order_line_qty_check, ADD CONSTRAINT order_line_qty_check CHECK (qty >= 0);
    ALTER TABLE site ADD cart_slots int NOT NULL DEFAULT 6 CHECK (cart_slots BETWEEN 1 AND 40);
    CREATE TABLE order_extra (
      id int GENERATED ALWAYS AS IDENTITY PRIMARY KEY, order_id int NOT NULL REFERENCES customer_order,
      text text NOT NULL, qty numeric(18,3) NOT NULL CHECK (qty > 0)
    );
    CREATE INDEX order_extra_by_order ON order_extra (order_id);
    CREATE VIEW order_party AS
      SELECT o.id AS order_id, c.id AS customer_id, coalesce(c.address, '') AS address,
        CASE o.kind
          WHEN 'job' THEN 'Job ' || o.job
          WHEN 'transfer' THEN 'To ' || s.name
          WHEN 'counter' THEN coalesce(c.name, 'Over the counter')
          ELSE c.name END AS name
      FROM customer_order o
      LEFT JOIN customer c ON c.id = o.customer_id
      LEFT JOIN site s ON s.id = o.to_site;
  `);
}

/** Undone only in tests. */
export async function down(knex: Knex): Promise<void> {
  await knex.raw(`
    DROP VIEW order_party;
    DROP TABLE order_extra;
    ALTER TABLE site DROP COLUMN cart_slots;
    DELETE FROM picked WHERE pick_id IS NULL;
    ALTER TABLE picked DROP COLUMN shipment_document, DROP CONSTRAINT picked_on_round, ALTER pick_id SET NOT NULL;
    DROP INDEX customer_order_reference;
    ALTER TABLE customer_order DROP CONSTRAINT customer_order_kind,
      DROP COLUMN kind, DROP COLUMN job, DROP COLUMN to_site, DROP COLUMN reference, DROP COLUMN carrier, DROP COLUMN least_life,
      DROP COLUMN source;
    DROP INDEX customer_code_once;
    ALTER TABLE customer DROP COLUMN whole_only, DROP COLUMN least_life, DROP COLUMN version;
  `);
}
