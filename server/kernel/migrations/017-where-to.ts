import type { Knex } from 'knex';

/** Where goods that arrive go at once; null where they are left at arrivals to be put away. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`ALTER TABLE delivery_entry ADD to_bin int REFERENCES bin;`);
}

/** Undone only in tests. */
export async function down(knex: Knex): Promise<void> {
  await knex.raw(`ALTER TABLE delivery_entry DROP COLUMN to_bin;`);
}
