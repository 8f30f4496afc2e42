import type { Knex } from 'knex';

/** From which sheets a delivery was read, by their contents: one sheet is received once, whatever its file is called. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    CREATE TABLE delivery_sheet (
      contents text NOT NULL, delivery_id int NOT NULL REFERENCES delivery, PRIMARY KEY (contents, delivery_id)
    );
  `);
}

/** Undone only in tests. */
export async function down(knex: Knex): Promise<void> {
  await knex.raw(`DROP TABLE delivery_sheet;`);
}
