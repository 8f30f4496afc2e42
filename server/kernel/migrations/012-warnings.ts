import type { Knex } from 'knex';

/** At which distances a site is warned before lots expire, in days, the nearest first. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    ALTER TABLE site ADD expiry_days int[] NOT NULL DEFAULT '{14,30,60}'
      CHECK (cardinality(expiry_days) BETWEEN 1 AND 6 AND 0 < ALL (expiry_days) AND 3650 >= ALL (expiry_days));
  `);
}

/** Undone only in tests. */
export async function down(knex: Knex): Promise<void> {
  await knex.raw(`ALTER TABLE site DROP COLUMN expiry_days;`);
}
