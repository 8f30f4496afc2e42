import type { Knex } from 'knex';

/** What trials found: sites as boundaries, one lock order, goods in hand that can be given back, holds that stand. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    -- Advisory locks: the class in the top byte, so that no two uses share numbers.
    CREATE FUNCTION lock_number(class int, a int, b int) RETURNS bigint LANGUAGE sql IMMUTABLE PARALLEL SAFE
      AS $$ SELECT (class::bigint << 56) | (a::bigint << 24) | b::bigint $$;

    -- What time it is in the house. A made-up company is loaded as of a moment of its own; everybody else lives now.
    CREATE FUNCTION now_here() RETURNS timestamptz LANGUAGE sql STABLE PARALLEL SAFE
      AS $$ SELECT coalesce(nullif(current_setting('dockrow.now', true), '')::timestamptz, now()) $$;
    DO $$ DECLARE c record; BEGIN
      FOR c IN SELECT table_name, column_name FROM information_schema.columns WHERE table_schema = current_schema()
        AND column_default = 'now()'
        AND table_name NOT IN ('session', 'sign_in_failure', 'command', 'outbox', 'job', 'print_job') LOOP
        EXECUTE format('ALTER TABLE %I ALTER %I SET DEFAULT now_here()', c.table_name, c.column_name);
      END LOOP; END $$;
    CREATE OR REPLACE VIEW stock_fact AS
      SELECT b.id AS balance_id, b.item_id, b.lot_id, b.serial_id, b.unit_id, b.condition, b.qty,
        bin.id AS bin_id, bin.address, bin.walk, bin.use, z.id AS zone_id, z.code AS zone_code, z.purpose, z.promisable, z.pickable,
          s.id AS site_id, s.name AS site_name,
        l.code AS lot, l.expires, l.arrived, sr.code AS serial,
        coalesce(l.expires < (now_here() AT TIME ZONE s.time_zone)::date, false) AS expired
      FROM balance b JOIN bin ON bin.id = b.bin_id JOIN zone z ON z.id = bin.zone_id JOIN site s ON s.id = bin.site_id
      LEFT JOIN lot l ON l.id = b.lot_id LEFT JOIN serial sr ON sr.id = b.serial_id;

    -- Today is the site's, everywhere.
    CREATE FUNCTION today_at(site int) RETURNS date LANGUAGE sql STABLE PARALLEL SAFE AS $$
      SELECT (now_here() AT TIME ZONE time_zone)::date FROM site WHERE id = $1 $$;

    -- Who works where. A command on a document is done by somebody who works at its site.
    CREATE TABLE person_site (
      person_id int NOT NULL REFERENCES person, site_id int NOT NULL REFERENCES site, PRIMARY KEY (person_id, site_id)
    );
    INSERT INTO person_site SELECT p.id, s.id FROM person p CROSS JOIN site s;

    -- Goods in somebody's hands for an order: on a cart, at a bench, packed; until they ship or are put back.
    ALTER TABLE picked ADD packed boolean NOT NULL DEFAULT false, ADD returned_at timestamptz,
      ADD at timestamptz NOT NULL DEFAULT now_here(), ADD CHECK (NOT packed OR put_down);
    UPDATE picked k SET packed = true FROM order_line l JOIN customer_order o ON o.id = l.order_id
      WHERE l.id = k.line_id AND k.put_down AND o.packed_at IS NOT NULL;
    CREATE VIEW in_hand AS SELECT * FROM picked WHERE NOT shipped AND returned_at IS NULL;
    -- What of it may still leave: a promise is never cut below that, and may be cut where the goods expired in somebody's hands.
    CREATE VIEW usable_in_hand AS
      SELECT h.* FROM in_hand h JOIN bin ON bin.id = h.bin_id JOIN zone z ON z.id = bin.zone_id JOIN site s ON s.id = bin.site_id
        LEFT JOIN lot l ON l.id = h.lot_id
      WHERE z.promisable AND NOT coalesce(l.expires < (now_here() AT TIME ZONE s.time_zone)::date, false);
    CREATE INDEX picked_in_hand ON picked (bin_id, item_id) WHERE NOT shipped AND returned_at IS NULL;

    ALTER TABLE customer_order ADD cancelled_at timestamptz, ADD cancelled_by int REFERENCES person, ADD cancelled_for text;
    -- What was looked for in vain and could not be planned from elsewhere, and for which line.
    ALTER TABLE trouble ADD line_id int REFERENCES order_line, ADD missing numeric(18,3) NOT NULL DEFAULT 0 CHECK (missing >= 0);
    CREATE INDEX trouble_open_by_line ON trouble (line_id) WHERE settled_at IS NULL;
    CREATE INDEX trouble_open_by_bin ON trouble (bin_id, item_id) WHERE settled_at IS NULL;
    ALTER TABLE round ADD thrown_at timestamptz, ADD thrown_by int REFERENCES person;
    ALTER TABLE delivery ADD thrown_at timestamptz, ADD thrown_by int REFERENCES person;
    -- A count knows what it saw by the database's own snapshot, so that planning one holds up no posting: what the snapshot did
    -- not see came after.
    ALTER TABLE movement ADD xid xid8 NOT NULL DEFAULT pg_current_xact_id();
    ALTER TABLE stock_count ADD began pg_snapshot;
    -- Only what was looked at is counted.
    ALTER TABLE count_bin ADD counted_at timestamptz;
    UPDATE count_bin b SET counted_at = c.posted_at FROM stock_count c WHERE c.id = b.count_id AND c.state = 'posted'
      AND (b.verdict IS NOT NULL OR EXISTS (SELECT 1 FROM tally t WHERE t.count_id = c.id AND t.bin_id = b.bin_id AND
        t.taken_out_at IS NULL));
    CREATE INDEX count_bin_counted ON count_bin (bin_id, counted_at DESC) WHERE counted_at IS NOT NULL;
    -- What a receipt met, for ever: the order's lines go on to change.
    CREATE TABLE delivery_expected (
      delivery_id int NOT NULL REFERENCES delivery, purchase_line_id int NOT NULL REFERENCES purchase_line,
      item_id int NOT NULL REFERENCES item,
      expected numeric(18,3) NOT NULL, received numeric(18,3) NOT NULL, PRIMARY KEY (delivery_id, purchase_line_id)
    );
    CREATE INDEX delivery_expected_by_line ON delivery_expected (purchase_line_id);
    -- Of receipts that were posted before this was kept, what came is taken for what was expected.
    INSERT INTO delivery_expected
      SELECT d.id, l.id, l.item_id, e.qty, e.qty FROM delivery d
      JOIN (SELECT DISTINCT ON (purchase_order_id, item_id) id, purchase_order_id, item_id FROM purchase_line
        ORDER BY purchase_order_id, item_id, id) l
        ON l.purchase_order_id = d.purchase_order_id
      JOIN (SELECT delivery_id, item_id, sum(qty) AS qty FROM delivery_entry WHERE taken_out_at IS NULL GROUP BY 1, 2) e
        ON e.delivery_id = d.id AND e.item_id = l.item_id WHERE d.state = 'posted';
    -- Entries keep what they were and who changed them; once handed in they are the lead's.
    ALTER TABLE delivery_entry ADD handed_in_at timestamptz;
    CREATE TABLE entry_change (
      id int GENERATED ALWAYS AS IDENTITY PRIMARY KEY, entry_id int NOT NULL REFERENCES delivery_entry,
      person_id int NOT NULL REFERENCES person,
      at timestamptz NOT NULL DEFAULT now_here(), qty_was numeric(18,3) NOT NULL, qty_now numeric(18,3) NOT NULL, expires_was date,
      expires_now date,
      taken_out boolean NOT NULL DEFAULT false
    );
    CREATE INDEX entry_change_by_entry ON entry_change (entry_id);
    CREATE INDEX delivery_entry_by_lot ON delivery_entry (item_id, lot) WHERE lot IS NOT NULL AND taken_out_at IS NULL;
    ALTER TABLE document DROP CONSTRAINT document_kind_check, ADD CONSTRAINT document_kind_check
      CHECK (kind IN ('receipt', 'putAway', 'move', 'round', 'shipment', 'count', 'adjustment', 'opening', 'hold', 'release',
        'tracking', 'reversal',
        'putBack', 'transfer'));
    CREATE SEQUENCE number_pb START 101;
    CREATE SEQUENCE number_tf START 101;

    -- Where an open order stands on its way. The row and home both read this: one figure has one source.
    CREATE VIEW order_at AS
      SELECT o.id AS order_id, o.site_id, o.due < today_at(o.site_id) AS late,
        CASE WHEN EXISTS (SELECT 1 FROM order_line l JOIN in_hand k ON k.line_id = l.id WHERE l.order_id = o.id AND k.put_down) THEN 'bench'
          WHEN EXISTS (SELECT 1 FROM order_line l JOIN in_hand k ON k.line_id = l.id WHERE l.order_id = o.id)
            OR EXISTS (SELECT 1 FROM order_line l JOIN round_pick p ON p.line_id = l.id AND p.qty > 0
              JOIN round r ON r.id = p.round_id WHERE l.order_id = o.id AND r.state = 'open') THEN 'rounds'
          ELSE 'orders' END AS station
      FROM customer_order o WHERE o.state = 'open';

    -- A hold without a quantity stands: it takes what is there and what comes. One with a quantity means today's pieces.
    ALTER TABLE hold ADD standing boolean NOT NULL DEFAULT false;
    CREATE INDEX hold_standing_by_item ON hold (item_id) WHERE standing AND released_at IS NULL;
    CREATE INDEX hold_standing_by_bin ON hold (bin_id) WHERE standing AND released_at IS NULL;
    CREATE INDEX hold_line_by_item ON hold_line (item_id);

    -- Every name that a label of a site may carry, its address among them, means one bin (A3). Old names stay when a bin is renamed.
    CREATE FUNCTION fold_name(text) RETURNS text LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$ SELECT upper(normalize(btrim($1), NFKC)) $$;
    CREATE TABLE bin_name (
      site_id int NOT NULL REFERENCES site, name text NOT NULL CHECK (name = fold_name(name)), bin_id int NOT NULL REFERENCES bin,
      at timestamptz NOT NULL DEFAULT now_here(), PRIMARY KEY (site_id, name)
    );
    CREATE INDEX bin_name_by_bin ON bin_name (bin_id);
    INSERT INTO bin_name (site_id, name, bin_id) SELECT site_id, fold_name(address), id FROM bin WHERE site_id IS NOT NULL;
    -- An address wins over an old name: that is what the label on the rack says today.
    INSERT INTO bin_name (site_id, name, bin_id) SELECT site_id, fold_name(alias), id FROM bin
      WHERE site_id IS NOT NULL AND alias IS NOT NULL AND fold_name(alias) <> '' ORDER BY id ON CONFLICT DO NOTHING;
    ALTER TABLE bin DROP COLUMN alias;
    CREATE FUNCTION name_bins() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN
      INSERT INTO bin_name (site_id, name, bin_id) SELECT n.site_id, fold_name(n.address), n.id FROM named n
        WHERE n.site_id IS NOT NULL AND NOT EXISTS (SELECT 1 FROM bin_name x WHERE x.site_id = n.site_id AND x.name =
          fold_name(n.address) AND x.bin_id = n.id);
      RETURN NULL; END $$;
    CREATE TRIGGER bin_has_a_name AFTER INSERT ON bin REFERENCING NEW TABLE AS named FOR EACH STATEMENT EXECUTE FUNCTION name_bins();
    CREATE TRIGGER bin_keeps_its_names AFTER UPDATE ON bin REFERENCING NEW TABLE AS named FOR EACH STATEMENT EXECUTE FUNCTION name_bins();

    -- A default of a site is a pointer: the bin it points to serves that use while it does, and is what it was before afterwards.
    ALTER TABLE bin ADD own_use text;
    UPDATE bin SET own_use = CASE WHEN bin.use IN ('arrivals', 'packing', 'quarantine', 'scrap', 'transit')
      AND z.purpose IN ('storage', 'pickFace', 'cold', 'cage', 'counter') THEN 'shelf' ELSE bin.use END FROM zone z
        WHERE z.id = bin.zone_id;
    UPDATE bin SET own_use = use WHERE own_use IS NULL;
    UPDATE bin SET use = own_use WHERE use <> own_use
      AND NOT EXISTS (SELECT 1 FROM site WHERE bin.id IN (arrivals_bin, packing_bin, quarantine_bin, scrap_bin, transit_bin));
    ALTER TABLE bin ALTER own_use SET NOT NULL;
    CREATE FUNCTION own_use_is_use() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN NEW.own_use := coalesce(NEW.own_use, NEW.use);
    RETURN NEW; END $$;
    CREATE TRIGGER bin_begins_with_its_use BEFORE INSERT ON bin FOR EACH ROW EXECUTE FUNCTION own_use_is_use();
    CREATE FUNCTION follow_defaults() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN
      UPDATE bin SET use = CASE bin.id WHEN NEW.arrivals_bin THEN 'arrivals' WHEN NEW.packing_bin
        THEN 'packing' WHEN NEW.quarantine_bin THEN 'quarantine'
          WHEN NEW.scrap_bin THEN 'scrap' WHEN NEW.transit_bin THEN 'transit' ELSE own_use END
        WHERE bin.id IN (NEW.arrivals_bin, NEW.packing_bin, NEW.quarantine_bin, NEW.scrap_bin, NEW.transit_bin,
          OLD.arrivals_bin, OLD.packing_bin, OLD.quarantine_bin, OLD.scrap_bin, OLD.transit_bin);
      RETURN NULL; END $$;
    CREATE TRIGGER defaults_are_pointers AFTER UPDATE OF arrivals_bin, packing_bin, quarantine_bin, scrap_bin, transit_bin ON site
      FOR EACH ROW EXECUTE FUNCTION follow_defaults();

    -- Records carry a version: who changes what somebody else changed meanwhile is told, field by field.
    ALTER TABLE item ADD version int NOT NULL DEFAULT 1;
    ALTER TABLE bin ADD version int NOT NULL DEFAULT 1;
    ALTER TABLE site ADD version int NOT NULL DEFAULT 1;

    CREATE INDEX barcode_by_folded_code ON barcode (upper(code));
    -- Names of packs are told apart without regard to case.
    UPDATE pack p SET name = p.name || ' ' || p.id WHERE EXISTS (SELECT 1 FROM pack q WHERE q.item_id = p.item_id
      AND lower(q.name) = lower(p.name) AND q.id < p.id);
    CREATE UNIQUE INDEX pack_name_of_item ON pack (item_id, lower(name));

    -- Search folds accents and width, and takes letters and digits apart, so that 454ml finds 454 ml; as core's foldText and
    -- searchWords do.
    CREATE FUNCTION fold_text(text) RETURNS text LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$
      SELECT replace(replace(replace(translate(regexp_replace(lower(normalize($1, NFKD)),
        '[\\u0300-\\u036f\\u1ab0-\\u1aff\\u20d0-\\u20ff]', '', 'g'), 'øłđı', 'oldi'), 'ß', 'ss'), 'æ', 'ae'), 'œ', 'oe') $$;
    CREATE OR REPLACE FUNCTION search_words(text) RETURNS tsvector LANGUAGE sql IMMUTABLE AS $$
      SELECT to_tsvector('simple', f.folded || ' ' || regexp_replace(regexp_replace(f.folded, '([[:alpha:]])([[:digit:]])',
        '\\1 \\2', 'g'), '([[:digit:]])([[:alpha:]])', '\\1 \\2', 'g'))
      FROM (SELECT regexp_replace(fold_text($1), '[^[:alnum:]]+', ' ', 'g') AS folded) f $$;
    CREATE OR REPLACE FUNCTION bare_code(text) RETURNS text LANGUAGE sql IMMUTABLE AS $$
      SELECT regexp_replace(fold_text($1), '[^[:alnum:]]+', '', 'g') $$;
    -- Every word that occurs, under what is left of it without one of its letters: two words one edit apart meet there.
    CREATE TABLE word_stem (stem text NOT NULL, word text NOT NULL REFERENCES search_word ON DELETE CASCADE,
      PRIMARY KEY (stem, word)) WITH (fillfactor = 100);
    CREATE FUNCTION stem_words() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN
      INSERT INTO word_stem SELECT DISTINCT overlay(n.word PLACING '' FROM i FOR (i <= length(n.word))::int), n.word
        FROM told n, generate_series(1, length(n.word) + 1) i ON CONFLICT DO NOTHING;
      RETURN NULL; END $$;
    CREATE TRIGGER word_has_stems AFTER INSERT ON search_word REFERENCING NEW TABLE AS told FOR EACH STATEMENT EXECUTE FUNCTION
      stem_words();
    CREATE FUNCTION spelled_words(text) RETURNS SETOF text LANGUAGE sql IMMUTABLE AS $$
      SELECT DISTINCT w FROM regexp_split_to_table(fold_text($1), '[^[:alpha:]]+') w WHERE length(w) BETWEEN 4 AND 40 $$;
    DELETE FROM search_word;
    DROP INDEX search_word_by_trigram;
    INSERT INTO search_word SELECT DISTINCT w FROM item i, spelled_words(i.description || ' ' || i.item_group) w ON CONFLICT DO NOTHING;
    INSERT INTO search_word SELECT DISTINCT w FROM price_row r, spelled_words(r.description) w ON CONFLICT DO NOTHING;
    UPDATE item i SET search = fold_text(i.search), words = search_words(i.search || ' ' || bare_code(i.code));
    UPDATE price_row SET words = search_words(concat_ws(' ', part_no, bare_code(part_no), description, barcode));
  `);
}

/** Not undone: it would drop who works where and what was put back. */
export async function down(): Promise<void> {
  throw new Error('The third migration is not undone: it would drop who works where. Restore a backup instead.');
}
