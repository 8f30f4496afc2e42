import type { Knex } from 'knex';

// What a device keeps of the house is told again when it changes. Each row here says that a fact changed, and in which
// transaction: what a reader's
// snapshot did not see yet is read by the next one. Rows are only ever added, so that nobody waits for anybody.
const NOTED: readonly { table: string; kind: string; of: string; from?: string }[] = [
  { table: 'item', kind: 'item', of: 't.id' },
  { table: 'pack', kind: 'item', of: 't.item_id' },
  { table: 'barcode', kind: 'item', of: 't.item_id' },
  { table: 'home_bin', kind: 'item', of: 't.item_id' },
  { table: 'bin', kind: 'bin', of: 't.id' },
  { table: 'bin_name', kind: 'bin', of: 't.bin_id' },
  { table: 'zone', kind: 'bin', of: 'b.id', from: 'JOIN bin b ON b.zone_id = t.id' },
  { table: 'lot', kind: 'lot', of: 't.id' },
  { table: 'balance', kind: 'balance', of: 't.id' },
  { table: 'delivery', kind: 'delivery', of: 't.id' },
  { table: 'purchase_line', kind: 'delivery', of: 'd.id', from: 'JOIN delivery d ON d.purchase_order_id = t.purchase_order_id' },
  { table: 'delivery_entry', kind: 'entry', of: 't.id' },
  { table: 'round', kind: 'round', of: 't.id' },
  { table: 'round_pick', kind: 'round', of: 't.round_id' },
  { table: 'picked', kind: 'round', of: 'p.round_id', from: 'JOIN round_pick p ON p.id = t.pick_id' },
  { table: 'picked', kind: 'order', of: 'l.order_id', from: 'JOIN order_line l ON l.id = t.line_id' },
  { table: 'customer_order', kind: 'order', of: 't.id' },
  { table: 'order_line', kind: 'order', of: 't.order_id' },
  { table: 'stock_count', kind: 'count', of: 't.id' },
  { table: 'count_bin', kind: 'countBin', of: '(t.count_id::bigint << 32) | t.bin_id' },
  { table: 'tally', kind: 'tally', of: 't.id' },
];

const noteTriggers = NOTED.map(({ table, kind, of, from }) => {
  const name = `note_${table}_as_${kind.toLowerCase()}`;
  const on = (event: string, rows: string): string =>
    `CREATE TRIGGER ${name}_${event.toLowerCase()} AFTER ${event} ON ${table} REFERENCING ${rows} TABLE AS told FOR EACH STATEMENT
      EXECUTE FUNCTION ${name}();`;
  return `
    CREATE FUNCTION ${name}() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN
      INSERT INTO fact_change (kind, id) SELECT DISTINCT '${kind}', ${of} FROM told t ${from ?? ''};
      RETURN NULL; END $$;
    ${on('INSERT', 'NEW')} ${on('UPDATE', 'NEW')} ${on('DELETE', 'OLD')}`;
}).join('\n');

