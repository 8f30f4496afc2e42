import type { Knex } from 'knex';

/** How much over and short is agreed with a supplier, and which lines were closed because what was missing was within that; and what goods
 *  cost by the sheet with which they came, one base unit. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    ALTER TABLE supplier
      ADD over_percent numeric(5, 2) NOT NULL DEFAULT 0 CHECK (over_percent BETWEEN 0 AND 100),
      ADD short_percent numeric(5, 2) NOT NULL DEFAULT 0 CHECK (short_percent BETWEEN 0 AND 100);
    ALTER TABLE delivery_expected ADD agreed_short boolean NOT NULL DEFAULT false;
    ALTER TABLE delivery_entry ADD cost numeric(14, 4) CHECK (cost >= 0);
  `);
}

/** Undone only in tests. */
export async function down(knex: Knex): Promise<void> {
  await knex.raw(`
    ALTER TABLE delivery_entry DROP COLUMN cost;
    ALTER TABLE delivery_expected DROP COLUMN agreed_short;
    ALTER TABLE supplier DROP COLUMN over_percent, DROP COLUMN short_percent;
  `);
}
