import type { Knex } from 'knex';

/** What other programs sent of orders: new ones, changes, cancellations; what came of each, and what waits for somebody. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    CREATE TABLE order_paper (
      id int GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
      kind text NOT NULL CHECK (kind IN ('order', 'change', 'cancellation', 'unread')),
      file_name text NOT NULL, contents text NOT NULL, reference text NOT NULL DEFAULT '', customer text NOT NULL DEFAULT '',
      -- What it says, as it was read: a paper that waits is judged again when somebody lets it go ahead.
      paper jsonb, site_id int REFERENCES site, order_id int REFERENCES customer_order,
      state text NOT NULL CHECK (state IN ('done', 'waiting', 'refused', 'aside')),
      says text NOT NULL, at timestamptz NOT NULL DEFAULT now_here(), person_id int REFERENCES person,
      settled_at timestamptz, settled_by int REFERENCES person,
      CHECK (state <> 'waiting' OR (order_id IS NOT NULL AND paper IS NOT NULL))
    );
    -- The same file again is the same paper.
    CREATE UNIQUE INDEX order_paper_contents ON order_paper (contents) WHERE state IN ('done', 'waiting');
    CREATE INDEX order_paper_by_order ON order_paper (order_id);
    CREATE INDEX order_paper_open ON order_paper (id) WHERE state IN ('waiting', 'refused');
  `);
}

/** Undone only in tests. */
export async function down(knex: Knex): Promise<void> {
  await knex.raw(`DROP TABLE order_paper`);
}
