import type { Knex } from 'knex';

/** Goods that come, stand, move and are counted as one, under the number on their label (SSCC); and what suppliers say beforehand of what
 *  is in them. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    ALTER TABLE delivery_entry ADD sscc text CHECK (sscc ~ '^[0-9]{18}$');
    CREATE INDEX delivery_entry_by_sscc ON delivery_entry (sscc) WHERE sscc IS NOT NULL;
    ALTER TABLE tally ADD sscc text CHECK (sscc ~ '^[0-9]{18}$');
    CREATE INDEX balance_by_unit ON balance (unit_id) WHERE unit_id IS NOT NULL;
    CREATE INDEX movement_from_unit ON movement (from_unit, id) WHERE from_unit IS NOT NULL;
    CREATE INDEX movement_to_unit ON movement (to_unit, id) WHERE to_unit IS NOT NULL;

    -- Units that were received for good, and when.
    CREATE VIEW came_unit AS
      SELECT e.sscc, max(d.touched) AS at, max(d.id) AS delivery_id
      FROM delivery_entry e
      JOIN delivery d ON d.id = e.delivery_id
      WHERE e.sscc IS NOT NULL AND e.taken_out_at IS NULL AND e.reversal_id IS NULL AND d.state = 'posted'
      GROUP BY e.sscc;

    CREATE SEQUENCE number_an;
    CREATE TABLE notice (
      id int GENERATED ALWAYS AS IDENTITY PRIMARY KEY, number text NOT NULL UNIQUE, site_id int NOT NULL REFERENCES site,
      supplier_id int NOT NULL REFERENCES supplier, reference text NOT NULL, issued date, due date,
      state text NOT NULL DEFAULT 'coming' CHECK (state IN ('coming', 'arrived', 'withdrawn')),
      person_id int REFERENCES person, at timestamptz NOT NULL DEFAULT now_here(),
      touched timestamptz NOT NULL DEFAULT now_here(), file_name text NOT NULL DEFAULT '',
      contents text NOT NULL, UNIQUE (supplier_id, reference)
    );
    CREATE INDEX notice_open ON notice (site_id) WHERE state = 'coming';
    CREATE TABLE notice_line (
      id int GENERATED ALWAYS AS IDENTITY PRIMARY KEY, notice_id int NOT NULL REFERENCES notice ON DELETE CASCADE,
      sscc text CHECK (sscc ~ '^[0-9]{18}$'), purchase_order_id int REFERENCES purchase_order, item_id int NOT NULL REFERENCES item,
      pack_id int NOT NULL REFERENCES pack, qty numeric(16, 3) NOT NULL CHECK (qty > 0),
      lot text, expires date, made date, serial text, is_whole boolean NOT NULL, CHECK (made <= expires)
    );
    CREATE INDEX notice_line_by_notice ON notice_line (notice_id);
    CREATE INDEX notice_line_by_sscc ON notice_line (sscc) WHERE sscc IS NOT NULL;
    CREATE INDEX notice_line_loose ON notice_line (purchase_order_id) WHERE sscc IS NULL;
    -- Files that a supplier dropped and that could not be taken in, with why, until somebody has seen it.
    CREATE TABLE notice_refusal (
      id int GENERATED ALWAYS AS IDENTITY PRIMARY KEY, file_name text NOT NULL, contents text NOT NULL UNIQUE, says text NOT NULL,
      at timestamptz NOT NULL DEFAULT now_here(), seen_at timestamptz, seen_by int REFERENCES person
    );

    ${NOTED.map(noteTriggers).join('\n')}
  `);
}

const NOTED: readonly { table: string; of: string }[] = [
  { table: 'notice', of: 't.id' },
  { table: 'notice_line', of: 't.notice_id' },
];

function noteTriggers({ table, of }: (typeof NOTED)[number]): string {
  const name = `note_${table}_as_notice`;
  const on = (event: string, rows: string): string =>
    `CREATE TRIGGER ${name}_${event.toLowerCase()} AFTER ${event} ON ${table} REFERENCING ${rows} TABLE AS told FOR EACH STATEMENT
      EXECUTE FUNCTION ${name}();`;
  return `
    CREATE FUNCTION ${name}() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN
      INSERT INTO fact_change (kind, id) SELECT DISTINCT 'notice', ${of} FROM told t;
      RETURN NULL; END $$;
    ${on('INSERT', 'NEW')} ${on('UPDATE', 'NEW')} ${on('DELETE', 'OLD')}`;
}

/** Undone only in tests. */
export async function down(knex: Knex): Promise<void> {
  await knex.raw(`
    DROP VIEW came_unit;
    DROP TABLE notice_refusal, notice_line, notice;
    ${NOTED.map(({ table }) => `DROP FUNCTION note_${table}_as_notice();`).join('\n')}
    DROP SEQUENCE number_an;
    DROP INDEX movement_from_unit, movement_to_unit, balance_by_unit;
    ALTER TABLE tally DROP COLUMN sscc;
    ALTER TABLE delivery_entry DROP COLUMN sscc;
  `);
}
