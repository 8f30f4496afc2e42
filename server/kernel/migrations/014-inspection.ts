import type { Knex } from 'knex';

const KINDS = [
  'receipt',
  'putAway',
  'move',
  'round',
  'shipment',
  'count',
  'adjustment',
  'opening',
  'hold',
  'release',
  'tracking',
  'reversal',
  'putBack',
  'transfer',
];
const kindsAre = (kinds: readonly string[]): string => `
  ALTER TABLE document DROP CONSTRAINT document_kind_check, ADD CONSTRAINT document_kind_check
    CHECK (kind IN (${kinds.map((k) => `'${k}'`).join(', ')}))`;

/** What was found by whoever looked at goods that arrived: how many were looked at, which of them failed and why, with pictures. The newest
 *  finding of an entry stands; those before it are kept. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    ${kindsAre([...KINDS, 'inspection'])};
    CREATE SEQUENCE number_in;
    CREATE TABLE failure_reason (
      id int GENERATED ALWAYS AS IDENTITY PRIMARY KEY, name text NOT NULL CHECK (name <> ''), retired_at timestamptz
    );
    CREATE UNIQUE INDEX failure_reason_name ON failure_reason (lower(name));
    INSERT INTO failure_reason (name) VALUES ('damaged'), ('wrong goods'), ('wrong colour'), ('wrong size'), ('dirty'), ('packing broken');
    CREATE TABLE inspection (
      id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY, key uuid NOT NULL UNIQUE, entry_id int NOT NULL REFERENCES delivery_entry,
      checked numeric(16, 3) NOT NULL CHECK (checked >= 0), note text NOT NULL DEFAULT '',
      person_id int NOT NULL REFERENCES person, device text, at timestamptz NOT NULL DEFAULT now_here(),
      document_id int REFERENCES document
    );
    CREATE INDEX inspection_of_entry ON inspection (entry_id, id DESC);
    CREATE INDEX inspection_by_time ON inspection (at);
    CREATE TABLE inspection_failure (
      inspection_id bigint NOT NULL REFERENCES inspection, reason_id int NOT NULL REFERENCES failure_reason,
      qty numeric(16, 3) NOT NULL CHECK (qty > 0), PRIMARY KEY (inspection_id, reason_id)
    );
    CREATE TABLE inspection_photo (
      entry_id int NOT NULL REFERENCES delivery_entry, file_id int NOT NULL REFERENCES file, person_id int NOT NULL REFERENCES person,
      at timestamptz NOT NULL DEFAULT now_here(), PRIMARY KEY (entry_id, file_id)
    );
    -- What stands of each entry, with how many failed in all.
    CREATE VIEW finding AS
      SELECT s.*, coalesce((SELECT sum(f.qty) FROM inspection_failure f WHERE f.inspection_id = s.id), 0) AS failed
      FROM inspection s
      WHERE NOT EXISTS (SELECT 1 FROM inspection later WHERE later.entry_id = s.entry_id AND later.id > s.id);
    ${NOTED.map(noteTriggers).join('\n')}
  `);
}

const NOTED: readonly { table: string; kind: string; of: string; from?: string }[] = [
  // A finding is told with its reasons, which are written after it.
  { table: 'inspection', kind: 'entry', of: 't.entry_id' },
  { table: 'inspection_failure', kind: 'entry', of: 's.entry_id', from: 'JOIN inspection s ON s.id = t.inspection_id' },
  { table: 'inspection_photo', kind: 'entry', of: 't.entry_id' },
  { table: 'failure_reason', kind: 'failureReason', of: 't.id' },
];

function noteTriggers({ table, kind, of, from }: (typeof NOTED)[number]): string {
  const name = `note_${table}_as_${kind.toLowerCase()}`;
  const on = (event: string): string =>
    `CREATE TRIGGER ${name}_${event.toLowerCase()} AFTER ${event} ON ${table} REFERENCING NEW TABLE AS told FOR EACH STATEMENT
      EXECUTE FUNCTION ${name}();`;
  return `
    CREATE FUNCTION ${name}() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN
      INSERT INTO fact_change (kind, id) SELECT DISTINCT '${kind}', ${of} FROM told t ${from ?? ''};
      RETURN NULL; END $$;
    ${on('INSERT')} ${on('UPDATE')}`;
}

/** Undone only in tests. */
export async function down(knex: Knex): Promise<void> {
  await knex.raw(`
    DROP VIEW finding;
    DROP TABLE inspection_photo, inspection_failure, inspection, failure_reason;
    DROP SEQUENCE number_in;
    ${NOTED.map(({ table, kind }) => `DROP FUNCTION note_${table}_as_${kind.toLowerCase()}();`).join('\n')}
    -- What was written since keeps its kind.
    ${kindsAre(KINDS)} NOT VALID;
  `);
}
