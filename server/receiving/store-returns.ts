import { query, queryOne, type Db, type Trx } from '#server/kernel';

type Reads = Pick<Db, 'raw'>;

/** Begins to take goods back, or joins the one in which somebody takes the same shipment back already.
 *  Shape:  `customer` is that of the shipment, where there is one. */
export async function insertReturn(
  trx: Trx,
  begun: { site: number; person: number; shipment: number | null; customer: number | null },
): Promise<{ id: number; number: string; joined: boolean }> {
  const [made] = await query<{ id: number; number: string }>(
    trx,
    `INSERT INTO delivery (number, site_id, started_by, is_return, customer_id, shipment_id)
     VALUES ('RT-' || nextval('number_rt'), ?, ?, true, coalesce((
       SELECT o.customer_id FROM shipment s JOIN customer_order o ON o.id = s.order_id WHERE s.id = ?), ?::int), ?)
     ON CONFLICT (shipment_id) WHERE state IN ('scanning', 'review') DO NOTHING
     RETURNING id, number`,
    [begun.site, begun.person, begun.shipment, begun.customer, begun.shipment],
  );
  if (made) return { ...made, joined: false };
  const open = await queryOne<{ id: number; number: string }>(
    trx,
    `SELECT id, number FROM delivery WHERE shipment_id = ? AND state IN ('scanning', 'review')`,
    [begun.shipment],
  );
  return { ...open, joined: true };
}

/** The shipments from a site that a number means: its own, or that of its order; the newest first. */
export function selectShipments(db: Reads, site: number, number: string): Promise<{ id: number; number: string }[]> {
  return query(
    db,
    `SELECT s.id, s.number
     FROM shipment s
     JOIN customer_order o ON o.id = s.order_id
     WHERE o.site_id = ? AND o.kind <> 'transfer' AND (upper(s.number) = upper(?) OR upper(o.number) = upper(?))
     ORDER BY s.id DESC`,
    [site, number, number],
  );
}

/** Whether a shipment left a site. */
export async function isShipmentOf(db: Reads, site: number, shipment: number): Promise<boolean> {
  const [found] = await query(
    db,
    `SELECT 1 FROM shipment s JOIN customer_order o ON o.id = s.order_id WHERE s.id = ? AND o.site_id = ? AND o.kind <> 'transfer'`,
    [shipment, site],
  );
  return found !== undefined;
}

/** The open return of the same shipment as a delivery, other than itself. */
export async function selectOtherReturn(db: Reads, delivery: number): Promise<string | null> {
  const [other] = await query<{ number: string }>(
    db,
    `SELECT o.number
     FROM delivery d
     JOIN delivery o ON o.shipment_id = d.shipment_id AND o.id <> d.id AND o.state IN ('scanning', 'review')
     WHERE d.id = ?`,
    [delivery],
  );
  return other?.number ?? null;
}

/** Says which customer brings goods back. */
export async function updateCustomer(trx: Trx, delivery: number, customer: number): Promise<void> {
  await query(trx, `UPDATE delivery SET customer_id = ?, touched = now_here() WHERE id = ?`, [customer, delivery]);
}

/** With which shipment each serial or lot of a return left last, by entry; entries of which none did are not in it. */
export async function selectLeftWith(db: Reads, delivery: number): Promise<ReadonlyMap<number, string>> {
  const rows = await query<{ entry: number; number: string }>(
    db,
    `SELECT e.id AS entry, (
       SELECT h.number
       FROM movement m
       JOIN shipment h ON h.document_id = m.document_id
       LEFT JOIN serial s ON s.id = m.serial_id
       LEFT JOIN lot l ON l.id = m.lot_id
       WHERE m.item_id = e.item_id AND s.code IS NOT DISTINCT FROM e.serial AND (e.lot IS NULL OR l.code = e.lot)
       ORDER BY h.id = d.shipment_id DESC, m.id DESC
       LIMIT 1) AS number
     FROM delivery_entry e
     JOIN delivery d ON d.id = e.delivery_id AND d.is_return
     WHERE e.delivery_id = ? AND e.taken_out_at IS NULL AND (e.serial IS NOT NULL OR e.lot IS NOT NULL)`,
    [delivery],
  );
  return new Map(rows.flatMap((r) => (r.number === null ? [] : [[r.entry, r.number] as const])));
}