/** What hands did on the floor, told when it could be told; what a device keeps, and what changed of it since. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    CREATE TABLE fact_change (
      kind text NOT NULL, id bigint NOT NULL, changed xid8 NOT NULL DEFAULT pg_current_xact_id(), at timestamptz NOT NULL DEFAULT now()
    );
    CREATE INDEX fact_change_since ON fact_change (changed);
    CREATE INDEX fact_change_at ON fact_change (at);
    -- Below this nothing is known any more: a device that stayed away longer begins anew.
    CREATE TABLE fact_floor (changed xid8 NOT NULL);
    INSERT INTO fact_floor VALUES (pg_current_xact_id());

    -- Things that a device makes have a name from the moment in which they are made there.
    ALTER TABLE delivery_entry ADD key uuid NOT NULL DEFAULT gen_random_uuid();
    ALTER TABLE tally ADD key uuid NOT NULL DEFAULT gen_random_uuid();
    ALTER TABLE round_pick ADD key uuid NOT NULL DEFAULT gen_random_uuid();
    ALTER TABLE picked ADD key uuid NOT NULL DEFAULT gen_random_uuid(), ADD person_id int REFERENCES person;
    CREATE INDEX delivery_entry_by_line ON delivery_entry (delivery_id, item_id) INCLUDE (qty) WHERE taken_out_at IS NULL;
    CREATE UNIQUE INDEX delivery_entry_key ON delivery_entry (key);
    CREATE UNIQUE INDEX tally_key ON tally (key);
    CREATE UNIQUE INDEX round_pick_key ON round_pick (key);
    CREATE UNIQUE INDEX picked_key ON picked (key);
    CREATE OR REPLACE VIEW in_hand AS SELECT * FROM picked WHERE NOT shipped AND returned_at IS NULL;
    -- When a movement was told, where that is not when it happened.
    ALTER TABLE movement ADD told timestamptz;

    CREATE TABLE device (
      id uuid PRIMARY KEY, name text NOT NULL, secret_hash text NOT NULL, made_at timestamptz NOT NULL DEFAULT now(),
      heard_at timestamptz NOT NULL DEFAULT now(),
      waiting int NOT NULL DEFAULT 0, person_id int REFERENCES person, site_id int REFERENCES site, version text NOT NULL DEFAULT ''
    );
    -- Who signed in on a device: only their acts are believed of it.
    CREATE TABLE device_person (
      device_id uuid NOT NULL REFERENCES device, person_id int NOT NULL REFERENCES person, since timestamptz NOT NULL DEFAULT now(),
      PRIMARY KEY (device_id, person_id)
    );
    CREATE TABLE hand_act (
      key uuid PRIMARY KEY, device_id uuid NOT NULL REFERENCES device, seq int NOT NULL, person_id int NOT NULL REFERENCES person,
      site_id int NOT NULL REFERENCES site,
      kind text NOT NULL, job text NOT NULL, does jsonb NOT NULL, at timestamptz NOT NULL, told timestamptz NOT NULL DEFAULT now(),
      carried_by int REFERENCES person,
      outcome text NOT NULL CHECK (outcome IN ('done', 'clash')), documents int[] NOT NULL DEFAULT '{}'
    );
    CREATE INDEX hand_act_by_device ON hand_act (device_id, seq);
    -- A report that could not be done as it was told: kept with what stood against it until somebody settles it.
    CREATE TABLE hand_clash (
      key uuid PRIMARY KEY REFERENCES hand_act, site_id int NOT NULL REFERENCES site, refusal jsonb NOT NULL,
      at timestamptz NOT NULL DEFAULT now_here(),
      settled_at timestamptz, settled_by int REFERENCES person, settled_how text
    );
    CREATE INDEX hand_clash_open ON hand_clash (site_id, at) WHERE settled_at IS NULL;
    -- What came after a delivery was posted is a delivery of its own.
    ALTER TABLE delivery ADD follows int REFERENCES delivery;
    ALTER TABLE site ADD bench_trusts boolean NOT NULL DEFAULT false;
    ${noteTriggers}
    -- What hangs on a paper comes back to a device with it, when it is opened again.
    CREATE FUNCTION note_entries_of_delivery() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN
      INSERT INTO fact_change (kind, id) SELECT 'entry', e.id FROM told t JOIN was w USING (id)
        JOIN delivery_entry e ON e.delivery_id = t.id WHERE t.state <> w.state;
      RETURN NULL; END $$;
    CREATE TRIGGER note_entries_of_delivery AFTER UPDATE ON delivery REFERENCING OLD TABLE AS was NEW TABLE AS told
      FOR EACH STATEMENT EXECUTE FUNCTION note_entries_of_delivery();
    CREATE FUNCTION note_rows_of_count() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN
      INSERT INTO fact_change (kind, id)
        SELECT 'tally', y.id FROM told t JOIN was w USING (id) JOIN tally y ON y.count_id = t.id WHERE t.state <> w.state
        UNION ALL SELECT 'countBin', (b.count_id::bigint << 32) | b.bin_id FROM told t JOIN was w USING (id)
          JOIN count_bin b ON b.count_id = t.id WHERE t.state <> w.state;
      RETURN NULL; END $$;
    CREATE TRIGGER note_rows_of_count AFTER UPDATE ON stock_count REFERENCING OLD TABLE AS was NEW TABLE AS told
      FOR EACH STATEMENT EXECUTE FUNCTION note_rows_of_count();
  `);
}

/** Not undone: it would drop what hands told. */
export async function down(): Promise<void> {
  throw new Error('The fourth migration is not undone: it would drop what hands told. Restore a backup instead.');
}
