import { lockRows, query, queryOne, refuse, type Db, type Trx } from '#server/kernel';

type Reads = Pick<Db, 'raw'>;
export type DeliveryRow = {
  id: number;
  number: string;
  state: 'scanning' | 'review' | 'posted' | 'thrown';
  site_id: number;
  site: string;
  supplier_id: number | null;
  supplier: string | null;
  /** What is agreed with that supplier, in hundredths of a percent. */
  over: number;
  short: number;
  /** Goods that a customer brings back; of a shipment, where one is known. */
  back: { customer: string | null; shipment: { id: number; number: string } | null; ofJob: boolean } | null;
  /** The purchase orders that it is of. */
  orders: { id: number; number: string }[];
  supplier_doc: string;
  supplier_doc_date: string | null;
  by: string;
  at: Date;
  touched: Date;
  entries: number;
  receipt_id: number | null;
};

const DELIVERY = `SELECT d.id, d.number, d.state, d.site_id, w.name AS site, d.supplier_id, s.name AS supplier,
    (coalesce(s.over_percent, 0) * 100)::int AS over, (coalesce(s.short_percent, 0) * 100)::int AS short,
    CASE WHEN d.is_return THEN json_build_object(
      'customer', (SELECT c.name FROM customer c WHERE c.id = d.customer_id),
      'shipment', (SELECT json_build_object('id', h.id, 'number', h.number) FROM shipment h WHERE h.id = d.shipment_id),
      'ofJob', EXISTS (
        SELECT 1 FROM shipment h JOIN customer_order j ON j.id = h.order_id WHERE h.id = d.shipment_id AND j.kind = 'job')) END AS back,
    (
      SELECT coalesce(json_agg(json_build_object('id', o.id, 'number', o.number) ORDER BY o.id), '[]')
      FROM delivery_order x
      JOIN purchase_order o ON o.id = x.purchase_order_id
      WHERE x.delivery_id = d.id
    ) AS orders,
    d.supplier_doc, d.supplier_doc_date, p.name AS by, d.at, d.touched, d.receipt_id,
  (SELECT count(*) FROM delivery_entry e WHERE e.delivery_id = d.id AND e.taken_out_at IS NULL) AS entries
  FROM delivery d
  JOIN site w ON w.id = d.site_id
  LEFT JOIN supplier s ON s.id = d.supplier_id
  JOIN person p ON p.id = d.started_by`;

/** Deliveries of a site in these states, newest first. */
export async function selectDeliveries(db: Reads, site: number, states: readonly string[]): Promise<DeliveryRow[]> {
  return query<DeliveryRow>(db, `${DELIVERY} WHERE d.site_id = ? AND d.state = ANY(?::text[]) ORDER BY d.id DESC LIMIT 100`, [
    site,
    states,
  ]);
}

/** The delivery, refusing `receiving.unknownDelivery`. */
export async function findDelivery(db: Reads, id: number): Promise<DeliveryRow> {
  return (await query<DeliveryRow>(db, `${DELIVERY} WHERE d.id = ?`, [id]))[0] ?? refuse({ code: 'receiving.unknownDelivery', id });
}

/** Locks the delivery, so that scans into it and its posting take turns, and reads it as it is then.
 *  Errors: `receiving.unknownDelivery`; `people.otherSite` where it came to another site than `site`. */
export async function lockDelivery(trx: Trx, id: number, site: number): Promise<DeliveryRow> {
  await lockRows(trx, 'delivery', [id]);
  const delivery = await findDelivery(trx, id);
  if (delivery.site_id !== site) refuse({ code: 'people.otherSite', what: `Delivery ${delivery.number}`, site: delivery.site });
  return delivery;
}

export type DeliveryHead = Pick<DeliveryRow, 'id' | 'number' | 'state' | 'site_id' | 'site'> & {
  /** Whether it is of any order, or comes back of a shipment; else everything in it is as good as ordered. */
  of_paper: boolean;
  is_return: boolean;
  /** What is agreed with its supplier, in hundredths of a percent. */
  over: number;
  short: number;
  /** Today at its site, `YYYY-MM-DD`. */
  today: string;
};

/** The same for whoever scans: reads nothing that grows with the delivery. */
export async function lockDeliveryHead(trx: Trx, id: number, site: number): Promise<DeliveryHead> {
  await lockRows(trx, 'delivery', [id]);
  const [delivery] = await query<DeliveryHead>(
    trx,
    `SELECT d.id, d.number, d.state, d.site_id, w.name AS site, today_in(w.time_zone) AS today,
       d.shipment_id IS NOT NULL OR EXISTS (SELECT 1 FROM delivery_order x WHERE x.delivery_id = d.id) AS of_paper, d.is_return,
       (coalesce(s.over_percent, 0) * 100)::int AS over, (coalesce(s.short_percent, 0) * 100)::int AS short
     FROM delivery d JOIN site w ON w.id = d.site_id LEFT JOIN supplier s ON s.id = d.supplier_id WHERE d.id = ?`,
    [id],
  );
  if (!delivery) return refuse({ code: 'receiving.unknownDelivery', id });
  if (delivery.site_id !== site) refuse({ code: 'people.otherSite', what: `Delivery ${delivery.number}`, site: delivery.site });
  return delivery;
}

/** Begins a delivery, under the next number; of a supplier, or of nobody yet. */
export function insertDelivery(
  trx: Trx,
  begun: { site: number; supplier: number | null; person: number },
): Promise<{ id: number; number: string }> {
  return queryOne<{ id: number; number: string }>(
    trx,
    `INSERT INTO delivery (number, site_id, supplier_id, started_by)
     VALUES ('DL-' || nextval('number_dl'), ?, ?, ?)
     RETURNING id, number`,
    [begun.site, begun.supplier, begun.person],
  );
}

