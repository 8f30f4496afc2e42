import type { Knex } from 'knex';

/** What is said of an adjustment beside its movements. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    CREATE TABLE adjustment (
      document_id int PRIMARY KEY REFERENCES document, reference text NOT NULL DEFAULT '', day date NOT NULL,
      job text NOT NULL DEFAULT '', cost numeric(14,4) CHECK (cost >= 0)
    );
  `);
}

/** Undone only in tests. */
export async function down(knex: Knex): Promise<void> {
  await knex.raw(`DROP TABLE adjustment;`);
}
