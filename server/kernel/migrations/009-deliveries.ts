import type { Knex } from 'knex';

/** A delivery is of any number of purchase orders, of a supplier alone, or of nobody yet; and it has a name from the moment in which a
 *  device begins it. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    CREATE TABLE delivery_order (
      delivery_id int NOT NULL REFERENCES delivery, purchase_order_id int NOT NULL REFERENCES purchase_order,
      open boolean NOT NULL DEFAULT true, PRIMARY KEY (delivery_id, purchase_order_id)
    );
    INSERT INTO delivery_order
      SELECT id, purchase_order_id, state IN ('scanning', 'review') FROM delivery WHERE purchase_order_id IS NOT NULL;
    -- One open delivery of a purchase order: two hands who scan the same order share it.
    CREATE UNIQUE INDEX delivery_order_one_open ON delivery_order (purchase_order_id) WHERE open;
    CREATE INDEX delivery_order_by_order ON delivery_order (purchase_order_id);
    CREATE FUNCTION note_delivery_ended() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN
      UPDATE delivery_order SET open = NEW.state IN ('scanning', 'review')
        WHERE delivery_id = NEW.id AND open <> (NEW.state IN ('scanning', 'review'));
      RETURN NULL; END $$;
    CREATE TRIGGER note_delivery_ended AFTER UPDATE OF state ON delivery FOR EACH ROW WHEN (OLD.state <> NEW.state)
      EXECUTE FUNCTION note_delivery_ended();

    -- By which keys devices know it: two that began the same at once know one delivery by two.
    CREATE TABLE delivery_key (key uuid PRIMARY KEY, delivery_id int NOT NULL REFERENCES delivery);
    CREATE INDEX delivery_key_by_delivery ON delivery_key (delivery_id);

    DROP TRIGGER note_purchase_line_as_delivery_insert ON purchase_line;
    DROP TRIGGER note_purchase_line_as_delivery_update ON purchase_line;
    DROP TRIGGER note_purchase_line_as_delivery_delete ON purchase_line;
    DROP FUNCTION note_purchase_line_as_delivery();
    DROP INDEX delivery_one_open;
    ALTER TABLE delivery DROP COLUMN purchase_order_id, ALTER COLUMN supplier_id DROP NOT NULL, ADD supplier_doc_date date;
    ALTER TABLE delivery_entry ADD made date, ADD CHECK (made <= expires);
    ${NOTED.map(noteTriggers).join('\n')}
  `);
}

// Who waits for goods that are to come is told with them: it changes with what is ordered and promised.
const TO_COME = 'NOT l.closed AND l.received < l.qty';
const WAITED_FOR = `JOIN purchase_line l ON l.item_id = t.item_id AND ${TO_COME}`;
const OF_ITS_LINES = `JOIN order_line y ON y.order_id = t.id JOIN purchase_line l ON l.item_id = y.item_id AND ${TO_COME}`;
const NOTED: readonly { table: string; kind: string; of: string; from?: string }[] = [
  { table: 'purchase_order', kind: 'purchaseOrder', of: 't.id' },
  { table: 'purchase_line', kind: 'purchaseOrder', of: 't.purchase_order_id' },
  { table: 'order_line', kind: 'purchaseOrder', of: 'l.purchase_order_id', from: WAITED_FOR },
  { table: 'customer_order', kind: 'purchaseOrder', of: 'l.purchase_order_id', from: OF_ITS_LINES },
  { table: 'promise', kind: 'purchaseOrder', of: 'l.purchase_order_id', from: WAITED_FOR },
  { table: 'supplier', kind: 'supplier', of: 't.id' },
  { table: 'delivery_order', kind: 'delivery', of: 't.delivery_id' },
  { table: 'delivery_key', kind: 'delivery', of: 't.delivery_id' },
];

function noteTriggers({ table, kind, of, from }: (typeof NOTED)[number]): string {
  const name = `note_${table}_as_${kind.toLowerCase()}`;
  const on = (event: string, rows: string): string =>
    `CREATE TRIGGER ${name}_${event.toLowerCase()} AFTER ${event} ON ${table} REFERENCING ${rows} TABLE AS told FOR EACH STATEMENT
      EXECUTE FUNCTION ${name}();`;
  return `
    CREATE FUNCTION ${name}() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN
      INSERT INTO fact_change (kind, id) SELECT DISTINCT '${kind}', ${of} FROM told t ${from ?? ''};
      RETURN NULL; END $$;
    ${on('INSERT', 'NEW')} ${on('UPDATE', 'NEW')} ${on('DELETE', 'OLD')}`;
}

/** Undone only in tests: a delivery keeps the first of its orders. */
export async function down(knex: Knex): Promise<void> {
  await knex.raw(`
    ${NOTED.map(({ table, kind }) => {
      const name = `note_${table}_as_${kind.toLowerCase()}`;
      const drops = ['insert', 'update', 'delete'].map((event) => `DROP TRIGGER ${name}_${event} ON ${table};`);
      return `${drops.join(' ')} DROP FUNCTION ${name}();`;
    }).join('\n')}
    ALTER TABLE delivery_entry DROP COLUMN made;
    ALTER TABLE delivery ADD purchase_order_id int REFERENCES purchase_order, DROP COLUMN supplier_doc_date;
    UPDATE delivery d SET purchase_order_id = (SELECT min(x.purchase_order_id) FROM delivery_order x WHERE x.delivery_id = d.id);
    UPDATE delivery SET supplier_id = (SELECT min(id) FROM supplier) WHERE supplier_id IS NULL;
    ALTER TABLE delivery ALTER COLUMN supplier_id SET NOT NULL;
    CREATE UNIQUE INDEX delivery_one_open ON delivery (purchase_order_id) WHERE state IN ('scanning', 'review')
      AND purchase_order_id IS NOT NULL;
    CREATE FUNCTION note_purchase_line_as_delivery() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN
      INSERT INTO fact_change (kind, id)
        SELECT DISTINCT 'delivery', d.id FROM told t JOIN delivery d ON d.purchase_order_id = t.purchase_order_id;
      RETURN NULL; END $$;
    CREATE TRIGGER note_purchase_line_as_delivery_insert AFTER INSERT ON purchase_line REFERENCING NEW TABLE AS told
      FOR EACH STATEMENT EXECUTE FUNCTION note_purchase_line_as_delivery();
    CREATE TRIGGER note_purchase_line_as_delivery_update AFTER UPDATE ON purchase_line REFERENCING NEW TABLE AS told
      FOR EACH STATEMENT EXECUTE FUNCTION note_purchase_line_as_delivery();
    CREATE TRIGGER note_purchase_line_as_delivery_delete AFTER DELETE ON purchase_line REFERENCING OLD TABLE AS told
      FOR EACH STATEMENT EXECUTE FUNCTION note_purchase_line_as_delivery();
    DROP TRIGGER note_delivery_ended ON delivery;
    DROP FUNCTION note_delivery_ended();
    DROP TABLE delivery_key, delivery_order;
  `);
}
