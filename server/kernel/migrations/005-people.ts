import type { Knex } from 'knex';

// Who came in, who tried in vain, who was changed by whom. Names are told by text as well: what happened stays readable.
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    CREATE TABLE person_event (
      id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
      at timestamptz NOT NULL DEFAULT now(),
      what text NOT NULL CHECK (what IN ('in', 'tried', 'shutOut', 'letIn', 'added', 'changed', 'locked', 'unlocked', 'ended',
      'ownSecret', 'sites')),
      person_id int REFERENCES person, by_id int REFERENCES person, detail text NOT NULL DEFAULT ''
    );
    CREATE INDEX person_event_by_person ON person_event (person_id, id);
    CREATE UNIQUE INDEX person_name_folded ON person (lower(name));
    CREATE INDEX session_by_person ON session ((sess->>'person'));
  `);
}

/** Not undone: it would drop who came in and who changed whom. */
export async function down(): Promise<void> {
  throw new Error('The fifth migration is not undone: it would drop who came in and who changed whom. Restore a backup instead.');
}
