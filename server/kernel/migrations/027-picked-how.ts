import type { Knex } from 'knex';

/** Out of which logistic unit something was picked, and for which bin a pick was planned before somebody took it elsewhere. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    ALTER TABLE picked ADD COLUMN unit_id int REFERENCES logistic_unit;
    ALTER TABLE round_pick
      ADD COLUMN instead_of int REFERENCES bin,
      ADD COLUMN instead_why text,
      ADD CHECK ((instead_of IS NULL) = (instead_why IS NULL));
  `);
}

/** Undone only in tests. */
export async function down(knex: Knex): Promise<void> {
  await knex.raw(`
    ALTER TABLE round_pick DROP COLUMN instead_of, DROP COLUMN instead_why;
    ALTER TABLE picked DROP COLUMN unit_id;
  `);
}
