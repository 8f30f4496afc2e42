import type { Knex } from 'knex';

const KINDS =
  `'receipt', 'putAway', 'move', 'round', 'shipment', 'count', 'adjustment', 'opening', 'hold', 'release', 'tracking', 'reversal', ` +
  `'putBack', 'transfer', 'inspection', 'return', 'carry'`;
const party = (kit: string): string => `
  CREATE OR REPLACE VIEW order_party AS
    SELECT o.id AS order_id, c.id AS customer_id, coalesce(c.address, '') AS address,
      CASE o.kind
        WHEN 'job' THEN 'Job ' || o.job
        WHEN 'transfer' THEN 'To ' || s.name
        WHEN 'counter' THEN coalesce(c.name, 'Over the counter')
        ${kit}
        ELSE c.name END AS name
    FROM customer_order o
    LEFT JOIN customer c ON c.id = o.customer_id
    LEFT JOIN site s ON s.id = o.to_site`;
const kindCheck = (kit: string): string => `
  ADD CONSTRAINT customer_order_kind CHECK (CASE kind
    WHEN 'customer' THEN customer_id IS NOT NULL AND job IS NULL AND to_site IS NULL
    WHEN 'job' THEN customer_id IS NULL AND job IS NOT NULL AND to_site IS NULL
    WHEN 'transfer' THEN customer_id IS NULL AND job IS NULL AND to_site IS NOT NULL AND to_site <> site_id
    WHEN 'counter' THEN job IS NULL AND to_site IS NULL
    ${kit}
    ELSE false END)`;

/** Orders whose goods become kits: of which kit, how many, and for which line of another order. Each time some are made is an assembly:
 *  its document takes the parts out of stock and brings the kits in. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    CREATE SEQUENCE number_as;
    ALTER TABLE document DROP CONSTRAINT document_kind_check;
    ALTER TABLE document ADD CONSTRAINT document_kind_check CHECK (kind IN (${KINDS}, 'assembly'));
    ALTER TABLE customer_order DROP CONSTRAINT customer_order_kind,
      ADD kit_id int REFERENCES item, ADD kit_qty numeric(18,3), ADD kit_made numeric(18,3) NOT NULL DEFAULT 0,
      ADD kit_line int REFERENCES order_line,
      ADD CHECK ((kind = 'kit') = (kit_id IS NOT NULL)), ADD CHECK ((kit_id IS NULL) = (kit_qty IS NULL)),
      ADD CHECK (kit_made BETWEEN 0 AND coalesce(kit_qty, 0)), ADD CHECK (kit_line IS NULL OR kind = 'kit'),
      ${kindCheck(`WHEN 'kit' THEN customer_id IS NULL AND job IS NULL AND to_site IS NULL AND kit_qty > 0`)};
    CREATE INDEX customer_order_by_kit_line ON customer_order (kit_line) WHERE kit_line IS NOT NULL;
    ${party(`WHEN 'kit' THEN 'Kit ' || (SELECT i.code FROM item i WHERE i.id = o.kit_id) || coalesce(
          (SELECT ' for ' || x.number FROM order_line l JOIN customer_order x ON x.id = l.order_id WHERE l.id = o.kit_line), '')`)};
    CREATE TABLE assembly (
      id int GENERATED ALWAYS AS IDENTITY PRIMARY KEY, key uuid NOT NULL UNIQUE DEFAULT gen_random_uuid(),
      number text NOT NULL UNIQUE, order_id int NOT NULL REFERENCES customer_order, document_id int NOT NULL UNIQUE REFERENCES document,
      qty numeric(18,3) NOT NULL CHECK (qty > 0), person_id int NOT NULL REFERENCES person, at timestamptz NOT NULL DEFAULT now_here(),
      apart_at timestamptz, apart_by int REFERENCES person, apart_document int REFERENCES document,
      CHECK ((apart_at IS NULL) = (apart_by IS NULL) AND (apart_at IS NULL) = (apart_document IS NULL))
    );
    CREATE INDEX assembly_by_order ON assembly (order_id);
    -- Which of what is in hand are kits, and by which assembly.
    ALTER TABLE picked ADD assembly_id int REFERENCES assembly;
  `);
}

/** Undone only in tests. */
export async function down(knex: Knex): Promise<void> {
  await knex.raw(`
    ALTER TABLE picked DROP COLUMN assembly_id;
    DROP TABLE assembly;
    ${party('')};
    DROP INDEX customer_order_by_kit_line;
    ALTER TABLE customer_order DROP CONSTRAINT customer_order_kind, DROP COLUMN kit_line, DROP COLUMN kit_made, DROP COLUMN kit_qty,
      DROP COLUMN kit_id, ${kindCheck('')};
    DELETE FROM document WHERE kind = 'assembly';
    ALTER TABLE document DROP CONSTRAINT document_kind_check;
    ALTER TABLE document ADD CONSTRAINT document_kind_check CHECK (kind IN (${KINDS}));
    DROP SEQUENCE number_as;
  `);
}
