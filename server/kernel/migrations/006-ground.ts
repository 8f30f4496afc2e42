import type { Knex } from 'knex';

// Jobs that are given up after the third try; labels that are drawn by the thread of jobs; files that are read in parts.
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    ALTER TABLE job ADD COLUMN tries int NOT NULL DEFAULT 0, ADD COLUMN broke text;
    CREATE INDEX job_running ON job (id) WHERE state = 'running';
    ALTER TABLE print_job ALTER COLUMN svg DROP NOT NULL, ADD COLUMN face jsonb,
    ADD CONSTRAINT print_job_drawable CHECK (svg IS NOT NULL OR face IS NOT NULL);
    CREATE INDEX print_job_undrawn ON print_job (id) WHERE svg IS NULL;
    -- Kept as they are: pictures and packed sheets gain nothing by being packed again, and a part of one is read without the rest.
    ALTER TABLE file ALTER COLUMN bytes SET STORAGE EXTERNAL;
    -- What is looked at all day reads what is open, never what is done: as the years go by it stays as it is.
    CREATE INDEX shipment_by_moment ON shipment (at);
    -- Since when an item lies where it is put away from: one look, however often it came there in all the years.
    CREATE INDEX movement_of_item_into ON movement (item_id, to_bin, id);
    CREATE INDEX shipment_by_order ON shipment (order_id);
    CREATE INDEX delivery_open ON delivery (site_id, touched) WHERE state IN ('scanning', 'review');
    CREATE INDEX purchase_order_open ON purchase_order (site_id, due) WHERE state = 'open';
    CREATE INDEX round_open ON round (site_id) WHERE state = 'open';
    CREATE INDEX stock_count_open ON stock_count (site_id) WHERE state = 'open';
    CREATE INDEX customer_order_open_at_site ON customer_order (site_id, due, id) WHERE state = 'open';
    -- Which transaction told a change: what is still to be told is known by that, and by nothing that only looks like an order.
    ALTER TABLE outbox ADD COLUMN xid xid8 NOT NULL DEFAULT pg_current_xact_id();
    CREATE INDEX outbox_by_transaction ON outbox (xid);
    -- Sessions one by one: since when, when somebody was at it last, and a number by which it is told without its secret.
    ALTER TABLE session ADD COLUMN number int GENERATED ALWAYS AS IDENTITY, ADD COLUMN since timestamptz NOT NULL DEFAULT now(),
      ADD COLUMN seen timestamptz NOT NULL DEFAULT now(), ADD COLUMN closed text CHECK (closed IN ('idle', 'shift'));
    CREATE TABLE sign_in_limit (
      one boolean PRIMARY KEY DEFAULT true CHECK (one),
      desk_idle_minutes int NOT NULL DEFAULT 30 CHECK (desk_idle_minutes BETWEEN 5 AND 720),
      shift_hours int NOT NULL DEFAULT 12 CHECK (shift_hours BETWEEN 1 AND 24)
    );
    INSERT INTO sign_in_limit DEFAULT VALUES;
    ALTER TABLE person_event DROP CONSTRAINT person_event_what_check, ADD CONSTRAINT person_event_what_check
      CHECK (what IN ('in', 'tried', 'shutOut', 'letIn', 'added', 'changed', 'locked', 'unlocked', 'ended', 'ownSecret', 'sites',
        'over', 'limits'));
    -- Transactions are numbered by the server that holds them: a backup that comes back begins another era, in which the numbers
    -- of before say nothing.
    ALTER TABLE fact_floor ADD COLUMN era text NOT NULL DEFAULT substr(md5(random()::text), 1, 8);
    ALTER TABLE stock_count ADD COLUMN seen bigint[] NOT NULL DEFAULT '{}';
    -- What every posting writes is written where it matters and nowhere else: a row without the fact has no place in its index,
    -- and a balance that
    -- only goes up or down (it is above zero, or it is gone) is rewritten beside itself, without touching any.
    DELETE FROM balance WHERE qty = 0;
    ALTER TABLE balance DROP CONSTRAINT balance_not_negative, ADD CONSTRAINT balance_not_negative CHECK (qty > 0);
    ALTER TABLE balance SET (fillfactor = 80);
    DROP INDEX balance_serial_in_one_place;
    CREATE UNIQUE INDEX balance_serial_in_one_place ON balance (serial_id) WHERE serial_id IS NOT NULL;
    ALTER TABLE movement DROP CONSTRAINT movement_reverses_key;
    CREATE UNIQUE INDEX movement_reverses_key ON movement (reverses) WHERE reverses IS NOT NULL;
    DROP INDEX document_by_subject;
    CREATE INDEX document_by_subject ON document (kind, subject_id) WHERE subject_id IS NOT NULL;
    -- What only the owner of an index may do, done for the application.
    CREATE FUNCTION settle_index(which regclass) RETURNS bigint LANGUAGE sql SECURITY DEFINER
      SET search_path = pg_catalog AS 'SELECT gin_clean_pending_list(which)';
    REVOKE EXECUTE ON FUNCTION settle_index FROM PUBLIC;
  `);
}

/** Undone only in tests: what was added is told again by the next start. */
export async function down(knex: Knex): Promise<void> {
  await knex.raw(`
    DROP INDEX movement_of_item_into, shipment_by_moment, shipment_by_order, delivery_open, purchase_order_open, round_open,
      stock_count_open, customer_order_open_at_site;
    DROP INDEX document_by_subject, movement_reverses_key, balance_serial_in_one_place;
    CREATE INDEX document_by_subject ON document (kind, subject_id);
    ALTER TABLE movement ADD CONSTRAINT movement_reverses_key UNIQUE (reverses);
    CREATE UNIQUE INDEX balance_serial_in_one_place ON balance (serial_id) WHERE serial_id IS NOT NULL AND qty > 0;
    ALTER TABLE balance RESET (fillfactor);
    ALTER TABLE balance DROP CONSTRAINT balance_not_negative, ADD CONSTRAINT balance_not_negative CHECK (qty >= 0);
    ALTER TABLE outbox DROP COLUMN xid;
    ALTER TABLE fact_floor DROP COLUMN era;
    ALTER TABLE stock_count DROP COLUMN seen;
    ALTER TABLE session DROP COLUMN number, DROP COLUMN since, DROP COLUMN seen, DROP COLUMN closed;
    DROP TABLE sign_in_limit;
    DELETE FROM person_event WHERE what IN ('over', 'limits');
    ALTER TABLE person_event DROP CONSTRAINT person_event_what_check, ADD CONSTRAINT person_event_what_check
      CHECK (what IN ('in', 'tried', 'shutOut', 'letIn', 'added', 'changed', 'locked', 'unlocked', 'ended', 'ownSecret', 'sites'));
    DROP FUNCTION settle_index;
    DROP INDEX print_job_undrawn, job_running;
    DELETE FROM print_job WHERE svg IS NULL;
    ALTER TABLE print_job DROP CONSTRAINT print_job_drawable, DROP COLUMN face, ALTER COLUMN svg SET NOT NULL;
    ALTER TABLE job DROP COLUMN tries, DROP COLUMN broke;
    ALTER TABLE file ALTER COLUMN bytes SET STORAGE EXTENDED;
  `);
}
