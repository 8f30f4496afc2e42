import type { Qty } from '#core/base';
import { dbQty, query, type Db, type Trx } from '#server/kernel';

type Reads = Pick<Db, 'raw'>;
export type PartRow = { item: number; code: string; each: string };

/** Of what one kit is made. */
export function selectParts(db: Reads, kit: number): Promise<PartRow[]> {
  return query<PartRow>(
    db,
    `SELECT i.id AS item, i.code, k.qty AS each FROM kit_part k JOIN item i ON i.id = k.part_id WHERE k.kit_id = ? ORDER BY i.code`,
    [kit],
  );
}

export type KitLineRow = { order_id: number; number: string; item: number; due: string; priority: number; open: string; named: boolean };

/** A line of an order that may want kits: how many it wants that are neither promised nor being made for it. */
export async function selectKitLine(db: Reads, line: number): Promise<KitLineRow | undefined> {
  const rows = await query<KitLineRow>(
    db,
    `SELECT o.id AS order_id, o.number, l.item_id AS item, o.due, o.priority,
       a.lot_id IS NOT NULL OR a.serial_ids IS NOT NULL OR a.bin_id IS NOT NULL AS named,
       l.qty - l.shipped - coalesce((SELECT p.qty FROM promise p WHERE p.line_id = l.id), 0)
         - coalesce((SELECT sum(k.kit_qty - k.kit_made) FROM customer_order k WHERE k.kit_line = l.id AND k.state = 'open'), 0) AS open
     FROM order_line l
     JOIN line_asking a ON a.line_id = l.id
     JOIN customer_order o ON o.id = l.order_id
     WHERE l.id = ?`,
    [line],
  );
  return rows[0];
}

/** The orders that are open and make kits for lines of an order. */
export function selectMaking(db: Reads, order: number): Promise<{ id: number; number: string; line: number; left: string }[]> {
  return query(
    db,
    `SELECT k.id, k.number, k.kit_line AS line, k.kit_qty - k.kit_made AS left
     FROM customer_order k
     JOIN order_line l ON l.id = k.kit_line
     WHERE l.order_id = ? AND k.state = 'open'
     ORDER BY k.id`,
    [order],
  );
}

/** Writes an order whose goods become kits, without its lines. */
export async function insertKitOrder(
  trx: Trx,
  order: { site: number; kit: number; qty: Qty; line: number | null; due: string; priority: number },
): Promise<{ id: number; number: string }> {
  const [made] = await query<{ id: number; number: string }>(
    trx,
    `INSERT INTO customer_order (number, site_id, kind, kit_id, kit_qty, kit_line, due, priority)
     VALUES ('CO-' || nextval('number_co'), ?, 'kit', ?, ?, ?, ?, ?)
     RETURNING id, number`,
    [order.site, order.kit, dbQty(order.qty), order.line, order.due, order.priority],
  );
  if (!made) throw new Error('An insert answers its row.');
  return made;
}

export type KitOrderRow = {
  item: number;
  code: string;
  description: string;
  tracking: string;
  qty: string;
  made: string;
  line: number | null;
  for_id: number | null;
  for_number: string | null;
  for_state: string | null;
};

/** Which kits an order makes, and for whom; undefined for an order that makes none. */
export async function selectKitOrder(db: Reads, order: number): Promise<KitOrderRow | undefined> {
  const rows = await query<KitOrderRow>(
    db,
    `SELECT i.id AS item, i.code, i.description, i.tracking, o.kit_qty AS qty, o.kit_made AS made, o.kit_line AS line,
       x.id AS for_id, x.number AS for_number, x.state AS for_state
     FROM customer_order o
     JOIN item i ON i.id = o.kit_id
     LEFT JOIN order_line l ON l.id = o.kit_line
     LEFT JOIN customer_order x ON x.id = l.order_id
     WHERE o.id = ?`,
    [order],
  );
  return rows[0];
}

export type KitPartRow = { line: number; item: number; code: string; qty: string; shipped: string; in_hand: string };

/** The parts of an order that makes kits: how much of each it wants for all of them, how much went into kits, and what is in hand. */
export function selectKitParts(db: Reads, order: number): Promise<KitPartRow[]> {
  return query<KitPartRow>(
    db,
    `SELECT l.id AS line, i.id AS item, i.code, l.qty, l.shipped,
       coalesce((SELECT sum(k.qty) FROM in_hand k WHERE k.line_id = l.id), 0) AS in_hand
     FROM order_line l
     JOIN item i ON i.id = l.item_id
     WHERE l.order_id = ? AND l.qty > 0
     ORDER BY l.id`,
    [order],
  );
}

/** When kits of an order were made, the newest first. */
export function selectAssemblies(
  db: Reads,
  order: number,
): Promise<{ id: number; number: string; qty: string; at: Date; person: string; document: number; apart: boolean }[]> {
  return query(
    db,
    `SELECT a.id, a.number, a.qty, a.at, p.name AS person, a.document_id AS document, a.apart_at IS NOT NULL AS apart
     FROM assembly a
     JOIN person p ON p.id = a.person_id
     WHERE a.order_id = ?
     ORDER BY a.id DESC`,
    [order],
  );
}
