import type { Knex } from 'knex';

/** What a house wants on each kind of label, and where: every version is kept, so that it can be as it was before. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    CREATE TABLE label_contents (
      kind text NOT NULL, version int NOT NULL CHECK (version > 0), contents jsonb NOT NULL, logo_id int REFERENCES file,
      person_id int NOT NULL REFERENCES person, at timestamptz NOT NULL DEFAULT now(), PRIMARY KEY (kind, version)
    );
  `);
}

/** Undone only in tests. */
export async function down(knex: Knex): Promise<void> {
  await knex.raw(`DROP TABLE label_contents`);
}
