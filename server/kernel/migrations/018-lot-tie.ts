import type { Knex } from 'knex';

/** Which lot became which: goods that got a new lot number keep their tie to the old one, for as long as the document that gave it
 *  stands. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    CREATE TABLE lot_tie (
      document_id int PRIMARY KEY REFERENCES document, from_lot int NOT NULL REFERENCES lot, to_lot int NOT NULL REFERENCES lot,
      qty numeric(16, 3) NOT NULL CHECK (qty > 0), CHECK (from_lot <> to_lot)
    );
    CREATE INDEX lot_tie_from ON lot_tie (from_lot);
    CREATE INDEX lot_tie_to ON lot_tie (to_lot);
    CREATE VIEW lot_tied AS
      SELECT t.* FROM lot_tie t
      WHERE NOT EXISTS (SELECT 1 FROM movement m JOIN movement r ON r.reverses = m.id WHERE m.document_id = t.document_id);
  `);
}

/** Undone only in tests. */
export async function down(knex: Knex): Promise<void> {
  await knex.raw(`DROP VIEW lot_tied; DROP TABLE lot_tie;`);
}
