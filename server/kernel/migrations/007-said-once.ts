import type { Knex } from 'knex';

// Rules that several statements need have one name each: today at a site, usable, an item's first barcode.
const viewOf = (today: string, usable: string): string => `
  CREATE OR REPLACE VIEW stock_fact AS
    SELECT b.id AS balance_id, b.item_id, b.lot_id, b.serial_id, b.unit_id, b.condition, b.qty,
      bin.id AS bin_id, bin.address, bin.walk, bin.use,
      z.id AS zone_id, z.code AS zone_code, z.purpose, z.promisable, z.pickable, s.id AS site_id, s.name AS site_name,
      l.code AS lot, l.expires, l.arrived, sr.code AS serial,
      coalesce(l.expires < ${today}, false) AS expired${usable}
    FROM balance b
    JOIN bin ON bin.id = b.bin_id
    JOIN zone z ON z.id = bin.zone_id
    JOIN site s ON s.id = bin.site_id
    LEFT JOIN lot l ON l.id = b.lot_id
    LEFT JOIN serial sr ON sr.id = b.serial_id;
  CREATE OR REPLACE VIEW usable_in_hand AS
    SELECT h.*
    FROM in_hand h
    JOIN bin ON bin.id = h.bin_id
    JOIN zone z ON z.id = bin.zone_id
    JOIN site s ON s.id = bin.site_id
    LEFT JOIN lot l ON l.id = h.lot_id
    WHERE z.promisable AND NOT coalesce(l.expires < ${today}, false);`;

export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    -- Today where this clock is. Without a table, so that a statement takes it in whole.
    CREATE FUNCTION today_in(time_zone text) RETURNS date LANGUAGE sql STABLE PARALLEL SAFE AS $$
      SELECT (now_here() AT TIME ZONE time_zone)::date
    $$;
    CREATE OR REPLACE FUNCTION today_at(site int) RETURNS date LANGUAGE sql STABLE PARALLEL SAFE AS $$
      SELECT today_in(time_zone) FROM site WHERE id = $1
    $$;
    -- Usable is what an order may be promised: sound, not expired, in a zone that promises.
    ${viewOf(
      'today_in(s.time_zone)',
      `,
      b.condition = 'sound' AND z.promisable AND NOT coalesce(l.expires < today_in(s.time_zone), false) AS usable`,
    )}
    -- The barcode that stands for an item on a label and on a screen: that of its smallest pack.
    CREATE FUNCTION first_barcode(item int) RETURNS text LANGUAGE sql STABLE PARALLEL SAFE AS $$
      SELECT c.code
      FROM barcode c
      JOIN pack p ON p.id = c.pack_id
      WHERE c.item_id = $1
      ORDER BY p.units, c.code
      LIMIT 1
    $$;
  `);
}

/** Undone only in tests: what was added is told again by the next start. */
export async function down(knex: Knex): Promise<void> {
  await knex.raw(`
    DROP FUNCTION first_barcode;
    DROP VIEW stock_fact;
    ${viewOf('(now_here() AT TIME ZONE s.time_zone)::date', '')}
    CREATE OR REPLACE FUNCTION today_at(site int) RETURNS date LANGUAGE sql STABLE PARALLEL SAFE AS $$
      SELECT (now_here() AT TIME ZONE time_zone)::date FROM site WHERE id = $1
    $$;
    DROP FUNCTION today_in;
  `);
}
