import type { Knex } from 'knex';

/** A badge opens a door: what it looks like is for leads, in the queue and in a PDF. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    ALTER TABLE print_job ADD for_leads boolean NOT NULL DEFAULT false;
    ALTER TABLE file ADD for_leads boolean NOT NULL DEFAULT false;
    UPDATE print_job SET for_leads = true WHERE title LIKE 'Badge of %';
  `);
}

/** Undone only in tests. */
export async function down(knex: Knex): Promise<void> {
  await knex.raw(`ALTER TABLE print_job DROP for_leads; ALTER TABLE file DROP for_leads`);
}
