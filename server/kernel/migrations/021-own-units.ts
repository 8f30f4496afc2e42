import type { Knex } from 'knex';

/** The next of the house's own numbers for pallets and cartons. A sequence, because a label that was printed may stick on something even
 *  where the transaction that printed it failed: no number is ever given twice. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`CREATE SEQUENCE number_unit MINVALUE 0 START 0;`);
}

/** Undone only in tests. */
export async function down(knex: Knex): Promise<void> {
  await knex.raw(`DROP SEQUENCE number_unit;`);
}
