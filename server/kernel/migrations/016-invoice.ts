import type { Knex } from 'knex';

/** What the supplier's invoice says of a delivery, item by item, as somebody keyed it from the paper. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    CREATE TABLE invoice_line (
      delivery_id int NOT NULL REFERENCES delivery, item_id int NOT NULL REFERENCES item,
      qty numeric(16, 3) NOT NULL CHECK (qty >= 0), price numeric(14, 4) CHECK (price >= 0), PRIMARY KEY (delivery_id, item_id)
    );
    ALTER TABLE delivery ADD invoice_by int REFERENCES person, ADD invoice_at timestamptz;
  `);
}

/** Undone only in tests. */
export async function down(knex: Knex): Promise<void> {
  await knex.raw(`
    ALTER TABLE delivery DROP COLUMN invoice_by, DROP COLUMN invoice_at;
    DROP TABLE invoice_line;
  `);
}
