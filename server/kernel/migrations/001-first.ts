import type { Knex } from 'knex';

/** The first shape of the database. What must never happen to stock is refused here, whatever the program does. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    CREATE TABLE site (
      id int GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
      code text NOT NULL UNIQUE, name text NOT NULL, time_zone text NOT NULL, address text NOT NULL DEFAULT '',
      arrivals_bin int, packing_bin int, quarantine_bin int, scrap_bin int, transit_bin int
    );
    CREATE TABLE zone (
      id int GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
      site_id int NOT NULL REFERENCES site, code text NOT NULL, name text NOT NULL, purpose text NOT NULL,
      promisable boolean NOT NULL, pickable boolean NOT NULL, shows_price boolean NOT NULL DEFAULT false,
      UNIQUE (site_id, code)
    );
    -- Bins below 100 are the outside world: they have no zone and keep no balance.
    CREATE TABLE bin (
      id int PRIMARY KEY,
      site_id int REFERENCES site, zone_id int REFERENCES zone,
      address text NOT NULL, alias text, walk int NOT NULL DEFAULT 0,
      use text NOT NULL DEFAULT 'shelf' CHECK (use IN ('shelf', 'arrivals', 'cart', 'packing', 'quarantine', 'scrap', 'transit',
      'unplaced', 'outside')),
      one_item boolean NOT NULL DEFAULT false, one_lot boolean NOT NULL DEFAULT false, capacity numeric(18,3),
      CHECK ((id < 100) = (zone_id IS NULL)), CHECK ((id < 100) = (site_id IS NULL)), CHECK ((id < 100) = (use = 'outside')),
      UNIQUE (site_id, address)
    );
    CREATE SEQUENCE bin_id START 100;
    ALTER TABLE bin ALTER COLUMN id SET DEFAULT nextval('bin_id');
    CREATE INDEX bin_by_zone ON bin (zone_id, walk);
    CREATE INDEX bin_by_alias ON bin (alias) WHERE alias IS NOT NULL;
    INSERT INTO bin (id, address, use) VALUES
      (1, 'Suppliers', 'outside'), (2, 'Customers', 'outside'), (3, 'Adjustments', 'outside'), (4, 'Scrapped', 'outside'),
      (5, 'Jobs', 'outside'), (6, 'Assembly', 'outside'), (7, 'Opening balance', 'outside');

    CREATE TABLE person (
      id int GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
      name text NOT NULL UNIQUE, role text NOT NULL CHECK (role IN ('lead', 'hand', 'office')),
      badge text UNIQUE, password_hash text, pin_hash text, site_id int REFERENCES site, active boolean NOT NULL DEFAULT true
    );
    CREATE TABLE session (sid varchar PRIMARY KEY, sess json NOT NULL, expire timestamptz NOT NULL);
    CREATE INDEX session_by_expiry ON session (expire);
    CREATE TABLE sign_in_failure (who text NOT NULL, at timestamptz NOT NULL DEFAULT now());
    CREATE INDEX sign_in_failure_by_who ON sign_in_failure (who, at);
    CREATE TABLE first_lead (one int PRIMARY KEY DEFAULT 1 CHECK (one = 1), code_hash text NOT NULL);

    CREATE TABLE supplier (id int GENERATED ALWAYS AS IDENTITY PRIMARY KEY, code text NOT NULL UNIQUE, name text NOT NULL);
    CREATE TABLE customer (id int GENERATED ALWAYS AS IDENTITY PRIMARY KEY, code text NOT NULL UNIQUE, name text NOT NULL,
      address text NOT NULL DEFAULT '');

    CREATE TABLE item (
      id int GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
      code text NOT NULL UNIQUE, description text NOT NULL, item_group text NOT NULL DEFAULT '', base_unit text NOT NULL DEFAULT 'each',
      decimals int NOT NULL DEFAULT 0 CHECK (decimals BETWEEN 0 AND 3),
      tracking text NOT NULL DEFAULT 'none' CHECK (tracking IN ('none', 'lot', 'lotExpiry', 'serial', 'serialOut')),
      shelf_life_months int, storage_class text NOT NULL DEFAULT 'dry',
      cost numeric(14,4) NOT NULL DEFAULT 0, price numeric(14,2) NOT NULL DEFAULT 0, weight_g int NOT NULL DEFAULT 0,
      count_class char(1) NOT NULL DEFAULT 'C', search text NOT NULL DEFAULT ''
    );
    CREATE TABLE pack (
      id int GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
      item_id int NOT NULL REFERENCES item, name text NOT NULL, units numeric(18,3) NOT NULL CHECK (units > 0), UNIQUE (item_id, name)
    );
    -- gtin is the code with leading zeros to 14 digits, so that a UPC read either way is one code.
    CREATE TABLE barcode (code text PRIMARY KEY, gtin text UNIQUE, item_id int NOT NULL REFERENCES item,
      pack_id int NOT NULL REFERENCES pack);
    CREATE INDEX barcode_by_item ON barcode (item_id);
    CREATE TABLE item_supplier (
      item_id int NOT NULL REFERENCES item, supplier_id int NOT NULL REFERENCES supplier, part_no text NOT NULL DEFAULT '',
      cost numeric(14,4) NOT NULL DEFAULT 0, lead_days int NOT NULL DEFAULT 7, PRIMARY KEY (item_id, supplier_id)
    );
    CREATE TABLE home_bin (
      item_id int NOT NULL REFERENCES item, bin_id int NOT NULL REFERENCES bin, min_qty numeric(18,3), max_qty numeric(18,3),
      PRIMARY KEY (item_id, bin_id)
    );
    CREATE TABLE lot (
      id int GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
      item_id int NOT NULL REFERENCES item, code text NOT NULL, expires date, made date, arrived timestamptz NOT NULL DEFAULT now(),
      UNIQUE (item_id, code)
    );
    CREATE TABLE serial (
      id int GENERATED ALWAYS AS IDENTITY PRIMARY KEY, item_id int NOT NULL REFERENCES item, code text NOT NULL, UNIQUE (item_id, code)
    );
    CREATE INDEX lot_by_code ON lot (code);
    CREATE INDEX serial_by_code ON serial (code);
    CREATE TABLE logistic_unit (id int GENERATED ALWAYS AS IDENTITY PRIMARY KEY, sscc text NOT NULL UNIQUE);

    -- What a movement points to: every change of stock has a document.
    CREATE TABLE document (
      id int GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
      kind text NOT NULL CHECK (kind IN ('receipt', 'putAway', 'move', 'round', 'shipment', 'count', 'adjustment', 'opening',
      'hold', 'reversal')),
      number text NOT NULL UNIQUE, site_id int NOT NULL REFERENCES site, person_id int NOT NULL REFERENCES person,
      at timestamptz NOT NULL DEFAULT now(), subject_id int
    );
    CREATE INDEX document_by_subject ON document (kind, subject_id);

    CREATE TABLE movement (
      id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
      at timestamptz NOT NULL DEFAULT now(), document_id int NOT NULL REFERENCES document, person_id int NOT NULL REFERENCES person,
      device text, reason text NOT NULL,
      item_id int NOT NULL REFERENCES item, lot_id int REFERENCES lot, serial_id int REFERENCES serial,
      qty numeric(18,3) NOT NULL CHECK (qty > 0),
      from_bin int NOT NULL REFERENCES bin, from_unit int REFERENCES logistic_unit, from_condition text NOT NULL,
      to_bin int NOT NULL REFERENCES bin, to_unit int REFERENCES logistic_unit, to_condition text NOT NULL,
      reverses bigint UNIQUE REFERENCES movement,
      CHECK (from_condition IN ('sound', 'inspect', 'held', 'failed') AND to_condition IN ('sound', 'inspect', 'held', 'failed')),
      CHECK (serial_id IS NULL OR qty = 1),
      CHECK (from_bin <> to_bin OR from_condition <> to_condition OR from_unit IS DISTINCT FROM to_unit)
    );
    CREATE INDEX movement_by_item ON movement (item_id, id);
    CREATE INDEX movement_by_document ON movement (document_id);
    CREATE INDEX movement_by_from ON movement (from_bin, id);
    CREATE INDEX movement_by_to ON movement (to_bin, id);
    CREATE INDEX movement_by_lot ON movement (lot_id) WHERE lot_id IS NOT NULL;
    CREATE INDEX movement_by_serial ON movement (serial_id) WHERE serial_id IS NOT NULL;
    CREATE FUNCTION refuse_ledger_change() RETURNS trigger LANGUAGE plpgsql AS $$
      BEGIN RAISE EXCEPTION 'The ledger is append-only: % is refused. Post a reversal.', TG_OP USING ERRCODE = 'restrict_violation'; END $$;
    CREATE TRIGGER movement_is_append_only BEFORE UPDATE OR DELETE ON movement FOR EACH ROW EXECUTE FUNCTION refuse_ledger_change();
    CREATE TRIGGER movement_is_not_truncated BEFORE TRUNCATE ON movement FOR EACH STATEMENT EXECUTE FUNCTION refuse_ledger_change();

    -- The sum of the ledger per stock key, real bins only. A key that comes to zero has no row.
    CREATE TABLE balance (
      id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
      bin_id int NOT NULL REFERENCES bin CHECK (bin_id >= 100), item_id int NOT NULL REFERENCES item,
      lot_id int REFERENCES lot, serial_id int REFERENCES serial, unit_id int REFERENCES logistic_unit,
      condition text NOT NULL CHECK (condition IN ('sound', 'inspect', 'held', 'failed')),
      qty numeric(18,3) NOT NULL CONSTRAINT balance_not_negative CHECK (qty >= 0),
      CONSTRAINT balance_key UNIQUE NULLS NOT DISTINCT (item_id, bin_id, lot_id, serial_id, unit_id, condition)
    );
    CREATE INDEX balance_by_bin ON balance (bin_id);
    CREATE UNIQUE INDEX balance_serial_in_one_place ON balance (serial_id) WHERE serial_id IS NOT NULL AND qty > 0;

    CREATE TABLE purchase_order (
      id int GENERATED ALWAYS AS IDENTITY PRIMARY KEY, number text NOT NULL UNIQUE, supplier_id int NOT NULL REFERENCES supplier,
      site_id int NOT NULL REFERENCES site, due date NOT NULL, state text NOT NULL DEFAULT 'open' CHECK (state IN ('open', 'closed')),
      at timestamptz NOT NULL DEFAULT now()
    );
    CREATE TABLE purchase_line (
      id int GENERATED ALWAYS AS IDENTITY PRIMARY KEY, purchase_order_id int NOT NULL REFERENCES purchase_order,
      item_id int NOT NULL REFERENCES item,
      qty numeric(18,3) NOT NULL CHECK (qty > 0), received numeric(18,3) NOT NULL DEFAULT 0, closed boolean NOT NULL DEFAULT false
    );
    CREATE INDEX purchase_line_by_order ON purchase_line (purchase_order_id);
    CREATE INDEX purchase_line_open ON purchase_line (item_id) WHERE NOT closed AND received < qty;
    CREATE TABLE delivery (
      id int GENERATED ALWAYS AS IDENTITY PRIMARY KEY, number text NOT NULL UNIQUE, site_id int NOT NULL REFERENCES site,
      supplier_id int NOT NULL REFERENCES supplier, purchase_order_id int REFERENCES purchase_order, supplier_doc text NOT NULL DEFAULT '',
      state text NOT NULL DEFAULT 'scanning' CHECK (state IN ('scanning', 'review', 'posted', 'thrown')),
      started_by int NOT NULL REFERENCES person, at timestamptz NOT NULL DEFAULT now(), touched timestamptz NOT NULL DEFAULT now(),
      receipt_id int REFERENCES document
    );
    -- One open delivery per purchase order: two hands scanning the same order share it.
    CREATE UNIQUE INDEX delivery_one_open ON delivery (purchase_order_id) WHERE state IN ('scanning', 'review')
      AND purchase_order_id IS NOT NULL;
    CREATE TABLE delivery_entry (
      id int GENERATED ALWAYS AS IDENTITY PRIMARY KEY, delivery_id int NOT NULL REFERENCES delivery, item_id int NOT NULL REFERENCES item,
      pack_id int NOT NULL REFERENCES pack, qty numeric(18,3) NOT NULL CHECK (qty > 0), lot text, expires date, serial text,
      person_id int NOT NULL REFERENCES person, device text, at timestamptz NOT NULL DEFAULT now(), taken_out_at timestamptz
    );
    CREATE INDEX delivery_entry_by_delivery ON delivery_entry (delivery_id) WHERE taken_out_at IS NULL;
    CREATE INDEX delivery_entry_by_serial ON delivery_entry (item_id, serial) WHERE serial IS NOT NULL AND taken_out_at IS NULL;

    CREATE TABLE customer_order (
      id int GENERATED ALWAYS AS IDENTITY PRIMARY KEY, number text NOT NULL UNIQUE, site_id int NOT NULL REFERENCES site,
      customer_id int NOT NULL REFERENCES customer, state text NOT NULL DEFAULT 'open' CHECK (state IN ('open', 'shipped', 'cancelled')),
      due date NOT NULL, priority int NOT NULL DEFAULT 5, held_for text, note text NOT NULL DEFAULT '',
      packed_at timestamptz, packed_by int REFERENCES person, parcels int, at timestamptz NOT NULL DEFAULT now(),
      changed timestamptz NOT NULL DEFAULT now()
    );
    CREATE INDEX customer_order_open ON customer_order (due) WHERE state = 'open';
    CREATE TABLE order_line (
      id int GENERATED ALWAYS AS IDENTITY PRIMARY KEY, order_id int NOT NULL REFERENCES customer_order,
      item_id int NOT NULL REFERENCES item,
      qty numeric(18,3) NOT NULL CHECK (qty > 0), shipped numeric(18,3) NOT NULL DEFAULT 0, CHECK (shipped <= qty)
    );
    CREATE INDEX order_line_by_order ON order_line (order_id);
    CREATE INDEX order_line_by_item ON order_line (item_id);
    -- A promise stands until its goods ship; what was picked of it is no longer to be given to anybody else.
    CREATE TABLE promise (
      line_id int PRIMARY KEY REFERENCES order_line, site_id int NOT NULL REFERENCES site, item_id int NOT NULL REFERENCES item,
      qty numeric(18,3) NOT NULL CHECK (qty > 0), at timestamptz NOT NULL DEFAULT now()
    );
    CREATE INDEX promise_by_item ON promise (item_id, site_id);

    CREATE TABLE round (
      id int GENERATED ALWAYS AS IDENTITY PRIMARY KEY, number text NOT NULL UNIQUE, site_id int NOT NULL REFERENCES site,
      cart_bin int NOT NULL REFERENCES bin,
      state text NOT NULL DEFAULT 'open' CHECK (state IN ('open', 'putDown', 'thrown')), person_id int REFERENCES person,
      made_by int NOT NULL REFERENCES person, at timestamptz NOT NULL DEFAULT now(), document_id int NOT NULL REFERENCES document,
      put_down_at timestamptz
    );
    CREATE UNIQUE INDEX round_one_per_cart ON round (cart_bin) WHERE state = 'open';
    CREATE TABLE round_pick (
      id int GENERATED ALWAYS AS IDENTITY PRIMARY KEY, round_id int NOT NULL REFERENCES round, line_id int NOT NULL REFERENCES order_line,
      item_id int NOT NULL REFERENCES item, bin_id int NOT NULL REFERENCES bin, lot_id int REFERENCES lot,
      qty numeric(18,3) NOT NULL CHECK (qty >= 0), picked numeric(18,3) NOT NULL DEFAULT 0, slot int NOT NULL DEFAULT 1,
      trouble text, CHECK (picked <= qty)
    );
    CREATE INDEX round_pick_by_round ON round_pick (round_id);
    CREATE INDEX round_pick_open ON round_pick (item_id, bin_id) WHERE picked < qty;
    CREATE INDEX round_pick_by_line ON round_pick (line_id);
    -- What was really taken, with lot and serial; bin_id is where it is now.
    CREATE TABLE picked (
      id int GENERATED ALWAYS AS IDENTITY PRIMARY KEY, pick_id int NOT NULL REFERENCES round_pick,
      line_id int NOT NULL REFERENCES order_line,
      item_id int NOT NULL REFERENCES item, lot_id int REFERENCES lot, serial_id int REFERENCES serial, serial_out text,
      qty numeric(18,3) NOT NULL CHECK (qty > 0), bin_id int NOT NULL REFERENCES bin, put_down boolean NOT NULL DEFAULT false,
      shipped boolean NOT NULL DEFAULT false
    );
    CREATE INDEX picked_by_line ON picked (line_id) WHERE NOT shipped;
    CREATE INDEX picked_by_pick ON picked (pick_id);
    CREATE TABLE shipment (
      id int GENERATED ALWAYS AS IDENTITY PRIMARY KEY, number text NOT NULL UNIQUE, order_id int NOT NULL REFERENCES customer_order,
      document_id int NOT NULL REFERENCES document, parcels int NOT NULL DEFAULT 1, at timestamptz NOT NULL DEFAULT now()
    );
    CREATE TABLE trouble (
      id int GENERATED ALWAYS AS IDENTITY PRIMARY KEY, kind text NOT NULL, bin_id int NOT NULL REFERENCES bin,
      item_id int NOT NULL REFERENCES item,
      pick_id int REFERENCES round_pick, qty numeric(18,3) NOT NULL, person_id int NOT NULL REFERENCES person,
      at timestamptz NOT NULL DEFAULT now(), settled_at timestamptz
    );

    CREATE TABLE stock_count (
      id int GENERATED ALWAYS AS IDENTITY PRIMARY KEY, number text NOT NULL UNIQUE, site_id int NOT NULL REFERENCES site,
      zone_id int NOT NULL REFERENCES zone,
      blind boolean NOT NULL DEFAULT true, state text NOT NULL DEFAULT 'open' CHECK (state IN ('open', 'posted', 'thrown')),
      made_by int NOT NULL REFERENCES person, at timestamptz NOT NULL DEFAULT now(), starts_after bigint NOT NULL,
      posted_at timestamptz, document_id int REFERENCES document
    );
    CREATE TABLE count_bin (
      count_id int NOT NULL REFERENCES stock_count, bin_id int NOT NULL REFERENCES bin, open boolean NOT NULL DEFAULT true,
      verdict text CHECK (verdict IN ('none', 'asExpected')), verdict_at timestamptz, PRIMARY KEY (count_id, bin_id)
    );
    CREATE UNIQUE INDEX count_bin_one_open ON count_bin (bin_id) WHERE open;
    CREATE TABLE count_expected (
      count_id int NOT NULL REFERENCES stock_count, bin_id int NOT NULL REFERENCES bin, item_id int NOT NULL REFERENCES item,
      lot_id int REFERENCES lot, serial_id int REFERENCES serial, unit_id int REFERENCES logistic_unit, condition text NOT NULL,
      qty numeric(18,3) NOT NULL
    );
    CREATE INDEX count_expected_by_count ON count_expected (count_id);
    CREATE TABLE tally (
      id int GENERATED ALWAYS AS IDENTITY PRIMARY KEY, count_id int NOT NULL REFERENCES stock_count, bin_id int NOT NULL REFERENCES bin,
      item_id int NOT NULL REFERENCES item, lot_id int REFERENCES lot, serial_id int REFERENCES serial,
      qty numeric(18,3) NOT NULL CHECK (qty >= 0),
      person_id int NOT NULL REFERENCES person, device text, at timestamptz NOT NULL DEFAULT now(), taken_out_at timestamptz
    );
    CREATE INDEX tally_by_count ON tally (count_id) WHERE taken_out_at IS NULL;

    CREATE TABLE print_job (
      id int GENERATED ALWAYS AS IDENTITY PRIMARY KEY, title text NOT NULL, svg text NOT NULL, copies int NOT NULL DEFAULT 1,
      state text NOT NULL DEFAULT 'waiting' CHECK (state IN ('waiting', 'printed', 'failed')), tries int NOT NULL DEFAULT 0, said text,
      person_id int NOT NULL REFERENCES person, at timestamptz NOT NULL DEFAULT now(), next_try timestamptz NOT NULL DEFAULT now()
    );
    CREATE INDEX print_job_waiting ON print_job (next_try) WHERE state <> 'printed';

    CREATE TABLE command (
      key uuid PRIMARY KEY, person_id int, route text NOT NULL, request_hash text NOT NULL, reply json,
      at timestamptz NOT NULL DEFAULT now()
    );
    CREATE TABLE outbox (id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY, topic text NOT NULL, facts jsonb NOT NULL DEFAULT '{}',
      at timestamptz NOT NULL DEFAULT clock_timestamp());
    -- Sequences, not counters in a row: numbers may have gaps, but nobody waits for another's commit to get one.
    CREATE SEQUENCE number_po START 3001; CREATE SEQUENCE number_dl START 1001; CREATE SEQUENCE number_rc START 1001;
    CREATE SEQUENCE number_pa START 1001;
    CREATE SEQUENCE number_mv START 1001; CREATE SEQUENCE number_rd START 1001; CREATE SEQUENCE number_sh START 1001;
    CREATE SEQUENCE number_ct START 101;
    CREATE SEQUENCE number_aj START 101; CREATE SEQUENCE number_co START 5001; CREATE SEQUENCE number_ob START 1;
    CREATE SEQUENCE number_rv START 101;
    CREATE SEQUENCE number_hd START 101;

    -- Every balance with what its place and its lot make of it. Expired is reckoned by the site's own today, never stored.
    CREATE VIEW stock_fact AS
      SELECT b.id AS balance_id, b.item_id, b.lot_id, b.serial_id, b.unit_id, b.condition, b.qty,
        bin.id AS bin_id, bin.address, bin.walk, bin.use, z.id AS zone_id, z.code AS zone_code, z.purpose, z.promisable, z.pickable,
          s.id AS site_id, s.name AS site_name,
        l.code AS lot, l.expires, l.arrived, sr.code AS serial,
        coalesce(l.expires < (now() AT TIME ZONE s.time_zone)::date, false) AS expired
      FROM balance b JOIN bin ON bin.id = b.bin_id JOIN zone z ON z.id = bin.zone_id JOIN site s ON s.id = bin.site_id
      LEFT JOIN lot l ON l.id = b.lot_id LEFT JOIN serial sr ON sr.id = b.serial_id;
    CREATE TABLE setting (name text PRIMARY KEY, value jsonb NOT NULL);
  `);
  await knex.raw(`
    ALTER TABLE site
      ADD FOREIGN KEY (arrivals_bin) REFERENCES bin, ADD FOREIGN KEY (packing_bin) REFERENCES bin,
      ADD FOREIGN KEY (quarantine_bin) REFERENCES bin,
      ADD FOREIGN KEY (scrap_bin) REFERENCES bin, ADD FOREIGN KEY (transit_bin) REFERENCES bin;
  `);
}

/** The first shape cannot be taken back: that would drop the ledger. */
export async function down(): Promise<void> {
  throw new Error('The first migration is not undone: it would drop the ledger. Restore a backup instead.');
}
