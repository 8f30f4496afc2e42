import { asQty, query, refuse, type Db } from '#server/kernel';
import { reckonReady } from '#core/orders';
import { qtyText } from '#contract/base';
import type { OrderRow } from '#contract/orders';

type Reads = Pick<Db, 'raw'>;
export type OrderListRow = {
  id: number;
  number: string;
  site_id: number;
  customer: string;
  due: string;
  priority: number;
  state: 'open' | 'shipped' | 'cancelled';
  held_for: string | null;
  note: string;
  at: Date;
  packed_at: Date | null;
  lines: number;
  pieces: string;
  line_states: { open: string; promised: string }[];
  picked: string;
  put_down: string;
  round: string | null;
};

const LISTED = `SELECT o.id, o.number, o.site_id, c.name AS customer, o.due, o.priority, o.state, o.held_for, o.note, o.at, o.packed_at,
  (SELECT count(*) FROM order_line l WHERE l.order_id = o.id) AS lines, (SELECT coalesce(sum(l.qty), 0) FROM order_line l WHERE l.order_id = o.id) AS pieces,
  coalesce((SELECT json_agg(json_build_object('open', (l.qty - l.shipped)::text, 'promised', coalesce(p.qty, 0)::text)) FROM order_line l LEFT JOIN promise p ON p.line_id = l.id WHERE l.order_id = o.id), '[]') AS line_states,
  (SELECT coalesce(sum(k.qty), 0) FROM picked k JOIN order_line l ON l.id = k.line_id WHERE l.order_id = o.id AND NOT k.shipped) AS picked,
  (SELECT coalesce(sum(k.qty), 0) FROM picked k JOIN order_line l ON l.id = k.line_id WHERE l.order_id = o.id AND NOT k.shipped AND k.put_down) AS put_down,
  (SELECT r.number FROM round_pick rp JOIN round r ON r.id = rp.round_id JOIN order_line l ON l.id = rp.line_id WHERE l.order_id = o.id AND r.state = 'open' AND rp.qty > 0 LIMIT 1) AS round
  FROM customer_order o JOIN customer c ON c.id = o.customer_id`;

/** Orders of a site, most urgent first, after a (due, id) place. */
export async function selectOrderRows(
  db: Reads,
  where: {
    site: number;
    states: readonly string[];
    q?: string | undefined;
    ids?: readonly number[];
    after?: (string | number)[] | null;
    limit: number;
  },
): Promise<OrderListRow[]> {
  const like = `%${(where.q ?? '').replace(/[\\%_]/g, (c) => `\\${c}`)}%`;
  return query<OrderListRow>(
    db,
    `${LISTED} WHERE o.site_id = ? AND o.state = ANY(?::text[]) AND (o.number ILIKE ? OR c.name ILIKE ?) AND (?::int[] IS NULL OR o.id = ANY(?::int[]))
     AND (o.due, o.id) > (?::date, ?) ORDER BY o.due, o.id LIMIT ?`,
    [
      where.site,
      where.states,
      like,
      like,
      where.ids ?? null,
      where.ids ?? null,
      where.after?.[0] ?? '0001-01-01',
      where.after?.[1] ?? 0,
      where.limit,
    ],
  );
}

/** The order by id or number, refusing `orders.unknownOrder`. Locks it where asked. */
export async function findOrder(db: Reads, idOrNumber: number | string, { lock = false } = {}): Promise<OrderListRow> {
  const byId = typeof idOrNumber === 'number';
  const where = byId ? 'o.id = ?' : 'o.number = upper(?)';
  const value = byId ? idOrNumber : idOrNumber.trim();
  if (lock) await query(db, `SELECT 1 FROM customer_order o WHERE ${where} FOR UPDATE`, [value]);
  return (
    (await query<OrderListRow>(db, `${LISTED} WHERE ${where}`, [value]))[0] ??
    refuse({ code: 'orders.unknownOrder', text: String(idOrNumber).slice(0, 60) })
  );
}

/** An order as the lists show it, with the step that it has come to. */
export function orderRow(o: OrderListRow): OrderRow {
  const ready = reckonReady(o.line_states.map((l) => ({ open: asQty(l.open), promised: asQty(l.promised) })));
  return {
    id: o.id,
    number: o.number,
    customer: o.customer,
    due: o.due,
    priority: o.priority,
    state: o.state,
    heldFor: o.held_for,
    lines: o.lines,
    pieces: qtyText(asQty(o.pieces)),
    ready,
    round: o.round,
    step: stepOf(o),
  };
}

function stepOf(o: OrderListRow): OrderRow['step'] {
  if (o.held_for !== null) return 'held';
  if (o.state === 'shipped') return 'shipped';
  if (o.round !== null) return 'onRound';
  if (asQty(o.put_down) > 0) return o.packed_at ? 'packed' : 'atBench';
  return o.line_states.some((l) => asQty(l.promised) > 0) ? 'promised' : 'new';
}
