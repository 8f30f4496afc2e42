import type { Knex } from 'knex';

/** Places and items in full: bin rules, the plan, packs with sizes, own fields, files, price lists, holds, kits, and work that
 *  takes a while. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    -- Trusted extension: the owner of the database may make it. Trigram indexes carry the search for parts of words and small typos.
    CREATE EXTENSION IF NOT EXISTS pg_trgm;

    ALTER TABLE bin
      ADD storage_class text, ADD volume_ml bigint CHECK (volume_ml > 0), ADD weight_g bigint CHECK (weight_g > 0),
      ADD arrow text CHECK (arrow IN ('up', 'down')), ADD labelled_at timestamptz, ADD retired_at timestamptz;
    CREATE INDEX bin_by_site_walk ON bin (site_id, walk, id);
    ALTER TABLE home_bin ADD role text NOT NULL DEFAULT 'face' CHECK (role IN ('face', 'reserve')), ADD CHECK (min_qty <= max_qty);
    CREATE INDEX home_bin_by_bin ON home_bin (bin_id);
    CREATE INDEX count_bin_by_bin ON count_bin (bin_id);
    CREATE TABLE floor_plan (
      site_id int PRIMARY KEY REFERENCES site, layout jsonb NOT NULL, revision int NOT NULL DEFAULT 1,
      changed_by int REFERENCES person, changed_at timestamptz NOT NULL DEFAULT now()
    );

    CREATE TABLE file (
      id int GENERATED ALWAYS AS IDENTITY PRIMARY KEY, name text NOT NULL, type text NOT NULL, size int NOT NULL,
      sha256 text NOT NULL UNIQUE,
      bytes bytea NOT NULL, thumb bytea, person_id int REFERENCES person, at timestamptz NOT NULL DEFAULT now()
    );
    -- Pictures and sheets are compressed already.
    ALTER TABLE file ALTER COLUMN bytes SET STORAGE EXTERNAL;

    ALTER TABLE item
      ADD volume_ml bigint NOT NULL DEFAULT 0 CHECK (volume_ml >= 0), ADD retired_at timestamptz, ADD own jsonb NOT NULL DEFAULT '{}',
      ADD note text NOT NULL DEFAULT '', ADD words tsvector;
    ALTER TABLE pack
      ADD length_mm int CHECK (length_mm > 0), ADD width_mm int CHECK (width_mm > 0), ADD height_mm int
        CHECK (height_mm > 0), ADD weight_g int CHECK (weight_g > 0);
    CREATE TABLE own_field (
      id int GENERATED ALWAYS AS IDENTITY PRIMARY KEY, label text NOT NULL UNIQUE,
      kind text NOT NULL CHECK (kind IN ('text', 'number', 'date', 'choice')),
      choices text[] NOT NULL DEFAULT '{}', retired_at timestamptz
    );
    CREATE TABLE item_file (item_id int NOT NULL REFERENCES item, file_id int NOT NULL REFERENCES file,
      at timestamptz NOT NULL DEFAULT now(), PRIMARY KEY (item_id, file_id));
    CREATE TABLE kit_part (
      kit_id int NOT NULL REFERENCES item, part_id int NOT NULL REFERENCES item, qty numeric(18,3) NOT NULL CHECK (qty > 0),
      PRIMARY KEY (kit_id, part_id), CHECK (kit_id <> part_id)
    );
    CREATE INDEX kit_part_by_part ON kit_part (part_id);

    -- Prices and costs hold from a day on; the newest that has begun is the one that counts.
    CREATE TABLE item_amount (
      id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY, item_id int NOT NULL REFERENCES item,
      kind text NOT NULL CHECK (kind IN ('price', 'cost')),
      amount numeric(14,4) NOT NULL CHECK (amount >= 0), holds_from date NOT NULL, person_id int REFERENCES person,
      source text NOT NULL DEFAULT '', at timestamptz NOT NULL DEFAULT now()
    );
    CREATE INDEX item_amount_by_item ON item_amount (item_id, kind, holds_from DESC, id DESC);
    CREATE INDEX item_amount_by_day ON item_amount (kind, holds_from);
    INSERT INTO item_amount (item_id, kind, amount, holds_from, source) SELECT id, 'price', price, DATE '2000-01-01', 'first'
      FROM item UNION ALL SELECT id, 'cost', cost, DATE '2000-01-01', 'first' FROM item;
    -- One place for an amount: the columns would only say again, and later wrongly, what the rows above say.
    ALTER TABLE item DROP COLUMN price, DROP COLUMN cost;
    CREATE FUNCTION amount_on(item int, which text, day date) RETURNS numeric LANGUAGE sql STABLE AS
      $$ SELECT coalesce((SELECT amount FROM item_amount a WHERE a.item_id = item AND a.kind = which AND a.holds_from <= day
        ORDER BY a.holds_from DESC, a.id DESC LIMIT 1), 0) $$;
    -- The price that stands on the label on the shelf, as last printed.
    CREATE TABLE shelf_label (
      bin_id int NOT NULL REFERENCES bin, item_id int NOT NULL REFERENCES item, price numeric(14,2) NOT NULL,
      printed_at timestamptz NOT NULL DEFAULT now(), PRIMARY KEY (bin_id, item_id)
    );

    CREATE TABLE price_list (
      supplier_id int PRIMARY KEY REFERENCES supplier, columns jsonb NOT NULL DEFAULT '{}', imported_at timestamptz, file_name text,
      rows int NOT NULL DEFAULT 0
    );
    CREATE TABLE price_row (
      id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY, supplier_id int NOT NULL REFERENCES supplier, part_no text NOT NULL,
      description text NOT NULL,
      barcode text, gtin text, pack_units numeric(18,3) NOT NULL DEFAULT 1, cost numeric(14,4) NOT NULL DEFAULT 0,
      price numeric(14,2), holds_from date NOT NULL,
      item_id int REFERENCES item, gone_at timestamptz, words tsvector, UNIQUE (supplier_id, part_no)
    ) WITH (fillfactor = 85); -- a row that only goes off the list is rewritten beside itself, without touching the indexes
    CREATE INDEX price_row_by_gtin ON price_row (gtin) WHERE gtin IS NOT NULL;
    CREATE INDEX price_row_by_barcode ON price_row (barcode) WHERE barcode IS NOT NULL;
    CREATE INDEX price_row_by_part ON price_row (upper(part_no) text_pattern_ops);
    CREATE INDEX price_row_by_item ON price_row (item_id) WHERE item_id IS NOT NULL;
    -- Lists come 50,000 rows at a time: gathered first, sorted into the index together.
    CREATE INDEX price_row_by_words ON price_row USING gin (words) WITH (fastupdate = on);
    CREATE INDEX item_by_words ON item USING gin (words) WITH (fastupdate = off);
    CREATE INDEX item_by_code_prefix ON item (code text_pattern_ops);
    CREATE INDEX item_by_group ON item (item_group, code);
    CREATE INDEX item_supplier_by_part ON item_supplier (upper(part_no) text_pattern_ops);
    -- Every word that occurs, for the nearest one to a word that does not.
    CREATE TABLE search_word (word text PRIMARY KEY);
    CREATE INDEX search_word_by_trigram ON search_word USING gin (word gin_trgm_ops) WITH (fastupdate = off);

    CREATE TABLE hold (
      id int GENERATED ALWAYS AS IDENTITY PRIMARY KEY, document_id int NOT NULL REFERENCES document, site_id int NOT NULL REFERENCES site,
      item_id int REFERENCES item, lot_id int REFERENCES lot, serial_id int REFERENCES serial, bin_id int REFERENCES bin,
      reason text NOT NULL, until date, person_id int NOT NULL REFERENCES person, at timestamptz NOT NULL DEFAULT now(),
      released_at timestamptz, released_by int REFERENCES person, release_document_id int REFERENCES document
    );
    CREATE INDEX hold_open ON hold (site_id, until) WHERE released_at IS NULL;
    CREATE TABLE hold_line (
      hold_id int NOT NULL REFERENCES hold, item_id int NOT NULL REFERENCES item, lot_id int REFERENCES lot,
      serial_id int REFERENCES serial,
      bin_id int NOT NULL REFERENCES bin, unit_id int REFERENCES logistic_unit, qty numeric(18,3) NOT NULL CHECK (qty > 0)
    );
    CREATE INDEX hold_line_by_hold ON hold_line (hold_id);

    -- Work that takes longer than a second. The queue (graphile_worker) says when; this says what, how far and with what result.
    CREATE TABLE job (
      id int GENERATED ALWAYS AS IDENTITY PRIMARY KEY, kind text NOT NULL, title text NOT NULL,
      person_id int NOT NULL REFERENCES person, site_id int NOT NULL REFERENCES site,
      input jsonb NOT NULL, state text NOT NULL DEFAULT 'waiting' CHECK (state IN ('waiting', 'running', 'checked', 'done',
      'failed', 'cancelled')),
      progress int NOT NULL DEFAULT 0, total int NOT NULL DEFAULT 0, cancel boolean NOT NULL DEFAULT false, said text, result jsonb,
      at timestamptz NOT NULL DEFAULT now(), changed timestamptz NOT NULL DEFAULT now()
    );
    CREATE INDEX job_by_person ON job (person_id, id DESC);
    CREATE TABLE job_row (
      job_id int NOT NULL REFERENCES job ON DELETE CASCADE, row_no int NOT NULL,
      verdict text NOT NULL CHECK (verdict IN ('new', 'changed', 'same', 'gone', 'fault')),
      name text NOT NULL, says text NOT NULL, PRIMARY KEY (job_id, row_no)
    );
    CREATE INDEX job_row_by_verdict ON job_row (job_id, verdict, row_no);

    -- What lies in a bin against what it may hold: the share of its tightest limit (1 is full).
    CREATE VIEW bin_fact AS
      SELECT bin.id AS bin_id, coalesce(c.items, 0) AS items,
        greatest(c.units / nullif(bin.capacity, 0), c.ml / nullif(bin.volume_ml, 0), c.g / nullif(bin.weight_g, 0),
          CASE WHEN c.items IS NULL AND coalesce(bin.capacity, bin.volume_ml, bin.weight_g) IS NOT NULL THEN 0 END) AS fill
      FROM bin LEFT JOIN LATERAL (
        SELECT count(DISTINCT b.item_id) AS items, sum(b.qty) AS units, sum(b.qty * i.volume_ml) AS ml, sum(b.qty * i.weight_g) AS g
        FROM balance b JOIN item i ON i.id = b.item_id WHERE b.bin_id = bin.id AND b.qty > 0 HAVING count(*) > 0) c ON true;

    ALTER TABLE document DROP CONSTRAINT document_kind_check, ADD CONSTRAINT document_kind_check
      CHECK (kind IN ('receipt', 'putAway', 'move', 'round', 'shipment', 'count', 'adjustment', 'opening', 'hold', 'release',
        'tracking', 'reversal'));
    CREATE SEQUENCE number_hr START 101; CREATE SEQUENCE number_tr START 101;
    CREATE INDEX movement_by_moment ON movement (at);

    -- Words of a text as search knows them: letters and digits, lower case. Codes are given a second time without their dashes (bare_code).
    CREATE FUNCTION search_words(text) RETURNS tsvector LANGUAGE sql IMMUTABLE AS $$
      SELECT to_tsvector('simple', regexp_replace($1, '[^[:alnum:]]+', ' ', 'g')) $$;
    CREATE FUNCTION bare_code(text) RETURNS text LANGUAGE sql IMMUTABLE AS $$ SELECT regexp_replace($1, '[^[:alnum:]]+', '', 'g') $$;
    UPDATE item i SET words = search_words(i.search || ' ' || bare_code(i.code));
    INSERT INTO search_word SELECT DISTINCT w FROM item i,
      regexp_split_to_table(lower(i.description || ' ' || i.item_group), '[^[:alpha:]]+') w WHERE length(w) > 3 ON CONFLICT DO NOTHING;
  `);
}

/** Not undone: it would drop holds and prices that are in force. */
export async function down(): Promise<void> {
  throw new Error('The second migration is not undone: it would drop holds, prices and files. Restore a backup instead.');
}
