import type { Knex } from 'knex';

const NOTED: readonly { table: string; of: string; from?: string }[] = [
  { table: 'carry', of: 't.id' },
  { table: 'carry_task', of: 't.carry_id' },
  { table: 'carried', of: 'x.carry_id', from: 'JOIN carry_task x ON x.id = t.task_id' },
];
const noteTriggers = NOTED.map(({ table, of, from }) => {
  const name = `note_${table}_as_carry`;
  const on = (event: string, rows: string): string =>
    `CREATE TRIGGER ${name}_${event.toLowerCase()} AFTER ${event} ON ${table} REFERENCING ${rows} TABLE AS told FOR EACH STATEMENT
      EXECUTE FUNCTION ${name}();`;
  return `
    CREATE FUNCTION ${name}() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN
      INSERT INTO fact_change (kind, id) SELECT DISTINCT 'carry', ${of} FROM told t ${from ?? ''};
      RETURN NULL; END $$;
    ${on('INSERT', 'NEW')} ${on('UPDATE', 'NEW')} ${on('DELETE', 'OLD')}`;
}).join('\n');

/** Put-away and refill rounds: what is to be carried from where to where, what was taken and what was put. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    CREATE SEQUENCE number_cr;
    ALTER TABLE document DROP CONSTRAINT document_kind_check;
    ALTER TABLE document ADD CONSTRAINT document_kind_check CHECK (kind IN (
      'receipt', 'putAway', 'move', 'round', 'shipment', 'count', 'adjustment', 'opening', 'hold', 'release', 'tracking', 'reversal',
      'putBack', 'transfer', 'inspection', 'return', 'carry'));
    CREATE TABLE carry (
      id int GENERATED ALWAYS AS IDENTITY PRIMARY KEY, number text NOT NULL UNIQUE,
      kind text NOT NULL CHECK (kind IN ('putAway', 'refill')), site_id int NOT NULL REFERENCES site, person_id int REFERENCES person,
      -- What is put away goes straight from arrivals to its bin; what is refilled rides on a cart.
      cart_bin int REFERENCES bin, state text NOT NULL DEFAULT 'open' CHECK (state IN ('open', 'done', 'thrown')),
      made_by int NOT NULL REFERENCES person, document_id int NOT NULL UNIQUE REFERENCES document,
      at timestamptz NOT NULL DEFAULT now_here(), ended_at timestamptz, ended_by int REFERENCES person,
      take_way int[] NOT NULL DEFAULT '{}', take_legs real[] NOT NULL DEFAULT '{}',
      put_way int[] NOT NULL DEFAULT '{}', put_legs real[] NOT NULL DEFAULT '{}', unreached int[] NOT NULL DEFAULT '{}',
      metres numeric(9, 1) CHECK (metres >= 0), plain_metres numeric(9, 1) CHECK (plain_metres >= 0),
      CHECK ((kind = 'refill') = (cart_bin IS NOT NULL))
    );
    CREATE INDEX carry_open ON carry (site_id) WHERE state = 'open';
    CREATE UNIQUE INDEX carry_one_cart ON carry (cart_bin) WHERE state = 'open';
    CREATE TABLE carry_task (
      id int GENERATED ALWAYS AS IDENTITY PRIMARY KEY, key uuid NOT NULL UNIQUE DEFAULT gen_random_uuid(),
      carry_id int NOT NULL REFERENCES carry, item_id int NOT NULL REFERENCES item, from_bin int NOT NULL REFERENCES bin,
      lot_id int REFERENCES lot, serial_id int REFERENCES serial, unit_id int REFERENCES logistic_unit,
      condition text NOT NULL DEFAULT 'sound', qty numeric(18, 3) NOT NULL CHECK (qty >= 0),
      to_bin int NOT NULL REFERENCES bin, why text NOT NULL, trouble text CHECK (trouble IN ('short', 'damaged', 'notFound')),
      CHECK (from_bin <> to_bin)
    );
    CREATE INDEX carry_task_by_carry ON carry_task (carry_id);
    CREATE INDEX carry_task_by_item ON carry_task (item_id);
    CREATE TABLE carried (
      id int GENERATED ALWAYS AS IDENTITY PRIMARY KEY, key uuid NOT NULL UNIQUE,
      task_id int NOT NULL REFERENCES carry_task, way text NOT NULL CHECK (way IN ('take', 'put')),
      qty numeric(18, 3) NOT NULL CHECK (qty > 0), serial_id int REFERENCES serial, bin_id int NOT NULL REFERENCES bin,
      movements bigint[] NOT NULL, person_id int NOT NULL REFERENCES person, at timestamptz NOT NULL DEFAULT now_here(),
      undone_at timestamptz, undone_by int REFERENCES person
    );
    CREATE INDEX carried_by_task ON carried (task_id);
    -- What of each line of an open round is still to be taken, and still to be put.
    CREATE VIEW carry_open_task AS
      SELECT t.*, c.site_id, c.cart_bin, x.taken, x.put,
        CASE WHEN c.cart_bin IS NULL THEN t.qty - x.put ELSE t.qty - x.taken END AS to_fetch,
        t.qty - x.put AS to_bring
      FROM carry_task t
      JOIN carry c ON c.id = t.carry_id AND c.state = 'open'
      CROSS JOIN LATERAL (
        SELECT coalesce(sum(d.qty) FILTER (WHERE d.way = 'take'), 0) AS taken, coalesce(sum(d.qty) FILTER (WHERE d.way = 'put'), 0) AS put
        FROM carried d
        WHERE d.task_id = t.id AND d.undone_at IS NULL) x;
    -- What open rounds bring into each bin.
    CREATE VIEW coming_into AS
      SELECT site_id, to_bin AS bin_id, item_id, lot_id, sum(to_bring) AS qty
      FROM carry_open_task
      WHERE to_bring > 0
      GROUP BY 1, 2, 3, 4;
    -- What rides on the cart of an open round.
    CREATE VIEW on_cart AS
      SELECT c.id AS carry_id, c.number, c.site_id, c.cart_bin AS bin_id, t.id AS task_id, t.item_id, t.lot_id, d.serial_id,
        sum(CASE d.way WHEN 'take' THEN d.qty ELSE -d.qty END) AS qty
      FROM carry c
      JOIN carry_task t ON t.carry_id = c.id
      JOIN carried d ON d.task_id = t.id AND d.undone_at IS NULL
      WHERE c.state = 'open' AND c.cart_bin IS NOT NULL
      GROUP BY 1, 2, 3, 4, 5, 6, 7, 8
      HAVING sum(CASE d.way WHEN 'take' THEN d.qty ELSE -d.qty END) <> 0;
    -- Carts that somebody walks with.
    CREATE VIEW cart_at_work AS
      SELECT cart_bin AS bin_id FROM round WHERE state = 'open'
      UNION ALL SELECT cart_bin FROM carry WHERE state = 'open' AND cart_bin IS NOT NULL;
    ${noteTriggers}
  `);
}

/** Undone only in tests. */
export async function down(knex: Knex): Promise<void> {
  await knex.raw(`
    DROP VIEW cart_at_work, on_cart, coming_into, carry_open_task;
    DROP TABLE carried, carry_task, carry;
    DROP SEQUENCE number_cr;
    ${NOTED.map(({ table }) => `DROP FUNCTION note_${table}_as_carry();`).join('\n')}
    DELETE FROM document WHERE kind = 'carry';
    ALTER TABLE document DROP CONSTRAINT document_kind_check;
    ALTER TABLE document ADD CONSTRAINT document_kind_check CHECK (kind IN (
      'receipt', 'putAway', 'move', 'round', 'shipment', 'count', 'adjustment', 'opening', 'hold', 'release', 'tracking', 'reversal',
      'putBack', 'transfer', 'inspection', 'return'));
  `);
}