/** Says that a delivery is of these purchase orders too. */
export async function addDeliveryOrders(trx: Trx, delivery: number, orders: readonly number[]): Promise<void> {
  if (orders.length === 0) return;
  await query(trx, `INSERT INTO delivery_order (delivery_id, purchase_order_id) SELECT ?, * FROM unnest(?::int[]) ON CONFLICT DO NOTHING`, [
    delivery,
    orders,
  ]);
}

/** Says by which key a device knows a delivery. */
export async function addDeliveryKey(trx: Trx, delivery: number, key: string): Promise<void> {
  await query(trx, `INSERT INTO delivery_key (key, delivery_id) VALUES (?, ?) ON CONFLICT DO NOTHING`, [key, delivery]);
}

/** The delivery that a device means: by its number in the database, or by the key under which it was begun.
 *  Errors: `receiving.unknownDelivery`. */
export async function findDeliveryId(db: Reads, ref: number | string): Promise<number> {
  if (typeof ref === 'number') return ref;
  const [row] = await query<{ id: number }>(db, `SELECT delivery_id AS id FROM delivery_key WHERE key = ?`, [ref]);
  return row?.id ?? refuse({ code: 'receiving.unknownDelivery', id: 0 });
}

/** The open deliveries of purchase orders, each with the orders that it is of. */
export function selectOpenDeliveriesOf(
  db: Reads,
  orders: readonly number[],
): Promise<{ id: number; number: string; site: number; supplier: number | null; orders: number[] }[]> {
  return query(
    db,
    `SELECT d.id, d.number, d.site_id AS site, d.supplier_id AS supplier,
       (SELECT json_agg(x.purchase_order_id) FROM delivery_order x WHERE x.delivery_id = d.id) AS orders
     FROM delivery d
     WHERE d.id IN (SELECT delivery_id FROM delivery_order WHERE purchase_order_id = ANY(?::int[]) AND open)
     ORDER BY d.id`,
    [orders],
  );
}

/** Names the supplier's paper with which a delivery came, and its date. */
export async function updatePaper(trx: Trx, delivery: number, paper: { doc: string; date: string | null }): Promise<void> {
  await query(trx, `UPDATE delivery SET supplier_doc = ?, supplier_doc_date = ?, touched = now_here() WHERE id = ?`, [
    paper.doc,
    paper.date,
    delivery,
  ]);
}

/** Says which supplier a delivery is of. */
export async function updateSupplier(trx: Trx, delivery: number, supplier: number): Promise<void> {
  await query(trx, `UPDATE delivery SET supplier_id = ?, touched = now_here() WHERE id = ?`, [supplier, delivery]);
}

/** Notes who threw a delivery away, and when. */
export async function updateThrownBy(trx: Trx, delivery: number, person: number): Promise<void> {
  await query(trx, `UPDATE delivery SET thrown_at = now_here(), thrown_by = ? WHERE id = ?`, [person, delivery]);
}

/** Says where a delivery stands now. */
export async function updateDeliveryState(trx: Trx, delivery: number, state: DeliveryRow['state']): Promise<void> {
  await query(trx, `UPDATE delivery SET state = ?, touched = now_here() WHERE id = ?`, [state, delivery]);
}

/** Says that a delivery is posted, by which receipt, and on what paper of the supplier it came. */
export async function updatePosted(trx: Trx, delivery: number, by: { receipt: number; supplierDoc: string | null }): Promise<void> {
  await query(
    trx,
    `UPDATE delivery SET state = 'posted', receipt_id = ?, supplier_doc = coalesce(?, supplier_doc), touched = now_here() WHERE id = ?`,
    [by.receipt, by.supplierDoc, delivery],
  );
}

/** The delivery that takes up what came after another was posted: of the same supplier, in review; begun where none is open.
 *  Errors: `receiving.unknownDelivery`. */
export async function findFollowUp(trx: Trx, of: { delivery: number; person: number }): Promise<{ id: number; number: string }> {
  const [open] = await query<{ id: number; number: string }>(
    trx,
    `SELECT id, number FROM delivery WHERE follows = ? AND state IN ('scanning', 'review') ORDER BY id LIMIT 1`,
    [of.delivery],
  );
  if (open) return open;
  const [made] = await query<{ id: number; number: string }>(
    trx,
    `INSERT INTO delivery (number, site_id, supplier_id, started_by, state, follows, is_return, customer_id, shipment_id)
     SELECT CASE WHEN is_return THEN 'RT-' || nextval('number_rt') ELSE 'DL-' || nextval('number_dl') END, site_id, supplier_id, ?,
       'review', id, is_return, customer_id, CASE WHEN EXISTS (
         SELECT 1 FROM delivery other WHERE other.shipment_id = delivery.shipment_id AND other.state IN ('scanning', 'review')
       ) THEN NULL ELSE shipment_id END
     FROM delivery
     WHERE id = ?
     RETURNING id, number`,
    [of.person, of.delivery],
  );
  return made ?? refuse({ code: 'receiving.unknownDelivery', id: of.delivery });
}

/** By which keys devices know a delivery. */
export async function selectKeys(db: Reads, delivery: number): Promise<string[]> {
  return (await query<{ key: string }>(db, `SELECT key FROM delivery_key WHERE delivery_id = ? ORDER BY key`, [delivery])).map(
    (r) => r.key,
  );
}
