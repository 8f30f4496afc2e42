import type { Knex } from 'knex';

/** The bins of a round in the order in which it meets them, how far each is from the one before it, how far all of it is, how far plain
 *  walking order would be, and the bins to which the plan has no way. Rounds from before have none: they are walked in walking order. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    ALTER TABLE round
      ADD way int[] NOT NULL DEFAULT '{}', ADD legs real[] NOT NULL DEFAULT '{}', ADD unreached int[] NOT NULL DEFAULT '{}',
      ADD metres numeric(9, 1) CHECK (metres >= 0), ADD plain_metres numeric(9, 1) CHECK (plain_metres >= 0);
  `);
}

/** Undone only in tests. */
export async function down(knex: Knex): Promise<void> {
  await knex.raw(
    `ALTER TABLE round DROP COLUMN plain_metres, DROP COLUMN metres, DROP COLUMN unreached, DROP COLUMN legs, DROP COLUMN way;`,
  );
}
